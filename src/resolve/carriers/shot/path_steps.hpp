#pragma once
#include <algorithm>
#include <array>
#include <cmath>

#include "resolve/carriers/shot/path.hpp"
#include "resolve/rules/tolerances.hpp"

// What the kinds of paths have in common: steps of a law, and the pieces made of them.
namespace dardo::detail {

/// Place and velocity, as one vector.
using State = std::array<double, 6>;
inline State state_of(const Vec3& p, const Vec3& v) { return {p.x, p.y, p.z, v.x, v.y, v.z}; }
inline Vec3 place_of(const State& s) { return {s[0], s[1], s[2]}; }
inline Vec3 rest_of(const State& s) { return {s[3], s[4], s[5]}; }

/// One step of Dormand and Prince's method (1980); its middle by Shampine's formula (1986); `error` is what
/// its fourth-order companion says.
struct Stepped {
  State middle, end;
  double error = 0;
};
/// `y` and so much of each slope; `terms` are weights and slopes in turn. Told as one row, so that compilers
/// work on several components at once.
template <class... Terms>
State with(const State& y, double h, const Terms&... terms) {
  State out;
  for (std::size_t i = 0; i < out.size(); ++i) {
    double sum = 0;
    ((sum += terms.weight * terms.slope[i]), ...);
    out[i] = y[i] + h * sum;
  }
  return out;
}
struct Term {
  double weight;
  const State& slope;
};
template <class Slope>
Stepped dormand_prince(const State& y, double t, double h, Slope&& slope) {
  const State k1 = slope(t, y);
  const State k2 = slope(t + h / 5, with(y, h, Term{1.0 / 5, k1}));
  const State k3 = slope(t + h * 3 / 10, with(y, h, Term{3.0 / 40, k1}, Term{9.0 / 40, k2}));
  const State k4 =
      slope(t + h * 4 / 5, with(y, h, Term{44.0 / 45, k1}, Term{-56.0 / 15, k2}, Term{32.0 / 9, k3}));
  const State k5 = slope(t + h * 8 / 9, with(y, h, Term{19372.0 / 6561, k1}, Term{-25360.0 / 2187, k2},
                                             Term{64448.0 / 6561, k3}, Term{-212.0 / 729, k4}));
  const State k6 =
      slope(t + h, with(y, h, Term{9017.0 / 3168, k1}, Term{-355.0 / 33, k2}, Term{46732.0 / 5247, k3},
                        Term{49.0 / 176, k4}, Term{-5103.0 / 18656, k5}));
  Stepped out;
  out.end = with(y, h, Term{35.0 / 384, k1}, Term{500.0 / 1113, k3}, Term{125.0 / 192, k4},
                 Term{-2187.0 / 6784, k5}, Term{11.0 / 84, k6});
  const State k7 = slope(t + h, out.end);
  out.middle = with(y, h, Term{6025192743.0 / 60171106304, k1}, Term{51252292925.0 / 130801643196, k3},
                    Term{-2691868925.0 / 90256659456, k4}, Term{187940372067.0 / 3189068634112, k5},
                    Term{-1776094331.0 / 39487288512, k6}, Term{11237099.0 / 470086768, k7});
  const State off = with({}, h, Term{71.0 / 57600, k1}, Term{-71.0 / 16695, k3}, Term{71.0 / 1920, k4},
                         Term{-17253.0 / 339200, k5}, Term{22.0 / 525, k6}, Term{-1.0 / 40, k7});
  for (const double each : off) out.error = std::max(out.error, std::fabs(each));
  return out;
}

inline Piece hermite(double t0, const Vec3& p0, const Vec3& v0, double t1, const Vec3& p1, const Vec3& v1) {
  const double h = t1 - t0;
  // Over so short a time the difference of two places is nothing but rounding.
  if (h < 1e-6) return {t0, t1, p0, v0, (v1 - v0) / h, {}};
  const Vec3 mean = (p1 - p0) / h;
  return {t0, t1, p0, v0, (mean * 3 - v0 * 2 - v1) * (2 / h), (v0 + v1 - mean * 2) * (6 / (h * h))};
}

/// By what a step is made shorter that is so many times as wrong as it may be: the error of a cubic goes by
/// the fourth power of its length. Well below the bound: what homes carries every step's error on.
inline double shrunk(double wrong) { return std::clamp(0.65 / std::sqrt(std::sqrt(wrong)), 0.1, 0.5); }

/// How long a step is tried: as the last ones say, not longer than `longest`. Made-up bytes may remember one
/// that is no time at all.
inline double first_step(double remembered, double otherwise, double longest) {
  return std::min(longest, std::max(kLeastPiece, remembered > 0 ? remembered : otherwise));
}
/// No step is longer, seconds: what happens within it might not show at its ends and its middle.
inline constexpr double kLongestStep = 0.25;
/// How long the next one may be after one of `h` that was so wrong; one that was cut short says nothing
/// against what is remembered.
inline double next_step(double remembered, double h, double wrong, double longest = kLongestStep) {
  const double grown = std::min(longest, h * std::clamp(0.8 / std::sqrt(std::sqrt(wrong + 1e-30)), 0.5, 4.0));
  return h < remembered ? std::max(remembered, grown) : grown;
}

/// A piece of the way that `slope` says, not longer than `longest`: both the step and the cubic between its
/// ends within `kWayKnown`. `velocity_of(t, state)` is the velocity there. `state` is moved on to its end,
/// and the length of the next step is remembered in `step`.
template <class Slope, class VelocityOf>
Piece integrated(State& state, double t, double longest, double& step, Slope&& slope,
                 VelocityOf&& velocity_of) {
  double h = first_step(step, 0.02, longest);
  for (bool shorter = false;; shorter = true) {
    const Stepped stepped = dormand_prince(state, t, h, slope);
    const Piece piece = hermite(t, place_of(state), velocity_of(t, state), t + h, place_of(stepped.end),
                                velocity_of(t + h, stepped.end));
    const double off = length(piece.place(t + h / 2) - place_of(stepped.middle));
    const double wrong = std::max(stepped.error, off) / kWayKnown;
    if (wrong <= 1 || h <= kLeastStep) {
      step = next_step(shorter ? 0 : step, h, wrong);
      state = stepped.end;
      return piece;
    }
    h *= shrunk(wrong);
  }
}

/// The law of what falls and is slowed by the square of its speed.
inline auto falls_by(const FallingPath& path, const Motions& motions) {
  return [gravity = motions.arena().gravity() * path.gravity, drag = path.drag](double, const State& s) {
    const Vec3 v = rest_of(s);
    return state_of(v, gravity - v * (drag * length(v)));
  };
}

inline Piece free_piece(const Course& c, const Vec3& acceleration) {
  return {c.time, std::numeric_limits<double>::infinity(), c.place(), c.velocity(), acceleration, {}};
}

/// The next piece of each kind of path: see `next_piece`.
Milestone next(Course& course, const CurvePath& path, const Motions& motions);
Milestone next(Course& course, const GuidedPath& path, const Motions& motions);

}  // namespace dardo::detail
