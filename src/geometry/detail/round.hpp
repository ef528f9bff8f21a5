#pragma once
#include <algorithm>
#include <optional>

#include "dardo/geometry/ray.hpp"
#include "geometry/detail/tolerance.hpp"

// Cylinders and cones as lines meet them.
namespace dardo::detail {

/// Round about an axis: at height h over `from`, from 0 to `height`, it is `radius + slope h` wide.
struct Round {
  Vec3 from, axis;
  double height = 0, radius = 0, slope = 0;
};

/// Where a line enters and leaves it, as parameters along the line, and the normal of the face by which it
/// enters. Where it passes by, as far as rounding lets tell, both are where it comes nearest.
struct RoundSpan {
  double enter = 0, leave = 0;
  Vec3 normal;
  bool passes = false;
};
/// The quadric of its side, cut by its ends; solved around the point of the line nearest to its middle or
/// tip, so that a far start costs no digits. `touching` is the gap that still counts as contact.
RoundSpan span_in(const Round& round, const Ray& line, double touching);

/// First contact of a line with a solid that is round so: closed, as the public `ray` says.
template <class Solid>
std::optional<Contact> ray_to_round(const Solid& solid, const Round& round, const Ray& line) {
  const Vec3 end = round.from + round.axis * round.height;
  const double scale = std::max({largest(line.from), largest(round.from), largest(end), round.height,
                                 round.radius + round.slope * round.height});
  const double touching = slack(scale);
  if (nearest(solid, line.from).distance <= touching) return Contact{0, line.from, -line.direction};
  const RoundSpan span = span_in(round, line, touching);
  if (span.passes && nearest(solid, line.at(span.enter)).distance > touching) return std::nullopt;
  if (span.enter < 0 || span.enter > line.length + touching) return std::nullopt;
  const double t = std::min(span.enter, line.length);
  return Contact{t, line.at(t), span.normal};
}

}  // namespace dardo::detail
