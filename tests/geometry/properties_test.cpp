// What must hold of any shapes at all; RapidCheck makes them, and shrinks what fails.
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "dardo/geometry/shape.hpp"
#include "support/random.hpp"

namespace rc {

template <>
struct Arbitrary<dardo::Vec3> {
  static Gen<dardo::Vec3> arbitrary() {
    // Quarters: coincidences, parallels and tangents come up often, and shrink to small whole numbers.
    const auto coordinate = gen::map(gen::inRange(-40, 41), [](int quarters) { return quarters * 0.25; });
    return gen::construct<dardo::Vec3>(coordinate, coordinate, coordinate);
  }
};

template <>
struct Arbitrary<dardo::Rotation> {
  static Gen<dardo::Rotation> arbitrary() {
    const auto angle =
        gen::map(gen::inRange(-12, 13), [](int twelfths) { return twelfths * 0.2617993877991494; });
    return gen::apply(dardo::Rotation::yaw_pitch_roll, angle, angle, angle);
  }
};

template <>
struct Arbitrary<dardo::Shape> {
  static Gen<dardo::Shape> arbitrary() {
    using namespace dardo;
    const auto place = gen::arbitrary<Vec3>();
    const auto size = gen::map(gen::inRange(0, 13), [](int quarters) { return quarters * 0.25; });
    const auto apart = [](const Shape& s) { return check(s).empty(); };
    return gen::oneOf(
        gen::map(gen::construct<Ball>(place, size), [](Ball s) { return Shape(s); }),
        gen::map(gen::construct<Capsule>(place, place, size), [](Capsule s) { return Shape(s); }),
        gen::map(
            gen::construct<Box>(place, gen::construct<Vec3>(size, size, size), gen::arbitrary<Rotation>()),
            [](Box s) { return Shape(s); }),
        gen::suchThat(
            gen::map(gen::construct<Cylinder>(place, place, size), [](Cylinder s) { return Shape(s); }),
            apart),
        gen::suchThat(gen::map(gen::construct<Cone>(place, place, size), [](Cone s) { return Shape(s); }),
                      apart),
        gen::suchThat(
            gen::map(gen::construct<Triangle>(place, place, place), [](Triangle s) { return Shape(s); }),
            apart),
        gen::map(gen::nonEmpty<std::vector<Vec3>>(),
                 [](std::vector<Vec3> points) { return Shape(Hull{points}); }));
  }
};

}  // namespace rc

namespace dardo::properties_test {
namespace {

void near(double a, double b, double within) {
  if (std::fabs(a - b) > within)
    RC_FAIL(std::to_string(a) + " and " + std::to_string(b) + " are apart by " +
            std::to_string(1e9 * std::fabs(a - b)) + "e-9");
}

RC_GTEST_PROP(ShapesProperty, ClosestSaysTheSameFromBothSides, (const Shape& a, const Shape& b)) {
  const Closest there = closest(a, b), back = closest(b, a);
  near(there.distance, back.distance, 3e-8);
  near(length(there.on_a - there.on_b), there.distance, 3e-8);
  near(nearest(a, there.on_a).distance, 0, 1e-7);
  near(nearest(b, there.on_b).distance, 0, 1e-7);
}

RC_GTEST_PROP(ShapesProperty, DistanceIsZeroExactlyWhereTheyOverlap, (const Shape& a, const Shape& b)) {
  RC_ASSERT((closest(a, b).distance == 0) == overlaps(a, b));
  if (const auto* ball = std::get_if<Ball>(&a)) near(distance(*ball, b), closest(a, b).distance, 3e-8);
}

RC_GTEST_PROP(ShapesProperty, ARigidMotionChangesNothing,
              (const Shape& a, const Shape& b, const Vec3& by, const Rotation& turn, const Vec3& travel)) {
  const Pose pose{by, turn};
  near(closest(placed(a, pose), placed(b, pose)).distance, closest(a, b).distance, 3e-8);
  const auto here = sweep(a, travel, b), there = sweep(placed(a, pose), turn * travel, placed(b, pose));
  // A graze may be met on one side of rounding and missed on the other.
  if (here && there) near(here->distance, there->distance, 1e-3);
  if (here.has_value() != there.has_value()) {
    const auto& met = here ? *here : *there;
    const Vec3 at = length(travel) > 0 ? travel * (met.distance / length(travel)) : Vec3{};
    near(closest(placed(a, {at, {}}), b).distance, 0, 1e-6);
  }
}

RC_GTEST_PROP(ShapesProperty, ASweepEndsWhereTheDistanceIsZeroAndNotLater,
              (const Shape& a, const Shape& b, const Vec3& travel)) {
  const auto met = sweep(a, travel, b);
  const double size = length(travel), until = met && size > 0 ? met->distance / size : met ? 0 : 1;
  const auto gap = [&](double part) { return closest(placed(a, {travel * part, {}}), b).distance; };
  if (met) near(gap(until), 0, 2e-7);
  for (int k = 0; k < 16 && until > 0; ++k) RC_ASSERT(gap(until * k / 16) > 0);
  if (!met) RC_ASSERT(gap(1) > 0);
}

RC_GTEST_PROP(ShapesProperty, ARayIsASweptPoint, (const Shape& shape, const Vec3& from, const Vec3& to)) {
  RC_PRE(length(to - from) > 0);
  const Ray line{from, normalized(to - from), length(to - from)};
  const auto by_ray = ray(shape, line);
  const auto by_sweep = sweep(Ball{from, 0}, to - from, shape);
  if (by_ray && by_sweep) near(by_ray->distance, by_sweep->distance, 1e-3);
  if (by_ray.has_value() != by_sweep.has_value()) near(distance(shape, Segment{from, to}), 0, 1e-7);
  if (by_ray) near(nearest(shape, by_ray->point).distance, 0, 1e-7);
}

/// All but hulls are met in closed form: to rounding, and nowhere sooner.
RC_GTEST_PROP(ShapesProperty, ARayMeetsTheSurfaceItself,
              (const Shape& shape, const Vec3& from, const Vec3& to)) {
  RC_PRE(length(to - from) > 0 && !std::holds_alternative<Hull>(shape));
  const Ray line{from, normalized(to - from), 100};
  const auto met = ray(shape, line);
  if (!met) return;
  near(nearest(shape, met->point).distance, 0, 1e-12);
  for (const double share : {0.0, 0.5, 0.9, 0.999}) {
    if (met->distance > 1e-3) RC_ASSERT(nearest(shape, line.at(met->distance * share)).distance > 0);
  }
}

}  // namespace
}  // namespace dardo::properties_test
