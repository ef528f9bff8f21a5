#pragma once
#include <optional>

#include "dardo/geometry/ray.hpp"

// The few computations that the pairs of shapes are made of.
namespace dardo::detail {

/// The smaller parameter at which a line touches a ball, or nothing; may be negative. `offset` is the line's
/// start seen from the ball's centre, `direction` a unit vector, `slack` the gap that still counts as
/// contact. Solved around the point closest to the centre, so that a far start costs no digits (Haines et
/// al., "Precision Improvements for Ray/Sphere Intersection", Ray Tracing Gems, 2019).
std::optional<double> line_enters_ball(const Vec3& offset, const Vec3& direction, double radius,
                                       double slack);

/// Parameter in [0, 1] of the point of the segment nearest to `place`.
double nearest_parameter(const Segment& segment, const Vec3& place);

/// How near two segments come, and where along the first one (in [0, 1]). (Ericson, Real-Time Collision
/// Detection, 2005, 5.1.9.)
struct SegmentsApart {
  double distance, along;
};
SegmentsApart segments_apart(const Segment& a, const Segment& b);

/// Distance between a segment and the box of half extents `half` around the origin, axis-aligned.
double segment_box_distance(const Segment& segment, const Vec3& half);

/// Any unit vector at a right angle to `direction`.
Vec3 any_perpendicular(const Vec3& direction);

}  // namespace dardo::detail
