#pragma once
#include <optional>
#include <string>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/attack.hpp"
#include "dardo/attack/launch.hpp"

namespace dardo {

/// One way to aim a shot, flown to see where it really goes.
struct Aimed {
  Vec3 direction;                    ///< at the muzzle, one metre long
  double speed = 0;                  ///< m/s
  double time_s = 0;                 ///< until it is nearest to the target
  Vec3 meets;                        ///< where its target then is
  double off = 0;                    ///< how far the shot then is from there, metres
  bool high = false;                 ///< over the higher arc
  bool late = false;                 ///< of two straight leads at what is faster: the one that meets it later
  std::optional<WallId> blocked_by;  ///< a wall that it meets before
  Vec3 blocked_at;
};

/// What can be done.
struct AimReport {
  std::vector<Aimed> ways;  ///< those that arrive, soonest first
  std::string problem;      ///< why there is none: "needs 3.1 m/s more"
  double more_speed = 0;    ///< m/s
  Problems problems;        ///< of the launch itself: nothing was tried then

  /// The first way that no wall blocks.
  const Aimed* best() const;
};

/// Every way to meet the target of a shot's launch: closed forms for straight and falling paths, and from
/// there a search on the real path, with its drag and its turning target, until it passes within 1e-9 m (with
/// drag 1e-6 m) or gets no nearer. A shot that only turns toward where its target is arrives when it strikes:
/// how near it passes is its own doing. Each way is confirmed by flying it, and flown past the walls. A
/// search has a bound, some tenths of a second: what would have to fly for an hour may be given up.
AimReport aim(const Arena& arena, const Attack& attack, const Launch& launch);

/// Of a straight or a falling shot: the least speed that arrives at all, and its way. Without drag, at what
/// moves steadily, closed or found to 1e-9 of itself; else halved down to 1e-6 of itself, each half a search
/// of its own: not for every tick. None of other shots, of launches with problems, and where every speed
/// arrives, or none.
std::optional<Aimed> least_speed(const Arena& arena, const Attack& attack, const Launch& launch);

/// Aimed so: straight below a distance, over the higher arc beyond it.
Aiming lob_beyond(const Arena& arena, const Launch& launch, double distance);

}  // namespace dardo
