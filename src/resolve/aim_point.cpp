#include "resolve/aim_point.hpp"

#include <algorithm>

namespace dardo::detail {

std::optional<std::uint32_t> find_zone(const Arena& arena, BodyId body, std::string_view zone) {
  const auto& hitboxes = arena.build(arena.body(body).build).hitboxes;
  for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
    if (hitboxes[i].zone == zone) return i;
  }
  return std::nullopt;
}

bool has_attacker(const Arena& arena, const Launch& launch) {
  return launch.from.has_value() || arena.has(launch.by);
}

Pose attacker_pose(const Moment& moment, const Launch& launch) {
  return launch.from ? launch.from->pose : moment.pose(launch.by);
}

Vec3 attacker_center(const Moment& moment, const Launch& launch) {
  return launch.from ? launch.from->pose.at : moment.center(launch.by);
}

FactionId attacker_faction(const Arena& arena, const Launch& launch, double time) {
  return launch.from ? launch.from->faction : arena.faction_at(launch.by, time);
}

Vec3 attacker_side(const Moment& moment, const Launch& launch) {
  return has_attacker(moment.arena(), launch) ? attacker_pose(moment, launch).turn.y : Vec3{0, 1, 0};
}

Thrower thrower_at(const Moment& moment, const Launch& launch, const Vec3& place) {
  const bool there = has_attacker(moment.arena(), launch);
  return {launch.by, attacker_side(moment, launch), there ? attacker_center(moment, launch) : place};
}

/// A muzzle may be called "eyes", too: then it is meant.
std::optional<Vec3> find_point(const Moment& moment, BodyId body, std::string_view name) {
  if (const auto muzzle = moment.muzzle(body, name)) return muzzle;
  return name == "eyes" ? std::optional(moment.eyes(body)) : std::nullopt;
}

std::optional<Vec3> aim_point(const Moment& moment, const Launch& launch) {
  if (const auto* place = std::get_if<AtPlace>(&launch.toward)) return place->place;
  if (const auto* at = std::get_if<AtBody>(&launch.toward)) {
    if (!at->point.empty()) return find_point(moment, at->body, at->point);
    if (at->zone.empty()) return moment.center(at->body);
    return moment.body(at->body).center(*find_zone(moment.arena(), at->body, at->zone));
  }
  return std::nullopt;
}

namespace {

/// From a place to where a launch is aimed, or along its direction, of any length.
Vec3 way_to_aim(const Moment& moment, const Launch& launch, const Vec3& origin) {
  if (const auto* along = std::get_if<AlongDirection>(&launch.toward)) return along->direction;
  if (const auto point = aim_point(moment, launch)) return *point - origin;
  return attacker_pose(moment, launch).turn.x;
}

}  // namespace

Vec3 aim_direction(const Moment& moment, const Launch& launch, const Vec3& origin) {
  const Vec3 way = way_to_aim(moment, launch, origin);
  const double size = largest(way);
  return size > 0 ? normalized(way / size) : Vec3{};  // scaled first: no overflow, whatever its length
}

bool has_direction(const Moment& moment, const Launch& launch) {
  return largest(way_to_aim(moment, launch, muzzle_point(moment, launch))) > 0;
}

Vec3 heading_of(const Moment& moment, const Launch& launch) {
  const Vec3 way = aim_direction(moment, launch, muzzle_point(moment, launch));
  return way == Vec3{} ? attacker_pose(moment, launch).turn.x : way;
}

Vec3 muzzle_point(const Moment& moment, const Launch& launch) {
  if (launch.muzzle_at) return *launch.muzzle_at;
  if (launch.from) return launch.from->pose.at;
  const auto& muzzles = moment.arena().build(moment.arena().body(launch.by).build).muzzles;
  if (launch.muzzle.empty() && muzzles.empty()) return moment.center(launch.by);
  return *moment.muzzle(launch.by, launch.muzzle.empty() ? muzzles.front().name : launch.muzzle);
}

}  // namespace dardo::detail
