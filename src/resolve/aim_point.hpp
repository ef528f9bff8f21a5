#pragma once
#include <optional>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/attack.hpp"
#include "dardo/attack/launch.hpp"
#include "resolve/carriers/shot/path.hpp"
#include "resolve/moment/moment.hpp"

namespace dardo::detail {

/// Whether the attacker is still there: a place always is.
bool has_attacker(const Arena& arena, const Launch& launch);
/// Who or what attacks: a body, or a place that faces some way. They require that it is there.
Pose attacker_pose(const Moment& moment, const Launch& launch);
Vec3 attacker_center(const Moment& moment, const Launch& launch);
FactionId attacker_faction(const Arena& arena, const Launch& launch, double time);
/// To the left of where it faces; +y when it is gone.
Vec3 attacker_side(const Moment& moment, const Launch& launch);
/// Who throws what sets off at a place.
Thrower thrower_at(const Moment& moment, const Launch& launch, const Vec3& place);

/// The point a launch is aimed at, or nothing when it is aimed along a direction. Requires a checked launch.
std::optional<Vec3> aim_point(const Moment& moment, const Launch& launch);
/// The direction of a launch that starts at `origin`, one metre long; all zero when the aim point is the
/// origin.
Vec3 aim_direction(const Moment& moment, const Launch& launch, const Vec3& origin);
/// Whether that is not all zero for one that starts at its muzzle.
bool has_direction(const Moment& moment, const Launch& launch);
/// The same, from the muzzle; where that is the aim point, along the attacker's facing.
Vec3 heading_of(const Moment& moment, const Launch& launch);
/// Where it starts: its muzzle, the attacker's first muzzle, or the attacker's centre.
Vec3 muzzle_point(const Moment& moment, const Launch& launch);
/// What is wrong with a launch of an attack that has been checked; `sound`: nothing was wrong with that. One
/// that sets off later than at the time of the moment is not asked where everything is.
Problems check_launch(const Moment& moment, const Attack& attack, const Launch& launch, bool sound = true,
                      bool though_fallen = false);
/// A muzzle or the eyes of a body, by name; nothing when it has no such.
std::optional<Vec3> find_point(const Moment& moment, BodyId body, std::string_view name);
/// The first hitbox with this zone, or nothing.
std::optional<std::uint32_t> find_zone(const Arena& arena, BodyId body, std::string_view zone);

}  // namespace dardo::detail
