#pragma once
#include "dardo/geometry/vec.hpp"

namespace dardo::detail {

/// The one tolerance of the project: gaps up to 32 rounding steps of the largest coordinate or length in play
/// count as contact. At 100 m that is 7e-13 m, at the largest coordinate allowed (1e7 m) 7e-8 m.
inline constexpr double kContactTolerance = 32 * 2.220446049250313e-16;

/// How wide a gap still counts as contact among coordinates and lengths up to `scale`.
[[gnu::always_inline]] constexpr double slack(double scale) {
  return kContactTolerance * (scale > 1 ? scale : 1);
}
[[gnu::always_inline]] constexpr double slack(double a, double b) { return slack(a > b ? a : b); }

/// Closed comparisons of lengths found among coordinates up to `scale`: equal within the tolerance is enough.
[[gnu::always_inline]] constexpr bool at_most(double length, double limit, double scale) {
  return length <= limit + slack(scale, limit);
}
[[gnu::always_inline]] constexpr bool at_least(double length, double limit, double scale) {
  return length >= limit - slack(scale, limit);
}

}  // namespace dardo::detail
