// What a flight does at what it touches: strikes, goes through, turns, ends.
#include <algorithm>

#include "geometry/detail/ever.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/work.hpp"

namespace dardo::detail {
/// Decides all that a flight touches in one instant, as one set: strikes whom it may, is stopped by whoever
/// stops it, goes through walls, turns at the others or ends there; then comes what follows. Whether it goes
/// on.
bool Machine::meet(ShotSlot slot, const Touched& first, double sought_from, Listener& listener) {
  ++work().contacts;
  Flight& f = shots_[slot].flight;
  touching(f, launched_of(f), around(), first, sought_from, touched_);
  const ShotDelivery& shot = *stage_of(f).shot;
  const Leaving here = leaving_of(f);
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
      case Touched::As::passed:
        (t.body.empty() ? memory_.meet(f.met, t.wall) : memory_.meet(f.met, t.body)).passing = true;
        break;
      case Touched::As::struck:
        if (f.strikes >= shot.pierce.bodies || !motions_.stands(t.body)) break;
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
  if (!spent && !none_left && stopper.body.empty()) {
    surfaces_.clear();
    surfaces = meet_surfaces(f);
    tell_surfaces(f, surfaces, listener);
  }
  for (const Following& next : follows_) follow(here, next.when, next.place, next.cause, next.body);
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
Corner Machine::corner_at(Flight& f) {
  const Stage& stage = stage_of(f);
  const ShotDelivery& shot = *stage.shot;
  const Course before = f.course;
  const Flyer flyer = flyer_of(shot, f.course, arena_->upright());
  const Ricochet& r = shot.ricochet;
  Corner corner;
  corner.turns = r.count > 0 && f.turns < r.count;
  if (flyer.shape != nullptr) corner.graze = kGrazeOfShape;
  const WallTable& walls = arena_->wall_table();
  WallId last;
  std::array<Contact, kCornerSides> sides;
  Contact nearest{kEver, {}, {}};
  for (const Touched& t : touched_) {
    if (t.as != Touched::As::surface) continue;
    Met& met = memory_.meet(f.met, t.wall);
    const bool ground = t.wall.empty();
    const Contact at = surface_contact(flyer, before, *arena_, t.wall);
    // Of the parts of a wall that are met at once one tells.
    const WallId wall = ground ? WallId{} : walls.wall_of(t.wall);
    if (ground || !(wall == last)) {
      const std::uint64_t whom =
          ground ? WallPartId::kNone : walls.order(wall) + (std::uint64_t{walls.number(t.wall)} << 40);
      follows_.push_back({Then::When::surface,
                          at.point,
                          {f.cause, chance_key(f.key, Then::When::surface, whom, met.times)}});
    }
    last = wall;
    ++met.times, met.time = before.time, met.normal = at.normal;
    met.passing = !ground && pierces(f, t.wall);
    if (keep_ways_) note_surface(f, before, wall, at, met.passing);
    if (met.passing) continue;
    if (!corner.first) corner.first.emplace().wall = wall;
    const NamedMaterials& turns_at = stage.turns_at;
    corner.turns =
        corner.turns && (ground ? turns_at.has_ground() : turns_at.has(arena_->wall(wall).material));
    if (at.distance < nearest.distance) nearest = at;
    if (corner.count < sides.size()) {
      corner.velocities[corner.count] = wall_velocity(*arena_, wall, before.place(), before.time);
      sides[corner.count] = at, corner.normals[corner.count] = at.normal,
      corner.parts[corner.count++] = t.wall;
    }
  }
  if (flyer.shape == nullptr && flyer.radius == 0) {
    turn_point_at(*arena_, before.time, before.place(), before.velocity(), corner);
  } else {
    // Lying in several, a ball is turned by the nearest, as by one wall made of all of them.
    const double same = kSamePlace + 2 * kInstant * length(before.velocity());
    for (std::size_t i = 0; i < corner.count; ++i) {
      if (sides[i].distance > nearest.distance + same) corner.normals[i] = nearest.normal;
    }
  }
  remember_sides(f, corner);
  return corner;
}

/// How each of the sides has turned it.
void Machine::remember_sides(Flight& f, const Corner& corner) {
  for (std::size_t i = 0; i < corner.count; ++i)
    memory_.meet(f.met, corner.parts[i]).normal = corner.normals[i];
  std::size_t side = 0;
  for (SurfaceMet& s : surfaces_) {
    if (s.did != SurfaceMet::Did::pierced && side < corner.count) s.normal = corner.normals[side++];
  }
}

/// A surface that it has met, as it came, and what it has left of its speed if it goes through.
void Machine::note_surface(const Flight& f, const Course& came, WallId wall, const Contact& at,
                           bool through) {
  Flight before = f;
  before.course = came;
  surfaces_.push_back({.wall = wall,
                       .did = through ? SurfaceMet::Did::pierced : SurfaceMet::Did::turned,
                       .stage = f.stage,
                       .shot = f.number,
                       .time_s = came.time,
                       .distance = came.travelled,
                       .point = at.point,
                       .normal = at.normal,
                       .centre = came.place(),
                       .direction = leaving_of(before).direction,
                       .speed = length(came.velocity()),
                       .leaves = length(f.course.velocity())});
}

/// Goes through those of the surfaces that it pierces, and turns at all others at once.
Machine::Surfaces Machine::meet_surfaces(Flight& f) {
  const ShotDelivery& shot = *stage_of(f).shot;
  const Ricochet& r = shot.ricochet;
  const Corner corner = corner_at(f);
  if (!corner.first) return {};
  const Blocker& first = *corner.first;
  const Vec3 velocity = velocity_by_law(f.course, stage_of(f).law);
  // It only brushes past, or leaves already.
  if (r.count > 0 && !corner.into_any(velocity)) return {.ended = {}, .by = {}, .brushed = true};
  if (!corner.turns) return {first.wall.empty() ? Ended::ground : Ended::wall, first};
  Vec3 out = corner.turned(velocity, r);
  out = jittered(corner, out, to_the_left(out, arena_->upright(), f.course.left), arena_->flat(), r,
                 launches_[f.launch].launch.seed, f.key, f.turns);
  ++f.turns;
  const Vec3 drawn = arena_->gravity() * stage_of(f).law.gravity;
  for (const Vec3& n : corner.sides()) {
    const double leaves = std::max(0.0, dot(out, n)), back = -dot(drawn, n);
    if (leaves < kRestSpeed && back > 0 && leaves * leaves < 2 * back * kRestHeight)
      return {Ended::rest, first};
  }
  // Turning takes a rounding of the speed.
  if (length(out) < std::max(below(r.least_speed), kStill)) return {Ended::slow, first};
  deflect(f.course, out);
  return {};
}

/// Tells of the surfaces that it met, and what became of it there.
void Machine::tell_surfaces(const Flight& f, const Surfaces& met, Listener& listener) {
  const double leaves = length(f.course.velocity());
  for (SurfaceMet& s : surfaces_) {
    const bool through = s.did == SurfaceMet::Did::pierced;
    if (!through && met.brushed) continue;
    if (!through) s.leaves = met.ended ? 0 : leaves;
    if (!through && met.ended) s.did = SurfaceMet::Did::ended;
    listener.on_surface(f.launch, s);
  }
}

/// Whether a flight goes through a wall that it touches; it loses what that costs.
bool Machine::pierces(Flight& f, WallPartId part) const {
  const WallTable& walls = arena_->wall_table();
  const WallId wall = walls.wall_of(part);
  const Stage& stage = stage_of(f);
  const ShotDelivery& shot = *stage.shot;
  const Vec3 velocity = velocity_by_law(f.course, stage_of(f).law);
  const double speed = length(velocity);
  if (!(shot.pierce.thickness > 0) || !(speed > 0) || !stage.pierced.has(arena_->wall(wall).material))
    return false;
  const Vec3 way = velocity / speed;
  // From a little farther back, so that the surface is not missed; what starts inside has only the rest.
  constexpr double kBack = 1e-6;
  const Pose pose = walls.leg(wall, f.course.time).at(f.course.time);
  const Shape& shape = walls.shape(part);
  const Bounds around = bounds(shape);
  const Vec3 place = into(pose.turn, f.course.place() - pose.at),
             along =
                 into(pose.turn,
                      normalized(velocity - wall_velocity(*arena_, wall, f.course.place(), f.course.time)));
  const double through = kBack + length(place - around.center()) + 0.5 * length(around.high - around.low);
  const auto inside = crossing(shape, Ray{place - along * kBack, along, through});
  double thickness = inside ? inside->leave - std::max(inside->enter, kBack) : 0;
  if (!(thickness > kPlaceKnown)) thickness = 0;  // along an edge: rounding costs no speed
  const double left = speed - shot.pierce.speed_loss * thickness;
  if (!at_most(thickness, shot.pierce.thickness, through) || !(left > kStill)) return false;
  f.through *= std::max(0.0, 1 - shot.pierce.power_loss * thickness);
  if (left < speed) deflect(f.course, way * left);
  return true;
}

void Machine::strike(Flight& f, const Touched& event, Listener& listener) {
  const Attack& attack = *stage_of(f).attack;
  const auto& shot = std::get<ShotDelivery>(attack.delivery);
  const Flyer flyer = flyer_of(shot, f.course, arena_->upright());
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
          arena_->has_hitbox(event.body, i, motions_.state_time(event.time)) &&
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
  s.stage = f.stage, s.cause = f.cause, s.carrier = f.number;
  s.speed = length(f.course.velocity()), s.centre = f.course.place();
  ++f.strikes;
  Met& met = memory_.meet(f.met, event.body);
  const std::uint64_t key = chance_key(f.key, Then::When::strike, arena_->order(event.body), met.times);
  ++met.times, met.time = event.time, met.struck = true;
  // A guided shot that has struck its target has done with it.
  if (f.course.target == event.body && stage_of(f).law.has_done_with) f.course.target_lost = event.time;
  const std::uint32_t number = record_strike(s, f.launch, key, listener);
  follows_.push_back({Then::When::strike, s.point, {number, key}, event.body});
}

}  // namespace dardo::detail
