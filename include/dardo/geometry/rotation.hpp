#pragma once
#include "dardo/geometry/vec.hpp"

namespace dardo {

/// A rotation, held as where the three axes go (the columns of its matrix).
struct Rotation {
  Vec3 x{1, 0, 0}, y{0, 1, 0}, z{0, 0, 1};

  /// About z, anticlockwise seen from above; radians.
  static Rotation about_z(double angle);
  /// About an axis one metre long, anticlockwise seen from its tip; radians.
  static Rotation about(const Vec3& axis, double angle);
  /// Turned about z by `yaw`, then nose up by `pitch` about its own left-right axis, then rolled about its
  /// own forward axis, left side up for a positive `roll`; radians.
  static Rotation yaw_pitch_roll(double yaw, double pitch, double roll);

  friend bool operator==(const Rotation&, const Rotation&) = default;
};

/// From the rotated frame into the frame around it.
[[gnu::always_inline]] constexpr Vec3 operator*(const Rotation& r, const Vec3& v) {
  return r.x * v.x + r.y * v.y + r.z * v.z;
}
/// The other way: from the frame around it into the rotated frame.
[[gnu::always_inline]] constexpr Vec3 into(const Rotation& r, const Vec3& v) {
  return {dot(r.x, v), dot(r.y, v), dot(r.z, v)};
}
/// First `b`, then `a`.
[[gnu::always_inline]] constexpr Rotation operator*(const Rotation& a, const Rotation& b) {
  return {a * b.x, a * b.y, a * b.z};
}

/// Where a body stands and how it is turned. A body faces along its own +x axis.
struct Pose {
  Vec3 at;
  Rotation turn;

  friend bool operator==(const Pose&, const Pose&) = default;
};

/// From the body's frame into the world.
[[gnu::always_inline]] constexpr Vec3 operator*(const Pose& p, const Vec3& v) { return p.at + p.turn * v; }
/// Where `b` is that lies in the frame of `a`.
[[gnu::always_inline]] constexpr Pose operator*(const Pose& a, const Pose& b) {
  return {a * b.at, a.turn * b.turn};
}
/// The other way: a pose as the frame of another sees it.
[[gnu::always_inline]] constexpr Pose into(const Pose& frame, const Pose& pose) {
  const Rotation& t = frame.turn;
  return {into(t, pose.at - frame.at), {into(t, pose.turn.x), into(t, pose.turn.y), into(t, pose.turn.z)}};
}
/// The frame around it as it sees that.
constexpr Pose inverse(const Pose& pose) { return into(pose, Pose{}); }

}  // namespace dardo
