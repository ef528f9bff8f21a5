#include "dardo/geometry/triangle.hpp"

#include <algorithm>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/kernels.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo {

std::optional<Contact> ray(const Triangle& shape, const Ray& line) {
  const Vec3 ab = shape.b - shape.a, ac = shape.c - shape.a, across = cross(line.direction, ac);
  const double facing = dot(ab, across), size = std::max(length(ab), length(ac));
  const double slack = detail::slack(largest(line.from), std::max(largest(shape.a), size));
  if (std::fabs(facing) <= 1e-12 * size * size)
    return detail::first_contact(detail::Convex(shape), bounds(shape), line);
  const Vec3 from_a = line.from - shape.a, q = cross(from_a, ab);
  const double u = dot(from_a, across) / facing, v = dot(line.direction, q) / facing, t = dot(ac, q) / facing;
  const double loose = slack / size;
  if (u < -loose || v < -loose || u + v > 1 + loose || t < -slack || t > line.length + slack)
    return std::nullopt;
  if (!(t > slack)) return Contact{0, line.from, -line.direction};
  const Vec3 normal = normalized(cross(ab, ac));
  const double travel = std::min(t, line.length);
  return Contact{travel, line.at(travel), dot(normal, line.direction) > 0 ? -normal : normal};
}

Nearest nearest(const Triangle& shape, const Vec3& place) {
  const auto at = [&](const Vec3& point) { return Nearest{length(place - point), point}; };
  const Vec3 ab = shape.b - shape.a, ac = shape.c - shape.a, from_a = place - shape.a;
  const double a_b = dot(ab, from_a), a_c = dot(ac, from_a);
  if (a_b <= 0 && a_c <= 0) return at(shape.a);
  const Vec3 from_b = place - shape.b;
  const double b_b = dot(ab, from_b), b_c = dot(ac, from_b);
  if (b_b >= 0 && b_c <= b_b) return at(shape.b);
  const double beside_c = a_b * b_c - b_b * a_c;
  if (beside_c <= 0 && a_b >= 0 && b_b <= 0) return at(shape.a + ab * (a_b / (a_b - b_b)));
  const Vec3 from_c = place - shape.c;
  const double c_b = dot(ab, from_c), c_c = dot(ac, from_c);
  if (c_c >= 0 && c_b <= c_c) return at(shape.c);
  const double beside_b = c_b * a_c - a_b * c_c;
  if (beside_b <= 0 && a_c >= 0 && c_c <= 0) return at(shape.a + ac * (a_c / (a_c - c_c)));
  const double beside_a = b_b * c_c - c_b * b_c;
  if (beside_a <= 0 && b_c >= b_b && c_b >= c_c) {
    return at(shape.b + (shape.c - shape.b) * ((b_c - b_b) / ((b_c - b_b) + (c_b - c_c))));
  }
  const double sum = beside_a + beside_b + beside_c;
  // Along its normal, so that what lies in it is at 0 but for one rounding.
  const Vec3 normal = normalized(cross(ab, ac));
  const double height = dot(from_a, normal);
  if (!(sum > 0)) return at(shape.a);
  return {std::fabs(height), place - normal * height};
}

double distance(const Triangle& shape, const Segment& segment) {
  const Vec3 way = segment.to - segment.from, ab = shape.b - shape.a, ac = shape.c - shape.a;
  const Vec3 normal = cross(ab, ac);
  const double from = dot(segment.from - shape.a, normal), to = dot(segment.to - shape.a, normal);
  double least = std::min(nearest(shape, segment.from).distance, nearest(shape, segment.to).distance);
  if ((from > 0) != (to > 0) && from != to)
    least = std::min(least, nearest(shape, segment.from + way * (from / (from - to))).distance);
  for (const Segment& edge :
       {Segment{shape.a, shape.b}, Segment{shape.b, shape.c}, Segment{shape.c, shape.a}})
    least = std::min(least, detail::segments_apart(segment, edge).distance);
  const double scale = std::max({largest(segment.from), largest(segment.to), largest(shape.a)});
  return least <= detail::slack(scale) ? 0 : least;
}

Bounds bounds(const Triangle& shape) {
  Bounds b;
  b.add(shape.a), b.add(shape.b), b.add(shape.c);
  return b;
}

Triangle placed(const Triangle& shape, const Pose& pose) {
  return {pose * shape.a, pose * shape.b, pose * shape.c};
}

Vec3 center(const Triangle& shape) { return bounds(shape).center(); }

}  // namespace dardo
