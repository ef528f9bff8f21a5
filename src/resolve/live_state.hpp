#pragma once
#include <memory>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "dardo/resolve/skirmish.hpp"
#include "resolve/machine/machine.hpp"

namespace dardo {

struct Skirmish::State {
  explicit State(Arena& a) : arena(a), machine(a) {}

  Arena& arena;
  detail::Machine machine;
  std::vector<std::shared_ptr<detail::Prepared>> attacks;
  std::uint32_t next_launch = 0;
  std::vector<std::pair<BodyId, Pose>> moves, moving, jumping;
  std::vector<std::uint32_t> move_of;  ///< by slot: which of the moves is its
  bool ticking = false;
  std::uint64_t removals = 0;  ///< of the arena, when the last tick began
  std::vector<Leg> legs;       ///< by slot
  /// How far bodies go in the tick, at most; endless when not on one leg.
  struct Way {
    BodyId body;
    double length;
  };
  std::vector<Way> ways;
  std::vector<double> sample;
  detail::FarWays far, arrived;
  std::vector<std::pair<WallId, Pose>> wall_moves, walls_jumping;
  detail::BoxSet wall_ways;                    ///< of walls that move in the tick
  std::uint64_t placements = 0, arrivals = 0;  ///< of the arena, when the last tick was over

  std::vector<BodyId> interrupted;  ///< dashes of these, whom the game has moved
  std::vector<DashView> dashes;

  void find_interrupted(double start);
  void put_carried(double end);
  void end_tick(double end);
  void set_bodies_moving(double start, double end);
  void set_walls_moving(double start, double end);
  double border();
  double part_far_ways(double start, double end);
  std::optional<std::span<const BodyId>> newly_placed() const;
};

}  // namespace dardo
