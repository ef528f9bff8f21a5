#pragma once
#include <optional>

#include "dardo/geometry/half_space.hpp"
#include "dardo/geometry/shape.hpp"

// What of a shape is seen past another one, and how much lies to one side of a plane: closed forms, for those
// shapes that have one. `flat`: of what lies in the plane z = 0, where all that is told stands upright.
namespace dardo::detail {

/// What one shape hides of another from an eye.
struct Shadow {
  enum class Kind {
    none,     ///< nothing
    whole,    ///< all
    cut,      ///< what lies in the half-space
    unknown,  ///< told by no single plane
  };
  Kind kind = Kind::unknown;
  HalfSpace dark;
};
/// Of a convex caster with at most 32 corners: the planes through the eye and two of its corners with all
/// others on one side bound its shadow, which begins before the target when a plane parts the two with the
/// eye on the caster's side.
Shadow shadow_on(const Shape& caster, const Vec3& eye, const Shape& target, bool flat);

/// The share of a shape's volume (flat: area) that lies in a half-space: of all shapes when that is nothing
/// or all; else of a ball, and of a cylinder by a plane along its axis, by the cap and the segment that a
/// plane cuts off.
std::optional<double> share_in(const HalfSpace& space, const Shape& shape, bool flat, double scale = 0);

/// Of balls, capsules, boxes, cylinders and cones.
std::optional<double> volume_of(const Shape& shape, bool flat);

}  // namespace dardo::detail
