#pragma once
#include <algorithm>
#include <cmath>
#include <limits>

namespace dardo::detail {

/// Where a continuous value comes to have the sign that it has at `to`, and at `from` has not: to the last
/// place or two, on the side of `to`. Quadratic interpolation of the inverse where that may be trusted,
/// halving where not (Chandrupatla, "A new hybrid quadratic/bisection algorithm for finding the zero of a
/// nonlinear function without using derivatives", 1997).
template <class Value>
double crossing(Value&& value, double from, double to, double at_from, double at_to) {
  // Its last three places: between the first two it crosses.
  double a = to, b = from, c = to, at_a = at_to, at_b = at_from, at_c = at_to, share = 0.5;
  const auto beyond = [&](double at) { return at_to < 0 ? at <= 0 : at >= 0; };
  constexpr double kPlace = std::numeric_limits<double>::epsilon();
  for (int i = 0; i < 200; ++i) {
    const double x = a + share * (b - a), at = value(x);
    if (at == 0) return x;
    if (beyond(at) == beyond(at_a)) {
      c = a, at_c = at_a;
    } else {
      c = b, at_c = at_b, b = a, at_b = at_a;
    }
    a = x, at_a = at;
    const double nearer = std::fabs(at_a) < std::fabs(at_b) ? a : b,
                 least = kPlace * std::fabs(nearer) / std::fabs(b - a);
    if (!(least < 0.5)) break;
    const double place = (a - b) / (c - b), height = (at_a - at_b) / (at_c - at_b);
    share = 0.5;
    if (height * height < place && (1 - height) * (1 - height) < 1 - place) {
      share = at_a / (at_b - at_a) * at_c / (at_b - at_c) +
              (c - a) / (b - a) * at_a / (at_c - at_a) * at_b / (at_c - at_b);
    }
    share = std::clamp(share, least, 1 - least);
  }
  return beyond(at_a) ? a : b;
}

}  // namespace dardo::detail
