#include "resolve/carriers/shot/path.hpp"

#include <cmath>

#include "geometry/detail/ever.hpp"
#include "resolve/carriers/shot/path_steps.hpp"
#include "resolve/work.hpp"

namespace dardo::detail {
namespace {

Milestone next(Course& c, const StraightPath& path, const Motions&) {
  const Vec3 velocity = c.velocity();
  const double speed = length(velocity);
  if (path.acceleration < 0 && speed > 0) {
    if (c.piece.end <= c.time && c.piece.acceleration != Vec3{}) return Milestone::stopped;
    c.piece = free_piece(c, velocity * (path.acceleration / speed));
    c.piece.end = c.time - speed / path.acceleration;
    return Milestone::none;
  }
  if (!(speed > 0)) return Milestone::stopped;
  if (path.acceleration > 0 && speed < path.top_speed * (1 - 1e-12)) {
    c.piece = free_piece(c, velocity * (path.acceleration / speed));
    c.piece.end = c.time + (path.top_speed - speed) / path.acceleration;
    return Milestone::none;
  }
  c.piece = free_piece(c, {});
  return Milestone::none;
}

Milestone next(Course& c, const FallingPath& path, const Motions& motions) {
  if (path.drag == 0) {
    c.piece = free_piece(c, motions.arena().gravity() * path.gravity);
    return Milestone::none;
  }
  State state = state_of(c.place(), c.velocity());
  c.piece = integrated(state, c.time, kEver, c.step, falls_by(path, motions),
                       [](double, const State& s) { return rest_of(s); });
  return Milestone::none;
}

Milestone next(Course& c, const LobPath& path, const Motions& motions) {
  const Vec3 down = motions.arena().gravity();
  if (c.free || !path.follows || c.target.empty() || c.time >= c.arrives || c.time >= c.target_lost) {
    c.piece = free_piece(c, down);
    return Milestone::none;
  }
  // Along the line to where the target is now, under an arc: exact while the target moves steadily.
  const double whole = c.arrives - c.born;
  const Leg leg = motions.leg(c.target, c.time);
  const Vec3 &up = motions.arena().up(), offset = motions.arena().center_in_frame(c.target);
  const double lift = 0.5 * c.drop;  // the arc is lift s (whole - s)
  // Of the target's middle: it swings about the body's origin when that turns.
  const auto target_velocity = [&](double t) { return leg.velocity_of(offset, t); };
  const auto place = [&](double t) {
    const double s = t - c.born;
    return c.origin + (leg.at(t) * offset - c.origin) * (s / whole) + up * (lift * s * (whole - s));
  };
  const auto velocity = [&](double t) {
    const double s = t - c.born;
    return (leg.at(t) * offset - c.origin) / whole + target_velocity(t) * (s / whole) +
           up * (lift * (whole - 2 * s));
  };
  double end = std::min({leg.end, motions.known_until(c.target), c.arrives, c.target_lost});
  if (!(end > c.time)) end = c.time + 1e-9;
  if (leg.turn_rate == 0) {
    const Vec3 bend = leg.velocity * (2 / whole) - up * (2 * lift);
    c.piece = {c.time, end, place(c.time), velocity(c.time), bend, {}};
    return Milestone::none;
  }
  for (double h = std::min(0.1, end - c.time);; h *= 0.5) {
    c.piece =
        hermite(c.time, place(c.time), velocity(c.time), c.time + h, place(c.time + h), velocity(c.time + h));
    if (length(c.piece.place(c.time + h / 2) - place(c.time + h / 2)) <= 1e-9 || h < 1e-6)
      return Milestone::none;
  }
}

}  // namespace

Vec3 to_the_left(const Vec3& way, const Vec3& up, const Vec3& otherwise) {
  const Vec3 left = cross(up, way);
  const double size = length(left);
  // An integrated way is straight up to no more than this.
  return size > 1e-6 * length(way) ? left / size : otherwise;
}

Vec3 left_of_throw(const Vec3& up, const Vec3& side, const Vec3& way) {
  const auto level = [&](const Vec3& v) { return v - up * dot(v, up); };
  Vec3 left = level(side);
  // A body that lies on its side has no left.
  if (!(length(left) > 1e-3)) left = level({1, 0, 0});
  if (!(length(left) > 1e-3)) left = level({0, 1, 0});
  return to_the_left(way, up, normalized(left));
}

void set_off(Course& c, const ShotPath& path, const Vec3& from, const Vec3& direction, const Thrower& by,
             const Motions& motions) {
  const Vec3& gravity = motions.arena().gravity();
  c.born = c.time, c.origin = from, c.step = 0;
  c.thrower = by.body, c.home = by.center;
  c.left = left_of_throw(motions.arena().upright(), by.side, direction);
  Vec3 velocity = direction * c.speed;
  if (const auto* lob = std::get_if<LobPath>(&path)) {
    const double g = length(gravity);
    const Vec3 up = g > 0 ? -gravity / g : Vec3{0, 0, 1}, to = c.aim - from;
    double time = lob->flight_time_s.value_or(1);
    c.drop = g;
    if (lob->apex) {
      const double high = dot(to, up), top = std::max(0.0, high) + *lob->apex;
      time = std::sqrt(2 * top / g) + std::sqrt(2 * std::max(0.0, top - high) / g);
    }
    c.arrives = c.time + time;
    velocity = to / time + up * (0.5 * g * time);
    c.speed = length(velocity);
  }
  c.piece = {c.time, c.time, from, velocity, {}, {}};
  c.heading = length(velocity) > kStill ? normalized(velocity) : direction;
}

Milestone next_piece(Course& course, const ShotPath& path, const Motions& motions) {
  ++work().pieces;
  course.stood = {};
  const Milestone milestone = std::visit([&](const auto& p) { return next(course, p, motions); }, path);
  // However late it is, the clock goes on: a shorter piece would be made anew for ever.
  if (milestone == Milestone::none && !(course.piece.end > course.time))
    course.piece.end = std::nextafter(course.time, kEver);
  return milestone;
}

namespace {

Law law(const StraightPath& path) { return {.speed = path.speed, .may_be_led = true}; }
Law law(const FallingPath& path) {
  return {.speed = path.speed, .gravity = path.gravity, .may_be_led = true, .may_be_lobbed = true};
}
Law law(const CurvePath& path) {
  return {
      .speed = path.speed, .keeps_speed = true, .knows_target = true, .strikes_again = path.strikes_again};
}
Law law(const GuidedPath& path) {
  return {.speed = path.speed,
          .keeps_speed = true,
          .knows_target = true,
          .follows_target = true,
          .has_done_with = true,
          .needs_sight = path.needs_sight,
          .may_be_led = true,
          .lost = path.lost};
}
Law law(const LobPath& path) {
  return {.gravity = 1,
          .knows_target = true,
          .follows_target = path.follows,
          .needs_gravity = path.apex.has_value()};
}

}  // namespace

Law law_of(const ShotPath& path) {
  return std::visit([](const auto& p) { return law(p); }, path);
}

Vec3 velocity_by_law(const Course& c, const Law& law) {
  const Vec3 velocity = c.velocity();
  const double size = length(velocity);
  return law.keeps_speed && size > 0 ? velocity * (c.speed / size) : velocity;
}

bool is_outdated(const Course& c, const Motions& motions) {
  if (c.stood.empty() || c.time >= c.piece.end || !motions.arena().has(c.stood)) return false;
  return !motions.leg(c.stood, c.time).still() || motions.center(c.stood, c.time) != c.stood_at;
}

void deflect(Course& c, const Vec3& velocity) {
  c.piece = {c.time, c.time, c.place(), velocity, {}, {}};
  c.speed = length(velocity);
  if (c.speed > 0) c.heading = velocity / c.speed;
  c.free = true, c.rising = false, c.step = 0;
}

}  // namespace dardo::detail
