#pragma once
#include <optional>

#include "dardo/geometry/shape.hpp"

namespace dardo {

/// Everything below a plane: the ground, the water. `normal` is one metre long and points out of it.
struct HalfSpace {
  Vec3 point;
  Vec3 normal{0, 0, 1};
};

/// How far a shape stands above the plane, and the nearest points; 0 when it touches or reaches below.
Closest closest(const Shape& shape, const HalfSpace& space);
bool overlaps(const Shape& shape, const HalfSpace& space);
/// First contact of a shape that moves by `travel` without turning; as `sweep` of two shapes. Exact but for
/// rounding.
std::optional<Contact> sweep(const Shape& moving, const Vec3& travel, const HalfSpace& space);

}  // namespace dardo
