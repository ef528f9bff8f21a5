#pragma once
#include <limits>
#include <vector>

#include "dardo/prefetch.hpp"
#include "resolve/carriers/shot/flight.hpp"
#include "resolve/rules/slots.hpp"

namespace dardo::detail {

/// First looks at flights: most meet nothing in a tick, and one query tells so for several ticks at once.
/// Looks decide nothing. Where it is now, how fast, and what was seen stands in lists of their own: of a
/// flight that meets nothing nothing else is fetched, or written; its course stays at an earlier time and is
/// brought up to date when something comes near.
class Looks {
 public:
  /// What a look at a flight needs.
  struct alignas(64) First {
    double quiet_until = 0;  ///< nothing but a contact can come before; 0: no look at this one
    double time = 0;
    Vec3 at, velocity, acceleration;
    double reach = 0;                            ///< of its shape
    BodyId passed;                               ///< is no concern of it any more
    int ticks = 4;                               ///< that the next look covers
    std::uint32_t row = 0xffffffffu, stage = 0;  ///< of its attack, in the roster

    Vec3 place(double t) const {
      const double s = t - time;
      return at + (velocity + acceleration * (0.5 * s)) * s;
    }
  };

  void clear() { first_.clear(), clear_.clear(), drift_ = 0; }
  /// So many places there are; nothing is in those that are new.
  void fit(std::uint32_t places) { first_.resize(places), clear_.resize(places, kOver); }
  /// Knows nothing of what is in a place, which may be new.
  void add(ShotSlot slot);
  void set(ShotSlot slot, const Flight& flight, const Launched& launched, const Surroundings& around);
  void over(ShotSlot slot) { clear_[slot.at] = kOver; }
  /// What was seen ahead does not hold any more: something has been put elsewhere, not by the ways of a tick.
  void anew(ShotSlot slot) { clear_[slot.at] = {}; }
  /// The same of those that may come near bodies that go far, or have arrived, in the window that begins at a
  /// time; before `move_on`.
  void anew_near(const BoxSet& ways, double time);
  /// A window begins, in which bodies go so far at most.
  void move_on(double slow_way) { drift_ += slow_way; }
  void prefetch_at(ShotSlot slot) const { prefetch(first_[slot.at]); }

  const First& first(ShotSlot slot) const { return first_[slot.at]; }
  /// A box around the way that it will have in the window of which a look tells that it meets nothing.
  Bounds way_box(ShotSlot slot, const Surroundings& around) const;
  /// Whether two of that kind may come so near each other in the window, besides their own reach.
  bool may_meet(ShotSlot one, ShotSlot other, double room, const Surroundings& around) const;
  /// Whether a look could tell anything of it in this window.
  bool may_tell(ShotSlot slot, const Surroundings& around) const {
    return around.until < first_[slot.at].quiet_until;
  }
  /// Whether an earlier look has seen that it meets nothing in this window.
  bool is_clear(ShotSlot slot, const Surroundings& around) const {
    return around.until <= clear_[slot.at].until && drift_ <= clear_[slot.at].drift;
  }
  /// Whether it meets nothing in this window, for all that a look can tell.
  bool is_quiet(ShotSlot slot, const Surroundings& around);

 private:
  /// What the last look at a flight has seen: nothing in its way before a time, while bodies have gone no
  /// farther than this, on the scale of `drift_`. Of one that is over: for ever.
  struct Clear {
    double until = 0, drift = 0;
  };
  static constexpr Clear kOver{std::numeric_limits<double>::infinity(),
                               std::numeric_limits<double>::infinity()};

  std::vector<First> first_;  ///< at each flight
  std::vector<Clear> clear_;  ///< of each flight
  double drift_ = 0;          ///< how far a body can have gone in all windows so far
};

}  // namespace dardo::detail
