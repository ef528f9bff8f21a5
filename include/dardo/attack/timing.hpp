#pragma once
#include <cstdint>

namespace dardo {

/// What passes between a launch and its release.
struct Windup {
  enum class Aim : std::uint8_t {
    release,  ///< at where its target is when it is released
    start,    ///< at the point where that was when it began
  };
  double for_s = 0;
  Aim aim = Aim::release;
  bool though_fallen = false;  ///< it is released although the attacker has fallen meanwhile

  friend bool operator==(const Windup&, const Windup&) = default;
};

/// Several rounds of one attack, each an act of its own.
struct Burst {
  std::uint32_t count = 1;
  double gap_s = 0.1;          ///< between one and the next
  bool follows_muzzle = true;  ///< each from where its muzzle is by then; else all from where it was at first
  bool aims_anew = true;       ///< each at where its target is by then; else all at the first point
  bool though_fallen = false;  ///< goes on although the attacker has fallen

  friend bool operator==(const Burst&, const Burst&) = default;
};

}  // namespace dardo
