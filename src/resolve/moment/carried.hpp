#pragma once
#include <algorithm>
#include <vector>

#include "dardo/arena/arena.hpp"

namespace dardo::detail {

/// A body that the machine carries, from a time on, wherever its track or the game would have it.
struct Carried {
  BodyId body;
  std::vector<Leg> legs;  ///< the first begins it, the last has no end
  std::uint32_t launch;   ///< the number of the one that carries it

  double from() const { return legs.front().start; }
  const Leg& at(double time) const {
    const auto next = std::upper_bound(legs.begin() + 1, legs.end(), time,
                                       [](double t, const Leg& leg) { return t < leg.start; });
    return next[-1];
  }
};

/// In the order in which they began.
using AllCarried = std::vector<Carried>;

inline bool is_carried(const AllCarried& all, BodyId body) {
  return std::any_of(all.begin(), all.end(), [&](const Carried& c) { return c.body == body; });
}
/// Of those of a body the last that has begun by then.
inline const Carried* carried_at(const AllCarried& all, BodyId body, double time) {
  const Carried* found = nullptr;
  for (const Carried& c : all) {
    if (c.body == body && c.from() <= time) found = &c;
  }
  return found;
}
/// When the next of a body begins, if that is before `end`.
inline double next_carried(const AllCarried& all, BodyId body, double time, double end) {
  for (const Carried& c : all) {
    if (c.body == body && c.from() > time) end = std::min(end, c.from());
  }
  return end;
}

}  // namespace dardo::detail
