// Launches at their own time, from a place, another way than toward their target; what outcomes tell of them.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "dardo/resolve/aimed.hpp"
#include "support/yard.hpp"

namespace dardo::test::launches_test {
namespace {

Attack shot(ShotPath path, double radius = 0) {
  return {
      .name = "shot", .delivery = ShotDelivery{.path = std::move(path), .radius = radius}, .reach = {0, 200}};
}

TEST(Launches, SetOffAtTheirOwnTimeWholeAndLive) {
  Yard yard;
  const BodyId raider =
      yard.add({.id = "raider",
                .faction = yard.raiders,
                .track = {{0, {{10, -20, 0}, {}}}, {2, {{10, 0, 0}, {}}}, {3, {{10, 5, 0}, {}}}}});
  const Launch launch{.by = yard.mara, .toward = AlongDirection{{1, 0, 0}}, .at_s = 1.3};
  const Attack stone = shot(StraightPath{.speed = 15});
  const Outcome whole = resolve(yard.arena, stone, launch);
  ASSERT_EQ(whole.strikes.size(), 1u);
  // It comes to the raider, who crosses its way at 2 s, after 9.5 m.
  EXPECT_GT(whole.strikes[0].time_s, 1.3 + 9 / 15.0);
  for (const double hertz : {4.0, 60.0, 144.0}) {
    Skirmish live(yard.arena);
    const AttackId id = *live.add_attack(stone);
    ASSERT_TRUE(live.start(id, launch));
    std::vector<Strike> struck;
    for (int tick = 1; live.time() < 4; ++tick) {
      (void)live.advance(tick / hertz - live.time(), [&](const Strike& s) { struck.push_back(s); });
      const std::string bytes = live.save();
      ASSERT_TRUE(live.restore(bytes)) << live.time();
    }
    ASSERT_EQ(struck.size(), 1u) << hertz;
    EXPECT_NEAR(struck[0].time_s, whole.strikes[0].time_s, 1e-9) << hertz;
    EXPECT_EQ(struck[0].body, raider);
  }
  EXPECT_EQ(resolve(yard.arena, stone, {.by = yard.mara, .at_s = -1}).problems.at(0).where, "/launch/at");
}

TEST(Launches, AChoiceOfALaterLaunchIsMadeThen) {
  Yard yard;
  const BodyId soon = yard.add({.id = "soon",
                                .faction = yard.raiders,
                                .track = {{0, {{50, 0, 0}, {}}}, {1, {{6, 0, 0}, {}}}}}),
               near = yard.raider("near", {8, 0, 0});
  Skirmish live(yard.arena);
  const AttackId id = *live.add_attack(kBolt);
  Launch launch{.by = yard.mara, .toward = AtChoice{.within = 20}, .at_s = 0.99};
  ASSERT_TRUE(live.start(id, launch));
  Launch nobody = launch;
  nobody.toward = AtChoice{.within = 1}, nobody.at_s = 0.5;
  const auto second = live.start(id, nobody);
  ASSERT_TRUE(second) << "whether there is somebody is told then";
  std::vector<BodyId> struck;
  std::vector<ShotEnd> ends;
  while (live.time() < 1.2)
    (void)live.advance(
        0.1, [&](const Strike& s) { struck.push_back(s.body); },
        [&](const ShotEnd& e) { ends.push_back(e); });
  EXPECT_EQ(struck, std::vector{soon});
  ASSERT_EQ(ends.size(), 1u);
  EXPECT_EQ(ends[0].ended, Ended::no_target);
  EXPECT_EQ(ends[0].launch, *second);
  EXPECT_NEAR(ends[0].time_s, 0.5, 1e-9);
  launch.at_s = 0;
  EXPECT_EQ(resolve(yard.arena, kBolt, launch).strikes.at(0).body, near);
}

TEST(Launches, ComeFromAPlaceForAFaction) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {0, 10, 0});
  const Launch gun{.from = FromPlace{{{0, 20, 0}, Rotation::about_z(-1.5707963267948966)}, yard.wardens}};
  const Outcome bolt = resolve(yard.arena, kBolt, gun);
  ASSERT_EQ(bolt.strikes.size(), 1u);
  EXPECT_EQ(bolt.strikes[0].body, raider);
  EXPECT_NEAR(bolt.strikes[0].distance, 9.5, 1e-12);
  EXPECT_TRUE(bolt.by.empty());
  EXPECT_EQ(attacker_name(bolt, yard.arena), "from (0.00, 20.00, 0.00)");
  // Nobody is the attacker: mara is one of its own.
  EXPECT_EQ(verdict_of(bolt, yard.mara).deciding.relation, Relation::friendly);
  // A curve comes back to the place.
  const Outcome oar = resolve(yard.arena, shot(CurvePath{.speed = 10, .side = 4}), [&] {
    Launch l = gun;
    l.toward = AtPlace{{30, 20, 0}};
    return l;
  }());
  EXPECT_EQ(oar.ended, Ended::returned);
  EXPECT_LT(length(oar.end - Vec3{0, 20, 0}), 1e-6);
  Launch both = gun;
  both.by = yard.mara;
  EXPECT_EQ(resolve(yard.arena, kBolt, both).problems.at(0).where, "/launch/from");
  EXPECT_EQ(resolve(yard.arena, kBolt, {}).problems.at(0).where, "/launch/by");
}

TEST(Launches, ComeFromAMuzzleInTheWorld) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {10, 2, 0});
  Launch launch{.by = yard.mara, .toward = AlongDirection{{1, 0, 0}}};
  EXPECT_TRUE(resolve(yard.arena, kBolt, launch).strikes.empty());
  const Vec3 muzzle{1, 2, yard.arena.center(raider).z};
  launch.muzzle_at = muzzle;
  const Outcome out = resolve(yard.arena, kBolt, launch);
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.origin, muzzle);
  const auto refused = [&](Launch bad) {
    const Problems problems = resolve(yard.arena, kBolt, bad).problems;
    return problems.empty() ? "" : problems[0].where;
  };
  Launch bad = launch;
  bad.muzzle_at->x = std::numeric_limits<double>::quiet_NaN();
  EXPECT_EQ(refused(bad), "/launch/muzzle_at");
  bad.muzzle_at->x = 1.1e7;
  EXPECT_EQ(refused(bad), "/launch/muzzle_at");
  bad = launch, bad.muzzle = "bow";
  EXPECT_EQ(refused(bad), "/launch/muzzle_at");
  bad = launch, bad.by = {}, bad.from = FromPlace{{}, yard.wardens};
  EXPECT_EQ(refused(bad), "/launch/muzzle_at");
}

TEST(Launches, LeaveAnotherWayThanTowardTheirTarget) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {20, 0, 0});
  Launch launch{.by = yard.mara, .toward = raider, .leaving = Vec3{0, 0, 5}};
  const Outcome rocket = resolve(yard.arena, shot(GuidedPath{.speed = 10, .turn_rate = 2}), launch);
  ASSERT_EQ(rocket.strikes.size(), 1u);
  const auto way = std::find_if(rocket.marks.begin(), rocket.marks.end(),
                                [](const Mark& m) { return std::holds_alternative<FlightMark>(m); });
  EXPECT_LT(length(std::get<FlightMark>(*way).pieces[0].velocity - Vec3{0, 0, 10}), 1e-12);
  // What is not steered goes on so.
  EXPECT_TRUE(resolve(yard.arena, shot(StraightPath{.speed = 10}), launch).strikes.empty());
  EXPECT_EQ(resolve(yard.arena, kBolt, launch).problems.at(0).where, "/launch/leaving");
  launch.aim = Aiming::lead;
  EXPECT_EQ(resolve(yard.arena, shot(StraightPath{.speed = 10}), launch).problems.at(0).where,
            "/launch/leaving");
}

TEST(Launches, ACurveGoesThroughItsPoints) {
  Yard yard;
  const CurvePath path{.speed = 6, .through = {{3, 2, 1}, {6, -2, 0.5}, {9, 1, 0}}, .returns = false};
  const Outcome out = resolve(yard.arena, shot(path), {.by = yard.mara, .toward = AtPlace{{0, 12, 0}}});
  EXPECT_EQ(out.ended, Ended::arrived);
  EXPECT_LT(length(out.end - Vec3{0, 12, 0}), 1e-9);
  const auto way = std::find_if(out.marks.begin(), out.marks.end(),
                                [](const Mark& m) { return std::holds_alternative<FlightMark>(m); });
  const FlightMark& flight = std::get<FlightMark>(*way);
  for (const Vec3& own : path.through) {
    // Thrown along y, its left is -x.
    const Vec3 point{-own.y, own.x, own.z};
    double least = 1e9;
    for (const WayPiece& p : flight.pieces) {
      for (int i = 0; i <= 200; ++i)
        least = std::min(least, length(place_at(p, p.start_s + (p.end_s - p.start_s) * i / 200) - point));
    }
    EXPECT_LT(least, 5e-3) << own.x;
  }
  // As fast all along: its length is its time's.
  double flown = 0;
  for (std::size_t i = 1; i < flight.places.size(); ++i)
    flown += length(flight.places[i] - flight.places[i - 1]);
  EXPECT_NEAR(flown / 6, out.end_s, 0.02);
}

TEST(Launches, ReachOrLifeMayBeEndlessButNotBoth) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {5e6, 0, 0});
  Attack ray = kBolt, stone = shot(StraightPath{.speed = 50});
  ray.reach.far = INFINITY;
  EXPECT_EQ(resolve(yard.arena, ray, {.by = yard.mara, .toward = raider}).strikes.size(), 1u);
  std::get<ShotDelivery>(stone.delivery).life_s = INFINITY;
  stone.reach.far = 5000;
  const Outcome far = resolve(yard.arena, stone, {.by = yard.mara, .toward = AlongDirection{{0, 0, 1}}});
  EXPECT_EQ(far.ended, Ended::reach);
  EXPECT_NEAR(far.end_s, 100, 1e-9);
  stone.reach.far = INFINITY;
  EXPECT_EQ(check(stone).at(0).where, "/reach");
  std::get<ShotDelivery>(stone.delivery).life_s = 3;
  EXPECT_EQ(resolve(yard.arena, stone, {.by = yard.mara, .toward = AlongDirection{{0, 0, 1}}}).ended,
            Ended::life);
}

TEST(Launches, OutcomesTellSpeedsCentresAndSurfaces) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {4, 6, 0});
  yard.wall("mirror", {10, 0, 0}, {2, 40, 4});
  Attack ball = shot(StraightPath{.speed = 10}, 0.25);
  auto& shot = std::get<ShotDelivery>(ball.delivery);
  shot.ricochet = {.count = 1, .restitution = 0.5};
  // Along (3, 1) to the wall at 9 - 0.25; the normal part is halved there.
  const Outcome out = resolve(yard.arena, ball, {.by = yard.mara, .toward = AlongDirection{{3, 1, 0}}});
  ASSERT_EQ(out.surfaces.size(), 1u);
  const SurfaceMet& met = out.surfaces[0];
  EXPECT_EQ(met.did, SurfaceMet::Did::turned);
  EXPECT_NEAR(met.centre.x, 8.75, 1e-9);
  EXPECT_NEAR(met.point.x, 9, 1e-9);
  EXPECT_NEAR(met.speed, 10, 1e-12);
  const Vec3 way = normalized(Vec3{3, 1, 0}) * 10;
  EXPECT_NEAR(met.leaves, length(Vec3{-0.5 * way.x, way.y, 0}), 1e-9);
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.strikes[0].body, raider);
  EXPECT_NEAR(out.strikes[0].speed, met.leaves, 1e-9);
  EXPECT_NEAR(length(out.strikes[0].centre - out.strikes[0].point), 0.25, 1e-8);
  // What a ray meets is told, too, and leads on.
  Attack ray = kBolt;
  std::get<RayDelivery>(ray.delivery).ricochet.count = 3;
  ray.then = {{.when = Then::When::surface, .attacks = {blast(5)}}};
  const Outcome light = resolve(yard.arena, ray, {.by = yard.mara, .toward = AlongDirection{{3, 2, 0}}});
  ASSERT_EQ(light.surfaces.size(), 1u);
  EXPECT_NEAR(light.surfaces[0].point.y, 6, 1e-9);
  ASSERT_EQ(light.strikes.size(), 1u);
  EXPECT_EQ(light.strikes[0].stage, 1u);
}

TEST(Aim, WhatNotEvenAShotWithoutDragReachesNoneWithDragDoes) {
  constexpr double kDrag = 0.02, kStep = 1e-3;
  int none = 0, some = 0;
  for (const Vec3& at : {Vec3{20, 0, 0}, Vec3{14, 0, 9}, Vec3{25, 0, -12}}) {
    for (double speed = 10; speed < 24; speed += 0.5) {
      Yard yard;
      const Launch launch{.by = yard.mara, .toward = yard.raider("raider", at)};
      const AimReport out = aim(yard.arena, shot(FallingPath{.speed = speed, .drag = kDrag}), launch);
      // Every elevation by small steps: how near each passes the raider's middle.
      double nearest = 1e9;
      for (int degree = -89; degree < 90; ++degree) {
        const double e = degree * 3.14159265358979 / 180;
        Vec3 p{}, v{speed * std::cos(e), 0, speed * std::sin(e)};
        for (int i = 0; i < 6000 && p.z > -40; ++i) {
          v = v + (yard.arena.gravity() - v * (kDrag * length(v))) * kStep, p = p + v * kStep;
          nearest = std::min(nearest, length(p - at));
        }
      }
      ++(out.ways.empty() ? none : some);
      // Between two elevations it may pass by half a degree.
      if (nearest < 0.02) EXPECT_FALSE(out.ways.empty()) << speed << " m/s to " << at.x << ", " << at.z;
      if (nearest > 0.5) EXPECT_TRUE(out.ways.empty()) << speed << " m/s to " << at.x << ", " << at.z;
      // Without drag the least speed is known: below it there is said to be too little.
      const double least = std::sqrt(9.81 * (at.z + length(at)));
      if (speed < least) EXPECT_NEAR(out.more_speed, least - speed, 1e-9);
    }
  }
  EXPECT_GT(none, 10);
  EXPECT_GT(some, 10);
}

TEST(Aim, OffersBothStraightLeadsAndTheLeastSpeed) {
  Yard yard;
  // It comes faster than the stone: to be met early, or when it is nearly past.
  const BodyId rider =
      yard.add({.id = "rider", .faction = yard.raiders, .pose = {{-60, 20, 0}, {}}, .velocity = {12, 0, 0}});
  const AimReport out = aim(yard.arena, shot(StraightPath{.speed = 10}), {.by = yard.mara, .toward = rider});
  ASSERT_EQ(out.ways.size(), 2u);
  EXPECT_FALSE(out.ways[0].late);
  EXPECT_TRUE(out.ways[1].late);
  for (const Aimed& w : out.ways) {
    EXPECT_NEAR(length(w.meets), 10 * w.time_s, 1e-6);
    EXPECT_NEAR(w.meets.x, -60 + 12 * w.time_s, 1e-9);
  }
  // The least speed goes straight across the way it comes: 12 * 20 / |(60, 20)|.
  const auto least =
      least_speed(yard.arena, shot(StraightPath{.speed = 10}), {.by = yard.mara, .toward = rider});
  ASSERT_TRUE(least);
  EXPECT_NEAR(least->speed, 12 * 20 / std::sqrt(60.0 * 60 + 20 * 20), 1e-6);
  const Launch at_still{.by = yard.mara, .toward = yard.raider("still", {30, 0, 0})};
  const auto arc = least_speed(yard.arena, shot(FallingPath{.speed = 30}), at_still);
  ASSERT_TRUE(arc);
  EXPECT_NEAR(arc->speed, std::sqrt(9.81 * 30), 1e-9);
  EXPECT_NEAR(arc->direction.z, std::sqrt(0.5), 1e-9);
  const auto slow = least_speed(yard.arena, shot(FallingPath{.speed = 30, .drag = 0.02}), at_still);
  ASSERT_TRUE(slow);
  EXPECT_GT(slow->speed, std::sqrt(9.81 * 30));
  EXPECT_TRUE(
      aim(yard.arena, shot(FallingPath{.speed = slow->speed * 0.999, .drag = 0.02}), at_still).ways.empty());
  // Every speed reaches what stands, and there is none of what homes.
  EXPECT_FALSE(least_speed(yard.arena, shot(StraightPath{.speed = 10}), at_still));
  EXPECT_FALSE(least_speed(yard.arena, shot(GuidedPath{.speed = 10}), at_still));
  EXPECT_FALSE(least_speed(yard.arena, {.delivery = RayDelivery{}}, at_still));
}

TEST(Look, IsTheJudgeOfAttacks) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {10, 0, 0});
  yard.wall("wall", {5, -2, 0}, {0.2, 4, 4});
  const Sighting edge = look(yard.arena, {.by = yard.mara, .body = raider});
  EXPECT_FALSE(edge.seen) << "a line along an edge is cut";
  Look half{.by = yard.mara, .body = raider};
  half.sight.to = Sight::To::points;
  const Sighting part = look(yard.arena, half);
  EXPECT_TRUE(part.seen);
  // The shadow of the edge runs through the middle of the ball.
  EXPECT_NEAR(part.share.share, 0.5, 1e-12);
  EXPECT_EQ(part.share.error, 0);
  half.sight.thickness = 0.1;
  EXPECT_GT(look(yard.arena, half).share.error, 0) << "what must be wider than a line is counted";
  // From the very face of a wall nothing is seen, by lines and by shares.
  Look face{.place = Vec3{5.1, -2, 0}, .body = raider};
  EXPECT_FALSE(look(yard.arena, face).seen);
  face.sight.to = Sight::To::points;
  EXPECT_EQ(look(yard.arena, face).share.share, 0);
  EXPECT_TRUE(look(yard.arena, {.place = Vec3{0, 3, 0}, .target = Vec3{10, 3, 0}}).seen);
  EXPECT_EQ(look(yard.arena, {.body = raider}).problems.at(0).where, "/by");
  EXPECT_EQ(look(yard.arena, {.by = yard.mara}).problems.at(0).where, "/body");
}

TEST(Doubts, NameWhoStrikesWhomItIsAFriendOf) {
  Yard yard;
  EXPECT_TRUE(doubts(yard.arena).empty());
  yard.arena.relate(yard.raiders, yard.passengers, Relation::foe);
  yard.arena.relate(yard.passengers, yard.raiders, Relation::friendly);
  ASSERT_EQ(doubts(yard.arena).size(), 1u);
  EXPECT_EQ(doubts(yard.arena)[0].where, "/factions/raiders/foe");
}

}  // namespace
}  // namespace dardo::test::launches_test
