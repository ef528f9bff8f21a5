#pragma once
#include <cstdint>

#include "dardo/geometry/vec.hpp"

namespace dardo::detail {

/// What a number is drawn for; part of its key, so that one use never shifts another's numbers.
enum class Draw : std::uint32_t { spread, speed, jitter };

/// A number in [0, 1) that depends on its key alone (Salmon et al., Parallel Random Numbers: As Easy as 1, 2,
/// 3, 2011: Philox 4x32-10): the same in any order, on any thread, on any machine.
double chance(std::uint64_t seed, std::uint32_t flight, Draw what, std::uint32_t counter);

/// `direction` turned by `angle` toward a side that `around` says, radians.
Vec3 turned_aside(const Vec3& direction, double angle, double around);

}  // namespace dardo::detail
