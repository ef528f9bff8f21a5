#include "dardo/geometry/cone.hpp"

#include <algorithm>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/kernels.hpp"
#include "geometry/detail/round.hpp"

namespace dardo {

std::optional<Contact> ray(const Cone& shape, const Ray& ray) {
  const double height = length(shape.base - shape.apex);
  return detail::ray_to_round(
      shape, {shape.apex, normalized(shape.base - shape.apex), height, 0, shape.radius / height}, ray);
}

Nearest nearest(const Cone& shape, const Vec3& place) {
  // In the half-plane through the axis and the place, the cone is a triangle: (0, 0), (size, 0), (size,
  // radius).
  const Vec3 axis = normalized(shape.base - shape.apex), out = place - shape.apex;
  const double height = dot(out, axis), size = length(shape.base - shape.apex);
  const Vec3 flat = out - axis * height;
  const double away = length(flat);
  if (height >= 0 && height <= size && away * size <= shape.radius * height) return {0, place};
  const Vec3 across = away > 0 ? flat / away : detail::any_perpendicular(axis);
  const auto at = [&](double h, double r) { return shape.apex + axis * h + across * r; };
  const Segment slope{at(0, 0), at(size, shape.radius)};
  const Vec3 on_slope = slope.from + (slope.to - slope.from) * detail::nearest_parameter(slope, place);
  const Vec3 on_base = at(size, std::min(away, shape.radius));
  const double to_slope = length(place - on_slope), to_base = length(place - on_base);
  return to_slope < to_base ? Nearest{to_slope, on_slope} : Nearest{to_base, on_base};
}

double distance(const Cone& shape, const Segment& segment) {
  return detail::nearest_points(detail::Convex(shape), detail::Convex(segment)).distance;
}

Bounds bounds(const Cone& shape) {
  const Vec3 axis = normalized(shape.base - shape.apex);
  const auto reach = [&](double a) { return shape.radius * std::sqrt(std::max(0.0, 1 - a * a)); };
  const Vec3 out{reach(axis.x), reach(axis.y), reach(axis.z)};
  Bounds b{shape.base - out, shape.base + out};
  b.add(shape.apex);
  return b;
}

Cone placed(const Cone& shape, const Pose& pose) {
  return {pose * shape.apex, pose * shape.base, shape.radius};
}
Vec3 center(const Cone& shape) { return (shape.apex + shape.base) * 0.5; }

}  // namespace dardo
