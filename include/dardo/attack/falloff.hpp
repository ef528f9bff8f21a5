#pragma once
#include <cstdint>
#include <vector>

namespace dardo {

/// How much of a strength arrives at a distance.
struct FalloffPoint {
  double distance = 0, factor = 1;
  friend bool operator==(const FalloffPoint&, const FalloffPoint&) = default;
};

/// Less with the distance: by a curve up to a range, beyond which nothing arrives; or by points.
struct Falloff {
  /// All of it; 1 - d; 1 - 3 d² + 2 d³; (1 - d)², with d = distance / range.
  enum class Curve : std::uint8_t { none, linear, smooth, square };

  Curve curve = Curve::none;
  double range = 1;                  ///< metres, for a curve
  std::vector<FalloffPoint> points;  ///< instead of a curve: factors by distance, evenly between them

  double at(double distance) const;
  /// Of a curve its range; of points the last one's distance. Beyond it is as there.
  double ends_at() const { return points.empty() ? range : points.back().distance; }
  friend bool operator==(const Falloff&, const Falloff&) = default;
};

}  // namespace dardo
