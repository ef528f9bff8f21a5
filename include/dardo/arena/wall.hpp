#pragma once
#include <cstdint>
#include <optional>
#include <string>

#include "dardo/arena/ids.hpp"
#include "dardo/flag_set.hpp"
#include "dardo/geometry/box.hpp"
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

/// Something that stands in the way.
struct Wall {
  std::string id;
  Box box;
  MaterialId material;
  std::optional<Passages> blocks;  ///< instead of what the material blocks
  std::optional<Vec3> one_way;     ///< what goes along it passes; only what goes against it is blocked. Not 0

  /// Whether something that goes this way is let through whatever it is.
  bool lets_pass(const Vec3& way) const { return one_way && dot(*one_way, way) > 0; }
  friend bool operator==(const Wall&, const Wall&) = default;
};

/// Everything that is wrong with the wall by itself.
Problems check(const Wall& wall);

}  // namespace dardo
