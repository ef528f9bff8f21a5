#pragma once
#include <cstdint>
#include <limits>
#include <optional>
#include <vector>

#include "dardo/attack/area.hpp"

namespace dardo {

/// What a blade does at a time: where its frame lies in that of the body, and how far it is turned.
struct SwingKey {
  double time_s = 0;  ///< since the swing began
  Vec3 at;            ///< of the blade's origin, in the body's frame
  /// About the swing's axis, radians, taken literally: from 350 to 10 degrees it turns back by 340, and from
  /// 0 to 720 twice round.
  double angle = 0;

  friend bool operator==(const SwingKey&, const SwingKey&) = default;
};

/// A blade that moves with the attacker's body, from one key to the next, each steadily. It strikes whoever
/// it touches while it is active, once each, at the exact time: however fast it is.
struct SwingDelivery {
  AreaShape blade = CapsuleArea{{0.3, 0, 0}, {1.5, 0, 0}, 0.05};  ///< in its own frame: x along it
  std::vector<SwingKey> keys;                                     ///< at least one; times rise
  Vec3 axis{0, 0, 1};  ///< of its turns, in the body's frame; its length does not matter
  double from_s = 0;   ///< active from this time on, since the swing began
  double to_s = std::numeric_limits<double>::infinity();  ///< to this one; the last key's at most
  std::optional<double> again_after_s;  ///< strikes whom it still touches again after so long
  bool stopped_by_walls = false;        ///< a wall that blocks shots ends it
  Hangs on = Hangs::attacker;           ///< as a follow-up it may swing from a place

  friend bool operator==(const SwingDelivery&, const SwingDelivery&) = default;
};

/// What waits in an area: whoever of `who` comes in sets it off, and what it does follows at `trigger`.
struct TrapDelivery {
  AreaShape shape = BallArea{};  ///< a line that is crossed: a capsule with no radius
  double armed_after_s = 0;      ///< whoever stands inside by then, sets it off then
  double for_s = 60;             ///< since it was put there
  std::uint32_t times = 1;       ///< how often it goes off
  double rest_s = 0;             ///< between one time and the next; whoever stands inside then sets it off
  Hangs on = Hangs::place;
  double vulnerable = 0;  ///< what strikes within so far of its middle ends it, metres; 0: nothing does
  bool struck_sets_off = false;  ///< it goes off as it is struck, once armed; else it is just gone

  friend bool operator==(const TrapDelivery&, const TrapDelivery&) = default;
};

}  // namespace dardo
