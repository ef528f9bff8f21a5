#pragma once
#include <cstdint>
#include <span>
#include <tuple>
#include <utility>
#include <vector>

#include "dardo/resolve/skirmish.hpp"

namespace dardo {

/// Goes through two sorted sets of overlaps side by side: `enter(overlap)` for those that only `now` has,
/// `stay` for those of both, `leave` for those that only `before` has; in their order.
template <class Enter, class Stay, class Leave>
void compare(std::span<const Overlap> before, std::span<const Overlap> now, Enter&& enter, Stay&& stay,
             Leave&& leave) {
  const auto key = [](const Overlap& o) { return std::tuple(o.launch, o.shot, o.order); };
  std::size_t b = 0, n = 0;
  while (b < before.size() || n < now.size()) {
    if (n == now.size() || (b < before.size() && key(before[b]) < key(now[n]))) {
      leave(before[b++]);
    } else if (b == before.size() || key(now[n]) < key(before[b])) {
      enter(now[n++]);
    } else {
      ++b, stay(now[n++]);
    }
  }
}

/// Tells what has changed since it last looked at a skirmish:
///
///     OverlapWatch watch;
///     each tick, after `advance`:
///       watch.look(live, on_enter, on_stay, on_leave);
///
/// All that it remembers is the last set, and that is worked out from where everybody is: after a restore,
/// `reset` is all it takes.
class OverlapWatch {
 public:
  template <class Enter, class Stay, class Leave>
  void look(const Skirmish& skirmish, Enter&& enter, Stay&& stay, Leave&& leave) {
    skirmish.overlaps(now_);
    compare(before_, now_, enter, stay, leave);
    std::swap(before_, now_);
  }
  /// As if it had looked at this moment.
  void reset(const Skirmish& skirmish) { skirmish.overlaps(before_); }

 private:
  std::vector<Overlap> before_, now_;
};

}  // namespace dardo
