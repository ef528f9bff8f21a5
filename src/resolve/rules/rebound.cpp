#include "resolve/rules/rebound.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "resolve/rules/chance.hpp"

namespace dardo::detail {

Vec3 Corner::turned(const Vec3& velocity, const Ricochet& r) const {
  Vec3 out = velocity;
  for (std::size_t round = 0; round < kCornerSides; ++round) {
    const auto side = into_any(out);
    if (!side) return out;
    const Vec3 &into = normals[*side], &moves = velocities[*side], seen = out - moves;
    const double inward = dot(seen, into);
    out = (seen - into * inward) * (1 - r.friction) - into * (inward * r.restitution) + moves;
  }
  return into_any(out) ? velocity * -r.restitution : out;
}

std::optional<std::size_t> Corner::into_any(const Vec3& velocity) const {
  for (std::size_t i = 0; i < count; ++i) {
    const Vec3 seen = velocity - velocities[i];
    if (dot(seen, normals[i]) < -graze * length(seen)) return i;
  }
  return std::nullopt;
}

Vec3 jittered(const Corner& corner, const Vec3& out, const Vec3& left, bool flat, const Ricochet& r,
              std::uint64_t seed, std::uint64_t key, std::uint32_t turn) {
  const double size = length(out);
  if (!(r.jitter > 0) || !(size > 0)) return out;
  const double how = chance(seed, key, Draw::jitter, 2 * turn),
               around = 2 * std::numbers::pi * chance(seed, key, Draw::jitter, 2 * turn + 1);
  const Vec3 off = flat ? turned_aside(out / size, left, r.jitter * (2 * how - 1))
                        : turned_aside(out / size, left, r.jitter * std::sqrt(how), around);
  const auto all = corner.sides();
  const bool leaves = std::all_of(all.begin(), all.end(), [&](const Vec3& n) { return dot(off, n) > 0; });
  return leaves ? off * size : out;
}

}  // namespace dardo::detail
