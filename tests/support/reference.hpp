#pragma once
#include <string>

#include "support/situation.hpp"

namespace dardo::test {

/// Holds an attack without what follows from it against its way sampled densely, with nothing of the
/// library's geometry: of a shape only whether a point is inside, and which of its points is farthest that
/// way. Nothing flies through a body that it should strike or a wall, and what is struck is touched. Nothing,
/// or what does not hold.
std::string check_densely(const Situation& s);

}  // namespace dardo::test
