#include "resolve/detail/machine.hpp"

#include <algorithm>
#include <numbers>

#include "geometry/detail/kernels.hpp"
#include "resolve/detail/aim_point.hpp"
#include "resolve/detail/aimed.hpp"
#include "resolve/detail/chance.hpp"
#include "resolve/detail/judge.hpp"

namespace dardo::detail {
namespace {

constexpr double kEver = std::numeric_limits<double>::infinity();
constexpr double kPi = std::numbers::pi;
/// Two rebounds closer together than this are rest.
constexpr double kRest = 1e-4;

/// The direction of one shot of a volley.
Vec3 spread(const Volley& volley, const Vec3& direction, std::uint64_t seed, std::uint32_t number,
            std::uint32_t index) {
  const double u = chance(seed, number, Draw::spread, 0),
               around = 2 * kPi * chance(seed, number, Draw::spread, 1);
  switch (volley.spread) {
    case Volley::Spread::none: return direction;
    case Volley::Spread::cone:  // evenly over the cap's area
      return turned_aside(direction, std::acos(1 - u * (1 - std::cos(volley.angle))), around);
    case Volley::Spread::gauss:
      return turned_aside(direction, std::min(kPi, volley.angle * std::sqrt(-2 * std::log(1 - u))), around);
    case Volley::Spread::fan: {
      const double share = volley.count > 1 ? static_cast<double>(index) / (volley.count - 1) - 0.5 : 0;
      return Rotation::about({0, 0, 1}, volley.angle * share) * direction;
    }
    case Volley::Spread::ring: return turned_aside(direction, volley.angle, 2 * kPi * index / volley.count);
  }
  return direction;
}

bool lists(const std::vector<std::string>& words, const std::string& word) {
  return std::find(words.begin(), words.end(), word) != words.end();
}

}  // namespace

std::uint32_t Machine::add(std::shared_ptr<const Plan> plan, const Launch& launch, std::uint32_t number) {
  if (free_launches_.empty()) {
    free_launches_.push_back(static_cast<std::uint32_t>(launches_.size()));
    launches_.emplace_back();
  }
  const std::uint32_t slot = free_launches_.back();
  free_launches_.pop_back();
  watch(*plan);
  launches_[slot] = {std::move(plan), launch, arena_.body(launch.by).faction, number, 0, 0, 0, true};
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
  const Vec3 muzzle = muzzle_point(arena_, l);
  Vec3 direction = aim_direction(arena_, l, muzzle);
  BodyId target;
  if (const auto* at = std::get_if<AtBody>(&l.toward)) target = at->body;
  const Vec3 aim =
      aim_point(arena_, l).value_or(muzzle + direction * launches_[launch].plan->attack(0).reach.far);
  const auto* shot = std::get_if<ShotDelivery>(&launches_[launch].plan->attack(0).delivery);
  const auto at = aimed_at(arena_, l);
  if (l.aim != Aiming::direct && shot != nullptr && at) {
    double more_speed = 0;
    const auto ways =
        ways_to_meet(motions_, *shot, muzzle, time, stated_speed(shot->path), *at, l.by, more_speed);
    // Without a way it flies straight at it.
    if (!ways.empty()) direction = (l.aim == Aiming::high ? ways.back() : ways.front()).direction;
  }
  start(launch, 0, time, muzzle, direction, target, aim, 0, listener);
}

void Machine::set_off_waiting(double time, Listener& listener) {
  for (std::size_t i = 0; i < waiting_.size(); ++i) {
    const std::uint32_t launch = waiting_[i];
    // Whoever fell before it came to that does not attack any more.
    if (arena_.has(launches_[launch].launch.by) && stands_(launches_[launch].launch.by))
      set_off(launch, time, listener);
    release_if_over(launch);
    release_downed();
  }
  waiting_.clear();
}

void Machine::release_downed() {
  for (const std::uint32_t launch : downed_) {
    if (!keep_ways_) release_if_over(launch);
  }
  downed_.clear();
}

void Machine::start(std::uint32_t launch, std::uint32_t stage, double time, const Vec3& place,
                    const Vec3& direction, BodyId target, const Vec3& aim, std::uint32_t cause,
                    Listener& listener) {
  if (std::holds_alternative<ShotDelivery>(launches_[launch].plan->attack(stage).delivery)) {
    spawn(launch, stage, time, place, direction, target, aim, cause, listener);
  } else {
    instant(launch, stage, time, {place, direction}, cause, listener);
  }
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
  auto struck = std::move(f.struck);
  struck.clear();
  f = {};
  f.struck = std::move(struck);
  f.alive = true;
  glances_[slot] = {};
  clear_[slot] = {};
  ++alive_;
  return f;
}

void Machine::spawn(std::uint32_t launch, std::uint32_t stage, double time, const Vec3& place,
                    const Vec3& direction, BodyId target, const Vec3& aim, std::uint32_t cause,
                    Listener& listener) {
  const Attack& attack = launches_[launch].plan->attack(stage);
  const auto& shot = std::get<ShotDelivery>(attack.delivery);
  const Vec3 center = arena_.center(launches_[launch].launch.by), arm = place - center;
  // Nobody shoots through a wall by leaning on it.
  std::optional<WallContact> leaned_on;
  if (const double size = length(arm); stage == 0 && size > 0) {
    leaned_on = first_wall(arena_, {center, arm / size, size}, Passage::shots);
  }
  for (std::uint32_t i = 0; i < shot.volley.count; ++i) {
    Flight& f = new_flight();
    const auto slot = static_cast<std::uint32_t>(&f - flights_.data());
    Launched& l = launches_[launch];
    const std::uint64_t seed = l.launch.seed;
    f.launch = launch, f.stage = stage, f.number = l.flights++, f.cause = cause;
    ++l.alive;
    Course& c = f.course;
    c.time = time + i * shot.volley.gap_s;
    c.target = target, c.thrower = l.launch.by;
    c.speed = stated_speed(shot.path) *
              (1 + shot.volley.speed_variation * (2 * chance(seed, f.number, Draw::speed, 0) - 1));
    const Vec3 way = spread(shot.volley, direction, seed, f.number, i);
    const double away = length(aim - place);
    c.aim = shot.volley.spread == Volley::Spread::none ? aim : place + way * away;
    if (const auto* lob = std::get_if<LobPath>(&shot.path)) {
      const Pose home = target.empty() ? Pose{} : motions_.leg(target, time).at(time);
      if (shot.volley.spread == Volley::Spread::none)
        throw_at(c, *lob, motions_, place, {target, into(home.turn, aim - home.at)});
    } else if (!std::holds_alternative<CurvePath>(shot.path) &&
               !std::holds_alternative<GuidedPath>(shot.path)) {
      c.target = l.plan->near(stage) ? target : BodyId{};
    }
    dardo::detail::set_off(c, shot.path, place, way, arena_.gravity());
    f.ends = c.time + shot.life_s;
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
  if (watches_shots_) befores_[slot] = f.course;
  // Most have nothing before them in a window: those leave no event behind.
  const Event e = next_event(f, launches_[f.launch], around(), until_, way);
  if (e.kind == Event::Kind::none) {
    if (keep_ways_) listener.on_way(f, ways_[slot]);
    // Where a look might have told as much, nothing is written: what was looked at leaves no trace.
    if (may_look(glances_[slot])) return;
    flights_[slot].course = e.course;
    glances_[slot] = glance_at(flights_[slot]);
  } else {
    events_[slot] = e;
    queue_.push_back(
        {e.time, e.course.travelled, launches_[f.launch].number, f.number, slot, versions_[slot]});
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
  while (!queue_.empty()) {
    std::pop_heap(queue_.begin(), queue_.end());
    const Next next = queue_.back();
    queue_.pop_back();
    if (!queue_.empty()) prefetch(flights_[queue_.front().slot]), prefetch(events_[queue_.front().slot]);
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
  if (event.kind == Event::Kind::body && !stands_(event.body)) {  // it fell in the meantime
    propose(slot, listener);
    return;
  }
  Flight& f = flights_[slot];
  if (keep_ways_) listener.on_way(f, ways_[slot]);
  f.course = event.course;
  const auto over = [&](Ended why) { end(slot, why, {}, listener); };
  switch (event.kind) {
    case Event::Kind::none: break;
    case Event::Kind::body: {
      Blocker by;
      by.body = event.body;
      if (!event.strikes) return end(slot, Ended::body, by, listener);
      strike(f, event, listener);
      const auto& shot = std::get<ShotDelivery>(attack_of(flights_[slot]).delivery);
      if (flights_[slot].strikes >= shot.pierce.bodies) return end(slot, Ended::strike, by, listener);
      break;
    }
    case Event::Kind::wall:
      if (!meet_wall(slot, event, listener)) return;
      break;
    case Event::Kind::ground: {
      follow(f, Then::When::surface, f.course.place(), f.cause, listener);
      if (!rebound(slot, {0, 0, 1}, "ground", {}, listener)) return;
      break;
    }
    case Event::Kind::life:
      if (f.stuck.yes) return end(slot, Ended::stuck, f.stuck.in, listener);
      return over(Ended::life);
    case Event::Kind::length: return over(Ended::reach);
    case Event::Kind::slow:
    case Event::Kind::stopped: return over(Ended::slow);
    case Event::Kind::out: return over(Ended::bounds);
    case Event::Kind::returned: return over(Ended::returned);
    case Event::Kind::arrived: return over(Ended::arrived);
    case Event::Kind::apex:
      f.apex_passed = true;
      follow(f, Then::When::apex, f.course.place(), f.cause, listener);
      break;
    case Event::Kind::near:
      f.near_passed = true;
      follow(f, Then::When::near, f.course.place(), f.cause, listener);
      break;
    case Event::Kind::turned:
      if (std::get<CurvePath>(std::get<ShotDelivery>(attack_of(f).delivery).path).strikes_again)
        f.struck.clear(), f.strikes = 0;
      break;
    case Event::Kind::lost: {
      const auto* guided = std::get_if<GuidedPath>(&std::get<ShotDelivery>(attack_of(f).delivery).path);
      const auto rule = guided != nullptr ? guided->lost : GuidedPath::Lost::fly_on;
      const bool struck = std::any_of(f.struck.begin(), f.struck.end(),
                                      [&](const Struck& s) { return s.body == f.course.target; });
      if (rule == GuidedPath::Lost::end && !struck) return over(Ended::lost);
      f.course.target_lost = kEver;
      f.course.piece.end = f.course.time;
      if (rule != GuidedPath::Lost::pick_anew || !pick_anew(f)) f.course.target = {};
      break;
    }
  }
  propose(slot, listener);
}

/// The nearest body that the attack may strike, other than the one lost; false when there is none within
/// reach.
bool Machine::pick_anew(Flight& f) {
  const Launched& l = launches_[f.launch];
  const Attempt attempt{arena_, attack_of(f), l.launch, l.faction, nullptr, &stands_};
  const Vec3 from = f.course.place();
  const double far = attempt.attack.reach.far - f.course.travelled;
  BodyId best;
  double least = far;
  motions_.bodies_near(Bounds{from, from}.grown(far), f.course.time, f.course.time, [&](BodyId body) {
    if (body == f.course.target || !eligible(attempt, body)) return;
    const double away = length(motions_.center(body, f.course.time) - from);
    if (away < least || (away == least && !best.empty() && arena_.order(body) < arena_.order(best)))
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
  if (listener.on_strike(strike)) {
    stands_.fall(strike.body);
    forget_target(strike.body, strike.time_s);
  }
  return number;
}

void Machine::forget_target(BodyId body, double time) {
  for (std::uint32_t slot = 0; slot < flights_.size(); ++slot) {
    Flight& f = flights_[slot];
    if (!f.alive || f.course.target != body || !(time < f.course.target_lost)) continue;
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

void Machine::strike(Flight& f, const Event& event, Listener& listener) {
  const Attack& attack = attack_of(f);
  const auto& shot = std::get<ShotDelivery>(attack.delivery);
  const Flyer flyer = flyer_of(shot);
  const auto& hitboxes = arena_.build(arena_.body(event.body).build).hitboxes;
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
                                         (2 * arena_.reach_around_center(event.body) + flyer.reach())
                                   : Vec3{};
    for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
      if (hitboxes[i].factor > hitboxes[counts].factor &&
          distance(hitboxes[i].shape, Segment{from, from + through}) <= flyer.reach()) {
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
  const auto known =
      std::find_if(f.struck.begin(), f.struck.end(), [&](const Struck& k) { return k.body == event.body; });
  if (known != f.struck.end()) {
    known->time = event.time;
  } else {
    f.struck.push_back({event.body, event.time});
  }
  // A guided shot that has struck its target has done with it.
  if (f.course.target == event.body && std::holds_alternative<GuidedPath>(shot.path))
    f.course.target_lost = event.time;
  const std::uint32_t number = tell(s, launches_[f.launch], listener);
  follow(f, Then::When::strike, s.point, number, listener);
}

/// Whether the flight goes on.
bool Machine::meet_wall(std::uint32_t slot, const Event& event, Listener& listener) {
  Flight* f = &flights_[slot];
  const auto& shot = std::get<ShotDelivery>(attack_of(*f).delivery);
  const Wall& wall = arena_.wall(event.wall);
  const std::string& material = arena_.material(wall.material).name;
  Blocker by;
  by.wall = event.wall;
  const Contact contact =
      contact_at(flyer_of(shot), f->course.piece, event.time, wall.box, detail::standing());
  follow(*f, Then::When::surface, contact.point, f->cause, listener);
  f = &flights_[slot];
  const Vec3 velocity = f->course.velocity();
  const double speed = length(velocity);
  if (shot.pierce.thickness > 0 && speed > 0 && lists(shot.pierce.materials, material)) {
    const Vec3 way = velocity / speed;
    const auto inside = crossing(wall.box, Ray{f->course.place() - way * 1e-6, way, 4 * kMaxCoordinate});
    const double thickness = inside ? inside->leave - inside->enter : 0;
    const double left = speed - shot.pierce.speed_loss * thickness;
    if (thickness <= shot.pierce.thickness && left > 0) {
      f->through *= std::max(0.0, 1 - shot.pierce.power_loss * thickness);
      if (left < speed) deflect(f->course, way * left);
      f->leave(event.wall, event.time + (thickness + 2 * shot.radius + 1e-6) / left);
      return true;
    }
  }
  return rebound(slot, contact.normal, material, by, listener);
}

/// Turns a flight at a surface, or ends it there. Whether it goes on.
bool Machine::rebound(std::uint32_t slot, const Vec3& normal, const std::string& material, const Blocker& by,
                      Listener& listener) {
  Flight* f = &flights_[slot];
  const auto& shot = std::get<ShotDelivery>(attack_of(*f).delivery);
  const double time = f->course.time;
  const Ended ended = by.wall.empty() ? Ended::ground : Ended::wall;
  const auto leave = [&](double until) {
    if (by.wall.empty()) {
      f->off_ground_until = until;
    } else {
      f->leave(by.wall, until);
    }
  };
  const Ricochet& r = shot.ricochet;
  const Vec3 velocity = f->course.velocity();
  const double inward = dot(velocity, normal);
  // Into an edge or a corner: what another wall has turned at this very moment is one contact.
  const bool same_contact = time - f->last_turn < 1e-12 && f->turns > 0;
  const bool turns = r.count > 0 && (f->turns < r.count || same_contact) &&
                     (r.materials.empty() || lists(r.materials, material));
  if (r.count > 0 && inward >= 0) {  // it only brushes past, or leaves already
    leave(time + 0.2 * kRest);
    return true;
  }
  if (!turns) {
    end(slot, ended, by, listener);
    return false;
  }
  Vec3 out = velocity - normal * inward;
  out = out * (1 - r.friction) - normal * (inward * r.restitution);
  if (r.jitter > 0) {
    const std::uint64_t seed = launches_[f->launch].launch.seed;
    const double size = length(out);
    const Vec3 off =
        turned_aside(out / size, r.jitter * std::sqrt(chance(seed, f->number, Draw::jitter, 2 * f->turns)),
                     2 * kPi * chance(seed, f->number, Draw::jitter, 2 * f->turns + 1));
    // Never into the wall that it leaves.
    if (dot(off, normal) > 0) out = off * size;
  }
  const double leaves = dot(out, normal);
  if (!same_contact) {
    if (f->turns > 0 && time - f->last_turn < kRest) {
      end(slot, Ended::rest, by, listener);
      return false;
    }
    ++f->turns;
  }
  f->last_turn = time;
  if (length(out) < std::max(r.least_speed, 1e-9)) {
    end(slot, Ended::slow, by, listener);
    return false;
  }
  deflect(f->course, out);
  leave(time + (leaves > 0 ? std::min(1e-7 / leaves, 0.1 * kRest) : 0.1 * kRest));
  return true;
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
    return propose(slot, listener);
  }
  f.alive = false;
  clear_[slot] = kOver;
  --alive_;
  free_.push_back(slot);
  const std::uint32_t launch = f.launch;
  listener.on_end({launch, f.stage, f.number, f.cause, why, f.course.time, f.course.travelled,
                   f.course.place(), by, f.course, true});
  if (why != Ended::muzzle_blocked) follow(f, Then::When::end, f.course.place(), f.cause, listener);
  --launches_[launch].alive;
}

void Machine::follow(const Flight& flight, Then::When when, const Vec3& place, std::uint32_t cause,
                     Listener& listener) {
  const auto& plan = launches_[flight.launch].plan;
  if (plan->attack(flight.stage).then.empty()) return;
  const Flight f = flight;  // what follows may move the table of flights, or take its place there
  const Vec3 velocity = f.course.velocity();
  const double speed = length(velocity);
  const Vec3 direction = speed > 0 ? velocity / speed : Vec3{1, 0, 0};
  const std::shared_ptr<const Plan> kept = plan;
  kept->each_then(f.stage, when, [&](std::uint32_t child) {
    start(f.launch, child, f.course.time, place, direction, f.course.target, f.course.aim, cause, listener);
  });
}

void Machine::follow_strike(std::uint32_t launch, std::uint32_t stage, const Strike& s, std::uint32_t number,
                            Listener& listener) {
  const std::shared_ptr<const Plan> plan = launches_[launch].plan;
  plan->each_then(stage, Then::When::strike, [&](std::uint32_t child) {
    start(launch, child, s.time_s, s.point, -s.normal, s.body, s.point, number, listener);
  });
}

void Machine::follow_end(std::uint32_t launch, const Vec3& place, const Vec3& direction, Listener& listener) {
  const std::shared_ptr<const Plan> plan = launches_[launch].plan;
  plan->each_then(0, Then::When::end, [&](std::uint32_t child) {
    start(launch, child, 0, place, direction, {}, place, 0, listener);
  });
}

void Machine::instant(std::uint32_t launch, std::uint32_t stage, double time, const Start& from,
                      std::uint32_t cause, Listener& listener) {
  const std::shared_ptr<const Plan> plan = launches_[launch].plan;
  const Attack& attack = plan->attack(stage);
  // Bodies that move are put where they are at this moment, and back.
  const Arena* posed = &arena_;
  std::vector<std::pair<BodyId, Pose>> moved;
  if (motions_.any_moves()) {
    if (movable_ == nullptr) copy_ = std::make_unique<Arena>(arena_), movable_ = copy_.get();
    double reach = attack.reach.far;
    if (const auto* area = std::get_if<AreaDelivery>(&attack.delivery)) reach = area->radius;
    // Those that are there at this moment, and those that the arena has there.
    motions_.movers_near(Bounds{from.place, from.place}.grown(reach), [&](BodyId body) {
      const Pose& home = movable_->body(body).pose;
      const bool twice =
          std::any_of(moved.begin(), moved.end(), [&](const auto& m) { return m.first == body; });
      if (!twice && !(motions_.leg(body, time).at(time) == home)) moved.emplace_back(body, home);
    });
    for (const auto& [body, home] : moved) movable_->put(body, motions_.leg(body, time).at(time));
    posed_ += 2 * moved.size();
    posed = movable_;
  }
  Outcome out;
  {
    const Launched& l = launches_[launch];
    const Attempt attempt{*posed, attack, l.launch, l.faction, &from, &stands_};
    const auto carry_out = [&](auto run) {
      run.strike(out);
      if (keep_ways_) run.draw(out);
      if (wanted_ == Detail::strikes) return;
      for (const BodyId body : posed->bodies()) {
        out.verdicts.push_back(judge(attempt, run, out, body, wanted_));
        mark_stage(out.verdicts.back(), stage, time);
      }
    };
    if (std::holds_alternative<RayDelivery>(attack.delivery)) {
      carry_out(RayRun(attempt, out));
    } else {
      carry_out(AreaRun(attempt, out));
    }
  }
  for (const auto& [body, home] : moved) movable_->put(body, home);
  if (watches_shots_) instant_downs(launch, stage, time, cause, out, listener);
  if (keep_ways_) listener.on_instant(launch, out);
  for (Strike& s : out.strikes) {
    s.time_s = time, s.seen_s += time, s.stage = stage, s.cause = cause;
    const std::uint32_t number = tell(s, launches_[launch], listener);
    follow_strike(launch, stage, s, number, listener);
  }
}

}  // namespace dardo::detail
