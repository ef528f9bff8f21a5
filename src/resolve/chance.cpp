#include "resolve/detail/chance.hpp"

#include <cstdlib>

// Built without exceptions; nothing here gets there.
#define R123_THROW(x) std::abort()
#define R123_USE_SSE 0
#include <Random123/philox.h>

#include "geometry/detail/kernels.hpp"

namespace dardo::detail {

double chance(std::uint64_t seed, std::uint32_t flight, Draw what, std::uint32_t counter) {
  r123::Philox4x32 generator;
  const r123::Philox4x32::ctr_type block{{flight, static_cast<std::uint32_t>(what), counter, 0}};
  const r123::Philox4x32::key_type key{
      {static_cast<std::uint32_t>(seed), static_cast<std::uint32_t>(seed >> 32)}};
  const auto drawn = generator(block, key);
  const std::uint64_t bits = (static_cast<std::uint64_t>(drawn[0]) << 32 | drawn[1]) >> 11;
  return static_cast<double>(bits) * 0x1.0p-53;
}

Vec3 turned_aside(const Vec3& direction, double angle, double around) {
  const Vec3 u = any_perpendicular(direction), v = cross(direction, u);
  return normalized(direction * std::cos(angle) +
                    (u * std::cos(around) + v * std::sin(around)) * std::sin(angle));
}

}  // namespace dardo::detail
