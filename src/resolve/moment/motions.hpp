#pragma once
#include <algorithm>
#include <limits>
#include <span>
#include <vector>

#include "dardo/arena/arena.hpp"

namespace dardo::detail {

/// Where bodies are at any time: on their tracks; else where the arena has them, or on the way there that a
/// running game's tick has opened.
class Motions {
 public:
  explicit Motions(const Arena& arena) : arena_(&arena) {}

  /// The tick: bodies of `legs` (by slot, empty end for those without) move so until `end`.
  void open(double end, std::span<const Leg> legs, std::span<const BodyId> fast, double slow_way) {
    end_ = end, legs_ = legs, fast_ = fast, slow_way_ = slow_way;
  }

  const Arena& arena() const { return *arena_; }
  /// As one knows them who aims at a body at this time: that it goes on moving and turning as it does then;
  /// or, `foreseen`, its whole track, if it has one.
  Motions as_seen(BodyId body, double time, bool foreseen) const {
    constexpr double kEver = std::numeric_limits<double>::infinity();
    Motions out = *this;
    out.end_ = kEver;
    if (body.empty() || (foreseen && !arena_->body(body).track.empty())) return out;
    const Leg now = leg(body, time);
    out.seen_ = body;
    out.seen_leg_ = {time, kEver, now.at(time), now.velocity, now.axis, now.turn_rate};
    return out;
  }
  /// The leg that holds `time`.
  Leg leg(BodyId body, double time) const {
    if (!seen_.empty() && body == seen_) return seen_leg_;
    if (arena_->has_track(body)) return leg_at(arena_->body(body).track, time);
    if (body.index < legs_.size() && !legs_[body.index].still()) return legs_[body.index];
    constexpr double kEver = std::numeric_limits<double>::infinity();
    return {-kEver, kEver, arena_->body(body).pose, {}, {0, 0, 1}, 0};
  }
  /// Calls `visit(leg, from, to)` for each leg of a body's way between two times, in their order, until it
  /// returns false. A leg that has ended is the last one known, and goes on. Who jumps at the very end is
  /// there, too: for no time.
  template <class Visit>
  void each_leg(BodyId body, double from, double to, Visit&& visit) const {
    for (double t = from;;) {
      const Leg l = leg(body, t);
      const double until = l.end > t ? std::min(l.end, to) : std::max(t, to);
      if (!visit(l, t, until)) return;
      if (!(until < to) && !(l.end == to && t < to)) return;
      t = until;
    }
  }
  Vec3 center(BodyId body, double time) const {
    return leg(body, time).at(time) * arena_->center_in_frame(body);
  }
  Vec3 velocity(BodyId body, double time) const { return leg(body, time).velocity; }
  /// Up to when it is known how a body moves: a track says it for ever.
  double known_until(BodyId body) const {
    return arena_->has_track(body) ? std::numeric_limits<double>::infinity() : end_;
  }
  /// Whether a body may be elsewhere than the arena has it.
  bool moves(BodyId body) const {
    return (body.index < legs_.size() && !legs_[body.index].still()) || arena_->has_track(body) ||
           (!seen_.empty() && body == seen_);
  }
  /// Those who go so far in a tick that they are not looked for near their place at its end.
  std::span<const BodyId> fast() const { return fast_; }

  /// How far a body goes at most in the tick when it is looked for near its place at the tick's end: all but
  /// those with a track and `fast` ones.
  double slow_way() const { return slow_way_; }
  bool is_slow(BodyId body) const {
    if (all_slow()) return true;
    return !arena_->has_track(body) && std::find(fast_.begin(), fast_.end(), body) == fast_.end();
  }
  bool all_slow() const { return fast_.empty() && arena_->tracked().empty(); }
  /// How far a slow body, where it is at the end of the tick, is from a way.
  double distance_at_end(BodyId body, const Segment& way) const {
    double least = std::numeric_limits<double>::infinity();
    for (const Shape& s : arena_->hitboxes(body)) least = std::min(least, dardo::distance(s, way));
    return least;
  }
  /// How near a slow body is to what goes this way from one time of the tick to its end, both steadily: never
  /// more than that.
  double approach(BodyId body, const Segment& way, double from) const {
    const Leg l = leg(body, from);
    if (l.still()) return distance_at_end(body, way);
    const double left = end_ - from;
    // Seen from where the body ends up. One that turns swings its hitboxes about its origin.
    const double swing =
        l.turn_rate * left * (arena_->reach_around_center(body) + length(arena_->center_in_frame(body)));
    return distance_at_end(body, {way.from + l.velocity * left, way.to}) - swing;
  }
  /// Bodies whose hitboxes may touch `box` between two times; some others, too. A body may come twice.
  template <class Visit>
  void bodies_near(const Bounds& box, double from, double to, Visit&& visit) const {
    for (const BodyId b : arena_->tracked()) {
      if (overlaps(way_bounds(b, from, to), box)) visit(b);
    }
    for (const BodyId b : fast_) {
      if (arena_->has(b) && overlaps(way_bounds(b, from, to), box)) visit(b);
    }
    const bool none_tracked = arena_->tracked().empty();
    arena_->bodies_touching(box.grown(slow_way_), [&](BodyId b) {
      if (none_tracked || !arena_->has_track(b)) visit(b);
    });
  }

 private:
  Bounds way_bounds(BodyId body, double from, double to) const {
    Bounds out;
    const Vec3 center = arena_->center_in_frame(body);
    each_leg(body, from, to, [&](const Leg& l, double begin, double end) {
      // A body that turns swings its middle about its origin.
      const double swing = l.turn_rate != 0 ? 2 * length(center) : 0;
      const double r = arena_->reach_around_center(body) + swing;
      const Vec3 a = l.at(begin) * center, b = l.at(end) * center;
      out.add(Bounds{a, a}.grown(r)), out.add(Bounds{b, b}.grown(r));
      return true;
    });
    return out;
  }

  const Arena* arena_;
  double end_ = std::numeric_limits<double>::infinity();
  std::span<const Leg> legs_;
  std::span<const BodyId> fast_;
  double slow_way_ = 0;
  BodyId seen_;  ///< whose future is guessed
  Leg seen_leg_;
};

}  // namespace dardo::detail
