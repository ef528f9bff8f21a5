#pragma once
#include <cstdint>
#include <span>
#include <tuple>
#include <utility>
#include <vector>

#include "dardo/resolve/skirmish.hpp"

namespace dardo {

/// Goes through two sorted sets of touches side by side: `begins(touching)` for those that only `now` has,
/// `goes_on` for those of both, `is_over` for those that only `before` has; in their order.
template <class Begins, class GoesOn, class IsOver>
void compare(std::span<const Touching> before, std::span<const Touching> now, Begins&& begins,
             GoesOn&& goes_on, IsOver&& is_over) {
  const auto key = [](const Touching& o) { return std::tuple(o.launch, o.shot, o.order); };
  std::size_t b = 0, n = 0;
  while (b < before.size() || n < now.size()) {
    if (n == now.size() || (b < before.size() && key(before[b]) < key(now[n]))) {
      is_over(before[b++]);
    } else if (b == before.size() || key(now[n]) < key(before[b])) {
      begins(now[n++]);
    } else {
      ++b, goes_on(now[n++]);
    }
  }
}

/// Tells what has changed since it last looked at a skirmish:
///
///     TouchWatch watch;
///     each tick, after `advance`:
///       watch.look(live, on_begin, on_goes_on, on_over);
///
/// All that it remembers is the last set, and that is worked out from where everybody is: after a restore,
/// `reset` is all it takes.
class TouchWatch {
 public:
  template <class Begins, class GoesOn, class IsOver>
  void look(const Skirmish& skirmish, Begins&& begins, GoesOn&& goes_on, IsOver&& is_over) {
    skirmish.touching(now_);
    compare(before_, now_, begins, goes_on, is_over);
    std::swap(before_, now_);
  }
  /// As if it had looked at this moment.
  void reset(const Skirmish& skirmish) { skirmish.touching(before_); }

 private:
  std::vector<Touching> before_, now_;
};

}  // namespace dardo
