#pragma once
#include <cstdint>
#include <string>
#include <variant>
#include <vector>

#include "dardo/geometry/vec.hpp"

namespace dardo {

/// How much of a strength arrives at a distance.
struct FalloffPoint {
  double distance = 0, factor = 1;
  friend bool operator==(const FalloffPoint&, const FalloffPoint&) = default;
};

/// A strike pushes the body, once however many hitboxes it touches. Dardo says how; the game moves it.
struct Push {
  /// By the distance from the centre of what strikes to the point that it touches, up to `range`, beyond
  /// which nothing arrives: all of it; 1 - d; 1 - 3 d² + 2 d³; (1 - d)², with d = distance / range.
  enum class Falloff : std::uint8_t { none, linear, smooth, square };
  enum class Toward : std::uint8_t {
    outward,  ///< from the centre of what strikes to the body's origin
    along,    ///< `direction`, in the world
    blow,     ///< against the normal where it is touched
  };
  enum class As : std::uint8_t { velocity, impulse };

  double strength = 1;  ///< m/s, or N s; below 0 it pulls
  As as = As::velocity;
  Falloff falloff = Falloff::none;
  double range = 1;                  ///< metres, for a falloff
  std::vector<FalloffPoint> points;  ///< instead of a falloff: factors by distance, evenly between them
  Toward toward = Toward::outward;
  Vec3 direction{0, 0, 1};     ///< with `along`; else of a body whose origin is the very centre
  std::string mass = "mass";   ///< the number of a body that an impulse is divided by
  bool by_share_seen = false;  ///< less by the share of it that is seen

  friend bool operator==(const Push&, const Push&) = default;
};

using Effect = std::variant<Push>;

/// What a push comes to.
struct PushDone {
  Vec3 velocity;      ///< by so much the body's velocity changes, m/s; 0 where its mass is not known
  Vec3 impulse;       ///< N s; 0 of one that is a change of velocity
  double factor = 1;  ///< what falloff and the share seen have left of the strength

  friend bool operator==(const PushDone&, const PushDone&) = default;
};
using EffectDone = std::variant<PushDone>;

}  // namespace dardo
