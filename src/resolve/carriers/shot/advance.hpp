#pragma once
#include <cmath>
#include <limits>
#include <optional>

#include "geometry/detail/convex.hpp"
#include "resolve/carriers/shot/touch.hpp"
#include "resolve/work.hpp"

// Conservative advancement of what flies toward what moves.
namespace dardo::detail {

/// How fast the frame of a shape that looks along its way turns at most, and how fast that changes: with the
/// way, and about the upright axis with the way seen from above. A way turns by its acceleration across it:
/// |v x a| / v^2.
struct Turning {
  double rate, change;
};
Turning turning(const Piece& piece, const Vec3& up, double from, double to);

/// How far apart two are, for certain not less than `clear`, and the plane between them: its normal points
/// from the flyer to the hitbox, one metre long.
struct Gap {
  double distance = 0, clear = 0;
  Vec3 plane;
};

/// The first time in (0, end] at which c1 t + c2 t^2 + c3 t^3 reaches `rise`, which is above 0: never later,
/// and sooner only by rounding. Infinite when it does not.
double first_reach(double c1, double c2, double c3, double rise, double end);

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
    return into(body, Pose{piece.place(time), flyer.turn(looks_, time)});
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

}  // namespace dardo::detail
