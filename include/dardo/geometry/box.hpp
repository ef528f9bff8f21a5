#pragma once
#include <optional>

#include "dardo/geometry/bounds.hpp"
#include "dardo/geometry/ray.hpp"
#include "dardo/geometry/rotation.hpp"

namespace dardo {

/// An oriented box: `half` holds half its extent along each of its own axes; a half extent of 0 makes it
/// flat.
struct Box {
  Vec3 center;
  Vec3 half;
  Rotation turn;

  friend bool operator==(const Box&, const Box&) = default;
};

/// First contact of `ray` with the solid shape, or nothing. Closed: grazing it, or ending on it, is contact.
std::optional<Contact> ray(const Box& shape, const Ray& ray);
/// Nearest point of the solid shape to `place`.
Nearest nearest(const Box& shape, const Vec3& place);
/// Distance between the solid shape and a segment; 0 when they touch.
double distance(const Box& shape, const Segment& segment);
/// Tight axis-aligned bounds.
Bounds bounds(const Box& shape);
/// The shape carried from its body's frame into the world.
Box placed(const Box& shape, const Pose& pose);
/// The middle of the shape.
Vec3 center(const Box& shape);

}  // namespace dardo
