#pragma once
#include "support/situation.hpp"

// What is drawn by its rows alone, made to mean something; and the same attack in another scale, or seen in a
// mirror.
namespace dardo::test {

/// Nothing of it is refused afterwards.
void fit(Attack& attack);
/// Whether it has to be aimed at a body.
bool needs_body(const Attack& attack);
/// Everything that has a length, in another scale.
void scale(Attack& attack, double factor);
/// Left and right are changed.
void mirror(Attack& attack);
Vec3 mirrored(const Vec3& place);
Rotation mirrored(const Rotation& turn);
Shape mirrored(Shape shape);

}  // namespace dardo::test
