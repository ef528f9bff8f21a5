#include "resolve/carriers/shot/advance.hpp"

#include <algorithm>
#include <array>
#include <utility>

namespace dardo::detail {
namespace {

/// No slower between two times, m/s: exact while the acceleration is steady.
double least_speed(const Vec3& velocity, const Vec3& acceleration, double most_jerk, double time) {
  const double square = dot(acceleration, acceleration);
  const double lowest = square > 0 ? std::clamp(-dot(velocity, acceleration) / square, 0.0, time) : 0;
  return length(velocity + acceleration * lowest) - 0.5 * most_jerk * time * time;
}

}  // namespace

Turning turning(const Piece& piece, const Vec3& up, double from, double to) {
  constexpr double kSlowest = 1e-3;
  const Piece p = piece.part(from, to);
  const double time = to - from;
  const auto level = [&up](const Vec3& v) { return v - up * dot(v, up); };
  struct Turn {
    double rate, bend, change;
  };
  const auto turns = [&](const Vec3& v, const Vec3& a, const Vec3& j) {
    const double across =
                     length(cross(v, a)) + (length(cross(v, j)) + length(cross(a, j)) * 0.5 * time) * time,
                 slowest = std::max(kSlowest, least_speed(v, a, length(j), time));
    return Turn{across / (slowest * slowest), (length(a) + length(j) * time) / slowest, length(j) / slowest};
  };
  const Turn way = turns(p.velocity, p.acceleration, p.jerk),
             flat = turns(level(p.velocity), level(p.acceleration), level(p.jerk));
  const double rate = way.rate + flat.rate;
  return {rate, rate > 0 ? 3 * rate * (way.bend + flat.bend) + way.change + flat.change : 0};
}

double first_reach(double c1, double c2, double c3, double rise, double end) {
  constexpr double kNever = std::numeric_limits<double>::infinity();
  if (c2 == 0 && c3 == 0) return c1 > 0 && rise <= c1 * end ? rise / c1 : kNever;
  const auto value = [&](double t) { return ((c3 * t + c2) * t + c1) * t - rise; };
  // Between its turning points it only rises or only falls.
  std::array<double, 3> turns{end, end, end};
  std::size_t count = 0;
  const double a = 3 * c3, b = c2, root2 = b * b - a * c1;
  if (root2 >= 0) {
    const double q = -(b + std::copysign(std::sqrt(root2), b));
    for (const double t : {a != 0 ? q / a : kNever, q != 0 ? c1 / q : kNever}) {
      if (t > 0 && t < end) turns[count++] = t;
    }
    if (count == 2 && turns[1] < turns[0]) std::swap(turns[0], turns[1]);
  }
  double low = 0;
  for (std::size_t i = 0; i <= count; ++i) {
    double high = i < count ? turns[i] : end;
    if (value(high) < 0) {
      low = high;
      continue;
    }
    // Newton's steps within the bracket, halved where they leave it.
    double t = 0.5 * (low + high);
    for (int round = 0; round < 100; ++round) {
      const double v = value(t);
      (v < 0 ? low : high) = t;
      const double slope = (3 * c3 * t + 2 * c2) * t + c1, next = t - v / slope;
      const double to = next > low && next < high ? next : 0.5 * (low + high);
      if (!(to > low && to < high) || std::fabs(to - t) <= 1e-16 * t) break;
      t = to;
    }
    return low;
  }
  return kNever;
}

}  // namespace dardo::detail
