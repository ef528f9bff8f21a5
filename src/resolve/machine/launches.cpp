// How launches and their carriers begin.
#include <algorithm>
#include <numbers>

#include "geometry/detail/elementary.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/aimed.hpp"
#include "resolve/carriers/kinds.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"

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
  launches_.clear(), free_launches_.clear(), waiting_.clear();
  flights_.clear(), first_looks_.clear(), clear_.clear(), due_.clear(), events_.clear(), versions_.clear();
  ways_.clear(), befores_.clear(), free_.clear();
  queue_.clear(), instant_.clear(), touched_.clear(), follows_.clear(), downed_.clear();
  alive_ = 0, from_ = until_ = drift_ = 0;
  keep_ways_ = watches_shots_ = false, wanted_ = Detail::strikes;
}

std::uint32_t Machine::add(std::shared_ptr<const Plan> plan, const Launch& launch, std::uint32_t number) {
  if (free_launches_.empty()) {
    free_launches_.push_back(static_cast<std::uint32_t>(launches_.size()));
    launches_.emplace_back();
  }
  const std::uint32_t slot = free_launches_.back();
  free_launches_.pop_back();
  watch(*plan);
  launches_[slot] = {.plan = std::move(plan),
                     .launch = launch,
                     .faction = arena_->body(launch.by).faction,
                     .number = number,
                     .used = true};
  return slot;
}

void Machine::release_if_over(std::uint32_t launch) {
  Launched& l = launches_[launch];
  if (!l.used || l.alive > 0) return;
  l = {};
  free_launches_.push_back(launch);
}

void Machine::set_off(std::uint32_t launch, double time, Listener& listener) {
  const Launch& l = launches_[launch].launch;
  from_ = until_ = time;
  if (!flies(launches_[launch].plan->attack(0))) return instant(launch, 0, time, nullptr, {}, listener);
  const Moment moment(motions_, time);
  const Vec3 muzzle = muzzle_point(moment, l);
  Vec3 direction = aim_direction(moment, l, muzzle);
  BodyId target;
  if (const auto* at = std::get_if<AtBody>(&l.toward)) target = at->body;
  const Vec3 aim =
      aim_point(moment, l).value_or(muzzle + direction * launches_[launch].plan->attack(0).reach.far);
  const auto& shot = std::get<ShotDelivery>(launches_[launch].plan->attack(0).delivery);
  const auto at = aimed_at(moment, l);
  if (l.aim != Aiming::direct && at) {
    double more_speed = 0;
    const auto ways =
        ways_to_meet(motions_, shot, muzzle, time, law_of(shot.path).speed, *at, l.by, more_speed);
    // Without a way it flies straight at it.
    if (!ways.empty()) direction = (l.aim == Aiming::high ? ways.back() : ways.front()).direction;
  }
  spawn(launch, 0, time, {muzzle, direction}, target, aim, {}, listener);
}

void Machine::set_off_waiting(double time, Listener& listener) {
  // What is started from within a callback waits for the next tick.
  const std::size_t count = waiting_.size();
  for (std::size_t i = 0; i < count; ++i) {
    const std::uint32_t launch = waiting_[i];
    // Whoever fell before it came to that does not attack any more.
    // Nor is carried out what means nothing any more, as at a target that is gone.
    const Launched& l = launches_[launch];
    if (arena_->stands(l.launch.by) &&
        check_launch(Moment(motions_, time), l.plan->attack(0), l.launch).empty())
      set_off(launch, time, listener);
    release_if_over(launch);
    release_downed();
  }
  waiting_.erase(waiting_.begin(), waiting_.begin() + static_cast<std::ptrdiff_t>(count));
}

void Machine::release_downed() {
  for (const std::uint32_t launch : downed_) {
    if (!keep_ways_) release_if_over(launch);
  }
  downed_.clear();
}

void Machine::start(std::uint32_t launch, std::uint32_t stage, double time, const Start& from, BodyId target,
                    const Vec3& aim, const Cause& cause, Listener& listener) {
  if (flies(launches_[launch].plan->attack(stage))) {
    spawn(launch, stage, time, from, target, aim, cause, listener);
  } else {
    instant(launch, stage, time, &from, cause, listener);
  }
}

void Machine::meet_limit(std::uint32_t launch, Limit limit, double time, Listener& listener) {
  Launched& l = launches_[launch];
  const std::uint32_t bit = 1u << static_cast<unsigned>(limit);
  if ((l.limits_met & bit) != 0) return;
  l.limits_met |= bit;
  const auto most = [&]() -> double {
    switch (limit) {
      case Limit::carriers: return limits_.carriers;
      case Limit::strikes: return limits_.strikes;
      case Limit::contacts: return limits_.contacts;
      case Limit::depth: return limits_.depth;
      case Limit::flight: return limits_.flight_s;
    }
    return 0;
  };
  listener.on_limit({limit, most(), time, l.number});
}

bool Machine::may_begin(std::uint32_t launch, std::uint32_t stage, double time, Listener& listener) {
  Launched& l = launches_[launch];
  const bool deep = l.plan->depth(stage) > limits_.depth;
  if (!deep && l.carriers < limits_.carriers) return ++l.carriers, true;
  meet_limit(launch, deep ? Limit::depth : Limit::carriers, time, listener);
  return false;
}

Flight& Machine::new_flight() {
  if (free_.empty()) {
    free_.push_back(static_cast<std::uint32_t>(flights_.size()));
    flights_.emplace_back();
    first_looks_.emplace_back();
    clear_.emplace_back();
    events_.emplace_back();
    versions_.push_back(0);
    ways_.emplace_back();
    befores_.emplace_back();
  }
  const std::uint32_t slot = free_.back();
  free_.pop_back();
  Flight& f = flights_[slot];
  auto met = std::move(f.met);
  met.clear();
  f = {};
  f.met = std::move(met);
  f.alive = true;
  first_looks_[slot] = {};
  clear_[slot] = {};
  ++alive_;
  return f;
}

void Machine::spawn(std::uint32_t launch, std::uint32_t stage, double time, const Start& from, BodyId target,
                    const Vec3& aim, const Cause& cause, Listener& listener) {
  const auto& [place, direction] = from;
  const Attack& attack = launches_[launch].plan->attack(stage);
  const auto& shot = std::get<ShotDelivery>(attack.delivery);
  const Vec3 center = motions_.center(launches_[launch].launch.by, time), arm = place - center;
  // Nobody shoots through a wall by leaning on it.
  std::optional<WallContact> leaned_on;
  if (const double size = length(arm); stage == 0 && size > 0) {
    leaned_on = first_wall(*arena_, {center, arm / size, size}, Passage::shots);
  }
  const Vec3 &up = arena_->up(), left = left_of_throw(motions_, launches_[launch].launch.by, time, direction);
  for (std::uint32_t i = 0; i < shot.volley.count && may_begin(launch, stage, time, listener); ++i) {
    Flight& f = new_flight();
    const auto slot = static_cast<std::uint32_t>(&f - flights_.data());
    Launched& l = launches_[launch];
    const std::uint64_t seed = l.launch.seed;
    f.launch = launch, f.stage = stage, f.number = l.flights++, f.cause = cause.strike;
    f.key = chance_key(cause.key, i);
    ++l.alive;
    Course& c = f.course;
    c.time = time + i * shot.volley.gap_s;
    f.lately = c.time;
    c.target = target, c.thrower = l.launch.by;
    c.speed = law_of(shot.path).speed *
              (1 + shot.volley.speed_variation * (2 * chance(seed, f.key, Draw::speed, 0) - 1));
    const Vec3 way = spread(shot.volley, direction, left, up, seed, f.key, i);
    const double away = length(aim - place);
    c.aim = shot.volley.spread == Volley::Spread::none ? aim : place + way * away;
    if (!law_of(shot.path).knows_target && !l.plan->near(stage)) c.target = {};
    if (shot.volley.spread == Volley::Spread::none)
      throw_at(c, shot, motions_, place, at_of(motions_, target, aim, time));
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
