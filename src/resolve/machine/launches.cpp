// How launches and their carriers begin.
#include <algorithm>

#include "dardo/units.hpp"
#include "geometry/detail/elementary.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/aimed.hpp"
#include "resolve/carriers/kinds.hpp"
#include "resolve/chosen.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/ready.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/rules/let_through.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {
namespace {

using units::kPi;

/// The direction of one shot of a volley. `left` is level, and where angles around the aim are counted from;
/// in a flat arena there are only both its sides.
Vec3 spread(const Arena& arena, const Volley& volley, const Vec3& direction, const Vec3& left,
            std::uint64_t seed, std::uint64_t key, std::uint32_t index) {
  const double u = chance(seed, key, Draw::spread, 0), around = 2 * kPi * chance(seed, key, Draw::spread, 1);
  const auto gauss = [&] { return volley.angle * std::sqrt(-2 * natural_logarithm(1 - u)); };
  switch (volley.spread) {
    case Volley::Spread::none:
    case Volley::Spread::bodies: return direction;
    case Volley::Spread::cone:  // evenly over the cap's area
      if (arena.flat()) return turned_aside(direction, left, volley.angle * (2 * u - 1));
      return turned_aside(direction, left, arc_cosine(1 - u * (1 - cosine(volley.angle))), around);
    case Volley::Spread::gauss:
      if (arena.flat()) return turned_aside(direction, left, gauss() * cosine(around));
      return turned_aside(direction, left, std::min(kPi, gauss()), around);
    case Volley::Spread::fan: {
      // All round, the last would go where the first goes.
      const double last = volley.count - 1.0, gaps = volley.angle >= 2 * kPi ? last + 1 : std::max(1.0, last);
      return Rotation::about(arena.upright(), volley.angle * (index - last / 2) / gaps) * direction;
    }
    case Volley::Spread::ring:
      if (arena.flat()) return turned_aside(direction, left, index % 2 == 0 ? volley.angle : -volley.angle);
      return turned_aside(direction, left, volley.angle, 2 * kPi * index / volley.count);
  }
  return direction;
}

bool goes_on_though_fallen(const Attack& attack, const Start& start) {
  if (start.round > 0) return attack.burst && attack.burst->though_fallen;
  return start.wound && attack.windup && attack.windup->though_fallen;
}

}  // namespace

void Machine::begin(const Arena& arena) {
  arena_ = &arena, motions_ = Motions(arena);
  motions_.know(&facts_);
  bounds_.reset(), limits_ = {};
  afflictions_.clear(), facts_.clear(), falls_.clear(), unsettled_.clear(), ended_.clear();
  afflicted_ = 0, unsettling_ = heeding_ = 0, ledger_ = keeps_history_ = false;
  history_.clear();
  launches_.clear(), waiting_.clear(), later_.clear(), shots_.clear(), lastings_.clear(), chains_.clear(),
      seekers_.clear(), memory_.clear(), roster_.clear(), boxes_.clear(), looks_.clear(), queue_.clear();
  watched_.clear(), partners_.clear(), due_.clear(), touched_.clear(), follows_.clear(), starts_.clear(),
      over_.clear(), carried_.clear(), undo_.clear();
  dashing_ = 0;
  from_ = until_ = 0;
  keep_ways_ = false, wanted_ = Detail::strikes;
}

/// Counts what it may lead to, and what it asks for.
void Machine::weigh(const Prepared& attack, bool comes) {
  const auto count = [&](std::uint32_t& of, bool does) { of += !does ? 0u : comes ? 1u : ~0u; };
  count(dashing_, attack.dashes()), count(unsettling_, attack.changes_states());
  count(heeding_, attack.heeds_states());
}

LaunchSlot Machine::add(std::shared_ptr<const Prepared> attack, const Launch& launch, std::uint32_t number) {
  const LaunchSlot slot = launches_.add();
  Launched& l = launches_[slot];
  l.prepared = std::move(attack);
  l.launch = launch;
  l.faction = attacker_faction(*arena_, launch, std::max(launch.at_s, until_));
  l.number = number;
  l.row = roster_.add(*l.prepared, l.faction);
  weigh(*l.prepared, true);
  l.flights = l.strikes = l.alive = l.pending = l.serial = l.carriers = l.contacts = l.limits_met =
      l.afflicting = 0;
  return slot;
}

/// Gives the places in the table back of which nothing is under way.
void Machine::release_over() {
  // Those who hear of every way ask for the launch at the end.
  for (const LaunchSlot launch : over_) {
    if (keep_ways_ || !launches_.has(launch) || launches_[launch].under_way() > 0) continue;
    roster_.remove(launches_[launch].row);
    weigh(*launches_[launch].prepared, false);
    launches_[launch].prepared.reset();
    launches_.release(launch);
  }
  over_.clear();
}

void Machine::set_off_at(LaunchSlot launch, double time, bool checked) {
  later_.push_back({.launch = launch, .time = time, .by_launch = true, .checked = checked});
  std::push_heap(later_.begin(), later_.end(), begins_after);
  until_ = std::min(until_, time);
}

void Machine::set_off_waiting(double time, Listener& listener) {
  if (waiting_.empty()) return;
  begin_window(time, time);
  watch();
  // What is started from within a callback waits for the next tick.
  const std::size_t count = waiting_.size();
  for (std::size_t i = 0; i < count; ++i) {
    const Start start{
        .launch = waiting_[i], .time = std::max(time, launches_[waiting_[i]].launch.at_s), .by_launch = true};
    if (start.time > time) {
      later_.push_back(start);
      std::push_heap(later_.begin(), later_.end(), begins_after);
    } else {
      begin_launch(start, listener);
    }
  }
  waiting_.erase(waiting_.begin(), waiting_.begin() + static_cast<std::ptrdiff_t>(count));
  begin_starts(listener);
  settle_ended(time, listener);
  settle_states(listener);
  release_over();
}

/// At the very end of a window it is not known yet how bodies move on: a launch is for the next one.
bool Machine::begins_in_window() const {
  if (later_.empty()) return false;
  const Start& first = later_.front();
  return first.time < until_ - kInstant || (first.is_pending() && first.time <= until_);
}

/// Those whose time comes within an instant.
void Machine::begin_later(double until, Listener& listener) {
  while (begins_in_window() && later_.front().time <= until) {
    std::pop_heap(later_.begin(), later_.end(), begins_after);
    Start start = later_.back();
    later_.pop_back();
    start.time = std::max(start.time, from_);
    // Whom it was for may be gone by now.
    if (!motions_.stands(start.target)) start.target = {};
    if (!arena_->has(start.anchor.target)) start.anchor.target = {};
    if (start.is_pending() && --launches_[start.launch].pending == 0) over_.push_back(start.launch);
    // Of those that come at one time the one that was put there first.
    const std::size_t serial = start.led_to;
    lead_to(start);
    starts_.back().led_to = serial;
  }
  begin_starts(listener);
}

/// The launch itself sets off.
void Machine::begin_launch(const Start& start, Listener& listener) {
  over_.push_back(start.launch);
  if (!start.checked) {
    // Whoever fell before it came to that does not attack any more.
    // Nor is carried out what means nothing any more, as at a target that is gone.
    const Launched& l = launches_[start.launch];
    const bool though_fallen = goes_on_though_fallen(*l.stage(0).attack, start);
    const auto sound = [&] {
      const Problems found =
          check_launch(Moment(motions_, start.time), *l.stage(0).attack, l.launch, true, though_fallen);
      if (!found.empty() && start.round == 0) listener.on_refused(start.launch, found, start.time);
      return found.empty();
    };
    const BodyId by = l.launch.by;
    if (!l.launch.from && !(though_fallen ? arena_->has(by) : motions_.stands(by))) {
      const Problems fallen{{"/launch/by", "has fallen and attacks nobody", "a body that stands"}};
      if (start.round == 0) listener.on_refused(start.launch, fallen, start.time);
      return;
    }
    if (!sound()) return;
    if (std::holds_alternative<AtChoice>(l.launch.toward) && !(choose_target(start, listener) && sound()))
      return;
    if (!is_ready(start, listener)) return;
  }
  if (keeps_history_ && !start.wound && start.round == 0) {
    const Launched& l = launches_[start.launch];
    if (!l.launch.by.empty() && !l.stage(0).name.empty())
      history_.note(l.launch.by, l.stage(0).name, *l.stage(0).attack, start.time);
  }
  if (!start.wound && wind_up(start)) return;
  begin_rounds(start, listener);
  begin(start, listener);
}

/// Whether the attacker is ready for it; of what has begun already nothing is asked.
bool Machine::is_ready(const Start& start, Listener& listener) {
  const Launched& l = launches_[start.launch];
  if (start.wound || start.round > 0 || !l.stage(0).attack->ready || l.launch.by.empty()) return true;
  const Moment moment(motions_, start.time);
  const std::vector<NotReady> missing = not_ready(moment, l.stage(0), l.launch, l.faction, history_);
  if (missing.empty()) return true;
  listener.on_not_ready(start.launch, missing);
  Flown told{.launch = start.launch, .ended = Ended::not_ready, .time = start.time};
  told.place = muzzle_point(moment, l.launch);
  listener.on_end(told);
  return false;
}

/// Whom a launch is aimed at that says how to choose; false when there is nobody.
bool Machine::choose_target(const Start& start, Listener& listener) {
  Launched& l = launches_[start.launch];
  const Moment moment(motions_, start.time);
  const BodyId body = choose(moment, l.stage(0), l.launch, l.faction, nullptr);
  if (!body.empty()) return l.launch.toward = body, true;
  Flown told{.launch = start.launch, .ended = Ended::no_target, .time = start.time};
  told.place = muzzle_point(moment, l.launch);
  listener.on_end(told);
  return false;
}

void Machine::begin(const Start& start, Listener& listener) {
  release(start, listener);
  switch (goes(*launches_[start.launch].stage(start.stage).attack)) {
    case Goes::at_once: return begin_instant(start, listener);
    case Goes::flies: return begin_shots(start, listener);
    case Goes::lasts: return begin_lasting(start, listener);
    case Goes::hops: return begin_chain(start, listener);
  }
}

void Machine::aim_shots(Start& start) const {
  const Launched& launched = launches_[start.launch];
  const Stage& stage = launched.stage(start.stage);
  const Launch& l = launched.launch;
  const Moment moment(motions_, start.time);
  start.anchor.place = muzzle_point(moment, l);
  start.anchor.direction = aim_direction(moment, l, start.anchor.place);
  if (const auto* at = std::get_if<AtBody>(&l.toward)) start.target = at->body;
  start.aim = aim_point(moment, l).value_or(start.anchor.place +
                                            start.anchor.direction * far_limit(stage.attack->reach));
  if (l.leaving) start.anchor.direction = normalized(*l.leaving / largest(*l.leaving));
  const auto at = aimed_at(moment, l);
  if (l.aim == Aiming::direct || !at) return;
  const auto ways = ways_to_meet(motions_, *stage.shot, start.anchor.place, start.time, stage.law.speed, *at,
                                 thrower_at(moment, l, start.anchor.place));
  // Without a way it flies straight at it.
  if (!ways.empty()) start.anchor.direction = (l.aim == Aiming::high ? ways.back() : ways.front()).direction;
}

void Machine::meet_limit(LaunchSlot launch, Limit limit, double time, Listener& listener) {
  Launched& l = launches_[launch];
  const std::uint32_t bit = 1u << static_cast<unsigned>(limit);
  if ((l.limits_met & bit) != 0) return;
  l.limits_met |= bit;
  const auto most = [&]() -> double {
    switch (limit) {
      case Limit::carriers: return limits_.carriers;
      case Limit::alive: return limits_.alive;
      case Limit::strikes: return limits_.strikes;
      case Limit::contacts: return limits_.contacts;
      case Limit::depth: return limits_.depth;
      case Limit::flight: return limits_.flight_s;
    }
    return 0;
  };
  listener.on_limit({limit, most(), time, l.number});
}

bool Machine::may_begin(const Start& start, Listener& listener) {
  Launched& l = launches_[start.launch];
  const Stage& stage = l.stage(start.stage);
  const auto refuse = [&](Limit limit) {
    return meet_limit(start.launch, limit, start.time, listener), false;
  };
  if (stage.depth > limits_.depth) return refuse(Limit::depth);
  if (!stage.at_once && l.carriers < limits_.carriers && l.alive >= limits_.alive)
    return refuse(Limit::alive);
  return takes_carrier(start.launch, start.time, listener);
}

bool Machine::takes_carrier(LaunchSlot launch, double time, Listener& listener) {
  Launched& l = launches_[launch];
  if (l.carriers >= limits_.carriers) return meet_limit(launch, Limit::carriers, time, listener), false;
  return ++l.carriers, true;
}

bool Machine::may_wait(LaunchSlot launch, double time, Listener& listener) {
  const Launched& l = launches_[launch];
  if (l.carriers + l.pending < limits_.carriers) return true;
  return meet_limit(launch, Limit::carriers, time, listener), false;
}

ShotSlot Machine::new_shot() {
  const ShotSlot slot = shots_.add();
  shots_[slot].flight = {}, shots_[slot].asked = 0;
  looks_.add(slot);
  make_room_for_undo();
  if (slot.at < undo_.size()) undo_[slot.at].window = 0;
  return slot;
}

void Machine::choose_bodies(const Start& start) {
  next_.clear();
  const Launched& l = launches_[start.launch];
  const Stage& stage = l.stage(start.stage);
  const Moment moment(motions_, start.time);
  const Act act(motions_, stage, l.launch, l.faction, moment.state_time(), nullptr, start.cause.key);
  const Vec3& from = start.anchor.place;
  const Choice choice(motions_, stage.order, from, start.anchor.direction, l.launch.seed, start.cause.key);
  const double far = far_limit(stage.attack->reach);
  moment.bodies_touching(Bounds{from, from}.grown(far + slack(largest(from), far)), [&](BodyId body) {
    if (body == start.anchor.target || !eligible(act, body)) return;
    const double away = moment.body(body).nearest(from).distance;
    const auto same = [&](const Candidate& c) { return c.body == body; };
    if (!at_most(away, far, largest(from)) || std::any_of(next_.begin(), next_.end(), same)) return;
    next_.push_back({body, away, moment.center(body)});
  });
  std::sort(next_.begin(), next_.end(),
            [&](const Candidate& a, const Candidate& b) { return choice.before(a, b); });
  if (next_.size() > stage.shot->volley.count) next_.resize(stage.shot->volley.count);
}

void Machine::throw_shot(const Start& start, const Thrower& by, std::uint32_t number, const Candidate* at,
                         const std::optional<WallContact>& leaned_on, Listener& listener) {
  const LaunchSlot launch = start.launch;
  const std::uint32_t stage = start.stage;
  const Vec3 &place = start.anchor.place, &direction = start.anchor.direction;
  const Stage& what = launches_[launch].stage(stage);
  const ShotDelivery& shot = *what.shot;
  const double time = start.time;
  const Vec3 left = left_of_throw(arena_->upright(), by.side, direction);
  const ShotSlot slot = new_shot();
  Flight& f = shots_[slot].flight;
  Launched& l = launches_[launch];
  const std::uint64_t seed = l.launch.seed;
  f.launch = launch, f.stage = stage, f.number = l.flights++, f.cause = start.cause.strike;
  f.key = chance_key(start.cause.key, number);
  ++l.alive;
  Course& c = f.course;
  c.time = time + number * shot.volley.gap_s;
  f.lately = c.time;
  c.target = at != nullptr ? at->body : start.target;
  c.speed =
      what.law.speed * (1 + shot.volley.speed_variation * (2 * chance(seed, f.key, Draw::speed, 0) - 1));
  const bool straight = at != nullptr || shot.volley.spread == Volley::Spread::none;
  const Vec3 aim = at != nullptr ? at->point : start.aim;
  const double away = length(aim - place);
  const Vec3 way = at != nullptr && away > kSamePlace
                       ? (aim - place) / away
                       : spread(*arena_, shot.volley, direction, left, seed, f.key, number);
  c.aim = straight ? aim : place + way * away;
  // The body that it comes out of is none of the others.
  if (at != nullptr && !start.anchor.target.empty()) memory_.meet(f.met, start.anchor.target).struck = true;
  if (!what.law.knows_target && !what.near) c.target = {};
  if (!c.target.empty()) seekers_.add(slot);
  if (straight)
    throw_at(c, shot, motions_, place, at_of(motions_, at != nullptr ? c.target : start.target, aim, time),
             by);
  set_off(c, shot.path, place, way, by, motions_);
  f.ends = c.time + std::min(life_limit(shot), limits_.flight_s);
  if (leaned_on) {
    c.piece.at = leaned_on->contact.point;
    Blocker wall;
    wall.wall = leaned_on->wall;
    end(slot, Ended::muzzle_blocked, wall, listener);
    return;
  }
  propose(slot, listener);
}

void Machine::begin_shots(Start start, Listener& listener) {
  if (start.by_launch) aim_shots(start);
  const Vec3& place = start.anchor.place;
  const LaunchSlot launch = start.launch;
  const std::uint32_t stage = start.stage;
  const Stage& what = launches_[launch].stage(stage);
  const ShotDelivery& shot = *what.shot;
  const double time = start.time;
  const Thrower by = thrower_at(Moment(motions_, time), launches_[launch].launch, place);
  const Vec3 arm = place - by.center;
  // Nobody shoots through a wall by leaning on it.
  std::optional<WallContact> leaned_on;
  if (const double size = length(arm); start.by_launch && size > 0) {
    leaned_on = first_wall(*arena_, {by.center, arm / size, size}, Passage::shots, time);
  }
  const bool at_bodies = shot.volley.spread == Volley::Spread::bodies;
  if (at_bodies) choose_bodies(start);
  const std::vector<Candidate> bodies = at_bodies ? next_ : std::vector<Candidate>{};
  if (at_bodies && bodies.empty() && start.by_launch) {
    Flown told{.launch = launch, .ended = Ended::no_target, .time = time};
    told.place = place;
    listener.on_end(told);
  }
  const std::uint32_t count = at_bodies ? static_cast<std::uint32_t>(bodies.size()) : shot.volley.count;
  for (std::uint32_t i = 0; i < count && may_begin(start, listener); ++i)
    throw_shot(start, by, i, at_bodies ? &bodies[i] : nullptr, leaned_on, listener);
}

}  // namespace dardo::detail
