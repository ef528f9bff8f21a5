#pragma once
#include <cstdint>
#include <initializer_list>
#include <optional>
#include <string>

#include "dardo/arena/ids.hpp"
#include "dardo/geometry/box.hpp"
#include "dardo/problem.hpp"

namespace dardo {

/// What a wall can stand in the way of.
enum class Passage : std::uint8_t { sight, shots, blasts, feet };

/// A set of passages.
class Passages {
 public:
  constexpr Passages() = default;
  constexpr Passages(std::initializer_list<Passage> list) {
    for (const Passage p : list) add(p);
  }
  constexpr bool has(Passage p) const { return (bits_ & bit(p)) != 0; }
  constexpr void add(Passage p) { bits_ = static_cast<std::uint8_t>(bits_ | bit(p)); }
  friend constexpr bool operator==(const Passages&, const Passages&) = default;

 private:
  static constexpr std::uint8_t bit(Passage p) {
    return static_cast<std::uint8_t>(1u << static_cast<unsigned>(p));
  }
  std::uint8_t bits_ = 0;
};

inline constexpr Passages kEverything{Passage::sight, Passage::shots, Passage::blasts, Passage::feet};

/// What walls are made of: glass blocks shots but not sight, smoke sight but not shots.
struct Material {
  std::string name;
  Passages blocks = kEverything;
};

/// Something that stands in the way.
struct Wall {
  std::string id;
  Box box;
  MaterialId material;
  std::optional<Passages> blocks;  ///< instead of what the material blocks
};

/// Everything that is wrong with the wall by itself.
Problems check(const Wall& wall);

}  // namespace dardo
