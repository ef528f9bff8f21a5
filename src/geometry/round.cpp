#include "geometry/detail/round.hpp"
#include "geometry/detail/ever.hpp"

#include <cmath>

namespace dardo::detail {
namespace {

/// A line seen from the axis: at parameter t it is `aside + across t` off it, at the height `up + lean t`.
struct Seen {
  Vec3 aside, across;
  double up = 0, lean = 0;
};

/// Where the line is within the side, however high that goes on.
RoundSpan within_side(const Round& round, const Seen& seen) {
  const double k = round.slope, wide = round.radius + k * seen.up, widens = k * seen.lean;
  const double a = dot(seen.across, seen.across) - widens * widens,
               half_b = dot(seen.aside, seen.across) - wide * widens,
               c = dot(seen.aside, seen.aside) - wide * wide;
  // Beside a cone's tip it comes nearest where it is nearest to the tip.
  const auto by = [&] {
    const double t = k > 0   ? -dot(seen.aside, seen.across) - (round.radius / k + seen.up) * seen.lean
                     : a > 0 ? -half_b / a
                             : 0;
    return RoundSpan{t, t, {}, true};
  };
  if (k == 0 && a <= 0) return c <= 0 ? RoundSpan{-kEver, kEver, {}, false} : by();
  double root2 = half_b * half_b - a * c;
  if (k == 0) {
    const Vec3 nearest = seen.aside - seen.across * (half_b / a);
    root2 = a * (wide * wide - dot(nearest, nearest));
  }
  if (a > 0) {
    const double middle = -half_b / a;
    const bool above = wide + widens * middle >= 0;
    if (root2 < 0) return above ? RoundSpan{middle, middle, {}, true} : by();
    const double q = -(half_b + std::copysign(std::sqrt(root2), half_b)), one = q / a,
                 other = q != 0 ? c / q : one;
    return above ? RoundSpan{std::min(one, other), std::max(one, other), {}, false} : by();
  }
  // A line at least as steep as the side goes on within it for ever; what it meets of it below the tip is
  // none of the cone.
  if (a == 0) {
    const double t = half_b != 0 ? -c / (2 * half_b) : 0;
    if (half_b == 0 || (half_b < 0) != (widens > 0)) return by();
    return widens > 0 ? RoundSpan{t, kEver, {}, false} : RoundSpan{-kEver, t, {}, false};
  }
  const double q = -(half_b + std::copysign(std::sqrt(std::max(0.0, root2)), half_b)), one = q / a,
               other = q != 0 ? c / q : one;
  return widens > 0 ? RoundSpan{std::max(one, other), kEver, {}, false}
                    : RoundSpan{-kEver, std::min(one, other), {}, false};
}

}  // namespace

RoundSpan span_in(const Round& round, const Ray& line, double touching) {
  // Seen from where the line is nearest to the tip of a cone, where two roots may be one.
  const double k = round.slope;
  const Vec3 middle = round.from + round.axis * (k > 0 ? -round.radius / k : 0.5 * round.height);
  const double shift = dot(middle - line.from, line.direction);
  const Vec3 out = line.at(shift) - round.from;
  Seen seen{{}, {}, dot(out, round.axis), dot(line.direction, round.axis)};
  seen.aside = out - round.axis * seen.up, seen.across = line.direction - round.axis * seen.lean;
  RoundSpan span = within_side(round, seen);
  // Between its ends, as far as rounding lets tell; where it enters by one, that end itself says.
  double first = -kEver, last = kEver, face = -kEver;
  if (seen.lean != 0) {
    const double low = -seen.up / seen.lean, high = (round.height - seen.up) / seen.lean,
                 unsure = touching / std::fabs(seen.lean);
    face = std::min(low, high), first = face - unsure, last = std::max(low, high) + unsure;
  } else if (seen.up < -touching || seen.up > round.height + touching) {
    span.passes = true;
  }
  const bool by_side = span.enter >= first;
  span.leave = std::min(span.leave, last);
  if (!by_side) span.enter = std::min(face, span.leave);
  if (std::max(span.enter, first) > span.leave)
    span.passes = true, span.enter = span.leave = 0.5 * (std::max(span.enter, first) + span.leave);
  const Vec3 aside = seen.aside + seen.across * span.enter;
  const double away = length(aside);
  if (!by_side) {
    span.normal = round.axis * (seen.lean > 0 ? -1.0 : 1.0);
  } else if (away > 0) {
    span.normal = normalized(aside / away - round.axis * k);
  } else {
    span.normal = -line.direction;
  }
  // A tip, an edge or a line has no normal of its own.
  if (dot(span.normal, line.direction) > 0) span.normal = -line.direction;
  span.enter += shift, span.leave += shift;
  return span;
}

}  // namespace dardo::detail
