#pragma once
#include <array>
#include <limits>

namespace dardo::detail {

/// Four floats in a register of any x86-64 or ARM machine; `a < b ? a : b` is one instruction.
using Quad = float __attribute__((vector_size(16)));
using Whole = int __attribute__((vector_size(16)));

inline Quad min(Quad a, Quad b) { return a < b ? a : b; }
inline Quad max(Quad a, Quad b) { return a > b ? a : b; }

inline Quad absolute(Quad v) {
  constexpr int kMagnitude = 0x7fffffff;
  return reinterpret_cast<Quad>(reinterpret_cast<Whole>(v) & kMagnitude);
}

/// Without the fourth lane.
inline Quad xyz(Quad v) {
  constexpr Whole kLanes{-1, -1, -1, 0};
  return reinterpret_cast<Quad>(reinterpret_cast<Whole>(v) & kLanes);
}

inline constexpr float kInfinite = std::numeric_limits<float>::infinity();

/// A box of floats. What the fourth lanes hold does not matter.
struct Box4 {
  Quad low{kInfinite, kInfinite, kInfinite, 0}, high{-kInfinite, -kInfinite, -kInfinite, 0};

  void add(const Box4& b) { low = min(low, b.low), high = max(high, b.high); }
  float half_area() const {
    const Quad e = high - low;
    return e[0] < 0 ? 0 : e[0] * e[1] + e[1] * e[2] + e[2] * e[0];
  }
};

inline Box4 box4(float x0, float y0, float z0, float x1, float y1, float z1) {
  Box4 b;
  b.low = Quad{x0, y0, z0, 0};
  b.high = Quad{x1, y1, z1, 0};
  return b;
}

inline constexpr std::array<float, 6> kEverywhere{-kInfinite, -kInfinite, -kInfinite,
                                                  kInfinite,  kInfinite,  kInfinite};

}  // namespace dardo::detail
