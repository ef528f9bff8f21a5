#include "geometry/detail/shadow.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <span>

#include "dardo/units.hpp"
#include "geometry/detail/convex.hpp"
#include "geometry/detail/elementary.hpp"
#include "geometry/detail/region.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo::detail {
namespace {

using units::kPi;
constexpr std::size_t kMostCorners = 32;
/// A plane whose normal is less aslant than this is upright.
constexpr double kUpright = 1e-9;

struct Outline {
  std::array<Vec3, kMostCorners> at;
  std::size_t count = 0;

  std::span<const Vec3> all() const { return {at.data(), count}; }
  void add(const Vec3& v) { at[count++] = v; }
};

/// Nothing of what has none, or too many.
Outline outline_of(const Shape& shape) {
  Outline out;
  if (const auto* box = std::get_if<Box>(&shape)) {
    for (int i = 0; i < 8; ++i) {
      const Vec3 own{i & 1 ? box->half.x : -box->half.x, i & 2 ? box->half.y : -box->half.y,
                     i & 4 ? box->half.z : -box->half.z};
      out.add(box->center + box->turn * own);
    }
  } else if (const auto* t = std::get_if<Triangle>(&shape)) {
    out.add(t->a), out.add(t->b), out.add(t->c);
  } else if (const auto* hull = std::get_if<Hull>(&shape); hull && hull->points.size() <= kMostCorners) {
    for (const Vec3& p : hull->points) out.add(p);
  }
  return out;
}

/// Whether all of a shape lies in a half-space, to rounding.
bool within(const HalfSpace& space, const Shape& shape, double scale = 0) {
  return covers(Region(space), shape, scale);
}

HalfSpace other_side(const HalfSpace& space) { return {space.point, -space.normal}; }

/// The share of a ball or a disc whose middle is so many radii above the plane that lies below it.
double cap(double height) {
  const double d = std::clamp(1 - height, 0.0, 2.0);
  return d * d * (3 - d) / 4;
}
double segment(double height) {
  const double h = std::clamp(height, -1.0, 1.0);
  return (arc_cosine(h) - h * std::sqrt(std::max(0.0, 1 - h * h))) / kPi;
}

}  // namespace

Shadow shadow_on(const Shape& caster, const Vec3& eye, const Shape& target, bool flat) {
  Shadow out;
  const Outline corners = outline_of(caster);
  // What the eye touches cuts every line from it.
  if (corners.count == 0 || nearest(caster, eye).distance <= slack(largest(eye))) return out;
  const Apart apart = nearest_points(Convex(caster), Convex(target));
  if (!(apart.distance > 0) || apart.direction == Vec3{}) return out;
  // Whatever lies beyond the target from here hides nothing of it.
  const double scale = std::max(largest(eye), largest(apart.on_a));
  const double before = dot(apart.on_a - eye, apart.direction);
  if (before <= 0) {
    out.kind = Shadow::Kind::none;
    return out;
  }
  bool bounded = false;
  std::optional<HalfSpace> cut;
  const auto all = corners.all();
  for (std::size_t i = 0; i < all.size(); ++i) {
    for (std::size_t k = i + 1; k < all.size(); ++k) {
      Vec3 normal = cross(all[i] - eye, all[k] - eye);
      const double size = length(normal);
      if (!(size > slack(scale) * scale)) continue;
      normal = normal / size;
      if (flat && std::fabs(normal.z) > kUpright) continue;
      double most = 0, least = 0;
      for (const Vec3& c : all)
        most = std::max(most, dot(normal, c - eye)), least = std::min(least, dot(normal, c - eye));
      if (most > slack(scale) && least < -slack(scale)) continue;
      if (most > slack(scale)) normal = -normal;
      bounded = true;
      const HalfSpace dark{eye, normal};
      if (within(other_side(dark), target)) {
        out.kind = Shadow::Kind::none;
        return out;
      }
      if (within(dark, target)) continue;
      if (cut && !(length(cut->normal - normal) <= 1e-12)) return out;
      cut = dark;
    }
  }
  if (!bounded) return out;
  out.kind = cut ? Shadow::Kind::cut : Shadow::Kind::whole;
  if (cut) out.dark = *cut;
  return out;
}

std::optional<double> share_in(const HalfSpace& space, const Shape& shape, bool flat, double scale) {
  if (const auto* ball = std::get_if<Ball>(&shape); ball != nullptr && ball->radius > 0) {
    const double height = height_over(space, ball->center) / ball->radius;
    return flat ? segment(height) : cap(height);
  }
  if (const auto* c = std::get_if<Cylinder>(&shape); c != nullptr && c->radius > 0) {
    const Vec3 axis = normalized(c->to - c->from);
    if (std::fabs(dot(axis, space.normal)) <= kUpright)
      return segment(height_over(space, (c->from + c->to) * 0.5) / c->radius);
  }
  if (within(space, shape, scale)) return 1;
  if (within(other_side(space), shape, scale)) return 0;
  return std::nullopt;
}

std::optional<double> volume_of(const Shape& shape, bool flat) {
  if (const auto* s = std::get_if<Ball>(&shape)) {
    const double r = s->radius;
    return flat ? kPi * r * r : 4.0 / 3 * kPi * r * r * r;
  }
  if (const auto* s = std::get_if<Capsule>(&shape)) {
    const double r = s->radius, l = length(s->to - s->from);
    return flat ? kPi * r * r + 2 * r * l : kPi * r * r * (l + 4.0 / 3 * r);
  }
  if (const auto* s = std::get_if<Box>(&shape))
    return flat ? 4 * s->half.x * s->half.y : 8 * s->half.x * s->half.y * s->half.z;
  if (const auto* s = std::get_if<Cylinder>(&shape))
    return kPi * s->radius * s->radius * (flat ? 1 : length(s->to - s->from));
  if (const auto* s = std::get_if<Cone>(&shape); s != nullptr && !flat)
    return kPi / 3 * s->radius * s->radius * length(s->base - s->apex);
  return std::nullopt;
}

}  // namespace dardo::detail
