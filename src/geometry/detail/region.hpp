#pragma once
#include <span>
#include <variant>
#include <vector>

#include "dardo/geometry/half_space.hpp"
#include "dardo/geometry/sector.hpp"

// What an area may cover, and how much of a shape that is.
namespace dardo::detail {

/// The upright prism over a convex polygon, with the planes that bound it.
struct UprightPrism {
  Hull hull;                     ///< its first half are the corners of the polygon, in order
  std::vector<HalfSpace> sides;  ///< normals outward
  double low = 0, high = 0;
};
using Region = std::variant<Shape, Sector, UprightPrism, HalfSpace>;

inline double height_over(const HalfSpace& space, const Vec3& place) {
  return dot(place - space.point, space.normal);
}

/// How far a place is from it; 0 inside.
double distance(const Region& region, const Vec3& place);
/// How far a shape is from it; 0 exactly when they touch.
double distance(const Region& region, const Shape& shape);
/// How far a place within is from the border, at the least; 0 outside.
double depth(const Region& region, const Vec3& place);
/// The nearest places of a shape and a sector. More than `beyond` is told as soon as that is sure: then the
/// distance is more than `beyond` and no more than the true one, and the places mean nothing.
Closest closest_within(const Shape& shape, const Sector& sector, double beyond);
/// So far a shape and a sector may move, turn or grow at least, as far as any of their places does, before
/// they are apart; 0 when that is not so easily said. By places of the shape: one within the far side and one
/// beyond the near side, where all between them lies within the other sides.
double hold_of(const Sector& sector, const Shape& shape);
/// Whether a shape comes so near to it: the same as by its distance, sooner told, and of a capsule and a
/// sector more exactly.
bool comes_within(const Region& region, const Shape& shape, double within);
/// Whether all of the shape lies within; touching the border from inside counts, but for that of an opening
/// of more than half a turn. Of what bounds it each side is a convex function, whose largest value over a
/// convex shape is found at its corners and rims, there by golden section to 1e-12 of the rim. `scale`: of
/// the coordinates that the two were taken from, where those were larger.
bool covers(const Region& region, const Shape& shape, double scale = 0);
Bounds bounds(const Region& region, const Pose& pose);
UprightPrism upright_prism(std::span<const Vec3> polygon, double low, double high);

/// So many places of a shape are looked at, if no more than twenty times as many of its box have to be tried.
inline constexpr int kVolumePoints = 600, kSightPoints = 128;
/// How far a share that is counted with so many places may be off: measured on 4,000 random cuts of all
/// kinds of shapes, with room (the most was 0.81 of this).
inline double count_known(int places) { return places > 0 ? 0.9 / std::sqrt(places) : 1; }
/// The places are Roberts' R3 sequence, of a plane R2 (The Unreasonable Effectiveness of Quasirandom
/// Sequences, 2018), in the smallest box along the shape's own axes, in one fixed order that fills it evenly.
struct VolumeBox {
  Pose frame;
  Vec3 half;
  bool flat = false;
  double volume() const { return flat ? 4 * half.x * half.y : 8 * half.x * half.y * half.z; }
};
/// `flat`: of what of it lies in the plane z = 0, where it stands upright; its area then is its volume.
VolumeBox volume_box(const Shape& shape, bool flat);
Vec3 point_of(const VolumeBox& box, int number);
/// How many places were looked at, and how much volume each stands for.
struct Counted {
  int places = 0;
  double volume_each = 0;
};
/// Calls `visit(place)` for up to `wanted` places that lie in the shape.
template <class Visit>
Counted each_volume_point(const Shape& shape, int wanted, bool flat, Visit&& visit) {
  const VolumeBox box = volume_box(shape, flat);
  if (!(box.volume() > 0)) return {};
  int found = 0, tried = 0;
  for (; found < wanted && tried < 20 * wanted; ++tried) {
    const Vec3 place = point_of(box, tried);
    if (std::holds_alternative<Box>(shape) || nearest(shape, place).distance == 0) visit(place), ++found;
  }
  return {found, box.volume() / tried};
}

/// A share of a volume that was counted, and how far it may be off.
struct CountedShare {
  double share = 0, error = 0;
};
/// How much of the volume of shapes, each counted by itself, lies in a region, when a pose carries them
/// there; nothing when they have none. What lies in a half-space: as `share_in` says; else by `kVolumePoints`
/// places of each.
class ShareWithin {
 public:
  /// Both must outlive it. `scale` is that of `covers`.
  ShareWithin(const Region& region, const Pose& pose, bool flat, double scale = 0)
      : region_(region), pose_(pose), flat_(flat), scale_(scale) {}
  void add(const Shape& shape);
  std::optional<CountedShare> share() const;

 private:
  const Region& region_;
  const Pose& pose_;
  bool flat_;
  double scale_;
  double all_ = 0, inside_ = 0, error_ = 0;
};

}  // namespace dardo::detail
