#pragma once
#include <optional>

#include "dardo/geometry/bounds.hpp"
#include "dardo/geometry/ray.hpp"
#include "dardo/geometry/rotation.hpp"

namespace dardo {

/// All points within `radius` of `center`. A radius of 0 is a point.
struct Ball {
  Vec3 center;
  double radius = 0;

  friend bool operator==(const Ball&, const Ball&) = default;
};

/// First contact of `ray` with the solid shape, or nothing. Closed: grazing it, or ending on it, is contact.
std::optional<Contact> ray(const Ball& shape, const Ray& ray);
/// Nearest point of the solid shape to `place`.
Nearest nearest(const Ball& shape, const Vec3& place);
/// Distance between the solid shape and a segment; 0 when they touch.
double distance(const Ball& shape, const Segment& segment);
/// Tight axis-aligned bounds.
Bounds bounds(const Ball& shape);
/// The shape carried from its body's frame into the world.
Ball placed(const Ball& shape, const Pose& pose);
/// The middle of the shape.
Vec3 center(const Ball& shape);

}  // namespace dardo
