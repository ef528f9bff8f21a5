#pragma once
#include <limits>
#include <optional>
#include <vector>

#include "dardo/arena/track.hpp"
#include "dardo/attack/attack.hpp"
#include "geometry/detail/region.hpp"

namespace dardo::detail {

/// What of an attack stays for a time: an area, a blade, a trap, a body that dashes. All times are since it
/// began.
struct LastingPlan {
  static constexpr std::uint32_t kAny = 0xffffffffu;

  enum class Does : std::uint8_t { strikes, swings, sets_off, dashes };
  Does does = Does::strikes;
  double from_s = 0, to_s = 0;  ///< while it is there, both included
  double every_s = std::numeric_limits<double>::infinity();
  std::uint32_t most = kAny;     ///< how often it strikes, or goes off, in all
  std::uint32_t at_once = kAny;  ///< how many bodies inside count
  double rest_s = 0;             ///< after it has gone off
  bool stopped_by_walls = false;
  Hangs on = Hangs::place;
  AreaDelivery::Inside inside = AreaDelivery::Inside::touches;
  double vulnerable = 0;
  bool struck_sets_off = false;

  /// The way of its frame in the one that it hangs on.
  std::vector<Leg> way;
  bool by_hitboxes() const { return does == Does::dashes; }  ///< those of the body that it hangs on
  struct Size {
    double time_s;
    AreaShape shape;
    double reach;  ///< no part of it is farther from its origin
  };
  std::vector<Size> sizes;       ///< at least one, by time
  std::optional<Region> region;  ///< while it does not grow, and is no ball
  std::optional<double> ball;    ///< the radius of one that does not grow
  bool grows = false;
  bool convex = false;
  double hole = 0;  ///< what it leaves out around its middle is no smaller than this; 0: nothing
};

/// Nothing of an attack that is over in an instant, or flies.
std::optional<LastingPlan> lasting_plan(const Attack& attack);

/// Of two of a kind: how far a place of the one is at most from where it comes to in the other.
double farthest_apart(const AreaShape& a, const AreaShape& b);

}  // namespace dardo::detail
