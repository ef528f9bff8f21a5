#pragma once
#include <algorithm>
#include <limits>

#include "dardo/geometry/vec.hpp"

namespace dardo {

/// An axis-aligned box; starts empty.
struct Bounds {
  Vec3 low{std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity(),
           std::numeric_limits<double>::infinity()};
  Vec3 high{-std::numeric_limits<double>::infinity(), -std::numeric_limits<double>::infinity(),
            -std::numeric_limits<double>::infinity()};

  constexpr bool empty() const { return low.x > high.x; }
  constexpr Vec3 center() const { return (low + high) * 0.5; }
  constexpr void add(const Bounds& b) {
    low = {std::min(low.x, b.low.x), std::min(low.y, b.low.y), std::min(low.z, b.low.z)};
    high = {std::max(high.x, b.high.x), std::max(high.y, b.high.y), std::max(high.z, b.high.z)};
  }
  constexpr void add(const Vec3& p) { add(Bounds{p, p}); }
  constexpr Bounds grown(double by) const { return {low - Vec3{by, by, by}, high + Vec3{by, by, by}}; }

  friend constexpr bool operator==(const Bounds&, const Bounds&) = default;
};

[[gnu::always_inline]] constexpr bool overlaps(const Bounds& a, const Bounds& b) {
  return a.low.x <= b.high.x && b.low.x <= a.high.x && a.low.y <= b.high.y && b.low.y <= a.high.y &&
         a.low.z <= b.high.z && b.low.z <= a.high.z;
}

}  // namespace dardo
