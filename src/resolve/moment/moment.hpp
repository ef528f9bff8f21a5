#pragma once
#include <algorithm>
#include <limits>
#include <optional>
#include <span>
#include <string_view>

#include "dardo/geometry/shape.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/moment/motions.hpp"

namespace dardo::detail {

/// Who is where at one time. A value that refers to how bodies move: that must outlive it, and the time lies
/// in what is known of them. Nothing is put anywhere: queries are taken into the frames of bodies that move.
class Moment {
 public:
  Moment(const Motions& motions, double time) : motions_(&motions), time_(time) {}

  const Arena& arena() const { return motions_->arena(); }
  const Motions& motions() const { return *motions_; }
  double time() const { return time_; }
  double state_time() const { return motions_->state_time(time_); }
  Pose pose(BodyId body) const {
    return motions_->moves(body) ? motions_->leg(body, time_).at(time_) : arena().body(body).pose;
  }
  /// A point of a body's frame in the world.
  Vec3 point(BodyId body, const Vec3& own) const {
    return motions_->moves(body) ? motions_->leg(body, time_).at(time_) * own : arena().body(body).pose * own;
  }
  Vec3 center(BodyId body) const { return point(body, arena().center_in_frame(body)); }
  Vec3 eyes(BodyId body) const {
    return point(body, arena().build(arena().body(body).build).eyes.value_or(arena().center_in_frame(body)));
  }
  /// Nothing when its build has no such muzzle.
  std::optional<Vec3> muzzle(BodyId body, std::string_view name) const {
    for (const Muzzle& m : arena().build(arena().body(body).build).muzzles) {
      if (m.name == name) return point(body, m.at);
    }
    return std::nullopt;
  }

  /// A body as it is then. Its hitboxes are asked by their number; answers are in the world.
  class Body {
   public:
    BodyId id() const { return id_; }
    std::uint32_t hitboxes() const { return static_cast<std::uint32_t>(world_.size()); }
    /// Whether that one is there: the others are not to be asked of.
    bool has(std::uint32_t hitbox) const { return (there_ >> (hitbox & 63) & 1) != 0; }
    /// The nearest point of all that are there.
    Nearest nearest(const Vec3& place) const {
      Nearest out{std::numeric_limits<double>::infinity(), place};
      for (std::uint32_t i = 0; i < hitboxes(); ++i) {
        if (!has(i)) continue;
        if (const Nearest one = nearest(i, place); one.distance < out.distance) out = one;
      }
      return out;
    }
    std::optional<Contact> ray(std::uint32_t hitbox, const Ray& line) const {
      if (!pose_) return dardo::ray(world_[hitbox], line);
      // Touching is told by places in the world: those of its own frame have more digits than they know.
      if (dardo::nearest(own(hitbox), here(line.from)).distance <= slack(largest(line.from)))
        return Contact{0, line.from, -line.direction};
      auto met = dardo::ray(own(hitbox), {here(line.from), into(pose_->turn, line.direction), line.length});
      if (met) met->point = *pose_ * met->point, met->normal = pose_->turn * met->normal;
      return met;
    }
    /// First contact of a ball that goes along a line.
    std::optional<Contact> sweep(std::uint32_t hitbox, double radius, const Ray& line) const {
      if (!pose_) return dardo::sweep(Ball{line.from, radius}, line.direction * line.length, world_[hitbox]);
      auto met = dardo::sweep(Ball{here(line.from), radius}, into(pose_->turn, line.direction) * line.length,
                              own(hitbox));
      if (met) met->point = *pose_ * met->point, met->normal = pose_->turn * met->normal;
      return met;
    }
    Nearest nearest(std::uint32_t hitbox, const Vec3& place) const {
      if (!pose_) return dardo::nearest(world_[hitbox], place);
      Nearest at = dardo::nearest(own(hitbox), here(place));
      at.point = at.distance > 0 ? *pose_ * at.point : place;
      return at;
    }
    /// The normal where a line meets it, which is given, but for exactly an edge or a corner: there it is
    /// that of a tiny ball that comes along the line, however the shape is described.
    Vec3 normal_along(std::uint32_t hitbox, const Contact& met, const Vec3& direction) const {
      const Shape& shape = !pose_ ? world_[hitbox] : own(hitbox);
      if (std::holds_alternative<Ball>(shape) || std::holds_alternative<Capsule>(shape)) return met.normal;
      constexpr double kBack = 1e-3, kSame = 1e-5, kOther = 1e-3;
      const auto from = [&](double back) {
        const Vec3 place = met.point - direction * back, out = place - nearest(hitbox, place).point;
        return length(out) > 0 ? normalized(out) : met.normal;
      };
      // The same from any distance only there, and on a face; on what is round it goes by the distance.
      const Vec3 one = from(kBack);
      const bool edge = length(one - met.normal) > kOther && length(one - from(kBack / 2)) < kSame;
      return edge ? one : met.normal;
    }
    double distance(std::uint32_t hitbox, const Segment& segment) const {
      if (!pose_) return dardo::distance(world_[hitbox], segment);
      return dardo::distance(own(hitbox), Segment{here(segment.from), here(segment.to)});
    }
    bool overlaps(std::uint32_t hitbox, const Ball& ball) const {
      if (!pose_) return dardo::overlaps(ball, world_[hitbox]);
      return dardo::nearest(own(hitbox), here(ball.center)).distance <=
             ball.radius + slack(largest(ball.center), ball.radius);
    }
    /// The hitbox as a frame sees it, which is that of the world carried by the inverse of a pose.
    Shape in_frame(std::uint32_t hitbox, const Pose& from_world) const {
      if (!pose_) return placed(world_[hitbox], from_world);
      return placed(own(hitbox), from_world * *pose_);
    }
    /// In the body's frame, and where that is.
    const Shape& own(std::uint32_t hitbox) const {
      return arena_->build(arena_->body(id_).build).hitboxes[hitbox].shape;
    }
    const Pose& pose() const { return pose_ ? *pose_ : arena_->body(id_).pose; }
    /// The same place of it, however the body is turned: that of a hull is the middle of its box in its
    /// frame.
    Vec3 center(std::uint32_t hitbox) const { return pose() * dardo::center(own(hitbox)); }

   private:
    friend class Moment;
    Vec3 here(const Vec3& place) const { return into(pose_->turn, place - pose_->at); }

    Body(const Arena& arena, BodyId id) : arena_(&arena), id_(id), world_(arena.hitboxes(id)) {}

    const Arena* arena_;
    BodyId id_;
    std::span<const Shape> world_;  ///< where the arena has them
    std::uint64_t there_ = ~std::uint64_t{0};
    std::optional<Pose> pose_;  ///< where it is, when that is not where the arena has it
  };
  Body body(BodyId id) const {
    Body out(arena(), id);
    if (arena().changes(id)) {
      for (std::uint32_t i = 0; i < out.hitboxes() && i < 64; ++i) {
        if (!arena().has_hitbox(id, i, state_time())) out.there_ &= ~(std::uint64_t{1} << i);
      }
    }
    if (!motions_->moves(id)) return out;
    const Pose then = pose(id);
    if (!(then == arena().body(id).pose)) out.pose_ = then;
    return out;
  }

  /// As `Arena::bodies_along`, for where bodies are then. A body may come twice.
  template <class Visit>
  void bodies_along(const Ray& ray, double limit, Visit&& visit, double radius = 0) const {
    motions_->bodies_along(ray, limit, time_, visit, radius);
  }
  /// As `Arena::bodies_touching`, for where bodies are then. A body may come twice.
  template <class Visit>
  void bodies_touching(const Bounds& box, Visit&& visit) const {
    motions_->bodies_near(box, time_, time_, visit);
  }

  /// Whether the ray, or a ball along it, comes as near to a body's middle as any of its hitboxes reaches.
  bool may_meet(const Ray& ray, double limit, BodyId body, double radius = 0) const {
    const Vec3 away = center(body) - ray.from;
    const double along = std::clamp(dot(away, ray.direction), 0.0, limit),
                 loose = 4e-9 * (1 + largest(ray.from) + largest(away));
    return length(away - ray.direction * along) <= arena().reach_around_center(body) + radius + loose;
  }

 private:
  const Motions* motions_;
  double time_;
};

}  // namespace dardo::detail
