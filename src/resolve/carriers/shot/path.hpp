#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <limits>
#include <optional>

#include "dardo/attack/attack.hpp"
#include "resolve/moment/motions.hpp"

// How a shot flies while nothing is in its way.
namespace dardo::detail {

/// A stretch of the way: a cubic in time, exact for straight and falling paths.
struct Piece {
  double start = 0, end = 0;
  Vec3 at, velocity, acceleration, jerk;  ///< at the start
  double pace = 0;  ///< the speed that its law keeps, which the cubic has but nearly; 0: none

  Vec3 place(double time) const {
    const double s = time - start;
    return at + (velocity + (acceleration * 0.5 + jerk * (s / 6)) * s) * s;
  }
  Vec3 speed_at(double time) const {
    const double s = time - start;
    return velocity + (acceleration + jerk * (s * 0.5)) * s;
  }
  /// The numbers that its place at a time is made of are no larger: a time late on the clock is known to
  /// fewer digits, and what is fast is then known less well, too.
  double scale(double time) const {
    return std::max(largest(place(time)), dardo::length(speed_at(time)) * std::fabs(time));
  }
  /// The same stretch from one time to another.
  Piece part(double from, double to) const {
    return {from, to, place(from), speed_at(from), acceleration + jerk * (from - start), jerk, pace};
  }
  bool straight() const { return acceleration == Vec3{} && jerk == Vec3{}; }
  /// No point of the stretch between two times is faster or bends more.
  double most_speed(double from, double to) const;
  double most_acceleration(double from, double to) const;
  /// A box around the stretch between two times.
  Bounds bounds(double from, double to) const;
  /// Its length between two times, to 1e-9 of itself.
  double length(double from, double to) const;
  /// When it is first slower than this between two times.
  std::optional<double> first_slower(double speed, double from, double to) const;
};

/// The first time in (from, to] from which on `holds` does, when it does not at `from` but at `to`.
template <class Holds>
double first_time(Holds&& holds, double from, double to) {
  for (int i = 0; i < 80 && from < to; ++i) {
    const double middle = 0.5 * (from + to);
    if (!(middle > from && middle < to)) break;
    (holds(middle) ? to : from) = middle;
  }
  return to;
}

/// Where a flight stands, and what its law remembers: plain data.
struct Course {
  double time = 0;  ///< everything is known up to here
  double travelled = 0;
  double laid = -1, laid_at = 0;  ///< when its piece began, and how far it had travelled by then
  Piece piece;                    ///< holds `time`, or ends there
  double born = 0;
  Vec3 origin;
  Vec3 aim;              ///< where it is thrown at; of a curve: the turning point
  Vec3 turned_at;        ///< of a curve: where the way back began
  Vec3 heading;          ///< one metre long: where it set off to, or was turned to; for when it has no speed
  Vec3 home;             ///< of a curve: where its thrower was last
  Vec3 left;             ///< level, one metre long: to its left when it flies straight up or down
  double parameter = 0;  ///< of a curve: 0 to 1 along the part
  std::uint32_t part = 0;  ///< of a curve through points: which of its parts
  double arrives = 0;      ///< of a lob: when
  double drop = 0;         ///< of a lob: gravity, m/s²
  double target_lost = std::numeric_limits<double>::infinity();  ///< from then on it flies on
  std::uint32_t looks = 0;  ///< how often a guided shot has looked whether it sees its target
  BodyId target;
  BodyId thrower;
  BodyId stood;      ///< the piece is a step of a law that took this body to stand where it stood
  Vec3 stood_at;     ///< there its middle was
  double speed = 0;  ///< of this shot, with its variation and what walls have taken
  double step = 0;   ///< what its law's next step may be long, by the error of the last; 0: nothing is known
  bool coming_back = false, climbed = false;
  bool free = false;    ///< off its course after a rebound
  bool rising = false;  ///< it has risen since it set off or was turned, by more than rounding

  Vec3 place() const { return piece.place(time); }
  Vec3 velocity() const { return piece.speed_at(time); }
};

/// The level direction to the left of a way, one metre long; of one straight up or down: `otherwise`.
Vec3 to_the_left(const Vec3& way, const Vec3& up, const Vec3& otherwise);
/// Who throws.
struct Thrower {
  BodyId body;  ///< empty: nobody, from a place
  Vec3 side;    ///< to the left of where it faces, as it does when it throws
  Vec3 center;  ///< then
};
/// The same of what is thrown: straight up or down it is to the left of how the thrower faces.
Vec3 left_of_throw(const Vec3& up, const Vec3& side, const Vec3& way);

/// What happens at the end of a piece by the law alone.
enum class Milestone : std::uint8_t { none, turned, returned, arrived, stopped };

/// Sets off: from a place along a direction (one metre long), at the course's speed and time.
void set_off(Course& course, const ShotPath& path, const Vec3& from, const Vec3& direction, const Thrower& by,
             const Motions& motions);

/// Makes the next piece, which starts at the course's time. Called when the last one is used up.
Milestone next_piece(Course& course, const ShotPath& path, const Motions& motions);

/// Whether the rest of its piece relies on a body standing that does not stand there any more.
bool is_outdated(const Course& course, const Motions& motions);

/// Off its course at a time: from now on it flies on from `velocity` as its kind does when nothing guides it.
void deflect(Course& course, const Vec3& velocity);

/// What is to be known of a kind of path besides how it flies.
struct Law {
  using Lost = GuidedPath::Lost;

  double speed = 0;             ///< as it states it, m/s; 0 of what is thrown to arrive, whose arc says it
  double gravity = 0;           ///< share of the arena's that draws on it once nothing guides it
  bool keeps_speed = false;     ///< it is always as fast as its course says
  bool knows_target = false;    ///< its course keeps whom it is thrown at
  bool follows_target = false;  ///< it goes where its target goes
  bool has_done_with = false;   ///< a target that it has struck
  bool needs_sight = false;     ///< of its target
  bool needs_gravity = false;
  bool may_be_led = false, may_be_lobbed = false;  ///< by an aim of the launch
  bool strikes_again = false;                      ///< on its way back
  Lost lost = Lost::fly_on;
};
Law law_of(const ShotPath& path);

/// How it flies at its time: of what keeps its speed exactly as fast, where its cubic is only nearly so.
Vec3 velocity_by_law(const Course& course, const Law& law);

}  // namespace dardo::detail
