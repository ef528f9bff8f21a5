#pragma once
#include <cstdint>
#include <tuple>

#include "dardo/arena/arena.hpp"
#include "resolve/rules/tolerances.hpp"

// What comes first of what comes at once, or is equally far: said here alone. Places compare by `<`.
namespace dardo::detail {

/// Distances that differ by rounding are in one step: to the nearest, as adding so large a number rounds.
inline double in_steps(double distance) {
  const double steps = distance / kSamePlace;
  return steps < 0x1p51 ? (steps + 0x1.8p52) - 0x1.8p52 : steps;
}

/// Of carriers whose next comes in one instant: by launch, the number of the shot, then the shots that it
/// meets, by the same, and what else comes to it; then time.
inline auto place_in_instant(std::uint32_t launch, std::uint32_t number, std::uint32_t met_launch,
                             std::uint32_t met_number, double time) {
  return std::tuple(launch, number, met_launch, met_number, time);
}

/// Of what sets off at one time: by launch, stage, the strike that led to it; then as it was led to.
inline auto place_of_start(std::uint32_t launch, std::uint32_t stage, std::uint32_t cause,
                           std::size_t led_to) {
  return std::tuple(launch, stage, cause, led_to);
}

/// Of what one carrier meets in one instant: bodies by their creation, then walls, then the ground.
inline auto place_in_set(const Arena& arena, BodyId body, WallPartId wall) {
  const WallTable& walls = arena.wall_table();
  if (!body.empty()) return std::tuple(0, arena.order(body), 0u);
  if (wall.empty()) return std::tuple(2, std::uint64_t{0}, 0u);
  return std::tuple(1, walls.order(walls.wall_of(wall)), walls.number(wall));
}

/// Of bodies at a distance: the nearer, then the one created first.
inline auto place_at(double distance, const Arena& arena, BodyId body) {
  return std::tuple(in_steps(distance), arena.order(body));
}

/// Of shots at a distance: the nearer, then by launch and number.
inline auto place_at(double distance, std::uint32_t launch, std::uint32_t number) {
  return std::tuple(in_steps(distance), launch, number);
}

}  // namespace dardo::detail
