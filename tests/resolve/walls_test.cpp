// Walls of every shape, walls that move, ground that slopes.
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>

#include "dardo/resolve/skirmish.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::walls_test {
namespace {

using test::Yard;
const Vec3 kX{1, 0, 0};

Attack bolt(double speed, double radius = 0) {
  ShotDelivery shot;
  shot.path = StraightPath{.speed = speed}, shot.radius = radius;
  return {.name = "bolt", .delivery = shot, .reach = {0, 200}};
}
ShotDelivery& shot_of(Attack& attack) { return std::get<ShotDelivery>(attack.delivery); }
Outcome along_x(const Yard& yard, const Attack& attack) {
  return resolve(yard.arena, attack, {.by = yard.mara, .toward = AlongDirection{kX}});
}

/// A shore that goes up and down, over a square of so many tiles of two triangles.
Mesh shore(int tiles, double tile) {
  Mesh mesh;
  for (int i = 0; i <= tiles; ++i) {
    for (int k = 0; k <= tiles; ++k)
      mesh.corners.push_back(
          {(i - tiles / 2) * tile, (k - tiles / 2) * tile, 0.8 * std::sin(0.7 * i) * std::cos(0.9 * k) - 3});
  }
  const auto at = [&](int i, int k) { return static_cast<std::uint32_t>(i * (tiles + 1) + k); };
  for (int i = 0; i < tiles; ++i) {
    for (int k = 0; k < tiles; ++k) {
      mesh.triangles.push_back({at(i, k), at(i + 1, k), at(i, k + 1)});
      mesh.triangles.push_back({at(i + 1, k), at(i + 1, k + 1), at(i, k + 1)});
    }
  }
  return mesh;
}

TEST(Walls, EveryShapeStopsARayWhereItIs) {
  struct Case {
    const char* name;
    WallShape shape;
    double stops;
  };
  const std::array cases{
      Case{"ball", Ball{{5, 0, 0}, 1}, 4},
      Case{"capsule", Capsule{{5, 0, -2}, {5, 0, 2}, 0.5}, 4.5},
      Case{"box", Box{{5, 0, 0}, {0.5, 1, 1}, {}}, 4.5},
      Case{"cylinder", Cylinder{{5, 0, -2}, {5, 0, 2}, 0.25}, 4.75},
      Case{"cone", Cone{{5, 0, 1}, {5, 0, -1}, 1}, 4.5},
      Case{"hull", Hull{{{6, -1, -1}, {6, 1, -1}, {6, 0, 1}, {4, 0, 0}}}, 4},
      Case{"triangle", Triangle{{5, -1, -1}, {5, 1, -1}, {5, 0, 1}}, 5},
      Case{"mesh", Mesh{{{6, -1, -1}, {6, 1, -1}, {6, 0, 1}, {5, -1, 1}}, {{0, 1, 2}, {0, 2, 3}}}, 6}};
  for (const Case& c : cases) {
    for (const bool moved : {false, true}) {
      Yard yard;
      // The same place, said by a frame.
      const Pose pose = moved ? Pose{{2, 0, 0}, {}} : Pose{};
      WallShape shape = c.shape;
      if (moved)
        shape = std::visit([](const auto& s) { return WallShape(placed(s, {{-2, 0, 0}, {}})); }, shape);
      const WallId wall = *yard.arena.add_wall({.id = "wall", .shape = shape, .pose = pose});
      yard.arena.update();
      const Outcome ray = along_x(yard, test::kBolt), shot = along_x(yard, bolt(20));
      for (const Outcome& out : {ray, shot}) {
        EXPECT_EQ(out.ended, Ended::wall) << c.name;
        EXPECT_EQ(out.stopped_by.wall, wall) << c.name;
        EXPECT_NEAR(out.end.x, c.stops, 1e-8) << c.name;
      }
      EXPECT_NEAR(along_x(yard, bolt(20, 0.25)).end.x, c.stops - 0.25, 0.3) << c.name;
    }
  }
}

// However a shot comes, a surface of triangles has no gap: not along an edge, not at a corner.
TEST(Walls, NothingGoesThroughAMesh) {
  Yard yard;
  const Mesh mesh = shore(70, 0.5);  // 9,800 triangles
  (void)*yard.arena.add_wall({.id = "shore", .shape = mesh});
  yard.arena.update();
  test::Random random(5);
  for (int i = 0; i < 400; ++i) {
    // At a place of a triangle: inside, on an edge, on a corner.
    const MeshTriangle& t = mesh.triangles[static_cast<std::size_t>(random.range(3000, 6000))];
    double u = random.range(0, 1), v = random.range(0, 1 - u);
    if (i % 3 == 1) v = 0;
    if (i % 3 == 2) u = v = 0;
    const Vec3 &a = mesh.corners[t.a], at = a + (mesh.corners[t.b] - a) * u + (mesh.corners[t.c] - a) * v;
    if (length(at) < 1) continue;
    const Launch launch{.by = yard.mara, .toward = AtPlace{at}};
    const Vec3 way = normalized(at);
    for (const Attack& attack : {test::kBolt, bolt(30), bolt(30, 0.1)}) {
      const Outcome out = resolve(yard.arena, attack, launch, Detail::strikes);
      EXPECT_EQ(out.ended, Ended::wall) << i;
      EXPECT_LE(dot(out.end, way), length(at) + 1e-9) << i;
    }
  }
}

TEST(Walls, ShotsTurnAtATriangleAsAtAnyPlane) {
  Yard yard;
  yard.arena.update();
  (void)*yard.arena.add_wall(
      {.id = "sail",
       .shape = Mesh{{{5, -5, -5}, {5, 5, -5}, {5, 5, 5}, {5, -5, 5}}, {{0, 1, 2}, {0, 2, 3}}}});
  Attack attack = bolt(10);
  shot_of(attack).ricochet.count = 3;
  attack.then = {{.when = Then::When::surface, .attacks = {test::blast(0.01)}}};
  // Right at the edge that the two share: one wall is met once.
  const Outcome out = along_x(yard, attack);
  EXPECT_NEAR(out.end.x, -90, 1e-6);
  EXPECT_EQ(std::count_if(out.marks.begin(), out.marks.end(),
                          [](const Mark& m) { return std::holds_alternative<RingMark>(m); }),
            1);
}

TEST(Doors, AShotMeetsADoorWhereBothAre) {
  Yard yard;
  // It closes from y = 3 at 2 m/s: its edge, one metre ahead of its middle, is at y = 0 after 1 s.
  const WallId door = *yard.arena.add_wall({.id = "door",
                                            .shape = Box{{}, {0.1, 1, 2}, {}},
                                            .track = {{0, {{10, 3, 0}, {}}}, {2, {{10, -1, 0}, {}}}}});
  yard.arena.update();
  // Over 9.9 m: a slow shot comes when it is shut, a fast one before.
  EXPECT_EQ(along_x(yard, bolt(9.8)).stopped_by.wall, door);
  EXPECT_NEAR(along_x(yard, bolt(9.8)).end_s, 9.9 / 9.8, 1e-9);
  EXPECT_TRUE(along_x(yard, bolt(10.2)).stopped_by.wall.empty());
  // While it goes through, the edge comes from the side: at t the edge is at 2 - 2 t.
  const Outcome grazed = along_x(yard, bolt(10));
  EXPECT_EQ(grazed.stopped_by.wall, door);
  EXPECT_NEAR(grazed.end_s, 1, 1e-9);
  // A ray sees it as it is at once.
  EXPECT_EQ(along_x(yard, {.delivery = RayDelivery{}, .reach = {0, 50}}).ended, Ended::reach);
}

TEST(Doors, LiveAndMovedByTheGameAreTheSame) {
  const std::vector<TrackKey> track{{0, {{6, 4, 0}, {}}}, {1, {{6, 0, 0}, Rotation::about_z(1)}}};
  const Wall door{.id = "door", .shape = Box{{}, {0.2, 1.5, 2}, {}}};
  const auto end_of = [&](double hertz, bool by_game, bool saved) {
    Yard yard;
    Wall wall = door;
    if (by_game) {
      wall.pose = track[0].pose;
    } else {
      wall.track = track;
    }
    const WallId id = *yard.arena.add_wall(wall);
    auto live = std::make_unique<Skirmish>(yard.arena);
    Attack attack = bolt(7, 0.1);
    shot_of(attack).ricochet.count = 1, shot_of(attack).life_s = 1.5;
    const AttackId bolts = *live->add_attack(attack);
    (void)*live->start(bolts, {.by = yard.mara, .toward = AlongDirection{kX}});
    std::vector<ShotEnd> ends;
    for (int tick = 0; live->in_flight() > 0 || tick < 2; ++tick) {
      const double next = (tick + 1) / hertz;
      if (by_game) {
        EXPECT_TRUE(live->move(id, leg_at(track, next).at(next)).empty());
      }
      if (saved) {
        const std::string bytes = live->save();
        live = std::make_unique<Skirmish>(yard.arena);
        (void)*live->add_attack(attack);
        EXPECT_TRUE(live->restore(bytes));
      }
      (void)live->advance(
          next - live->time(), [](const Strike&) {}, [&](const ShotEnd& end) { ends.push_back(end); });
    }
    EXPECT_EQ(ends.size(), 1u);
    return ends.empty() ? ShotEnd{} : ends[0];
  };
  const ShotEnd whole = end_of(60, false, false);
  EXPECT_EQ(whole.ended, Ended::life);
  EXPECT_LT(whole.place.x, 5) << "it was turned";
  for (const double hertz : {10.0, 30.0, 144.0}) {
    for (const int kind : {0, 1, 2}) {
      const ShotEnd end = end_of(hertz, kind > 0, kind == 2);
      EXPECT_NEAR(end.time_s, whole.time_s, 1e-9) << hertz << " kind " << kind;
      EXPECT_LT(length(end.place - whole.place), 1e-6) << hertz << " kind " << kind;
    }
  }
}

TEST(Doors, AShotTurnedByADoorThatComesIsFasterThen) {
  Yard yard;
  (void)*yard.arena.add_wall({.id = "ram",
                              .shape = Box{{}, {0.5, 3, 3}, {}},
                              .track = {{0, {{20, 0, 0}, {}}}, {10, {{-10, 0, 0}, {}}}}});
  yard.arena.update();
  Attack attack = bolt(10);
  shot_of(attack).ricochet.count = 1, shot_of(attack).life_s = 2;
  // Faces at 19.5 - 3 t: met after 1.5 s at x = 15; then -10 - 2 * 3 m/s for half a second.
  EXPECT_NEAR(along_x(yard, attack).end.x, 15 - 16 * 0.5, 1e-8);
}

TEST(Doors, WhatSticksInALiftGoesUpWithIt) {
  Yard yard;
  const WallId lift = *yard.arena.add_wall({.id = "lift",
                                            .shape = Box{{}, {0.5, 2, 2}, {}},
                                            .track = {{0, {{10, 0, 0}, {}}}, {4, {{10, 0, 8}, {}}}}});
  yard.arena.update();
  Attack attack = bolt(9.5);
  shot_of(attack).sticks = true, shot_of(attack).life_s = 3;
  const Outcome out = along_x(yard, attack);
  EXPECT_EQ(out.ended, Ended::stuck);
  EXPECT_EQ(out.stopped_by.wall, lift);
  EXPECT_NEAR(out.end.z, 4, 1e-8) << "two seconds at 2 m/s";
  EXPECT_NEAR(out.end.x, 9.5, 1e-8);
}

TEST(Doors, SightIsJudgedAtItsTime) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {6, 0, 0});
  (void)*yard.arena.add_wall({.id = "door",
                              .shape = Box{{}, {0.1, 1, 2}, {}},
                              .track = {{0, {{3, 4, 0}, {}}}, {1, {{3, 0, 0}, {}}}}});
  yard.arena.update();
  // A slow shot to mara's own place explodes there when the door is shut, or not yet.
  Attack blast{.name = "blast", .delivery = AreaDelivery{.shape = BallArea{10}}, .sight = Passage::blasts};
  for (const double life : {0.5, 1.0}) {
    Attack fuse = bolt(0.001);
    shot_of(fuse).life_s = life;
    fuse.then = {{.when = Then::When::end, .attacks = {blast}}};
    const Outcome out = along_x(yard, fuse);
    EXPECT_EQ(out.strikes.size(), life < 0.9 ? 1u : 0u) << life;
    if (life > 0.9) {
      EXPECT_EQ(explain(test::verdict_of(out, raider), yard.arena).find("door") != std::string::npos, true);
    }
  }
}

TEST(Walls, ComeGoAndMoveInARunningGame) {
  Yard yard;
  Skirmish live(yard.arena);
  const AttackId id = *live.add_attack(bolt(10));
  const auto flies = [&] {
    (void)*live.start(id, {.by = yard.mara, .toward = AlongDirection{kX}});
    (void)*live.start(id, {.by = yard.mara, .toward = AlongDirection{kX}});
    std::vector<double> ends;
    while (ends.size() < 2)
      (void)live.advance(
          0.1, [](const Strike&) {}, [&](const ShotEnd& e) { ends.push_back(e.place.x); });
    EXPECT_EQ(ends[0], ends[1]);
    return ends[0];
  };
  EXPECT_NEAR(flies(), 100, 1e-6);
  const WallId wall = *yard.arena.add_wall({.id = "wall", .shape = Box{{5, 0, 0}, {1, 1, 1}, {}}});
  EXPECT_NEAR(flies(), 4, 1e-9);
  EXPECT_TRUE(yard.arena.move(wall, {{10, 0, 0}, {}}).empty());
  EXPECT_NEAR(flies(), 14, 1e-9);
  EXPECT_FALSE(yard.arena.move(wall, {{std::nan(""), 0, 0}, {}}).empty());
  EXPECT_TRUE(yard.arena.remove(wall));
  EXPECT_FALSE(yard.arena.remove(wall));
  EXPECT_FALSE(yard.arena.move(wall, {}).empty());
  EXPECT_NEAR(flies(), 100, 1e-6);
  // Its place and its name are given away again.
  const WallId other = *yard.arena.add_wall({.id = "wall", .shape = Ball{{8, 0, 0}, 1}});
  EXPECT_FALSE(other == wall);
  EXPECT_NEAR(flies(), 7, 1e-9);
  const WallId track = *yard.arena.add_wall(
      {.id = "door", .shape = Ball{{}, 1}, .track = {{0, {{3, 0, 0}, {}}}, {1000, {{3, 5, 0}, {}}}}});
  EXPECT_FALSE(live.move(track, {}).empty()) << "it is on a track";
}

TEST(Ground, MaySlope) {
  Yard yard;
  // 45 degrees down from (10, 0, 0) toward the attacker.
  ASSERT_TRUE(yard.arena.set_ground(HalfSpace{{10, 0, 0}, {-2, 0, 2}}).empty());
  const Outcome ray = along_x(yard, test::kBolt), shot = along_x(yard, bolt(20));
  for (const Outcome& out : {ray, shot}) {
    EXPECT_EQ(out.ended, Ended::ground);
    EXPECT_NEAR(out.end.x, 10, 1e-8);
  }
  Attack attack = bolt(20);
  shot_of(attack).ricochet.count = 1, shot_of(attack).life_s = 1;
  const Outcome up = along_x(yard, attack);
  EXPECT_NEAR(up.end.x, 10, 1e-7);
  EXPECT_NEAR(up.end.z, 10, 1e-7) << "straight up";
  EXPECT_FALSE(yard.arena.set_ground(HalfSpace{{}, {0, 0, 0}}).empty());
}

}  // namespace
}  // namespace dardo::walls_test
