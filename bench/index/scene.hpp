#pragma once
// The scene of the index benchmarks: upright capsules and box walls at a constant density, and 10,000 queries
// of each kind, drawn from a fixed recipe with exact arithmetic, so that its hash is the same on every
// machine.
#include <bit>
#include <cmath>
#include <cstdint>
#include <vector>

#include "dardo/geometry/shape.hpp"

namespace dardo::bench {

/// splitmix64; each list of the scene has a stream of its own.
class Stream {
 public:
  explicit Stream(std::uint64_t number) : state_(7 + (number << 32)) {}
  double unit() { return static_cast<double>(next() >> 11) * 0x1.0p-53; }
  double range(double low, double high) { return low + (high - low) * unit(); }
  /// A direction in the plane, by rejection.
  Vec3 heading() {
    for (;;) {
      const double a = range(-1, 1), b = range(-1, 1), s = a * a + b * b;
      if (s >= 1e-4 && s <= 1) return {a / std::sqrt(s), b / std::sqrt(s), 0};
    }
  }
  Vec3 sloped() {
    const Vec3 h = heading();
    const double k = range(-0.05, 0.05), size = std::sqrt(h.x * h.x + h.y * h.y + k * k);
    return {h.x / size, h.y / size, k / size};
  }

 private:
  std::uint64_t next() {
    state_ += 0x9E3779B97F4A7C15ull;
    std::uint64_t z = state_;
    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ull;
    z = (z ^ (z >> 27)) * 0x94D049BB133111EBull;
    return z ^ (z >> 31);
  }
  std::uint64_t state_;
};

struct Scene {
  static constexpr std::size_t kQueries = 10000;
  static constexpr double kSweepRadius = 0.15;

  std::vector<Capsule> bodies;
  std::vector<Box> walls;
  std::vector<Ray> rays, sweeps;
  std::vector<Vec3> balls, headings;
  std::vector<Segment> sights;
  std::uint64_t hash = 0xcbf29ce484222325ull;

  explicit Scene(std::size_t count) {
    const double side = 5 * std::sqrt(static_cast<double>(count));
    Stream s1(1), s2(2), s3(3), s4(4), s5(5), s6(6), s7(7);
    std::vector<Vec3> centers;
    for (std::size_t i = 0; i < count; ++i) {
      const double x = s1.unit() * side, y = s1.unit() * side;
      centers.push_back({x, y, 0.9});
      bodies.push_back({{x, y, 0.4}, {x, y, 1.4}, 0.4});
      add({x, y, 0.9});
    }
    for (std::size_t i = 0; i < count / 10; ++i) {
      const double x = s2.unit() * side, y = s2.unit() * side;
      const double length = s2.range(1, 8), thick = s2.range(0.3, 1), height = s2.range(2, 4);
      const bool along_x = s2.unit() < 0.5;
      const double hx = (along_x ? length : thick) * 0.5, hy = (along_x ? thick : length) * 0.5;
      walls.push_back({{x, y, height * 0.5}, {hx, hy, height * 0.5}, {}});
      add({x - hx, y - hy, 0}), add({x + hx, y + hy, height});
    }
    for (std::size_t i = 0; i < kQueries; ++i) {
      const double x = s3.unit() * side, y = s3.unit() * side;
      rays.push_back({{x, y, 1.2}, s3.sloped(), 60});
      add(rays.back().from), add(rays.back().direction);
    }
    for (std::size_t i = 0; i < kQueries; ++i) {
      const double x = s4.unit() * side, y = s4.unit() * side, z = s4.unit() * 2;
      balls.push_back({x, y, z});
      add(balls.back());
    }
    while (sights.size() < kQueries) {
      const auto i = static_cast<std::size_t>(s5.unit() * static_cast<double>(count));
      const auto j = static_cast<std::size_t>(s5.unit() * static_cast<double>(count));
      const double dx = centers[j].x - centers[i].x, dy = centers[j].y - centers[i].y;
      if (i == j || dx * dx + dy * dy > 1600) continue;
      sights.push_back({{centers[i].x, centers[i].y, 1.6}, {centers[j].x, centers[j].y, 1.6}});
      add(sights.back().from), add(sights.back().to);
    }
    for (std::size_t i = 0; i < kQueries; ++i) {
      const double x = s6.unit() * side, y = s6.unit() * side, z = s6.range(0.2, 1.6);
      sweeps.push_back({{x, y, z}, s6.sloped(), 0.5});
      add(sweeps.back().from), add(sweeps.back().direction);
    }
    for (std::size_t i = 0; i < count; ++i) headings.push_back(s7.heading()), add(headings.back());
  }

  /// What the hash must be.
  static std::uint64_t expected_hash(std::size_t count) {
    return count == 1000    ? 0x97823034029e0b61ull
           : count == 10000 ? 0x328be5d7424e9ecbull
                            : 0x16ca4916e129ebcaull;
  }

  /// One tick: every body moves 0.1 m.
  void step() {
    for (std::size_t i = 0; i < bodies.size(); ++i) {
      const Vec3 way = headings[i] * 0.1;
      bodies[i].from = bodies[i].from + way, bodies[i].to = bodies[i].to + way;
    }
  }

 private:
  void add(const Vec3& v) {
    for (const double d : {v.x, v.y, v.z}) {
      const auto bits = std::bit_cast<std::uint64_t>(d);
      for (int k = 0; k < 8; ++k) hash = (hash ^ (bits >> (8 * k) & 255)) * 0x100000001b3ull;
    }
  }
};

}  // namespace dardo::bench
