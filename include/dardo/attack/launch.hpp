#pragma once
#include <cstdint>
#include <optional>
#include <string>
#include <variant>

#include "dardo/arena/ids.hpp"
#include "dardo/attack/order.hpp"
#include "dardo/attack/sight.hpp"
#include "dardo/geometry/rotation.hpp"

namespace dardo {

/// Along the attacker's facing.
struct AlongFacing {};
/// At a body: its centre, the middle of a zone (of the first hitbox with that name), or a named point of its
/// build: "eyes", or a muzzle. One of the two at most.
struct AtBody {
  BodyId body;
  std::string zone;
  std::string point = {};
};
/// At a place in the world.
struct AtPlace {
  Vec3 place;
};
/// Along a direction in the world; its length does not matter, but must not be 0.
struct AlongDirection {
  Vec3 direction;
};

/// At whoever comes first of those that the attack may strike, as a tower picks its target: judged when it
/// sets off, from the muzzle.
struct AtChoice {
  double within = 100;         ///< metres, to the nearest point of a hitbox
  Order order;                 ///< the nearest unless said
  std::optional<Sight> sight;  ///< whom it must see

  friend bool operator==(const AtChoice&, const AtChoice&) = default;
};

/// What a launch is aimed at; a body's id alone will do.
struct Toward : std::variant<AlongFacing, AtBody, AtPlace, AlongDirection, AtChoice> {
  using variant::variant;
  Toward() = default;
  Toward(BodyId body) : variant(AtBody{body, {}}) {}
};

/// How a shot is aimed at its target.
enum class Aiming : std::uint8_t {
  direct,  ///< along the straight line to it
  lead,    ///< so as to meet it: where it will be, over the lower arc when it falls
  high,    ///< the same over the higher arc
};

/// Where an attack comes from that no body makes: a spring gun in a wall, a cloud.
struct FromPlace {
  Pose pose;          ///< its x axis is where it faces
  FactionId faction;  ///< for whom it attacks

  friend bool operator==(const FromPlace&, const FromPlace&) = default;
};

/// One use of an attack.
struct Launch {
  std::string id;  ///< for people; may be empty
  BodyId by;       ///< empty when it comes `from` a place
  Toward toward;
  std::string muzzle;  ///< empty: the attacker's first muzzle, or its centre when it has none
  /// Where its muzzle is in the world, metres, instead of one of the build: of a game that poses it itself.
  std::optional<Vec3> muzzle_at = {};
  std::uint64_t seed = 0;
  Aiming aim = Aiming::direct;
  /// When it sets off, seconds from 0 to 1e9 on the clock of tracks. In a running game: on its clock, with
  /// the next tick if that is past.
  double at_s = 0;
  std::optional<FromPlace> from;  ///< instead of a body
  /// The direction in which a straight, falling or guided shot leaves, where that is not toward its target:
  /// a rocket out of a shaft. Its length does not matter, but must not be 0.
  std::optional<Vec3> leaving;
};

}  // namespace dardo
