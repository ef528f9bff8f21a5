#pragma once
#include <vector>

#include "resolve/carriers/lasting/lasting.hpp"

// Where a dash takes its body.
namespace dardo::detail {

/// What touches a wall by less than this is not in its way, metres: bodies stand on floors, and by walls.
inline constexpr double kSkin = 1e-3;
/// It is stopped where its hitboxes, less that, come so near.
inline constexpr double kStoppedAt = kSkin / 2;

/// The hitboxes of a body that are there at a time, less the skin, in its frame.
std::vector<Shape> cores_of(const Arena& arena, BodyId body, double state_time);

struct DashWay {
  Reason reason = Reason::none;  ///< or why it does not begin
  Blocker by;
  Vec3 to;                ///< where its body's origin lands, or would
  double away = 0;        ///< how far that is from where it began
  Vec3 ahead{1, 0, 0};    ///< to there, one metre long
  std::vector<Leg> legs;  ///< from where it begins on; the last stands where it lands, without an end
};
/// Requires an attacker that is there, and a target if it goes beside one.
DashWay dash_way(const Act& act, const Moment& moment, BodyId target);

}  // namespace dardo::detail
