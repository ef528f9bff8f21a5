// What stays for a time: areas, blades, traps. Who comes in and who is out again, whom they strike, when they
// are over.
#include <algorithm>

#include "geometry/detail/ever.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/carriers/lasting/dash.hpp"
#include "resolve/carriers/lasting/extent.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"

namespace dardo::detail {

void Machine::begin_lasting(const Start& start, Listener& listener) {
  const bool dashes = launches_[start.launch].stage(start.stage).lasting->by_hitboxes();
  if (dashes && !arena_->has(launches_[start.launch].launch.by)) return;
  if (!may_begin(start, listener)) return;
  const LastingSlot slot = lastings_.add();
  Stay& s = lastings_[slot];
  s.lasting.guests.clear();
  Lasting fresh;
  std::swap(fresh.guests, s.lasting.guests);
  s.lasting = std::move(fresh);
  Lasting& l = s.lasting;
  Launched& launched = launches_[start.launch];
  l.launch = start.launch, l.stage = start.stage, l.cause = start.cause.strike;
  l.number = launched.flights++, l.key = chance_key(start.cause.key, 0);
  l.began = l.time = start.time;
  // What follows from a strike has that body.
  l.target = !start.by_launch && !start.anchor.target.empty() ? start.anchor.target : start.target;
  const auto* at = std::get_if<AtBody>(&launched.launch.toward);
  if (start.by_launch && at != nullptr) l.target = at->body;
  ++launched.alive;
  const Stage& stage = launched.stage(start.stage);
  const Moment moment(motions_, start.time);
  const Act act(motions_, stage, launched.launch, launched.faction, moment.state_time(),
                start.by_launch ? nullptr : &start.anchor, start.cause.key);
  Blocker by;
  const auto hung = [&]() -> std::optional<Ended> {
    if (dashes) return set_out(act, moment, l, by);
    if (hang(act, moment, l) != Reason::none) return Ended::out_of_reach;
    return std::nullopt;
  };
  if (const auto why = hung()) {
    tell_over(l, *why, by, listener);
    forget_lasting(slot);
    return;
  }
  if (dashes) begin_dash(slot, listener);
  if (stage.lasting->vulnerable > 0) begin_shell(slot, listener);
  gather(slot);
}

/// What of a trap may be struck: it stays where that is, in flight for all who shoot at what flies.
void Machine::begin_shell(LastingSlot slot, Listener& listener) {
  const ShotSlot shot = new_shot();
  Lasting& l = lastings_[slot].lasting;
  Launched& launched = launches_[l.launch];
  const Stage& stage = launched.stage(l.stage);
  l.shell = shot;
  Flight& f = shots_[shot].flight;
  f.launch = l.launch, f.stage = l.stage, f.number = launched.flights++, f.cause = l.cause, f.key = l.key;
  ++launched.alive;
  const Extent extent(*stage.lasting, l, motions_);
  const Pose frame = extent.frame(l.began);
  Course& c = f.course;
  c.time = f.lately = l.began, c.speed = stage.law.speed;
  set_off(c, stage.shot->path, frame.at, frame.turn.x,
          thrower_at(Moment(motions_, l.began), launched.launch, frame.at), motions_);
  f.ends = extent.ends();
  Blocker on;
  on.body = l.on;
  stick(f, on, around());
  propose(shot, listener);
}

/// A trap's is struck, or its time is over, which that of the trap is as well.
void Machine::end_shell(ShotSlot shot, Ended why, const Blocker& by, Listener& listener) {
  const double time = shots_[shot].flight.course.time;
  forget_shot(shot);
  std::optional<LastingSlot> of;
  lastings_.each([&](LastingSlot slot, Stay& s) {
    if (s.lasting.shell == shot) of = slot, s.lasting.shell.reset();
  });
  if (!of || why != Ended::shot_down) return;
  Lasting& l = lastings_[*of].lasting;
  l.time = std::max(l.time, time);
  const LastingPlan& plan = *launches_[l.launch].stage(l.stage).lasting;
  const Extent extent(plan, l, motions_);
  if (plan.struck_sets_off && l.time >= extent.begins())
    follow(l, Then::When::trigger, extent.frame(l.time), {}, {},
           {l.cause, chance_key(l.key, Then::When::trigger, WallPartId::kNone, l.strikes)});
  end(*of, Ended::shot_down, by, listener);
}

void Machine::forget_lasting(LastingSlot slot) {
  Stay& s = lastings_[slot];
  if (s.lasting.shell) forget_shot(*s.lasting.shell);
  if (--launches_[s.lasting.launch].alive == 0) over_.push_back(s.lasting.launch);
  ++s.version;
  lastings_.release(slot);
}

void Machine::tell_over(const Lasting& l, Ended why, const Blocker& by, Listener& listener) {
  const Extent extent(*launches_[l.launch].stage(l.stage).lasting, l, motions_);
  listener.on_over({l, why, l.time, never_began(why) ? l.origin : extent.frame(l.time).at, by});
}

void Machine::end(LastingSlot slot, Ended why, const Blocker& by, Listener& listener) {
  const Lasting& l = lastings_[slot].lasting;
  tell_over(l, why, by, listener);
  const Extent extent(*launches_[l.launch].stage(l.stage).lasting, l, motions_);
  const auto follows = [&](Then::When when) {
    follow(l, when, extent.frame(l.time), {}, {}, {l.cause, chance_key(l.key, when, 0, 0)});
  };
  if (!l.way.empty() && (why == Ended::arrived || why == Ended::wall || why == Ended::ground))
    follows(Then::When::landing);
  follows(Then::When::end);
  if (l.way.empty()) return forget_lasting(slot);
  // Before it is asked who is met by whom, it is no more.
  const Lasting over = l;
  forget_lasting(slot);
  stop_carrying(over, listener);
}

void Machine::follow(const Lasting& l, Then::When when, const Pose& frame, BodyId body, const Vec3& toward,
                     const Cause& cause) {
  const Vec3 way = toward - frame.at;
  const Vec3 ahead =
      l.way.empty() || l.way.front().velocity == Vec3{} ? frame.turn.x : normalized(l.way.front().velocity);
  const Vec3 direction = !body.empty() && length(way) > kSamePlace ? normalized(way) : ahead;
  follow_from({.launch = l.launch,
               .stage = l.stage,
               .time = l.time,
               .anchor = {frame.at, direction, body},
               .target = !body.empty()               ? body
                         : motions_.stands(l.target) ? l.target
                                                     : BodyId{},
               .aim = body.empty() ? frame.at : toward,
               .cause = cause},
              when);
}

/// What comes to it in this window, or in the part of it that is looked through at once.
void Machine::gather(LastingSlot slot) {
  Stay& s = lastings_[slot];
  Lasting& l = s.lasting;
  const Launched& launched = launches_[l.launch];
  const Stage& stage = launched.stage(l.stage);
  const Extent extent(*stage.lasting, l, motions_);
  s.coming.clear();
  const double from = std::max(l.time, extent.begins()), last = std::min(until_ + kInstant, extent.ends());
  s.gathered = std::min(from, last);
  if (from <= last) {
    const double to = extent.some_time(from, last);
    s.gathered = to;
    const Act act(motions_, stage, launched.launch, launched.faction, motions_.state_time(until_));
    for (const Guest& g : l.guests) {
      if (g.inside) expect(s, extent, act, g.body, from);
    }
    const Bounds box = extent.bounds(from, to);
    motions_.bodies_near(box, from, to, [&](BodyId body) {
      const Guest* known = l.find(body);
      if ((known != nullptr && known->inside) || (!l.way.empty() && body == l.on)) return;
      const bool asked =
          std::any_of(s.coming.begin(), s.coming.end(), [&](const Coming& c) { return c.body == body; });
      if (!asked) expect(s, extent, act, body, from);
    });
    if (stage.lasting->stopped_by_walls) {
      l.way.empty() ? expect_walls(s, extent, box, from) : expect_to_stop(s, extent, box, from);
    }
    std::sort(s.coming.begin(), s.coming.end(), comes_before);
  }
  push_next(slot);
}

/// What comes of one body, from a time on; before it begins nothing does.
void Machine::expect(Stay& s, const Extent& extent, const Act& act, BodyId body, double from) {
  from = std::max(from, extent.begins());
  Lasting& l = s.lasting;
  const Guest* guest = l.find(body);
  const bool there = motions_.stands(body) && eligible(act, body);
  if (guest == nullptr || !guest->inside) {
    if (!there || from > s.gathered) return;
    if (const auto in = extent.enters(body, from, s.gathered))
      s.coming.push_back({in->time, body, Coming::What::enters});
    return;
  }
  if (!there) {
    s.coming.push_back({from, body, Coming::What::leaves});
    return;
  }
  const auto out = extent.leaves(body, from, s.gathered);
  if (out) s.coming.push_back({*out, body, Coming::What::leaves});
  const LastingPlan& plan = *act.stage.lasting;
  if (plan.does == LastingPlan::Does::sets_off || !guest->counts) return;
  const double due = !guest->was_asked ? from : guest->asked + plan.every_s;
  if (due <= std::min(s.gathered, out.value_or(kEver)))
    s.coming.push_back({std::max(from, due), body, Coming::What::due});
}

void Machine::expect_walls(Stay& s, const Extent& extent, const Bounds& box, double from) {
  arena_->wall_table().touching(box, [&](WallPartId part) {
    const WallId wall = arena_->wall_table().wall_of(part);
    if (!arena_->blocks(wall).has(Passage::shots)) return;
    const auto met = extent.meets(part, from, s.gathered);
    if (met) s.coming.push_back({*met, {}, Coming::What::wall, wall});
  });
}

/// A dash comes to what blocks feet, or to the ground.
void Machine::expect_to_stop(Stay& s, const Extent& extent, const Bounds& box, double from) {
  const std::vector<Shape> cores = cores_of(*arena_, s.lasting.on, motions_.state_time(until_));
  const double to = std::min(s.gathered, extent.ends());
  arena_->wall_table().touching(box, [&](WallPartId part) {
    const WallId wall = arena_->wall_table().wall_of(part);
    if (!arena_->blocks(wall).has(Passage::feet)) return;
    if (const auto met = extent.stopped(cores, part, from, to))
      s.coming.push_back({*met, {}, Coming::What::wall, wall});
  });
  if (const auto met = extent.grounded(cores, from, to)) s.coming.push_back({*met, {}, Coming::What::wall});
}

/// When next something comes to it, if that is in this window.
void Machine::push_next(LastingSlot slot) {
  Stay& s = lastings_[slot];
  const Lasting& l = s.lasting;
  const Launched& launched = launches_[l.launch];
  const LastingPlan& plan = *launched.stage(l.stage).lasting;
  const Extent extent(plan, l, motions_);
  ++s.version;
  const bool sets_off = plan.does == LastingPlan::Does::sets_off;
  const auto waits = [&](const Guest& g) { return g.inside && (plan.rest_s > 0 || !g.was_asked); };
  double next = extent.ends();
  if (!l.on.empty() && !motions_.stands(l.on)) next = l.time;
  if (!s.coming.empty()) next = std::min(next, s.coming.front().time);
  if (s.gathered < std::min(until_ + kInstant, extent.ends())) next = std::min(next, s.gathered);
  if (launched.stage(l.stage).has(Then::When::interval))
    next = std::min(next, extent.begins() + (l.intervals + 1) * plan.every_s);
  if (sets_off && std::any_of(l.guests.begin(), l.guests.end(), waits))
    next = std::min(next, std::max(l.time, l.rests));
  next = std::max(next, l.time);
  if (next <= until_)
    queue_.push({.time = next,
                 .launch = launched.number,
                 .number = l.number,
                 .shot = {},
                 .version = s.version,
                 .lasting = slot});
}

void Machine::decide(LastingSlot slot, double time, Listener& listener) {
  Stay& s = lastings_[slot];
  Lasting& l = s.lasting;
  Launched& launched = launches_[l.launch];
  const LastingPlan& plan = *launched.stage(l.stage).lasting;
  const Extent extent(plan, l, motions_);
  l.time = std::max(l.time, time);
  if (!l.on.empty() && !motions_.stands(l.on)) return end(slot, Ended::carrier_fell, {}, listener);
  if (!l.on.empty()) l.stood = motions_.leg(l.on, l.time).at(l.time);
  const auto past = std::find_if(s.coming.begin(), s.coming.end(),
                                 [&](const Coming& c) { return c.time > time + kInstant; });
  came_.assign(s.coming.begin(), past);
  s.coming.erase(s.coming.begin(), past);
  if (!came_.empty() && !meet(slot, extent, listener)) return;
  if (launched.stage(l.stage).has(Then::When::interval) &&
      extent.begins() + (l.intervals + 1) * plan.every_s <= time + kInstant) {
    ++l.intervals;
    follow(l, Then::When::interval, extent.frame(l.time), {}, {},
           {l.cause, chance_key(l.key, Then::When::interval, 0, l.intervals)});
  }
  if (plan.does == LastingPlan::Does::sets_off && l.rests <= time + kInstant &&
      !go_off(slot, extent, listener))
    return;
  if (extent.ends() <= time + kInstant)
    return end(slot, l.way.empty() ? Ended::over : Ended::arrived, {}, listener);
  if (s.gathered <= time && s.gathered < std::min(until_ + kInstant, extent.ends())) return gather(slot);
  push_next(slot);
}

/// A body is gone or fallen: it is inside nothing any more, and carries nothing.
void Machine::tell_lastings(BodyId body, double time) {
  lastings_.each([&](LastingSlot slot, Stay& s) {
    Lasting& l = s.lasting;
    const Guest* guest = l.find(body);
    const bool inside = guest != nullptr && guest->inside;
    if (!inside && l.on != body) return;
    std::erase_if(s.coming, [&](const Coming& c) { return c.body == body; });
    if (inside) s.coming.insert(s.coming.begin(), {std::max(time, l.time), body, Coming::What::leaves});
    const Launched& launched = launches_[l.launch];
    const double then = std::max(time, l.time);
    if (then > until_) return;
    queue_.push({.time = then,
                 .launch = launched.number,
                 .number = l.number,
                 .shot = {},
                 .version = ++s.version,
                 .lasting = slot});
  });
}

}  // namespace dardo::detail
