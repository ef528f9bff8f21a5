// The point of a shape that is farthest from a place.
#include <algorithm>
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

std::optional<Vec3> farthest_from_line(const Shape& shape, const Vec3& place, const Vec3& axis) {
  constexpr double kAnother = 1e-12;
  Vec3 point;
  double away = -1;
  bool told = true;
  const auto out = [&](const Vec3& p) { return p - place - axis * dot(p - place, axis); };
  const auto add = [&](const Vec3& p) {
    if (const double d = length(out(p)); d > away) away = d, point = p;
  };
  const auto add_round = [&](const Vec3& middle, double radius) {
    const Vec3 way = out(middle);
    const double d = length(way);
    add(middle + (d > 0 ? way / d : any_perpendicular(axis)) * radius);
  };
  const auto about = [&](const Vec3& way) {
    told = told && length(cross(way, axis)) <= kAnother * length(way);
  };
  if (const auto* s = std::get_if<Ball>(&shape)) add_round(s->center, s->radius);
  if (const auto* s = std::get_if<Capsule>(&shape))
    add_round(s->from, s->radius), add_round(s->to, s->radius);
  if (const auto* s = std::get_if<Box>(&shape)) {
    for (int i = 0; i < 8; ++i)
      add(s->center + s->turn * Vec3{i & 1 ? s->half.x : -s->half.x, i & 2 ? s->half.y : -s->half.y,
                                     i & 4 ? s->half.z : -s->half.z});
  }
  if (const auto* s = std::get_if<Cylinder>(&shape))
    about(s->to - s->from), add_round(s->from, s->radius), add_round(s->to, s->radius);
  if (const auto* s = std::get_if<Cone>(&shape))
    about(s->base - s->apex), add(s->apex), add_round(s->base, s->radius);
  if (const auto* s = std::get_if<Hull>(&shape)) std::for_each(s->points.begin(), s->points.end(), add);
  if (const auto* s = std::get_if<Triangle>(&shape)) add(s->a), add(s->b), add(s->c);
  return told && away >= 0 ? std::optional(point) : std::nullopt;
}

double reach_from(const Shape& shape, const Vec3& place) {
  return length(farthest_from(shape, place) - place);
}

}  // namespace dardo::detail
