#pragma once
#include <optional>

#include "dardo/arena/arena.hpp"

// Walls as they are at a time. Their parts are asked in the frame that carries them.
namespace dardo::detail {

/// How fast the surface of a wall moves at a place of the world; when it changes that just then, as it came.
inline Vec3 wall_velocity(const Arena& arena, WallId wall, const Vec3& place, double time) {
  if (wall.empty() || !arena.wall_table().moves(wall)) return {};
  const Leg leg = arena.wall_table().leg_before(wall, time);
  if (leg.still()) return {};
  const Pose pose = leg.at(time);
  return leg.velocity_of(into(pose.turn, place - pose.at), time);
}

/// Whether something that goes this way, as the wall sees it, is let through whatever it is.
inline bool lets_pass(const Arena& arena, WallId id, const Vec3& way, double time) {
  const Wall& wall = arena.wall(id);
  if (!wall.one_way) return false;
  const WallTable& table = arena.wall_table();
  const Rotation turn = table.moves(id) ? table.leg(id, time).at(time).turn : wall.pose.turn;
  return dot(turn * *wall.one_way, way) > 0;
}

/// One part of a wall at a time; what it is asked and answers is in the world.
class WallThen {
 public:
  WallThen(const Arena& arena, WallPartId part, double time)
      : shape_(&arena.wall_table().shape(part)), wall_(arena.wall_table().wall_of(part)) {
    if (arena.wall_table().moves(wall_)) pose_ = arena.wall_table().leg(wall_, time).at(time);
  }
  WallId wall() const { return wall_; }
  std::optional<Contact> ray(const Ray& line) const {
    if (!pose_) return dardo::ray(*shape_, line);
    auto met = dardo::ray(*shape_, {here(line.from), into(pose_->turn, line.direction), line.length});
    if (met) met->point = *pose_ * met->point, met->normal = pose_->turn * met->normal;
    return met;
  }
  /// First contact of a ball that goes along a line.
  std::optional<Contact> sweep(double radius, const Ray& line) const {
    if (radius == 0) return ray(line);
    const Vec3 from = pose_ ? here(line.from) : line.from,
               direction = pose_ ? into(pose_->turn, line.direction) : line.direction;
    auto met = dardo::sweep(Ball{from, radius}, direction * line.length, *shape_);
    if (met && pose_) met->point = *pose_ * met->point, met->normal = pose_->turn * met->normal;
    return met;
  }
  /// Whether it comes within a distance of a line between two places; the same with them swapped, to the bit.
  bool comes_near(Segment line, double distance) const;
  bool contains(const Vec3& place) const { return dardo::contains(*shape_, pose_ ? here(place) : place); }

 private:
  Vec3 here(const Vec3& place) const { return into(pose_->turn, place - pose_->at); }

  const Shape* shape_;
  WallId wall_;
  std::optional<Pose> pose_;  ///< where it is, when that is not where the table has it
};

/// First wall along the ray that blocks `passage` at a time, within its length. Of those at one distance the
/// one created first.
struct WallContact {
  WallId wall;
  Contact contact;
};
std::optional<WallContact> first_wall(const Arena& arena, const Ray& ray, Passage passage, double time);

}  // namespace dardo::detail
