#include "dardo/geometry/shape.hpp"

#include <algorithm>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo {

std::optional<Contact> ray(const Shape& shape, const Ray& line) {
  return std::visit([&](const auto& s) { return ray(s, line); }, shape);
}

Closest closest(const Shape& a, const Shape& b) {
  const auto apart = detail::nearest_points(detail::Convex(a), detail::Convex(b));
  return {apart.distance, apart.on_a, apart.on_b};
}
bool overlaps(const Shape& a, const Shape& b) { return closest(a, b).distance == 0; }

std::optional<Contact> sweep(const Shape& moving, const Vec3& travel, const Shape& rest) {
  return detail::first_contact(detail::Convex(moving), travel, detail::Convex(rest));
}
Nearest nearest(const Shape& shape, const Vec3& place) {
  return std::visit([&](const auto& s) { return nearest(s, place); }, shape);
}
double distance(const Shape& shape, const Segment& segment) {
  return std::visit([&](const auto& s) { return distance(s, segment); }, shape);
}
Bounds bounds(const Shape& shape) {
  return std::visit([](const auto& s) { return bounds(s); }, shape);
}
Shape placed(const Shape& shape, const Pose& pose) {
  return std::visit([&](const auto& s) { return Shape{placed(s, pose)}; }, shape);
}
Vec3 center(const Shape& shape) {
  return std::visit([](const auto& s) { return center(s); }, shape);
}

namespace {

/// A convex shape is left where it is entered on the way back.
std::optional<Crossing> both_ways(const std::optional<Contact>& there, const std::optional<Contact>& back,
                                  double size) {
  if (!there) return std::nullopt;
  return Crossing{there->distance, std::max(there->distance, back ? size - back->distance : there->distance)};
}

}  // namespace

std::optional<Crossing> crossing(const Shape& shape, const Ray& line) {
  return both_ways(ray(shape, line), ray(shape, {line.at(line.length), -line.direction, line.length}),
                   line.length);
}
std::optional<Crossing> crossing(const Shape& moving, const Vec3& travel, const Shape& rest) {
  const auto back = sweep(placed(moving, {travel, {}}), -travel, rest);
  return both_ways(sweep(moving, travel, rest), back, length(travel));
}

double distance(const Ball& ball, const Shape& shape) {
  const Nearest found = nearest(shape, ball.center);
  const double gap = found.distance - ball.radius;
  const double scale = std::max({largest(ball.center), largest(found.point), ball.radius});
  return gap <= detail::slack(scale) ? 0 : gap;
}
bool overlaps(const Ball& ball, const Shape& shape) { return distance(ball, shape) == 0; }
bool contains(const Shape& shape, const Vec3& place) { return overlaps(Ball{place, 0}, shape); }

}  // namespace dardo
