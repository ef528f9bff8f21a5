// Contacts of what flies, against what is true of them by definition: nothing is flown through, and nothing
// is told that does not touch.
#include "resolve/carriers/shot/touch.hpp"

#include <gtest/gtest.h>

#include "support/effort.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::detail::touch_test {
namespace {

using test::Random;

constexpr int kPairs = 6;

/// A shape of each kind around the origin, no smaller than a bolt, no larger than a cart.
Shape shape_of(Random& random, int kind, double size) {
  const auto r = [&] { return random.range(0.1, 1) * size; };
  const Vec3 end = random.direction() * r();
  switch (kind) {
    case 0: return Ball{{}, r()};
    case 1: return Capsule{-end, end, r()};
    case 2: return Box{{}, {r(), r(), r()}, random.chance(0.5) ? Rotation{} : random.rotation()};
    case 3: return Cylinder{-end, end, r()};
    case 4: return Cone{end, -end, r()};
    default: {
      // The middle of two opposite points is inside whatever the others are.
      Hull hull{{end * 2, end * -2}};
      for (int i = 0; i < 5; ++i) hull.points.push_back(random.place(size));
      return hull;
    }
  }
}

struct Case {
  Shape flying, hitbox;
  Flyer flyer;
  Piece piece;
  Leg leg;

  /// Something that flies at the middle of a hitbox, which stands, or moves and turns, and is met on the way.
  Case(Random& random, int flying_kind, int kind)
      : flying(shape_of(random, flying_kind, 0.3)), hitbox(shape_of(random, kind, 0.6)) {
    if (const auto* ball = std::get_if<Ball>(&flying)) {
      flyer.radius = ball->radius;
    } else {
      flyer.shape = &flying;
    }
    const double meets = random.range(0.2, 1), speed = random.range(2, 60);
    const Vec3 where = random.place(30), way = random.chance(0.2) ? Vec3{1, 0, 0} : random.direction();
    piece = {0, 1, where - way * (speed * meets), way * speed, {}, {}};
    if (random.chance(0.4)) {  // it falls, and still comes there
      piece.acceleration = {0, 0, -9.81};
      piece.velocity = piece.velocity - piece.acceleration * (0.5 * meets);
    }
    leg = {0, 1, {where, {}}, {}, {0, 0, 1}, 0};
    if (random.chance(0.5)) leg.from.turn = Rotation::about_z(random.range(-3, 3));
    if (random.chance(0.4)) leg.velocity = random.place(3), leg.from.at = where - leg.velocity * meets;
    if (random.chance(0.3)) leg.axis = random.direction(), leg.turn_rate = random.range(0.1, 6);
  }
};

TEST(Touch, NoShapeFliesThroughAnother) {
  for (int a = 0; a < kPairs; ++a) {
    for (int b = 0; b < kPairs; ++b) {
      Random random(static_cast<std::uint64_t>(a * kPairs + b + 1));
      for (int i = 0; i < test::effort(400); ++i) {
        const Case c(random, a, b);
        const auto t = touch_hitbox(c.flyer, c.piece, 0, 1, c.hitbox, c.leg);
        ASSERT_TRUE(t) << "flyer " << a << " hitbox " << b << " case " << i;
        ASSERT_TRUE(*t >= 0 && *t <= 1);
        EXPECT_LE(gap_to(c.flyer, c.piece, *t, c.hitbox, c.leg), 3e-8) << a << ' ' << b << ' ' << i;
        // Not later than the first of a thousand moments at which they overlap.
        if (i % 100 != 0) continue;
        for (int k = 0; k < 1000; ++k) {
          const double before = *t * k / 1000 - 1e-7;
          if (before > 0 && before < *t - 1e-6)
            ASSERT_GT(gap_to(c.flyer, c.piece, before, c.hitbox, c.leg), 0)
                << a << ' ' << b << ' ' << i << " at " << before;
        }
      }
    }
  }
}

TEST(Touch, WhatPassesByIsNotTouched) {
  // Past each other by more than both reach.
  for (int a = 0; a < kPairs; ++a) {
    for (int b = 0; b < kPairs; ++b) {
      Random random(static_cast<std::uint64_t>(100 + a * kPairs + b));
      for (int i = 0; i < test::effort(100); ++i) {
        Case c(random, a, b);
        const Vec3 aside = normalized(cross(c.piece.velocity, random.direction()));
        double reach = c.flyer.reach();
        const Bounds around = bounds(c.hitbox);
        reach += length(around.high - around.low);
        c.piece.at = c.piece.at + aside * (reach + 0.01);
        c.piece.acceleration = {};
        c.leg.velocity = {}, c.leg.from.at = c.piece.at - aside * (reach + 0.01) + c.piece.velocity * 0.5;
        EXPECT_FALSE(touch_hitbox(c.flyer, c.piece, 0, 1, c.hitbox, c.leg)) << a << ' ' << b << ' ' << i;
      }
    }
  }
}

/// A gap exactly as wide as the ball: touched where it begins, no earlier than the tolerance lets.
TEST(Touch, AGapAsWideAsTheBallIsTouchedWhereItBegins) {
  for (const double r : {0.05, 0.25, 0.5, 2.0}) {
    for (const double far : {3.0, 40.0}) {
      const Box side{{far + 1, r + 1, 0}, {1, 1, 5}, {}};
      const Flyer ball{r, nullptr};
      const Piece piece{0, 10, {0, 0, 0}, {20, 0, 0}, {}, {}};
      const auto t = touch_hitbox(ball, piece, 0, 10, side, standing());
      ASSERT_TRUE(t);
      EXPECT_LE(far - 20 * *t, 2 * std::sqrt(2 * r * contact_gap(far)));
      EXPECT_GE(far - 20 * *t, -1e-9);
    }
  }
}

TEST(Touch, TheGroundIsMetAtTheRootOfTheHeight) {
  const Piece lob{0, 5, {0, 0, 2}, {3, 0, 8}, {0, 0, -9.81}, {}};
  const auto t = touch_ground({0.5, nullptr}, lob, 0, 5, {0, 0, 1}, 0);
  ASSERT_TRUE(t);
  EXPECT_NEAR(*t, (8 + std::sqrt(64 + 2 * 9.81 * 1.5)) / 9.81, 1e-12);
  const Shape box = Box{{}, {0.3, 0.2, 0.1}, {}};
  const auto shaped = touch_ground({0, &box}, lob, 0, 5, {0, 0, 1}, 0);
  ASSERT_TRUE(shaped);
  const Pose there = Flyer{0, &box}.pose(lob, *shaped);
  EXPECT_NEAR(bounds(placed(box, there)).low.z, 0, 1e-9);
}

/// Sliding along at a hair's breadth, or turning beside each other, costs no more than a few hundred looks.
TEST(Touch, AShapeThatStandsLooksWhereItIsHeaded) {
  const Shape box = Box{{}, {1, 0.2, 0.2}, {}};
  const Vec3 heading = normalized(Vec3{1, 2, 0});
  const Piece standing_still{0, 1, {3, 0, 0}, {}, {}, {}};
  EXPECT_NEAR(length((Flyer{.shape = &box, .heading = heading}.turn(standing_still, 0.5).x) - heading), 0,
              1e-12);
}

TEST(Touch, AGrazeEnds) {
  const Shape blade = Box{{}, {0.3, 0.05, 0.1}, {}}, post = Cylinder{{0, 0, -1}, {0, 0, 1}, 0.4};
  for (const double gap : {0.0, 1e-14, 1e-12, 1e-9, 1e-6}) {
    const Piece along{0, 1, {-4, 0.45 + gap, 0}, {20, 0, 0}, {}, {}};
    Leg turning{0, 1, {}, {}, {0, 0, 1}, 7};
    for (const Shape* flying : {static_cast<const Shape*>(nullptr), &blade}) {
      const Flyer flyer{flying == nullptr ? 0.05 : 0, flying};
      const auto still = touch_hitbox(flyer, along, 0, 1, post, standing());
      // What lies between the two is below what the distance of two shapes is known to.
      if (gap < 1e-13) EXPECT_TRUE(still) << gap;
      if (gap > 1e-8 || (flying == nullptr && gap > 1e-13)) EXPECT_FALSE(still) << gap;
      (void)touch_hitbox(flyer, along, 0, 1, post, turning);
    }
  }
}

TEST(Touch, AShapeThatStandsStillLooksAsItDidJustBefore) {
  const Shape blade = Capsule{{-1, 0, 0}, {1, 0, 0}, 0.1};
  const Flyer flyer{0, &blade};
  const Piece up{0, 2, {}, {0, 0, 10}, {0, 0, -10}, {}};
  const double top = 1;
  EXPECT_EQ(flyer.turn(up, top).x, flyer.turn(up, top - 1e-3).x);
  EXPECT_EQ(flyer.turn({0, 1, {}, {}, {3, 0, 0}, {}}, 0).x, (Vec3{1, 0, 0})) << "as it sets off";
  // Beside it, where it would reach if it lay down for that instant.
  EXPECT_FALSE(touch_hitbox(flyer, up, 0, 2, Ball{{0.7, 0, 5}, 0.2}, standing()));
}

TEST(Touch, ALengthIsTheSameHoweverItIsCut) {
  for (const double aside : {0.0, 1e-12, 1e-6, 1e-3, 1.0}) {
    const Piece piece{0, 2, {}, {aside, 0, 1.44}, {0, 0, -10}, {}};
    // The arc length of a parabola.
    const auto over = [&](double s) {
      return aside > 0 ? (s * std::hypot(s, aside) + aside * aside * std::asinh(s / aside)) / 20
                       : s * std::fabs(s) / 20;
    };
    const double whole = over(10 * 0.916 - 1.44) - over(-1.44);
    EXPECT_NEAR(piece.length(0, 0.916), whole, 1e-9) << aside;
    for (const double cut : {0.1, 0.144, 0.2, 0.5})
      EXPECT_NEAR(piece.length(0, cut) + piece.length(cut, 0.916), whole, 1e-9) << aside << " at " << cut;
  }
}

TEST(Touch, TwoThatLieInEachOtherTouchAtOnePlaceHoweverTheyAreDescribed) {
  const Shape blade = Cylinder{{-0.5, 0, 0}, {0.5, 0, 0}, 0.25},
              crate = Box{{0.3, 0.2, 0}, {0.5, 0.5, 0.5}, {}};
  Hull corners;
  for (int i = 0; i < 8; ++i)
    corners.points.push_back({i & 1 ? 0.8 : -0.2, i & 2 ? 0.7 : -0.3, i & 4 ? 0.5 : -0.5});
  const Flyer flyer{0, &blade};
  for (const Vec3& at : {Vec3{}, Vec3{-0.4, 0.1, 0.2}, Vec3{0.9, 0.3, 0}}) {
    const Piece piece{0, 1, at, {3, 1, 0}, {}, {}};
    const Contact a = contact_at(flyer, piece, 0, crate, standing()),
                  b = contact_at(flyer, piece, 0, corners, standing());
    EXPECT_LT(length(a.point - b.point), 1e-9);
    EXPECT_EQ(a.normal, b.normal);
  }
}

}  // namespace
}  // namespace dardo::detail::touch_test
