#pragma once
#include <array>
#include <optional>
#include <span>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/shot.hpp"
#include "dardo/record/outcome.hpp"
#include "resolve/rules/tolerances.hpp"

// What turns at surfaces: the same for all that does.
namespace dardo::detail {

/// So many surfaces of one corner count.
inline constexpr std::size_t kCornerSides = 32;

/// The surfaces that something meets at once and does not go through.
struct Corner {
  std::array<Vec3, kCornerSides> normals, velocities;  ///< how fast each surface moves
  std::array<WallPartId, kCornerSides> parts;          ///< an empty one is the ground
  std::size_t count = 0;
  bool turns = false;            ///< it may turn at all of them
  double graze = kGraze;         ///< as far as their normals are known
  std::optional<Blocker> first;  ///< of them

  std::span<const Vec3> sides() const { return {normals.data(), count}; }
  /// Off the surfaces: each turns what flies into it, as it sees that, until it flies into none.
  Vec3 turned(const Vec3& velocity, const Ricochet& ricochet) const;
  /// The surface that this flies into, as far as rounding lets tell.
  std::optional<std::size_t> into_any(const Vec3& velocity) const;
};

/// What a point meets at once at a place, coming with a velocity, has the normals of one surface made of all
/// that. Seen from a little before, the nearest turns it first; another one turns it where it would then
/// still be met, as in a corner, and else has the normal of the first, as at a seam.
void turn_point_at(const Arena& arena, double time, const Vec3& place, const Vec3& velocity, Corner& corner);

/// `out` as far off as the ricochet's jitter draws it for turn number `turn`, but never into the corner that
/// it leaves. `left` is at a right angle to it.
Vec3 jittered(const Corner& corner, const Vec3& out, const Vec3& left, bool flat, const Ricochet& ricochet,
              std::uint64_t seed, std::uint64_t key, std::uint32_t turn);

}  // namespace dardo::detail
