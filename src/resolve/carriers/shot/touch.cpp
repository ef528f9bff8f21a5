#include "resolve/carriers/shot/touch.hpp"

#include <limits>

#include "geometry/detail/kernels.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/carriers/shot/advance.hpp"
#include "resolve/rules/act.hpp"

namespace dardo::detail {
namespace {

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
/// What is round all along a line.
struct Axis {
  Segment line;
  double radius;
};
std::optional<Axis> axis_of(const Shape& hitbox) {
  if (const auto* ball = std::get_if<Ball>(&hitbox)) return Axis{{ball->center, ball->center}, ball->radius};
  if (const auto* capsule = std::get_if<Capsule>(&hitbox))
    return Axis{{capsule->from, capsule->to}, capsule->radius};
  return std::nullopt;
}
bool has_closed_form(const Shape& hitbox, double radius) {
  return radius == 0 ? !std::holds_alternative<Hull>(hitbox)
                     : std::holds_alternative<Ball>(hitbox) || std::holds_alternative<Capsule>(hitbox);
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
    const Turning turn = turning(piece, flyer.up, from, to);
    bend += flyer.reach() * (turn.rate * turn.rate + turn.change);
    speed += flyer.reach() * turn.rate;
  }
  return {speed, bend};
}

}  // namespace

double contact_gap(double scale) { return slack(scale); }

double unsure_of(const Shape& hitbox) { return std::holds_alternative<Hull>(hitbox) ? kHullKnown : 0; }
double unsure_of(const Piece& piece) { return piece.pace > 0 || piece.jerk != Vec3{} ? kCubicKnown : 0; }
double unsure_of(const Flyer& flyer) { return flyer.shape != nullptr ? kShapeKnown * flyer.reach() : 0; }

double Flyer::reach() const { return shape == nullptr ? radius : reach_from(*shape, {}); }

Rotation Flyer::turn(const Piece& way, double time) const {
  Vec3 x = way.speed_at(time);
  if (!(length(x) > kStill)) {
    // What stands still for an instant looks as it did just before, or as it will when it sets off.
    const Vec3 drawn = way.acceleration + way.jerk * (time - way.start);
    x = time > way.start ? -drawn : drawn;
  }
  x = length(x) > 0 ? normalized(x) : heading;
  const Vec3 y = to_the_left(x, up, left);
  return {x, y, cross(x, y)};
}
Pose Flyer::pose(const Piece& piece, double time) const { return {piece.place(time), turn(piece, time)}; }

double gap_to(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg) {
  ++work().looks;
  if (flyer.shape == nullptr) return nearest(hitbox, seen(piece, time, leg)).distance - flyer.radius;
  return closest(placed(*flyer.shape, into(leg.at(time), flyer.pose(piece, time))), hitbox).distance;
}

std::optional<double> touch_hitbox(const Flyer& flyer, const Piece& piece, double from, double to,
                                   const Shape& hitbox, const Leg& leg) {
  const double scale = std::max(piece.scale(from), length(leg.velocity) * std::fabs(from));
  if (flyer.shape == nullptr && leg.turn_rate == 0 && piece.straight() &&
      has_closed_form(hitbox, flyer.radius)) {
    const Vec3 start = seen(piece, from, leg), way = into(leg.from.turn, piece.velocity - leg.velocity);
    const double speed = length(way);
    if (speed > 0) {
      const auto contact = ray_to_grown(hitbox, flyer.radius, {start, way / speed, speed * (to - from)});
      if (contact) return std::min(to, from + contact->distance / speed);
    }
    // What sets off from a surface touches it as far as its place in the world can be told.
    if (nearest(hitbox, start).distance - flyer.radius <= contact_gap(scale)) return from;
    return std::nullopt;
  }
  const Advance advance{flyer, piece, from, to, leg};
  const Convex core(hitbox);
  const auto apart = [&](double t) { return advance.apart(t, hitbox, core); };
  const double rounding = contact_gap(scale),
               unsure = std::max({unsure_of(flyer), unsure_of(hitbox), unsure_of(piece)});
  return first_contact(apart, advance, from, to, std::max(rounding, unsure), rounding, 2 * unsure);
}

double height_over(const Flyer& flyer, const Piece& piece, double time, const Vec3& up) {
  const Vec3 place = piece.place(time);
  if (flyer.shape == nullptr) return dot(place, up) - flyer.radius;
  const Shape there = placed(*flyer.shape, flyer.pose(piece, time));
  const Convex core(there);
  return dot(core.farthest(-up), up) - core.margin();
}

std::optional<double> touch_ground(const Flyer& flyer, const Piece& piece, double from, double to,
                                   const Vec3& up, double height) {
  const Leg still = standing();
  const Advance advance{flyer, piece, from, to, still};
  const auto apart = [&](double t) {
    const double gap = height_over(flyer, piece, t, up) - height;
    return Gap{gap, gap, -up};
  };
  const double rounding = contact_gap(std::max(piece.scale(from), std::fabs(height)));
  return first_contact(apart, advance, from, to, std::max(rounding, unsure_of(piece)), rounding, 0);
}

std::optional<double> touch_shot(const Flyer& flyer, const Piece& piece, const Piece& other, double radius,
                                 double from, double to) {
  // As the other one sees it, which then stays where it is.
  const Piece mine = piece.part(from, to), theirs = other.part(from, to);
  const Vec3 at = theirs.at;
  const Piece seen{from,
                   to,
                   mine.at - at,
                   mine.velocity - theirs.velocity,
                   mine.acceleration - theirs.acceleration,
                   mine.jerk - theirs.jerk};
  const Shape ball = Ball{{}, radius};
  const Convex core(ball);
  const Leg still = standing();
  const Advance advance{flyer, seen, from, to, still, &piece};
  const auto apart = [&](double t) { return advance.apart(t, ball, core); };
  const double rounding = contact_gap(std::max(piece.scale(from), other.scale(from))),
               unsure = std::max({unsure_of(flyer), unsure_of(piece), unsure_of(other)});
  return first_contact(apart, advance, from, to, std::max(rounding, unsure), rounding, 2 * unsure);
}

Approach approach_hitbox(const Flyer& flyer, const Piece& piece, double from, double to, const Shape& hitbox,
                         const Leg& leg, double known) {
  if (flyer.shape == nullptr && leg.turn_rate == 0 && piece.straight()) {
    const Segment way{seen(piece, from, leg), seen(piece, to, leg)};
    if (const auto axis = axis_of(hitbox)) {
      const SegmentsApart apart = segments_apart(way, axis->line);
      return {std::max(0.0, apart.distance - axis->radius) - flyer.radius,
              std::min(to, from + apart.along * (to - from))};
    }
  }
  const Rates most = rates(flyer, piece, from, to, leg);
  return nearest_approach([&](double t) { return gap_to(flyer, piece, t, hitbox, leg); }, from, to,
                          most.speed, most.bend, kMissKnown, known);
}

bool is_clear_of(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg) {
  // Well above what any closed form calls a touch at any time of the piece: those go by the hitbox's numbers,
  // too.
  const double touching = 32 * contact_gap(std::max(largest(piece.at), piece.scale(time)));
  // How far two shapes are apart that have just let go is not known well enough to say whether they close.
  const double unsure = std::max({unsure_of(hitbox), 64 * unsure_of(flyer), unsure_of(piece)});
  const double known = std::max(unsure, touching);
  return gap_to(flyer, piece, time, hitbox, leg) > 2 * known &&
         !touch_hitbox(flyer, piece, time, time, hitbox, leg);
}

std::optional<BodyTouch> touch_body(const Flyer& flyer, const Piece& piece, double from, double to,
                                    BodyId body, const Motions& motions) {
  const auto& hitboxes = motions.arena().build(motions.arena().body(body).build).hitboxes;
  std::optional<BodyTouch> first;
  for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
    if (!(from <= to)) break;
    std::optional<double> met;
    motions.each_leg(body, i, from, to, [&](const Leg& leg, double begin, double end) {
      met = touch_hitbox(flyer, piece, begin, end, hitboxes[i].shape, leg);
      return !met;
    });
    if (!met) continue;
    if (!first || *met < first->time - kInstant) first = BodyTouch{*met, i};
    to = std::min(to, *met);
  }
  return first;
}

std::optional<BodyTouch> touch_body(const Flyer& flyer, const Piece& piece, double from, double to,
                                    BodyId body, const Motions& motions, const Birth& birth) {
  if (birth.follows && from == birth.time && flyer.shape == nullptr) {
    Flyer near = flyer;
    near.radius += kPlaceKnown;
    if (const auto touch = touch_body(near, piece, from, from, body, motions)) return touch;
  }
  return touch_body(flyer, piece, from, to, body, motions);
}

std::optional<double> let_go_of(const Flyer& flyer, const Piece& piece, double from, double to, BodyId body,
                                const Motions& motions) {
  // Each hitbox is convex: what lets go of the one may still touch another.
  for (double t = from;;) {
    double free = t;
    const auto& hitboxes = motions.arena().build(motions.arena().body(body).build).hitboxes;
    for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
      const Hitbox& h = hitboxes[i];
      if (!motions.arena().has_hitbox(body, i, motions.state_time(t))) continue;
      const auto apart = [&](double time) {
        return is_clear_of(flyer, piece, time, h.shape, motions.leg(body, time));
      };
      const double speed = piece.most_speed(from, to) + length(motions.leg(body, t).velocity);
      const auto one = let_go(apart, t, to, speed);
      if (!one) return std::nullopt;
      free = std::max(free, *one);
    }
    if (!(free > t)) return t;
    t = free;
  }
}

namespace {

/// The shape larger by a factor, about its middle.
Shape scaled(const Shape& shape, double factor) {
  const Vec3 middle = center(shape);
  const auto move = [&](Vec3& p) { p = middle + (p - middle) * factor; };
  Shape out = shape;
  if (auto* b = std::get_if<Ball>(&out)) b->radius *= factor;
  if (auto* c = std::get_if<Capsule>(&out)) move(c->from), move(c->to), c->radius *= factor;
  if (auto* b = std::get_if<Box>(&out)) b->half = b->half * factor;
  if (auto* c = std::get_if<Cylinder>(&out)) move(c->from), move(c->to), c->radius *= factor;
  if (auto* c = std::get_if<Cone>(&out)) move(c->apex), move(c->base), c->radius *= factor;
  if (auto* t = std::get_if<Triangle>(&out)) move(t->a), move(t->b), move(t->c);
  if (auto* h = std::get_if<Hull>(&out)) {
    for (Vec3& p : h->points) move(p);
  }
  return out;
}

}  // namespace

Contact contact_at(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg) {
  const Pose body = leg.at(time);
  const Vec3 center = into(body.turn, piece.place(time) - body.at);
  const Vec3 way = into(body.turn, piece.speed_at(time) - leg.velocity);
  const double speed = length(way);
  const Vec3 against = speed > 0 ? -way / speed : Vec3{0, 0, 1};
  Nearest on = nearest(hitbox, center);
  Vec3 normal = against;
  if (flyer.shape != nullptr) {
    const Pose in_frame = into(body, flyer.pose(piece, time));
    // As it was just before, when the two were still apart.
    const Shape there = placed(*flyer.shape, in_frame), before = placed(there, {against * 1e-6, {}});
    Closest apart = closest(before, hitbox);
    // Of two that lie in each other any point would do: the one nearest to the flyer's place is the same
    // however they are described.
    on.distance = 0;
    if (apart.distance > 0) on.point = apart.on_b;
    // Those that lie flush are apart when one is a little smaller.
    if (!(apart.distance > 1e-8)) apart = closest(scaled(before, 1 - 1e-5), hitbox);
    // So near rounding tilts the normal: it is taken from farther out.
    constexpr double kFarEnough = 0.01;
    for (int round = 0; round < 3 && apart.distance > 0 && apart.on_a != apart.on_b; ++round) {
      normal = normalized(apart.on_a - apart.on_b);
      apart = closest(placed(there, {normal * kFarEnough, {}}), hitbox);
    }
  } else if (flyer.radius > 0 && on.distance > kSamePlace) {
    normal = (center - on.point) / on.distance;
  } else if (speed > 0) {
    // A point: its line says which face it comes through. Long enough to survive rounding.
    const double back = std::max(1e-6, 1e-9 * largest(piece.place(time)));
    if (const auto met = ray(hitbox, {center + against * back, -against, 2 * back}); met && met->distance > 0)
      normal = met->normal;
  }
  return {on.distance, body * on.point, body.turn * normal};
}

}  // namespace dardo::detail
