#pragma once
#include <vector>

#include "dardo/record/outcome.hpp"
#include "resolve/carriers/lasting/plan.hpp"
#include "resolve/moment/moment.hpp"
#include "resolve/rules/act.hpp"
#include "resolve/rules/slots.hpp"

namespace dardo::detail {

/// A body that has been inside what lasts.
struct Guest {
  BodyId body;
  std::uint32_t times = 0;  ///< how often it was struck
  double since = 0;         ///< when it came in, the last time
  double asked = 0;         ///< when it was struck, or looked for in vain, the last time; by `times`, if ever
  bool inside = false, counts = false;
  bool was_asked = false;
};

/// Something that stays for a time: an area, a blade, a trap, a body that dashes.
struct Lasting {
  LaunchSlot launch;
  std::uint32_t stage = 0;
  std::uint32_t number = 0;       ///< among the carriers of its launch
  std::uint32_t cause = 0;        ///< the number of the strike that led to it, from 1; 0: none
  std::uint64_t key = 0;          ///< of all chance in it
  double began = 0;               ///< when its time began
  double time = 0;                ///< all up to then has been decided
  BodyId on;                      ///< what it hangs on
  Pose base;                      ///< of its frame in that one's, or in the world
  Pose stood;                     ///< where what it hung on was at last
  Vec3 origin;                    ///< where it began
  double away = 0;                ///< how far that is from the attacker's centre, as its reach counts it
  BodyId target;                  ///< of what follows from it
  std::vector<Leg> way;           ///< of a dash: its body's; where that lands it has no end
  std::uint32_t strikes = 0;      ///< or how often it has gone off
  std::uint32_t intervals = 0;    ///< that have come
  double rests = 0;               ///< until then it does not go off
  std::optional<ShotSlot> shell;  ///< what of it may be struck
  std::vector<Guest> guests;      ///< by their index

  Guest* find(BodyId body);
  const Guest* find(BodyId body) const { return const_cast<Lasting*>(this)->find(body); }
  Guest& meet(BodyId body);
};

/// Whether it is why something that would have lasted did not begin.
inline bool never_began(Ended why) {
  return why == Ended::out_of_reach || why == Ended::no_way || why == Ended::no_target;
}

/// Puts it where it begins, and hangs it on what it hangs on: without that it stays there. None, or why it is
/// out of reach.
Reason hang(const Act& act, const Moment& moment, Lasting& lasting);

}  // namespace dardo::detail
