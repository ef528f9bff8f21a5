#pragma once
#include <limits>

namespace dardo::detail {

/// Of a time: for ever; of a length: endless.
inline constexpr double kEver = std::numeric_limits<double>::infinity();

}  // namespace dardo::detail
