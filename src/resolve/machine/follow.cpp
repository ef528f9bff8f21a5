// What follows, at once or later.
#include <algorithm>

#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {

void Machine::begin_after(Start start, double delay) {
  if (!(delay > 0)) return lead_to(std::move(start));
  Launched& l = launches_[start.launch];
  start.time += delay, start.led_to = ++l.serial;
  l.pending += start.is_pending();
  later_.push_back(std::move(start));
  std::push_heap(later_.begin(), later_.end(), begins_after);
}

void Machine::follow_from(const Start& from, Then::When when) {
  launches_[from.launch].prepared->each_then(from.stage, when, [&](std::uint32_t child, double delay) {
    Start next = from;
    next.stage = child, next.cause.key = chance_key(from.cause.key, child);
    begin_after(std::move(next), delay);
  });
}

void Machine::follow_strike(LaunchSlot launch, const Strike& s, std::uint32_t number, std::uint64_t key) {
  follow_from({.launch = launch,
               .stage = s.stage,
               .time = s.time_s,
               .anchor = {s.point, -s.normal, s.body},
               .target = s.body,
               .aim = s.point,
               .cause = {number, key}},
              Then::When::strike);
}

/// A strike that comes later than its instant, if its body still stands.
void Machine::land(const Start& start, Listener& listener) {
  Strike s = *start.staggered;
  if (!motions_.stands(s.body)) return;
  // Made-up bytes may mean a body that has come since then.
  if (s.hitbox >= arena_->build(arena_->body(s.body).build).hitboxes.size()) return;
  s.seen_s = s.time_s = start.time;
  if (launches_[start.launch].strikes >= limits_.strikes)
    return meet_limit(start.launch, Limit::strikes, start.time, listener);
  const std::uint32_t number = record_strike(s, start.launch, start.cause.key, listener);
  follow_strike(start.launch, s, number, start.cause.key);
}

/// What an instant has led to comes after it, at the same time, and what that leads to after that.
void Machine::begin_starts(Listener& listener) {
  const auto place = [&](const Start& s) {
    return place_of_start(launches_[s.launch].number, s.stage, s.cause.strike, s.led_to);
  };
  for (std::size_t next = 0; next < starts_.size();) {
    std::sort(starts_.begin() + static_cast<std::ptrdiff_t>(next), starts_.end(),
              [&](const Start& a, const Start& b) { return place(a) < place(b); });
    for (const std::size_t last = starts_.size(); next < last; ++next) {
      const Start start = starts_[next];
      if (start.hops()) {
        arrive(start, listener);
      } else if (start.staggered) {
        land(start, listener);
      } else if (start.by_launch) {
        begin_launch(start, listener);
      } else {
        begin_rounds(start, listener);
        begin(start, listener);
      }
    }
  }
  starts_.clear();
}

}  // namespace dardo::detail
