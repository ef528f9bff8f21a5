#include "dardo/geometry/cylinder.hpp"

#include <algorithm>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/round.hpp"

namespace dardo {

std::optional<Contact> ray(const Cylinder& shape, const Ray& ray) {
  const Vec3 along = shape.to - shape.from;
  return detail::ray_to_round(shape, {shape.from, normalized(along), length(along), shape.radius, 0}, ray);
}

Nearest nearest(const Cylinder& shape, const Vec3& place) {
  const Vec3 axis = normalized(shape.to - shape.from), out = place - shape.from;
  const double height = dot(out, axis), size = length(shape.to - shape.from);
  const Vec3 flat = out - axis * height;
  const double away = length(flat);
  if (height >= 0 && height <= size && away <= shape.radius) return {0, place};
  const Vec3 side = away > shape.radius ? flat * (shape.radius / away) : flat;
  const Vec3 point = shape.from + axis * std::clamp(height, 0.0, size) + side;
  return {length(place - point), point};
}

double distance(const Cylinder& shape, const Segment& segment) {
  return detail::nearest_points(detail::Convex(shape), detail::Convex(segment)).distance;
}

Bounds bounds(const Cylinder& shape) {
  const Vec3 axis = normalized(shape.to - shape.from);
  const auto reach = [&](double a) { return shape.radius * std::sqrt(std::max(0.0, 1 - a * a)); };
  Bounds b{shape.from, shape.from};
  b.add(shape.to);
  const Vec3 out{reach(axis.x), reach(axis.y), reach(axis.z)};
  return {b.low - out, b.high + out};
}

Cylinder placed(const Cylinder& shape, const Pose& pose) {
  return {pose * shape.from, pose * shape.to, shape.radius};
}
Vec3 center(const Cylinder& shape) { return (shape.from + shape.to) * 0.5; }

}  // namespace dardo
