// Who comes into what lasts, is out of it again, is struck by it, or sets it off.
#include <algorithm>

#include "resolve/carriers/lasting/extent.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/work.hpp"

namespace dardo::detail {

/// All that comes to it in one instant, as one set: who is out, who is in, whom it strikes. Whether it goes
/// on.
bool Machine::meet(LastingSlot slot, const Extent& extent, Listener& listener) {
  Stay& s = lastings_[slot];
  Lasting& l = s.lasting;
  Launched& launched = launches_[l.launch];
  const Stage& stage = launched.stage(l.stage);
  const LastingPlan& plan = *stage.lasting;
  const Act act(motions_, stage, launched.launch, launched.faction, motions_.state_time(until_), nullptr,
                l.key);
  std::sort(came_.begin(), came_.end(), [&](const Coming& a, const Coming& b) {
    const auto order = [&](const Coming& c) { return arena_->has(c.body) ? arena_->order(c.body) : 0; };
    return std::tuple(a.what, order(a)) < std::tuple(b.what, order(b));
  });
  const auto moves = [&](const Coming& c, Then::When when) {
    listener.on_presence({launched.number, l.stage, l.number, c.body, when == Then::When::comes_in, c.time});
    if (!stage.has(when)) return;
    const bool there = arena_->has(c.body);
    const Vec3 at = there ? motions_.center(c.body, l.time) : extent.frame(l.time).at;
    const std::uint64_t whom = there ? arena_->order(c.body) : 0;
    follow(l, when, extent.frame(l.time), there ? c.body : BodyId{}, at,
           {l.cause, chance_key(l.key, when, whom, l.find(c.body)->times)});
  };
  for (const Coming& c : came_) {
    if (c.what == Coming::What::leaves) {
      Guest& g = l.meet(c.body);
      g.inside = g.counts = false;
      moves(c, Then::When::goes_out);
    }
    if (c.what == Coming::What::enters && motions_.stands(c.body)) {
      ++work().contacts;
      if (launched.contacts++ >= limits_.contacts) {
        meet_limit(l.launch, Limit::contacts, l.time, listener);
        end(slot, Ended::limit, {}, listener);
        return false;
      }
      Guest& g = l.meet(c.body);
      g.inside = true, g.since = c.time;
      // The clock of strikes goes on; a trap is set off by each coming in.
      if (plan.does == LastingPlan::Does::sets_off) g.was_asked = false;
      moves(c, Then::When::comes_in);
    }
  }
  if (plan.does != LastingPlan::Does::sets_off && !strike_inside(slot, extent, act, listener)) return false;
  for (const Coming& c : came_) {
    if (c.what != Coming::What::wall) continue;
    Blocker by;
    by.wall = c.wall;
    end(slot, c.wall.empty() ? Ended::ground : Ended::wall, by, listener);
    return false;
  }
  // What comes next of those who came or went.
  for (const Coming& c : came_) expect_anew(s, extent, act, c.body);
  return true;
}

void Machine::expect_anew(Stay& s, const Extent& extent, const Act& act, BodyId body) {
  if (!arena_->has(body)) return;
  std::erase_if(s.coming, [&](const Coming& c) { return c.body == body && c.what != Coming::What::wall; });
  const auto before = static_cast<std::ptrdiff_t>(s.coming.size());
  expect(s, extent, act, body, s.lasting.time);
  for (auto fresh = s.coming.begin() + before; fresh != s.coming.end(); ++fresh)
    std::rotate(std::upper_bound(s.coming.begin(), fresh, *fresh, comes_before), fresh, fresh + 1);
}

/// Lets those in whom a cap leaves room for, and strikes those inside whose time has come.
bool Machine::strike_inside(LastingSlot slot, const Extent& extent, const Act& act, Listener& listener) {
  Lasting& l = lastings_[slot].lasting;
  const LastingPlan& plan = *act.stage.lasting;
  const Moment moment(motions_, l.time);
  const Extent::Covered covered = extent.covered(l.time);
  const AreaCarrier carrier(act, moment, extent.cover(covered), extent.frame(l.time));
  // Of a body's hitboxes each guest is met by the one that is nearest.
  Extent::Covered nearest;
  std::optional<AreaCarrier> by_nearest;
  const auto carrier_of = [&](BodyId body) -> const AreaCarrier& {
    if (!plan.by_hitboxes()) return carrier;
    nearest = extent.covered(l.time, body);
    return by_nearest.emplace(act, moment, extent.cover(nearest), extent.frame(l.time));
  };
  inside_.clear();
  std::uint32_t counted = 0;
  for (const Guest& g : l.guests) counted += g.counts;
  for (const Guest& g : l.guests) {
    if (!g.inside || !motions_.stands(g.body)) continue;
    const bool waits = !g.counts && counted < plan.at_once,
               due = g.counts && (!g.was_asked || g.asked + plan.every_s <= l.time + kInstant);
    if (!waits && !due) continue;
    const AreaCarrier& meets = carrier_of(g.body);
    inside_.push_back({g.body, {}, meets.met(g.body)});
    inside_.back().candidate = meets.candidate(inside_.back().met);
  }
  std::sort(inside_.begin(), inside_.end(), [&](const Inside& a, const Inside& b) {
    return carrier.choice().before(a.candidate, b.candidate);
  });
  Launched& launched = launches_[l.launch];
  for (const Inside& in : inside_) {
    Guest& g = *l.find(in.body);
    if (!g.counts) {
      if (counted >= plan.at_once) continue;
      g.counts = true, ++counted;
      if (g.was_asked && !(g.asked + plan.every_s <= l.time + kInstant)) {
        expect_anew(lastings_[slot], extent, act, in.body);
        continue;
      }
    }
    if (!motions_.stands(in.body)) continue;
    g.was_asked = true, g.asked = l.time;
    const AreaCarrier& meets = carrier_of(in.body);
    // A dash goes on when it has struck as many as it may.
    if (from_reach(meets, in.met, Quiet{}) && l.strikes < plan.most) {
      if (launched.strikes >= limits_.strikes) {
        meet_limit(l.launch, Limit::strikes, l.time, listener);
        end(slot, Ended::limit, {}, listener);
        return false;
      }
      strike(l, extent, meets, in, listener);
      if (l.strikes >= plan.most && !plan.by_hitboxes()) {
        end(slot, Ended::spent, {}, listener);
        return false;
      }
    }
    expect_anew(lastings_[slot], extent, act, in.body);
  }
  return true;
}

void Machine::strike(Lasting& l, const Extent& extent, const AreaCarrier& carrier, const Inside& in,
                     Listener& listener) {
  const LastingPlan& plan = *launches_[l.launch].stage(l.stage).lasting;
  Strike s = carrier.strike_at(in.met);
  const Pose frame = extent.frame(l.time);
  if (plan.does == LastingPlan::Does::swings || plan.by_hitboxes()) touch_by_blade(l, extent, s);
  s.time_s = s.seen_s = l.time, s.stage = l.stage, s.cause = l.cause;
  s.centre = frame.at, s.carrier = l.number;
  Guest& g = *l.find(in.body);
  const std::uint64_t key = chance_key(l.key, Then::When::strike, arena_->order(in.body), g.times);
  ++g.times, ++l.strikes;
  const std::uint32_t number = record_strike(s, l.launch, key, listener);
  follow_strike(l.launch, s, number, key);
}

/// Where a blade touches, how fast it is there; its way is against the normal.
void Machine::touch_by_blade(const Lasting& l, const Extent& extent, Strike& s) const {
  const Pose frame = extent.frame(l.time);
  const Moment::Body then = Moment(motions_, l.time).body(s.body);
  const Extent::Covered covered = extent.covered(l.time, s.body);
  const Shape there = then.in_frame(s.hitbox, inverse(frame));
  const Region* region = covered.region();
  const Vec3 on = region != nullptr ? point_nearest_to(*region, there) : dardo::nearest(there, Vec3{}).point;
  s.point = frame * on;
  const Vec3 way = extent.velocity_at(on, l.time) - motions_.leg(s.body, l.time).velocity;
  s.speed = length(extent.velocity_at(on, l.time));
  if (length(way) > kStill) s.normal = -normalized(way);
  const BodyId by = launches_[l.launch].launch.by;
  s.distance = length(s.point - (arena_->has(by) ? motions_.center(by, l.time) : l.origin));
}

/// A trap that is armed and rested goes off by whoever is inside and comes first. Whether it goes on.
bool Machine::go_off(LastingSlot slot, const Extent& extent, Listener& listener) {
  Lasting& l = lastings_[slot].lasting;
  const Launched& launched = launches_[l.launch];
  const Stage& stage = launched.stage(l.stage);
  const Pose frame = extent.frame(l.time);
  const Choice choice(motions_, stage.order, frame.at, frame.turn.x, launched.launch.seed, l.key);
  const Moment moment(motions_, l.time);
  Candidate first;
  for (const Guest& g : l.guests) {
    if (!g.inside || !motions_.stands(g.body) || (g.was_asked && !(stage.lasting->rest_s > 0))) continue;
    const Nearest at = moment.body(g.body).nearest(frame.at);
    const Candidate here{g.body, at.distance, at.point};
    if (first.body.empty() || choice.before(here, first)) first = here;
  }
  if (first.body.empty()) return true;
  Guest& g = *l.find(first.body);
  follow(l, Then::When::trigger, frame, first.body, motions_.center(first.body, l.time),
         {l.cause, chance_key(l.key, Then::When::trigger, arena_->order(first.body), l.strikes)});
  ++g.times, ++l.strikes, g.was_asked = true;
  l.rests = l.time + stage.lasting->rest_s;
  if (l.strikes < stage.lasting->most) return true;
  end(slot, Ended::spent, {}, listener);
  return false;
}

}  // namespace dardo::detail
