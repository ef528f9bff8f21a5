#pragma once
#include "dardo/aim/arc.hpp"
#include "dardo/resolve/aimed.hpp"
#include "resolve/carriers/shot/touch.hpp"
#include "resolve/moment/moment.hpp"

namespace dardo::detail {

/// A target on the move: a point of a body's frame, or a place.
struct AimedAt {
  BodyId body;
  Vec3 point;  ///< in the body's frame, or in the world

  Vec3 at(const Motions& motions, double time) const {
    return body.empty() ? point : motions.leg(body, time).at(time) * point;
  }
};
std::optional<AimedAt> aimed_at(const Moment& moment, const Launch& launch);

/// A place in the world at a time, as a point of the body that stands there.
AimedAt at_of(const Motions& motions, BodyId body, const Vec3& place, double time);

/// Lets what is thrown to arrive, and does not follow its target, be thrown at where that will be: sets the
/// course's aim.
void throw_at(Course& course, const ShotDelivery& shot, const Motions& motions, const Vec3& from,
              const AimedAt& target, const Thrower& by);

/// Where a shot passes nearest to its target.
struct Pass {
  double time = 0, off = 0;
  Vec3 place, target, velocity;
};
/// What a search may cost: so many steps of flights, after which it has found what it has found. What flies
/// for an hour a hundred times over has that bound, too.
struct SearchSteps {
  std::uint32_t left = 400000;
  bool take() { return left > 0 && left-- > 0; }
};
/// With `sinking` only where it does not rise any more.
Pass fly_past(const Motions& motions, const ShotPath& path, const Course& start, double life_s,
              const AimedAt& target, bool sinking, SearchSteps& steps);

/// The same of what falls and is slowed, on the steps that its law alone asks for: a tenth of the work, where
/// one is sought among many.
Pass fall_past(const Motions& motions, const FallingPath& path, const Course& start, double life_s,
               const AimedAt& target, bool sinking, SearchSteps& steps);

/// The ways to meet the target from a place at a time, lower arc first; those that a search could not make
/// arrive are left out.
std::vector<Aimed> ways_to_meet(const Motions& motions, const ShotDelivery& shot, const Vec3& from,
                                double time, double speed, const AimedAt& target, const Thrower& by,
                                double& more_speed, SearchSteps& steps);

/// The same, in a search of its own.
inline std::vector<Aimed> ways_to_meet(const Motions& motions, const ShotDelivery& shot, const Vec3& from,
                                       double time, double speed, const AimedAt& target, const Thrower& by) {
  double more_speed = 0;
  SearchSteps steps;
  return ways_to_meet(motions, shot, from, time, speed, target, by, more_speed, steps);
}

}  // namespace dardo::detail
