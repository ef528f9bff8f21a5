// When what lasts meets what moves.
#include <algorithm>
#include <array>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/crossing.hpp"
#include "geometry/detail/ever.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/carriers/lasting/dash.hpp"
#include "resolve/carriers/lasting/extent.hpp"
#include "resolve/moment/walls.hpp"
#include "resolve/work.hpp"

namespace dardo::detail {
namespace {

/// When a gap that is more than `near` at `from` is first no more: by how fast it changes at most, and how
/// much it bends (see `never_below`). `at(t, beyond)` is the gap, or more than `beyond` if that is all that
/// matters.
template <class Gap>
std::optional<double> first_within(Gap&& at, double near, double gap_from, double speed, double bend,
                                   bool convex, double from, double to) {
  struct Part {
    double from, to, gap_from, gap_to;
  };
  constexpr int kMostCuts = 4000;
  constexpr double kFine = 1e-10;  // metres: within it a gap only closes or only opens
  // What is once farther apart does not come so near in all that time.
  const double beyond = near + speed * (to - from);
  std::array<Part, 128> open;
  std::size_t count = 0;
  open[count++] = {from, to, gap_from, at(to, beyond)};
  const auto contact = [&](double apart, double gap_apart, double touching, double gap_touching) {
    const auto over = [&](double t) { return at(t, beyond) - near; };
    if (!(gap_touching < near)) gap_touching = near - kFine;
    return crossing(over, apart, touching, gap_apart - near, gap_touching - near);
  };
  for (int cuts = 0; count > 0; ++cuts) {
    const Part p = open[--count];
    if (p.gap_from > beyond || p.gap_to > beyond) return std::nullopt;
    if (p.gap_to > near && never_below(p.gap_from, p.gap_to, p.to - p.from, speed, bend) > near) continue;
    const bool ends_in_it = p.gap_to <= near;
    const bool fine = speed * (p.to - p.from) <= kFine || cuts > kMostCuts || count + 2 > open.size();
    if (ends_in_it && !(p.gap_from > near)) return p.from;
    if (ends_in_it && (convex || fine)) return contact(p.from, p.gap_from, p.to, p.gap_to);
    if (fine) continue;
    if (convex) {
      double low = p.from, high = p.to;
      for (int i = 0; i < 200 && speed * (high - low) > 1e-9; ++i) {
        const double third = (high - low) / 3, one = low + third, two = high - third;
        const double gap_one = at(one, beyond), gap_two = at(two, beyond);
        if (std::min(gap_one, gap_two) <= near)
          return gap_one <= near ? contact(p.from, p.gap_from, one, gap_one)
                                 : contact(p.from, p.gap_from, two, gap_two);
        if (gap_one > beyond || gap_two > beyond) return std::nullopt;
        gap_one < gap_two ? high = two : low = one;
      }
      continue;
    }
    const double middle = 0.5 * (p.from + p.to);
    if (!(middle > p.from && middle < p.to)) continue;
    const double between = at(middle, beyond);
    open[count++] = {middle, p.to, between, p.gap_to};
    open[count++] = {p.from, middle, p.gap_from, between};
    // What begins by touching is what the half before ends in.
    if (between <= near) open[count - 2].gap_from = between;
  }
  return std::nullopt;
}

/// When something stops a body: what that touches where it begins only if it goes into it, and else from when
/// it has let go of it.
template <class Gap>
std::optional<double> first_stop(Gap&& at, double speed, double bend, double from, double to) {
  constexpr int kParts = 64;
  constexpr double kLittle = 1e-5;
  double begin = from, gap = at(from);
  if (!(speed > 0)) return std::nullopt;
  if (gap <= kStoppedAt) {
    if (gap > 0 && at(std::min(to, from + kLittle / speed)) < gap - 1e-9) return from;
    for (int i = 1; gap <= kStoppedAt; ++i) {
      if (i > kParts) return std::nullopt;
      begin = from + (to - from) * i / kParts, gap = at(begin);
    }
  }
  if (!(to > begin)) return std::nullopt;
  const auto gap_at = [&](double t, double) { return at(t); };
  return first_within(gap_at, kStoppedAt, gap, speed, bend, false, begin, to);
}

}  // namespace

bool Extent::is_convex(const Stretch& s, const Leg& leg) const {
  if (plan_.by_hitboxes()) {
    int own = 0;
    each_own(s.from, [&](const Shape&) { ++own; });
    if (own != 1) return false;
  }
  return plan_.convex && s.carrier.turn_rate == 0 && s.own.turn_rate == 0 && leg.turn_rate == 0;
}

std::optional<double> Extent::first_touch(const Stretch& s, const Shape& shape, const Leg& leg, double from,
                                          double to) const {
  const double near = touching(s, from);
  const auto at = [&](double t, double beyond) { return gap(s, t, shape, leg, beyond); };
  const Rates r = rates(s, shape, leg, from, to);
  // Far from all of it nothing has to be looked at closely.
  if (at_least(s, from, shape, leg) - r.speed * (to - from) > near + kStillInside) return std::nullopt;
  const double gap_from = at(from, near + r.speed * (to - from));
  if (gap_from <= near) return from;
  if (!(to > from) || gap_from - r.speed * (to - from) > near) return std::nullopt;
  return first_within(at, near, gap_from, r.speed, r.bend, is_convex(s, leg), from, to);
}

std::optional<Extent::Touch> Extent::enters(BodyId body, double from, double to) const {
  const Arena& arena = motions_.arena();
  const auto& hitboxes = arena.build(arena.body(body).build).hitboxes;
  std::optional<Touch> first;
  for (std::uint32_t i = 0; i < hitboxes.size() && from <= to; ++i) {
    std::optional<double> met;
    each_stretch(from, to, [&](const Stretch& s) {
      motions_.each_leg(body, i, s.from, s.to, [&](const Leg& leg, double begin, double end) {
        met = first_touch(s, hitboxes[i].shape, leg, begin, end);
        return !met;
      });
      return !met;
    });
    if (!met) continue;
    if (!first || *met < first->time - kInstant) first = Touch{*met, i};
    to = std::min(to, *met);
  }
  return first;
}

std::optional<double> Extent::lets_go(const Stretch& s, const Shape& shape, const Leg& leg, double from,
                                      double to, double apart) const {
  constexpr int kManySteps = 20'000;
  constexpr double kBack = 1e-6, kLeastHold = 1e-12;
  const auto free = [&](double t) { return gap(s, t, shape, leg, apart) > apart; };
  const Rates r = rates(s, shape, leg, from, to);
  // What it holds deep enough needs no closer look.
  const double parts = r.speed * (to - from);
  if (hold_of(s, from, shape, leg, parts) > parts) return std::nullopt;
  if (free(from)) return from;
  if (!(to > from)) return std::nullopt;
  const bool convex = is_convex(s, leg);
  const double bend = r.bend + (plan_.hole > 0 ? r.speed * r.speed / plan_.hole
                                : plan_.convex ? 0
                                               : r.speed * r.speed / std::max(1e-3, s.reach));
  double step = convex || !(bend > 0) ? to - from : std::sqrt(8 * kBack / bend);
  int steps = 0;
  for (double t = from; t < to;) {
    if (++steps > kManySteps) step *= 1.01;
    const double held = r.speed > 0 ? hold_of(s, t, shape, leg, r.speed * (to - t)) / r.speed : kEver;
    const double next = std::min(to, t + std::max(step, held));
    if (!(next > t)) break;
    if (free(next)) {
      // Above 0 by how far they are apart, below by how far they may move before that.
      const auto over = [&](double x) {
        const double away = gap(s, x, shape, leg) - apart;
        return away > 0 ? away : away - hold_of(s, x, shape, leg, r.speed * (next - t)) - kLeastHold;
      };
      return crossing(over, t, next, over(t), over(next));
    }
    t = next;
  }
  return std::nullopt;
}

std::optional<double> Extent::lets_go(const Shape& shape, BodyId body, double from, double to) const {
  std::optional<double> free;
  each_stretch(from, to, [&](const Stretch& s) {
    // Well above what counts as contact, so that what runs along the border does not come and go.
    const double apart = 2 * touching(s, s.from) +
                         (plan_.region && std::holds_alternative<Sector>(*plan_.region) ? 1e-7 : 1e-8);
    motions_.each_leg(body, s.from, s.to, [&](const Leg& leg, double begin, double end) {
      free = lets_go(s, shape, leg, begin, end, apart);
      return !free;
    });
    return !free;
  });
  return free;
}

std::optional<double> Extent::leaves(BodyId body, double from, double to) const {
  const Arena& arena = motions_.arena();
  const auto& hitboxes = arena.build(arena.body(body).build).hitboxes;
  for (double t = from;;) {
    double free = t;
    for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
      if (!arena.has_hitbox(body, i, motions_.state_time(t))) continue;
      const auto one = lets_go(hitboxes[i].shape, body, t, to);
      if (!one) return std::nullopt;
      free = std::max(free, *one);
    }
    if (!(free > t)) return t;
    t = free;
  }
}

/// How near it came is told to a ten-thousandth, or as well as so many cuts can tell.
Approach Extent::nearest(BodyId body, double from, double to, double known) const {
  const Arena& arena = motions_.arena();
  const auto& hitboxes = arena.build(arena.body(body).build).hitboxes;
  constexpr int kMostCuts = 200;
  Approach best{known, from};
  each_stretch(from, to, [&](const Stretch& s) {
    for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
      motions_.each_leg(body, i, s.from, s.to, [&](const Leg& leg, double begin, double end) {
        const Rates r = rates(s, hitboxes[i].shape, leg, begin, end);
        const double half = 0.5 * (end - begin);
        if (at_least(s, begin + half, hitboxes[i].shape, leg) - r.speed * half > best.gap) return true;
        const Approach one = nearest_approach([&](double t) { return gap(s, t, hitboxes[i].shape, leg); },
                                              begin, end, r.speed, r.bend, kMissKnown, best.gap, kMostCuts);
        if (one.gap < best.gap - kMissKnown) best = one;
        return true;
      });
    }
    return true;
  });
  return best;
}

std::optional<double> Extent::meets(WallPartId part, double from, double to) const {
  const WallTable& walls = motions_.arena().wall_table();
  std::optional<double> met;
  each_stretch(from, to, [&](const Stretch& s) {
    walls.each_leg(walls.wall_of(part), s.from, s.to, [&](const Leg& leg, double begin, double end) {
      met = first_touch(s, walls.shape(part), leg, begin, end);
      return !met;
    });
    return !met;
  });
  return met;
}

std::optional<double> Extent::stopped(std::span<const Shape> cores, WallPartId part, double from,
                                      double to) const {
  const Arena& arena = motions_.arena();
  const WallTable& walls = arena.wall_table();
  const WallId wall = walls.wall_of(part);
  std::optional<double> met;
  each_stretch(from, to, [&](const Stretch& s) {
    walls.each_leg(wall, s.from, s.to, [&](const Leg& leg, double begin, double end) {
      const Shape& shape = walls.shape(part);
      const auto at = [&](double t) {
        const Pose in_wall = into(leg.at(t), frame(s, t));
        double least = kEver;
        for (const Shape& core : cores) least = std::min(least, gap_between(core, in_wall, shape));
        return least;
      };
      const Rates r = rates(s, shape, leg, begin, end);
      met = first_stop(at, r.speed, r.bend, begin, end);
      if (met && lets_pass(arena, wall, s.carrier.velocity, *met)) met.reset();
      return !met;
    });
    return !met;
  });
  return met;
}

std::optional<double> Extent::grounded(std::span<const Shape> cores, double from, double to) const {
  const Arena& arena = motions_.arena();
  if (!arena.ground()) return std::nullopt;
  const HalfSpace ground{arena.ground_normal() * *arena.ground(), arena.ground_normal()};
  std::optional<double> met;
  each_stretch(from, to, [&](const Stretch& s) {
    const auto at = [&](double t) {
      const Pose there = frame(s, t);
      double least = kEver;
      for (const Shape& core : cores)
        least = std::min(
            least, closest(core, HalfSpace{inverse(there) * ground.point, into(there.turn, ground.normal)})
                       .distance);
      return least;
    };
    met = first_stop(at, length(s.carrier.velocity), 0, s.from, s.to);
    return !met;
  });
  return met;
}

}  // namespace dardo::detail
