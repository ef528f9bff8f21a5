#include "resolve/detail/touch.hpp"

#include <limits>
#include <utility>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/detail/attempt.hpp"
#include "resolve/detail/work.hpp"

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
bool has_closed_form(const Shape& hitbox, double radius) {
  return radius == 0 ? !std::holds_alternative<Hull>(hitbox)
                     : std::holds_alternative<Ball>(hitbox) || std::holds_alternative<Capsule>(hitbox);
}

/// No slower between two times, m/s: exact while the acceleration is steady.
double least_speed(const Vec3& velocity, const Vec3& acceleration, double most_jerk, double time) {
  const double square = dot(acceleration, acceleration);
  const double lowest = square > 0 ? std::clamp(-dot(velocity, acceleration) / square, 0.0, time) : 0;
  return length(velocity + acceleration * lowest) - 0.5 * most_jerk * time * time;
}

/// How fast the frame of a shape that looks along its way turns at most, and how fast that changes: with the
/// way, and about the upright axis with the way seen from above. A way turns by its acceleration across it:
/// |v x a| / v^2.
struct Turning {
  double rate, change;
};
Turning turning(const Piece& piece, const Vec3& up, double from, double to) {
  constexpr double kSlowest = 1e-3;
  const Piece p = piece.part(from, to);
  const double time = to - from;
  const auto level = [&up](const Vec3& v) { return v - up * dot(v, up); };
  struct Turn {
    double rate, bend, change;
  };
  const auto turns = [&](const Vec3& v, const Vec3& a, const Vec3& j) {
    const double across =
                     length(cross(v, a)) + (length(cross(v, j)) + length(cross(a, j)) * 0.5 * time) * time,
                 slowest = std::max(kSlowest, least_speed(v, a, length(j), time));
    return Turn{across / (slowest * slowest), (length(a) + length(j) * time) / slowest, length(j) / slowest};
  };
  const Turn way = turns(p.velocity, p.acceleration, p.jerk),
             flat = turns(level(p.velocity), level(p.acceleration), level(p.jerk));
  const double rate = way.rate + flat.rate;
  return {rate, rate > 0 ? 3 * rate * (way.bend + flat.bend) + way.change + flat.change : 0};
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

/// How far apart two are, for certain not less than `clear`, and the plane between them: its normal points
/// from the flyer to the hitbox, one metre long.
struct Gap {
  double distance = 0, clear = 0;
  Vec3 plane;
};

/// The first time in (0, end] at which c1 t + c2 t^2 + c3 t^3 reaches `rise`, which is above 0: never later,
/// and sooner only by rounding. Infinite when it does not.
double first_reach(double c1, double c2, double c3, double rise, double end) {
  constexpr double kNever = std::numeric_limits<double>::infinity();
  if (c2 == 0 && c3 == 0) return c1 > 0 && rise <= c1 * end ? rise / c1 : kNever;
  const auto value = [&](double t) { return ((c3 * t + c2) * t + c1) * t - rise; };
  // Between its turning points it only rises or only falls.
  std::array<double, 3> turns{end, end, end};
  std::size_t count = 0;
  const double a = 3 * c3, b = c2, root2 = b * b - a * c1;
  if (root2 >= 0) {
    const double q = -(b + std::copysign(std::sqrt(root2), b));
    for (const double t : {a != 0 ? q / a : kNever, q != 0 ? c1 / q : kNever}) {
      if (t > 0 && t < end) turns[count++] = t;
    }
    if (count == 2 && turns[1] < turns[0]) std::swap(turns[0], turns[1]);
  }
  double low = 0;
  for (std::size_t i = 0; i <= count; ++i) {
    double high = i < count ? turns[i] : end;
    if (value(high) < 0) {
      low = high;
      continue;
    }
    // Newton's steps within the bracket, halved where they leave it.
    double t = 0.5 * (low + high);
    for (int round = 0; round < 100; ++round) {
      const double v = value(t);
      (v < 0 ? low : high) = t;
      const double slope = (3 * c3 * t + 2 * c2) * t + c1, next = t - v / slope;
      const double to = next > low && next < high ? next : 0.5 * (low + high);
      if (!(to > low && to < high) || std::fabs(to - t) <= 1e-16 * t) break;
      t = to;
    }
    return low;
  }
  return kNever;
}

/// The way of a flyer as a hitbox sees it that moves and turns with its body.
struct Advance {
  const Flyer& flyer;
  const Piece& piece;
  double from, to;
  const Leg& leg;
  double bend = 0;   ///< of a body that turns: how much its view of the way bends at most
  double speed = 0;  ///< no faster than this
  Piece flat;        ///< of a body that does not turn: the way in its frame

  /// `looks`, if given, is the way that a shape looks along.
  Advance(const Flyer& f, const Piece& p, double start, double end, const Leg& l,
          const Piece* looks = nullptr)
      : flyer(f), piece(p), from(start), to(end), leg(l), looks_(looks != nullptr ? *looks : p) {
    speed = piece.most_speed(from, to) + length(leg.velocity);
    if (leg.turn_rate != 0) {
      const double away = length(piece.place(from) - leg.at(from).at) + speed * (to - from);
      bend = piece.most_acceleration(from, to) + leg.turn_rate * (2 * speed + leg.turn_rate * away);
      speed += leg.turn_rate * away;
    } else {
      const Piece p0 = piece.part(from, to);
      const Pose pose = leg.at(from);
      flat = {from,
              to,
              into(pose.turn, p0.at - pose.at),
              into(pose.turn, p0.velocity - leg.velocity),
              into(pose.turn, p0.acceleration),
              into(pose.turn, p0.jerk)};
    }
    speed += swing(from, to);
  }

  Gap apart(double time, const Shape& hitbox, const Convex& core) const {
    const Pose body = leg.at(time);
    if (flyer.shape == nullptr) {
      const Vec3 at = leg.turn_rate == 0 ? flat.place(time) : into(body.turn, piece.place(time) - body.at);
      if (std::holds_alternative<Hull>(hitbox)) {
        const Apart a = nearest_points(Convex(at), core);
        return {a.measured - flyer.radius, a.clear - flyer.radius, a.plane};
      }
      const Nearest on = nearest(hitbox, at);
      const double gap = on.distance - flyer.radius;
      if (!(on.distance > 0)) return {gap, gap, {}};
      // So near to it rounding would tilt the plane: it is taken from farther out.
      constexpr double kFarEnough = 0.01;
      if (on.distance >= kFarEnough) return {gap, gap, (on.point - at) / on.distance};
      const Vec3 outside = at + (at - on.point) * (kFarEnough / on.distance);
      const Nearest from_there = nearest(hitbox, outside);
      const Vec3 plane = (from_there.point - outside) / from_there.distance;
      return {gap, std::min(gap, dot(from_there.point - at, plane) - flyer.radius), plane};
    }
    const Apart a = nearest_points(Convex(*flyer.shape), in_frame(time, body), core);
    return {a.distance, a.clear, a.plane};
  }

  /// When the way across the plane is as long as `clear` at the earliest, seen from `time`; infinite when it
  /// is not before the end. What turns is bounded over a stretch that is not much longer than the answer.
  double operator()(double time, const Vec3& plane, double clear) const {
    constexpr int kMostStretches = 24;
    constexpr double kNever = std::numeric_limits<double>::infinity();
    double end = flyer.shape != nullptr ? before_it_turns_over(time) : to, next = time;
    for (int i = 0; i < kMostStretches; ++i) {
      next = time + passes(time, plane, clear, end);
      if (!std::isfinite(next)) return end < to ? end : kNever;
      if (flyer.shape == nullptr || !(next - time < 0.25 * (end - time))) break;
      end = std::max(time + 4 * (next - time), time + 1e-9 * (end - time));
    }
    return next;
  }

 private:
  double passes(double time, const Vec3& plane, double clear, double end) const {
    const double turns = swing(time, end);
    if (leg.turn_rate == 0) {
      const Piece now = flat.part(time, end);
      return first_reach(dot(plane, now.velocity) + turns, 0.5 * dot(plane, now.acceleration),
                         dot(plane, now.jerk) / 6, clear, end - time);
    }
    const Pose body = leg.at(time);
    const Vec3 at = piece.place(time) - body.at,
               way = piece.speed_at(time) - leg.velocity - cross(leg.axis * leg.turn_rate, at);
    return first_reach(dot(plane, into(body.turn, way)) + turns, 0.5 * bend, 0, clear, end - time);
  }
  /// How fast a point of the flyer's shape can move about its place.
  double swing(double start, double end) const {
    if (flyer.shape == nullptr) return 0;
    const double turns = looks_.straight() ? 0 : turning(looks_, flyer.up, start, end).rate;
    return flyer.reach() * (turns + leg.turn_rate);
  }
  /// What is thrown straight up looks down from its highest point on: no stretch goes across that.
  double before_it_turns_over(double time) const {
    constexpr double kStanding = 1e-3, kPast = 1e-9;
    const Vec3 v = looks_.speed_at(time), a = looks_.acceleration + looks_.jerk * (time - looks_.start);
    const double square = dot(a, a), slowest = square > 0 ? -dot(v, a) / square : 0;
    if (!(slowest > 0) || time + slowest + kPast >= to || length(looks_.speed_at(time + slowest)) > kStanding)
      return to;
    return time + slowest + kPast;
  }
  Pose in_frame(double time, const Pose& body) const {
    const Pose world{piece.place(time), flyer.turn(looks_, time)};
    return {into(body.turn, world.at - body.at),
            {into(body.turn, world.turn.x), into(body.turn, world.turn.y), into(body.turn, world.turn.z)}};
  }
  const Piece& looks_;
};

/// The first time in [from, to] at which `apart(t)` says that they are as near as `touching`: after `from`
/// nearer by half of `rounding`, so that whatever looks at the place anew finds them touching there, too.
/// What rounding keeps from coming nearer touches as well where it is no farther apart than `unsure`.
template <class ApartAt>
std::optional<double> first_contact(ApartAt&& apart, const Advance& advance, double from, double to,
                                    double touching, double rounding, double unsure) {
  constexpr int kEasyRounds = 64;
  constexpr double kLeastWay = 1e-11, kGrowth = 1.1;
  double least = advance.speed > 0 ? kLeastWay / advance.speed : 0;
  double t = from;
  for (int round = 0;; ++round) {
    ++work().looks;
    const Gap gap = apart(t);
    if (gap.distance <= touching - (t == from ? 0 : 0.5) * rounding) return t;
    if (!(t < to) || !(advance.speed > 0)) return std::nullopt;
    const double clear = gap.clear - (touching - 0.75 * rounding);
    double next = clear > 0 ? advance(t, gap.plane, clear) : t;
    if (!std::isfinite(next)) return std::nullopt;
    // As near as the distance of two shapes can be told, and closing.
    if (!((next - t) * advance.speed > kLeastWay) && gap.distance <= unsure) return t;
    if (round > kEasyRounds) least *= kGrowth;
    if (round > kEasyRounds) next = std::max(next, t + least);
    next = std::max(next, std::nextafter(t, to));
    t = std::min(next, to);
  }
}

}  // namespace

double contact_gap(double scale) { return slack(scale); }

double unsure_of(const Shape& hitbox) { return std::holds_alternative<Hull>(hitbox) ? 1e-9 : 0; }
double unsure_of(const Piece& piece) { return piece.pace > 0 || piece.jerk != Vec3{} ? 1e-9 : 0; }
double unsure_of(const Flyer& flyer) {
  constexpr double kShare = 2e-9;
  return flyer.shape != nullptr ? kShare * flyer.reach() : 0;
}

double Flyer::reach() const {
  if (shape == nullptr) return radius;
  const Bounds b = bounds(*shape);
  const Vec3 low = abs(b.low), high = abs(b.high);
  return length({std::max(low.x, high.x), std::max(low.y, high.y), std::max(low.z, high.z)});
}

Rotation Flyer::turn(const Piece& way, double time) const {
  Vec3 x = way.speed_at(time);
  if (!(length(x) > kStill)) {
    // What stands still for an instant looks as it did just before, or as it will when it sets off.
    const Vec3 drawn = way.acceleration + way.jerk * (time - way.start);
    x = time > way.start ? -drawn : drawn;
  }
  if (!(length(x) > 0)) return {};
  x = normalized(x);
  const Vec3 y = to_the_left(x, up, left);
  return {x, y, cross(x, y)};
}
Pose Flyer::pose(const Piece& piece, double time) const { return {piece.place(time), turn(piece, time)}; }

double gap_to(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg) {
  ++work().looks;
  if (flyer.shape == nullptr) return nearest(hitbox, seen(piece, time, leg)).distance - flyer.radius;
  const Pose world = flyer.pose(piece, time), body = leg.at(time);
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
    if (speed > 0) {
      const auto contact = ray_to_grown(hitbox, flyer.radius, {start, way / speed, speed * (to - from)});
      if (contact) return std::min(to, from + contact->distance / speed);
    }
    // What sets off from a surface touches it as far as its place in the world can be told.
    if (nearest(hitbox, start).distance - flyer.radius <= contact_gap(scale)) return from;
    return std::nullopt;
  }
  const Advance advance{flyer, piece, from, to, leg};
  const Convex hull(hitbox);
  const auto apart = [&](double t) { return advance.apart(t, hitbox, hull); };
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
  const double rounding = contact_gap(std::max(largest(piece.place(from)), std::fabs(height)));
  return first_contact(apart, advance, from, to, std::max(rounding, unsure_of(piece)), rounding, 0);
}

std::optional<double> touch_shot(const Flyer& flyer, const Piece& piece, const Piece& other, double hull,
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
  const Shape ball = Ball{{}, hull};
  const Convex core(ball);
  const Leg still = standing();
  const Advance advance{flyer, seen, from, to, still, &piece};
  const auto apart = [&](double t) { return advance.apart(t, ball, core); };
  const double rounding = contact_gap(largest(mine.at)),
               unsure = std::max({unsure_of(flyer), unsure_of(piece), unsure_of(other)});
  return first_contact(apart, advance, from, to, std::max(rounding, unsure), rounding, 2 * unsure);
}

Approach approach_hitbox(const Flyer& flyer, const Piece& piece, double from, double to, const Shape& hitbox,
                         const Leg& leg, double known) {
  const Rates most = rates(flyer, piece, from, to, leg);
  return nearest_approach([&](double t) { return gap_to(flyer, piece, t, hitbox, leg); }, from, to,
                          most.speed, most.bend, 1e-7, known);
}

bool is_clear_of(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg) {
  // Well above what any closed form calls a touch at any time of the piece: those go by the hitbox's numbers,
  // too.
  const double touching = 32 * contact_gap(std::max(largest(piece.at), largest(piece.place(time))));
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
    motions.each_leg(body, from, to, [&](const Leg& leg, double begin, double end) {
      met = touch_hitbox(flyer, piece, begin, end, hitboxes[i].shape, leg);
      return !met;
    });
    if (!met) continue;
    if (!first || *met < first->time - kInstant) first = BodyTouch{*met, i};
    to = std::min(to, *met);
  }
  return first;
}

std::optional<double> let_go_of(const Flyer& flyer, const Piece& piece, double from, double to, BodyId body,
                                const Motions& motions) {
  // Each hitbox is convex: what lets go of the one may still touch another.
  for (double t = from;;) {
    double free = t;
    for (const Hitbox& h : motions.arena().build(motions.arena().body(body).build).hitboxes) {
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

Contact contact_at(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg) {
  const Pose body = leg.at(time);
  const Vec3 center = into(body.turn, piece.place(time) - body.at);
  const Vec3 way = into(body.turn, piece.speed_at(time) - leg.velocity);
  const double speed = length(way);
  const Vec3 against = speed > 0 ? -way / speed : Vec3{0, 0, 1};
  Nearest on = nearest(hitbox, center);
  Vec3 normal = against;
  if (flyer.shape != nullptr) {
    const Pose world = flyer.pose(piece, time);
    const Pose in_frame{
        into(body.turn, world.at - body.at),
        {into(body.turn, world.turn.x), into(body.turn, world.turn.y), into(body.turn, world.turn.z)}};
    // As it was just before, when the two were still apart.
    const Shape there = placed(*flyer.shape, in_frame);
    Closest apart = closest(placed(there, {against * 1e-6, {}}), hitbox);
    // Of two that lie in each other any point would do: the one nearest to the flyer's place is the same
    // however they are described.
    on.distance = 0;
    if (apart.distance > 0) on.point = apart.on_b;
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
