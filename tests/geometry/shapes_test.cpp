#include <gtest/gtest.h>

#include <numbers>
#include <optional>
#include <vector>

#include "dardo/geometry/half_space.hpp"
#include "dardo/geometry/shape.hpp"
#include "geometry/detail/kernels.hpp"
#include "support/random.hpp"

namespace dardo::shapes_test {
namespace {

constexpr double kInf = std::numeric_limits<double>::infinity();
const double kRoot2 = std::sqrt(2.0);

struct RayCase {
  const char* title;
  Shape shape;
  Ray ray;
  std::optional<double> distance;  // nothing: a miss
  Vec3 normal{};
};

const Rotation kQuarter = Rotation::about_z(std::numbers::pi / 4);

std::vector<RayCase> ray_cases() {
  const Vec3 x{1, 0, 0}, y{0, 1, 0}, z{0, 0, 1};
  return {
      {"ball, head on", Ball{{5, 0, 0}, 1}, {{0, 0, 0}, x, 10}, 4, -x},
      {"ball, off the middle", Ball{{5, 0.6, 0}, 1}, {{0, 0, 0}, x, 10}, 4.2, {-0.8, -0.6, 0}},
      {"ball, tangent", Ball{{5, 1, 0}, 1}, {{0, 0, 0}, x, 10}, 5, -y},
      {"ball, just missed", Ball{{5, 1 + 1e-9, 0}, 1}, {{0, 0, 0}, x, 10}, std::nullopt},
      {"ball, reach ends on it", Ball{{5, 0, 0}, 1}, {{0, 0, 0}, x, 4}, 4, -x},
      {"ball, reach ends before it", Ball{{5, 0, 0}, 1}, {{0, 0, 0}, x, 4 - 1e-9}, std::nullopt},
      {"ball, behind", Ball{{-5, 0, 0}, 1}, {{0, 0, 0}, x, 10}, std::nullopt},
      {"ball, start inside, heading out", Ball{{0.5, 0, 0}, 1}, {{0, 0, 0}, -x, 10}, 0, x},
      {"ball, start on the surface, heading away", Ball{{-1, 0, 0}, 1}, {{0, 0, 0}, x, 10}, 0, -x},
      {"ball of radius 0, hit", Ball{{5, 0, 0}, 0}, {{0, 0, 0}, x, 10}, 5, -x},
      {"ball, ray of length 0 inside", Ball{{0, 0, 0}, 1}, {{0.2, 0, 0}, x, 0}, 0, -x},
      {"ball, far from the origin", Ball{{1e7, 1e7, 0}, 1e-3}, {{1e7 - 1, 1e7, 0}, x, 2}, 1 - 1e-3, -x},
      {"capsule, side", Capsule{{5, 0, -1}, {5, 0, 1}, 0.5}, {{0, 0, 0}, x, 10}, 4.5, -x},
      {"capsule, cap", Capsule{{5, 0, -1}, {5, 0, 1}, 0.5}, {{0, 0, 1.3}, x, 10}, 4.6, {-0.8, 0, 0.6}},
      {"capsule, along its axis", Capsule{{5, 0, 0}, {8, 0, 0}, 0.5}, {{0, 0, 0}, x, 10}, 4.5, -x},
      {"capsule, tangent to the side", Capsule{{5, 0.5, -1}, {5, 0.5, 1}, 0.5}, {{0, 0, 0}, x, 10}, 5, -y},
      {"capsule, above its end",
       Capsule{{5, 0, -1}, {5, 0, 1}, 0.5},
       {{0, 0, 1.5 + 1e-9}, x, 10},
       std::nullopt},
      {"capsule, start inside", Capsule{{0, 0, -1}, {0, 0, 1}, 0.5}, {{0.1, 0, 0.9}, x, 10}, 0, -x},
      {"capsule of length 0", Capsule{{5, 0, 0}, {5, 0, 0}, 1}, {{0, 0, 0}, x, 10}, 4, -x},
      {"capsule of radius 0, crossed", Capsule{{5, -1, 0}, {5, 1, 0}, 0}, {{0, 0, 0}, x, 10}, 5, -x},
      {"box, face", Box{{5, 0, 0}, {1, 1, 1}, {}}, {{0, 0.5, 0}, x, 10}, 4, -x},
      {"box, edge on", Box{{5, 0, 0}, {1, 1, 1}, kQuarter}, {{0, 0, 0.5}, x, 10}, 5 - kRoot2, {}},
      {"box, ray in a face", Box{{5, 1, 0}, {1, 1, 1}, {}}, {{0, 0, 0}, x, 10}, 4, -x},
      {"box, just beside the face", Box{{5, 1 + 1e-9, 0}, {1, 1, 1}, {}}, {{0, 0, 0}, x, 10}, std::nullopt},
      {"box, start inside, heading out", Box{{0, 0, 0}, {1, 1, 1}, {}}, {{0.9, 0, 0}, x, 10}, 0, -x},
      {"box, flat plate", Box{{5, 0, 0}, {0, 1, 1}, {}}, {{0, 0, 0}, x, 10}, 5, -x},
      {"box, plate lying in the ray", Box{{5, 0, 0}, {1, 0, 1}, {}}, {{0, 0, 0}, x, 10}, 4, -x},
      {"box, from above", Box{{0, 0, 0}, {1, 2, 3}, {}}, {{0, 0, 9}, -z, 10}, 6, z},
      {"cylinder, side", Cylinder{{5, 0, -1}, {5, 0, 1}, 0.5}, {{0, 0, 0}, x, 10}, 4.5, -x},
      {"cylinder, on its flat end", Cylinder{{0, 0, -1}, {0, 0, 1}, 0.5}, {{0.4, 0, 9}, -z, 20}, 8, z},
      {"cylinder, past its rim",
       Cylinder{{0, 0, -1}, {0, 0, 1}, 0.5},
       {{0.5 + 1e-9, 0, 9}, -z, 20},
       std::nullopt},
      {"cylinder, where a capsule would be met",
       Cylinder{{5, 0, -1}, {5, 0, 1}, 0.5},
       {{0, 0, 1.3}, x, 10},
       std::nullopt},
      {"cone, onto its apex", Cone{{0, 0, 2}, {0, 0, 0}, 1}, {{0, 0, 9}, -z, 20}, 7, {}},
      {"cone, slope",
       Cone{{0, 0, 2}, {0, 0, 0}, 1},
       {{-5, 0, 1}, x, 20},
       4.5,
       {-2 / std::sqrt(5), 0, 1 / std::sqrt(5)}},
      {"cone, above its slope", Cone{{0, 0, 2}, {0, 0, 0}, 1}, {{-5, 0, 2.001}, x, 20}, std::nullopt},
      {"hull, a face", Hull{{{5, 0, 0}, {5, 2, 0}, {5, 0, 2}, {7, 0, 0}}}, {{0, 0.2, 0.2}, x, 10}, 5, -x},
      {"hull, beside the face",
       Hull{{{5, 0, 0}, {5, 2, 0}, {5, 0, 2}, {7, 0, 0}}},
       {{0, 1.1, 1.1}, x, 10},
       std::nullopt},
      {"hull, start inside",
       Hull{{{-1, -1, -1}, {2, 0, 0}, {0, 2, 0}, {0, 0, 2}}},
       {{0, 0, 0}, x, 10},
       0,
       -x},
      {"hull of one point", Hull{{{5, 0, 0}}}, {{0, 0, 0}, x, 10}, 5, -x},
      {"box, from below past it", Box{{0, 0, 0}, {1, 2, 3}, {}}, {{1.1, 0, -9}, z, 20}, std::nullopt},
  };
}

TEST(Ray, ClosedForms) {
  for (const RayCase& c : ray_cases()) {
    SCOPED_TRACE(c.title);
    const auto contact = ray(c.shape, c.ray);
    ASSERT_EQ(contact.has_value(), c.distance.has_value());
    if (!contact) continue;
    EXPECT_NEAR(contact->distance, *c.distance, 1e-8);
    EXPECT_LE(length(contact->point - c.ray.at(contact->distance)), 1e-12);
    if (!(c.normal == Vec3{})) EXPECT_LE(length(contact->normal - c.normal), 1e-6);
    EXPECT_NEAR(length(contact->normal), 1, 1e-12);
  }
}

TEST(Ray, IsTheSameAfterARigidMotion) {
  test::Random random(11);
  for (int i = 0; i < 3000; ++i) {
    SCOPED_TRACE(i);
    const Shape shape = random.shape(3);
    const Vec3 from = random.place(6);
    const Ray line{from, random.direction_to(from, center(shape), 1), random.range(0, 12)};
    const Pose motion{random.place(50), random.rotation()};
    const auto here = ray(shape, line);
    const auto there =
        ray(placed(shape, motion), {motion * line.from, motion.turn * line.direction, line.length});
    if (here.has_value() != there.has_value()) {
      // Only where the ray barely grazes may rounding decide.
      const double gap = distance(shape, Segment{line.from, line.at(line.length)});
      EXPECT_LT(gap, 1e-12);
      continue;
    }
    if (here) EXPECT_NEAR(here->distance, there->distance, 1e-7);
  }
}

// The reference knows nothing of rays: it walks along with steps no longer than the distance to the shape.
TEST(Ray, AgreesWithMarchingByDistance) {
  test::Random random(12);
  int hits = 0;
  for (int i = 0; i < 3000; ++i) {
    SCOPED_TRACE(i);
    const Shape shape = random.shape(3);
    const Vec3 from = random.place(6);
    const Ray line{from, random.direction_to(from, center(shape), 1), random.range(0, 12)};
    double t = 0, gap = nearest(shape, line.from).distance;
    for (int step = 0; step < 2000 && gap > 1e-10 && t <= line.length; ++step) {
      t += gap;
      gap = nearest(shape, line.at(t)).distance;
    }
    const auto contact = ray(shape, line);
    if (t > line.length + 1e-6) {
      EXPECT_FALSE(contact.has_value());
    } else if (gap <= 1e-10) {
      ASSERT_TRUE(contact.has_value());
      EXPECT_NEAR(contact->distance, t, 1e-4);
      EXPECT_LE(nearest(shape, contact->point).distance, 1e-7);
      ++hits;
    }
  }
  EXPECT_GT(hits, 400);
}

TEST(Distance, ToSegmentsAgreesWithDenseSampling) {
  test::Random random(13);
  for (int i = 0; i < 1500; ++i) {
    SCOPED_TRACE(i);
    const Shape shape = random.shape(3);
    const Segment segment{random.place(6), random.chance(0.1) ? Vec3{1, 2, 3} : random.place(6)};
    // The distance along a segment is convex: golden section finds its least value.
    double low = 0, high = 1;
    const auto at = [&](double t) {
      return nearest(shape, segment.from + (segment.to - segment.from) * t).distance;
    };
    for (int k = 0; k < 120; ++k) {
      const double a = high - (high - low) * 0.6180339887, b = low + (high - low) * 0.6180339887;
      (at(a) < at(b) ? high : low) = at(a) < at(b) ? b : a;
    }
    EXPECT_NEAR(distance(shape, segment), at(low), 1e-7);
  }
}

TEST(Distance, IsZeroExactlyWhereShapesOverlap) {
  struct Case {
    Ball ball;
    Shape shape;
    double distance;
  };
  const std::vector<Case> cases{
      {{{0, 0, 0}, 1}, Ball{{3, 0, 0}, 1}, 1},
      {{{0, 0, 0}, 1}, Ball{{2, 0, 0}, 1}, 0},
      {{{0, 0, 0}, 1}, Ball{{2 + 1e-9, 0, 0}, 1}, 1e-9},
      {{{0, 0, 0}, 0.3}, Ball{{0.1 + 0.2 + 0.3, 0, 0}, 0.3}, 0},  // touching but for rounding
      {{{0, 0, 0}, 1}, Capsule{{2, 0, -1}, {2, 0, 1}, 0.25}, 0.75},
      {{{0, 0, 3}, 1}, Capsule{{0, 0, -1}, {0, 0, 1}, 0.25}, 0.75},
      {{{0, 0, 0}, 1}, Box{{3, 3, 0}, {1, 1, 1}, {}}, 2 * kRoot2 - 1},
      {{{0, 0, 0}, 1}, Box{{3, 0, 0}, {1, 1, 1}, kQuarter}, 2 - kRoot2},
      {{{0, 0, 0}, 1}, Box{{0, 0, 0}, {4, 4, 4}, kQuarter}, 0},
  };
  for (const Case& c : cases) {
    EXPECT_NEAR(distance(c.ball, c.shape), c.distance, 1e-12);
    EXPECT_EQ(overlaps(c.ball, c.shape), c.distance == 0);
    EXPECT_EQ(overlaps(c.ball, c.shape), distance(c.ball, c.shape) == 0);
  }
}

// An independent way to the nearest points of convex shapes: from one to the other and back, each time to the
// nearest.
double by_projections(const Shape& a, const Shape& b) {
  Vec3 p = center(a);
  double apart = 1e300;
  for (int i = 0; i < 20000; ++i) {
    const Vec3 q = nearest(b, p).point;
    p = nearest(a, q).point;
    const double now = length(p - q);
    if (apart - now < 1e-14) return now;
    apart = now;
  }
  return apart;
}

TEST(Closest, AgreesWithAlternatingProjections) {
  test::Random random(21);
  int apart = 0;
  for (int i = 0; i < 3000; ++i) {
    SCOPED_TRACE(i);
    const Shape a = random.shape(2), b = random.shape(random.chance(0.5) ? 2 : 6);
    const Closest c = closest(a, b), d = closest(b, a);
    EXPECT_NEAR(c.distance, d.distance, 1e-9) << "the same both ways";
    EXPECT_EQ(overlaps(a, b), c.distance == 0);
    const double reference = by_projections(a, b);
    EXPECT_LE(c.distance, reference + 1e-9);
    EXPECT_GE(c.distance, reference - 2e-3) << "which converges slowly";
    if (c.distance == 0) continue;
    ++apart;
    EXPECT_LE(nearest(a, c.on_a).distance, 1e-9);
    EXPECT_LE(nearest(b, c.on_b).distance, 1e-9);
    EXPECT_NEAR(length(c.on_a - c.on_b), c.distance, 1e-9);
    // No point of either is nearer: each lies beyond a plane across the line between them.
    const Vec3 way = (c.on_b - c.on_a) / c.distance;
    EXPECT_LE(dot(nearest(a, c.on_a + way * 1e4).point - c.on_a, way), 1e-6);
    EXPECT_GE(dot(nearest(b, c.on_b - way * 1e4).point - c.on_b, way), -1e-6);
  }
  EXPECT_GT(apart, 1000);
}

TEST(Closest, FarFromTheOriginAndForTinyShapes) {
  const Vec3 out{9e6, -9e6, 5e5};
  const Shape a = Box{out, {5e-4, 5e-4, 5e-4}, {}},
              b = Hull{{out + Vec3{2e-3, 0, 0}, out + Vec3{3e-3, 1e-3, 0}}};
  EXPECT_NEAR(closest(a, b).distance, 1.5e-3, 1e-8);
  EXPECT_TRUE(overlaps(Shape{Ball{out, 0}}, Shape{Ball{out, 0}})) << "two points in one place";
}

TEST(Sweep, MeetsWhereTheDistanceReachesZeroAndNeverLater) {
  test::Random random(22);
  int meetings = 0;
  for (int i = 0; i < 1500; ++i) {
    SCOPED_TRACE(i);
    const Shape a = random.shape(1.5), b = random.shape(3);
    const Vec3 travel = (center(b) - center(a)) * random.range(0, 2) + random.place(1.5);
    const double size = length(travel);
    const auto gap = [&](double t) { return closest(placed(a, {travel * t, {}}), b).distance; };
    const auto contact = sweep(a, travel, b);
    if (!contact) {
      for (int k = 0; k <= 64; ++k) EXPECT_GT(gap(k / 64.0), 0);
      continue;
    }
    ++meetings;
    const double t = size > 0 ? contact->distance / size : 0;
    EXPECT_LE(gap(t), 1e-7);
    for (int k = 0; k < 16; ++k) {
      if (t * k / 16 < t - 1e-7) EXPECT_GT(gap(t * k / 16), 0);
    }
    EXPECT_LE(nearest(b, contact->point).distance, 1e-7);
    EXPECT_NEAR(length(contact->normal), 1, 1e-9);
    if (t > 0) EXPECT_LE(dot(contact->normal, travel), 1e-9) << "the surface faces what comes";
  }
  EXPECT_GT(meetings, 500);
}

TEST(Sweep, ABallMeetsWhatARayMeetsOfTheGrownShape) {
  test::Random random(23);
  int meetings = 0;
  for (int i = 0; i < 2000; ++i) {
    SCOPED_TRACE(i);
    const double radius = random.range(0, 1);
    Shape rest = random.chance(0.5) ? Shape{Ball{random.place(3), 0.5}}
                                    : Shape{Capsule{random.place(3), random.place(3), 0.5}};
    const Vec3 from = random.place(6), way = random.direction_to(from, center(rest), 1) * 10;
    const auto swept = sweep(Ball{from, radius}, way, rest);
    if (auto* ball = std::get_if<Ball>(&rest)) ball->radius += radius;
    if (auto* capsule = std::get_if<Capsule>(&rest)) capsule->radius += radius;
    const auto met = ray(rest, {from, way / 10, 10});
    ASSERT_EQ(swept.has_value(), met.has_value());
    if (met) EXPECT_NEAR(swept->distance, met->distance, 1e-7);
    meetings += met.has_value();
  }
  EXPECT_GT(meetings, 500);
}

TEST(Crossing, IsWhereTheWayLiesInTheShape) {
  const Ray line{{0, 0, 0}, {1, 0, 0}, 10};
  const auto of = [&](const Shape& s) { return crossing(s, line).value_or(Crossing{-1, -1}); };
  EXPECT_NEAR(of(Ball{{5, 0.6, 0}, 1}).enter, 4.2, 1e-9);
  EXPECT_NEAR(of(Ball{{5, 0.6, 0}, 1}).leave, 5.8, 1e-9);
  EXPECT_EQ(of(Ball{{5, 0, 0}, 50}).enter, 0) << "starts inside";
  EXPECT_EQ(of(Ball{{5, 0, 0}, 50}).leave, 10) << "ends inside";
  EXPECT_NEAR(of(Ball{{5, 1, 0}, 1}).leave, 5, 1e-6) << "tangent: one point";
  EXPECT_EQ(of(Ball{{5, 2, 0}, 1}).enter, -1) << "missed";
  test::Random random(24);
  for (int i = 0; i < 500; ++i) {
    SCOPED_TRACE(i);
    const Shape a = random.shape(1), b = random.shape(3);
    const Vec3 travel = (center(b) - center(a)) * random.range(0, 2) + random.place(1);
    const double size = length(travel);
    const auto c = crossing(a, travel, b);
    if (!c || size == 0) continue;
    EXPECT_LE(c->enter, c->leave);
    for (int k = 0; k <= 16; ++k) {
      const double at = size * k / 16;
      const bool touch = overlaps(placed(a, {travel * (at / size), {}}), b);
      if (at > c->enter + 1e-6 && at < c->leave - 1e-6) EXPECT_TRUE(touch);
      if (at < c->enter - 1e-6 || at > c->leave + 1e-6) EXPECT_FALSE(touch);
    }
  }
}

TEST(HalfSpace, IsMetByTheLowestPoint) {
  const HalfSpace ground{{0, 0, 1}, {0, 0, 1}};
  struct Case {
    Shape shape;
    double height;
  };
  for (const Case& c : std::vector<Case>{{Ball{{3, 2, 5}, 1}, 3},
                                         {Capsule{{0, 0, 4}, {0, 0, 6}, 0.5}, 2.5},
                                         {Box{{0, 0, 5}, {1, 1, 1}, kQuarter}, 3},
                                         {Cylinder{{0, 0, 5}, {0, 4, 5}, 1}, 3},
                                         {Cone{{0, 0, 3}, {0, 0, 8}, 2}, 2},
                                         {Hull{{{0, 0, 9}, {1, 0, 2.5}}}, 1.5}}) {
    EXPECT_NEAR(closest(c.shape, ground).distance, c.height, 1e-12);
    EXPECT_FALSE(overlaps(c.shape, ground));
    const auto met = sweep(c.shape, {c.height, 0, -2 * c.height}, ground);
    ASSERT_TRUE(met);
    EXPECT_NEAR(met->distance, c.height / 2 * std::sqrt(5), 1e-12);
    EXPECT_NEAR(met->point.z, 1, 1e-12);
    EXPECT_FALSE(sweep(c.shape, {0, 0, -c.height + 1e-9}, ground));
    EXPECT_TRUE(sweep(c.shape, {0, 0, -c.height}, ground)) << "the end of the travel belongs to it";
    EXPECT_FALSE(sweep(c.shape, {5, 0, 3}, ground));
    EXPECT_EQ(sweep(placed(c.shape, {{0, 0, -c.height}, {}}), {1, 0, 0}, ground)->distance, 0)
        << "touching at the start";
  }
}

TEST(Prism, ConcavePolygonsAreRefusedWithTheCornerToBlame) {
  const std::vector<Vec3> square{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0.5, 1, 0}, {0, 1, 0}};
  ASSERT_TRUE(prism(square, 0, 2));
  EXPECT_TRUE(contains(Shape{*prism(square, 0, 2)}, {0.5, 0.5, 2}));
  EXPECT_FALSE(contains(Shape{*prism(square, 0, 2)}, {0.5, 0.5, 2 + 1e-9}));
  EXPECT_TRUE(prism(std::vector<Vec3>(square.rbegin(), square.rend()), 0, 2)) << "either way round";
  EXPECT_EQ(prism(square, 1, 1)->points.size(), square.size()) << "flat";
  const std::vector<Vec3> dented{{0, 0, 0}, {2, 0, 0}, {1, 1, 0}, {2, 2, 0}, {0, 2, 0}};
  EXPECT_EQ(prism(dented, 0, 1).error()[0].where, "/polygon/2");
  const std::vector<Vec3> star{{0, 1, 0}, {0.6, -0.8, 0}, {-0.95, 0.3, 0}, {0.95, 0.3, 0}, {-0.6, -0.8, 0}};
  EXPECT_EQ(prism(star, 0, 1).error()[0].what, "goes round more than once");
  EXPECT_FALSE(prism({}, 0, 1));
  EXPECT_FALSE(prism(square, 1, 0));
}

TEST(Contains, SurfaceIncluded) {
  EXPECT_TRUE(contains(Ball{{1, 0, 0}, 1}, {0, 0, 0}));
  EXPECT_FALSE(contains(Ball{{1, 0, 0}, 1}, {-1e-9, 0, 0}));
  EXPECT_TRUE(contains(Box{{0, 0, 0}, {1, 1, 1}, {}}, {1, 1, 1}));
  EXPECT_FALSE(contains(Box{{0, 0, 0}, {1, 1, 1}, {}}, {1, 1, 1 + 1e-9}));
  EXPECT_TRUE(contains(Capsule{{0, 0, 0}, {0, 0, 2}, 0.5}, {0, 0, 2.5}));
}

TEST(Bounds, HoldTheShapeTightly) {
  test::Random random(14);
  for (int i = 0; i < 500; ++i) {
    const Shape shape = random.shape(3);
    const Bounds b = bounds(shape);
    // A plane just outside each face misses the shape; the face itself touches it.
    for (const Vec3& axis : {Vec3{1, 0, 0}, Vec3{0, 1, 0}, Vec3{0, 0, 1}}) {
      const Vec3 far = b.center() + axis * 1000;
      const Vec3 point = nearest(shape, far).point;
      EXPECT_LE(dot(point, axis), dot(b.high, axis) + 1e-9);
    }
    const Nearest inside = nearest(shape, b.center());
    EXPECT_LE(inside.distance, length(b.high - b.low));
  }
  const Bounds turned = bounds(Box{{1, 2, 3}, {1, 1, 1}, kQuarter});
  EXPECT_NEAR(turned.high.x, 1 + kRoot2, 1e-12);
  EXPECT_NEAR(turned.low.z, 2, 1e-12);
}

TEST(Touches, SaysTheSameFromBothEnds) {
  test::Random random(15);
  for (int i = 0; i < 20000; ++i) {
    Box box{random.place(2), abs(random.place(1)), random.rotation()};
    // Half of them aimed at an edge, where rounding would decide.
    const Vec3 edge = box.center + box.turn * Vec3{box.half.x, box.half.y, random.range(-1, 1) * box.half.z};
    const Vec3 from = random.place(5);
    const Vec3 to = random.chance(0.5) ? edge + (edge - from) * random.range(0, 2) : random.place(5);
    ASSERT_EQ(touches(box, {from, to}), touches(box, {to, from})) << i;
  }
  const Box corner{{0, 0, 0}, {1, 1, 1}, {}};
  EXPECT_TRUE(touches(corner, {{1, -3, 0}, {1, 3, 0}})) << "along a face";
  EXPECT_TRUE(touches(corner, {{0, 2, 0}, {2, 0, 0}})) << "over an edge";
  EXPECT_FALSE(touches(corner, {{0, 2 + 1e-9, 0}, {2 + 1e-9, 0, 0}}));
  EXPECT_TRUE(touches(corner, {{0.5, 0, 0}, {0.5, 0, 0}})) << "a point inside";
}

TEST(Check, NamesEveryNumberThatIsWrong) {
  const auto where = [](const Shape& s) {
    std::string out;
    for (const Problem& p : check(s)) out += p.where + " " + p.what + "; ";
    return out;
  };
  EXPECT_EQ(where(Ball{{0, 0, 0}, 1}), "");
  EXPECT_EQ(where(Ball{{kInf, 0, 0}, -1}), "/ball/at/0 is infinite; /ball/radius is -1; ");
  EXPECT_EQ(where(Capsule{{0, 0, 0}, {0, 2e7, 0}, NAN}),
            "/capsule/to/1 is 2e7; /capsule/radius is not a number; ");
  EXPECT_EQ(where(Box{{0, 0, 0}, {1, -1, 1}, {{2, 0, 0}, {0, 1, 0}, {0, 0, 1}}}),
            "/box/size/1 is -2; /box/turn is not a rotation; ");
}

TEST(Rotation, TurnsAsItSays) {
  const auto near = [](const Vec3& a, const Vec3& b) { return length(a - b) < 1e-12; };
  EXPECT_TRUE(near(Rotation::about_z(std::numbers::pi / 2) * Vec3{1, 0, 0}, {0, 1, 0}));
  EXPECT_TRUE(near(Rotation::yaw_pitch_roll(0, std::numbers::pi / 2, 0) * Vec3{1, 0, 0}, {0, 0, 1}))
      << "nose up";
  EXPECT_TRUE(near(Rotation::yaw_pitch_roll(0, 0, std::numbers::pi / 2) * Vec3{0, 1, 0}, {0, 0, 1}))
      << "left side up";
  const Rotation r = test::Random(1).rotation();
  EXPECT_TRUE(near(into(r, r * Vec3{1, 2, 3}), {1, 2, 3}));
}

}  // namespace
}  // namespace dardo::shapes_test
