#pragma once
#include <optional>

#include "dardo/geometry/bounds.hpp"
#include "dardo/geometry/ray.hpp"
#include "dardo/geometry/rotation.hpp"

namespace dardo {

/// A solid cylinder with flat ends around the segment from `from` to `to`. `check` refuses a length of 0,
/// which has no direction.
struct Cylinder {
  Vec3 from, to;
  double radius = 0;

  friend bool operator==(const Cylinder&, const Cylinder&) = default;
};

/// First contact of `ray` with the solid shape, or nothing. Closed: grazing it, or ending on it, is contact.
std::optional<Contact> ray(const Cylinder& shape, const Ray& ray);
/// Nearest point of the solid shape to `place`.
Nearest nearest(const Cylinder& shape, const Vec3& place);
/// Distance between the solid shape and a segment; 0 when they touch.
double distance(const Cylinder& shape, const Segment& segment);
/// Tight axis-aligned bounds.
Bounds bounds(const Cylinder& shape);
/// The shape carried from its body's frame into the world.
Cylinder placed(const Cylinder& shape, const Pose& pose);
/// The middle of the shape.
Vec3 center(const Cylinder& shape);

}  // namespace dardo
