// How launches and their carriers begin.
#include <algorithm>
#include <numbers>

#include "geometry/detail/elementary.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/aimed.hpp"
#include "resolve/carriers/kinds.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {
namespace {

constexpr double kPi = std::numbers::pi;

/// The direction of one shot of a volley. `left` is level, and where angles around the aim are counted from.
Vec3 spread(const Volley& volley, const Vec3& direction, const Vec3& left, const Vec3& up, std::uint64_t seed,
            std::uint64_t key, std::uint32_t index) {
  const double u = chance(seed, key, Draw::spread, 0), around = 2 * kPi * chance(seed, key, Draw::spread, 1);
  switch (volley.spread) {
    case Volley::Spread::none: return direction;
    case Volley::Spread::cone:  // evenly over the cap's area
      return turned_aside(direction, left, arc_cosine(1 - u * (1 - cosine(volley.angle))), around);
    case Volley::Spread::gauss:
      return turned_aside(direction, left,
                          std::min(kPi, volley.angle * std::sqrt(-2 * natural_logarithm(1 - u))), around);
    case Volley::Spread::fan: {
      const double share = volley.count > 1 ? static_cast<double>(index) / (volley.count - 1) - 0.5 : 0;
      return Rotation::about(up, volley.angle * share) * direction;
    }
    case Volley::Spread::ring:
      return turned_aside(direction, left, volley.angle, 2 * kPi * index / volley.count);
  }
  return direction;
}

}  // namespace

void Machine::begin(const Arena& arena) {
  arena_ = &arena, motions_ = Motions(arena);
  bounds_.reset(), limits_ = {};
  launches_.clear(), waiting_.clear(), shots_.clear(), seekers_.clear(), memory_.clear(), roster_.clear(),
      boxes_.clear(), looks_.clear(), queue_.clear();
  watched_.clear(), partners_.clear(), due_.clear(), touched_.clear(), follows_.clear(), starts_.clear(),
      over_.clear();
  from_ = until_ = 0;
  keep_ways_ = false, wanted_ = Detail::strikes;
}

LaunchSlot Machine::add(std::shared_ptr<const Prepared> attack, const Launch& launch, std::uint32_t number) {
  const LaunchSlot slot = launches_.add();
  Launched& l = launches_[slot];
  l.prepared = std::move(attack);
  l.launch = launch;
  l.faction = arena_->body(launch.by).faction;
  l.number = number;
  l.row = roster_.add(*l.prepared, l.faction);
  l.flights = l.strikes = l.alive = l.carriers = l.contacts = l.limits_met = 0;
  return slot;
}

/// Gives the places in the table back of which nothing is under way.
void Machine::release_over() {
  // Those who hear of every way ask for the launch at the end.
  for (const LaunchSlot launch : over_) {
    if (keep_ways_ || !launches_.has(launch) || launches_[launch].alive > 0) continue;
    roster_.remove(launches_[launch].row);
    launches_[launch].prepared.reset();
    launches_.release(launch);
  }
  over_.clear();
}

void Machine::set_off(LaunchSlot launch, double time, Listener& listener) {
  begin_window(time, time);
  watch();
  begin({.launch = launch, .time = time, .by_launch = true}, listener);
  begin_starts(listener);
  release_over();
}

void Machine::set_off_waiting(double time, Listener& listener) {
  if (waiting_.empty()) return;
  begin_window(time, time);
  watch();
  // What is started from within a callback waits for the next tick.
  const std::size_t count = waiting_.size();
  for (std::size_t i = 0; i < count; ++i) {
    const LaunchSlot launch = waiting_[i];
    over_.push_back(launch);
    // Whoever fell before it came to that does not attack any more.
    // Nor is carried out what means nothing any more, as at a target that is gone.
    const Launched& l = launches_[launch];
    if (!arena_->stands(l.launch.by) ||
        !check_launch(Moment(motions_, time), *l.stage(0).attack, l.launch).empty())
      continue;
    begin({.launch = launch, .time = time, .by_launch = true}, listener);
  }
  waiting_.erase(waiting_.begin(), waiting_.begin() + static_cast<std::ptrdiff_t>(count));
  begin_starts(listener);
  release_over();
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
      begin(start, listener);
    }
  }
  starts_.clear();
}

void Machine::begin(const Start& start, Listener& listener) {
  with_kind(*launches_[start.launch].stage(start.stage).attack, [&](auto kind, const auto&) {
    if constexpr (kind.kFlies) {
      begin_shots(start, listener);
    } else {
      begin_instant(start, listener);
    }
  });
}

void Machine::aim_shots(Start& start) const {
  const Launched& launched = launches_[start.launch];
  const Stage& stage = launched.stage(start.stage);
  const Launch& l = launched.launch;
  const Moment moment(motions_, start.time);
  start.anchor.place = muzzle_point(moment, l);
  start.anchor.direction = aim_direction(moment, l, start.anchor.place);
  if (const auto* at = std::get_if<AtBody>(&l.toward)) start.target = at->body;
  start.aim =
      aim_point(moment, l).value_or(start.anchor.place + start.anchor.direction * stage.attack->reach.far);
  const auto at = aimed_at(moment, l);
  if (l.aim == Aiming::direct || !at) return;
  double more_speed = 0;
  const auto ways = ways_to_meet(motions_, *stage.shot, start.anchor.place, start.time, stage.law.speed, *at,
                                 l.by, more_speed);
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
  if (l.carriers >= limits_.carriers) return refuse(Limit::carriers);
  if (stage.shot != nullptr && l.alive >= limits_.alive) return refuse(Limit::alive);
  return ++l.carriers, true;
}

ShotSlot Machine::new_shot() {
  const ShotSlot slot = shots_.add();
  shots_[slot].flight = {}, shots_[slot].asked = 0;
  looks_.add(slot);
  return slot;
}

void Machine::begin_shots(Start start, Listener& listener) {
  if (start.by_launch) aim_shots(start);
  const Vec3 &place = start.anchor.place, &direction = start.anchor.direction;
  const LaunchSlot launch = start.launch;
  const std::uint32_t stage = start.stage;
  const Stage& what = launches_[launch].stage(stage);
  const ShotDelivery& shot = *what.shot;
  const double time = start.time;
  const Vec3 center = motions_.center(launches_[launch].launch.by, time), arm = place - center;
  // Nobody shoots through a wall by leaning on it.
  std::optional<WallContact> leaned_on;
  if (const double size = length(arm); start.by_launch && size > 0) {
    leaned_on = first_wall(*arena_, {center, arm / size, size}, Passage::shots, time);
  }
  const Vec3 &up = arena_->up(), left = left_of_throw(motions_, launches_[launch].launch.by, time, direction);
  for (std::uint32_t i = 0; i < shot.volley.count && may_begin(start, listener); ++i) {
    const ShotSlot slot = new_shot();
    Flight& f = shots_[slot].flight;
    Launched& l = launches_[launch];
    const std::uint64_t seed = l.launch.seed;
    f.launch = launch, f.stage = stage, f.number = l.flights++, f.cause = start.cause.strike;
    f.key = chance_key(start.cause.key, i);
    ++l.alive;
    Course& c = f.course;
    c.time = time + i * shot.volley.gap_s;
    f.lately = c.time;
    c.target = start.target, c.thrower = l.launch.by;
    c.speed =
        what.law.speed * (1 + shot.volley.speed_variation * (2 * chance(seed, f.key, Draw::speed, 0) - 1));
    const Vec3 way = spread(shot.volley, direction, left, up, seed, f.key, i);
    const double away = length(start.aim - place);
    c.aim = shot.volley.spread == Volley::Spread::none ? start.aim : place + way * away;
    if (!what.law.knows_target && !what.near) c.target = {};
    if (!c.target.empty()) seekers_.add(slot);
    if (shot.volley.spread == Volley::Spread::none)
      throw_at(c, shot, motions_, place, at_of(motions_, start.target, start.aim, time));
    dardo::detail::set_off(c, shot.path, place, way, motions_);
    f.ends = c.time + std::min(shot.life_s, limits_.flight_s);
    if (leaned_on) {
      c.piece.at = leaned_on->contact.point;
      Blocker by;
      by.wall = leaned_on->wall;
      end(slot, Ended::muzzle_blocked, by, listener);
      continue;
    }
    propose(slot, listener);
  }
}

}  // namespace dardo::detail
