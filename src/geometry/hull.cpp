#include "dardo/geometry/hull.hpp"

#include "geometry/detail/convex.hpp"
#include "geometry/detail/elementary.hpp"

namespace dardo {

std::optional<Contact> ray(const Hull& shape, const Ray& ray) {
  return detail::first_contact(detail::Convex(shape), bounds(shape), ray);
}

Nearest nearest(const Hull& shape, const Vec3& place) {
  const auto apart = detail::nearest_points(detail::Convex(place), detail::Convex(shape));
  return apart.distance == 0 ? Nearest{0, place} : Nearest{apart.distance, apart.on_b};
}

double distance(const Hull& shape, const Segment& segment) {
  return detail::nearest_points(detail::Convex(shape), detail::Convex(segment)).distance;
}

Bounds bounds(const Hull& shape) {
  Bounds b;
  for (const Vec3& p : shape.points) b.add(p);
  return b;
}

Hull placed(const Hull& shape, const Pose& pose) {
  Hull out;
  out.points.reserve(shape.points.size());
  for (const Vec3& p : shape.points) out.points.push_back(pose * p);
  return out;
}

Vec3 center(const Hull& shape) { return bounds(shape).center(); }

Result<Hull> prism(std::span<const Vec3> polygon, double low, double high) {
  Problems problems;
  if (polygon.size() < 3) {
    problems.push_back({"/polygon", "has " + std::to_string(polygon.size()) + " corners", "at least 3"});
  }
  if (!(low <= high)) problems.push_back({"/high", "is below \"low\"", "a height at or above it"});
  // Convex: every corner turns the same way, and all turns together make one round.
  double round = 0;
  int sense = 0;
  for (std::size_t i = 0; problems.empty() && i < polygon.size(); ++i) {
    const Vec3 &a = polygon[i], &b = polygon[(i + 1) % polygon.size()],
               &c = polygon[(i + 2) % polygon.size()];
    const double ux = b.x - a.x, uy = b.y - a.y, vx = c.x - b.x, vy = c.y - b.y;
    const double turn = ux * vy - uy * vx;
    const int way = turn > 0 ? 1 : turn < 0 ? -1 : 0;
    if (way != 0 && sense == 0) sense = way;
    if (way != 0 && way != sense) {
      problems.push_back({"/polygon/" + std::to_string((i + 1) % polygon.size()), "makes the polygon concave",
                          "a convex polygon; several for a concave shape"});
    }
    round += detail::arc_tangent(turn, ux * vx + uy * vy);
  }
  if (problems.empty() && std::fabs(round) > 7) {
    problems.push_back({"/polygon", "goes round more than once", "each corner once, in order"});
  }
  if (!problems.empty()) return tl::unexpected(std::move(problems));
  Hull hull;
  for (const double z : {low, high}) {
    for (const Vec3& p : polygon) hull.points.push_back({p.x, p.y, z});
    if (low == high) break;
  }
  return hull;
}

}  // namespace dardo
