#include <gtest/gtest.h>

#include <numbers>
#include <vector>

#include "dardo/geometry/mesh.hpp"
#include "dardo/geometry/motion.hpp"
#include "dardo/geometry/planar.hpp"
#include "dardo/geometry/sector.hpp"
#include "geometry/detail/region.hpp"
#include "support/random.hpp"

namespace dardo::regions_test {
namespace {

constexpr double kPi = std::numbers::pi;
const Vec3 kX{1, 0, 0}, kZ{0, 0, 1};

Sector random_sector(test::Random& random) {
  Sector s{.apex = random.place(2), .axis = random.direction(), .angle = random.range(0, 2 * kPi)};
  s.far = random.range(0.1, 3);
  s.near = random.chance(0.4) ? 0 : random.range(0, s.far);
  if (random.chance(0.2)) s.angle = 2 * kPi;
  if (random.chance(0.5)) {
    const Rotation turn = random.rotation();
    s.axis = turn.x, s.up = turn.z;
    s.band = Band{random.range(-1, 0), random.range(0, 1)};
  }
  return s;
}

/// Places of the sector, densely; made from its definition alone.
std::vector<Vec3> samples(const Sector& s, int steps) {
  std::vector<Vec3> out;
  const Vec3 side =
      s.band ? cross(s.up, s.axis) : normalized(cross(s.axis, std::fabs(s.axis.z) < 0.9 ? kZ : kX));
  const Vec3 third = cross(s.axis, side);
  const auto part = [&](int i, double low, double high) { return low + (high - low) * i / steps; };
  for (int i = 0; i <= steps; ++i) {
    const double r = part(i, s.near, s.far);
    for (int k = 0; k <= steps; ++k) {
      const double a = s.band ? part(k, -s.angle / 2, s.angle / 2) : part(k, 0, s.angle / 2);
      for (int m = 0; m <= steps; ++m) {
        const double h = s.band ? part(m, s.band->low, s.band->high) : part(m, -kPi, kPi);
        const Vec3 off = s.band ? side : side * std::cos(h) + third * std::sin(h);
        out.push_back(s.apex + (s.axis * std::cos(a) + off * std::sin(a)) * r + (s.band ? s.up * h : Vec3{}));
      }
    }
  }
  return out;
}

TEST(SectorNearest, ClosedForms) {
  const Sector cone{.apex = {0, 0, 0}, .axis = kX, .angle = kPi / 2, .near = 1, .far = 5};
  const Sector fan{.apex = {0, 0, 0}, .axis = kX, .angle = kPi / 2, .near = 0, .far = 5, .band = Band{0, 2}};
  struct Case {
    const char* title;
    Sector sector;
    Vec3 place;
    double distance;
  };
  const std::vector<Case> cases{
      {"inside", cone, {3, 1, 0}, 0},
      {"on the far end, which is round", cone, {5 * std::cos(0.7), 5 * std::sin(0.7), 0}, 0},
      {"beyond the far end", cone, {7, 0, 0}, 2},
      {"nearer than the near end", cone, {0.25, 0, 0}, 0.75},
      {"beside: to the slope", cone, {0, 4, 0}, 4 / std::sqrt(2.0)},
      {"behind: to the near rim", cone, {-1, 0, 0}, std::sqrt(2 + std::sqrt(2.0))},
      {"at the apex with a hole", cone, {0, 0, 0}, 1},
      {"the apex itself is inside", fan, {0, 0, 0}, 0},
      {"above the band", fan, {3, 0, 5}, 3},
      {"above and beside", fan, {0, 4, 2 + 1}, 3},
      {"a whole turn has no sides", shell({0, 0, 0}, 1, 5), {-3, 0, 0}, 0},
      {"in the hole of a ring", ring({0, 0, 0}, 2, 3, -1, 1), {0, 0.5, 0}, 1.5},
      {"over the hole of a ring", ring({0, 0, 0}, 3, 4, 0, 0), {0, 0, 4}, 5},
      {"an opening of 0 is a line",
       Sector{.axis = kX, .angle = 0, .near = 0, .far = 5, .band = {}},
       {2, 1, 0},
       1},
  };
  for (const Case& c : cases) {
    const Nearest n = nearest(c.sector, c.place);
    EXPECT_NEAR(n.distance, c.distance, 1e-12) << c.title;
    EXPECT_NEAR(length(n.point - c.place), n.distance, 1e-12) << c.title;
    EXPECT_TRUE(contains(c.sector, n.point)) << c.title;
    EXPECT_EQ(contains(c.sector, c.place), c.distance == 0) << c.title;
  }
}

TEST(SectorNearest, NoSampledPlaceIsNearer) {
  test::Random random(31);
  for (int i = 0; i < 60; ++i) {
    const Sector s = random_sector(random);
    ASSERT_TRUE(check(s).empty());
    const auto all = samples(s, 14);
    const Bounds b = bounds(s).grown(1e-9);
    for (const Vec3& p : all) {
      ASSERT_TRUE(contains(s, p)) << i;
      ASSERT_TRUE(overlaps(b, Bounds{p, p})) << i;
    }
    for (int k = 0; k < 40; ++k) {
      const Vec3 place = s.apex + random.place(4);
      const Nearest n = nearest(s, place);
      ASSERT_LE(nearest(s, n.point).distance, 1e-13) << i;
      for (const Vec3& p : all) ASSERT_GE(length(p - place), n.distance - 1e-9) << i;
    }
  }
}

TEST(SectorClosest, NoPairFoundBySearchingIsNearer) {
  test::Random random(32);
  for (int i = 0; i < 400; ++i) {
    const Sector s = random_sector(random);
    const Shape shape = random.shape(2.5);
    const Closest found = closest(shape, s);
    // What it names is there, and as far apart as it says.
    EXPECT_LE(nearest(shape, found.on_a).distance, 1e-7) << i;
    EXPECT_TRUE(nearest(s, found.on_b).distance <= 1e-9) << i;
    EXPECT_NEAR(length(found.on_a - found.on_b), found.distance, 1e-6) << i;
    // From the best of many places, back and forth to where it gets no nearer.
    double least = 1e9;
    Vec3 start;
    for (const Vec3& p : samples(s, 10)) {
      const double d = nearest(shape, p).distance;
      if (d < least) least = d, start = p;
    }
    for (int k = 0; k < 300 && least > 0; ++k) {
      const Nearest on_shape = nearest(shape, start);
      const Nearest on_sector = nearest(s, on_shape.point);
      least = std::min(least, on_sector.distance), start = on_sector.point;
    }
    EXPECT_LE(found.distance, least + 1e-6) << i;
  }
}

// What is told sooner is what the distance says.
TEST(Region, ComesWithinWhatItsDistanceSays) {
  test::Random random(34);
  int within = 0;
  for (int i = 0; i < 4000; ++i) {
    const Vec3 a = random.place(1);
    const std::vector<Vec3> corners{
        {-2, -1 + 0.2 * a.x, 0}, {2, -1, 0}, {2.5, 1, 0}, {-1, 1.5 + 0.2 * a.y, 0}};
    const detail::Region regions[] = {random_sector(random), random.shape(2),
                                      detail::upright_prism(corners, -0.5, 1),
                                      HalfSpace{random.place(1), random.direction()}};
    const Shape shape = random.shape(2.5);
    for (const detail::Region& region : regions) {
      const double distance = detail::distance(region, shape), limit = random.range(0, 1);
      // Of a sector the distance is known to the parts it is cut into.
      if (std::fabs(distance - limit) < 1e-3 || distance == 0) continue;
      EXPECT_EQ(detail::comes_within(region, shape, limit), distance <= limit)
          << i << " region " << region.index() << " shape " << shape.index() << " " << distance - limit;
      within += distance <= limit;
    }
  }
  EXPECT_GT(within, 1000);
}

TEST(SectorClosest, AroundTheMiddleOfAHole) {
  const Cylinder post{{0, 0, -0.5}, {0, 0, 0.5}, 1};
  EXPECT_NEAR(closest(post, ring({0, 0, 0}, 3, 4, -1, 1)).distance, 2, 3e-4);
  EXPECT_NEAR(closest(Box{{0, 0, 0}, {1, 1, 1}, {}}, shell({0, 0, 0}, 3, 4)).distance, 3 - std::sqrt(3.0),
              3e-4);
  EXPECT_TRUE(overlaps(Capsule{{-9, 0, 0}, {9, 0, 0}, 0}, shell({0, 0, 0}, 3, 3)));
}

TEST(SectorClosest, OfAWholeShellOrRingIsThatOfOneWithAHairCutOut) {
  test::Random random(77);
  int apart = 0, within = 0;
  for (int i = 0; i < 1000; ++i) {
    const Shape shape = random.shape(3);
    Sector s = shell(random.place(2), random.range(0, 3), 0);
    if (i % 2 == 1) s = ring(s.apex, s.near, 0, random.range(-1, 0), random.range(0, 1));
    s.far = s.near + random.range(0, 2);
    const Closest whole = closest(shape, s);
    s.angle = 2 * std::numbers::pi - 1e-9;
    EXPECT_NEAR(whole.distance, closest(shape, s).distance, 1e-6) << i << " shape " << shape.index();
    EXPECT_NEAR(length(whole.on_a - whole.on_b), whole.distance, 1e-9);
    EXPECT_LT(nearest(shape, whole.on_a).distance, 1e-9);
    EXPECT_LT(nearest(s, whole.on_b).distance, 1e-8);
    (whole.distance > 0 ? apart : within) += 1;
  }
  EXPECT_GT(apart, 100);
  EXPECT_GT(within, 100);
}

TEST(SectorCrossings, AreWhereTheRayIsInside) {
  test::Random random(33);
  int several = 0;
  for (int i = 0; i < 2000; ++i) {
    const Sector s = random_sector(random);
    const Vec3 from = s.apex + random.place(4);
    const Ray line{from, random.direction_to(from, s.apex, 2), random.range(0, 9)};
    const Crossings all = crossings(s, line);
    several += all.count > 1;
    for (int k = 0; k <= 300; ++k) {
      const double t = line.length * k / 300;
      bool within = false, near_an_end = false;
      for (const Crossing& c : all) {
        within = within || (t >= c.enter && t <= c.leave);
        near_an_end = near_an_end || std::fabs(t - c.enter) < 1e-6 || std::fabs(t - c.leave) < 1e-6;
      }
      if (!near_an_end) ASSERT_EQ(within, contains(s, line.at(t))) << i << " at " << t;
    }
    const auto first = ray(s, line);
    ASSERT_EQ(first.has_value(), all.count > 0);
    if (first) EXPECT_NEAR(length(first->normal), 1, 1e-9);
  }
  EXPECT_GT(several, 20);
}

TEST(SectorSweep, MeetsWhereTheDistanceReachesZeroAndNeverLater) {
  test::Random random(34);
  int met = 0;
  for (int i = 0; i < 150; ++i) {
    const Sector s = random_sector(random);
    const Shape shape = i % 3 == 0 ? random.shape(1.5) : Shape{Ball{random.place(3), random.range(0, 0.4)}};
    const Vec3 travel = random.place(6);
    const auto contact = sweep(shape, travel, s);
    const double until = contact ? contact->distance / length(travel) : 1;
    for (int k = 0; k < 60; ++k) {
      const double part = until * k / 60;
      if (part >= until) break;
      ASSERT_GT(closest(placed(shape, {travel * part, {}}), s).distance, 0) << i;
    }
    if (!contact) continue;
    ++met;
    EXPECT_LE(closest(placed(shape, {travel * until, {}}), s).distance, 1e-7) << i;
  }
  EXPECT_GT(met, 20);
}

/// The surface of a box, as triangles.
Mesh mesh_of(const Box& box) {
  Mesh m;
  for (int i = 0; i < 8; ++i) {
    const Vec3 h = box.half;
    m.corners.push_back(box.center +
                        box.turn * Vec3{i & 1 ? h.x : -h.x, i & 2 ? h.y : -h.y, i & 4 ? h.z : -h.z});
  }
  const std::array<std::array<std::uint32_t, 4>, 6> faces{
      {{0, 1, 3, 2}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 3, 7, 6}, {0, 2, 6, 4}, {1, 3, 7, 5}}};
  for (const auto& f : faces)
    m.triangles.push_back({f[0], f[1], f[2]}), m.triangles.push_back({f[0], f[2], f[3]});
  return m;
}

TEST(Mesh, OfABoxAnswersAsTheBoxDoesFromOutside) {
  test::Random random(35);
  int met = 0;
  for (int i = 0; i < 300; ++i) {
    const Box box{random.place(1), abs(random.place(1)) + Vec3{0.1, 0.1, 0.1}, random.rotation()};
    const Mesh mesh = mesh_of(box);
    ASSERT_TRUE(check(mesh).empty());
    const Vec3 from = random.direction() * 6;
    const Ray line{from, random.direction_to(from, box.center, 1), 12};
    const auto a = ray(mesh, line), b = ray(box, line);
    ASSERT_EQ(a.has_value(), b.has_value()) << i;
    if (a) {
      EXPECT_NEAR(a->distance, b->distance, 1e-9);
      EXPECT_GT(dot(a->normal, b->normal), 1 - 1e-9);
    }
    EXPECT_NEAR(nearest(mesh, from).distance, nearest(box, from).distance, 1e-9);
    const Shape mover = placed(random.shape(1), {from, {}});
    const auto on_mesh = sweep(mover, -from * 2, mesh), on_box = sweep(mover, -from * 2, box);
    ASSERT_EQ(on_mesh.has_value(), on_box.has_value()) << i;
    met += on_box.has_value();
    if (on_box) EXPECT_NEAR(on_mesh->distance, on_box->distance, 2e-6) << i;
    EXPECT_NEAR(closest(mover, mesh).distance, closest(mover, box).distance, 1e-7) << i;
  }
  EXPECT_GT(met, 100);
  // A surface, no solid: inside it there is a way to go.
  EXPECT_NEAR(nearest(mesh_of({{0, 0, 0}, {1, 2, 3}, {}}), {0.25, 0, 0}).distance, 0.75, 1e-12);
}

TEST(Mesh, CheckNamesTheTriangleToBlame) {
  Mesh mesh{{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {2, 0, 0}}, {{0, 1, 2}, {0, 1, 9}, {0, 1, 3}}};
  const Problems missing = check(mesh);
  ASSERT_EQ(missing.size(), 2u);
  EXPECT_EQ(missing[0].where, "/mesh/triangles/1");
  EXPECT_EQ(missing[1].where, "/mesh/triangles/2");
  mesh.triangles[1] = {0, 2, 1};
  const Problems flat = check(mesh);
  ASSERT_EQ(flat.size(), 1u);
  EXPECT_EQ(flat[0].where, "/mesh/triangles/2");
}

TEST(TurnedSweep, ClosedForms) {
  // A blade of 2 m from the hilt at the origin, along +x, turning anticlockwise.
  const Capsule blade{{0, 0, 0}, {2, 0, 0}, 0};
  const auto at = [&](const Vec3& place, double radius, double angle) {
    return sweep(blade, Motion{.angle = angle}, Ball{place, radius});
  };
  const auto quarter = at({0, 1.5, 0}, 0, kPi);
  ASSERT_TRUE(quarter);
  EXPECT_NEAR(quarter->part, 0.5, 1e-7);
  const auto round = at({0, 1, 0}, 0.5, kPi);  // the tangent of the ball: 30 degrees before it
  ASSERT_TRUE(round);
  EXPECT_NEAR(round->part, 1.0 / 3, 1e-7);
  EXPECT_FALSE(at({0, 2.001, 0}, 0, kPi));
  EXPECT_FALSE(at({-1, -1, 0}, 0.1, kPi));
  const auto backward = at({0, -1, 0}, 0, -kPi);
  ASSERT_TRUE(backward);
  EXPECT_NEAR(backward->part, 0.5, 1e-7);
  const auto second_time_round =
      sweep(blade, Motion{.travel = {0, 0, 4}, .angle = 4 * kPi}, Ball{{0, 1, 2.5}, 0});
  ASSERT_TRUE(second_time_round);  // at z 2.5 the blade has made one and a quarter turns
  EXPECT_NEAR(second_time_round->part, 0.625, 1e-7);
}

TEST(TurnedSweep, MeetsWhereTheDistanceReachesZeroAndNeverLater) {
  test::Random random(36);
  int met = 0;
  for (int i = 0; i < 400; ++i) {
    const Shape moving = random.shape(2), rest = random.shape(2);
    const Motion motion{random.place(3), random.direction(), random.range(-7, 7), random.place(1)};
    const auto contact = sweep(moving, motion, rest);
    const double until = contact ? contact->part : 1;
    for (int k = 0; k < 80; ++k) {
      const double part = until * k / 80;
      if (part >= until) break;
      ASSERT_GT(closest(placed(moving, motion.at(part)), rest).distance, 0) << i << " at " << part;
    }
    if (!contact) continue;
    ++met;
    EXPECT_LE(closest(placed(moving, motion.at(until)), rest).distance, 1e-7) << i;
  }
  EXPECT_GT(met, 60);
}

TEST(TurnedSweep, WithoutATurnIsTheSweep) {
  test::Random random(37);
  for (int i = 0; i < 300; ++i) {
    const Shape moving = random.shape(2), rest = random.shape(2);
    const Vec3 travel = random.place(6);
    const auto turned = sweep(moving, Motion{.travel = travel}, rest);
    const auto straight = sweep(moving, travel, rest);
    ASSERT_EQ(turned.has_value(), straight.has_value()) << i;
    if (turned) EXPECT_NEAR(turned->part * length(travel), straight->distance, 1e-5) << i;
  }
}

TEST(Planar, IsPlaneGeometry) {
  using planar::Vec2;
  test::Random random(38);
  for (int i = 0; i < 300; ++i) {
    const Vec2 a{random.range(-5, 5), random.range(-5, 5)}, b{random.range(-5, 5), random.range(-5, 5)};
    const double r = random.range(0, 1), apart = std::hypot(a.x - b.x, a.y - b.y);
    EXPECT_NEAR(closest(planar::disc(a, r), planar::disc(b, 1)).distance, std::max(0.0, apart - r - 1),
                1e-12);
    const double turn = random.range(-4, 4);
    const Box box = planar::rectangle(b, {2, 4}, turn);
    // In the rectangle's frame.
    const double u = (a.x - b.x) * std::cos(turn) + (a.y - b.y) * std::sin(turn),
                 v = (a.y - b.y) * std::cos(turn) - (a.x - b.x) * std::sin(turn);
    const double away = std::hypot(std::max(0.0, std::fabs(u) - 1), std::max(0.0, std::fabs(v) - 2));
    EXPECT_NEAR(distance(planar::disc(a, 0), box), away, 1e-12);
    const double facing = random.range(-4, 4), half = random.range(0, kPi);
    const double off = std::fabs(std::remainder(std::atan2(b.y - a.y, b.x - a.x) - facing, 2 * kPi));
    if (std::fabs(off - half) > 1e-9 && std::fabs(apart - 1) > 1e-9 && std::fabs(apart - 4) > 1e-9) {
      EXPECT_EQ(contains(planar::sector(a, facing, 2 * half, 1, 4), {b.x, b.y, 0}),
                off < half && apart > 1 && apart < 4);
    }
    EXPECT_NEAR(nearest(planar::ring(a, 2, 3), {b.x, b.y, 0}).distance, std::max({0.0, 2 - apart, apart - 3}),
                1e-12);
  }
  const std::vector<Vec2> square{{0, 0}, {2, 0}, {2, 2}, {0, 2}};
  const auto polygon = planar::polygon(square);
  ASSERT_TRUE(polygon);
  const auto met = sweep(planar::disc({5, 1}, 0.5), Vec3{-9, 0, 0}, Shape{*polygon});
  ASSERT_TRUE(met);
  EXPECT_NEAR(met->distance, 2.5, 1e-9);
  EXPECT_NEAR(met->point.z, 0, 0);
  EXPECT_NEAR(closest(planar::capsule({3, -1}, {3, 5}, 0.25), Shape{*polygon}).distance, 0.75, 1e-12);
  const std::vector<Vec2> dart{{0, 0}, {4, 0}, {1, 1}, {0, 4}};
  EXPECT_FALSE(planar::polygon(dart));
}

}  // namespace
}  // namespace dardo::regions_test
