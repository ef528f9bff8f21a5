// Where a shot passes nearest to its target.
#include <algorithm>
#include <cmath>
#include <limits>

#include "geometry/detail/crossing.hpp"
#include "resolve/aimed.hpp"
#include "resolve/carriers/shot/flight.hpp"
#include "resolve/carriers/shot/path_steps.hpp"

namespace dardo::detail {
namespace {

constexpr double kFine = 1e-12;
/// No step of a fall that is only sought is longer, seconds; none is estimated to be off by more, metres: by
/// the lower of two orders, and the higher one is gone on with.
constexpr double kLongestFall = 0.5, kFallKnown = 1e-6;

/// How far apart a shot and a point of what moves are, and how fast that grows.
struct Apart {
  Vec3 off, way;

  Apart(const Piece& piece, const Leg& leg, const Vec3& point, double t) {
    const Pose pose = leg.at(t);
    off = piece.place(t) - pose * point, way = piece.speed_at(t) - leg.velocity_of(point, pose);
  }
  double gap() const { return length(off); }
  /// Half of how fast the square of the gap grows: below 0 while it closes in.
  double parting() const { return dot(off, way); }
};

/// When the stretch of a piece is nearest to a point of what moves on a leg; none when it is nowhere nearer
/// than `known`.
std::optional<double> nearest_on(const Piece& piece, const Leg& leg, const Vec3& point, double from,
                                 double to, double known) {
  const auto gap = [&](double t) { return length(piece.place(t) - leg.at(t) * point); };
  const auto parting = [&](double t) { return Apart(piece, leg, point, t).parting(); };
  const Apart at_from(piece, leg, point, from), at_to(piece, leg, point, to);
  const double first = at_from.parting(), last = at_to.parting(), gap_from = at_from.gap(),
               gap_to = at_to.gap();
  // A turning target's point is drawn toward its pivot.
  const double speed = piece.most_speed(from, to) + length(leg.velocity) + leg.turn_rate * length(point),
               bend = piece.most_acceleration(from, to) + leg.turn_rate * leg.turn_rate * length(point),
               time = to - from, drawn = (gap_from + speed * time) * bend;
  const auto nearer = [&](double t, double there) { return there < known ? std::optional(t) : std::nullopt; };
  // By how fast that can change it closes in all along.
  if (last < 0 && first + last + (speed * speed + drawn) * time < 0) return nearer(to, gap_to);
  if (0.5 * (gap_from + gap_to - speed * time) >= known) return std::nullopt;
  // Where it only grows there is one least.
  const double slowest = length(at_from.way) - bend * time;
  if (slowest > 0 && slowest * slowest > drawn) {
    if (first >= 0) return nearer(from, gap_from);
    if (last <= 0) return nearer(to, gap_to);
    const double least = crossing(parting, from, to, first, last);
    return nearer(least, gap(least));
  }
  const Approach near =
      nearest_approach(gap, from, to, speed, bend, std::max(kFine, 1e-4 * std::min(known, 1.0)), known);
  if (!(near.gap < known)) return std::nullopt;
  // Sharpened around the least.
  const double low = std::max(from, near.time - 1e-2), high = std::min(to, near.time + 1e-2);
  const double at_low = parting(low), at_high = parting(high);
  const double least = at_low >= 0    ? low
                       : at_high >= 0 ? crossing(parting, low, high, at_low, at_high)
                                      : high;
  return gap(least) < near.gap ? least : near.time;
}

/// When it no longer rises: in [from, to], or `to`.
double sinks(const Piece& piece, const Vec3& up, double from, double to) {
  const auto rises = [&](double t) { return dot(piece.speed_at(t), up); };
  const double first = rises(from), last = rises(to);
  return first <= 0 ? from : last > 0 ? to : crossing(rises, from, to, first, last);
}

/// The cubic of a long step says only about when it is nearest: from there by Newton's method on the way
/// itself, from `state` at the step's start. `best` where that is nearer.
template <class Slope>
Pass sharpened(Pass best, const State& state, double start, double step, double near, double from,
               const Leg& leg, const Vec3& point, Slope&& slope) {
  double time = near;
  for (int round = 0; round < 4; ++round) {
    const State there = time > start ? dormand_prince(state, start, time - start, slope).end : state;
    const Pose pose = leg.at(time);
    const Vec3 at = pose * point, off = place_of(there) - at, velocity = rest_of(there),
               way = velocity - leg.velocity_of(point, pose);
    if (length(off) < best.off) best = {time, length(off), place_of(there), at, velocity};
    const State bend = slope(time, there);
    const double parts = dot(off, way), grows = dot(way, way) + dot(off, rest_of(bend));
    const double next = grows > 0 ? std::clamp(time - parts / grows, from, start + step) : time;
    if (std::fabs(next - time) <= 1e-12) break;
    time = next;
  }
  return best;
}

}  // namespace

Pass fly_past(const Motions& motions, const ShotPath& path, const Course& start, double life_s,
              const AimedAt& target, bool sinking, SearchSteps& steps) {
  Course c = start;
  const double until = c.time + life_s;
  Pass best;
  best.off = std::numeric_limits<double>::infinity();
  while (c.time < until && steps.take()) {
    if (c.time >= c.piece.end && next_piece(c, path, motions) != Milestone::none) break;
    double end = std::min(c.piece.end, until);
    // No leg of the target's way is crossed, and no stretch is so long that the bounds say nothing.
    if (!target.body.empty()) end = std::min(end, motions.leg(target.body, c.time).end);
    end = std::min(end, c.time + 0.5);
    if (!(end > c.time)) end = std::nextafter(c.time, until);
    if (sinking) {
      const double sunk = sinks(c.piece, motions.arena().up(), c.time, end);
      if (sunk > c.time) {
        c.time = sunk;
        continue;
      }
    }
    // By this leg also at its very end, where the target may jump.
    const Leg leg = target.body.empty() ? standing() : motions.leg(target.body, c.time);
    if (const auto least = nearest_on(c.piece, leg, target.point, c.time, end, best.off)) {
      best = {*least, length(c.piece.place(*least) - leg.at(*least) * target.point), c.piece.place(*least),
              leg.at(*least) * target.point, c.piece.speed_at(*least)};
    }
    c.time = end;
    // Long past it: what turns about and comes again is another pass.
    if (best.off < kFine || (best.off < 1 && c.time > best.time + 0.25)) break;
  }
  return best;
}

Pass fall_past(const Motions& motions, const FallingPath& path, const Course& start, double life_s,
               const AimedAt& target, bool sinking, SearchSteps& steps) {
  const auto slope = falls_by(path, motions);
  const Vec3& up = motions.arena().up();
  const double until = start.time + life_s;
  State state = state_of(start.place(), start.velocity());
  Pass best;
  best.off = std::numeric_limits<double>::infinity();
  double step = kLongestFall;
  for (double t = start.time; t < until && !(best.off < 1 && t > best.time + 0.25) && steps.take();) {
    const Leg leg = target.body.empty() ? standing() : motions.leg(target.body, t);
    const double longest = std::min(until, target.body.empty() || !(leg.end > t) ? kEver : leg.end) - t;
    double h = std::min(step, longest);
    Stepped stepped = dormand_prince(state, t, h, slope);
    const bool shorter = stepped.error > kFallKnown;
    while (stepped.error > kFallKnown && h > kLeastStep)
      h *= shrunk(stepped.error / kFallKnown), stepped = dormand_prince(state, t, h, slope);
    step = next_step(shorter ? 0 : step, h, stepped.error / kFallKnown, kLongestFall);
    const Piece piece =
        hermite(t, place_of(state), rest_of(state), t + h, place_of(stepped.end), rest_of(stepped.end));
    double from = t;
    if (sinking) from = sinks(piece, up, from, t + h);
    const auto near =
        from < t + h ? nearest_on(piece, leg, target.point, from, t + h, best.off) : std::nullopt;
    if (near && *near >= t + h) {
      const Vec3 at = leg.at(t + h) * target.point, place = place_of(stepped.end);
      if (length(place - at) < best.off) best = {t + h, length(place - at), place, at, rest_of(stepped.end)};
    } else if (near) {
      best = sharpened(best, state, t, h, *near, from, leg, target.point, slope);
    }
    state = stepped.end, t += h;
  }
  return best;
}

}  // namespace dardo::detail
