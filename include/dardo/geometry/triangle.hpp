#pragma once
#include <optional>

#include "dardo/geometry/bounds.hpp"
#include "dardo/geometry/ray.hpp"
#include "dardo/geometry/rotation.hpp"

namespace dardo {

/// A flat triangle with both sides, its edges included. It has no inside. `check` refuses corners on a line.
struct Triangle {
  Vec3 a, b, c;

  friend bool operator==(const Triangle&, const Triangle&) = default;
};

/// First contact of `ray`, its normal turned against the ray (Möller and Trumbore, 1997; edge on, as of two
/// convex shapes). Closed: grazing an edge, or ending on it, is contact.
std::optional<Contact> ray(const Triangle& shape, const Ray& ray);
/// Nearest point of the triangle to `place` (Ericson, Real-Time Collision Detection, 2005, 5.1.5).
Nearest nearest(const Triangle& shape, const Vec3& place);
/// Distance between the triangle and a segment; 0 when they touch.
double distance(const Triangle& shape, const Segment& segment);
/// Tight axis-aligned bounds.
Bounds bounds(const Triangle& shape);
/// The shape carried from its body's frame into the world.
Triangle placed(const Triangle& shape, const Pose& pose);
/// The middle of its bounds.
Vec3 center(const Triangle& shape);

}  // namespace dardo
