#pragma once
#include <cstdint>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "dardo/arena/ids.hpp"
#include "dardo/arena/track.hpp"
#include "dardo/flag_set.hpp"
#include "dardo/geometry/mesh.hpp"
#include "dardo/problem.hpp"

namespace dardo {

/// What a wall can stand in the way of.
enum class Passage : std::uint8_t { sight, shots, blasts, feet };

using Passages = FlagSet<Passage>;

inline constexpr Passages kEverything{Passage::sight, Passage::shots, Passage::blasts, Passage::feet};

/// What walls are made of: glass blocks shots but not sight, smoke sight but not shots.
struct Material {
  std::string name;
  Passages blocks = kEverything;
  friend bool operator==(const Material&, const Material&) = default;
};

/// What a wall can be like: any shape, or a surface of triangles, which may be concave.
using WallShape = std::variant<Ball, Capsule, Box, Cylinder, Cone, Hull, Triangle, Mesh>;

/// Something that stands in the way.
struct Wall {
  std::string id;
  WallShape shape;                 ///< in its frame
  MaterialId material;             ///< empty: of none, and it blocks everything
  std::optional<Passages> blocks;  ///< instead of what the material blocks
  std::optional<Vec3>
      one_way;  ///< what goes along it passes; only what goes against it is blocked. In its frame; not 0
  Pose pose;    ///< of its frame: the world's unless said
  /// Where its frame will be, instead of its pose: a door, a lift. As of a body.
  std::vector<TrackKey> track;

  friend bool operator==(const Wall&, const Wall&) = default;
};

/// Everything that is wrong with the wall by itself.
Problems check(const Wall& wall);

}  // namespace dardo
