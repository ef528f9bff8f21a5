#pragma once
#include "dardo/geometry/vec.hpp"

namespace dardo {

/// A straight line of finite length from `from` along `direction`, which must be one metre long.
struct Ray {
  Vec3 from;
  Vec3 direction{1, 0, 0};
  double length = 0;

  [[gnu::always_inline]] constexpr Vec3 at(double distance) const { return from + direction * distance; }
};

/// The straight line between two points; they may coincide.
struct Segment {
  Vec3 from, to;
};

/// Where a ray first touches a shape. A ray that starts inside touches at distance 0, with the normal turned
/// against its direction.
struct Contact {
  double distance = 0;  ///< travel along the ray, metres
  Vec3 point;
  Vec3 normal;  ///< of the surface, outward, one metre long

  friend bool operator==(const Contact&, const Contact&) = default;
};

/// The nearest point of a shape to a place, and how far it is; distance 0 when the place is inside.
struct Nearest {
  double distance = 0;
  Vec3 point;
};

}  // namespace dardo
