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

namespace {

void check_place(Problems& out, const char* key, const Vec3& place) {
  if (!is_finite(place)) {
    out.push_back({key, "holds a number that is not finite", "three finite coordinates in metres"});
  } else if (largest(place) > kMaxCoordinate) {
    out.push_back({key, "lies beyond 10,000,000 m", "coordinates of at most 1e7 in size"});
  }
}

void check_size(Problems& out, const char* key, double size) {
  if (!std::isfinite(size)) {
    out.push_back({key, "is not finite", "a finite length in metres"});
  } else if (size < 0) {
    out.push_back({key, "is negative", "a length in metres, 0 or more"});
  } else if (size > kMaxCoordinate) {
    out.push_back({key, "is more than 10,000,000 m", "at most 1e7"});
  }
}

Problems check_kind(const Ball& ball) {
  Problems out;
  check_place(out, "/ball/at", ball.center);
  check_size(out, "/ball/radius", ball.radius);
  return out;
}

Problems check_kind(const Capsule& capsule) {
  Problems out;
  check_place(out, "/capsule/from", capsule.from);
  check_place(out, "/capsule/to", capsule.to);
  check_size(out, "/capsule/radius", capsule.radius);
  return out;
}

Problems check_kind(const Box& box) {
  Problems out;
  check_place(out, "/box/at", box.center);
  check_size(out, "/box/size/0", box.half.x);
  check_size(out, "/box/size/1", box.half.y);
  check_size(out, "/box/size/2", box.half.z);
  for (const Vec3& axis : {box.turn.x, box.turn.y, box.turn.z}) {
    if (!is_finite(axis) || std::fabs(length(axis) - 1) > 1e-9) {
      out.push_back({"/box/turn", "is not a rotation", "finite angles"});
      break;
    }
  }
  return out;
}

Problems check_axis(Problems out, const char* key, const Vec3& from, const Vec3& to) {
  if (is_finite(from) && is_finite(to) && !(length(to - from) > 0)) {
    out.push_back({key, "has no length", "two ends apart from each other"});
  }
  return out;
}

Problems check_kind(const Cylinder& cylinder) {
  Problems out;
  check_place(out, "/cylinder/from", cylinder.from);
  check_place(out, "/cylinder/to", cylinder.to);
  check_size(out, "/cylinder/radius", cylinder.radius);
  return check_axis(std::move(out), "/cylinder", cylinder.from, cylinder.to);
}

Problems check_kind(const Cone& cone) {
  Problems out;
  check_place(out, "/cone/apex", cone.apex);
  check_place(out, "/cone/base", cone.base);
  check_size(out, "/cone/radius", cone.radius);
  return check_axis(std::move(out), "/cone", cone.apex, cone.base);
}

Problems check_kind(const Hull& hull) {
  Problems out;
  if (hull.points.empty()) out.push_back({"/hull", "is empty", "at least one point"});
  for (std::size_t i = 0; i < hull.points.size(); ++i) {
    check_place(out, ("/hull/" + std::to_string(i)).c_str(), hull.points[i]);
  }
  return out;
}

}  // namespace

Problems check(const Shape& shape) {
  return std::visit([](const auto& s) { return check_kind(s); }, shape);
}

}  // namespace dardo
