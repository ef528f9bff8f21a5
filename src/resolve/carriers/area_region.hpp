#pragma once
#include <optional>
#include <vector>

#include "dardo/attack/attack.hpp"
#include "geometry/detail/region.hpp"

namespace dardo::detail {

/// What an area covers in its frame; nothing of a ball, whose middle and radius say all.
std::optional<Region> region_of(const AreaShape& shape);
/// No part of it is farther from its origin.
double reach_of(const AreaShape& shape);

/// What of its power arrives at distances from its origin, close enough for a picture; nothing of one whose
/// power is the same everywhere.
std::vector<FalloffPoint> fades_of(const Attack& attack, double reach);

}  // namespace dardo::detail
