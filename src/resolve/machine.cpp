#include "resolve/detail/machine.hpp"

#include <algorithm>
#include <numbers>
#include <tuple>

#include "geometry/detail/elementary.hpp"
#include "geometry/detail/kernels.hpp"
#include "resolve/detail/aim_point.hpp"
#include "resolve/detail/aimed.hpp"
#include "resolve/detail/chance.hpp"
#include "resolve/detail/judge.hpp"
#include "resolve/detail/work.hpp"

namespace dardo::detail {
namespace {

constexpr double kEver = std::numeric_limits<double>::infinity();
constexpr double kPi = std::numbers::pi;
/// It is at rest on a surface that it is drawn to when it leaves that more slowly than this (m/s) and would
/// come no higher (m) before it is back.
constexpr double kRestSpeed = 1e-3, kRestHeight = 1e-6;
/// So many events may come to one flight at one time.
constexpr std::uint32_t kMostAtOnce = 1000;

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

const std::string kGround = "ground";

bool lists(const std::vector<std::string>& words, const std::string& word) {
  return std::find(words.begin(), words.end(), word) != words.end();
}

}  // namespace

void Machine::begin(const Arena& arena) {
  arena_ = &arena, motions_ = Motions(arena);
  bounds_.reset(), limits_ = {};
  launches_.clear(), free_launches_.clear(), waiting_.clear();
  flights_.clear(), glances_.clear(), clear_.clear(), due_.clear(), events_.clear(), versions_.clear();
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
  if (!std::holds_alternative<ShotDelivery>(launches_[launch].plan->attack(0).delivery))
    return instant(launch, 0, time, nullptr, {}, listener);
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
  if (std::holds_alternative<ShotDelivery>(launches_[launch].plan->attack(stage).delivery)) {
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
    glances_.emplace_back();
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
  glances_[slot] = {};
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

void Machine::propose(std::uint32_t slot, Listener& listener) {
  const Flight& f = flights_[slot];
  ++versions_[slot];
  if (f.course.time > until_) return;  // of a volley: not yet off
  glances_[slot] = glance_at(f);
  if (!is_quiet(slot)) ask(slot, listener);
}

/// What comes next of it in this window goes into the queue.
void Machine::ask(std::uint32_t slot, Listener& listener) {
  const Flight& f = flights_[slot];
  std::vector<Piece>* way = keep_ways_ || watches_shots_ ? &ways_[slot] : nullptr;
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
    if (way != nullptr) way->clear();
    if (watches_shots_) befores_[slot] = f.course;
    glances_[slot] = glance_at(f);
    e = next_event(f, launches_[f.launch], around(), until_, way);
  }
  if (e.kind == Event::Kind::none) {
    if (keep_ways_) listener.on_way(f, ways_[slot]);
    // Where a look might have told as much, nothing is written: what was looked at leaves no trace.
    if (may_look(glances_[slot])) return;
    flights_[slot].course = e.course;
    glances_[slot] = glance_at(flights_[slot]);
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
  instant_.clear();
  const double last = queue_.front().time + kInstant;
  while (!queue_.empty() && queue_.front().time <= last) {
    std::pop_heap(queue_.begin(), queue_.end());
    instant_.push_back(queue_.back());
    queue_.pop_back();
  }
  if (instant_.size() > 1) {
    std::sort(instant_.begin(), instant_.end(), [&](const Next& a, const Next& b) {
      const auto place = [&](const Next& n) { return std::tuple(n.launch, n.number, n.time, n.victim); };
      return place(a) < place(b);
    });
  }
  if (!queue_.empty()) prefetch(flights_[queue_.front().slot]), prefetch(events_[queue_.front().slot]);
  for (std::size_t i = 0; i < instant_.size(); ++i) {
    const Next next = instant_[i];
    if (!flights_[next.slot].alive || versions_[next.slot] != next.version) continue;
    if (next.victim != kNobody &&
        (!flights_[next.victim].alive || versions_[next.victim] != next.victim_version))
      continue;
    const std::uint32_t launch = flights_[next.slot].launch;
    next.victim != kNobody ? decide_meeting(next, listener) : decide(next.slot, listener);
    if (!keep_ways_) release_if_over(launch);
    release_downed();
  }
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
      if (std::get<ShotDelivery>(attack_of(f).delivery).life_s <= limits_.flight_s) return over(Ended::life);
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
             {f.cause, chance_key(f.key, Then::When::apex, 0, 0)}, listener);
      break;
    case Event::Kind::near:
      f.near_passed = true;
      follow(departure_of(f), Then::When::near, f.course.place(),
             {f.cause, chance_key(f.key, Then::When::near, 0, 0)}, listener);
      break;
    case Event::Kind::turned:
      if (law_of_shot(f).strikes_again) {
        for (Met& m : f.met) m.struck = false;
        f.strikes = 0;
      }
      break;
    case Event::Kind::lost: {
      const auto rule = law_of_shot(f).lost;
      const Met* met = f.known(f.course.target);
      const bool struck = met != nullptr && met->times > 0;
      if (rule == GuidedPath::Lost::end && !struck) return over(Ended::lost);
      f.course.target_lost = kEver;
      f.course.piece.end = f.course.time;
      if (rule != GuidedPath::Lost::pick_anew || !pick_anew(f)) f.course.target = {};
      break;
    }
  }
  propose(slot, listener);
}

/// Decides all that a flight touches in one instant, as one set: strikes whom it may, is stopped by whoever
/// stops it, goes through walls, turns at the others or ends there; then comes what follows. Whether it goes
/// on.
bool Machine::meet(std::uint32_t slot, const Touched& first, Listener& listener) {
  ++work().contacts;
  touching(flights_[slot], launches_[flights_[slot].launch], around(), first, touched_);
  Flight& f = flights_[slot];
  const auto& shot = std::get<ShotDelivery>(attack_of(f).delivery);
  const Departure here = departure_of(f);
  if (launches_[f.launch].contacts++ >= limits_.contacts) {
    meet_limit(f.launch, Limit::contacts, f.course.time, listener);
    end(slot, Ended::limit, {}, listener);
    return false;
  }
  Blocker struck, stopper;
  bool none_left = false;
  follows_.clear();
  for (const Touched& t : touched_) {
    switch (t.as) {
      case Touched::As::passed: (t.body.empty() ? f.meet(t.wall) : f.meet(t.body)).passing = true; break;
      case Touched::As::struck:
        if (f.strikes >= shot.pierce.bodies || !arena_->stands(t.body)) break;
        none_left = launches_[f.launch].strikes >= limits_.strikes;
        if (none_left) break;
        strike(f, t, listener);
        struck.body = t.body;
        break;
      case Touched::As::stopper:
        if (stopper.body.empty()) stopper.body = t.body;
        break;
      case Touched::As::surface: break;
    }
  }
  if (none_left) meet_limit(f.launch, Limit::strikes, f.course.time, listener);
  const bool spent = !struck.body.empty() && f.strikes >= shot.pierce.bodies;
  Surfaces surfaces;
  if (!spent && !none_left && stopper.body.empty()) surfaces = meet_surfaces(f, shot);
  // What follows may move the table of flights: from here on it is asked for by its place.
  for (std::size_t i = 0; i < follows_.size(); ++i) {
    const Following next = follows_[i];
    follow(here, next.when, next.place, next.cause, listener);
  }
  const auto over = [&](Ended why, const Blocker& by) {
    end(slot, why, by, listener);
    return false;
  };
  if (none_left) return over(Ended::limit, {});
  if (spent) return over(Ended::strike, struck);
  if (!stopper.body.empty()) return over(Ended::body, stopper);
  if (surfaces.ended) return over(*surfaces.ended, surfaces.by);
  return true;
}

/// Meets the surfaces that it touches: goes through those that it pierces; the others make a corner.
Machine::Corner Machine::corner_at(Flight& f, const ShotDelivery& shot) {
  const Course before = f.course;
  const Flyer flyer = flyer_of(shot, f.course, arena_->up());
  const Ricochet& r = shot.ricochet;
  Corner corner;
  corner.turns = r.count > 0 && f.turns < r.count;
  std::array<Contact, kCornerTurns> sides;
  std::array<WallId, kCornerTurns> walls;
  Contact nearest{kEver, {}, {}};
  for (const Touched& t : touched_) {
    if (t.as != Touched::As::surface) continue;
    Met& met = f.meet(t.wall);
    const bool ground = t.wall.empty();
    const std::string& material = ground ? kGround : arena_->material(arena_->wall(t.wall).material).name;
    const Contact at = surface_contact(flyer, before, *arena_, t.wall);
    follows_.push_back({Then::When::surface,
                        at.point,
                        {f.cause, chance_key(f.key, Then::When::surface, t.wall.index, met.times)}});
    ++met.times, met.time = before.time, met.normal = at.normal;
    met.passing = !ground && pierces(f, shot, t.wall, material);
    if (met.passing) continue;
    if (!corner.first) corner.first.emplace().wall = t.wall;
    corner.turns = corner.turns && (r.materials.empty() || lists(r.materials, material));
    if (at.distance < nearest.distance) nearest = at;
    if (corner.count < sides.size()) sides[corner.count] = at, walls[corner.count++] = t.wall;
  }
  // Lying in several, a ball is turned by the nearest, as by one wall made of all of them.
  const double same = kSamePlace + 2 * kInstant * length(before.velocity());
  for (std::size_t i = 0; i < corner.count; ++i) {
    corner.normals[i] = sides[i].distance > nearest.distance + same ? nearest.normal : sides[i].normal;
    f.meet(walls[i]).normal = corner.normals[i];
  }
  return corner;
}

/// Off the walls of a corner: each turns what flies into it, until that flies into none.
Vec3 Machine::Corner::turned(const Vec3& velocity, const Ricochet& r) const {
  Vec3 out = velocity;
  for (int round = 0; round < kCornerTurns; ++round) {
    const Vec3* into = into_any(out);
    if (into == nullptr) return out;
    const double inward = dot(out, *into);
    out = (out - *into * inward) * (1 - r.friction) - *into * (inward * r.restitution);
  }
  return into_any(out) != nullptr ? velocity * -r.restitution : out;
}

/// The wall that this flies into, as far as rounding lets tell.
const Vec3* Machine::Corner::into_any(const Vec3& velocity) const {
  const double graze = -1e-12 * length(velocity);
  for (const Vec3& n : sides()) {
    if (dot(velocity, n) < graze) return &n;
  }
  return nullptr;
}

/// Goes through those of the surfaces that it pierces, and turns at all others at once.
Machine::Surfaces Machine::meet_surfaces(Flight& f, const ShotDelivery& shot) {
  const Ricochet& r = shot.ricochet;
  const Corner corner = corner_at(f, shot);
  if (!corner.first) return {};
  const Blocker& first = *corner.first;
  const Vec3 velocity = velocity_by_law(f.course, shot.path);
  // It only brushes past, or leaves already.
  if (r.count > 0 && corner.into_any(velocity) == nullptr) return {};
  if (!corner.turns) return {first.wall.empty() ? Ended::ground : Ended::wall, first};
  Vec3 out = corner.turned(velocity, r);
  if (const double size = length(out); r.jitter > 0 && size > 0) {
    const std::uint64_t seed = launches_[f.launch].launch.seed;
    const Vec3 off = turned_aside(out / size, to_the_left(out, arena_->up(), f.course.left),
                                  r.jitter * std::sqrt(chance(seed, f.key, Draw::jitter, 2 * f.turns)),
                                  2 * kPi * chance(seed, f.key, Draw::jitter, 2 * f.turns + 1));
    // Never into the walls that it leaves.
    const auto all = corner.sides();
    if (std::all_of(all.begin(), all.end(), [&](const Vec3& n) { return dot(off, n) > 0; })) out = off * size;
  }
  ++f.turns;
  const Vec3 drawn = arena_->gravity() * law_of(shot.path).gravity;
  for (const Vec3& n : corner.sides()) {
    const double leaves = std::max(0.0, dot(out, n)), back = -dot(drawn, n);
    if (leaves < kRestSpeed && back > 0 && leaves * leaves < 2 * back * kRestHeight)
      return {Ended::rest, first};
  }
  // Strictly below: turning takes a rounding of the speed.
  if (length(out) < std::max(r.least_speed * (1 - 1e-9), 1e-9)) return {Ended::slow, first};
  deflect(f.course, out);
  return {};
}

/// Whether a flight goes through a wall that it touches; it loses what that costs.
bool Machine::pierces(Flight& f, const ShotDelivery& shot, WallId wall, const std::string& material) const {
  const Vec3 velocity = velocity_by_law(f.course, shot.path);
  const double speed = length(velocity);
  if (!(shot.pierce.thickness > 0) || !(speed > 0) || !lists(shot.pierce.materials, material)) return false;
  const Vec3 way = velocity / speed;
  // From a little farther back, so that the surface is not missed; what starts inside has only the rest.
  constexpr double kBack = 1e-6;
  const Box& box = arena_->wall(wall).box;
  const double through = kBack + length(f.course.place() - box.center) + length(box.half);
  const auto inside = crossing(box, Ray{f.course.place() - way * kBack, way, through});
  const double thickness = inside ? std::max(0.0, inside->leave - std::max(inside->enter, kBack)) : 0;
  const double left = speed - shot.pierce.speed_loss * thickness;
  if (!at_most(thickness, shot.pierce.thickness, through) || !(left > kStill)) return false;
  f.through *= std::max(0.0, 1 - shot.pierce.power_loss * thickness);
  if (left < speed) deflect(f.course, way * left);
  return true;
}

/// The nearest body that the attack may strike, other than the one lost; false when there is none within
/// reach.
bool Machine::pick_anew(Flight& f) {
  const Launched& l = launches_[f.launch];
  const Attempt attempt{*arena_, attack_of(f), l.launch, l.faction};
  const Vec3 from = f.course.place();
  const double far = attempt.attack.reach.far - f.course.travelled;
  BodyId best;
  double least = far;
  motions_.bodies_near(Bounds{from, from}.grown(far), f.course.time, f.course.time, [&](BodyId body) {
    if (body == f.course.target || !eligible(attempt, body)) return;
    const double away = length(motions_.center(body, f.course.time) - from);
    if (away < least || (away == least && !best.empty() && arena_->order(body) < arena_->order(best)))
      least = away, best = body;
  });
  f.course.target = best;
  return !best.empty();
}

/// Numbers the strike and tells of it; the number.
std::uint32_t Machine::tell(Strike& strike, Launched& launched, Listener& listener) {
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
    if (!law_of_shot(f).follows_target) continue;
    if (f.course.time > time && befores_[slot].target == body) f.course = befores_[slot];
    f.course.target_lost = std::max(time, f.course.time);
    // Asked again by whoever advances: its answer relied on the body.
    if (f.course.time <= until_) {
      struct Quiet final : Listener {
        bool on_strike(const Strike&) override { return false; }
      } quiet;
      propose(slot, quiet);
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

void Machine::strike(Flight& f, const Touched& event, Listener& listener) {
  const Attack& attack = attack_of(f);
  const auto& shot = std::get<ShotDelivery>(attack.delivery);
  const Flyer flyer = flyer_of(shot, f.course, arena_->up());
  const auto& hitboxes = arena_->build(arena_->body(event.body).build).hitboxes;
  const Leg leg = motions_.leg(event.body, event.time);
  const Contact contact = contact_at(flyer, f.course.piece, event.time, hitboxes[event.hitbox].shape, leg);
  std::uint32_t counts = event.hitbox;
  if (attack.zone == ZoneRule::best) {
    // What lies on its line as it goes on through the body counts as touched, too.
    const Pose pose = leg.at(event.time);
    const Vec3 way = f.course.velocity() - leg.velocity;
    const double speed = length(way);
    const Vec3 from = into(pose.turn, f.course.place() - pose.at);
    const Vec3 through = speed > 0 ? into(pose.turn, way / speed) *
                                         (2 * arena_->reach_around_center(event.body) + flyer.reach())
                                   : Vec3{};
    for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
      if (hitboxes[i].factor > hitboxes[counts].factor &&
          distance(hitboxes[i].shape, Segment{from, from + through}) <=
              flyer.reach() + contact_gap(largest(f.course.place()))) {
        counts = i;
      }
    }
  }
  Strike s;
  s.body = event.body;
  s.hitbox = counts;
  s.time_s = event.time;
  s.distance = f.course.travelled;
  s.point = contact.point, s.normal = contact.normal;
  s.power = {attack.power, hitboxes[counts].factor, 1, f.through};
  s.power.order = shot.pierce.power_of(f.strikes);
  s.stage = f.stage, s.cause = f.cause;
  ++f.strikes;
  Met& met = f.meet(event.body);
  const std::uint64_t key = chance_key(f.key, Then::When::strike, arena_->order(event.body), met.times);
  ++met.times, met.time = event.time, met.struck = true;
  // A guided shot that has struck its target has done with it.
  if (f.course.target == event.body && law_of(shot.path).has_done_with) f.course.target_lost = event.time;
  const std::uint32_t number = tell(s, launches_[f.launch], listener);
  follows_.push_back({Then::When::strike, s.point, {number, key}});
}

void Machine::end(std::uint32_t slot, Ended why, const Blocker& by, Listener& listener) {
  Flight& f = flights_[slot];
  const bool in_something =
      why == Ended::strike || why == Ended::body || why == Ended::wall || why == Ended::ground;
  if (in_something && !by.shot && std::get<ShotDelivery>(attack_of(f).delivery).sticks) {
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
           {f.cause, chance_key(f.key, Then::When::end, 0, 0)}, listener);
  }
  --launches_[launch].alive;
}

Machine::Departure Machine::departure_of(const Flight& f) {
  const Vec3 velocity = f.course.velocity();
  const double speed = length(velocity);
  return {f.launch,        f.stage,     f.course.time, speed > kStill ? velocity / speed : f.course.heading,
          f.course.target, f.course.aim};
}

void Machine::follow(const Departure& from, Then::When when, const Vec3& place, const Cause& cause,
                     Listener& listener) {
  const std::shared_ptr<const Plan>& plan = launches_[from.launch].plan;
  if (plan->attack(from.stage).then.empty()) return;
  const std::shared_ptr<const Plan> kept = plan;
  const BodyId target = arena_->stands(from.target) ? from.target : BodyId{};
  kept->each_then(from.stage, when, [&](std::uint32_t child) {
    start(from.launch, child, from.time, {place, from.direction}, target, from.aim,
          {cause.strike, chance_key(cause.key, child)}, listener);
  });
}

void Machine::follow_instant(std::uint32_t launch, std::uint32_t stage, double time, const Outcome& out,
                             const Vec3& ahead, std::uint32_t first, const Cause& cause, Listener& listener) {
  const std::shared_ptr<const Plan> plan = launches_[launch].plan;
  for (std::uint32_t i = 0; i < out.strikes.size(); ++i) {
    const Strike& s = out.strikes[i];
    const std::uint64_t key = chance_key(cause.key, Then::When::strike, arena_->order(s.body), 0);
    plan->each_then(stage, Then::When::strike, [&](std::uint32_t child) {
      start(launch, child, time, {s.point, -s.normal}, s.body, s.point, {first + i, chance_key(key, child)},
            listener);
    });
  }
  if (out.ended == Ended::out_of_reach || out.ended == Ended::muzzle_blocked) return;
  const Vec3 way = out.end - out.origin;
  // Rounding is no direction.
  const Start end{out.end, length(way) > kSamePlace ? normalized(way) : ahead};
  const std::uint64_t key = chance_key(cause.key, Then::When::end, 0, 0);
  plan->each_then(stage, Then::When::end, [&](std::uint32_t child) {
    start(launch, child, time, end, {}, out.end, {cause.strike, chance_key(key, child)}, listener);
  });
}

/// A ray that has ended in a shot: nothing else keeps it from whoever stands beyond.
static void shield(Verdict& v, const Reading& reach, const Outcome& out) {
  if (v.struck || v.deciding.reason != Reason::none) return;
  const double way = reach.measured.value_or(0), end = length(out.end - out.origin);
  v.deciding = {.gate = Gate::sight, .reason = Reason::shielded, .measured = way, .limit = end};
  v.deciding.margin = std::fabs(way - end), v.deciding.by = out.stopped_by, v.deciding.at = out.end;
}

/// Of an instant's strikes those that the launch's limit leaves.
void Machine::keep_strikes_left(std::uint32_t launch, double time, Outcome& out, Listener& listener) {
  const Launched& l = launches_[launch];
  const std::uint32_t left = limits_.strikes - std::min(limits_.strikes, l.strikes);
  if (out.strikes.size() <= left) return;
  out.strikes.resize(left);
  out.limits_met.push_back({Limit::strikes, static_cast<double>(limits_.strikes), time, l.number});
  meet_limit(launch, Limit::strikes, time, listener);
}

void Machine::instant(std::uint32_t launch, std::uint32_t stage, double time, const Start* from,
                      const Cause& cause, Listener& listener) {
  if (!may_begin(launch, stage, time, listener)) return;
  const std::shared_ptr<const Plan> plan = launches_[launch].plan;
  const Attack& attack = plan->attack(stage);
  const Moment moment(motions_, time);
  Outcome out;
  const Attempt attempt{*arena_, attack, launches_[launch].launch, launches_[launch].faction, from};
  const auto carry_out = [&](auto run) {
    run.strike(out);
    keep_strikes_left(launch, time, out, listener);
    if (watches_shots_) instant_downs(launch, stage, time, cause.strike, out, listener);
    if (keep_ways_) run.draw(out);
    if (wanted_ == Detail::strikes) return;
    for (const BodyId body : arena_->bodies()) {
      Verdict& v = out.verdicts.emplace_back(judge(attempt, run, out, body, wanted_));
      if (out.stopped_by.shot) shield(v, run.reach(body), out);
      mark_stage(v, stage, time);
    }
  };
  if (std::holds_alternative<RayDelivery>(attack.delivery)) {
    carry_out(RayRun(attempt, moment, out));
  } else {
    carry_out(AreaRun(attempt, moment, out));
  }
  listener.on_instant(launch, stage, out);
  const std::uint32_t first = launches_[launch].strikes + 1;
  for (Strike& s : out.strikes) {
    s.time_s = time, s.seen_s += time, s.stage = stage, s.cause = cause.strike;
    tell(s, launches_[launch], listener);
  }
  if (attack.then.empty()) return;
  const Vec3 ahead = from != nullptr ? from->direction : heading_of(moment, launches_[launch].launch);
  follow_instant(launch, stage, time, out, ahead, first, cause, listener);
}

}  // namespace dardo::detail
