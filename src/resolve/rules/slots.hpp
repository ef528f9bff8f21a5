#pragma once
#include <cstdint>

// Places in the machine's tables. A launch's number, by which a game knows it, is another thing.
namespace dardo::detail {

struct LaunchSlot {
  std::uint32_t at = 0;
  friend bool operator==(LaunchSlot, LaunchSlot) = default;
};

struct ChainSlot {
  std::uint32_t at = 0;
  friend bool operator==(ChainSlot, ChainSlot) = default;
};

struct LastingSlot {
  std::uint32_t at = 0;
  friend bool operator==(LastingSlot, LastingSlot) = default;
};

struct AfflictionSlot {
  std::uint32_t at = 0;
  friend bool operator==(AfflictionSlot, AfflictionSlot) = default;
};

struct ShotSlot {
  std::uint32_t at = 0;
  friend bool operator==(ShotSlot, ShotSlot) = default;
};

}  // namespace dardo::detail
