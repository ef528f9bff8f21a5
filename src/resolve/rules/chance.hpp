#pragma once
#include <cstdint>

#include "dardo/attack/attack.hpp"

namespace dardo::detail {

/// What a number is drawn for; part of its key, so that one use never shifts another's numbers.
enum class Draw : std::uint32_t { spread, speed, jitter, choice, effect, critical };

/// A number in [0, 1) that depends on its key alone (Salmon et al., Parallel Random Numbers: As Easy as 1, 2,
/// 3, 2011: Philox 4x32-10): the same in any order, on any thread, on any machine.
double chance(std::uint64_t seed, std::uint64_t key, Draw what, std::uint32_t counter);

/// The key of what comes from a carrier with a key: number `n` of a volley, or stage `n` of the attack.
std::uint64_t chance_key(std::uint64_t parent, std::uint64_t n);
/// The same by what led to it: the moment, the order of creation of the body or wall, how often that had been
/// met before. So what else happens on the way changes nothing.
std::uint64_t chance_key(std::uint64_t parent, Then::When when, std::uint64_t whom, std::uint32_t times);

/// `direction` turned by `angle` toward a side that `around` says, radians: 0 toward `left`, which is at a
/// right angle to it.
Vec3 turned_aside(const Vec3& direction, const Vec3& left, double angle, double around);
/// The same within the plane of both: toward `left`, or away from it.
Vec3 turned_aside(const Vec3& direction, const Vec3& left, double angle);

}  // namespace dardo::detail
