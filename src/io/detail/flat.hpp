#pragma once
#include <algorithm>
#include <variant>
#include <vector>

#include "dardo/attack/rows.hpp"

// What flat scenes say, and the upright solids around the plane z = 0 that it means.
namespace dardo::io::detail {

/// How the places of a scene are written.
struct Plane {
  bool flat = false;  ///< by two numbers
  bool y_down = false;

  double y(double v) const { return y_down ? -v : v; }
  /// Angles that turn to either side are counted as facings are; openings have no side.
  double turn(double v, const Range& range) const {
    return range.unit == Unit::angle && range.least < 0 ? y(v) : v;
  }
};

/// Hitboxes and walls stand so far to both sides of the plane; areas farther than anything round does.
inline constexpr double kHalfHeight = 1, kHalfArea = 1000;

struct Disc {
  Vec3 at;
  double radius = 1;
};
struct Rectangle {
  Vec3 at;
  Vec3 half;
  Rotation turn;
};
struct Polygon {
  std::vector<planar::Vec2> corners;
};
using FlatShape = std::variant<Disc, Rectangle, Polygon, Capsule>;

struct DiscArea {
  double radius = 1;
};
struct FlatRingArea {
  double near = 0, far = 1;
};
struct FlatSectorArea {
  double angle = 1.5707963267948966, near = 0, far = 1;
};
struct RectangleArea {
  Vec3 half{1, 1, 1};
};
struct PolygonArea {
  std::vector<planar::Vec2> corners;
};
using FlatAreaShape = std::variant<DiscArea, FlatRingArea, FlatSectorArea, RectangleArea, CapsuleArea,
                                   PolygonArea, HalfSpaceArea>;

/// A polygon that is not convex has problems.
template <class V>
Result<V> solid(const FlatShape& shape) {
  if (const auto* d = std::get_if<Disc>(&shape)) {
    const Vec3 up{0, 0, kHalfHeight};
    return V(Cylinder{d->at - up, d->at + up, d->radius});
  }
  if (const auto* r = std::get_if<Rectangle>(&shape))
    return V(Box{r->at, {r->half.x, r->half.y, kHalfHeight}, r->turn});
  if (const auto* c = std::get_if<Capsule>(&shape)) {
    const Vec3 way = c->to - c->from;
    if (c->radius > 0 || !(length(way) > 0)) return V(*c);
    // A line of the plane stands upright as all else: a plate.
    const Vec3 x = normalized(way);
    return V(
        Box{(c->from + c->to) * 0.5, {0.5 * length(way), 0, kHalfHeight}, {x, {-x.y, x.x, 0}, {0, 0, 1}}});
  }
  std::vector<Vec3> corners;
  for (const planar::Vec2& c : std::get<Polygon>(shape).corners) corners.push_back({c.x, c.y, 0});
  auto hull = prism(corners, -kHalfHeight, kHalfHeight);
  if (!hull) return tl::unexpected(hull.error());
  return V(std::move(*hull));
}
inline AreaShape solid(const FlatAreaShape& shape) {
  if (const auto* d = std::get_if<DiscArea>(&shape)) return RingArea{0, d->radius, -kHalfArea, kHalfArea};
  if (const auto* r = std::get_if<FlatRingArea>(&shape))
    return RingArea{r->near, r->far, -kHalfArea, kHalfArea};
  if (const auto* s = std::get_if<FlatSectorArea>(&shape))
    return SectorArea{s->angle, s->near, s->far, -kHalfArea, kHalfArea};
  if (const auto* r = std::get_if<RectangleArea>(&shape)) return BoxArea{{r->half.x, r->half.y, kHalfArea}};
  if (const auto* c = std::get_if<CapsuleArea>(&shape)) return *c;
  if (const auto* p = std::get_if<PolygonArea>(&shape)) return PrismArea{p->corners, -kHalfArea, kHalfArea};
  return HalfSpaceArea{};
}

/// The other way round: what stands upright around the plane. Of others, what of them lies in it is lost.
template <class V>
FlatShape flat_of(const V& shape) {
  if (const auto* c = std::get_if<Cylinder>(&shape)) return Disc{(c->from + c->to) * 0.5, c->radius};
  if (const auto* b = std::get_if<Box>(&shape)) return Rectangle{b->center, b->half, b->turn};
  if (const auto* c = std::get_if<Capsule>(&shape)) return *c;
  if (const auto* b = std::get_if<Ball>(&shape)) return Disc{b->center, b->radius};
  Polygon out;
  if (const auto* h = std::get_if<Hull>(&shape)) {
    for (const Vec3& p : h->points) {
      if (p.z < 0) out.corners.push_back({p.x, p.y});
    }
  }
  return out;
}
inline FlatAreaShape flat_of(const AreaShape& shape) {
  if (const auto* r = std::get_if<RingArea>(&shape)) {
    if (r->near == 0) return DiscArea{r->far};
    return FlatRingArea{r->near, r->far};
  }
  if (const auto* s = std::get_if<SectorArea>(&shape)) return FlatSectorArea{s->angle, s->near, s->far};
  if (const auto* b = std::get_if<BoxArea>(&shape)) return RectangleArea{b->half};
  if (const auto* c = std::get_if<CapsuleArea>(&shape)) return *c;
  if (const auto* p = std::get_if<PrismArea>(&shape)) return PolygonArea{p->polygon};
  if (const auto* b = std::get_if<BallArea>(&shape)) return DiscArea{b->radius};
  return HalfSpaceArea{};
}

/// What a variant is in a flat scene, if it is another there.
template <class V>
struct FlatForm {};
template <>
struct FlatForm<Shape> {
  using type = FlatShape;
};
template <>
struct FlatForm<WallShape> {
  using type = FlatShape;
};
template <>
struct FlatForm<AreaShape> {
  using type = FlatAreaShape;
};
template <class V>
concept HasFlatForm = requires {
  typename FlatForm<V>::type;
};

}  // namespace dardo::io::detail

namespace dardo {

template <>
struct Rows<io::detail::Disc> {
  static constexpr auto all = std::tuple{
      needed(row("at", &io::detail::Disc::at, units::coordinate, "Its middle.")),
      needed(row("radius", &io::detail::Disc::radius, units::metres, "Its radius.")),
  };
};
template <>
struct Rows<io::detail::Rectangle> {
  static constexpr auto all = std::tuple{
      needed(row("at", &io::detail::Rectangle::at, units::coordinate, "Its middle.")),
      needed(row("size", &io::detail::Rectangle::half, units::half_extent,
                 "Its whole extent along its own two axes.")),
      row("turn", &io::detail::Rectangle::turn, units::any_turn, "How it is turned."),
  };
};
template <>
struct Rows<io::detail::Polygon> {
  static constexpr auto all = std::tuple{
      needed(row("corners", &io::detail::Polygon::corners, "Its corners in order, convex.")),
  };
};
template <>
struct Rows<io::detail::FlatShape> {
  static constexpr auto all = std::tuple{
      kind<io::detail::Disc>("disc", "In a flat scene: a disc."),
      kind<io::detail::Rectangle>("rectangle", "In a flat scene: a rectangle, turned as you like."),
      kind<io::detail::Polygon>("polygon", "In a flat scene: a convex polygon, by its corners in order."),
      kind<Capsule>("capsule", "All that is within a radius of a line."),
  };
};
template <>
struct Rows<io::detail::DiscArea> {
  static constexpr auto all = std::tuple{
      needed(row("radius", &io::detail::DiscArea::radius, units::metres, "Its radius.")),
  };
};
template <>
struct Rows<io::detail::FlatRingArea> {
  static constexpr auto all = std::tuple{
      row("near", &io::detail::FlatRingArea::near, units::metres, "Its inner edge."),
      needed(row("far", &io::detail::FlatRingArea::far, units::metres, "Its outer edge.")),
  };
};
template <>
struct Rows<io::detail::FlatSectorArea> {
  static constexpr auto all = std::tuple{
      needed(row("angle", &io::detail::FlatSectorArea::angle, units::whole_turn, "Its full opening.")),
      row("near", &io::detail::FlatSectorArea::near, units::metres, "Its inner edge."),
      needed(row("far", &io::detail::FlatSectorArea::far, units::metres, "Its outer edge.")),
  };
};
template <>
struct Rows<io::detail::RectangleArea> {
  static constexpr auto all = std::tuple{
      needed(row("size", &io::detail::RectangleArea::half, units::half_extent,
                 "Its whole extent, ahead and aside.")),
  };
};
template <>
struct Rows<io::detail::PolygonArea> {
  static constexpr auto all = std::tuple{
      needed(row("corners", &io::detail::PolygonArea::corners, "Its corners in order, convex.")),
  };
};
template <>
struct Rows<io::detail::FlatAreaShape> {
  static constexpr auto all = std::tuple{
      kind<io::detail::DiscArea>("disc", "In a flat scene: a disc around the middle."),
      kind<io::detail::FlatRingArea>("ring", "Between two distances from the middle."),
      kind<io::detail::FlatSectorArea>("sector", "A part of a ring."),
      kind<io::detail::RectangleArea>("rectangle", "In a flat scene: a rectangle around the middle."),
      kind<CapsuleArea>("capsule", "All that is within a radius of a line."),
      kind<io::detail::PolygonArea>("polygon", "In a flat scene: a convex polygon, by its corners in order."),
      kind<HalfSpaceArea>("half_space", "All that lies ahead of the middle."),
  };
};

}  // namespace dardo
