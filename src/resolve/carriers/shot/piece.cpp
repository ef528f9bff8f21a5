#include <algorithm>
#include <array>
#include <cmath>

#include "resolve/carriers/shot/path.hpp"

namespace dardo::detail {
namespace {

/// Five-point Gauss-Legendre quadrature of the speed.
double quadrature(const Piece& p, double from, double to) {
  constexpr std::array<double, 5> kAt{-0.9061798459386640, -0.5384693101056831, 0, 0.5384693101056831,
                                      0.9061798459386640};
  constexpr std::array<double, 5> kWeight{0.2369268850561891, 0.4786286704993665, 0.5688888888888889,
                                          0.4786286704993665, 0.2369268850561891};
  const double middle = 0.5 * (from + to), half = 0.5 * (to - from);
  double sum = 0;
  for (std::size_t i = 0; i < kAt.size(); ++i)
    sum += kWeight[i] * dardo::length(p.speed_at(middle + half * kAt[i]));
  return sum * half;
}

/// `halvings` are left in all: where the speed goes through 0 some forty are taken, more mean nothing but
/// rounding.
double adaptive_length(const Piece& p, double from, double to, double whole, int depth, int& halvings) {
  const double middle = 0.5 * (from + to);
  const double left = quadrature(p, from, middle), right = quadrature(p, middle, to);
  if (depth == 0 || --halvings <= 0 || std::fabs(left + right - whole) <= 1e-10 * std::fabs(whole) + 1e-13)
    return left + right;
  return adaptive_length(p, from, middle, left, depth - 1, halvings) +
         adaptive_length(p, middle, to, right, depth - 1, halvings);
}

}  // namespace

double Piece::most_speed(double from, double to) const {
  return std::max(dardo::length(speed_at(from)), dardo::length(speed_at(to))) +
         0.5 * (to - from) * (jerk == Vec3{} ? 0 : most_acceleration(from, to));
}
double Piece::most_acceleration(double from, double to) const {
  return std::max(dardo::length(acceleration + jerk * (from - start)),
                  dardo::length(acceleration + jerk * (to - start)));
}
Bounds Piece::bounds(double from, double to) const {
  Bounds b;
  b.add(place(from)), b.add(place(to));
  if (straight()) return b;
  const double h = to - from;
  return b.grown(most_acceleration(from, to) * h * h / 8);
}
double Piece::length(double from, double to) const {
  if (pace > 0) return pace * (to - from);
  if (straight()) return dardo::length(velocity) * (to - from);
  // Where its speed hardly changes five points do: their error goes by the tenth power of that change.
  constexpr double kHardly = 0.1;
  const double half = 0.5 * (to - from);
  if (half * most_acceleration(from, to) <= kHardly * dardo::length(speed_at(from + half)))
    return quadrature(*this, from, to);
  // Where it is slowest the speed may have a kink, as where it turns back: no stretch goes across that.
  double slowest = from;
  for (int round = 0; round < 8; ++round) {
    const Vec3 v = speed_at(slowest), a = acceleration + jerk * (slowest - start);
    const double bends = dot(a, a) + dot(v, jerk);
    if (!(bends > 0)) break;
    slowest = std::clamp(slowest - dot(v, a) / bends, from, to);
    if (jerk == Vec3{}) break;
  }
  double sum = 0;
  for (double begin = from; begin < to;) {
    const double next = begin < slowest ? slowest : to;
    int halvings = 300;
    sum += adaptive_length(*this, begin, next, quadrature(*this, begin, next), 24, halvings);
    begin = next;
  }
  return sum;
}

std::optional<double> Piece::first_slower(double limit, double from, double to) const {
  // The square of the speed rises or falls between the roots of its slope, which is a cubic, and that between
  // the roots of its own slope.
  const Piece p = part(from, to);
  const double h = to - from, c0 = dot(p.velocity, p.acceleration),
               c1 = dot(p.acceleration, p.acceleration) + dot(p.velocity, p.jerk),
               c2 = 1.5 * dot(p.acceleration, p.jerk), c3 = 0.5 * dot(p.jerk, p.jerk);
  const auto slope = [&](double t) { return c0 + (c1 + (c2 + c3 * t) * t) * t; };
  const auto slow = [&](double t) { return dardo::length(p.speed_at(from + t)) < limit; };
  std::array<double, 3> bends{0, h, h};
  if (const double under = c2 * c2 - 3 * c3 * c1; c3 > 0 && under > 0) {
    const double root = std::sqrt(under);
    bends[0] = std::clamp((-c2 - root) / (3 * c3), 0.0, h),
    bends[1] = std::clamp((-c2 + root) / (3 * c3), 0.0, h);
  }
  double last = 0;
  if (slow(0)) return from;
  for (const double bend : bends) {
    double least = bend;
    if (slope(last) < 0 && slope(bend) > 0)
      least = first_time([&](double t) { return slope(t) >= 0; }, last, bend);
    for (const double t : {least, bend}) {
      if (slow(t)) return from + first_time(slow, last, t);
    }
    last = bend;
  }
  return std::nullopt;
}

}  // namespace dardo::detail
