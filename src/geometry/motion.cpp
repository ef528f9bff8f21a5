#include "dardo/geometry/motion.hpp"

#include <algorithm>

#include "geometry/detail/convex.hpp"

namespace dardo {
namespace {

using detail::Apart;
using detail::Convex;

using detail::reach_from;

}  // namespace

Pose Motion::at(double part) const {
  const Rotation turn = Rotation::about(axis, angle * part);
  return {pivot + travel * part - turn * pivot, turn};
}

std::optional<TurnedContact> sweep(const Shape& moving, const Motion& motion, const Shape& rest) {
  constexpr int kMostRounds = 1000;
  const Convex a(moving), b(rest);
  const Vec3 turning = motion.axis * motion.angle;
  // What a point strays from its tangent is at most this times the square of the part.
  const double straying = 0.5 * motion.angle * motion.angle * reach_from(moving, motion.pivot);
  double part = 0;
  Vec3 last_normal;
  for (int round = 0; round < kMostRounds; ++round) {
    const Pose pose = motion.at(part);
    const Apart apart = detail::nearest_points(a, pose, b);
    if (apart.distance == 0) return TurnedContact{part, apart.on_b, last_normal};
    last_normal = -apart.direction;
    const Vec3 n = apart.plane, sideways = cross(n, turning), pivot = motion.pivot + motion.travel * part;
    const double wall = dot(b.farthest(-n), n) - b.margin();
    // How far the shape may have passed the plane after a further part: convex in it, below 0 at first.
    const auto passed = [&](double more) {
      const Vec3 look = n + sideways * more;
      const Vec3 far = pose * a.farthest(into(pose.turn, look));
      return dot(far - pivot, look) + dot(pivot, n) + a.margin() * length(look) +
             more * dot(motion.travel, n) + straying * more * more - wall;
    };
    double safe = 0, value = passed(0);
    const double left = 1 - part, at_end = passed(left);
    if (value < 0 && at_end < 0) {
      return std::nullopt;
    }
    // Every chord of a convex function crosses 0 before it does.
    double unsafe = left, beyond = at_end;
    for (int i = 0; i < 40 && value < 0; ++i) {
      const double chord = safe + (unsafe - safe) * (value / (value - beyond));
      const double half = 0.5 * (safe + unsafe);
      const double at_chord = passed(chord), at_half = passed(half);
      if (at_chord < 0 && chord > safe) safe = chord, value = at_chord;
      if (at_half < 0 && half > safe) safe = half, value = at_half;
      if (at_half >= 0) unsafe = half, beyond = at_half;
      if (!(unsafe - safe > 1e-3 * safe)) break;
    }
    if (!(safe > 0) || !(part + safe > part)) return TurnedContact{part, apart.on_b, last_normal};
    part = std::min(1.0, part + safe);
  }
  const Apart apart = detail::nearest_points(a, motion.at(part), b);
  return TurnedContact{part, apart.on_b, last_normal};
}

}  // namespace dardo
