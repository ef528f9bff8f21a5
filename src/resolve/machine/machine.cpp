#include "resolve/machine/machine.hpp"
#include "resolve/rules/order.hpp"

#include <algorithm>
#include <tuple>

#include "resolve/rules/chance.hpp"

namespace dardo::detail {
namespace {

constexpr double kEver = std::numeric_limits<double>::infinity();

/// So many events may come to one flight at one time.
constexpr std::uint32_t kMostAtOnce = 1000;

}  // namespace

void Machine::propose(std::uint32_t slot, Listener& listener) {
  const Flight& f = flights_[slot];
  ++versions_[slot];
  if (f.course.time > until_) return;  // of a volley: not yet off
  first_looks_[slot] = first_look_at(f);
  if (!is_quiet(slot)) ask(slot, listener);
}

/// What comes next of it in this window goes into the queue.
void Machine::ask(std::uint32_t slot, Listener& listener) {
  const Flight& f = flights_[slot];
  const bool passes = f.passes_any();
  std::vector<Piece>* way = keep_ways_ || watches_shots_ || passes ? &ways_[slot] : nullptr;
  if (way != nullptr) way->clear();
  // What is after a target goes another way from where that falls.
  if (watches_shots_ || !f.course.target.empty()) befores_[slot] = f.course;
  // Most have nothing before them in a window: those leave no event behind.
  Event e = next_event(f, launches_[f.launch], around(), until_, way);
  if (e.kind != Event::Kind::none && e.time > until_) {
    // Only for an instant that begins in this window: it comes to the window's end first.
    if (way != nullptr) way->clear();
    flights_[slot].course = next_event(f, launches_[f.launch], around(), until_, way, 0).course;
    if (keep_ways_) listener.on_way(f, ways_[slot]);
    if (passes) let_go_on(flights_[slot], launches_[f.launch], around(), ways_[slot]);
    if (way != nullptr) way->clear();
    if (watches_shots_) befores_[slot] = f.course;
    first_looks_[slot] = first_look_at(f);
    e = next_event(f, launches_[f.launch], around(), until_, way);
  }
  if (e.kind == Event::Kind::none) {
    if (keep_ways_) listener.on_way(f, ways_[slot]);
    // Where a look might have told as much, nothing is written: what was looked at leaves no trace.
    if (may_look(first_looks_[slot])) return;
    flights_[slot].course = e.course;
    if (passes) let_go_on(flights_[slot], launches_[f.launch], around(), ways_[slot]);
    first_looks_[slot] = first_look_at(flights_[slot]);
  } else {
    events_[slot] = e;
    queue_.push_back({e.time, launches_[f.launch].number, f.number, slot, versions_[slot]});
    std::push_heap(queue_.begin(), queue_.end());
  }
  if (watches_shots_) meet_shots(slot);
}

void Machine::advance(double until, Listener& listener) {
  from_ = std::min(until_, until);
  until_ = until;
  drift_ += motions_.slow_way();
  queue_.clear();
  if (watches_shots_) {
    for (auto& way : ways_) way.clear();
  }
  look();
  for (std::size_t i = 0; i < due_.size(); ++i) {
    if (i + 2 < due_.size()) prefetch(flights_[due_[i + 2]]);
    if (i + 1 < due_.size()) prefetch(launches_[flights_[due_[i + 1]].launch]);
    ++versions_[due_[i]];
    if (flights_[due_[i]].course.time <= until_) ask(due_[i], listener);
  }
  while (!queue_.empty() && queue_.front().time <= until_) decide_instant(listener);
}

/// All that comes within an instant of the earliest, in the order of launches and of their shots. What it
/// causes comes in an instant after it.
void Machine::decide_instant(Listener& listener) {
  at_once_.clear();
  const double last = queue_.front().time + kInstant;
  while (!queue_.empty() && queue_.front().time <= last) {
    std::pop_heap(queue_.begin(), queue_.end());
    at_once_.push_back(queue_.back());
    queue_.pop_back();
  }
  if (at_once_.size() > 1) {
    std::sort(at_once_.begin(), at_once_.end(), [&](const Next& a, const Next& b) {
      const auto place = [](const Next& n) { return place_in_instant(n.launch, n.number, n.time, n.victim); };
      return place(a) < place(b);
    });
  }
  if (!queue_.empty()) prefetch(flights_[queue_.front().slot]), prefetch(events_[queue_.front().slot]);
  for (std::size_t i = 0; i < at_once_.size(); ++i) {
    const Next next = at_once_[i];
    if (!flights_[next.slot].alive || versions_[next.slot] != next.version) continue;
    if (next.victim != kNobody &&
        (!flights_[next.victim].alive || versions_[next.victim] != next.victim_version))
      continue;
    next.victim != kNobody ? decide_meeting(next, listener) : decide(next.slot, listener);
  }
  begin_starts(listener);
  release_over();
}

void Machine::decide(std::uint32_t slot, Listener& listener) {
  const Event event = events_[slot];
  if (event.kind == Event::Kind::contact && !event.touched.body.empty() &&
      !arena_->stands(event.touched.body)) {
    propose(slot, listener);  // it fell in the meantime
    return;
  }
  Flight& f = flights_[slot];
  if (keep_ways_) listener.on_way(f, ways_[slot]);
  f.course = event.course;
  if (f.passes_any()) let_go_on(f, launches_[f.launch], around(), ways_[slot]);
  const auto over = [&](Ended why) { end(slot, why, {}, listener); };
  // What goes on happening to it and gets it nowhere comes to an end.
  f.at_once = event.time > f.lately + kInstant ? 0 : f.at_once + 1;
  if (f.at_once == 0) f.lately = event.time;
  if (f.at_once > kMostAtOnce) return over(Ended::rest);
  switch (event.kind) {
    case Event::Kind::none: break;
    case Event::Kind::contact:
      if (!meet(slot, event.touched, listener)) return;
      break;
    case Event::Kind::life:
      if (f.stuck.yes) return end(slot, Ended::stuck, f.stuck.in, listener);
      if (stage_of(f).shot->life_s <= limits_.flight_s) return over(Ended::life);
      meet_limit(f.launch, Limit::flight, event.time, listener);
      return over(Ended::limit);
    case Event::Kind::length: return over(Ended::reach);
    case Event::Kind::slow:
    case Event::Kind::stopped: return over(Ended::slow);
    case Event::Kind::out: return over(Ended::bounds);
    case Event::Kind::returned: return over(Ended::returned);
    case Event::Kind::arrived: return over(Ended::arrived);
    case Event::Kind::apex:
      f.apex_passed = true;
      follow(departure_of(f), Then::When::apex, f.course.place(),
             {f.cause, chance_key(f.key, Then::When::apex, 0, 0)});
      break;
    case Event::Kind::near:
      f.near_passed = true;
      follow(departure_of(f), Then::When::near, f.course.place(),
             {f.cause, chance_key(f.key, Then::When::near, 0, 0)});
      break;
    case Event::Kind::turned:
      if (stage_of(f).law.strikes_again) {
        for (Met& m : f.met) m.struck = false;
        f.strikes = 0;
      }
      break;
    case Event::Kind::lost: {
      const auto rule = stage_of(f).law.lost;
      const Met* met = f.known(f.course.target);
      const bool struck = met != nullptr && met->times > 0;
      if (rule == Law::Lost::end && !struck) return over(Ended::lost);
      f.course.target_lost = kEver;
      f.course.piece.end = f.course.time;
      if (rule != Law::Lost::pick_anew || !pick_anew(f)) f.course.target = {};
      break;
    }
  }
  propose(slot, listener);
}

/// The nearest body that the attack may strike, other than the one lost; false when there is none within
/// reach.
bool Machine::pick_anew(Flight& f) {
  const Launched& l = launches_[f.launch];
  const Act act(*arena_, stage_of(f), l.launch, l.faction);
  const Vec3 from = f.course.place();
  const double far = act.attack.reach.far - f.course.travelled;
  BodyId best;
  double least = far;
  motions_.bodies_near(Bounds{from, from}.grown(far), f.course.time, f.course.time, [&](BodyId body) {
    if (body == f.course.target || !eligible(act, body)) return;
    const double away = length(motions_.center(body, f.course.time) - from);
    if (!(away < far) || (!best.empty() && !(place_at(away, *arena_, body) < place_at(least, *arena_, best))))
      return;
    least = away, best = body;
  });
  f.course.target = best;
  return !best.empty();
}

/// Numbers the strike and tells of it; the number.
std::uint32_t Machine::record_strike(Strike& strike, Launched& launched, Listener& listener) {
  strike.launch = launched.number;
  strike.seen_s = std::max(strike.seen_s, strike.time_s);
  const std::uint32_t number = ++launched.strikes;
  if (listener.on_strike(strike)) forget_target(strike.body, strike.time_s);
  return number;
}

void Machine::forget_target(BodyId body, double time) {
  for (std::uint32_t slot = 0; slot < flights_.size(); ++slot) {
    Flight& f = flights_[slot];
    if (!f.alive || f.course.target != body || !(time < f.course.target_lost)) continue;
    if (!stage_of(f).law.follows_target) continue;
    if (f.course.time > time && befores_[slot].target == body) f.course = befores_[slot];
    f.course.target_lost = std::max(time, f.course.time);
    // Asked again by whoever advances: its answer relied on the body.
    if (f.course.time <= until_) {
      struct Nobody final : Listener {
        bool on_strike(const Strike&) override { return false; }
      } nobody;
      propose(slot, nobody);
    }
  }
}

void Machine::forget_gone(double time) {
  for (Flight& f : flights_) {
    const Course& c = f.course;
    if (f.alive && !c.target.empty() && !arena_->has(c.target))
      f.course.target_lost = std::min(c.target_lost, std::max(time, c.time));
  }
}

void Machine::end(std::uint32_t slot, Ended why, const Blocker& by, Listener& listener) {
  Flight& f = flights_[slot];
  const bool in_something =
      why == Ended::strike || why == Ended::body || why == Ended::wall || why == Ended::ground;
  if (in_something && !by.shot && stage_of(f).shot->sticks) {
    f.stuck = {true, by, f.course.place()};
    if (!by.body.empty()) {
      const Pose pose = motions_.leg(by.body, f.course.time).at(f.course.time);
      f.stuck.at = into(pose.turn, f.course.place() - pose.at);
    }
    listener.on_stuck({f.launch, f.stage, f.number, f.cause, why, f.course.time, f.course.travelled,
                       f.course.place(), by, f.course, true});
    return propose(slot, listener);
  }
  f.alive = false;
  clear_[slot] = kOver;
  --alive_;
  free_.push_back(slot);
  const std::uint32_t launch = f.launch;
  listener.on_end({launch, f.stage, f.number, f.cause, why, f.course.time, f.course.travelled,
                   f.course.place(), by, f.course, true});
  if (why != Ended::muzzle_blocked) {
    follow(departure_of(f), Then::When::end, f.course.place(),
           {f.cause, chance_key(f.key, Then::When::end, 0, 0)});
  }
  if (--launches_[launch].alive == 0) over_.push_back(launch);
}

Machine::Departure Machine::departure_of(const Flight& f) {
  const Vec3 velocity = f.course.velocity();
  const double speed = length(velocity);
  return {f.launch,        f.stage,     f.course.time, speed > kStill ? velocity / speed : f.course.heading,
          f.course.target, f.course.aim};
}

void Machine::follow(const Departure& from, Then::When when, const Vec3& place, const Cause& cause) {
  const BodyId target = arena_->stands(from.target) ? from.target : BodyId{};
  launches_[from.launch].prepared->each_then(from.stage, when, [&](std::uint32_t child) {
    lead_to({.launch = from.launch,
             .stage = child,
             .time = from.time,
             .anchor = {place, from.direction},
             .target = target,
             .aim = from.aim,
             .cause = {cause.strike, chance_key(cause.key, child)}});
  });
}

}  // namespace dardo::detail
