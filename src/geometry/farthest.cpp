// The point of a shape that is farthest from a place.
#include <cmath>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/kernels.hpp"

namespace dardo::detail {
namespace {

struct Farthest {
  Vec3 place, point{};
  double away = -1;

  void add(const Vec3& p) {
    const double d = length(p - place);
    if (d > away) away = d, point = p;
  }
  /// Any way is as far where the place is the middle.
  void add_ball(const Vec3& middle, double radius) {
    const Vec3 out = middle - place;
    const double d = length(out);
    add(middle + (d > 0 ? out / d : Vec3{1, 0, 0}) * radius);
  }
  void add_disc(const Vec3& middle, const Vec3& axis, double radius) {
    const Vec3 out = middle - place, flat = out - axis * dot(out, axis);
    const double d = length(flat);
    add(middle + (d > 1e-14 * length(out) ? flat / d : any_perpendicular(axis)) * radius);
  }

  void operator()(const Ball& s) { add_ball(s.center, s.radius); }
  void operator()(const Capsule& s) { add_ball(s.from, s.radius), add_ball(s.to, s.radius); }
  void operator()(const Box& s) {
    const Vec3 l = into(s.turn, place - s.center), h = s.half;
    add(s.center +
        s.turn * Vec3{std::copysign(h.x, -l.x), std::copysign(h.y, -l.y), std::copysign(h.z, -l.z)});
  }
  void operator()(const Cylinder& s) {
    const Vec3 axis = normalized(s.to - s.from);
    add_disc(s.from, axis, s.radius), add_disc(s.to, axis, s.radius);
  }
  void operator()(const Cone& s) { add(s.apex), add_disc(s.base, normalized(s.base - s.apex), s.radius); }
  void operator()(const Hull& s) {
    for (const Vec3& p : s.points) add(p);
  }
  void operator()(const Triangle& s) { add(s.a), add(s.b), add(s.c); }
};

}  // namespace

Vec3 farthest_from(const Shape& shape, const Vec3& place) {
  Farthest out{place};
  std::visit([&](const auto& s) { out(s); }, shape);
  return out.point;
}

double reach_from(const Shape& shape, const Vec3& place) {
  return length(farthest_from(shape, place) - place);
}

}  // namespace dardo::detail
