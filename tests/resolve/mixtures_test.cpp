// Where two features meet: what each does right by itself it must do right with the other.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "dardo/resolve/aimed.hpp"
#include "resolve/work.hpp"
#include "support/yard.hpp"

namespace dardo::mixtures_test {
namespace {

using test::verdict_of;
using test::Yard;
const Vec3 kX{1, 0, 0};

Attack shot(ShotPath path, double radius = 0.1) {
  ShotDelivery delivery;
  delivery.path = std::move(path), delivery.radius = radius;
  return {.name = "shot", .delivery = std::move(delivery), .reach = {0, 150}};
}
ShotDelivery& delivery(Attack& attack) { return std::get<ShotDelivery>(attack.delivery); }

TEST(Mixtures, AnyNumberOfWallsIsMetInOneInstant) {
  for (const int walls : {1, 3, 4, 20}) {
    for (const double radius : {0.0, 0.1}) {
      Yard yard;
      const BodyId raider = yard.raider("raider", {20, 0, 0});
      for (int i = 0; i < walls; ++i) yard.wall("w" + std::to_string(i), {10 + 0.01 * i, 0, 0}, {0.4, 4, 4});
      Attack bolt = shot(StraightPath{.speed = 24}, radius);
      delivery(bolt).pierce.materials = {"timber"}, delivery(bolt).pierce.thickness = 1;
      const Outcome pierced = resolve(yard.arena, bolt, {.by = yard.mara, .toward = AlongDirection{kX}});
      EXPECT_TRUE(verdict_of(pierced, raider).struck) << walls;
      Attack stone = shot(StraightPath{.speed = 24}, radius);
      delivery(stone).ricochet.count = 1;
      const Outcome turned = resolve(yard.arena, stone, {.by = yard.mara, .toward = AlongDirection{kX}});
      EXPECT_EQ(turned.ended, Ended::reach) << walls << " turned once, as by one wall";
    }
  }
}

TEST(Mixtures, AShotThatFollowsTouchesWhatItStartsAt) {
  // A blast's middle lies as near to a raider's back as a place is known; what it sends on flies away from
  // him.
  for (const double off : {0.0, 1e-9, 1e-6}) {
    Yard yard;
    const BodyId raider = yard.raider("raider", {5, 0, 0});
    const Vec3 back = yard.arena.center(raider) + kX * (0.5 + off);
    for (const double radius : {0.0, 0.25}) {
      Attack blast{.name = "blast", .delivery = AreaDelivery{.shape = BallArea{0}}};
      blast.then = {{.when = Then::When::end, .attacks = {shot(StraightPath{.speed = 9}, radius)}}};
      const Outcome out =
          resolve(yard.arena, blast, {.by = yard.mara, .toward = AtPlace{back + kX * radius}}, Detail::full);
      const auto followed =
          std::count_if(out.strikes.begin(), out.strikes.end(), [](const Strike& s) { return s.stage == 1; });
      EXPECT_EQ(followed, off < 1e-8 ? 1 : 0) << off << ' ' << radius;
    }
  }
}

TEST(Mixtures, WhatAnInstantLeadsToComesAfterIt) {
  // Two bolts of a volley meet their raiders at once; what each sets off comes when both have struck, by
  // stage.
  Yard yard;
  yard.raider("near", {5, 0, 0}), yard.raider("beside", {5.4, 0, 0});
  Attack volley = shot(StraightPath{.speed = 10});
  delivery(volley).volley.count = 2;
  volley.then = {{.when = Then::When::strike, .attacks = {test::blast(1)}},
                 {.when = Then::When::strike, .attacks = {test::kBolt}}};
  const Outcome out = resolve(yard.arena, volley, {.by = yard.mara, .toward = AlongDirection{kX}});
  std::vector<std::uint32_t> stages, causes;
  for (const Strike& s : out.strikes) stages.push_back(s.stage), causes.push_back(s.cause);
  EXPECT_EQ(stages, (std::vector<std::uint32_t>{0, 0, 1, 1, 1, 1, 2, 2}));
  EXPECT_EQ(causes, (std::vector<std::uint32_t>{0, 0, 1, 1, 2, 2, 1, 2}));

  // Live, a raider who falls by what the first one sets off has been struck by the second all the same.
  Skirmish live(yard.arena);
  ASSERT_TRUE(live.start(*live.add_attack(volley), {.by = yard.mara, .toward = AlongDirection{kX}}));
  int direct = 0;
  for (int tick = 0; tick < 60; ++tick) {
    (void)live.advance(1.0 / 60, [&](const Strike& s) {
      direct += s.stage == 0;
      return s.stage > 0;
    });
  }
  EXPECT_EQ(direct, 2);
}

TEST(Mixtures, ANearLimitExactlyAtASurfaceIsFarEnough) {
  // However the surface is described: a hull is touched a nanometre early.
  for (const bool hull : {false, true}) {
    Yard yard;
    const Box box{{}, {0.5, 0.5, 0.5}, {}};
    Hull corners;
    for (int i = 0; i < 8; ++i)
      corners.points.push_back({i & 1 ? 0.5 : -0.5, i & 2 ? 0.5 : -0.5, i & 4 ? 0.5 : -0.5});
    const BuildId crate =
        *yard.arena.add_build({.name = "crate", .hitboxes = {{"all", hull ? Shape{corners} : Shape{box}}}});
    const BodyId raider =
        yard.add({.id = "raider", .build = crate, .faction = yard.raiders, .pose = {{3, 0, 0}, {}}});
    for (Attack attack : {shot(StraightPath{.speed = 8}, 0), test::kBolt}) {
      attack.reach.near = 2.5;
      const Launch launch{.by = yard.mara, .toward = AlongDirection{kX}};
      EXPECT_TRUE(verdict_of(resolve(yard.arena, attack, launch), raider).struck) << hull << attack.name;
      attack.reach.near = 2.5 + 1e-8;
      EXPECT_FALSE(verdict_of(resolve(yard.arena, attack, launch), raider).struck) << hull << attack.name;
    }
  }
}

TEST(Mixtures, NothingSlipsThroughAJointOfTwoWalls) {
  for (int i = 0; i < 200; ++i) {
    const double far = 3 + 0.37 * i, aside = 0.1 * i - 7.3;
    Yard yard;
    yard.wall("left", {far, aside + 1, 0}, {0.5, 2, 4});
    yard.wall("right", {far, aside - 1, 0}, {0.5, 2, 4});
    const BodyId thrower = yard.add("thrower", yard.wardens, {0, aside, 0});
    for (const double radius : {0.0, 0.05}) {
      const Outcome out = resolve(yard.arena, shot(StraightPath{.speed = 30}, radius),
                                  {.by = thrower, .toward = AlongDirection{kX}});
      EXPECT_EQ(out.ended, Ended::wall) << i;
      EXPECT_NEAR(out.end.x, far - 0.25 - radius, 1e-9) << i;
    }
    const Outcome ray = resolve(yard.arena, test::kBolt, {.by = thrower, .toward = AlongDirection{kX}});
    if (far < 20) EXPECT_EQ(ray.ended, Ended::wall) << i;
  }
}

TEST(Mixtures, AFastShotNearACornerIsNotAtRest) {
  for (const double off : {1e-6, 1e-4, 0.005, 0.02}) {
    Yard yard;
    yard.wall("east", {11, 0, 0}, {2, 40, 40});
    yard.wall("north", {0, 11, 0}, {40, 2, 40});
    Attack stone = shot(StraightPath{.speed = 300}, 0);
    delivery(stone).ricochet.count = 5;
    const Outcome out = resolve(yard.arena, stone, {.by = yard.mara, .toward = AtPlace{{10, 10 - off, 0}}});
    EXPECT_EQ(out.ended, Ended::reach) << off << " " << name(out.ended);
  }
}

TEST(Mixtures, ANearLimitIsJudgedWhereATouchBegins) {
  for (const double hertz : {10.0, 30.0, 60.0, 144.0}) {
    Yard yard;
    yard.raider("near", {1.5, 0, 0});
    const BodyId far = yard.raider("far", {5, 0, 0});
    Attack bolt = shot(StraightPath{.speed = 20}, 0);
    bolt.reach.near = 1.2, delivery(bolt).pierce.bodies = 5;
    const Outcome whole = resolve(yard.arena, bolt, {.by = yard.mara, .toward = AlongDirection{kX}});
    ASSERT_EQ(whole.strikes.size(), 1u);
    Skirmish live(yard.arena);
    (void)*live.start(*live.add_attack(bolt), {.by = yard.mara, .toward = AlongDirection{kX}});
    std::vector<Strike> strikes;
    for (int i = 0; i < 200; ++i)
      (void)live.advance(1 / hertz, [&](const Strike& s) { strikes.push_back(s); });
    ASSERT_EQ(strikes.size(), 1u) << hertz;
    EXPECT_EQ(strikes[0].body, far);
    EXPECT_NEAR(strikes[0].time_s, whole.strikes[0].time_s, 1e-9);
  }
}

/// Why it strikes nobody is told at once, also of a shape that goes through somebody too near.
TEST(Mixtures, AShapeThatTouchesTooNearIsToldAtOnce) {
  Yard yard;
  const BodyId near = yard.raider("near", {1.5, 0, 0});
  yard.raider("aside", {8, 3, 0});
  Attack axe = shot(FallingPath{.speed = 20}, 0);
  delivery(axe).shape = Shape{Box{{}, {0.4, 0.05, 0.15}, {}}};
  axe.reach.near = 5;
  const Outcome out = resolve(yard.arena, axe, {.by = yard.mara, .toward = AlongDirection{kX}}, Detail::full);
  EXPECT_EQ(verdict_of(out, near).deciding.reason, Reason::too_near);
}

TEST(Mixtures, RaysEndOnTheGround) {
  Yard yard;
  ASSERT_TRUE(yard.arena.set_ground(-1).empty());
  const BodyId low = yard.raider("low", {10, 0, -3});
  Outcome out = resolve(yard.arena, test::kBolt, {.by = yard.mara, .toward = low});
  EXPECT_EQ(out.ended, Ended::ground);
  EXPECT_NEAR(out.end.z, -1, 1e-12);
  EXPECT_EQ(verdict_of(out, low).deciding.reason, Reason::ground);
  // Up is against gravity.
  ASSERT_TRUE(yard.arena.set_gravity({-9.81, 0, 0}).empty());
  out = resolve(yard.arena, test::kBolt, {.by = yard.mara, .toward = AlongDirection{{-1, 0, 0}}});
  EXPECT_EQ(out.ended, Ended::ground);
  EXPECT_NEAR(out.end.x, -1, 1e-12);
  // And an apex comes where a shot is farthest against it.
  Attack lob = shot(FallingPath{.speed = 10}, 0);
  lob.then = {{.when = Then::When::apex, .attacks = {test::blast(0.6)}}};
  const BodyId there = yard.raider("there", {100.0 / (2 * 9.81), 0, 0});
  out = resolve(yard.arena, lob, {.by = yard.mara, .toward = AlongDirection{{1, 0, 0}}});
  EXPECT_TRUE(verdict_of(out, there).struck);
}

TEST(Mixtures, SpreadTurnsWithTheScene) {
  std::vector<Vec3> ends[2];
  for (const int turned : {0, 1}) {
    for (const auto spread :
         {Volley::Spread::cone, Volley::Spread::gauss, Volley::Spread::ring, Volley::Spread::fan}) {
      Yard yard;
      Attack volley = shot(StraightPath{.speed = 20}, 0);
      delivery(volley).volley = {.count = 6, .spread = spread, .angle = 0.3};
      volley.reach.far = 30;
      const Vec3 way = turned ? Vec3{-0.3, 1, 0.4} : Vec3{1, 0.3, 0.4};
      const Outcome out =
          resolve(yard.arena, volley, {.by = yard.mara, .toward = AlongDirection{way}, .seed = 3});
      for (const Mark& m : out.marks) {
        if (const auto* f = std::get_if<FlightMark>(&m)) ends[turned].push_back(f->places.back());
      }
    }
  }
  ASSERT_EQ(ends[0].size(), 24u);
  for (std::size_t i = 0; i < ends[0].size(); ++i)
    EXPECT_LT(length(ends[1][i] - Vec3{-ends[0][i].y, ends[0][i].x, ends[0][i].z}), 1e-9) << i;
}

TEST(Mixtures, WhoeverIsStruckOnTheWayChangesNoChanceAtItsEnd) {
  std::vector<Vec3> ends[2];
  for (const int somebody : {0, 1}) {
    Yard yard;
    if (somebody) yard.raider("on the way", {5, 0, 0});
    Attack pot = shot(StraightPath{.speed = 20}, 0), splinter = shot(StraightPath{.speed = 5}, 0);
    pot.reach.far = 10, delivery(pot).pierce.bodies = 5;
    splinter.reach.far = 1,
    delivery(splinter).volley = {.count = 5, .spread = Volley::Spread::cone, .angle = 1};
    pot.then = {{.when = Then::When::strike, .attacks = {splinter}},
                {.when = Then::When::end, .attacks = {splinter}}};
    const Outcome out = resolve(yard.arena, pot, {.by = yard.mara, .toward = AlongDirection{kX}, .seed = 9});
    for (const Mark& m : out.marks) {
      const auto* f = std::get_if<FlightMark>(&m);
      if (f != nullptr && f->places.front().x > 9.5) ends[somebody].push_back(f->places.back());
    }
  }
  ASSERT_EQ(ends[0].size(), 5u);
  EXPECT_EQ(ends[0], ends[1]);
}

TEST(Mixtures, AimingLeadsWhoIsMovedByTheGame) {
  const auto paths = {ShotPath(StraightPath{.speed = 15}), ShotPath(FallingPath{.speed = 20}),
                      ShotPath(LobPath{.flight_time_s = 1})};
  for (const ShotPath& path : paths) {
    Yard yard;
    const BodyId runner = yard.raider("runner", {12, -5, 0});
    Skirmish live(yard.arena);
    const bool lob = std::holds_alternative<LobPath>(path);
    (void)*live.start(*live.add_attack(shot(path, 0)),
                      {.by = yard.mara, .toward = runner, .aim = lob ? Aiming::direct : Aiming::lead});
    std::size_t strikes = 0;
    for (int i = 1; i <= 120; ++i) {
      (void)live.move(runner, {{0, 0, 0}, {}});  // the last word counts
      (void)live.move(runner, {{12, -5 + 4.0 * i / 60, 0}, {}});
      (void)live.advance(1.0 / 60, [&](const Strike&) { ++strikes; });
    }
    EXPECT_EQ(strikes, 1u) << path.index();
  }
}

TEST(Mixtures, AimingKnowsATracksFutureOnlyWhenItIsForeseen) {
  Yard yard;
  Body runner{.id = "runner", .faction = yard.raiders};
  runner.track = {{0, {{12, -5, 0}, {}}}, {0.3, {{12, -3.5, 0}, {}}}, {3, {{12, -17, 0}, {}}}};  // turns back
  const BodyId id = yard.add(runner);
  for (const bool foreseen : {false, true}) {
    Attack bolt = shot(StraightPath{.speed = 15}, 0);
    delivery(bolt).foreseen = foreseen;
    const Outcome out = resolve(yard.arena, bolt, {.by = yard.mara, .toward = id, .aim = Aiming::lead});
    EXPECT_EQ(verdict_of(out, id).struck, foreseen);
  }
}

TEST(Mixtures, AreasInARunningGameLieWhereTheyLieOffline) {
  for (const auto around : {AreaDelivery::Around::aim, AreaDelivery::Around::attacker}) {
    for (const double far : {100.0, 3.0}) {
      Yard yard;
      const BodyId raider = yard.raider("raider", {8, 0, 0});
      yard.raider("beside", {2, 1, 0});
      Attack blast{.name = "blast",
                   .delivery = AreaDelivery{.shape = BallArea{2}, .around = around},
                   .reach = {0, far}};
      Attack after = test::blast(3);
      after.who = {Relation::self};
      blast.then = {{.when = Then::When::end, .attacks = {after}}};
      const Launch launch{.by = yard.mara, .toward = raider};
      const Outcome whole = resolve(yard.arena, blast, launch);
      Skirmish live(yard.arena);
      (void)*live.start(*live.add_attack(blast), launch);
      std::vector<Strike> strikes;
      (void)live.advance(0.1, [&](const Strike& s) { strikes.push_back(s); });
      EXPECT_EQ(strikes, whole.strikes) << far;
    }
  }
}

TEST(Mixtures, WhoStandsUpAgainIsStruckAgain) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {5, 0, 0});
  Skirmish live(yard.arena);
  const AttackId bolt = *live.add_attack(shot(StraightPath{.speed = 50}));
  const auto fire = [&] {
    (void)*live.start(bolt, {.by = yard.mara, .toward = AlongDirection{kX}});
    std::size_t strikes = 0;
    for (int i = 0; i < 5; ++i) {
      (void)live.advance(0.1, [&](const Strike&) {
        ++strikes;
        return true;
      });
    }
    return strikes;
  };
  const std::string before = live.save();
  EXPECT_EQ(fire(), 1u);
  EXPECT_EQ(fire(), 0u) << "the fallen";
  EXPECT_TRUE(yard.arena.set_fallen(raider, false));
  EXPECT_EQ(fire(), 1u);
  EXPECT_TRUE(yard.arena.set_fallen(raider, false));
  ASSERT_TRUE(live.restore(before));
  EXPECT_EQ(fire(), 1u);
}

TEST(Mixtures, TheCapIsToldToWhoWasTouchedTogetherWithTheLast) {
  Yard yard;
  const BodyId first = yard.raider("first", {10, 0, 0}), second = yard.raider("second", {10, 0, 0});
  const Outcome out = resolve(yard.arena, shot(StraightPath{}), {.by = yard.mara, .toward = first});
  EXPECT_TRUE(verdict_of(out, first).struck);
  EXPECT_EQ(verdict_of(out, second).deciding.reason, Reason::cap);
}

TEST(Mixtures, ALifetimeThatIsOverIsToldAsThat) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {10.5, 0, 0});
  Attack slow = shot(StraightPath{.speed = 10}, 0);
  delivery(slow).life_s = 0.75;
  const Verdict v = verdict_of(resolve(yard.arena, slow, {.by = yard.mara, .toward = raider}), raider);
  EXPECT_EQ(v.deciding.reason, Reason::over);
  EXPECT_EQ(v.deciding.gate, Gate::time);
  EXPECT_NEAR(*v.deciding.margin, 0.25, 1e-12);
}

TEST(Mixtures, TheHighWayStraightUpIsTheSecondPassage) {
  Yard yard;
  const BodyId above = yard.raider("above", {0, 0, 8});
  const AimReport report = aim(yard.arena, shot(FallingPath{.speed = 20}, 0),
                               {.by = yard.mara, .toward = above, .aim = Aiming::high});
  ASSERT_EQ(report.ways.size(), 2u);
  const double root = std::sqrt(400 - 2 * 9.81 * 8);
  EXPECT_NEAR(report.ways[0].time_s, (20 - root) / 9.81, 1e-6);
  EXPECT_NEAR(report.ways[1].time_s, (20 + root) / 9.81, 1e-6);
}

TEST(Mixtures, WhatMeansNothingInAnArenaIsRefused) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {9, 0, 0});
  EXPECT_FALSE(yard.arena.set_gravity({0, 0, -1e200}).empty());
  EXPECT_FALSE(yard.arena.set_gravity({0, NAN, 0}).empty());
  EXPECT_FALSE(yard.arena.set_ground(INFINITY).empty());
  EXPECT_EQ(yard.arena.gravity(), (Vec3{0, 0, -9.81})) << "it stays as it was";
  ASSERT_TRUE(yard.arena.set_gravity({}).empty());
  const Outcome out = resolve(yard.arena, shot(LobPath{.apex = 3}), {.by = yard.mara, .toward = raider});
  ASSERT_EQ(out.problems.size(), 1u);
  EXPECT_EQ(out.problems[0].where, "/attack/shot/lob/apex");
  for (const ShotPath& path :
       {ShotPath(LobPath{.flight_time_s = 1e-300}), ShotPath(StraightPath{.speed = 1e-300}),
        ShotPath(FallingPath{.speed = 1e6, .drag = 1000})})
    EXPECT_FALSE(check(shot(path)).empty()) << path.index();
  Attack growing = shot(StraightPath{});
  delivery(growing).pierce.power_ratio = 1e9;
  EXPECT_TRUE(std::isfinite(delivery(growing).pierce.power_of(1000)));
}

TEST(Mixtures, WhatLiesInAWallIsSeenFromNowhereWhateverStandsBefore) {
  for (const bool cut : {false, true}) {
    Yard yard;
    const BodyId raider = yard.raider("raider", {6, 0, 0});
    if (cut) {
      yard.wall("front", {4, 0, 0}, {2, 4, 4}), yard.wall("back", {6, 0, 0}, {2, 4, 4});
    } else {
      yard.wall("whole", {5, 0, 0}, {4, 4, 4});
    }
    Attack flare = test::blast(9);
    flare.sight = Passage::blasts;
    const Outcome out = resolve(yard.arena, flare, {.by = yard.mara, .toward = AtPlace{{0, 0, 0}}});
    const Reading& why = verdict_of(out, raider).deciding;
    EXPECT_EQ(why.reason, Reason::inside_wall) << cut;
    EXPECT_EQ(yard.arena.wall(why.by.wall).id, cut ? "back" : "whole");
  }
}

TEST(Mixtures, ABallThatStartsInTwoWallsIsTurnedAsByOne) {
  Vec3 ends[2];
  for (const bool cut : {false, true}) {
    Yard yard;
    if (cut) {
      yard.wall("a", {1.5, 3, 0}, {0.5, 4, 2}), yard.wall("b", {2, 3, 0}, {0.5, 4, 2});
    } else {
      yard.wall("whole", {1.75, 3, 0}, {1, 4, 2});
    }
    Attack stone = shot(StraightPath{.speed = 12}, 2.5);
    delivery(stone).ricochet.count = 1, delivery(stone).life_s = 0.5;
    const Outcome out =
        resolve(yard.arena, stone, {.by = yard.mara, .toward = AlongDirection{normalized({1, 0.6, 0})}});
    EXPECT_EQ(out.ended, Ended::life) << name(out.ended);
    ends[cut] = out.end;
  }
  EXPECT_LT(length(ends[0] - ends[1]), 1e-9);
  EXPECT_GT(length(ends[0] - Vec3{-6, -3.6, 0}), 0.1) << "off the corner, not straight back";
}

TEST(Mixtures, ALeadIsFoundWhereTheTargetJumpsAsALifeEnds) {
  Yard yard;
  const BodyId raider = yard.add(
      {.id = "raider",
       .faction = yard.raiders,
       .track = {
           {0, {{1, -2, 0}, {}}}, {0.5, {{2, -2, 0}, {}}}, {0.5, {{1, 0, 0}, {}}}, {1.5, {{1, -2, 0}, {}}}}});
  Attack rocket = shot(GuidedPath{.speed = 30, .turn_rate = 3.14, .lead = true});
  delivery(rocket).life_s = 0.5, delivery(rocket).foreseen = true;
  const AimReport report =
      aim(yard.arena, rocket, {.by = yard.mara, .toward = AtBody{raider, {}}, .aim = Aiming::lead});
  ASSERT_EQ(report.ways.size(), 1u) << report.problem;
  EXPECT_LT(report.ways[0].off, 1e-3);
}

TEST(Mixtures, ConesAndPostsAsWideAtOneHeightTie) {
  Yard yard;
  const BuildId cone =
                    *yard.arena.add_build({.name = "cone", .hitboxes = {{"all", Cone{{0, 0, 1}, {}, 0.5}}}}),
                mast = *yard.arena.add_build(
                    {.name = "mast", .hitboxes = {{"all", Capsule{{}, {0, 0, 1}, 0.25}}}});
  const Vec3 at{-3, 4, 0};
  const BodyId first = yard.add({.id = "first", .build = mast, .faction = yard.raiders, .pose = {at, {}}});
  yard.add({.id = "second", .build = cone, .faction = yard.raiders, .pose = {at, {}}});
  for (int i = 0; i < 200; ++i) {
    const Vec3 from{0.01 * i, 0.02 * i - 2, 0.5};
    const BodyId thrower = yard.add("thrower" + std::to_string(i), yard.wardens, from);
    const Outcome out =
        resolve(yard.arena, test::kBolt, {.by = thrower, .toward = AtPlace{{at.x + 0.05, at.y, 0.5}}},
                Detail::strikes);
    ASSERT_EQ(out.strikes.size(), 1u) << i;
    EXPECT_EQ(out.strikes[0].body, first) << i;
  }
}

TEST(Mixtures, AWallThatAShotStartsInTakesSpeedByTheRestOfIt) {
  for (const double scale : {1.0, 2.0}) {
    Yard yard;
    const BodyId raider = yard.raider("raider", {8 * scale, 0, 0});
    yard.wall("w", {0, 0, 0}, Vec3{1, 2, 2} * scale);
    Attack bolt = shot(StraightPath{.speed = 30 * scale}, 0);
    delivery(bolt).pierce = {.materials = {"timber"}, .thickness = 4 * scale, .speed_loss = 30};
    const Outcome out = resolve(yard.arena, bolt, {.by = yard.mara, .toward = AtBody{raider, {}}});
    ASSERT_EQ(out.strikes.size(), 1u);
    EXPECT_NEAR(out.strikes[0].time_s, (8 * scale - 0.5) / (scale * 15), 1e-9);
  }
}

TEST(Mixtures, ACurveThatTurnsAboutOnItselfKeepsItsTime) {
  for (const double rise : {0.25, 1.0, 4.0}) {
    Yard yard;
    const BodyId mast = yard.add({.id = "mast", .faction = yard.raiders, .pose = {{0, 0, 0.25}, {}}});
    Attack oar = shot(CurvePath{.speed = 8, .rise = rise}, 0);
    delivery(oar).life_s = 10, delivery(oar).pierce.bodies = 3;
    const Outcome out = resolve(yard.arena, oar, {.by = yard.mara, .toward = AtBody{mast, {}}});
    EXPECT_EQ(out.ended, Ended::returned);
    // Straight up and down: the height 0.25 u + 3 rise u (1 - u), there and back again.
    const double turn = (0.25 + 3 * rise) / (6 * rise), top = 0.25 * turn + 3 * rise * turn * (1 - turn),
                 back = (3 * rise - 0.25) / (6 * rise), lift = 3 * rise * back * (1 - back) - 0.25 * back;
    const double there = 3 * rise > 0.25 ? 2 * top - 0.25 : 0.25,
                 home = 3 * rise > 0.25 ? 2 * lift + 0.25 : 0.25;
    EXPECT_NEAR(out.end_s, (there + home) / 8, 1e-8) << rise;
  }
}

TEST(Mixtures, ACurveThatStandsWhereItSetsOffGoesOn) {
  // Down by three times its rise: there its slope is nothing, to the bit.
  for (const double rise : {0.25, 0.5, 1.0}) {
    Yard yard;
    const BodyId pit = yard.add({.id = "pit", .faction = yard.raiders, .pose = {{0, 0, -3 * rise}, {}}});
    Attack oar = shot(CurvePath{.speed = 8, .rise = rise}, 0);
    oar.who = {Relation::neutral}, delivery(oar).life_s = 10;
    const Outcome out = resolve(yard.arena, oar, {.by = yard.mara, .toward = AtBody{pit, {}}});
    EXPECT_EQ(out.ended, Ended::returned) << name(out.ended);
    EXPECT_TRUE(is_finite(out.end) && std::isfinite(out.end_s));
    EXPECT_GT(out.end_s, 6 * rise / 8 - 1e-6);
  }
}

TEST(Mixtures, ACurveWhoseThrowerOutrunsItTakesNoLongerThanAnother) {
  Yard yard;
  const BodyId runner = yard.add({.id = "runner",
                                  .faction = yard.wardens,
                                  .track = {{0, {}}, {1, {{1, -2, 0}, {}}}, {1.5, {{-1, -4, 0}, {}}}}});
  Attack oar = shot(CurvePath{.speed = 2, .side = 1}, 0);
  delivery(oar).life_s = 4;
  const std::uint64_t before = detail::work().pieces;
  for (int i = 0; i < 8; ++i) {
    const Vec3 at{1.5 + 0.1 * i, -1 - 0.2 * i, 0.3};
    (void)resolve(yard.arena, oar, {.by = runner, .toward = AtPlace{at}}, Detail::strikes);
  }
  EXPECT_LT(detail::work().pieces - before, 8 * 2000u);
}

TEST(Mixtures, WhatIsSetOffSoNearReachesSoFar) {
  Yard yard;
  const Hull hull{{{-0.5, -0.5, -0.5}, {0.5, -0.5, -0.5}, {0, 0.7, -0.5}, {0, 0, 0.5}}};
  const BuildId shard = *yard.arena.add_build({.name = "shard", .hitboxes = {{"all", hull}}});
  const BodyId raider =
      yard.add({.id = "raider", .build = shard, .faction = yard.raiders, .pose = {{20.3, 1.7, 0.1}, {}}});
  for (const ShotPath& path :
       {ShotPath{StraightPath{.speed = 24}}, ShotPath{GuidedPath{.speed = 24, .turn_rate = 3}},
        ShotPath{FallingPath{.speed = 24, .gravity = 0, .drag = 0.01}}}) {
    for (const double radius : {0.125, 0.25, 0.5, 1.0, 2.0}) {
      Attack flare = shot(path, 0);
      flare.then = {{.when = Then::When::near, .distance = radius, .attacks = {test::blast(radius)}}};
      const Outcome out = resolve(yard.arena, flare, {.by = yard.mara, .toward = AtBody{raider}});
      ASSERT_FALSE(out.strikes.empty()) << path.index() << ' ' << radius;
      EXPECT_EQ(out.strikes[0].stage, 1u) << path.index() << ' ' << radius;
    }
  }
}

TEST(Mixtures, ARayThatFollowsTouchesWhatItStartsAt) {
  // A curve is a nanometre off where it sticks, and leaves along where it set off to: past the body or into
  // it.
  for (const double side : {-4.0, 0.0, 4.0}) {
    Yard yard;
    const BuildId crate =
        *yard.arena.add_build({.name = "crate", .hitboxes = {{"all", Box{{}, {0.5, 0.5, 0.5}, {}}}}});
    const BodyId raider =
        yard.add({.id = "raider", .build = crate, .faction = yard.raiders, .pose = {{9, 0, 0}, {}}});
    Attack oar = shot(CurvePath{.speed = 12, .side = side}, 0);
    delivery(oar).sticks = true, delivery(oar).life_s = 2;
    oar.then = {{.when = Then::When::end, .distance = 0, .attacks = {test::kBolt}}};
    const Outcome out = resolve(yard.arena, oar, {.by = yard.mara, .toward = AtBody{raider}});
    ASSERT_EQ(out.strikes.size(), 2u) << side;
    EXPECT_EQ(out.strikes[1].body, raider) << side;
    EXPECT_EQ(out.strikes[1].stage, 1u) << side;
  }
}

TEST(Mixtures, AWallThatTakesAllSpeedExactlyStopsWhereverItStands) {
  // 1.7 m of wall at 4 m/s a metre, and 6.8 m/s: what is left is rounding.
  for (int i = 0; i < 50; ++i) {
    const Vec3 at{0.37 * i, -0.83 * i, 0.11 * i};
    Yard yard;
    yard.wall("w", at + Vec3{5, 0, 0}, {1.7, 4, 4});
    const BodyId thrower = yard.add("thrower", yard.wardens, at);
    Attack bolt = shot(StraightPath{.speed = 6.8}, 0);
    delivery(bolt).pierce = {.materials = {"timber"}, .thickness = 1.7, .speed_loss = 4};
    EXPECT_EQ(resolve(yard.arena, bolt, {.by = thrower, .toward = AlongDirection{kX}}).ended, Ended::wall)
        << i;
    delivery(bolt).pierce.speed_loss = 3;
    EXPECT_NE(resolve(yard.arena, bolt, {.by = thrower, .toward = AlongDirection{kX}}).ended, Ended::wall)
        << i;
  }
}

TEST(Mixtures, ARayExactlyIntoAnEdgeMeetsItAsATinyBallWould) {
  Yard yard;
  Hull hull;
  for (int i = 0; i < 8; ++i)
    hull.points.push_back({i & 1 ? 0.5 : -0.5, i & 2 ? 0.5 : -0.5, i & 4 ? 0.5 : -0.5});
  const BuildId crate = *yard.arena.add_build(
                    {.name = "crate", .hitboxes = {{"all", Box{{}, {0.5, 0.5, 0.5}, {}}}}}),
                shell = *yard.arena.add_build({.name = "shell", .hitboxes = {{"all", hull}}});
  const BodyId of_crate =
                   yard.add({.id = "box", .build = crate, .faction = yard.raiders, .pose = {{4, 4, 0}, {}}}),
               of_shell = yard.add(
                   {.id = "hull", .build = shell, .faction = yard.raiders, .pose = {{-4, -4, 0}, {}}});
  const double half = std::numbers::sqrt2 / 2;
  for (const double sign : {1.0, -1.0}) {
    const Outcome out =
        resolve(yard.arena, test::kBolt, {.by = yard.mara, .toward = AtBody{sign > 0 ? of_crate : of_shell}});
    ASSERT_EQ(out.strikes.size(), 1u);
    EXPECT_NEAR(length(out.strikes[0].normal - Vec3{-half, -half, 0} * sign), 0, 1e-8) << sign;
  }
  // What is round keeps its normal however the ray leans.
  const BuildId drum =
      *yard.arena.add_build({.name = "drum", .hitboxes = {{"all", Cylinder{{0, 0, -1}, {0, 0, 1}, 0.5}}}});
  const BodyId of_drum =
      yard.add({.id = "drum", .build = drum, .faction = yard.raiders, .pose = {{-6, 4, 0}, {}}});
  for (const double aside : {0.0, 1e-3, 0.005, 0.02, 0.1, 0.3}) {
    const Outcome round =
        resolve(yard.arena, test::kBolt,
                {.by = yard.mara, .toward = AtPlace{{-6 + 0.6 * aside, 4 + 0.8 * aside, 0}}});
    ASSERT_EQ(round.strikes.size(), 1u) << aside;
    const Vec3 out = round.strikes[0].point - yard.arena.center(of_drum);
    EXPECT_NEAR(length(round.strikes[0].normal - normalized(Vec3{out.x, out.y, 0})), 0, 1e-9) << aside;
  }
  // Beside the edge it is the face's.
  const Outcome beside =
      resolve(yard.arena, test::kBolt, {.by = yard.mara, .toward = AtPlace{{3.5, 3.5 + 1e-4, 0}}});
  EXPECT_NEAR(length(beside.strikes.at(0).normal - Vec3{-1, 0, 0}), 0, 1e-12);
}

TEST(Mixtures, ABallThatLeavesAnEdgeItTouchesIsNotMetWhereverThatIs) {
  for (int i = 0; i < 50; ++i) {
    const Vec3 at{16.0 - i, 3.7 * i, 0.5 * i};
    Yard yard;
    const BodyId thrower = yard.add("thrower", yard.wardens, at);
    const BodyId raider =
        yard.add({.id = "raider", .faction = yard.raiders, .pose = {at + Vec3{-8, 0, 0.5}, {}}});
    yard.wall("plank", at + Vec3{0, 0.5, -0.5}, {0.5, 0.5, 1});
    const Outcome out =
        resolve(yard.arena, shot(StraightPath{.speed = 8}, 0.25), {.by = thrower, .toward = AtBody{raider}});
    EXPECT_EQ(out.ended, Ended::strike) << i;
  }
}

TEST(Mixtures, OfACrowdInOnePlaceARayStrikesWhoWasAddedFirst) {
  for (const bool moved : {false, true}) {
    Yard yard;
    std::vector<BodyId> crowd;
    for (int i = 0; i < 60; ++i) {
      const Vec3 at{8, 0, 0};
      Body body{.id = "raider-" + std::to_string(i), .faction = yard.raiders, .pose = {at, {}}};
      if (moved) body.pose = {}, body.track = {{0, {at, {}}}, {1, {{8, 5, 0}, {}}}};
      crowd.push_back(yard.add(body));
    }
    for (int gone = 0; gone < 5; ++gone) {
      const Outcome out = resolve(yard.arena, test::kBolt, {.by = yard.mara, .toward = AlongDirection{kX}});
      ASSERT_EQ(out.strikes.size(), 1u);
      EXPECT_EQ(out.strikes[0].body, crowd[static_cast<std::size_t>(gone)]);
      (void)yard.arena.remove(crowd[static_cast<std::size_t>(gone)]);
    }
  }
}

}  // namespace
}  // namespace dardo::mixtures_test
