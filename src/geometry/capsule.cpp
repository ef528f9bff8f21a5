#include "dardo/geometry/capsule.hpp"

#include <algorithm>

#include "dardo/geometry/ball.hpp"
#include "geometry/detail/kernels.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo {
namespace {

Vec3 axis_point(const Capsule& shape, double parameter) {
  return shape.from + (shape.to - shape.from) * parameter;
}

Vec3 nearest_on_axis(const Capsule& shape, const Vec3& place) {
  return axis_point(shape, detail::nearest_parameter({shape.from, shape.to}, place));
}

/// Where the line enters the round side (without its ends), as a parameter along the ray.
std::optional<double> enters_side(const Capsule& shape, const Ray& ray, double slack) {
  const Vec3 axis = shape.to - shape.from;
  const double size = length(axis);
  if (!(size > 0)) return std::nullopt;
  const Vec3 along = axis / size;
  const double lean = dot(ray.direction, along);
  const Vec3 across = ray.direction - along * lean;
  const double across2 = dot(across, across);
  if (across2 < 1e-24) return std::nullopt;  // parallel to the axis: only an end can be met first
  const Vec3 offset = ray.from - shape.from;
  const Vec3 flat_offset = offset - along * dot(offset, along);
  const double across_length = std::sqrt(across2);
  // In the plane across the axis the side is a circle, met by a line of unit direction.
  const auto enters = detail::line_enters_ball(flat_offset, across / across_length, shape.radius, slack);
  if (!enters) return std::nullopt;
  const double t = *enters / across_length;
  const double height = dot(offset, along) + lean * t;
  if (height < 0 || height > size) return std::nullopt;
  return t;
}

}  // namespace

std::optional<Contact> ray(const Capsule& shape, const Ray& ray) {
  const Vec3 start = nearest_on_axis(shape, ray.from);
  const double away = length(ray.from - start);
  const double scale =
      std::max({largest(ray.from), largest(shape.from), largest(shape.to), shape.radius, away});
  const double slack = detail::slack(scale);
  if (away <= shape.radius + slack) return Contact{0, ray.from, -ray.direction};
  // The capsule is the union of its side and two balls: it is entered where the first of them is.
  std::optional<double> first;
  const auto consider = [&](const std::optional<double>& t) {
    if (t && *t >= 0 && (!first || *t < *first)) first = t;
  };
  consider(enters_side(shape, ray, slack));
  consider(detail::line_enters_ball(ray.from - shape.from, ray.direction, shape.radius, slack));
  consider(detail::line_enters_ball(ray.from - shape.to, ray.direction, shape.radius, slack));
  if (!first || *first > ray.length + slack) return std::nullopt;
  const double t = std::min(*first, ray.length);
  const Vec3 point = ray.at(t);
  const Vec3 outward = point - nearest_on_axis(shape, point);
  const double size = length(outward);
  return Contact{t, point, size > 0 ? outward / size : -ray.direction};
}

Nearest nearest(const Capsule& shape, const Vec3& place) {
  return nearest(Ball{nearest_on_axis(shape, place), shape.radius}, place);
}

double distance(const Capsule& shape, const Segment& segment) {
  return std::max(0.0, detail::segments_apart({shape.from, shape.to}, segment).distance - shape.radius);
}

Bounds bounds(const Capsule& shape) {
  Bounds b{shape.from, shape.from};
  b.add(shape.to);
  return b.grown(shape.radius);
}

Capsule placed(const Capsule& shape, const Pose& pose) {
  return {pose * shape.from, pose * shape.to, shape.radius};
}
Vec3 center(const Capsule& shape) { return axis_point(shape, 0.5); }

}  // namespace dardo
