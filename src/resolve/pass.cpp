// Where a shot passes nearest to its target.
#include <algorithm>
#include <cmath>
#include <limits>

#include "resolve/aimed.hpp"
#include "resolve/carriers/shot/flight.hpp"
#include "resolve/carriers/shot/path_steps.hpp"

namespace dardo::detail {
namespace {

constexpr double kFine = 1e-12;
/// No step of a fall that is only sought is longer, seconds; none is estimated to be off by more, metres: by
/// the lower of two orders, and the higher one is gone on with.
constexpr double kLongestFall = 0.5, kFallKnown = 1e-6;

/// When the stretch of a piece is nearest to a point of what moves on a leg; none when it is nowhere nearer
/// than `known`.
std::optional<double> nearest_on(const Piece& piece, const Leg& leg, const Vec3& point, double from,
                                 double to, double known) {
  const auto gap = [&](double t) { return length(piece.place(t) - leg.at(t) * point); };
  // Below 0 while it closes in: half of how fast the square of the distance grows.
  const auto parting = [&](double t) {
    return dot(piece.place(t) - leg.at(t) * point, piece.speed_at(t) - leg.velocity_of(point, t));
  };
  const auto parts = [&](double t) { return parting(t) >= 0; };
  // A turning target's point is drawn toward its pivot.
  const double speed = piece.most_speed(from, to) + length(leg.velocity) + leg.turn_rate * length(point),
               bend = piece.most_acceleration(from, to) + leg.turn_rate * leg.turn_rate * length(point),
               time = to - from, at_from = gap(from), drawn = (at_from + speed * time) * bend;
  const auto nearer = [&](double t) { return gap(t) < known ? std::optional(t) : std::nullopt; };
  // By how fast that can change it closes in all along.
  const double first = parting(from), last = parting(to);
  if (last < 0 && first + last + (speed * speed + drawn) * time < 0) return nearer(to);
  if (0.5 * (at_from + gap(to) - speed * time) >= known) return std::nullopt;
  // Where it only grows there is one least.
  const double slowest = length(piece.speed_at(from) - leg.velocity_of(point, from)) - bend * time;
  if (slowest > 0 && slowest * slowest > drawn)
    return nearer(first >= 0 ? from : last <= 0 ? to : first_time(parts, from, to));
  const Approach near =
      nearest_approach(gap, from, to, speed, bend, std::max(kFine, 1e-4 * std::min(known, 1.0)), known);
  if (!(near.gap < known)) return std::nullopt;
  // Sharpened around the least.
  const double low = std::max(from, near.time - 1e-2), high = std::min(to, near.time + 1e-2);
  const double least = parts(low) ? low : parts(high) ? first_time(parts, low, high) : high;
  return gap(least) < near.gap ? least : near.time;
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
      const auto sinks = [&](double t) { return dot(c.piece.speed_at(t), motions.arena().up()) <= 0; };
      if (!sinks(c.time)) {
        c.time = sinks(end) ? first_time(sinks, c.time, end) : end;
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
    const auto sinks = [&](double time) { return dot(piece.speed_at(time), up) <= 0; };
    if (sinking && !sinks(from)) from = sinks(t + h) ? first_time(sinks, from, t + h) : t + h;
    const auto near =
        from < t + h ? nearest_on(piece, leg, target.point, from, t + h, best.off) : std::nullopt;
    if (near) {
      // The cubic of so long a step says only about when: from there by Newton's method on the way itself.
      double time = *near;
      for (int round = 0; round < 4; ++round) {
        const State there = time > t ? dormand_prince(state, t, time - t, slope).end : state;
        const Pose pose = leg.at(time);
        const Vec3 at = pose * target.point, off = place_of(there) - at, velocity = rest_of(there),
                   way = velocity - leg.velocity_of(target.point, time);
        if (length(off) < best.off) best = {time, length(off), place_of(there), at, velocity};
        const State bend = slope(time, there);
        const double parts = dot(off, way), grows = dot(way, way) + dot(off, rest_of(bend));
        const double next = grows > 0 ? std::clamp(time - parts / grows, from, t + h) : time;
        if (std::fabs(next - time) <= 1e-12) break;
        time = next;
      }
    }
    state = stepped.end, t += h;
  }
  return best;
}

}  // namespace dardo::detail
