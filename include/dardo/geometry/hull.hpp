#pragma once
#include <optional>
#include <span>
#include <vector>

#include "dardo/geometry/bounds.hpp"
#include "dardo/geometry/ray.hpp"
#include "dardo/geometry/rotation.hpp"
#include "dardo/problem.hpp"

namespace dardo {

/// The convex hull of points; all in a plane, on a line or in one place is allowed.
struct Hull {
  std::vector<Vec3> points;  ///< at least one

  friend bool operator==(const Hull&, const Hull&) = default;
};

/// The prism over a convex polygon in the x-y plane (the z of its corners is ignored), from `low` to `high`.
/// Corners may go round either way, and may lie on a line with their neighbours. A polygon that is not convex
/// is refused, with the corner that is to blame: a hitbox of such a shape takes several prisms.
Result<Hull> prism(std::span<const Vec3> polygon, double low, double high);

/// First contact of `ray` with the solid shape, or nothing. Closed: grazing it, or ending on it, is contact.
std::optional<Contact> ray(const Hull& shape, const Ray& ray);
/// Nearest point of the solid shape to `place`.
Nearest nearest(const Hull& shape, const Vec3& place);
/// Distance between the solid shape and a segment; 0 when they touch.
double distance(const Hull& shape, const Segment& segment);
/// Tight axis-aligned bounds.
Bounds bounds(const Hull& shape);
/// The shape carried from its body's frame into the world.
Hull placed(const Hull& shape, const Pose& pose);
/// The middle of the shape.
Vec3 center(const Hull& shape);

}  // namespace dardo
