#pragma once
#include <array>
#include <cmath>
#include <numbers>

#include "dardo/geometry/sector.hpp"
#include "geometry/detail/elementary.hpp"

namespace dardo::detail {

/// A range of angles, at most a whole turn wide; a direction is told by its cosine and sine.
class AngleRange {
 public:
  AngleRange() = default;
  explicit AngleRange(const std::array<double, 2>& range)
      : width_(range[1] - range[0]), from_(sine_cosine(range[0])), to_(sine_cosine(range[1])) {}

  /// The direction within the range along which (x, y) is farthest.
  SineCosine farthest(double x, double y) const {
    const double from_it = from_.cosine * y - from_.sine * x, to_it = x * to_.sine - y * to_.cosine;
    const bool within =
        width_ > std::numbers::pi ? from_it >= 0 || to_it >= 0 : width_ > 0 && from_it >= 0 && to_it >= 0;
    if (const double size = std::sqrt(x * x + y * y); within && size > 0) return {y / size, x / size};
    return along(from_, x, y) >= along(to_, x, y) ? from_ : to_;
  }
  static double along(const SineCosine& d, double x, double y) { return x * d.cosine + y * d.sine; }

 private:
  double width_ = 0;
  SineCosine from_{0, 1}, to_{0, 1};
};

/// A part of a sector between two angles about its upright (with a band), or between two angles from its axis
/// and two around it (without), as its farthest points see it: its convex hull.
struct SectorPart {
  Vec3 apex;
  Rotation frame;  ///< x: the sector's axis; z: its up
  double near = 0, far = 0;
  bool upright = false;
  Band band;
  AngleRange about;   ///< about z, from x (upright); else from x
  AngleRange around;  ///< not upright: around x, from y to z

  Vec3 farthest(const Vec3& d) const {
    const Vec3 l = into(frame, d);
    if (upright) {
      const SineCosine a = about.farthest(l.x, l.y);
      const double radius = AngleRange::along(a, l.x, l.y) >= 0 ? far : near;
      return apex + (frame.x * a.cosine + frame.y * a.sine) * radius +
             frame.z * (l.z >= 0 ? band.high : band.low);
    }
    // Along any circle around the axis the best place is the same; then the best along the half circle there.
    const SineCosine c = around.farthest(l.y, l.z);
    const double across = AngleRange::along(c, l.y, l.z);
    const SineCosine a = about.farthest(l.x, across);
    const double radius = AngleRange::along(a, l.x, across) >= 0 ? far : near;
    return apex + (frame.x * a.cosine + (frame.y * c.cosine + frame.z * c.sine) * a.sine) * radius;
  }
};

}  // namespace dardo::detail
