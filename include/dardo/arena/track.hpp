#pragma once
#include <span>
#include <vector>

#include "dardo/geometry/rotation.hpp"

namespace dardo {

/// Where a body is at a time.
struct TrackKey {
  double time_s = 0;
  Pose pose;
  friend bool operator==(const TrackKey&, const TrackKey&) = default;
};

/// A stretch of time in which something moves steadily and turns steadily about an axis.
struct Leg {
  double start = 0, end = 0;  ///< seconds
  Pose from;                  ///< at the start
  Vec3 velocity;              ///< m/s
  Vec3 axis{0, 0, 1};         ///< of the turn, one metre long
  double turn_rate = 0;       ///< radians a second

  Pose at(double time) const;
  /// How fast a point of its frame moves in the world, m/s.
  Vec3 velocity_of(const Vec3& point, double time) const { return velocity_of(point, at(time)); }
  Vec3 velocity_of(const Vec3& point, const Pose& then) const;  ///< of what has this pose by then
  bool still() const { return velocity == Vec3{} && turn_rate == 0; }
  friend bool operator==(const Leg&, const Leg&) = default;
};

/// The steady motion from one pose to another.
Leg leg_between(double start, const Pose& from, double end, const Pose& to);

/// The leg of a track that holds `time` and what comes right after it. Before the first key and after the
/// last the body stands still; two keys at one time are a jump. Requires at least one key, with times that do
/// not fall.
Leg leg_at(std::span<const TrackKey> track, double time);

/// All legs of a track, with the rest before the first key and after the last: one more than it has keys. Of
/// two keys at one time the leg has no length. Nothing without keys.
std::vector<Leg> legs_of(std::span<const TrackKey> track);

}  // namespace dardo
