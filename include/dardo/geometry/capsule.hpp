#pragma once
#include <optional>

#include "dardo/geometry/bounds.hpp"
#include "dardo/geometry/ray.hpp"
#include "dardo/geometry/rotation.hpp"

namespace dardo {

/// All points within `radius` of the segment from `from` to `to`; the two may coincide.
struct Capsule {
  Vec3 from, to;
  double radius = 0;

  friend bool operator==(const Capsule&, const Capsule&) = default;
};

/// First contact of `ray` with the solid shape, or nothing. Closed: grazing it, or ending on it, is contact.
std::optional<Contact> ray(const Capsule& shape, const Ray& ray);
/// Nearest point of the solid shape to `place`.
Nearest nearest(const Capsule& shape, const Vec3& place);
/// Distance between the solid shape and a segment; 0 when they touch.
double distance(const Capsule& shape, const Segment& segment);
/// Tight axis-aligned bounds.
Bounds bounds(const Capsule& shape);
/// The shape carried from its body's frame into the world.
Capsule placed(const Capsule& shape, const Pose& pose);
/// The middle of the shape.
Vec3 center(const Capsule& shape);

}  // namespace dardo
