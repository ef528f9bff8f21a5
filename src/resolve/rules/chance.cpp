#include "resolve/rules/chance.hpp"

#include <cstdlib>

// Built without exceptions; nothing here gets there.
#define R123_THROW(x) std::abort()
#define R123_USE_SSE 0
#include <Random123/philox.h>

#include <cmath>

#include "geometry/detail/elementary.hpp"

namespace dardo::detail {

double chance(std::uint64_t seed, std::uint64_t key, Draw what, std::uint32_t counter) {
  r123::Philox4x32 generator;
  const r123::Philox4x32::ctr_type block{{static_cast<std::uint32_t>(key),
                                          static_cast<std::uint32_t>(key >> 32),
                                          static_cast<std::uint32_t>(what), counter}};
  const r123::Philox4x32::key_type seeds{
      {static_cast<std::uint32_t>(seed), static_cast<std::uint32_t>(seed >> 32)}};
  const auto drawn = generator(block, seeds);
  const std::uint64_t bits = (static_cast<std::uint64_t>(drawn[0]) << 32 | drawn[1]) >> 11;
  return static_cast<double>(bits) * 0x1.0p-53;
}

std::uint64_t chance_key(std::uint64_t parent, std::uint64_t n) {
  // Steele, Lea and Flood's mixing (Fast Splittable Pseudorandom Number Generators, 2014).
  std::uint64_t z = parent + (n + 1) * 0x9e3779b97f4a7c15u;
  z = (z ^ z >> 30) * 0xbf58476d1ce4e5b9u;
  z = (z ^ z >> 27) * 0x94d049bb133111ebu;
  return z ^ z >> 31;
}

std::uint64_t chance_key(std::uint64_t parent, Then::When when, std::uint64_t whom, std::uint32_t times) {
  return chance_key(chance_key(chance_key(parent, static_cast<std::uint64_t>(when)), whom), times);
}

Vec3 turned_aside(const Vec3& direction, const Vec3& left, double angle, double around) {
  const Vec3 &u = left, v = cross(direction, u);
  return normalized(direction * cosine(angle) + (u * cosine(around) + v * sine(around)) * sine(angle));
}

Vec3 turned_aside(const Vec3& direction, const Vec3& left, double angle) {
  return normalized(direction * cosine(angle) + left * sine(angle));
}

}  // namespace dardo::detail
