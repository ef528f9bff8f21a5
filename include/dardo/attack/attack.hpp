#pragma once
#include <cstdint>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "dardo/arena/faction.hpp"
#include "dardo/arena/wall.hpp"
#include "dardo/problem.hpp"

namespace dardo {

/// Which hitbox of a struck body counts.
enum class ZoneRule : std::uint8_t {
  first,  ///< the first that is touched
  best,   ///< the touched one with the highest factor; the contact point is still that of the first contact
};

/// An instant straight line from the muzzle: it strikes the nearest eligible body, and stops at walls that
/// block shots.
struct RayDelivery {
  friend bool operator==(const RayDelivery&, const RayDelivery&) = default;
};

/// Everything within a ball at one instant.
struct AreaDelivery {
  enum class Around : std::uint8_t { aim, attacker };
  enum class SightFrom : std::uint8_t { middle, eyes };

  double radius = 1;                         ///< metres
  Around around = Around::aim;               ///< where the middle is: the aim point, or the attacker's centre
  SightFrom sight_from = SightFrom::middle;  ///< `eyes`: the attacker's; only for areas around the attacker

  friend bool operator==(const AreaDelivery&, const AreaDelivery&) = default;
};

using Delivery = std::variant<RayDelivery, AreaDelivery>;

/// How far an attack reaches, metres from its origin; both limits belong to it. For a ray: the travel to the
/// contact. For an area: how far from the attacker's centre its middle may lie.
struct Reach {
  double near = 0;
  double far = 100;

  friend bool operator==(const Reach&, const Reach&) = default;
};

/// What an attack is: data, and nothing else.
struct Attack {
  std::string name;
  Delivery delivery;
  Reach reach;
  Relations who{Relation::foe};      ///< whom it strikes, seen from the attacker
  Relations stopped_by;              ///< bodies of these relations stop a ray without being struck
  std::vector<std::string> tags;     ///< what the attack is: bodies immune to one of them are passed
  std::vector<std::string> needs;    ///< tags that a target must have, all of them
  std::vector<std::string> forbids;  ///< tags that a target must not have, none of them
  std::optional<Passage> sight;  ///< an area: a wall blocking this cuts the line from the middle to a target
  std::optional<std::uint32_t> cap;  ///< an area: how many bodies at most, nearest first
  ZoneRule zone = ZoneRule::first;
  double power = 1;  ///< before any factor

  friend bool operator==(const Attack&, const Attack&) = default;
};

/// Everything that is wrong with the attack by itself.
Problems check(const Attack& attack);

}  // namespace dardo
