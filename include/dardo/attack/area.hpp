#pragma once
#include <cstdint>
#include <limits>
#include <optional>
#include <variant>
#include <vector>

#include "dardo/geometry/planar.hpp"

namespace dardo {

// What an area covers, in its frame: the middle is the origin, x points along it, z is up.

struct BallArea {
  double radius = 1;  ///< metres
  friend bool operator==(const BallArea&, const BallArea&) = default;
};
/// Between two distances from its upright axis, and two heights.
struct RingArea {
  double near = 0, far = 1, low = -1, high = 1;
  friend bool operator==(const RingArea&, const RingArea&) = default;
};
/// Between two distances from the middle.
struct ShellArea {
  double near = 0, far = 1;
  friend bool operator==(const ShellArea&, const ShellArea&) = default;
};
/// A part of a ring: within half the angle of the direction. Its sides are upright.
struct SectorArea {
  double angle = 1.5707963267948966;  ///< the full opening, radians
  double near = 0, far = 1, low = -1, high = 1;
  friend bool operator==(const SectorArea&, const SectorArea&) = default;
};
/// A part of a shell: within half the angle of the direction, all around it.
struct ConeArea {
  double angle = 1.5707963267948966;  ///< the full opening, radians
  double near = 0, far = 1;
  friend bool operator==(const ConeArea&, const ConeArea&) = default;
};
/// Around the middle.
struct BoxArea {
  Vec3 half{1, 1, 1};
  friend bool operator==(const BoxArea&, const BoxArea&) = default;
};
/// From the middle along the direction: a round bar with flat ends.
struct BeamArea {
  double length = 10, radius = 0.5;
  friend bool operator==(const BeamArea&, const BeamArea&) = default;
};
struct CapsuleArea {
  Vec3 from, to{1, 0, 0};
  double radius = 0.5;
  friend bool operator==(const CapsuleArea&, const CapsuleArea&) = default;
};
/// Over a convex polygon; upright.
struct PrismArea {
  std::vector<planar::Vec2> polygon;
  double low = -1, high = 1;
  friend bool operator==(const PrismArea&, const PrismArea&) = default;
};
/// All that lies ahead of the middle, however far.
struct HalfSpaceArea {
  friend bool operator==(const HalfSpaceArea&, const HalfSpaceArea&) = default;
};
/// The convex hull of points.
struct HullArea {
  std::vector<Vec3> points;
  friend bool operator==(const HullArea&, const HullArea&) = default;
};

using AreaShape = std::variant<BallArea, RingArea, ShellArea, SectorArea, ConeArea, BoxArea, BeamArea,
                               CapsuleArea, PrismArea, HalfSpaceArea, HullArea>;

/// Between two shapes of one kind, with as many points: each number is mixed. Requires that they are.
AreaShape between(const AreaShape& a, const AreaShape& b, double share);

/// What something hangs on: it goes and turns with a body, as that was when it began, or stays in the world.
enum class Hangs : std::uint8_t { place, attacker, target };

/// What an area has grown to by a time.
struct GrownArea {
  double time_s = 1;  ///< since it began
  AreaShape shape;    ///< of the same kind

  friend bool operator==(const GrownArea&, const GrownArea&) = default;
};

/// An area that stays for a time: it strikes whoever comes in, as soon as it is touched, and so whoever it
/// comes over as it grows or goes along.
struct Lasts {
  double for_s = 1;  ///< seconds
  /// Strikes whoever is still inside again after so long; infinity: each once.
  double every_s = std::numeric_limits<double>::infinity();
  std::optional<std::uint32_t> strikes;  ///< in all; with the last it is over
  Hangs on = Hangs::place;
  Vec3 velocity;                 ///< it goes along, m/s in its own frame
  double growth = 0;             ///< all that reaches outward grows so fast, m/s
  std::vector<GrownArea> grows;  ///< instead: what it has grown to by some times, evenly between them

  friend bool operator==(const Lasts&, const Lasts&) = default;
};

/// Everything within a shape, at one instant or for a time.
struct AreaDelivery {
  enum class Around : std::uint8_t { aim, attacker };
  enum class Along : std::uint8_t { aim, attacker, target, world };
  enum class Inside : std::uint8_t { touches, centre, whole };

  AreaShape shape = BallArea{};
  /// Where its middle is: the aim point, or the attacker's centre. As a follow-up it starts where that does.
  Around around = Around::aim;
  /// Where it points: from the attacker's centre to the aim; along the attacker's facing, or that of the body
  /// aimed at; or along the world's x. What is upright stays so, whatever the direction.
  Along along = Along::aim;
  Vec3 offset;                      ///< of the middle, along that direction, to its left and up
  Inside inside = Inside::touches;  ///< how much of a hitbox must be within
  std::optional<double> share;      ///< instead: so much of the volume of all hitboxes, above 0, at most 1
  std::optional<Lasts> lasts;       ///< stays for a time; else it is over in an instant

  friend bool operator==(const AreaDelivery&, const AreaDelivery&) = default;
};

}  // namespace dardo
