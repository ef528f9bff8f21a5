#pragma once
#include <cstdint>

#include "dardo/arena/ids.hpp"

namespace dardo {

/// A body came into something that lasts, or is out of it again: of those that it may strike, whether it has
/// struck them or not.
struct Presence {
  std::uint32_t launch = 0;  ///< in a running game: whose
  std::uint32_t stage = 0;   ///< 0: the attack itself; else which of the attacks within it
  std::uint32_t number = 0;  ///< among what that launch has set off
  BodyId body;
  bool inside = false;  ///< it came in
  double time_s = 0;    ///< when
};

}  // namespace dardo
