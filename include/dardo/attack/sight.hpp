#pragma once
#include <cstdint>
#include <optional>

#include "dardo/arena/faction.hpp"
#include "dardo/arena/wall.hpp"

namespace dardo {

/// What it takes to see a body.
struct Sight {
  enum class From : std::uint8_t { middle, eyes, muzzle };
  enum class To : std::uint8_t { nearest, centre, zones, points };

  Sight() = default;
  Sight(Passage what) : through(what) {}

  Passage through = Passage::sight;  ///< walls that block this stand in the way
  From from = From::middle;          ///< of the area, or where a shot is; else the attacker's
  std::optional<Vec3> place;         ///< instead: a place in the world
  /// What of the body is looked at: the point nearest to the middle; its centre; the middles of its hitboxes;
  /// or points all over their volume, a fixed set.
  To to = To::nearest;
  double least = 0;           ///< of these so large a share must be seen; 0: any
  double thickness = 0;       ///< a ball of this radius must pass, metres
  Relations blocked_by;       ///< bodies of these relations stand in the way, too
  bool scales_power = false;  ///< the share that is seen is a factor of the power

  friend bool operator==(const Sight&, const Sight&) = default;
};

}  // namespace dardo
