#pragma once
#include <variant>

#include "dardo/geometry/ball.hpp"
#include "dardo/geometry/box.hpp"
#include "dardo/geometry/capsule.hpp"
#include "dardo/geometry/cone.hpp"
#include "dardo/geometry/cylinder.hpp"
#include "dardo/geometry/hull.hpp"
#include "dardo/geometry/triangle.hpp"
#include "dardo/problem.hpp"

namespace dardo {

/// Any volume that can be a hitbox. A new kind is added here and gets a file of its own beside the others,
/// with the same six functions.
using Shape = std::variant<Ball, Capsule, Box, Cylinder, Cone, Hull, Triangle>;

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
/// The nearest points of two shapes.
struct Closest {
  double distance = 0;  ///< between the surfaces; 0 exactly when they touch within the tolerance
  Vec3 on_a, on_b;      ///< the same point of both when they touch
};
/// How far apart any two shapes are, and where they are nearest. Says the same of (b, a), but for rounding.
Closest closest(const Shape& a, const Shape& b);
bool overlaps(const Shape& a, const Shape& b);

/// First contact of a shape that moves by `travel`, without turning, with one at rest; nothing when they
/// never touch. Closed: touching at the end of the travel counts. `distance` is that travelled, the point and
/// the normal are those of `rest`; a shape that touches at the start has a normal against its travel. Never
/// later than the true contact, and earlier by no more than what a gap within the tolerance of
/// docs/geometry.md takes.
std::optional<Contact> sweep(const Shape& moving, const Vec3& travel, const Shape& rest);

/// The part of a way that lies in a shape, both ends included, metres from its start.
struct Crossing {
  double enter = 0, leave = 0;
};
/// Where a ray enters a shape and leaves it again, within its length; nothing when it does not touch it. A
/// ray that starts or ends inside enters at 0 or leaves at its length.
std::optional<Crossing> crossing(const Shape& shape, const Ray& ray);
/// The same of a shape that moves by `travel`, without turning, past one at rest: how long they touch.
std::optional<Crossing> crossing(const Shape& moving, const Vec3& travel, const Shape& rest);

/// Whether the segment touches a box. Says the same with the segment's ends swapped, to the bit.
bool touches(const Box& shape, const Segment& segment);

/// Everything that is wrong with a shape: numbers that are not finite, negative sizes, coordinates too large.
Problems check(const Shape& shape);

}  // namespace dardo
