#pragma once
#include <algorithm>
#include <limits>
#include <optional>
#include <span>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "geometry/detail/ever.hpp"
#include "resolve/moment/carried.hpp"
#include "resolve/moment/facts.hpp"
#include "resolve/moment/far_ways.hpp"

namespace dardo::detail {

/// Where bodies are at any time: where the machine carries them; on their tracks; else where the arena has
/// them, or on the way there that a running game's tick has opened.
class Motions {
 public:
  explicit Motions(const Arena& arena) : arena_(&arena) {}

  /// The tick: bodies of `legs` (by slot, empty end for those without) move so until `end`; those on `far`
  /// ways are found there, all others within `slow_way` of where they are at its end.
  void open(double end, std::span<const Leg> legs, const FarWays& far, double slow_way) {
    end_ = end, legs_ = legs, far_ = &far, slow_way_ = slow_way;
  }
  /// Between two ticks everybody is where the arena has them.
  void close(double end) { end_ = end, legs_ = {}, far_ = nullptr, slow_way_ = 0; }

  /// Those that are carried; nothing when nobody is.
  void carry(const AllCarried* carried) { carried_ = carried; }

  const Arena& arena() const { return *arena_; }
  /// What has come to bodies beside what the arena says; nothing while that is all.
  void know(const Facts* facts) { facts_ = facts; }
  const Facts::Of* facts_of(BodyId body) const { return facts_ != nullptr ? facts_->find(body) : nullptr; }
  /// Who stands, what a body is called and cannot be struck by, and its numbers: as of now; or, when states
  /// have been let go, as of a time.
  bool is_fallen(BodyId body, double time) const {
    if (arena_->is_fallen(body)) return true;
    const Facts::Of* of = facts_of(body);
    return of != nullptr && of->fell < kEver && (states_ || of->fell <= time);
  }
  bool stands(BodyId body, double time = kEver) const { return arena_->has(body) && !is_fallen(body, time); }
  bool has_tag(BodyId body, std::string_view tag, double time) const {
    bool gives = arena_->has_tag(body, tag), takes = false;
    each_status(body, time, [&](const Status& s) {
      gives = gives || names(s.gives, tag), takes = takes || names(s.takes, tag);
    });
    return gives && !takes;
  }
  bool is_immune(BodyId body, std::string_view attack_tag, double time) const {
    bool immune = arena_->is_immune(body, attack_tag);
    each_status(body, time, [&](const Status& s) { immune = immune || names(s.immune, attack_tag); });
    return immune;
  }
  /// Whether its tags are others than the arena says.
  bool has_statuses(BodyId body) const {
    const Facts::Of* of = facts_of(body);
    return of != nullptr && !of->spans.empty();
  }
  std::optional<double> number(BodyId body, std::string_view name, const std::optional<std::uint32_t>& index,
                               double time) const {
    if (const Facts::Of* of = facts_of(body)) {
      for (auto n = of->numbers.rbegin(); n != of->numbers.rend(); ++n) {
        if (n->name == name && (states_ || n->since <= time)) return n->value;
      }
    }
    return index ? arena_->number(body, *index) : std::nullopt;
  }
  std::optional<double> number(BodyId body, std::string_view name, double time) const {
    return number(body, name, arena_->find_number(name), time);
  }
  /// Calls `visit(status)` for those that a body has.
  template <class Visit>
  void each_status(BodyId body, double time, Visit&& visit) const {
    const Facts::Of* of = facts_of(body);
    if (of == nullptr) return;
    for (const Facts::Span& span : of->spans) {
      if (span.holds(states_ ? std::nullopt : std::optional(time))) visit(*span.status);
    }
  }
  /// All are as they are at this time, for as long as one window lasts; else as at the time that is asked of.
  void hold_states(double time) { states_ = time; }
  void let_states_go() { states_.reset(); }
  double state_time(double time) const { return states_.value_or(time); }
  /// As `each_leg`, for as long as a hitbox of the body is there.
  template <class Visit>
  void each_leg(BodyId body, std::uint32_t hitbox, double from, double to, Visit&& visit) const {
    if (!arena_->changes(body)) return each_leg(body, from, to, visit);
    if (states_) {
      if (arena_->has_hitbox(body, hitbox, *states_)) each_leg(body, from, to, visit);
      return;
    }
    const auto states = arena_->states(body);
    bool on = true;
    for (std::size_t i = 0; i < states.size() && on; ++i) {
      const double begin = std::max(from, states[i].from_s),
                   end = i + 1 < states.size() ? std::min(to, states[i + 1].from_s) : to;
      if (!(begin <= end) || !states[i].has(hitbox)) continue;
      each_leg(body, begin, end, [&](const Leg& leg, double a, double b) { return on = visit(leg, a, b); });
    }
  }
  /// As one knows them who aims at a body at this time: that it goes on moving and turning as it does then;
  /// or, `foreseen`, its whole track, if it has one.
  Motions as_seen(BodyId body, double time, bool foreseen) const {
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
    if (carried_ != nullptr) {
      if (const Carried* carried = find_carried(*carried_, body)) return carried_leg(*carried, time);
    }
    return own_leg(body, time);
  }
  /// The same of its track, or of the tick.
  Leg own_leg(BodyId body, double time) const {
    if (arena_->has_track(body)) return arena_->track_leg(body, time);
    if (body.index < legs_.size() && !legs_[body.index].still()) return legs_[body.index];
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
    return arena_->has_track(body) && !is_carried(body) ? std::numeric_limits<double>::infinity() : end_;
  }
  /// Whether a body may be elsewhere than the arena has it.
  bool moves(BodyId body) const {
    return (body.index < legs_.size() && !legs_[body.index].still()) || arena_->has_track(body) ||
           (!seen_.empty() && body == seen_) || is_carried(body);
  }
  /// How far a body goes at most in the tick when it is looked for near its place at the tick's end: all but
  /// those that are not slow.
  double slow_way() const { return slow_way_; }
  /// Whether it is found near its place at the tick's end, and goes there on one leg.
  bool is_slow(BodyId body) const {
    if (is_carried(body)) return false;
    return far_ != nullptr ? !far_->has(body) : !arena_->has_track(body);
  }
  /// Whether what is not slow is slow again where it comes to: in a tick.
  bool in_tick() const { return far_ != nullptr; }
  /// How far a slow body, where it is at the end of the tick, is from a way.
  double distance_at_end(BodyId body, const Segment& way) const {
    double least = std::numeric_limits<double>::infinity();
    for (const Shape& s : arena_->hitboxes(body)) least = std::min(least, dardo::distance(s, way));
    return least;
  }
  /// How near a slow body is to what goes this way from one time of the tick to another, both steadily: never
  /// more than that.
  double approach(BodyId body, const Segment& way, double from, double to) const {
    const Leg l = leg(body, from);
    if (l.still()) return distance_at_end(body, way);
    const double left = end_ - from;
    // Seen from where the body ends up. One that turns swings its hitboxes about its origin.
    const double swing =
        l.turn_rate * left * (arena_->reach_around_center(body) + length(arena_->center_in_frame(body)));
    return distance_at_end(body, {way.from + l.velocity * left, way.to + l.velocity * (end_ - to)}) - swing;
  }
  /// Bodies whose hitboxes may touch `box` between two times; some others, too. A body may come twice.
  template <class Visit>
  void bodies_near(const Bounds& box, double from, double to, Visit&& visit) const {
    const auto visit_far = [&](BodyId b) {
      if (overlaps(way_bounds(b, from, to), box)) visit(b);
    };
    if (carried_ != nullptr) {
      for (const Carried& c : *carried_) {
        if (arena_->has(c.body)) visit_far(c.body);
      }
    }
    if (far_ == nullptr) {
      arena_->tracks_touching(box, from, to, visit);
    } else if (!far_->empty()) {
      far_->touching(box, visit_far);
    }
    arena_->bodies_touching(box.grown(slow_way_), [&](BodyId b) {
      if (is_slow(b)) visit(b);
    });
  }
  /// Calls `visit(body, limit)` for the bodies that a ray may meet at a time, with the limit that the last
  /// has returned; a negative one ends it. With a radius: those that a ball along the ray may meet.
  template <class Visit>
  void bodies_along(const Ray& ray, double limit, double time, Visit&& visit, double radius = 0) const {
    const auto visit_far = [&](BodyId b, double now) { return limit = visit(b, now); };
    if (carried_ != nullptr) {
      for (const Carried& c : *carried_) {
        if (limit < 0) return;
        if (arena_->has(c.body)) limit = visit(c.body, limit);
      }
    }
    if (limit < 0) return;
    if (far_ == nullptr) {
      arena_->tracks_along(ray, limit, time, visit_far, radius);
    } else if (!far_->empty()) {
      far_->along(ray, limit, visit_far, radius);
    }
    if (limit < 0) return;
    arena_->bodies_along(
        ray, limit, [&](BodyId b, double now) { return is_slow(b) ? visit(b, now) : now; },
        slow_way_ + radius);
  }
  /// Within this are a body's hitboxes between two times.
  Bounds way_bounds(BodyId body, double from, double to) const {
    Bounds out;
    each_leg(body, from, to, [&](const Leg& l, double begin, double end) {
      out.add(arena_->way_bounds(body, l, begin, end));
      return true;
    });
    return out;
  }

 private:
  static bool names(const std::vector<std::string>& words, std::string_view word) {
    return std::find(words.begin(), words.end(), word) != words.end();
  }
  bool is_carried(BodyId body) const {
    return carried_ != nullptr && find_carried(*carried_, body) != nullptr;
  }
  Leg carried_leg(const Carried& carried, double time) const {
    if (time >= carried.from()) return carried.at(time);
    Leg out = own_leg(carried.body, time);
    out.end = std::min(out.end, carried.from());
    return out;
  }

  const Arena* arena_;
  const Facts* facts_ = nullptr;
  double end_ = std::numeric_limits<double>::infinity();
  std::span<const Leg> legs_;
  const FarWays* far_ = nullptr;  ///< of the tick, if one is open
  double slow_way_ = 0;
  const AllCarried* carried_ = nullptr;
  std::optional<double> states_;
  BodyId seen_;  ///< whose future is guessed
  Leg seen_leg_;
};

}  // namespace dardo::detail
