#include "resolve/detail/touch.hpp"

#include "geometry/detail/tolerance.hpp"

namespace dardo::detail {
namespace {

/// Gaps up to this count as contact, and times are found to the moment in which it is flown.
double fine_at(double scale) { return std::max(1e-10, slack(scale)); }

/// The way as the body sees it, at a time.
Vec3 seen(const Piece& piece, double time, const Leg& leg) {
  const Pose pose = leg.at(time);
  return into(pose.turn, piece.place(time) - pose.at);
}

/// The hitbox with the flyer's radius added, where that is a shape of the same kind.
std::optional<Contact> ray_to_grown(const Shape& hitbox, double radius, const Ray& line) {
  if (const auto* ball = std::get_if<Ball>(&hitbox))
    return ray(Ball{ball->center, ball->radius + radius}, line);
  if (const auto* capsule = std::get_if<Capsule>(&hitbox)) {
    return ray(Capsule{capsule->from, capsule->to, capsule->radius + radius}, line);
  }
  if (radius == 0) return ray(hitbox, line);
  return std::nullopt;
}
bool has_closed_form(const Shape& hitbox, double radius) {
  return radius == 0 ? std::holds_alternative<Ball>(hitbox) || std::holds_alternative<Capsule>(hitbox) ||
                           std::holds_alternative<Box>(hitbox)
                     : std::holds_alternative<Ball>(hitbox) || std::holds_alternative<Capsule>(hitbox);
}

/// No slower between two times, m/s: exact while the acceleration is steady.
double least_speed(const Vec3& velocity, const Vec3& acceleration, double most_jerk, double time) {
  const double square = dot(acceleration, acceleration);
  const double lowest = square > 0 ? std::clamp(-dot(velocity, acceleration) / square, 0.0, time) : 0;
  return length(velocity + acceleration * lowest) - 0.5 * most_jerk * time * time;
}

/// How fast the frame of a shape that looks along its way turns at most, and how fast that changes: with the
/// way, and about the upright axis with the way seen from above.
struct Turning {
  double rate, change;
};
Turning turning(const Piece& piece, double from, double to) {
  constexpr double kSlowest = 1e-3;
  const Piece p = piece.part(from, to);
  const double time = to - from, jerk = length(p.jerk);
  const Vec3 flat_velocity{p.velocity.x, p.velocity.y, 0}, flat{p.acceleration.x, p.acceleration.y, 0};
  const double sideways = std::max(length(flat), length(flat + Vec3{p.jerk.x, p.jerk.y, 0} * time));
  const double slowest = std::max(kSlowest, least_speed(p.velocity, p.acceleration, jerk, time));
  const double flat_slowest = std::max(kSlowest, least_speed(flat_velocity, flat, jerk, time));
  const double rate = sideways / flat_slowest + piece.most_acceleration(from, to) / slowest;
  return {rate, 3 * rate * rate + jerk / slowest + (sideways > 0 ? jerk / flat_slowest : 0)};
}

/// How fast a gap can change between two times, and how much its way bends: their motion, the body's turning,
/// and the turning of a shape with its way.
struct Rates {
  double speed, bend;
};
Rates rates(const Flyer& flyer, const Piece& piece, double from, double to, const Leg& leg) {
  double speed = piece.most_speed(from, to) + length(leg.velocity), bend = piece.most_acceleration(from, to);
  if (leg.turn_rate != 0) {
    const double away = length(piece.place(from) - leg.at(from).at) + speed * (to - from) + flyer.reach();
    bend += leg.turn_rate * (2 * speed + leg.turn_rate * away);
    speed += leg.turn_rate * away;
  }
  if (flyer.shape != nullptr && !piece.straight()) {
    const Turning turn = turning(piece, from, to);
    bend += flyer.reach() * (turn.rate * turn.rate + turn.change);
    speed += flyer.reach() * turn.rate;
  }
  return {speed, bend};
}

}  // namespace

double Flyer::reach() const {
  if (shape == nullptr) return radius;
  const Bounds b = bounds(*shape);
  const Vec3 low = abs(b.low), high = abs(b.high);
  return length({std::max(low.x, high.x), std::max(low.y, high.y), std::max(low.z, high.z)});
}

Pose Flyer::pose(const Vec3& place, const Vec3& velocity) const {
  const double speed = length(velocity);
  if (!(speed > 0)) return {place, {}};
  const Vec3 x = velocity / speed;
  const double flat = std::hypot(x.x, x.y);
  const Vec3 y = flat > 1e-12 ? Vec3{-x.y / flat, x.x / flat, 0} : Vec3{0, 1, 0};
  return {place, {x, y, cross(x, y)}};
}

double gap_to(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg) {
  if (flyer.shape == nullptr) return nearest(hitbox, seen(piece, time, leg)).distance - flyer.radius;
  const Pose world = flyer.pose(piece.place(time), piece.speed_at(time)), body = leg.at(time);
  const Rotation& turn = body.turn;
  const Pose in_frame{into(turn, world.at - body.at),
                      {into(turn, world.turn.x), into(turn, world.turn.y), into(turn, world.turn.z)}};
  return closest(placed(*flyer.shape, in_frame), hitbox).distance;
}

std::optional<double> touch_hitbox(const Flyer& flyer, const Piece& piece, double from, double to,
                                   const Shape& hitbox, const Leg& leg) {
  const Vec3 place = piece.place(from);
  const double scale = largest(place);
  if (flyer.shape == nullptr && leg.turn_rate == 0 && piece.straight() &&
      has_closed_form(hitbox, flyer.radius)) {
    const Vec3 start = seen(piece, from, leg), way = into(leg.from.turn, piece.velocity - leg.velocity);
    const double speed = length(way);
    if (!(speed > 0)) {
      if (nearest(hitbox, start).distance - flyer.radius <= fine_at(scale)) return from;
      return std::nullopt;
    }
    const auto contact = ray_to_grown(hitbox, flyer.radius, {start, way / speed, speed * (to - from)});
    if (!contact) return std::nullopt;
    return std::min(to, from + contact->distance / speed);
  }
  const Rates most = rates(flyer, piece, from, to, leg);
  return first_touch([&](double t) { return gap_to(flyer, piece, t, hitbox, leg); }, from, to, most.speed,
                     most.bend, fine_at(scale));
}

std::optional<double> touch_shot(const Flyer& flyer, const Piece& piece, const Piece& other, double hull,
                                 double from, double to) {
  const Ball ball{{}, hull};
  const auto gap = [&](double t) {
    const Leg there{t, t, {other.place(t), {}}, {}, {0, 0, 1}, 0};
    return gap_to(flyer, piece, t, ball, there);
  };
  Rates most = rates(flyer, piece, from, to, standing());
  most.speed += other.most_speed(from, to), most.bend += other.most_acceleration(from, to);
  return first_touch(gap, from, to, most.speed, most.bend, fine_at(largest(piece.place(from))));
}

Approach approach_hitbox(const Flyer& flyer, const Piece& piece, double from, double to, const Shape& hitbox,
                         const Leg& leg, double known) {
  const Rates most = rates(flyer, piece, from, to, leg);
  return nearest_approach([&](double t) { return gap_to(flyer, piece, t, hitbox, leg); }, from, to,
                          most.speed, most.bend, 1e-7, known);
}

Contact contact_at(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg) {
  const Pose body = leg.at(time);
  const Vec3 center = into(body.turn, piece.place(time) - body.at);
  const Vec3 way = into(body.turn, piece.speed_at(time) - leg.velocity);
  const double speed = length(way);
  const Vec3 against = speed > 0 ? -way / speed : Vec3{0, 0, 1};
  Nearest on = nearest(hitbox, center);
  Vec3 normal = against;
  if (flyer.shape != nullptr) {
    const Pose world = flyer.pose(piece.place(time), piece.speed_at(time));
    const Pose in_frame{
        into(body.turn, world.at - body.at),
        {into(body.turn, world.turn.x), into(body.turn, world.turn.y), into(body.turn, world.turn.z)}};
    // As it was just before, when the two were still apart.
    const Shape before = placed(placed(*flyer.shape, in_frame), {against * 1e-6, {}});
    const Closest apart = closest(before, hitbox);
    on = {0, apart.on_b};
    if (apart.distance > 0) normal = (apart.on_a - apart.on_b) / apart.distance;
  } else if (flyer.radius > 1e-9 && on.distance > 0.5 * flyer.radius) {
    normal = (center - on.point) / on.distance;
  } else if (speed > 0) {
    // A point: its line says which face it comes through. Long enough to survive rounding.
    const double back = std::max(1e-6, 1e-9 * largest(piece.place(time)));
    if (const auto met = ray(hitbox, {center + against * back, -against, 2 * back}); met && met->distance > 0)
      normal = met->normal;
  }
  return {0, body * on.point, body.turn * normal};
}

}  // namespace dardo::detail
