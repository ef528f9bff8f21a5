#pragma once
#include <span>

#include "dardo/geometry/sector.hpp"

// The shapes of the plane z = 0. They are those of space with nothing above or below the plane, so that any
// query between them is exactly plane geometry.
namespace dardo::planar {

/// A place of the plane.
struct Vec2 {
  double x = 0, y = 0;

  friend bool operator==(const Vec2&, const Vec2&) = default;
};

Ball disc(const Vec2& center, double radius);
Capsule capsule(const Vec2& from, const Vec2& to, double radius);
/// `size` is the whole extent; turned anticlockwise, radians.
Box rectangle(const Vec2& center, const Vec2& size, double turn = 0);
/// Convex only; a concave one is refused with the corner that is to blame.
Result<Hull> polygon(std::span<const Vec2> corners);
/// `facing` is the middle direction, `angle` the full opening; radians.
Sector sector(const Vec2& apex, double facing, double angle, double near, double far);
Sector ring(const Vec2& center, double near, double far);

}  // namespace dardo::planar
