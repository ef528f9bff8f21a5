#pragma once
#include "dardo/record/outcome.hpp"
#include "resolve/moment/moment.hpp"
#include "resolve/moment/walls.hpp"

namespace dardo::detail {

/// What stands in the way of seeing a place from an eye, at the time of the moment: the nearest wall that
/// blocks `passage`; with a thickness, of a ball of that radius that would have to pass. The same from both
/// sides. What lies in a wall is seen from nowhere.
Reading judge_line(const Moment& moment, Passage passage, const Vec3& eye, const Vec3& target,
                   double thickness = 0);

}  // namespace dardo::detail
