#pragma once
#include <array>
#include <cstddef>
#include <optional>

#include "dardo/geometry/vec.hpp"

// With which velocity a shot must leave in order to meet a target that moves steadily.
namespace dardo {

/// What is aimed at.
struct Target {
  Vec3 at, velocity;  ///< metres, m/s
};

/// One way to meet it.
struct Arc {
  Vec3 velocity;      ///< at the start, m/s
  double time_s = 0;  ///< until they meet
  Vec3 meets;         ///< where
};

/// The ways to meet it, soonest first; none when the speed does not do.
struct Arcs {
  std::array<Arc, 2> arc{};
  std::size_t count = 0;
  double more_speed = 0;  ///< when there is none: how much more speed the least one takes, m/s

  const Arc* begin() const { return arc.data(); }
  const Arc* end() const { return arc.data() + count; }
};

/// Straight at a steady speed: the roots of a quadratic.
Arcs lead(const Vec3& from, const Target& target, double speed);

/// Under gravity: the lower arc and the higher one. The roots of a quartic in the time, isolated between
/// those of its derivatives and halved down to the last bit. Of more than two the first two are given.
Arcs arcs(const Vec3& from, const Target& target, double speed, const Vec3& gravity);

/// The least speed that meets it at all, and its arc. Closed form for a target at rest, and without gravity
/// for one that comes nearer; else by the golden section around the best of a thousand times.
Arc least_speed_arc(const Vec3& from, const Target& target, const Vec3& gravity);

/// The arc that takes just this time; closed form. Requires a time above 0.
Arc arc_in(const Vec3& from, const Target& target, const Vec3& gravity, double time_s);
/// The arc whose highest point is `rise` above the higher of start and meeting point. Nothing without
/// gravity, or when a moving target is not met so.
std::optional<Arc> arc_over(const Vec3& from, const Target& target, const Vec3& gravity, double rise);
/// The arc that leaves `elevation` radians above the level, with whatever speed; for a target at rest.
/// Nothing when no speed does.
std::optional<Arc> arc_at(const Vec3& from, const Vec3& to, const Vec3& gravity, double elevation);

}  // namespace dardo
