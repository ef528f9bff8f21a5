#include "dardo/geometry/planar.hpp"

#include <vector>

#include "geometry/detail/elementary.hpp"

namespace dardo::planar {
namespace {

Vec3 lift(const Vec2& v) { return {v.x, v.y, 0}; }

}  // namespace

Ball disc(const Vec2& center, double radius) { return {lift(center), radius}; }
Capsule capsule(const Vec2& from, const Vec2& to, double radius) { return {lift(from), lift(to), radius}; }
Box rectangle(const Vec2& center, const Vec2& size, double turn) {
  return {lift(center), lift(size) * 0.5, Rotation::about_z(turn)};
}
Result<Hull> polygon(std::span<const Vec2> corners) {
  std::vector<Vec3> lifted;
  lifted.reserve(corners.size());
  for (const Vec2& c : corners) lifted.push_back(lift(c));
  return prism(lifted, 0, 0);
}
Sector sector(const Vec2& apex, double facing, double angle, double near, double far) {
  return {.apex = lift(apex),
          .axis = {detail::cosine(facing), detail::sine(facing), 0},
          .angle = angle,
          .near = near,
          .far = far,
          .band = Band{0, 0}};
}
Sector ring(const Vec2& center, double near, double far) {
  return dardo::ring(lift(center), near, far, 0, 0);
}

}  // namespace dardo::planar
