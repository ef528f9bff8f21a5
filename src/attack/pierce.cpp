#include <algorithm>

#include "dardo/attack/shot.hpp"
#include "geometry/detail/elementary.hpp"

namespace dardo {

double Pierce::power_of(std::uint32_t order) const {
  if (order < power.size()) return power[order];
  constexpr double kMost = 1e30;  // what grows by a ratio above 1 grows no further
  const auto listed = static_cast<std::uint32_t>(power.size());
  const double grown = listed > 0 ? power.back() * detail::whole_power(power_ratio, order - listed + 1)
                                  : detail::whole_power(power_ratio, order);
  return std::min(grown, kMost);
}

}  // namespace dardo
