#include "dardo/geometry/shape.hpp"

#include <algorithm>

#include "geometry/detail/tolerance.hpp"

namespace dardo {

std::optional<Contact> ray(const Shape& shape, const Ray& line) {
  return std::visit([&](const auto& s) { return ray(s, line); }, shape);
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

}  // namespace

Problems check(const Shape& shape) {
  return std::visit([](const auto& s) { return check_kind(s); }, shape);
}

}  // namespace dardo
