#include "resolve/machine/machine.hpp"

#include <algorithm>

#include "geometry/detail/ever.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/rules/choice.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {
namespace {

/// So many events may come to one flight at one time.
constexpr std::uint32_t kMostAtOnce = 1000;

/// So many shots are one job.
constexpr std::size_t kPart = 512;

}  // namespace

void Machine::propose(ShotSlot slot, Listener& listener) {
  Shot& s = shots_[slot];
  ++s.version;
  if (s.flight.course.time > until_) return;  // of a volley: not yet off
  const Surroundings here = around();
  looks_.set(slot, s.flight, launched_of(s.flight), here);
  if (!looks_first() || may(s.flight).either() || !looks_.is_quiet(slot, here))
    ask_with_partners(slot, listener);
}

void Machine::ask_with_partners(ShotSlot slot, Listener& listener) {
  for (ask(slot, listener); !partners_.empty();) {
    const ShotSlot partner = partners_.back();
    partners_.pop_back();
    if (!shots_.has(partner) || shots_[partner].asked == window_) continue;
    ++shots_[partner].version;
    ask(partner, listener);
  }
}

/// What comes next of it in this window goes into the queue.
void Machine::ask(ShotSlot slot, Listener& listener) {
  if (find_next(slot, &listener)) push_next(slot);
  if (may(shots_[slot].flight).either()) watch_way(slot);
}

void Machine::push_next(ShotSlot slot) {
  const Shot& s = shots_[slot];
  queue_.push({s.next.time, launched_of(s.flight).number, s.flight.number, slot, s.version});
}

/// Whether something comes next of it in this window: that is then in its place. Changes nothing but what is
/// this shot's: several may be asked at the same time. The listener hears of ways, if they are kept.
bool Machine::find_next(ShotSlot slot, Listener* listener) {
  Shot& s = shots_[slot];
  Flight& f = s.flight;
  const Launched& launched = launched_of(f);
  const Surroundings here = around();
  const bool passes = memory_.passes_any(f.met);
  const bool watched = may(f).either();
  std::vector<Piece>* way = keep_ways_ || watched || passes ? &s.way : nullptr;
  // What is after a target goes another way from where that falls.
  const bool goes_back = watched || !f.course.target.empty();
  if (keeps_undo()) keep_undo(slot);
  const auto next = [&](double past) {
    if (way != nullptr) way->clear();
    if (goes_back) s.before = f.course, s.let_go.clear();
    return next_event(f, launched, here, until_, way, past);
  };
  const auto flown_to = [&](const Course& course) {
    f.course = course;
    if (passes) let_go(s);
    looks_.set(slot, f, launched, here);
  };
  Event e = next(kInstant);
  if (e.kind != Event::Kind::none && e.time > until_) {
    // Only for an instant that begins in this window: it comes to the window's end first.
    const Course end = next(0).course;
    if (keep_ways_) listener->on_way(f, s.way);
    flown_to(end);
    e = next(kInstant);
  }
  if (e.kind != Event::Kind::none) {
    s.next = e;
    return true;
  }
  s.next.kind = Event::Kind::none;
  if (keep_ways_) listener->on_way(f, s.way);
  // Where a look might have told as much, nothing is written: what was looked at leaves no trace.
  if (!looks_first() || !looks_.may_tell(slot, here)) flown_to(e.course);
  return false;
}

/// On the way that it has flown; what it has let go of is kept for who flies it back.
void Machine::let_go(Shot& s) {
  Flight& f = s.flight;
  const auto each_passed = [&](auto&& visit) {
    memory_.each(f.met, [&](const Met& m) {
      if (m.passing) visit(std::pair(m.body, m.wall));
    });
  };
  each_passed([&](const auto& what) { s.let_go.push_back(what); });
  let_go_on(f, launched_of(f), around(), s.way, memory_);
  each_passed([&](const auto& what) { std::erase(s.let_go, what); });
}

/// Finds those shots that may meet something in this window.
void Machine::look() {
  due_.clear();
  const Surroundings here = around();
  const bool looks = looks_first();
  for (ShotSlot slot; slot.at < shots_.places(); ++slot.at) {
    const bool done = looks ? looks_.is_clear(slot, here) : !shots_.has(slot);
    if (!done) due_.push_back(slot);
  }
  if (!looks) return;
  found_.resize(due_.size());
  executor_.in_parts(due_.size(), kPart, [&](std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i) {
      if (i + 4 < to) looks_.prefetch_at(due_[i + 4]);  // they lie wide apart
      found_[i] = !looks_.is_quiet(due_[i], here);
    }
  });
  std::size_t left = 0;
  for (std::size_t i = 0; i < due_.size(); ++i) {
    if (found_[i] != 0) due_[left++] = due_[i];
  }
  due_.resize(left);
}

void Machine::look_anew() {
  shots_.each([&](ShotSlot slot, Shot&) { looks_.anew(slot); });
}

void Machine::begin_window(double from, double until) {
  from_ = from, until_ = until;
  motions_.hold_states(until);
  ++window_;
  roster_.look(*arena_);
  for (const ShotSlot slot : watched_) shots_[slot].way.clear();
  watched_.clear();
  make_room_for_undo();
  if (!carried_.empty()) look_anew();
}

/// Those who know of no others are asked side by side; those who may meet one another in turn.
void Machine::ask_due(Listener& listener) {
  const auto fetch = [&](std::size_t i, std::size_t to) {
    if (i + 2 < to) prefetch(shots_[due_[i + 2]].flight);
    if (i + 1 < to) prefetch(launched_of(shots_[due_[i + 1]].flight));
  };
  if (roster_.any() || keep_ways_ || !executor_.is_shared()) {
    for (std::size_t i = 0; i < due_.size(); ++i) {
      fetch(i, due_.size());
      Shot& s = shots_[due_[i]];
      if (s.asked == window_) continue;
      ++s.version;
      if (s.flight.course.time <= until_) ask_with_partners(due_[i], listener);
    }
    return;
  }
  found_.resize(due_.size());
  executor_.in_parts(due_.size(), kPart / 8, [&](std::size_t from, std::size_t to) {
    for (std::size_t i = from; i < to; ++i) {
      fetch(i, to);
      Shot& s = shots_[due_[i]];
      ++s.version;
      found_[i] = s.flight.course.time <= until_ && find_next(due_[i], nullptr);
    }
  });
  for (std::size_t i = 0; i < due_.size(); ++i) {
    if (found_[i] != 0) push_next(due_[i]);
  }
}

/// In a window nobody changes: one ends where somebody does, and what comes just then comes after that. While
/// nothing is under way there is nobody to ask.
void Machine::advance(double until, Listener& listener) {
  const auto times = arena_->change_times();
  const auto next_after = [&](double time) {
    if (shots_.used() + lastings_.used() + chains_.used() + afflictions_.used() == 0)
      time = later_.empty() ? kEver : std::max(time, later_.front().time);
    return std::upper_bound(times.begin(), times.end(), time);
  };
  for (auto next = next_after(until_); next != times.end() && *next <= until; next = next_after(*next)) {
    if (const double before = *next - 2 * kInstant; before > until_) advance_window(before, listener);
    look_anew();
  }
  advance_window(until, listener);
}

void Machine::advance_window(double until, Listener& listener) {
  begin_window(std::min(until_, until), until);
  looks_.move_on(motions_.slow_way());
  queue_.clear();
  look();
  watch();
  ask_due(listener);
  lastings_.each([&](LastingSlot slot, Stay& s) {
    s.lasting.time = std::max(s.lasting.time, from_);
    gather(slot);
  });
  afflictions_.each([&](AfflictionSlot slot, Affliction&) { push_next(slot); });
  while (queue_.comes_by(until_) || begins_in_window()) decide_instant(listener);
}

/// All that comes within an instant of the earliest: what begins, then what comes to shots, in the order of
/// launches and of their shots. What it causes comes in an instant after it.
void Machine::decide_instant(Listener& listener) {
  double first = queue_.front() != nullptr ? queue_.front()->time : kEver;
  if (begins_in_window()) first = std::min(first, later_.front().time);
  const std::vector<Next>& instant = queue_.take_instant(first);
  begin_later(first + kInstant, listener);
  if (const Next* soon = queue_.front(); soon != nullptr && soon->flies())
    prefetch(shots_[soon->shot].flight), prefetch(shots_[soon->shot].next);
  for (const Next& next : instant) {
    if (next.afflicts()) {
      if (afflictions_.has(next.affliction) && afflictions_[next.affliction].version == next.version)
        decide(next.affliction, next.time, listener);
      continue;
    }
    if (next.lasts()) {
      if (lastings_.has(next.lasting) && lastings_[next.lasting].version == next.version)
        decide(next.lasting, next.time, listener);
      continue;
    }
    if (!shots_.has(next.shot) || shots_[next.shot].version != next.version) continue;
    if (!next.meets()) {
      decide(next.shot, listener);
    } else if (shots_.has(next.victim) && shots_[next.victim].version == next.victim_version) {
      decide_meeting(next, listener);
    }
  }
  begin_starts(listener);
  settle_ended(first, listener);
  settle_states(listener);
  release_over();
}

/// Whether what was to come next still does. When whom it touches has fallen in the meantime, others whom it
/// touches in the same instant are met, whoever was told of.
bool Machine::still_comes(const Flight& f, Event& event) const {
  if (event.kind != Event::Kind::contact || event.touched.body.empty() || motions_.stands(event.touched.body))
    return true;
  Flight there = f;
  there.course = event.course;
  const auto other = touched_now(there, launched_of(f), around(), event.sought_from);
  if (other) event.touched = *other;
  return other.has_value();
}

void Machine::decide(ShotSlot slot, Listener& listener) {
  Event event = shots_[slot].next;
  Flight& f = shots_[slot].flight;
  if (!still_comes(f, event)) return propose(slot, listener);
  if (keep_ways_) listener.on_way(f, shots_[slot].way);
  f.course = event.course;
  if (memory_.passes_any(f.met)) let_go_on(f, launched_of(f), around(), shots_[slot].way, memory_);
  const auto over = [&](Ended why) { end(slot, why, {}, listener); };
  // What goes on happening to it and gets it nowhere comes to an end.
  f.at_once = event.time > f.lately + kInstant ? 0 : f.at_once + 1;
  if (f.at_once == 0) f.lately = event.time;
  if (f.at_once > kMostAtOnce) return over(Ended::rest);
  switch (event.kind) {
    case Event::Kind::none: break;
    case Event::Kind::contact:
      if (!meet(slot, event.touched, event.sought_from, listener)) return;
      break;
    case Event::Kind::life:
      if (f.stuck.yes) return end(slot, Ended::stuck, f.stuck.in, listener);
      if (life_limit(*stage_of(f).shot) <= limits_.flight_s) return over(Ended::life);
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
      follow(leaving_of(f), Then::When::apex, f.course.place(),
             {f.cause, chance_key(f.key, Then::When::apex, 0, 0)});
      break;
    case Event::Kind::near:
      f.near_passed = true;
      follow(leaving_of(f), Then::When::near, f.course.place(),
             {f.cause, chance_key(f.key, Then::When::near, 0, 0)});
      break;
    case Event::Kind::turned:
      if (stage_of(f).law.strikes_again) {
        memory_.each(f.met, [](Met& m) { m.struck = false; });
        f.strikes = 0;
      }
      break;
    case Event::Kind::lost: {
      const auto rule = stage_of(f).law.lost;
      const Met* met = memory_.known(f.met, f.course.target);
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

void Machine::end(ShotSlot slot, Ended why, const Blocker& by, Listener& listener) {
  Flight& f = shots_[slot].flight;
  if (stage_of(f).lasting) return end_shell(slot, why, by, listener);
  const bool in_something = why == Ended::strike || why == Ended::body || why == Ended::wall ||
                            why == Ended::ground || why == Ended::rest;
  if (in_something && !by.shot && stage_of(f).shot->sticks) {
    stick(f, by, around());
    listener.on_stuck({f.launch, f.stage, f.number, f.cause, why, f.course.time, f.course.travelled,
                       f.course.place(), by, f.course, true});
    return propose(slot, listener);
  }
  listener.on_end({f.launch, f.stage, f.number, f.cause, why, f.course.time, f.course.travelled,
                   f.course.place(), by, f.course, true});
  if (why != Ended::muzzle_blocked) {
    follow(leaving_of(f), Then::When::end, f.course.place(),
           {f.cause, chance_key(f.key, Then::When::end, 0, 0)});
  }
  forget_shot(slot);
}

void Machine::forget_shot(ShotSlot slot) {
  Flight& f = shots_[slot].flight;
  if (--launches_[f.launch].alive == 0) over_.push_back(f.launch);
  looks_.over(slot), seekers_.remove(slot), boxes_.forget(slot);
  memory_.forget(f.met);
  shots_.release(slot);
}

Machine::Leaving Machine::leaving_of(const Flight& f) {
  const Vec3 velocity = f.course.velocity();
  const double speed = length(velocity);
  return {f.launch,        f.stage,     f.course.time, speed > kStill ? velocity / speed : f.course.heading,
          f.course.target, f.course.aim};
}

void Machine::follow(const Leaving& from, Then::When when, const Vec3& place, const Cause& cause,
                     BodyId body) {
  follow_from({.launch = from.launch,
               .stage = from.stage,
               .time = from.time,
               .anchor = {place, from.direction, body},
               .target = motions_.stands(from.target) ? from.target : BodyId{},
               .aim = from.aim,
               .cause = cause},
              when);
}

}  // namespace dardo::detail
