#pragma once
#include <optional>

#include "dardo/geometry/shape.hpp"

namespace dardo {

/// A straight way with a steady turn: after the part s of it a point p has come to
/// pivot + travel * s + turn by (angle * s) about the axis, of (p - pivot).
struct Motion {
  Vec3 travel;         ///< metres
  Vec3 axis{0, 0, 1};  ///< one metre long
  double angle = 0;    ///< radians, anticlockwise about the axis; any number of turns
  Vec3 pivot;

  /// Where the motion has brought the world's frame after a part of it.
  Pose at(double part) const;
};

/// When a shape that moves and turns first touches one at rest.
struct TurnedContact {
  double part = 0;  ///< of the motion, 0 to 1
  Vec3 point;       ///< of `rest`
  Vec3 normal;      ///< of `rest`, outward; all zero for shapes that touch at the start
};

/// Conservative advancement (Mirtich 1996), with the turning bounded to second order: over a stretch of angle
/// a, no point within r of the axis strays from its tangent by more than r a² / 2. The contact is never later
/// than the true one; the gap that is left is within 1e-7 m at the size of people, or, after 1,000 rounds,
/// what it then is. For two that move, give the travel of one as seen from the other.
std::optional<TurnedContact> sweep(const Shape& moving, const Motion& motion, const Shape& rest);

}  // namespace dardo
