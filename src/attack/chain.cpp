#include "dardo/attack/chain.hpp"

#include <algorithm>

namespace dardo {

double ChainDelivery::power_of(std::uint32_t after) const {
  const std::size_t listed = power.size();
  double out = listed == 0 ? 1 : power[std::min<std::size_t>(after, listed - 1)];
  // Beyond the list by ratio and step, until nothing is left or nothing changes.
  std::uint32_t more = after + 1 > std::max<std::size_t>(listed, 1)
                           ? after + 1 - static_cast<std::uint32_t>(std::max<std::size_t>(listed, 1))
                           : 0;
  for (; more > 0 && out > 0 && (power_ratio != 1 || power_step != 0); --more)
    out = std::max(0.0, out * power_ratio - power_step);
  return std::min(out, 1e300);
}

double ChainDelivery::reach_of(std::uint32_t number) const {
  constexpr double kFarthest = 4e7;
  double out = hop;
  for (std::uint32_t i = 1; i < number && out > 0 && out < kFarthest && hop_ratio != 1; ++i) out *= hop_ratio;
  return std::min(out, kFarthest);
}

}  // namespace dardo
