#pragma once
#include <compare>
#include <cstdint>

namespace dardo {

/// A small handle: a place in a table, and which of its tenants is meant. A handle to something that was
/// removed is recognised as such even when its place has been given away again.
template <class Kind>
struct Id {
  static constexpr std::uint32_t kNone = 0xffffffffu;

  std::uint32_t index = kNone;
  std::uint32_t generation = 0;

  constexpr bool empty() const { return index == kNone; }
  friend constexpr auto operator<=>(const Id&, const Id&) = default;
};

using FactionId = Id<struct FactionKind>;
using MaterialId = Id<struct MaterialKind>;
using BuildId = Id<struct BuildKind>;
using BodyId = Id<struct BodyKind>;
using WallId = Id<struct WallKind>;
using WallPartId = Id<struct WallPartKind>;  ///< one convex part of a wall

}  // namespace dardo
