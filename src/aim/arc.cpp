#include "dardo/aim/arc.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "geometry/detail/crossing.hpp"
#include "geometry/detail/elementary.hpp"

namespace dardo {
namespace {

/// After which what is not drawn by anything, and could take for ever, is taken to arrive, seconds.
constexpr double kAnyTime = 1e6;

/// So near to 0, against its constant, a polynomial touches it as far as rounding can tell.
constexpr double kTouched = 1e-14;

/// Coefficients, the constant first.
using Polynomial = std::array<double, 5>;

double value(const Polynomial& p, int degree, double x) {
  double v = p[static_cast<std::size_t>(degree)];
  for (int i = degree - 1; i >= 0; --i) v = v * x + p[static_cast<std::size_t>(i)];
  return v;
}

/// At least the root of this degree (1 to 4), of what is not below 0.
double no_less_than_root(double square, int degree) {
  if (degree == 1) return square;
  const double second = std::sqrt(square), fourth = std::sqrt(second);
  return degree == 2 ? second : degree == 4 ? fourth : std::max(second, fourth);
}

/// Those of a line or a parabola, without taking like from like.
std::size_t low_roots(const Polynomial& p, int degree, double low, double high, std::array<double, 6>& out) {
  std::size_t count = 0;
  const auto keep = [&](double x) {
    if (x >= low && x <= high) out[count++] = x;
  };
  if (degree == 1) {
    keep(-p[0] / p[1]);
    return count;
  }
  double below = p[1] * p[1] - 4 * p[2] * p[0];
  // As far as rounding can tell it is touched.
  if (std::fabs(below) <= 4 * kTouched * std::fabs(p[0] * p[2])) below = 0;
  if (below < 0) return 0;
  const double sum = -0.5 * (p[1] + std::copysign(std::sqrt(below), p[1]));
  const double one = sum / p[2], other = sum != 0 ? p[0] / sum : one;
  keep(std::min(one, other));
  if (one != other) keep(std::max(one, other));
  return count;
}

/// The roots in [low, high], in order: between two roots of its derivative a polynomial crosses 0 at most
/// once.
std::size_t roots(const Polynomial& p, int degree, double low, double high, std::array<double, 6>& out) {
  while (degree > 0 && p[static_cast<std::size_t>(degree)] == 0) --degree;
  if (degree == 0) return 0;
  if (degree <= 2) return low_roots(p, degree, low, high, out);
  Polynomial slope{};
  for (int i = 1; i <= degree; ++i)
    slope[static_cast<std::size_t>(i - 1)] = p[static_cast<std::size_t>(i)] * i;
  std::array<double, 6> turns{};
  const std::size_t turn_count = roots(slope, degree - 1, low, high, turns);
  std::size_t count = 0;
  double from = low;
  for (std::size_t i = 0; i <= turn_count; ++i) {
    const double to = i < turn_count ? turns[i] : high;
    const double a = from, b = to, at_a = value(p, degree, a), at_b = value(p, degree, b);
    from = to;
    // A double root is touched at a turning point only.
    if (std::fabs(at_b) <= kTouched * (std::fabs(p[0]) + 1e-300)) {
      if (count == 0 || out[count - 1] < b) out[count++] = b;
      continue;
    }
    if (!((at_a < 0) != (at_b < 0)) || at_a == 0) continue;
    out[count++] = detail::crossing([&](double x) { return value(p, degree, x); }, a, b, at_a, at_b);
    if (count == out.size()) break;
  }
  return count;
}

/// The roots that are not below 0, in order.
std::size_t positive_roots(const Polynomial& p, std::array<double, 6>& out) {
  int degree = 4;
  while (degree > 0 && p[static_cast<std::size_t>(degree)] == 0) --degree;
  if (degree == 0) return 0;
  // Beyond this the highest term outweighs all others.
  double beyond = 1;
  for (int i = 0; i < degree; ++i) {
    const double share = std::fabs(p[static_cast<std::size_t>(i)] / p[static_cast<std::size_t>(degree)]);
    beyond = std::max(beyond, 1 + no_less_than_root(share, degree - i) * degree);
  }
  return roots(p, degree, 0, beyond, out);
}

Arcs at_times(const Vec3& from, const Target& target, const Vec3& gravity, const std::array<double, 6>& times,
              std::size_t count) {
  Arcs out;
  for (std::size_t i = 0; i < count && out.count < 2; ++i) {
    if (times[i] > 0) out.arc[out.count++] = arc_in(from, target, gravity, times[i]);
  }
  return out;
}

}  // namespace

Arcs lead(const Vec3& from, const Target& target, double speed) { return arcs(from, target, speed, {}); }

Arcs arcs(const Vec3& from, const Target& target, double speed, const Vec3& gravity) {
  const Vec3 d = target.at - from, v = target.velocity, g = gravity;
  if (d == Vec3{}) {
    Arcs here;
    here.count = 1;
    here.arc[0] = {v + Vec3{0, 0, speed}, 0, target.at};
    return here;
  }
  // |d + v t - g t² / 2|² = speed² t²
  const Polynomial p{dot(d, d), 2 * dot(d, v), dot(v, v) - dot(d, g) - speed * speed, -dot(v, g),
                     0.25 * dot(g, g)};
  std::array<double, 6> times{};
  const std::size_t count = positive_roots(p, times);
  Arcs out = at_times(from, target, gravity, times, count);
  if (out.count == 0)
    out.more_speed = std::max(0.0, length(least_speed_arc(from, target, gravity).velocity) - speed);
  return out;
}

Arc arc_in(const Vec3& from, const Target& target, const Vec3& gravity, double time_s) {
  const Vec3 meets = target.at + target.velocity * time_s;
  return {(meets - from) / time_s - gravity * (0.5 * time_s), time_s, meets};
}

Arc least_speed_arc(const Vec3& from, const Target& target, const Vec3& gravity) {
  const double g = length(gravity), away = length(target.at - from);
  if (away == 0) return {target.velocity, 0, target.at};
  if (target.velocity == Vec3{} && g > 0) return arc_in(from, target, gravity, std::sqrt(2 * away / g));
  // Without gravity |away / t + velocity| is least where both are at a right angle; of a target that only
  // goes away, the longer the slower.
  const Vec3 d = target.at - from;
  if (const double per = -dot(d, target.velocity) / dot(d, d); g == 0 && per > 0)
    return arc_in(from, target, gravity, 1 / per);
  if (g == 0) return arc_in(from, target, gravity, kAnyTime);
  // |d / t + v - g t / 2|² has no slope
  const Vec3& v = target.velocity;
  std::array<double, 6> times{};
  const std::size_t count =
      positive_roots({-2 * dot(d, d), -2 * dot(d, v), 0, -dot(v, gravity), 0.5 * g * g}, times);
  Arc best;
  double least = std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < count; ++i) {
    if (!(times[i] > 0)) continue;
    const Arc arc = arc_in(from, target, gravity, times[i]);
    if (const double speed = length(arc.velocity); speed < least) least = speed, best = arc;
  }
  return best;
}

std::optional<Arc> arc_over(const Vec3& from, const Target& target, const Vec3& gravity, double rise) {
  const double g = length(gravity);
  if (!(g > 0) || !(rise >= 0)) return std::nullopt;
  const Vec3 up = -gravity / g;
  double time = 1;
  for (int round = 0; round < 200; ++round) {
    const double high = dot(target.at + target.velocity * time - from, up), top = std::max(0.0, high) + rise;
    const double next = std::sqrt(2 * top / g) + std::sqrt(2 * std::max(0.0, top - high) / g);
    if (!(next > 0) || !(next < 1e9)) return std::nullopt;
    if (std::fabs(next - time) <= 1e-15 * next) return arc_in(from, target, gravity, next);
    time = target.velocity == Vec3{} ? next : 0.5 * (time + next);
  }
  return arc_in(from, target, gravity, time);
}

std::optional<Arc> arc_at(const Vec3& from, const Vec3& to, const Vec3& gravity, double elevation) {
  const double g = length(gravity);
  if (!(g > 0)) return std::nullopt;
  const Vec3 up = -gravity / g, d = to - from;
  const double high = dot(d, up), flat = length(d - up * high);
  // flat times the tangent of e, less g t² / 2 = high
  const double below = 2 * (flat * detail::tangent(elevation) - high) / g;
  if (!(below > 0) || !(std::fabs(elevation) < 1.5707963267948966)) return std::nullopt;
  return arc_in(from, {to, {}}, gravity, std::sqrt(below));
}

}  // namespace dardo
