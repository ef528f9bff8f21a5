#pragma once
#include <cstdint>
#include <string>
#include <variant>
#include <vector>

namespace dardo {

// What comes first of those that may be taken.

enum class ByDistance : std::uint8_t { least, most };
enum class ByAngle : std::uint8_t { least, most };  ///< away from the direction of the attack
enum class ByChance : std::uint8_t { even };
struct ByNumber {
  enum class Take : std::uint8_t { least, most };
  std::string name;  ///< a body without that number comes after those with it
  Take take = Take::least;
  friend bool operator==(const ByNumber&, const ByNumber&) = default;
};
/// Those with the tag first.
struct ByTag {
  std::string tag;
  friend bool operator==(const ByTag&, const ByTag&) = default;
};

using OrderBy = std::variant<ByDistance, ByAngle, ByNumber, ByTag, ByChance>;
/// By the first of these that tells two apart, then by distance, then by order of creation.
using Order = std::vector<OrderBy>;

}  // namespace dardo
