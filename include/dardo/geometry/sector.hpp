#pragma once
#include <array>
#include <numbers>
#include <optional>

#include "dardo/geometry/shape.hpp"

namespace dardo {

/// Heights above a sector's apex, along its `up`, metres; both belong to it.
struct Band {
  double low = 0, high = 0;

  friend bool operator==(const Band&, const Band&) = default;
};

/// What opens from a point: all that lies between two distances from the apex and within half the angle of
/// the axis, each limit included. Without a band it is part of a ball. With one it is upright: distance and
/// angle are measured across `up`, and the band says from which height to which. An angle of a whole turn has
/// no sides; then a band makes a ring, and none makes a shell. A `near` above 0 or an angle above half a turn
/// makes it concave: it is what an attack covers, not a hitbox.
struct Sector {
  Vec3 apex;
  Vec3 axis{1, 0, 0};                   ///< one metre long; with a band, at a right angle to `up`
  double angle = 2 * std::numbers::pi;  ///< the full opening, radians, 0 to a whole turn
  double near = 0, far = 1;             ///< metres
  std::optional<Band> band;
  Vec3 up{0, 0, 1};  ///< one metre long

  friend bool operator==(const Sector&, const Sector&) = default;
};

/// Between two distances from an upright axis, from `low` to `high` over the centre; flat when they are
/// equal.
Sector ring(const Vec3& center, double near, double far, double low, double high);
/// Between two distances from a point.
Sector shell(const Vec3& center, double near, double far);

/// Nearest point of the sector to `place`; closed form.
Nearest nearest(const Sector& sector, const Vec3& place);
bool contains(const Sector& sector, const Vec3& place);
/// Tight axis-aligned bounds.
Bounds bounds(const Sector& sector);
Sector placed(const Sector& sector, const Pose& pose);
/// Everything that is wrong with it.
Problems check(const Sector& sector);

/// The stretches of a ray that lie in a sector, in order; a stretch of one point where it only touches.
struct Crossings {
  std::array<Crossing, 9> stretch{};
  std::size_t count = 0;

  const Crossing* begin() const { return stretch.data(); }
  const Crossing* end() const { return stretch.data() + count; }
};
/// Closed form: the roots of the surfaces that bound it.
Crossings crossings(const Sector& sector, const Ray& ray);
/// First contact of a ray; a ray that starts inside touches at 0, its normal against the ray.
std::optional<Contact> ray(const Sector& sector, const Ray& ray);

/// Nearest points of a convex shape and a sector, as `closest` of two shapes. The sector is cut into convex
/// parts, finer where it matters, until the distance is known to 1e-8 of the scale, or 600 parts were looked
/// at: then, only for shapes that lie around the same middle as a hole, it is too large by at most 1e-4 of
/// the near radius.
Closest closest(const Shape& shape, const Sector& sector);
bool overlaps(const Shape& shape, const Sector& sector);
/// First contact of a shape that moves by `travel` without turning. Never later than the true contact; the
/// gap left is within 1e-7 of the scale.
std::optional<Contact> sweep(const Shape& moving, const Vec3& travel, const Sector& rest);

}  // namespace dardo
