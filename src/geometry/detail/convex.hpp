#pragma once
#include <limits>
#include <optional>
#include <span>

#include "dardo/geometry/shape.hpp"

// Any two convex shapes: how far apart, and when one that moves meets the other.
namespace dardo::detail {

struct SectorPart;

/// The point of a shape that is farthest from a place, in closed form, and how far that is.
Vec3 farthest_from(const Shape& shape, const Vec3& place);
double reach_from(const Shape& shape, const Vec3& place);
/// The point of a shape that is farthest from a line through a place along `axis` (one metre long), in closed
/// form; nothing of what is round about another axis.
std::optional<Vec3> farthest_from_line(const Shape& shape, const Vec3& place, const Vec3& axis);

/// A convex shape as its farthest points see it: a core that is sharp or flat, and a margin around it. It
/// refers to the shape it was made of, which must outlive it.
class Convex {
 public:
  explicit Convex(const Ball& shape);
  explicit Convex(const Capsule& shape);
  explicit Convex(const Box& shape);
  explicit Convex(const Cylinder& shape);
  explicit Convex(const Cone& shape);
  explicit Convex(const Hull& shape);
  explicit Convex(const Triangle& shape);
  explicit Convex(const Segment& segment);
  explicit Convex(const Vec3& point);
  explicit Convex(std::span<const Vec3> points);
  explicit Convex(const SectorPart& part);
  explicit Convex(const Shape& shape);

  /// The point of the core that is farthest along `direction`.
  Vec3 farthest(const Vec3& direction) const;
  double margin() const { return margin_; }
  /// A point of the core.
  Vec3 middle() const { return middle_; }

 private:
  enum class Kind { segment, box, cylinder, cone, points, triangle, sector };

  Kind kind_ = Kind::segment;
  Vec3 a_,
      b_;  ///< segment: its ends; cylinder: the ends of the axis; cone: apex and base; triangle: two corners
  Vec3 axis_;          ///< cylinder and cone: one metre long; triangle: its third corner
  double radius_ = 0;  ///< cylinder and cone
  double margin_ = 0;
  Vec3 middle_;
  const Box* box_ = nullptr;
  std::span<const Vec3> points_;
  const SectorPart* part_ = nullptr;
};

/// The nearest points of two convex shapes.
struct Apart {
  double distance = 0;  ///< between the surfaces; 0 when they touch within the tolerance
  double measured = 0;  ///< the same as it was found, below 0 when margins overlap
  Vec3 on_a, on_b;      ///< when they touch: a point that both have, as nearly as could be told
  Vec3 direction;       ///< from a to b, one metre long; all zero when the cores touch
  double clear = 0;     ///< of a plane between them that was found: nothing is nearer than this for certain
  Vec3 plane;           ///< the plane's normal, from a to b
};

/// Gilbert, Johnson and Keerthi's algorithm (1988) on the cores, with the nearest point of a simplex as in
/// Ericson, Real-Time Collision Detection (2005), 9.5. It stops when the distance is known to 1e-12 of the
/// scale of the shapes, or after 100 rounds; then the distance is too large by at most what the last
/// supporting plane leaves open. `shift` moves a before it is looked at.
Apart nearest_points(const Convex& a, const Convex& b, const Vec3& shift = {});

/// The same with `a` carried by a pose. What is farther apart than `beyond` is told as soon as a plane shows
/// that: all three distances are then that plane's, more than `beyond` and no more than the true one, and
/// there are no points.
Apart nearest_points(const Convex& a, const Pose& pose, const Convex& b,
                     double beyond = std::numeric_limits<double>::infinity());
Apart nearest_points_within(const Convex& a, const Convex& b, double beyond);

/// When a, which moves by `travel`, first touches b: the part of the travel in [0, 1], or nothing.
/// Conservative advancement (Mirtich 1996) by supporting planes: the time found is never later than the true
/// one, and earlier only while the gap is above the tolerance.
struct Meeting {
  double part = 0;
  Vec3 point, normal;  ///< of b's surface there, outward; all zero normal when they touch at the start
};
std::optional<Meeting> first_meeting(const Convex& a, const Vec3& travel, const Convex& b);

/// The same as a contact, whose distance is that travelled.
std::optional<Contact> first_contact(const Convex& a, const Vec3& travel, const Convex& b);

/// First contact of a ray, as of a moving point. `around` is a box around the shape.
std::optional<Contact> first_contact(const Convex& shape, const Bounds& around, const Ray& line);

/// How far apart two shapes are, one of them carried by a pose into the frame of the other: of balls and
/// capsules in closed form, below 0 by how deep they overlap; else as `measured` says. More than `beyond` is
/// told as `nearest_points` does.
double gap_between(const Shape& a, const Pose& a_in_b, const Shape& b,
                   double beyond = std::numeric_limits<double>::infinity());

}  // namespace dardo::detail
