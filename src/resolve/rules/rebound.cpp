#include "resolve/rules/rebound.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "resolve/rules/chance.hpp"

namespace dardo::detail {

Vec3 Corner::turned(const Vec3& velocity, const Ricochet& r) const {
  Vec3 out = velocity;
  for (std::size_t round = 0; round < kCornerSides; ++round) {
    const auto side = into_any(out);
    if (!side) return out;
    const Vec3 &into = normals[*side], &moves = velocities[*side], seen = out - moves;
    const double inward = dot(seen, into);
    out = (seen - into * inward) * (1 - r.friction) - into * (inward * r.restitution) + moves;
  }
  return into_any(out) ? velocity * -r.restitution : out;
}

std::optional<std::size_t> Corner::into_any(const Vec3& velocity) const {
  for (std::size_t i = 0; i < count; ++i) {
    const Vec3 seen = velocity - velocities[i];
    if (dot(seen, normals[i]) < -graze * length(seen)) return i;
  }
  return std::nullopt;
}

Vec3 jittered(const Corner& corner, const Vec3& out, const Vec3& left, bool flat, const Ricochet& r,
              std::uint64_t seed, std::uint64_t key, std::uint32_t turn) {
  const double size = length(out);
  if (!(r.jitter > 0) || !(size > 0)) return out;
  const double how = chance(seed, key, Draw::jitter, 2 * turn),
               around = 2 * std::numbers::pi * chance(seed, key, Draw::jitter, 2 * turn + 1);
  const Vec3 off = flat ? turned_aside(out / size, left, r.jitter * (2 * how - 1))
                        : turned_aside(out / size, left, r.jitter * std::sqrt(how), around);
  const auto all = corner.sides();
  const bool leaves = std::all_of(all.begin(), all.end(), [&](const Vec3& n) { return dot(off, n) > 0; });
  return leaves ? off * size : out;
}

void turn_point_at(const Arena& arena, double time, const Vec3& place, const Vec3& velocity, Corner& corner) {
  if (corner.count < 2) return;
  const std::span<const WallPartId> parts{corner.parts.data(), corner.count};
  auto& normals = corner.normals;
  const double speed = length(velocity), back = std::max({1e-6, 1e-9 * largest(place), 8 * kInstant * speed});
  if (!(speed > kStill)) return;
  const auto shape_at = [&](WallPartId part) {
    const WallTable& walls = arena.wall_table();
    const Pose frame = walls.leg(walls.wall_of(part), time).at(time);
    return std::pair<const Shape*, Pose>(&walls.shape(part), frame);
  };
  const Vec3 before = place - velocity * (back / speed);
  // How far each is from there, and in which direction.
  std::array<Nearest, kCornerSides> seen;
  std::size_t first = 0;
  for (std::size_t i = 0; i < parts.size(); ++i) {
    if (parts[i].empty()) {
      const double height = dot(before, arena.ground_normal()) - *arena.ground();
      seen[i] = {height, before - arena.ground_normal() * height};
    } else {
      const auto [shape, frame] = shape_at(parts[i]);
      seen[i] = nearest(*shape, into(frame.turn, before - frame.at));
      seen[i].point = frame * seen[i].point;
    }
    if (seen[i].distance < seen[first].distance - kSamePlace) first = i;
  }
  if (!(seen[first].distance > kSamePlace)) return;
  normals[first] = (before - seen[first].point) / seen[first].distance;
  if (!parts[first].empty()) {
    // So near to it rounding tilts the normal: it is taken from farther out.
    constexpr double kFarEnough = 0.01;
    const auto [shape, frame] = shape_at(parts[first]);
    const Vec3 outside = into(frame.turn, place + normals[first] * kFarEnough - frame.at);
    const Nearest on = nearest(*shape, outside);
    const Vec3 out = frame.turn * (outside - on.point);
    if (dot(out, normals[first]) > 0.999 * length(out)) normals[first] = normalized(out);
  }
  Vec3 way = velocity / speed, lift;
  const auto turn = [&](const Vec3& normal) {
    way = way - normal * (2 * dot(way, normal)), lift = lift + normal * (0.1 * back);
  };
  turn(normals[first]);
  for (std::size_t i = 0; i < parts.size(); ++i) {
    if (i == first) continue;
    const Vec3 from = place + lift - way * (0.05 * back);
    std::optional<Vec3> met;
    if (parts[i].empty()) {
      if (dot(way, arena.ground_normal()) < -kGraze) met = arena.ground_normal();
    } else {
      const auto [shape, frame] = shape_at(parts[i]);
      const auto contact =
          ray(*shape, {into(frame.turn, from - frame.at), into(frame.turn, way), 0.5 * back});
      if (contact && contact->distance > 0) met = frame.turn * contact->normal;
    }
    normals[i] = met.value_or(normals[first]);
    if (met) turn(*met);
  }
}

}  // namespace dardo::detail
