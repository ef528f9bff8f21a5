#include "dardo/geometry/ball.hpp"

#include <algorithm>

#include "geometry/detail/kernels.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo {

std::optional<Contact> ray(const Ball& shape, const Ray& ray) {
  const Vec3 offset = ray.from - shape.center;
  const double slack = detail::slack(std::max(largest(ray.from), largest(shape.center)),
                                     std::max(length(offset), shape.radius));
  if (length(offset) <= shape.radius + slack) return Contact{0, ray.from, -ray.direction};
  const auto enters = detail::line_enters_ball(offset, ray.direction, shape.radius, slack);
  if (!enters || *enters < 0 || *enters > ray.length + slack) return std::nullopt;
  const double t = std::min(*enters, ray.length);
  const Vec3 outward = offset + ray.direction * t;
  const double size = length(outward);
  return Contact{t, ray.at(t), size > 0 ? outward / size : -ray.direction};
}

Nearest nearest(const Ball& shape, const Vec3& place) {
  const Vec3 out = place - shape.center;
  const double away = length(out);
  if (away <= shape.radius) return {0, place};
  return {away - shape.radius, shape.center + out * (shape.radius / away)};
}

double distance(const Ball& shape, const Segment& segment) {
  const double t = detail::nearest_parameter(segment, shape.center);
  const Vec3 place = segment.from + (segment.to - segment.from) * t;
  return std::max(0.0, length(place - shape.center) - shape.radius);
}

Bounds bounds(const Ball& shape) { return Bounds{shape.center, shape.center}.grown(shape.radius); }
Ball placed(const Ball& shape, const Pose& pose) { return {pose * shape.center, shape.radius}; }
Vec3 center(const Ball& shape) { return shape.center; }

}  // namespace dardo
