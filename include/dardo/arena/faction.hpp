#pragma once
#include <cstdint>
#include <initializer_list>

namespace dardo {

/// What a body is to an attacker; read from the attacker's side. A body to itself is `self`.
enum class Relation : std::uint8_t { foe, friendly, neutral, self };

/// A set of relations: who an attack strikes, or who stops it.
class Relations {
 public:
  constexpr Relations() = default;
  constexpr Relations(std::initializer_list<Relation> list) {
    for (const Relation r : list) add(r);
  }
  constexpr bool has(Relation r) const { return (bits_ & bit(r)) != 0; }
  constexpr void add(Relation r) { bits_ = static_cast<std::uint8_t>(bits_ | bit(r)); }
  friend constexpr bool operator==(const Relations&, const Relations&) = default;

 private:
  static constexpr std::uint8_t bit(Relation r) {
    return static_cast<std::uint8_t>(1u << static_cast<unsigned>(r));
  }
  std::uint8_t bits_ = 0;
};

}  // namespace dardo
