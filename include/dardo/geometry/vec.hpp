#pragma once
#include <cmath>

namespace dardo {

/// A point or a direction in metres: right-handed, z up. Plain data with 8-byte alignment, so that its layout
/// is the same under any compiler flags.
///
/// The operators are always inlined: a consumer built with other vector or contraction flags can never lend
/// the library its own copy of them.
struct Vec3 {
  double x = 0, y = 0, z = 0;

  friend constexpr bool operator==(const Vec3&, const Vec3&) = default;
};

[[gnu::always_inline]] constexpr Vec3 operator+(const Vec3& a, const Vec3& b) {
  return {a.x + b.x, a.y + b.y, a.z + b.z};
}
[[gnu::always_inline]] constexpr Vec3 operator-(const Vec3& a, const Vec3& b) {
  return {a.x - b.x, a.y - b.y, a.z - b.z};
}
[[gnu::always_inline]] constexpr Vec3 operator-(const Vec3& a) { return {-a.x, -a.y, -a.z}; }
[[gnu::always_inline]] constexpr Vec3 operator*(const Vec3& a, double s) {
  return {a.x * s, a.y * s, a.z * s};
}
[[gnu::always_inline]] constexpr Vec3 operator*(double s, const Vec3& a) { return a * s; }
[[gnu::always_inline]] constexpr Vec3 operator/(const Vec3& a, double s) {
  return {a.x / s, a.y / s, a.z / s};
}

[[gnu::always_inline]] constexpr double dot(const Vec3& a, const Vec3& b) {
  return a.x * b.x + a.y * b.y + a.z * b.z;
}
[[gnu::always_inline]] constexpr Vec3 cross(const Vec3& a, const Vec3& b) {
  return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
[[gnu::always_inline]] inline double length(const Vec3& a) { return std::sqrt(dot(a, a)); }
[[gnu::always_inline]] inline Vec3 abs(const Vec3& a) {
  return {std::fabs(a.x), std::fabs(a.y), std::fabs(a.z)};
}
[[gnu::always_inline]] inline bool is_finite(const Vec3& a) {
  return std::isfinite(a.x) && std::isfinite(a.y) && std::isfinite(a.z);
}
/// The largest of the absolute coordinates.
[[gnu::always_inline]] constexpr double largest(const Vec3& a) {
  const double x = a.x < 0 ? -a.x : a.x, y = a.y < 0 ? -a.y : a.y, z = a.z < 0 ? -a.z : a.z;
  const double xy = x > y ? x : y;
  return xy > z ? xy : z;
}
/// `a` made one metre long. Requires a length above 0.
[[gnu::always_inline]] inline Vec3 normalized(const Vec3& a) { return a / length(a); }

/// Coordinates beyond this are refused when read or added.
inline constexpr double kMaxCoordinate = 1e7;

}  // namespace dardo
