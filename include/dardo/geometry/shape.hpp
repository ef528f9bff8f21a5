#pragma once
#include <variant>

#include "dardo/geometry/ball.hpp"
#include "dardo/geometry/box.hpp"
#include "dardo/geometry/capsule.hpp"
#include "dardo/problem.hpp"

namespace dardo {

/// Any volume that can be a hitbox. A new kind is added here and gets a file of its own beside the others,
/// with the same six functions.
using Shape = std::variant<Ball, Capsule, Box>;

std::optional<Contact> ray(const Shape& shape, const Ray& ray);
Nearest nearest(const Shape& shape, const Vec3& place);
double distance(const Shape& shape, const Segment& segment);
Bounds bounds(const Shape& shape);
Shape placed(const Shape& shape, const Pose& pose);
Vec3 center(const Shape& shape);

/// Whether `place` lies in the shape or on its surface.
bool contains(const Shape& shape, const Vec3& place);
/// Whether the two touch; closed, within the tolerance of docs/geometry.md.
bool overlaps(const Ball& ball, const Shape& shape);
/// How far apart the surfaces of the two are; 0 exactly when `overlaps` says that they touch.
double distance(const Ball& ball, const Shape& shape);
/// Whether the segment touches a box. Says the same with the segment's ends swapped, to the bit.
bool touches(const Box& shape, const Segment& segment);

/// Everything that is wrong with a shape: numbers that are not finite, negative sizes, coordinates too large.
Problems check(const Shape& shape);

}  // namespace dardo
