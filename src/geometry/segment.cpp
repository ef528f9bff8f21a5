#include <algorithm>
#include <array>

#include "geometry/detail/kernels.hpp"

namespace dardo::detail {

std::optional<double> line_enters_ball(const Vec3& offset, const Vec3& direction, double radius,
                                       double slack) {
  const double middle = -dot(offset, direction);
  const Vec3 closest = offset + direction * middle;
  const double gap2 = dot(closest, closest), reach = radius + slack;
  if (gap2 > reach * reach) return std::nullopt;
  return middle - std::sqrt(std::max(0.0, radius * radius - gap2));
}

double nearest_parameter(const Segment& segment, const Vec3& place) {
  const Vec3 along = segment.to - segment.from;
  const double squared = dot(along, along);
  if (!(squared > 0)) return 0;
  return std::clamp(dot(place - segment.from, along) / squared, 0.0, 1.0);
}

SegmentsApart segments_apart(const Segment& a, const Segment& b) {
  const Vec3 u = a.to - a.from, v = b.to - b.from, w = a.from - b.from;
  const double uu = dot(u, u), vv = dot(v, v), uv = dot(u, v), uw = dot(u, w), vw = dot(v, w);
  const double denominator = uu * vv - uv * uv;
  // Of the interior pair and the four pairs with an end, the nearest: no case can be forgotten, and nearly
  // parallel segments need no threshold, since their ends answer for them.
  SegmentsApart best{std::numeric_limits<double>::infinity(), 0};
  const auto pair = [&](double s, double t) {
    const double apart = length(w + u * s - v * t);
    if (apart < best.distance) best = {apart, s};
  };
  pair(0, nearest_parameter(b, a.from)), pair(1, nearest_parameter(b, a.to));
  pair(nearest_parameter(a, b.from), 0), pair(nearest_parameter(a, b.to), 1);
  if (denominator > 0) {
    const double s = std::clamp((uv * vw - vv * uw) / denominator, 0.0, 1.0);
    const double t = vv > 0 ? std::clamp((uv * s + vw) / vv, 0.0, 1.0) : 0;
    pair(s, t);
  }
  return best;
}

double segment_box_distance(const Segment& segment, const Vec3& half) {
  const Vec3 d = segment.to - segment.from;
  const std::array<double, 3> p{segment.from.x, segment.from.y, segment.from.z}, v{d.x, d.y, d.z},
      h{half.x, half.y, half.z};
  // Along the segment the squared distance is convex and piecewise quadratic; its slope is linear between the
  // parameters at which a coordinate crosses a face. Find the piece in which the slope changes sign.
  std::array<double, 8> cuts{0, 1};
  std::size_t count = 2;
  const auto add_cut = [&](double t) {
    std::size_t at = count++;
    for (; cuts[at - 1] > t; --at) cuts[at] = cuts[at - 1];
    cuts[at] = t;
  };
  for (std::size_t i = 0; i < 3; ++i) {
    if (v[i] == 0) continue;
    for (const double face : {-h[i], h[i]}) {
      const double t = (face - p[i]) / v[i];
      if (t > 0 && t < 1) add_cut(t);
    }
  }
  const auto excess = [&](std::size_t i, double t) {
    const double x = p[i] + v[i] * t;
    return x > h[i] ? x - h[i] : x < -h[i] ? x + h[i] : 0.0;
  };
  const auto slope = [&](double t) {
    return excess(0, t) * v[0] + excess(1, t) * v[1] + excess(2, t) * v[2];
  };
  const auto apart = [&](double t) {
    const Vec3 e{excess(0, t), excess(1, t), excess(2, t)};
    return length(e);
  };
  double left = cuts[0], left_slope = slope(left);
  if (left_slope >= 0) return apart(left);
  for (std::size_t k = 1; k < count; ++k) {
    const double right = cuts[k], right_slope = slope(right);
    if (right_slope >= 0) {
      const double rise = right_slope - left_slope;
      const double t = rise > 0 ? left - left_slope * (right - left) / rise : right;
      return std::min({apart(t), apart(left), apart(right)});
    }
    left = right;
    left_slope = right_slope;
  }
  return apart(1);
}

Vec3 any_perpendicular(const Vec3& direction) {
  const Vec3 a = abs(direction);
  const Vec3 other = a.x <= a.y && a.x <= a.z ? Vec3{1, 0, 0} : a.y <= a.z ? Vec3{0, 1, 0} : Vec3{0, 0, 1};
  return normalized(cross(direction, other));
}

}  // namespace dardo::detail
