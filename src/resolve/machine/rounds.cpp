// Between a launch and its release, and the rounds of a burst.
#include "resolve/aim_point.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"

namespace dardo::detail {

/// From now on it is aimed at the point at which it is now.
void Machine::aim_now(Launched& l, double time) const {
  const Moment moment(motions_, time);
  if (const auto point = aim_point(moment, l.launch)) {
    l.launch.toward = AtPlace{*point};
  } else {
    l.launch.toward = AlongDirection{heading_of(moment, l.launch)};
  }
}

/// Whether it is released later.
bool Machine::wind_up(const Start& start) {
  Launched& l = launches_[start.launch];
  const auto& windup = l.stage(0).attack->windup;
  if (!windup || !(windup->for_s > 0)) return false;
  if (windup->aim == Windup::Aim::start) aim_now(l, start.time);
  Start released = start;
  released.wound = true, released.checked = false;
  begin_after(std::move(released), windup->for_s);
  return true;
}

/// What follows as it begins: at its muzzle; of what follows itself, from where that does.
void Machine::release(const Start& start, Listener& listener) {
  take_release(start, listener);
  const Launched& l = launches_[start.launch];
  if (!l.stage(start.stage).has(Then::When::release)) return;
  Start from = start;
  if (start.by_launch) {
    const Moment moment(motions_, start.time);
    const Vec3 muzzle = muzzle_point(moment, l.launch);
    from = {.launch = start.launch,
            .time = start.time,
            .anchor = {muzzle, heading_of(moment, l.launch), {}},
            .aim = aim_point(moment, l.launch).value_or(muzzle)};
  }
  from.round = 0;
  from.cause = {start.cause.strike, chance_key(start.cause.key, Then::When::release, 0, start.round)};
  follow_from(from, Then::When::release);
}

/// The rounds after the first.
void Machine::begin_rounds(const Start& start, Listener& listener) {
  Launched& l = launches_[start.launch];
  const auto& burst = l.stage(start.stage).attack->burst;
  if (!burst || start.round > 0) return;
  if (start.by_launch && burst->count > 1) {
    if (!burst->aims_anew) aim_now(l, start.time);
    if (!burst->follows_muzzle && !l.launch.from)
      l.launch.muzzle_at = muzzle_point(Moment(motions_, start.time), l.launch);
  }
  for (std::uint32_t i = 1; i < burst->count && may_wait(start.launch, start.time, listener); ++i) {
    Start round = start;
    round.round = i, round.wound = start.by_launch, round.checked = false;
    round.cause.key = chance_key(start.cause.key, Then::When::release, WallPartId::kNone, i);
    begin_after(std::move(round), burst->gap_s * i);
  }
}

}  // namespace dardo::detail
