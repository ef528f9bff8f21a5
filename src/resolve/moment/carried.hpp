#pragma once
#include <algorithm>
#include <vector>

#include "dardo/arena/arena.hpp"

namespace dardo::detail {

/// A body that the machine carries, from a time on, wherever its track or the game would have it.
struct Carried {
  BodyId body;
  std::vector<Leg> legs;  ///< one after the other; the last has no end
  std::uint32_t launch;   ///< the number of the one that carries it now

  double from() const { return legs.front().start; }
  const Leg& at(double time) const {
    const auto next = std::upper_bound(legs.begin() + 1, legs.end(), time,
                                       [](double t, const Leg& leg) { return t < leg.start; });
    return next[-1];
  }
  /// It goes another way, from where that begins on.
  void turn_to(const std::vector<Leg>& way) {
    while (!legs.empty() && legs.back().start >= way.front().start) legs.pop_back();
    if (!legs.empty()) legs.back().end = way.front().start;
    legs.insert(legs.end(), way.begin(), way.end());
  }
};

using AllCarried = std::vector<Carried>;

inline const Carried* find_carried(const AllCarried& all, BodyId body) {
  const auto at = std::find_if(all.begin(), all.end(), [&](const Carried& c) { return c.body == body; });
  return at != all.end() ? &*at : nullptr;
}

}  // namespace dardo::detail
