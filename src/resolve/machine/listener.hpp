#pragma once
#include <vector>

#include "dardo/resolve/presence.hpp"
#include "dardo/resolve/ready.hpp"
#include "resolve/carriers/chain.hpp"
#include "resolve/carriers/lasting/lasting.hpp"
#include "resolve/carriers/shot/flight.hpp"

namespace dardo::detail {

/// What became of something that lasted.
struct LastingOver {
  const Lasting& lasting;  ///< as it was at its end
  Ended ended;
  double time;
  Vec3 place;
  Blocker by;
};

/// Told of everything as it happens, in order of time.
class Listener {
 public:
  /// Whether the struck body fell by it, from this moment on.
  virtual bool on_strike(const Strike& strike) = 0;
  /// The same of whom it came to.
  virtual bool on_happening(const Happening&) { return false; }
  /// A body has fallen: as the ledger or the listener itself has it.
  virtual void on_fell(BodyId, double) {}
  virtual void on_end(const Flown&) {}
  /// A launch does not begin: what its attacker is not ready for. Its end comes next.
  virtual void on_not_ready(LaunchSlot, const std::vector<NotReady>&) {}
  /// A launch means nothing any more when its time has come.
  virtual void on_refused(LaunchSlot, const Problems&, double) {}
  /// A shot sticks in what would have ended it so; its end comes later.
  virtual void on_stuck(const Flown&) {}
  virtual void on_over(const LastingOver&) {}
  virtual void on_chain(const Chain&) {}
  /// A body came into something that lasts, or is out of it.
  virtual void on_presence(const Presence&) {}
  virtual void on_down(const Downed&) {}
  virtual void on_limit(const LimitMet&) {}
  virtual void on_surface(LaunchSlot, const SurfaceMet&) {}
  /// A stretch that a shot has flown, with no contact but perhaps at its end.
  virtual void on_way(const Flight&, const std::vector<Piece>&) {}
  /// It goes back to where it was at a time: what it was told to have flown since then does not count.
  virtual void on_back(const Flight&, double) {}
  /// The instant of an area or a ray: its launch and stage, with its marks, and verdicts if wanted.
  virtual void on_instant(LaunchSlot, std::uint32_t, Outcome&) {}

 protected:
  ~Listener() = default;
};

}  // namespace dardo::detail
