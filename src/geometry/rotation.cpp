#include "dardo/geometry/rotation.hpp"

#include "geometry/detail/elementary.hpp"

namespace dardo {

Rotation Rotation::about_z(double angle) {
  const auto [s, c] = detail::sine_cosine(angle);
  return {{c, s, 0}, {-s, c, 0}, {0, 0, 1}};
}

Rotation Rotation::about(const Vec3& axis, double angle) {
  const detail::SineCosine of = detail::sine_cosine(angle);
  const double s = of.sine, c = of.cosine;  // clang 14 captures no bindings
  const auto turned = [&](const Vec3& v) {
    return v * c + cross(axis, v) * s + axis * (dot(axis, v) * (1 - c));
  };
  return {turned({1, 0, 0}), turned({0, 1, 0}), turned({0, 0, 1})};
}

Rotation Rotation::yaw_pitch_roll(double yaw, double pitch, double roll) {
  const auto [sp, cp] = detail::sine_cosine(pitch);
  const auto [sr, cr] = detail::sine_cosine(roll);
  const Rotation nose_up{{cp, 0, sp}, {0, 1, 0}, {-sp, 0, cp}};
  const Rotation rolled{{1, 0, 0}, {0, cr, sr}, {0, -sr, cr}};
  return about_z(yaw) * nose_up * rolled;
}

}  // namespace dardo
