#pragma once
#include <optional>

#include "dardo/geometry/bounds.hpp"
#include "dardo/geometry/ray.hpp"
#include "dardo/geometry/rotation.hpp"

namespace dardo {

/// A solid cone from its apex to the disc of `radius` around `base`, at a right angle to the axis. `check`
/// refuses a length of 0.
struct Cone {
  Vec3 apex, base;
  double radius = 0;

  friend bool operator==(const Cone&, const Cone&) = default;
};

/// First contact of `ray` with the solid shape, or nothing. Closed: grazing it, or ending on it, is contact.
std::optional<Contact> ray(const Cone& shape, const Ray& ray);
/// Nearest point of the solid shape to `place`.
Nearest nearest(const Cone& shape, const Vec3& place);
/// Distance between the solid shape and a segment; 0 when they touch.
double distance(const Cone& shape, const Segment& segment);
/// Tight axis-aligned bounds.
Bounds bounds(const Cone& shape);
/// The shape carried from its body's frame into the world.
Cone placed(const Cone& shape, const Pose& pose);
/// The middle of the shape.
Vec3 center(const Cone& shape);

}  // namespace dardo
