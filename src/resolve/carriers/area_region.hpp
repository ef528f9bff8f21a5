#pragma once
#include <optional>

#include "dardo/attack/area.hpp"
#include "geometry/detail/region.hpp"

namespace dardo::detail {

/// What an area covers in its frame; nothing of a ball, whose middle and radius say all.
std::optional<Region> region_of(const AreaShape& shape);

}  // namespace dardo::detail
