#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include "geometry/detail/ever.hpp"
#include "resolve/carriers/shot/path.hpp"
#include "resolve/rules/tolerances.hpp"

// When something that flies touches something that moves.
namespace dardo::detail {

/// What a gap is at least throughout a stretch of time, by those at both its ends: it changes no faster than
/// `speed`, and the way on which it is measured bends no more than `bend` (m/s²).
inline double never_below(double gap_from, double gap_to, double time, double speed, double bend) {
  const double way = speed * time, near = std::min(gap_from, gap_to);
  const double least = 0.5 * (gap_from + gap_to - way);
  if (!(near > 0)) return least;
  const double squared = near * near - (speed * speed + (near + 2 * way) * bend) * time * time / 4;
  return squared > 0 ? std::max(least, std::sqrt(squared)) : least;
}

/// How near a gap gets in [from, to], and when: to a ten-thousandth of it, and to `fine` unless it comes as
/// near elsewhere. `gap(t)` is how far apart they are (below 0: they overlap); speed and
/// bend are those of `never_below`. Stretches are ruled out by the gaps at both ends, which shrink no faster
/// than the way is long, and because a squared distance lies above its chord less a parabola; so are those
/// that cannot come below `known`. The rest is cut in two, the earlier half first, `most_cuts` times at most,
/// as beside a surface that it flies along; at last the least found is followed down to its end.
struct Approach {
  double gap = 0, time = 0;
};
template <class Gap>
Approach nearest_approach(Gap&& gap, double from, double to, double speed, double bend, double fine,
                          double known = std::numeric_limits<double>::infinity(), int most_cuts = 4000) {
  struct Stretch {
    double from, to, gap_from, gap_to;
  };
  std::array<Stretch, 128> open;
  std::size_t count = 0;
  const double at_from = gap(from), at_to = gap(to);
  Approach best = at_to < at_from ? Approach{at_to, to} : Approach{at_from, from};
  double around = to - from;  // the least is no farther from there
  open[count++] = {from, to, at_from, at_to};
  // Nothing is nearer than touching.
  for (int cuts = 0; count > 0 && cuts < most_cuts && best.gap > 0 && known > 0; ++cuts) {
    const Stretch s = open[--count];
    const double least = never_below(s.gap_from, s.gap_to, s.to - s.from, speed, bend);
    const double middle = 0.5 * (s.from + s.to);
    const double wanted = std::min(best.gap, known);
    if (least >= wanted - std::max(fine, kMissShare * wanted) || !(middle > s.from && middle < s.to) ||
        count + 2 > open.size())
      continue;
    const double between = gap(middle);
    if (between < best.gap) best = {between, middle}, around = 0.5 * (s.to - s.from);
    open[count++] = {middle, s.to, between, s.gap_to};
    open[count++] = {s.from, middle, s.gap_from, between};
  }
  if (!(best.gap > 0 && best.gap < known)) return best;
  for (double low = std::max(from, best.time - around), high = std::min(to, best.time + around);
       speed * (high - low) > fine && high - low > 1e-12 * high;) {
    const double third = (high - low) / 3, one = low + third, two = high - third;
    const double gap_one = gap(one), gap_two = gap(two);
    gap_one < gap_two ? high = two : low = one;
    const Approach less = gap_one < gap_two ? Approach{gap_one, one} : Approach{gap_two, two};
    if (less.gap < best.gap) best = less;
  }
  return best;
}

/// What flies: a ball around the place, or a shape that looks along its way.
struct Flyer {
  double radius = 0;
  const Shape* shape = nullptr;
  Vec3 up{0, 0, 1};       ///< a shape's left stays level
  Vec3 left{0, 1, 0};     ///< is its left when it looks straight up or down
  Vec3 heading{1, 0, 0};  ///< there it looks when it has no speed

  /// No part of it is farther from its place.
  double reach() const;
  /// How a shape is turned that looks along a way.
  Rotation turn(const Piece& way, double time) const;
  /// From its frame into the world.
  Pose pose(const Piece& piece, double time) const;
};

/// How far the flyer is from a hitbox (in its body's frame) at a time.
double gap_to(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg);

/// Gaps up to this count as contact among coordinates up to `scale`.
double contact_gap(double scale);
/// A shape that is this near touches: how far apart two shapes are is known well within it, so that grazes do
/// not hang on rounding. A share of its size; of a point or a ball 0.
double unsure_of(const Flyer& flyer);
/// The same of what meets a hull, metres; of other hitboxes 0.
double unsure_of(const Shape& hitbox);
/// The same of what flies by a law that is integrated, metres: where it is hangs on its steps; else 0.
double unsure_of(const Piece& piece);

/// First contact in [from, to] with a hitbox of a body on one leg. Both must be known for the whole time.
/// Closed forms for balls, capsules and (of a point) boxes, cylinders and cones on straight ways without a
/// turn. Else conservative advancement by separating planes (Mirtich, 1996): a plane between the two is
/// carried along with the hitbox, and is passed no sooner than the way across it, an exact cubic, says; of
/// what turns, no sooner than the bounds of its turning let. Never later than the true contact, and earlier
/// by no more than a gap of `contact_gap` (or `unsure_of`) takes to close: on a graze of radius r,
/// sqrt(2 r gap) of way. After 64 rounds the least step grows from 1e-11 m by a tenth a round: a touch that
/// is over within such a step may be passed.
std::optional<double> touch_hitbox(const Flyer& flyer, const Piece& piece, double from, double to,
                                   const Shape& hitbox, const Leg& leg);
/// How high the flyer's lowest point is along `up` (one metre long).
double height_over(const Flyer& flyer, const Piece& piece, double time, const Vec3& up);
/// First contact in [from, to] with all that lies below `height` along `up` (one metre long).
std::optional<double> touch_ground(const Flyer& flyer, const Piece& piece, double from, double to,
                                   const Vec3& up, double height);
/// First contact in [from, to] with a ball of this radius around what flies on another piece.
std::optional<double> touch_shot(const Flyer& flyer, const Piece& piece, const Piece& other, double radius,
                                 double from, double to);
/// How near the flyer comes to it in that time. A ball on a straight way at balls and capsules that do not
/// turn: to rounding. Else to a ten-thousandth of that, and to 1e-7 m unless it comes as near elsewhere; not
/// looked into where it cannot be below `known`.
Approach approach_hitbox(const Flyer& flyer, const Piece& piece, double from, double to, const Shape& hitbox,
                         const Leg& leg, double known);
/// The normal of the hitbox where the flyer touches it, in the world, the point, and how far that is from the
/// middle of a ball (of a shape 0).
Contact contact_at(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg);

/// The first time at which something does not touch any more what it touches at `from`, at no more than
/// `speed`; nothing when it touches it up to `to`. `apart(t)` says whether it does not. What is apart for
/// less than a sixteenth of the time since `from` may be passed over, beyond the first millimetre.
template <class Apart>
std::optional<double> let_go(Apart&& apart, double from, double to, double speed) {
  if (apart(from)) return from;
  if (!(speed > 0)) return std::nullopt;
  const double fine = 1e-3 / speed;
  double last = from, step = 1e-7 / speed;
  for (;;) {
    const double next = std::min(to, last + step);
    if (!(next > last)) return std::nullopt;
    if (apart(next)) return first_time(apart, last, next);
    last = next;
    step = last - from < fine ? 2 * step : (last - from) / 16;
  }
}

/// Whether it has let go of a hitbox: by far more than the gap that counts as contact, so that what runs
/// along at just that gap does not touch and let go by turns.
bool is_clear_of(const Flyer& flyer, const Piece& piece, double time, const Shape& hitbox, const Leg& leg);

/// First contact in [from, to] with any hitbox of a body, on all its legs: of those touched in one instant
/// the first of its build.
struct BodyTouch {
  double time = 0;
  std::uint32_t hitbox = 0;
};
std::optional<BodyTouch> touch_body(const Flyer& flyer, const Piece& piece, double from, double to,
                                    BodyId body, const Motions& motions);
/// The same of a flight: where something else led to it, at `born`, it touches what it starts within
/// `kPlaceKnown` of.
struct Birth {
  double time = 0;
  bool follows = false;
};
std::optional<BodyTouch> touch_body(const Flyer& flyer, const Piece& piece, double from, double to,
                                    BodyId body, const Motions& motions, const Birth& birth);
/// When none of its hitboxes is touched any more; nothing when one is up to `to`.
std::optional<double> let_go_of(const Flyer& flyer, const Piece& piece, double from, double to, BodyId body,
                                const Motions& motions);

/// The leg of what never moves.
inline Leg standing() { return {-kEver, kEver, {}, {}, {0, 0, 1}, 0}; }

}  // namespace dardo::detail
