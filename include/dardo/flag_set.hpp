#pragma once
#include <cstdint>
#include <initializer_list>

namespace dardo {

/// A set of the values of a small enumeration (up to eight).
template <class Enum>
class FlagSet {
 public:
  constexpr FlagSet() = default;
  constexpr FlagSet(std::initializer_list<Enum> list) {
    for (const Enum value : list) add(value);
  }
  constexpr bool has(Enum value) const { return (bits_ & bit(value)) != 0; }
  constexpr void add(Enum value) { bits_ = static_cast<std::uint8_t>(bits_ | bit(value)); }
  friend constexpr bool operator==(const FlagSet&, const FlagSet&) = default;

 private:
  static constexpr std::uint8_t bit(Enum value) {
    return static_cast<std::uint8_t>(1u << static_cast<unsigned>(value));
  }
  std::uint8_t bits_ = 0;
};

}  // namespace dardo
