#pragma once
#include <cmath>
#include <cstdint>
#include <random>

#include "dardo/geometry/shape.hpp"

namespace dardo::test {

/// Seeded random geometry. The seed is printed by the test that uses it, and names the case for good.
class Random {
 public:
  explicit Random(std::uint64_t seed) : engine_(seed) {}

  double range(double low, double high) {
    return low + (high - low) * (static_cast<double>(engine_() >> 11) * 0x1.0p-53);
  }
  int whole(int low, int high) {
    return low + static_cast<int>(engine_() % static_cast<std::uint64_t>(high - low + 1));
  }
  bool chance(double p) { return range(0, 1) < p; }
  Vec3 place(double size) { return {range(-size, size), range(-size, size), range(-size, size)}; }
  Vec3 direction() {
    for (;;) {
      const Vec3 v = place(1);
      const double l = length(v);
      if (l > 0.1 && l <= 1) return v / l;
    }
  }
  /// From `from` roughly toward `target`, within `spread` metres of it.
  Vec3 direction_to(const Vec3& from, const Vec3& target, double spread) {
    const Vec3 way = target + place(spread) - from;
    return length(way) > 0 ? normalized(way) : direction();
  }
  Rotation rotation() {
    return Rotation::yaw_pitch_roll(range(-3.2, 3.2), range(-1.6, 1.6), range(-3.2, 3.2));
  }
  Shape shape(double size) {
    switch (whole(0, 6)) {
      case 6: return Triangle{place(size), place(size), place(size)};
      case 0: return Ball{place(size), range(0, size / 3)};
      case 1: return Capsule{place(size), place(size), range(0, size / 4)};
      case 2: return Cylinder{place(size), place(size), range(0, size / 4)};
      case 3: return Cone{place(size), place(size), range(0, size / 3)};
      case 4: {
        Hull hull;
        const Vec3 at = place(size);
        for (int i = whole(1, 10); i > 0; --i) hull.points.push_back(at + place(size / 2));
        return hull;
      }
      default: return Box{place(size), abs(place(size / 3)), rotation()};
    }
  }

 private:
  std::mt19937_64 engine_;
};

}  // namespace dardo::test
