#include "dardo/geometry/half_space.hpp"

#include <algorithm>
#include <utility>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo {
namespace {

/// The lowest point of a shape over the plane, and how high it is; negative below.
std::pair<Vec3, double> lowest(const Shape& shape, const HalfSpace& space) {
  const detail::Convex convex(shape);
  const Vec3 point = convex.farthest(-space.normal) - space.normal * convex.margin();
  return {point, dot(point - space.point, space.normal)};
}

double slack_of(const Shape& shape, const HalfSpace& space) {
  const Bounds b = bounds(shape);
  return detail::slack(std::max({largest(b.low), largest(b.high), largest(space.point)}));
}

}  // namespace

Closest closest(const Shape& shape, const HalfSpace& space) {
  const auto [point, height] = lowest(shape, space);
  if (height <= slack_of(shape, space)) return {0, point, point};
  return {height, point, point - space.normal * height};
}

bool overlaps(const Shape& shape, const HalfSpace& space) { return closest(shape, space).distance == 0; }

std::optional<Contact> sweep(const Shape& moving, const Vec3& travel, const HalfSpace& space) {
  const auto [point, height] = lowest(moving, space);
  const double size = length(travel), slack = slack_of(moving, space), fall = -dot(travel, space.normal);
  if (height <= slack) return Contact{0, point, size > 0 ? -travel / size : space.normal};
  if (height > fall + slack) return std::nullopt;
  const double part = std::min(1.0, height / fall);
  return Contact{part * size, point + travel * part, space.normal};
}

}  // namespace dardo
