#pragma once
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "dardo/geometry/shape.hpp"

namespace dardo {

/// Straight ahead, at a steady speed or gaining (or losing) some.
struct StraightPath {
  double speed = 30;        ///< m/s
  double acceleration = 0;  ///< m/s²; below 0 it slows down
  double top_speed = std::numeric_limits<double>::infinity();

  friend bool operator==(const StraightPath&, const StraightPath&) = default;
};

/// Under the arena's gravity.
struct FallingPath {
  double speed = 20;   ///< at the muzzle, m/s
  double gravity = 1;  ///< share of the arena's
  double drag = 0;     ///< loses drag * speed² of speed a second; 1/m

  friend bool operator==(const FallingPath&, const FallingPath&) = default;
};

/// Out to the aim point along a Bézier curve, and back to wherever the thrower is by then. The curve's two
/// inner points lie at a third and two thirds of the way, aside; on the way back on the other side.
struct CurvePath {
  double speed = 15;  ///< along the curve, m/s
  double side = 0;    ///< of the inner points, metres to the left
  double rise = 0;    ///< metres up
  /// Instead of these two, on the way out: points that it goes through, one after the other, before the aim
  /// point. In the frame of the throw: x along it, y to its left, z at a right angle to both; metres.
  std::vector<Vec3> through;
  bool returns = true;        ///< or ends at the aim point
  bool strikes_again = true;  ///< on the way back, whom it struck on the way out

  friend bool operator==(const CurvePath&, const CurvePath&) = default;
};

/// Turns toward its target.
struct GuidedPath {
  enum class Lost : std::uint8_t { fly_on, pick_anew, end };

  double speed = 20;         ///< steady, m/s
  double turn_rate = 2;      ///< at most, radians a second
  double delay_s = 0;        ///< flies straight on for so long
  double climb = 0;          ///< rises by so much before it seeks, metres
  bool lead = false;         ///< aims where the target will be, not where it is
  bool needs_sight = false;  ///< loses a target that a wall hides, looked at 20 times a second
  Lost lost = Lost::fly_on;  ///< what it does when the target falls or is lost

  friend bool operator==(const GuidedPath&, const GuidedPath&) = default;
};

/// Thrown so as to arrive: after a given time, or over a given height.
struct LobPath {
  std::optional<double> flight_time_s;  ///< exactly one of the two
  std::optional<double> apex;           ///< above the higher of start and target, metres
  bool follows = false;  ///< its arc's end stays on a moving target; else thrown where it will be

  friend bool operator==(const LobPath&, const LobPath&) = default;
};

using ShotPath = std::variant<StraightPath, FallingPath, CurvePath, GuidedPath, LobPath>;

/// What a shot goes through.
struct Pierce {
  std::uint32_t bodies = 1;   ///< how many it strikes at most, the last included
  std::vector<double> power;  ///< factor for the first, second, ... body; 1 for the first without it
  double power_ratio = 1;     ///< after the list each body gets this share of what the one before got
  std::vector<std::string> materials;  ///< walls of these, up to `thickness` of way through them
  double thickness = 0;                ///< metres
  double speed_loss = 0;               ///< m/s for each metre of wall
  double power_loss = 0;               ///< share of the power for each metre of wall

  /// The factor for the body with this number in the order of strikes, from 0.
  double power_of(std::uint32_t order) const;

  friend bool operator==(const Pierce&, const Pierce&) = default;
};

/// What a shot rebounds from.
struct Ricochet {
  std::uint32_t count = 0;             ///< how often it turns; the contact after the last ends it
  double restitution = 1;              ///< share of the speed along the normal that is kept
  double friction = 0;                 ///< share of the speed along the surface that is lost
  double jitter = 0;                   ///< how far the new direction may be off, radians
  double least_speed = 0;              ///< ends when it would leave more slowly, m/s
  std::vector<std::string> materials;  ///< of these walls only; empty: of all

  friend bool operator==(const Ricochet&, const Ricochet&) = default;
};

/// Several shots of one launch.
struct Volley {
  /// How directions spread around the aim, by `angle`: evenly in a cone of that half angle; normally with
  /// that standard deviation; fixed, side by side over that whole angle; fixed, around the aim at that half
  /// angle.
  /// Or each toward another of the bodies within its reach that it may strike, but for the one that it
  /// follows from: the first by its order, and no more than there are.
  enum class Spread : std::uint8_t { none, cone, gauss, fan, ring, bodies };

  std::uint32_t count = 1;
  double gap_s = 0;  ///< between one and the next
  Spread spread = Spread::none;
  double angle = 0;            ///< radians
  double speed_variation = 0;  ///< share of the speed by which each may be faster or slower

  friend bool operator==(const Volley&, const Volley&) = default;
};

/// Something that flies. Its contacts are found on its whole way, never by looking at single moments.
struct ShotDelivery {
  ShotPath path;
  double radius = 0;           ///< metres; 0: a point
  std::optional<Shape> shape;  ///< instead of the radius, in the shot's own frame: x ahead, z up
  double life_s = 10;          ///< infinity: only its reach ends it
  double least_speed = 0;      ///< ends when slower, m/s
  Pierce pierce;
  Ricochet ricochet;
  Volley volley;
  std::optional<double> again_after_s;  ///< strikes a body that it still touches again after so long
  bool sticks = false;  ///< stays in what would end it, and is carried along, until its lifetime is over
  /// Aiming with a lead, and what is thrown to arrive, knows the target's whole track; else its place,
  /// velocity and turn rate when it sets off.
  bool foreseen = false;
  double vulnerable =
      0;  ///< what strikes within so far of its centre shoots it down, metres; 0: nothing does

  friend bool operator==(const ShotDelivery&, const ShotDelivery&) = default;
};

}  // namespace dardo
