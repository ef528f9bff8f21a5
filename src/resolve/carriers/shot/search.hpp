#pragma once
#include <algorithm>
#include <cmath>

#include "geometry/detail/tolerance.hpp"
#include "resolve/carriers/shot/flight.hpp"

// What one flight touches first.
namespace dardo::detail {

/// Everything that a stretch of one piece may meet.
class Search {
 public:
  Search(const Flight& flight, const Launched& launched, const Surroundings& around, const Course& course)
      : flight_(flight),
        around_(around),
        walls_(around.arena.wall_table()),
        course_(course),
        act_(around.motions, launched.stage(flight.stage), launched.launch, launched.faction,
             around.motions.state_time(around.until)),
        shot_(*act_.stage.shot),
        flyer_(flyer_of(shot_, course, around.arena.upright())) {}

  /// Calls `found(touched)` for what is touched first of each thing in [from, to], if anything is. Each is
  /// sought in the same stretch, whatever else is found: so its time is the same to the bit.
  template <class Found>
  void run(double from, double to, Found&& found) const {
    const double loose = slack(course_.piece.scale(from)) + kTouchRoom;
    const Bounds box = course_.piece.bounds(from, to).grown(flyer_.reach() + loose);
    walls_.touching(box, [&](WallPartId part) {
      if (const auto t = wall_touched(part, from, to)) found(*t);
    });
    around_.motions.bodies_near(box, from, to, [&](BodyId body) {
      if (const auto t = body_touched(body, from, to)) found(*t);
    });
    if (const auto t = ground_touched(from, to)) found(*t);
  }

  /// Whether it lets go of what it passes in [from, to].
  bool lets_go(const Met& passed, double from, double to) const {
    if (!passed.body.empty())
      return let_go_of(flyer_, course_.piece, from, to, passed.body, around_.motions).has_value();
    return free_of_part(passed.wall, from, to).has_value();
  }

  /// The end of a stretch, or of the instant in which it meets the ground.
  double to_ground(double from, double to) const {
    const auto ground = ground_touched(from, to);
    return ground ? std::min(to, ground->time + kInstant) : to;
  }

 private:
  template <class IdType>
  const Met* remembered(IdType what) const {
    return around_.memory.known(flight_.met, what);
  }
  template <class Apart>
  std::optional<double> free_of(Apart&& apart, double from, double to, double moves = 0) const {
    return let_go(apart, from, to, course_.piece.most_speed(from, to) + moves);
  }
  bool is_clear_of_part(WallPartId part, double time) const {
    return is_clear_of(flyer_, course_.piece, time, walls_.shape(part),
                       walls_.leg(walls_.wall_of(part), time));
  }
  std::optional<double> free_of_part(WallPartId part, double from, double to) const {
    const double moves = length(velocity_of(part, from));
    return free_of([&](double t) { return is_clear_of_part(part, t); }, from, to, moves);
  }
  /// How fast a surface moves where it is; the ground does not.
  Vec3 velocity_of(WallPartId part, double time) const {
    if (part.empty()) return {};
    return wall_velocity(around_.arena, walls_.wall_of(part), course_.piece.place(time), time);
  }
  /// As the surface sees it.
  Vec3 speed_against(WallPartId part, double time) const {
    return course_.piece.speed_at(time) - velocity_of(part, time);
  }
  std::optional<double> touch_part(WallPartId part, double from, double to) const {
    std::optional<double> met;
    walls_.each_leg(walls_.wall_of(part), from, to, [&](const Leg& leg, double begin, double end) {
      met = touch_hitbox(flyer_, course_.piece, begin, end, walls_.shape(part), leg);
      return !met;
    });
    return met;
  }

  /// When it flies into a surface that it leaves at `from`, or runs along.
  std::optional<double> turns_into(const Met& known, double from, double to) const {
    const Piece& p = course_.piece;
    const auto into = [&](double t) { return flies_into(known, speed_against(known.wall, t)); };
    // Its speed across the surface is least at an end, or where it does not change.
    const double change = dot(known.normal, p.jerk);
    const double least = change > 0 ? p.start - dot(known.normal, p.acceleration) / change : to;
    for (const double t : {std::clamp(least, from, to), to}) {
      if (into(t)) return first_time(into, from, t);
    }
    return std::nullopt;
  }

  /// Whether it has met the surface less than a micrometre ago: how far a shape is from it then is not known
  /// well enough to say whether it comes nearer.
  bool just_met(const Met* known, double time) const {
    return known != nullptr && (time - known->time) * length(course_.piece.speed_at(time)) < 1e-6;
  }

  /// Less than a millimetre ago: what it touches in a window's first moment it may else have come to.
  bool has_just_set_off(double time, double speed) const { return (time - flight_.lately) * speed <= 1e-3; }

  bool flies_into(const Met& known, const Vec3& velocity) const {
    const double speed = length(velocity), graze = flyer_.shape != nullptr ? kGrazeOfShape : 1e-9;
    return speed > kStill && dot(known.normal, velocity) < -graze * speed;
  }

  /// When it meets a surface that it leaves at `from`: anew, or because it turns before it has let go of it.
  template <class Apart, class TouchFrom>
  std::optional<double> meets_anew(const Met* known, double from, double to, Apart&& apart,
                                   TouchFrom&& touch_from) const {
    const auto free = free_of(apart, from, to);
    if (known != nullptr) {
      const auto turned = turns_into(*known, from, free.value_or(to));
      if (turned) return turned;
    }
    if (!free) return std::nullopt;
    return touch_from(*free);
  }

  /// Whether a surface that it touches at a time is not met: one that it has met already and does not come
  /// nearer to; or one that it only touches as it sets off, and is clear of a micrometre on (a shape: a tenth
  /// of a millimetre). `gap(piece, t)` is how far it is from it, below 0 when it is known to be inside.
  template <class Gap>
  bool leaves(const Met* known, WallPartId part, double time, bool exact, Gap&& gap) const {
    const Vec3 place = course_.piece.place(time), velocity = course_.piece.speed_at(time),
               against = speed_against(part, time);
    const double speed = length(against), touching = contact_gap(course_.piece.scale(time));
    if (known != nullptr) return !flies_into(*known, against);
    if (!(speed > 0) || !has_just_set_off(time, speed) || gap(course_.piece, time) < -touching) return false;
    // A ball that cuts in by no more than a nanometre on so long a way has not come in.
    const double way = exact ? std::max(1e-6, std::sqrt(8e-9 * flyer_.radius)) : 1e-4;
    const double on = std::max(way, 100 * touching) / speed;
    return gap(Piece{time, time + on, place, velocity, {}, {}}, time + on) >
           (exact ? touching : 64 * unsure_of(flyer_));
  }

  std::optional<Touched> wall_touched(WallPartId part, double from, double to) const {
    const WallId wall = walls_.wall_of(part);
    if (!around_.arena.blocks(wall).has(Passage::shots)) return std::nullopt;
    const Met* known = remembered(part);
    if (known != nullptr && known->passing) {
      const auto free = free_of_part(part, from, to);
      if (!free) return std::nullopt;
      from = *free;
    }
    auto t = touch_part(part, from, to);
    const auto gap = [&](const Piece& piece, double time) {
      return gap_to(flyer_, piece, time, walls_.shape(part), walls_.leg(wall, time));
    };
    if (t && (*t == from || just_met(known, *t)) && leaves(known, part, *t, flyer_.shape == nullptr, gap)) {
      const auto is_apart = [&](double time) { return is_clear_of_part(part, time); };
      t = meets_anew(known, from, to, is_apart, [&](double free) { return touch_part(part, free, to); });
    }
    if (!t) return std::nullopt;
    const bool passes = lets_pass(around_.arena, wall, speed_against(part, *t), *t);
    return Touched{passes ? Touched::As::passed : Touched::As::surface, *t, {}, 0, part};
  }

  std::optional<Touched> ground_touched(double from, double to) const {
    const auto height = around_.arena.ground();
    if (!height) return std::nullopt;
    const Vec3& up = around_.arena.ground_normal();
    auto t = touch_ground(flyer_, course_.piece, from, to, up, *height);
    const auto gap = [&](const Piece& piece, double time) {
      return height_over(flyer_, piece, time, up) - *height;
    };
    const Met* known = remembered(WallPartId{});
    if (t && (*t == from || just_met(known, *t)) && leaves(known, WallPartId{}, *t, true, gap)) {
      const auto is_apart = [&](double time) {
        return gap(course_.piece, time) >
                   2 * contact_gap(std::max(largest(course_.piece.at), course_.piece.scale(time))) &&
               !touch_ground(flyer_, course_.piece, time, time, up, *height);
      };
      t = meets_anew(known, from, to, is_apart,
                     [&](double free) { return touch_ground(flyer_, course_.piece, free, to, up, *height); });
    }
    if (!t) return std::nullopt;
    return Touched{Touched::As::surface, *t, {}, 0, {}};
  }

  std::optional<Touched> body_touched(BodyId body, double from, double to) const {
    if (!around_.motions.stands(body)) return std::nullopt;
    const Relation relation = act_.relation_to(body);
    const bool stops = relation != Relation::self && act_.attack.stopped_by.has(relation);
    bool strikes = eligible(act_, body);
    const Met* known = remembered(body);
    if (strikes && known != nullptr && known->struck) {
      strikes = shot_.again_after_s.has_value();
      if (strikes && !stops) from = std::max(from, known->time + *shot_.again_after_s);
      if (strikes && stops && from < known->time + *shot_.again_after_s) strikes = false;
    }
    if ((!strikes && !stops) || !(from <= to)) return std::nullopt;
    if (known != nullptr && known->passing && !stops) {
      const auto free = let_go_of(flyer_, course_.piece, from, to, body, around_.motions);
      if (!free) return std::nullopt;
      from = *free;
    }
    const auto met =
        touch_body(flyer_, course_.piece, from, to, body, around_.motions, {course_.born, flight_.stage > 0});
    if (!met) return std::nullopt;
    Touched first{strikes ? Touched::As::struck : Touched::As::stopper, met->time, body, met->hitbox, {}};
    if (strikes && act_.attack.reach.near > 0) {
      const double travel = course_.travelled + course_.piece.length(course_.time, first.time);
      if (!far_enough(act_, travel, largest(course_.origin)))
        first.as = stops ? Touched::As::stopper : Touched::As::passed;
    }
    return first;
  }

  const Flight& flight_;
  const Surroundings& around_;
  const WallTable& walls_;
  const Course& course_;
  Act act_;
  const ShotDelivery& shot_;
  Flyer flyer_;
};

}  // namespace dardo::detail
