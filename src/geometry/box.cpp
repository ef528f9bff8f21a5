#include "dardo/geometry/box.hpp"

#include <algorithm>
#include <array>
#include <utility>

#include "geometry/detail/kernels.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo {
namespace {

/// The part of a line that lies in the box of half extents `half` around the origin, grown by `slack`.
struct Span {
  double enter, leave;
  int axis;        ///< the one whose face is entered last
  double outward;  ///< the sign of that face
};

std::optional<Span> clip(const Vec3& from, const Vec3& direction, double length, const Vec3& half,
                         double slack) {
  const std::array<double, 3> p{from.x, from.y, from.z}, d{direction.x, direction.y, direction.z},
      h{half.x + slack, half.y + slack, half.z + slack};
  Span span{0, length, -1, 0};
  for (int i = 0; i < 3; ++i) {
    const auto k = static_cast<std::size_t>(i);
    if (d[k] == 0) {
      if (std::fabs(p[k]) > h[k]) return std::nullopt;
      continue;
    }
    const double sign = d[k] > 0 ? 1 : -1;
    const double enter = (-sign * h[k] - p[k]) / d[k], leave = (sign * h[k] - p[k]) / d[k];
    if (enter > span.enter) span.enter = enter, span.axis = i, span.outward = -sign;
    span.leave = std::min(span.leave, leave);
  }
  if (span.enter > span.leave) return std::nullopt;
  if (span.axis >= 0) {
    // The slack decides whether there is contact; where it is, the box itself says.
    const auto k = static_cast<std::size_t>(span.axis);
    span.enter = std::clamp((span.outward * (h[k] - slack) - p[k]) / d[k], 0.0, length);
  }
  return span;
}

double scale_of(const Box& shape, const Vec3& place) {
  return std::max({largest(shape.center), largest(shape.half), largest(place)});
}

Vec3 local(const Box& shape, const Vec3& place) { return into(shape.turn, place - shape.center); }

}  // namespace

std::optional<Contact> ray(const Box& shape, const Ray& ray) {
  const Vec3 from = local(shape, ray.from), direction = into(shape.turn, ray.direction);
  const double slack = detail::slack(scale_of(shape, ray.from));
  const auto span = clip(from, direction, ray.length, shape.half, slack);
  if (!span) return std::nullopt;
  if (span->axis < 0) return Contact{0, ray.from, -ray.direction};
  const Vec3 axis = span->axis == 0 ? shape.turn.x : span->axis == 1 ? shape.turn.y : shape.turn.z;
  return Contact{span->enter, ray.at(span->enter), axis * span->outward};
}

Nearest nearest(const Box& shape, const Vec3& place) {
  const Vec3 p = local(shape, place), h = shape.half;
  const Vec3 inside{std::clamp(p.x, -h.x, h.x), std::clamp(p.y, -h.y, h.y), std::clamp(p.z, -h.z, h.z)};
  if (inside == p) return {0, place};
  return {length(p - inside), shape.center + shape.turn * inside};
}

double distance(const Box& shape, const Segment& segment) {
  return detail::segment_box_distance({local(shape, segment.from), local(shape, segment.to)}, shape.half);
}

Bounds bounds(const Box& shape) {
  const Vec3 reach =
      abs(shape.turn.x) * shape.half.x + abs(shape.turn.y) * shape.half.y + abs(shape.turn.z) * shape.half.z;
  return {shape.center - reach, shape.center + reach};
}

Box placed(const Box& shape, const Pose& pose) {
  return {pose * shape.center, shape.half, pose.turn * shape.turn};
}
Vec3 center(const Box& shape) { return shape.center; }

bool touches(const Box& shape, const Segment& segment) {
  Vec3 a = segment.from, b = segment.to;
  const auto key = [](const Vec3& v) { return std::array<double, 3>{v.x, v.y, v.z}; };
  if (key(b) < key(a)) std::swap(a, b);
  const double slack = detail::slack(scale_of(shape, a), largest(b));
  return clip(local(shape, a), into(shape.turn, b - a), 1, shape.half, slack).has_value();
}

}  // namespace dardo
