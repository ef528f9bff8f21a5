#pragma once
#include <array>
#include <cmath>

#include "dardo/geometry/sector.hpp"
#include "geometry/detail/elementary.hpp"

namespace dardo::detail {

/// A part of a sector between two angles about its upright (with a band), or between two angles from its axis
/// and two around it (without), as its farthest points see it: its convex hull.
struct SectorPart {
  Vec3 apex;
  Rotation frame;  ///< x: the sector's axis; z: its up
  double near = 0, far = 0;
  bool upright = false;
  Band band;
  std::array<double, 2> about{};   ///< radians: about z, from x (upright); else from x
  std::array<double, 2> around{};  ///< not upright: around x, from y to z

  Vec3 direction(double a, double c) const {
    if (upright) return frame.x * cosine(a) + frame.y * sine(a);
    return frame.x * cosine(a) + (frame.y * cosine(c) + frame.z * sine(c)) * sine(a);
  }

  Vec3 farthest(const Vec3& d) const {
    const Vec3 l = into(frame, d);
    if (upright) {
      const double a = best_angle(l.x, l.y, about);
      return apex + direction(a, 0) * (cosine(a) * l.x + sine(a) * l.y >= 0 ? far : near) +
             frame.z * (l.z >= 0 ? band.high : band.low);
    }
    // Along any circle around the axis the best place is the same; then the best along the half circle there.
    const double c = best_angle(l.y, l.z, around);
    const double across = l.y * cosine(c) + l.z * sine(c);
    const double a = best_angle(l.x, across, about);
    return apex + direction(a, c) * (cosine(a) * l.x + sine(a) * across >= 0 ? far : near);
  }

 private:
  /// The angle within the range, at most a whole turn wide, at which x cos + y sin is largest.
  static double best_angle(double x, double y, const std::array<double, 2>& range) {
    constexpr double kTurn = 2 * std::numbers::pi;
    double free = arc_tangent(y, x);
    while (free < range[0]) free += kTurn;
    while (free - kTurn >= range[0]) free -= kTurn;
    if (free <= range[1]) return free;
    const auto value = [&](double a) { return x * cosine(a) + y * sine(a); };
    return value(range[0]) >= value(range[1]) ? range[0] : range[1];
  }
};

}  // namespace dardo::detail
