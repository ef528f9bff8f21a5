#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <numbers>

#include "dardo/resolve/aimed.hpp"
#include "dardo/resolve/skirmish.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::shot_test {
namespace {

using test::Yard;
using Yard_ = Yard;
const Vec3 kX{1, 0, 0};

Attack shot(ShotPath path, double radius = 0) {
  ShotDelivery delivery;
  delivery.path = std::move(path), delivery.radius = radius;
  return {.name = "shot", .delivery = std::move(delivery), .reach = {0, 200}, .power = 10};
}
ShotDelivery& delivery(Attack& attack) { return std::get<ShotDelivery>(attack.delivery); }

const FlightMark& flight(const Outcome& out, std::size_t which = 0) {
  for (const Mark& m : out.marks) {
    if (const auto* f = std::get_if<FlightMark>(&m)) {
      if (which-- == 0) return *f;
    }
  }
  static const FlightMark kNone;
  return kNone;
}

TEST(Shot, StraightMeetsABallWhenTheQuadraticSays) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {10, 0.3, 0});
  const Outcome out = resolve(yard.arena, shot(StraightPath{.speed = 20}, 0.1),
                              {.by = yard.mara, .toward = AlongDirection{kX}});
  ASSERT_EQ(out.strikes.size(), 1u);
  const double travel = 10 - std::sqrt(0.6 * 0.6 - 0.3 * 0.3);
  EXPECT_EQ(out.strikes[0].body, raider);
  EXPECT_NEAR(out.strikes[0].time_s, travel / 20, 1e-12);
  EXPECT_NEAR(out.strikes[0].distance, travel, 1e-11);
  EXPECT_NEAR(out.strikes[0].normal.y, -0.5, 1e-9);
  EXPECT_EQ(out.ended, Ended::strike);
  EXPECT_EQ(explain(test::verdict_of(out, raider), yard.arena), "struck");
}

TEST(Shot, MovingTargetIsMetByRelativeMotion) {
  Yard yard;
  const BodyId raider = yard.add(
      {.id = "raider", .faction = yard.raiders, .track = {{0, {{10, -5, 0}, {}}}, {1, {{10, 5, 0}, {}}}}});
  // At 0.5 s the raider crosses the line; the shot gets there after 10 m.
  const Outcome out =
      resolve(yard.arena, shot(StraightPath{.speed = 20}), {.by = yard.mara, .toward = AlongDirection{kX}});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.strikes[0].body, raider);
  // |(20 t - 10, -(10 t - 5))| = 0.5
  EXPECT_NEAR(out.strikes[0].time_s, 0.5 - 0.5 / std::sqrt(500.0), 1e-9);
}

TEST(Shot, AcceleratesUpToItsTopSpeed) {
  Yard yard;
  yard.raider("raider", {30.5, 0, 0});
  const Outcome out = resolve(yard.arena, shot(StraightPath{.speed = 5, .acceleration = 10, .top_speed = 20}),
                              {.by = yard.mara, .toward = AlongDirection{kX}});
  ASSERT_EQ(out.strikes.size(), 1u);
  // 1.5 s to top speed over 18.75 m, then 11.25 m at 20 m/s.
  EXPECT_NEAR(out.strikes[0].time_s, 1.5 + 11.25 / 20, 1e-9);
}

TEST(Shot, FallingMeetsABallAtTheRootOfTheQuartic) {
  test::Random random(41);
  int met = 0;
  for (int i = 0; i < 300; ++i) {
    Yard yard;
    const Vec3 at{random.range(3, 12), random.range(-0.6, 0.6), random.range(-4, 3)};
    yard.raider("raider", at);
    const Vec3 way = normalized({1, random.range(-0.05, 0.05), random.range(-0.3, 0.6)});
    const double speed = random.range(5, 25), radius = random.range(0, 0.4);
    const Outcome out = resolve(yard.arena, shot(FallingPath{.speed = speed}, radius),
                                {.by = yard.mara, .toward = AlongDirection{way}}, Detail::strikes);
    // The first root of |p(t) - c|² - R²: stepped through finely, then halved in long double.
    const auto f = [&](long double t) {
      const long double x = way.x * speed * t - at.x, y = way.y * speed * t - at.y,
                        z = way.z * speed * t - 9.81L / 2 * t * t - at.z;
      const long double big = 0.5L + radius;
      return x * x + y * y + z * z - big * big;
    };
    std::optional<double> root;
    for (long double t = 0; t < 9.9L && !root; t += 0.0005L) {
      if (f(t + 0.0005L) > 0) continue;
      long double low = t, high = t + 0.0005L;
      for (int k = 0; k < 80; ++k) (f((low + high) / 2) > 0 ? low : high) = (low + high) / 2;
      root = static_cast<double>(high);
    }
    if (out.strikes.empty() && !root) continue;
    if (!root) continue;  // a graze shorter than the steps of the reference
    ASSERT_EQ(out.strikes.size(), 1u) << i;
    ++met;
    EXPECT_NEAR(out.strikes[0].time_s, *root, 1e-9) << i;
  }
  EXPECT_GT(met, 30);
}

TEST(Shot, NeverMissesAThinPlate) {
  test::Random random(42);
  for (int i = 0; i < 200; ++i) {
    Yard yard;
    const double x = random.range(1, 150);
    yard.wall("plate", {x, 0, 0}, {0.001, 40, 40});
    Attack fast = shot(FallingPath{.speed = 1000});
    const Outcome out = resolve(
        yard.arena, fast,
        {.by = yard.mara, .toward = AlongDirection{{1, random.range(-0.1, 0.1), random.range(-0.1, 0.1)}}});
    EXPECT_EQ(out.ended, Ended::wall);
    EXPECT_NEAR(out.end.x, x - 0.0005, 1e-8) << i;
  }
}

TEST(Shot, PierceCountsBodiesAndTakesPowerInOrder) {
  Yard yard;
  for (int i = 1; i <= 4; ++i) yard.raider("raider-" + std::to_string(i), {5.0 * i, 0, 0});
  yard.add("friend", yard.wardens, {7, 0, 0});
  Attack harpoon = shot(StraightPath{.speed = 30});
  delivery(harpoon).pierce = {.bodies = 3, .power = {1, 0.5}};
  const Outcome out = resolve(yard.arena, harpoon, {.by = yard.mara, .toward = AlongDirection{kX}});
  ASSERT_EQ(out.strikes.size(), 3u);
  EXPECT_EQ(out.strikes[0].power.arriving(), 10);
  EXPECT_EQ(out.strikes[1].power.arriving(), 5);
  EXPECT_EQ(out.strikes[2].power.arriving(), 5);
  EXPECT_EQ(out.ended, Ended::strike);
  struct Row {
    std::vector<double> list;
    double ratio;
    std::array<double, 4> factors;
  };
  for (const Row& row : {Row{{}, 0.5, {1, 0.5, 0.25, 0.125}}, Row{{0.8, 0.6}, 0.5, {0.8, 0.6, 0.3, 0.15}},
                         Row{{0.8}, 1, {0.8, 0.8, 0.8, 0.8}}, Row{{}, 0, {1, 0, 0, 0}}}) {
    const Pierce pierce{.bodies = 4, .power = row.list, .power_ratio = row.ratio};
    for (std::uint32_t i = 0; i < 4; ++i) EXPECT_DOUBLE_EQ(pierce.power_of(i), row.factors[i]) << i;
  }
  const BodyId last = *yard.arena.find_body("raider-4");
  EXPECT_EQ(test::verdict_of(out, last).deciding.reason, Reason::shielded);
}

TEST(Shot, PiercesThinWallsOfListedMaterials) {
  Yard yard;
  yard.wall("pane", {4, 0, 0}, {0.2, 4, 4}, yard.glass);
  yard.wall("crate", {8, 0, 0}, {1, 4, 4});
  yard.raider("between", {6, 0, 0});
  Attack bolt = shot(StraightPath{.speed = 20});
  delivery(bolt).pierce = {.bodies = 5,
                           .power = {},
                           .materials = {"glass"},
                           .thickness = 0.3,
                           .speed_loss = 10,
                           .power_loss = 0.5};
  const Outcome out = resolve(yard.arena, bolt, {.by = yard.mara, .toward = AlongDirection{kX}});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_NEAR(out.strikes[0].power.through, 0.9, 1e-9);
  EXPECT_NEAR(out.strikes[0].time_s, 3.9 / 20 + 1.6 / 18, 1e-9);
  EXPECT_EQ(out.ended, Ended::wall);
  EXPECT_EQ(yard.arena.wall(out.stopped_by.wall).id, "crate");
}

/// A room of six walls around [0, size].
void room(Yard& yard, const Vec3& center, const Vec3& half) {
  const Vec3 axes[3] = {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
  for (int i = 0; i < 6; ++i) {
    const Vec3 n = axes[i / 2] * (i % 2 ? 1.0 : -1.0);
    const Vec3 at{center.x + n.x * (half.x + 1), center.y + n.y * (half.y + 1),
                  center.z + n.z * (half.z + 1)};
    const Vec3 size{i / 2 == 0 ? 2.0 : 2 * half.x + 4, i / 2 == 1 ? 2.0 : 2 * half.y + 4,
                    i / 2 == 2 ? 2.0 : 2 * half.z + 4};
    yard.wall("side-" + std::to_string(i), at, size);
  }
}

TEST(Shot, RicochetInAClosedBoxFollowsTheMirrorImages) {
  for (const double radius : {0.0, 0.05}) {
    Yard yard;
    const Vec3 half{3, 4, 5};
    room(yard, {0, 0, 0}, half);
    Attack stone = shot(StraightPath{.speed = 10}, radius);
    stone.reach.far = 1e6;
    delivery(stone).life_s = 100000;
    delivery(stone).ricochet.count = 50;
    const Vec3 way = normalized({0.61, 0.43, -0.57});
    const Outcome out = resolve(yard.arena, stone, {.by = yard.mara, .toward = AlongDirection{way}});
    EXPECT_EQ(out.ended, Ended::wall);
    // Unfolded, the way is straight: where it is in a room of mirrors.
    const auto folded = [](double x, double h) {
      const double period = 4 * h, u = std::fabs(std::remainder(x - h, period));
      return u - h;  // a triangle wave through 0 with slope 1 at 0
    };
    const double d = out.end_s * 10;
    EXPECT_NEAR(out.end.x, folded(-way.x * d, half.x - radius), 1e-6);
    EXPECT_NEAR(out.end.y, folded(-way.y * d, half.y - radius), 1e-6);
    EXPECT_NEAR(out.end.z, folded(-way.z * d, half.z - radius), 1e-6);
  }
}

TEST(Shot, AnExactCornerTurnsBothWaysInOneContact) {
  Yard yard;
  room(yard, {0, 0, 0}, {4, 4, 50});
  Attack stone = shot(StraightPath{.speed = 10});
  delivery(stone).ricochet.count = 1;
  delivery(stone).life_s = 1.2;
  const Outcome out = resolve(yard.arena, stone, {.by = yard.mara, .toward = AlongDirection{{1, 1, 0}}});
  EXPECT_EQ(out.ended, Ended::life) << name(out.ended);
  EXPECT_NEAR(out.end.x, out.end.y, 1e-6);
  EXPECT_NEAR(out.end.x, 8 - 12 / std::sqrt(2), 1e-5);
}

TEST(Shot, BouncingEndsAtRest) {
  Yard yard;
  yard.wall("floor", {0, 0, -2.5}, {200, 200, 1});
  Attack stone = shot(FallingPath{.speed = 3}, 0.1);
  delivery(stone).ricochet = {.count = 100000, .restitution = 0.5};
  delivery(stone).life_s = 60;
  stone.reach.far = 1e6;
  const Outcome out = resolve(yard.arena, stone, {.by = yard.mara, .toward = AlongDirection{kX}});
  EXPECT_EQ(out.ended, Ended::rest);
  // The drop of 1.9 m, then bounces that last half as long each: twice the first fall more.
  const double fall = std::sqrt(2 * 1.9 / 9.81);
  EXPECT_NEAR(out.end_s, fall + 2 * fall, 4e-4);
}

TEST(Shot, ComesBackToItsThrower) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {8, 0, 0});
  Attack oar = shot(CurvePath{.speed = 12, .side = 3});
  delivery(oar).pierce.bodies = 10;
  delivery(oar).radius = 0.3;
  const Outcome out = resolve(yard.arena, oar, {.by = yard.mara, .toward = AtPlace{{8, 0, 0}}});
  EXPECT_EQ(out.ended, Ended::returned) << name(out.ended);
  EXPECT_NEAR(length(out.end), 0, 1e-6);
  EXPECT_EQ(out.strikes.size(), 2u) << "once on each way";
  for (const Strike& s : out.strikes) EXPECT_EQ(s.body, raider);
  // At its steady speed all along.
  const FlightMark& way = flight(out);
  double travelled = 0;
  for (std::size_t i = 1; i < way.places.size(); ++i) travelled += length(way.places[i] - way.places[i - 1]);
  EXPECT_NEAR(travelled, 12 * out.end_s, 0.02);
}

/// Where a guided shot is by then: it turns toward its target at most at its rate, in very many small steps.
Vec3 guided_by_small_steps(double speed, double turn_rate, double delay_s, Vec3 heading, const Vec3& target,
                           const Vec3& velocity, double until) {
  constexpr double kStep = 1e-5;
  const auto to = [&](double t, const Vec3& p) { return normalized(target + velocity * t - p); };
  Vec3 place = heading * (speed * delay_s);
  for (double t = delay_s; t < until; t += kStep) {
    const double step = std::min(kStep, until - t);
    const Vec3 wished = to(t + step, place + heading * (speed * step)), axis = cross(heading, wished);
    const double angle = std::atan2(length(axis), dot(heading, wished));
    const Vec3 next =
        angle <= turn_rate * step ? wished : Rotation::about(normalized(axis), turn_rate * step) * heading;
    place = place + (heading + next) * (0.5 * speed * step), heading = normalized(next);
  }
  return place;
}

TEST(Shot, GuidedFollowsAFineReference) {
  for (const double high : {0.0, 9.0}) {
    Yard yard;
    const Vec3 from{30, 10, high}, to{30, -40, high};
    const BodyId raider =
        yard.add({.id = "raider", .faction = yard.raiders, .track = {{0, {from, {}}}, {10, {to, {}}}}});
    const Vec3 middle = yard.arena.center(raider);
    for (const auto& [speed, turn_rate] :
         {std::pair{18.0, 1.2}, {24.0, 3.0}, {12.0, 2.0}, {30.0, 6.0}, {30.0, 2.5}, {9.0, 60.0}}) {
      for (const Vec3& leaving : {Vec3{}, Vec3{0.2, -1, 0.3}}) {
        // Who turns so slowly misses first, and each pass multiplies the least difference.
        if (leaving != Vec3{} && turn_rate < 2) continue;
        Attack rocket = shot(GuidedPath{.speed = speed, .turn_rate = turn_rate, .delay_s = 0.25});
        Launch launch{.by = yard.mara, .toward = AtBody{raider, {}}};
        if (leaving != Vec3{}) launch.leaving = normalized(leaving);
        const Outcome out = resolve(yard.arena, rocket, launch, Detail::verdicts);
        ASSERT_EQ(out.strikes.size(), 1u)
            << speed << " m/s, " << turn_rate << " rad/s, " << high << leaving.y;
        const FlightMark& way = flight(out);
        const Vec3 start = way.places.front();
        const Vec3 at = guided_by_small_steps(speed, turn_rate, 0.25,
                                              normalized(leaving != Vec3{} ? leaving : middle - start),
                                              middle - start, {0, -5, 0}, way.times.back());
        EXPECT_LT(length(start + at - out.end), 1e-6)
            << speed << " m/s, " << turn_rate << " rad/s, " << high << " m high, leaving " << leaving.y;
      }
    }
  }
}

TEST(Shot, GuidedClimbsFirstAndTurnsLeftForATargetBehind) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {-20, 0, 0});
  Attack rocket = shot(GuidedPath{.speed = 10, .turn_rate = 2});
  const Outcome behind = resolve(yard.arena, rocket, {.by = yard.mara, .toward = AtBody{raider, {}}});
  ASSERT_EQ(behind.strikes.size(), 1u);  // it is aimed straight at it
  std::get<GuidedPath>(delivery(rocket).path).climb = 6;
  const Outcome high = resolve(yard.arena, rocket, {.by = yard.mara, .toward = AtBody{raider, {}}});
  ASSERT_EQ(high.strikes.size(), 1u);
  double top = 0;
  for (const Vec3& p : flight(high).places) top = std::max(top, p.z);
  EXPECT_GT(top, 5.99);
}

TEST(Shot, LobArrivesOnTime) {
  Yard yard;
  const BodyId raider = yard.add(
      {.id = "raider", .faction = yard.raiders, .track = {{0, {{15, 0, 0}, {}}}, {4, {{15, 12, 2}, {}}}}});
  for (const bool follows : {false, true}) {
    Attack flare = shot(LobPath{.flight_time_s = 2, .follows = follows});
    flare.who = {Relation::neutral};
    const Outcome out = resolve(yard.arena, flare, {.by = yard.mara, .toward = AtBody{raider, {}}});
    bool arrives = false;
    const FlightMark& way = flight(out);
    for (std::size_t i = 0; i < way.places.size(); ++i) {
      arrives = arrives || (std::fabs(way.times[i] - 2) < 0.06 && length(way.places[i] - Vec3{15, 6, 1}) < 1);
    }
    EXPECT_TRUE(arrives) << follows;
  }
  Attack high = shot(LobPath{.apex = 7});
  const Outcome out = resolve(yard.arena, high, {.by = yard.mara, .toward = AtPlace{{12, 3, 1}}});
  double top = 0;
  for (const Vec3& p : flight(out).places) top = std::max(top, p.z);
  EXPECT_NEAR(top, 8, 0.05);
}

TEST(Shot, ItsWayIsToldInPiecesThatJoin) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {20, 4, 0});
  yard.wall("wall", {26, 6, 0}, {1, 12, 6});
  for (const ShotPath& path :
       {ShotPath{StraightPath{.speed = 20}}, ShotPath{FallingPath{.speed = 20, .drag = 0.02}},
        ShotPath{CurvePath{.speed = 20, .side = 3}}, ShotPath{GuidedPath{.speed = 20, .turn_rate = 2}},
        ShotPath{LobPath{.flight_time_s = 1.5}}}) {
    ShotDelivery delivery{.path = path, .radius = 0.1, .life_s = 3};
    delivery.pierce.bodies = 3, delivery.ricochet.count = 2;
    const Attack attack{.name = "shot", .delivery = delivery, .reach = {0, 90}};
    const Outcome out = resolve(yard.arena, attack, {.by = yard.mara, .toward = AtBody{raider, {}}});
    const FlightMark& way = flight(out);
    ASSERT_FALSE(way.pieces.empty()) << path.index();
    for (std::size_t i = 1; i < way.pieces.size(); ++i) {
      const WayPiece &before = way.pieces[i - 1], &after = way.pieces[i];
      EXPECT_NEAR(before.end_s, after.start_s, 1e-9) << path.index();
      EXPECT_LT(length(place_at(before, before.end_s) - after.at), 1e-8) << path.index();
    }
    EXPECT_LT(length(place_at(way.pieces.back(), out.end_s) - out.end), 1e-8) << path.index();
    for (std::size_t i = 0; i < way.places.size(); ++i) {
      const auto holds = std::find_if(way.pieces.begin(), way.pieces.end(),
                                      [&](const WayPiece& p) { return way.times[i] <= p.end_s; });
      ASSERT_NE(holds, way.pieces.end());
      EXPECT_LT(length(place_at(*holds, way.times[i]) - way.places[i]), 1e-8) << path.index();
    }
  }
}

TEST(Shot, EndsSayWhy) {
  Yard yard;
  Attack a = shot(StraightPath{.speed = 10});
  a.reach.far = 30;
  EXPECT_EQ(resolve(yard.arena, a, {.by = yard.mara}).ended, Ended::reach);
  delivery(a).life_s = 2;
  Outcome out = resolve(yard.arena, a, {.by = yard.mara});
  EXPECT_EQ(out.ended, Ended::life);
  EXPECT_EQ(explain_end(out, yard.arena), "ended in the air, its lifetime over after 2.00 s");
  std::get<StraightPath>(delivery(a).path).acceleration = -8;
  delivery(a).least_speed = 6;
  out = resolve(yard.arena, a, {.by = yard.mara});
  EXPECT_EQ(out.ended, Ended::slow);
  EXPECT_NEAR(out.end_s, 0.5, 1e-9);
  yard.wall("crate", {3, 0, 0}, {1, 2, 2});
  EXPECT_EQ(resolve(yard.arena, a, {.by = yard.mara}).ended, Ended::wall);
}

TEST(Shot, WhoIsMissedIsToldByHowMuch) {
  Yard yard;
  const BodyId beside = yard.raider("beside", {10, 2, 0});
  const BodyId far = yard.raider("far", {500, 0, 0});
  yard.wall("crate", {14, 0, 0}, {1, 2, 2});
  const BodyId behind = yard.raider("behind", {18, 0, 0});
  const Outcome out = resolve(yard.arena, shot(StraightPath{.speed = 20}, 0.1),
                              {.by = yard.mara, .toward = AlongDirection{kX}});
  EXPECT_EQ(test::verdict_of(out, beside).deciding.reason, Reason::missed);
  EXPECT_NEAR(*test::verdict_of(out, beside).deciding.margin, 1.4, 1e-5);
  EXPECT_EQ(test::verdict_of(out, far).deciding.reason, Reason::too_far);
  EXPECT_EQ(test::verdict_of(out, behind).deciding.reason, Reason::wall);
  EXPECT_NEAR(*test::verdict_of(out, behind).deciding.margin, 4, 1e-6);
}

TEST(Shot, WhatFollowsStartsThereAndThenAndKnowsItsCause) {
  Yard yard;
  const BodyId struck = yard.raider("struck", {10, 0, 0});
  const BodyId beside = yard.raider("beside", {10, 2, 0});
  Attack burst = test::blast(2.5);
  burst.name = "burst", burst.power = 3;
  Attack flare = shot(StraightPath{.speed = 20});
  flare.then = {{.when = Then::When::strike, .attacks = {burst}}};
  const Outcome out = resolve(yard.arena, flare, {.by = yard.mara, .toward = AlongDirection{kX}});
  ASSERT_EQ(out.strikes.size(), 3u);
  EXPECT_EQ(out.strikes[0].body, struck);
  EXPECT_EQ(out.strikes[0].cause, 0u);
  for (const std::size_t i : {1u, 2u}) {
    EXPECT_EQ(out.strikes[i].stage, 1u);
    EXPECT_EQ(out.strikes[i].cause, 1u);
    EXPECT_NEAR(out.strikes[i].time_s, out.strikes[0].time_s, 1e-12);
    EXPECT_EQ(out.strikes[i].power.arriving(), 3);
  }
  EXPECT_TRUE(test::verdict_of(out, beside).struck);
  flare.then[0].when = Then::When::end;
  EXPECT_EQ(resolve(yard.arena, flare, {.by = yard.mara, .toward = AlongDirection{kX}}).strikes.size(), 3u);
}

TEST(Shot, AVerdictIsOfWhatCameNearestToAStrike) {
  Yard yard;
  yard.wall("mast", {20.2, 0, 0}, {0.4, 6, 6});  // the shot ends before it, at x = 19.8
  Attack bomb = shot(StraightPath{.speed = 20}, 0.2);
  Attack burst = test::blast(4);
  burst.sight = Passage::blasts, burst.who = {Relation::foe, Relation::neutral};
  Attack splinters = shot(StraightPath{.speed = 10});
  delivery(splinters).volley = {.count = 2, .spread = Volley::Spread::fan, .angle = std::numbers::pi};
  splinters.reach = {0, 30};
  bomb.then = {{.when = Then::When::end, .attacks = {burst, splinters}}};
  const BodyId behind = yard.raider("behind", {22, 2.5, 0}), close = yard.raider("close", {20, 5, 0}),
               struck = yard.raider("struck", {18, 2, 0}), before = yard.raider("before", {5, 2, 0}),
               neutral = yard.add("neutral", yard.passengers, {20, -3, 0}),
               late = yard.raider("late", {20.03, 20, 0}), mate = yard.add("mate", yard.wardens, {19, -2, 0});
  const Outcome out =
      resolve(yard.arena, bomb, {.by = yard.mara, .toward = AlongDirection{kX}}, Detail::full);
  struct Row {
    BodyId body;
    bool struck;
    std::uint32_t stage;
    Reason reason;
    std::optional<double> margin;
    std::string text;
  };
  for (const Row& row : std::vector<Row>{
           {behind, false, 1, Reason::wall, {}, "what follows: mast stands between"},
           {close, true, 2, Reason::none, {}, "struck"},  // a splinter goes along +y
           {struck, true, 1, Reason::none, {}, "struck"},
           {before, false, 0, Reason::missed, 1.3, "missed by 1.30 m"},
           {neutral, true, 1, Reason::none, {}, "struck"},
           {late, false, 2, Reason::shielded, {}, "what follows (2): close stands between"},
           {mate, false, 0, Reason::relation, {}, "friend, not among those struck"},
       }) {
    const Verdict& v = test::verdict_of(out, row.body);
    const std::string who = yard.arena.body(row.body).id;
    EXPECT_EQ(v.struck, row.struck) << who;
    EXPECT_EQ(v.deciding.stage, row.stage) << who;
    EXPECT_EQ(v.deciding.since_s, row.stage > 0 ? out.end_s : 0) << who;
    EXPECT_EQ(v.deciding.reason, row.reason) << who;
    if (row.margin) EXPECT_NEAR(v.deciding.margin.value_or(-1), *row.margin, 1e-7) << who;
    EXPECT_EQ(explain(v, yard.arena).substr(0, row.text.size()), row.text) << who;
    EXPECT_EQ(v.gates.size(), 3 * 10u) << who << ": the gates of all three";
  }
}

TEST(Shot, VolleysSpreadByTheSeedAlone) {
  Yard yard;
  Attack volley = shot(StraightPath{.speed = 20});
  delivery(volley).volley = {
      .count = 200, .gap_s = 0.001, .spread = Volley::Spread::cone, .angle = 0.2, .speed_variation = 0.1};
  const Launch launch{.by = yard.mara, .toward = AlongDirection{kX}, .seed = 5};
  const Outcome a = resolve(yard.arena, volley, launch), b = resolve(yard.arena, volley, launch);
  EXPECT_EQ(a, b);
  Launch other = launch;
  other.seed = 6;
  EXPECT_NE(a.marks, resolve(yard.arena, volley, other).marks);
  double widest = 0;
  for (std::size_t i = 0; i < 200; ++i) {
    const FlightMark& f = flight(a, i);
    const double angle = std::acos(std::min(1.0, dot(normalized(f.places.back()), kX)));
    widest = std::max(widest, angle);
    EXPECT_LE(angle, 0.2 + 1e-9);
  }
  EXPECT_GT(widest, 0.18);
  delivery(volley).volley = {.count = 3, .spread = Volley::Spread::fan, .angle = std::numbers::pi / 2};
  const Outcome fan = resolve(yard.arena, volley, launch);
  EXPECT_NEAR(flight(fan, 0).places.back().y, -200 * std::sqrt(0.5), 1e-9);
  EXPECT_NEAR(flight(fan, 1).places.back().y, 0, 1e-9);
}

TEST(Shot, AShapeLooksAlongItsWay) {
  Yard yard;
  yard.raider("raider", {0, 10, 0});
  Attack plank = shot(StraightPath{.speed = 10});
  // Two metres wide across its way: it is met beside the line, and one that lies along its way is not.
  delivery(plank).shape = Shape{Box{{0, 0, 0}, {0.1, 1, 0.1}, {}}};
  const Launch past{.by = yard.mara, .toward = AlongDirection{normalized({1.2, 10, 0})}};
  const Outcome wide = resolve(yard.arena, plank, past);
  ASSERT_EQ(wide.strikes.size(), 1u);
  EXPECT_LT(wide.strikes[0].point.y, 10);
  delivery(plank).shape = Shape{Box{{0, 0, 0}, {1, 0.1, 0.1}, {}}};
  EXPECT_TRUE(resolve(yard.arena, plank, past).strikes.empty());
  // On a falling path the shape turns with it.
  yard.raider("below", {6, 0, -5});
  Attack spear = shot(FallingPath{.speed = 6});
  delivery(spear).shape = Shape{Capsule{{-0.5, 0, 0}, {0.5, 0, 0}, 0.02}};
  const Outcome met = resolve(yard.arena, spear, {.by = yard.mara, .toward = AlongDirection{kX}});
  ASSERT_EQ(met.strikes.size(), 1u);
  const double t = met.strikes[0].time_s;
  const Vec3 way = normalized({6, 0, -9.81 * t}), at{6 * t, 0, -9.81 / 2 * t * t};
  EXPECT_NEAR(distance(Shape{Ball{{6, 0, -5}, 0.5}}, Segment{at - way * 0.5, at + way * 0.5}), 0.02, 1e-8);
}

TEST(Shot, SticksAndIsCarriedAlongUntilItsLifetimeIsOver) {
  Yard yard;
  // Walks on, and turns about.
  const BodyId raider =
      yard.add({.id = "raider",
                .faction = yard.raiders,
                .track = {{0, {{10, 0, 0}, {}}},
                          {1, {{10, 0, 0}, {}}},
                          {3, {{10, 8, 0}, Rotation::about({0, 0, 1}, std::numbers::pi)}}}});
  Attack fuse = shot(StraightPath{.speed = 19});
  delivery(fuse).sticks = true, delivery(fuse).life_s = 3;
  Attack burst = test::blast(0.2);
  burst.who = {Relation::neutral};
  fuse.then = {{.when = Then::When::end, .attacks = {burst}}};
  const BodyId beside = yard.add("beside", yard.passengers, {11.1, 8, 0});
  Outcome out = resolve(yard.arena, fuse, {.by = yard.mara, .toward = AlongDirection{kX}});
  EXPECT_EQ(out.ended, Ended::stuck);
  EXPECT_NEAR(out.end_s, 3, 1e-12);
  EXPECT_LT(length(out.end - Vec3{10.5, 8, 0}), 1e-9) << "it struck half a metre before the middle";
  EXPECT_EQ(explain_end(out, yard.arena),
            "stuck in raider, its lifetime over after 3.00 s at (10.50, 8.00, 0.00)");
  ASSERT_EQ(out.strikes.size(), 2u);
  EXPECT_EQ(out.strikes[0].body, raider);
  EXPECT_EQ(out.strikes[1].body, beside);

  yard.wall("crate", {5, 0, 0}, {1, 1, 1});
  out = resolve(yard.arena, fuse, {.by = yard.mara, .toward = AlongDirection{kX}});
  EXPECT_EQ(out.ended, Ended::stuck);
  EXPECT_LT(length(out.end - Vec3{4.5, 0, 0}), 1e-9);
  EXPECT_TRUE(out.strikes.empty());
}

TEST(Shot, FollowsAtItsApexAndNearItsTarget) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {20, 0, 0});
  Attack burst = test::blast(1);
  burst.who = {Relation::foe, Relation::neutral};
  Attack flare = shot(FallingPath{.speed = 20});
  flare.who = {Relation::neutral};
  flare.then = {{.when = Then::When::apex, .attacks = {burst}}};
  yard.add("gull", yard.passengers, {200 / 9.81, 0, 11.5});
  Outcome out = resolve(yard.arena, flare, {.by = yard.mara, .toward = AlongDirection{{1, 0, 1}}});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_NEAR(out.strikes[0].time_s, 20 * std::sqrt(0.5) / 9.81, 1e-9);
  flare = shot(StraightPath{.speed = 10});
  flare.then = {{.when = Then::When::near, .distance = 3, .attacks = {test::blast(4)}}};
  out = resolve(yard.arena, flare, {.by = yard.mara, .toward = AtBody{raider, {}}});
  ASSERT_EQ(out.strikes.size(), 2u);
  EXPECT_EQ(out.strikes[0].stage, 1u);
  EXPECT_NEAR(out.strikes[0].time_s, 1.65, 1e-9);
  EXPECT_EQ(out.strikes[1].stage, 0u);
  EXPECT_NEAR(out.strikes[1].time_s, 1.95, 1e-9);
}

TEST(Shot, StrikesAgainAfterAnIntervalWhileItTouches) {
  Yard yard;
  const BuildId barge =
      *yard.arena.add_build({.name = "barge", .hitboxes = {{"deck", Box{{0, 0, 0}, {5, 2, 1}, {}}}}});
  yard.add({.id = "barge", .build = barge, .faction = yard.raiders, .pose = {{10, 0, 0}, {}}});
  Attack saw = shot(StraightPath{.speed = 5});
  delivery(saw).pierce.bodies = 100;
  delivery(saw).again_after_s = 0.5;
  const Outcome out = resolve(yard.arena, saw, {.by = yard.mara, .toward = AlongDirection{kX}});
  ASSERT_EQ(out.strikes.size(), 5u);  // from 1 s to 3 s
  for (std::size_t i = 0; i < 5; ++i)
    EXPECT_NEAR(out.strikes[i].time_s, 1 + 0.5 * static_cast<double>(i), 1e-9);
}

TEST(Shot, AGuidedShotThatLosesItsTargetDoesAsTheAttackSays) {
  for (const auto rule : {GuidedPath::Lost::end, GuidedPath::Lost::fly_on, GuidedPath::Lost::pick_anew}) {
    Yard yard;
    const BodyId raider = yard.raider("raider", {20, 6, 0}), other = yard.raider("other", {8, -6, 0});
    const MaterialId cloth = *yard.arena.add_material({.name = "cloth", .blocks = {Passage::sight}});
    yard.wall("sail", {10, 4, 0}, {0.2, 6, 6}, cloth);
    Attack rocket = shot(GuidedPath{.speed = 8, .turn_rate = 4, .needs_sight = true, .lost = rule});
    const Outcome out = resolve(yard.arena, rocket, {.by = yard.mara, .toward = AtBody{raider, {}}});
    if (rule == GuidedPath::Lost::end) {
      EXPECT_EQ(out.ended, Ended::lost);
      EXPECT_TRUE(out.strikes.empty());
      EXPECT_NEAR(out.end_s, 0.05, 1e-9) << "at its first look";
    } else {
      ASSERT_EQ(out.strikes.size(), 1u);
      EXPECT_EQ(out.strikes[0].body, rule == GuidedPath::Lost::fly_on ? raider : other);
    }
  }
}

TEST(Shot, TheGroundEndsItOrTurnsIt) {
  Yard yard;
  yard.arena.set_ground(-2);
  Attack stone = shot(FallingPath{.speed = 5}, 0.1);
  Outcome out = resolve(yard.arena, stone, {.by = yard.mara, .toward = AlongDirection{kX}});
  EXPECT_EQ(out.ended, Ended::ground);
  EXPECT_NEAR(out.end_s, std::sqrt(2 * 1.9 / 9.81), 1e-9);
  EXPECT_NEAR(out.end.z, -1.9, 1e-9);
  delivery(stone).ricochet = {.count = 1, .restitution = 0.5};
  out = resolve(yard.arena, stone, {.by = yard.mara, .toward = AlongDirection{kX}});
  EXPECT_EQ(out.ended, Ended::ground);
  EXPECT_NEAR(out.end_s, 2 * std::sqrt(2 * 1.9 / 9.81), 1e-6);
  delivery(stone).ricochet.materials = {"glass"};
  EXPECT_NEAR(resolve(yard.arena, stone, {.by = yard.mara, .toward = AlongDirection{kX}}).end_s,
              std::sqrt(2 * 1.9 / 9.81), 1e-9);
}

TEST(Shot, OneWayWallsPassWhatGoesAlong) {
  for (const double way : {1.0, -1.0}) {
    Yard yard;
    (void)*yard.arena.add_wall({.id = "gate",
                                .shape = Box{{5, 0, 0}, {0.1, 3, 3}, {}},
                                .material = yard.timber,
                                .one_way = Vec3{way, 0, 0}});
    yard.raider("raider", {10, 0, 0});
    for (const Attack& a : {shot(StraightPath{.speed = 20}), shot(FallingPath{.speed = 60}), test::kBolt}) {
      EXPECT_EQ(resolve(yard.arena, a, {.by = yard.mara, .toward = AlongDirection{kX}}).strikes.size(),
                way > 0 ? 1u : 0u);
    }
    Attack glare = test::blast(12);
    glare.sight = Passage::sight;
    EXPECT_EQ(resolve(yard.arena, glare, {.by = yard.mara, .toward = AtPlace{{0, 0, 0}}}).strikes.size(),
              way > 0 ? 1u : 0u);
  }
}

TEST(Ray, ATracerArrivesLaterAndSaysSoWhenItIsMuchLater) {
  Yard yard;
  yard.raider("raider", {15.5, 0, 0});
  Attack bolt = test::kBolt;
  bolt.delivery = RayDelivery{.tracer_speed = 60, .most_delay_s = 0.3};
  Outcome out = resolve(yard.arena, bolt, {.by = yard.mara, .toward = AlongDirection{kX}});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.strikes[0].time_s, 0);
  EXPECT_NEAR(out.strikes[0].seen_s, 0.25, 1e-12);
  EXPECT_TRUE(out.warnings.empty());
  std::get<RayDelivery>(bolt.delivery).most_delay_s = 0.2;
  bolt.facing_within = 0.5;
  out = resolve(yard.arena, bolt, {.by = yard.mara, .toward = AlongDirection{{1, 0, 0}}});
  ASSERT_EQ(out.warnings.size(), 1u);
  EXPECT_EQ(out.warnings[0], "what is seen of it arrives 0.25 s after the strike, more than 0.20 s");
  out = resolve(yard.arena, bolt, {.by = yard.mara, .toward = AlongDirection{{0, 1, 0}}});
  ASSERT_EQ(out.warnings.size(), 1u);
  EXPECT_EQ(out.warnings[0], "the attacker faces 90° away from its aim, more than 29°");
}

TEST(Shot, WhatMeansNothingIsRefusedWithItsPlace) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {9, 0, 0});
  const Toward body = raider, place = AtPlace{{9, 0, 0}}, ahead = AlongFacing{};
  const ShotPath straight = StraightPath{}, falling = FallingPath{}, guided = GuidedPath{},
                 curve = CurvePath{};
  struct Case {
    Attack attack;
    Toward toward;
    Aiming aim;
    std::vector<std::string> where;
  };
  Attack shaped = shot(straight, 0.1), deep = shot(straight),
         negative = shot(FallingPath{.speed = -3, .drag = NAN}), volley = shot(straight),
         near = shot(straight), apex = test::kBolt;
  delivery(shaped).shape = Shape{Ball{{0, 0, 0}, -1}};
  for (int i = 0; i < kMostNesting + 1; ++i)
    deep.then = {{.when = Then::When::end, .attacks = {Attack(deep)}}};
  delivery(volley).volley.count = 0, delivery(volley).pierce.bodies = 0, delivery(volley).life_s = NAN;
  near.then = {{.when = Then::When::near, .distance = 2, .attacks = {test::blast(1)}}};
  apex.then = {{.when = Then::When::apex, .attacks = {test::blast(1)}}};
  const std::vector<Case> cases{
      {shot(straight), place, Aiming::lead, {}},
      {shot(falling), body, Aiming::high, {}},
      {shot(guided), body, Aiming::lead, {}},
      {shot(straight), body, Aiming::high, {"/launch/aim"}},
      {shot(straight), ahead, Aiming::lead, {"/launch/aim"}},
      {shot(curve), body, Aiming::lead, {"/launch/aim"}},
      {shot(LobPath{.apex = 3}), body, Aiming::lead, {"/launch/aim"}},
      {test::kBolt, body, Aiming::lead, {"/launch/aim"}},
      {shot(guided), place, Aiming::direct, {"/launch/toward"}},
      {shot(LobPath{.apex = 3, .follows = true}), place, Aiming::direct, {"/launch/toward"}},
      {near, place, Aiming::direct, {"/launch/toward"}},
      {shot(LobPath{}), body, Aiming::direct, {"/attack/shot/lob"}},
      {negative, body, Aiming::direct, {"/attack/shot/falling/speed", "/attack/shot/falling/drag"}},
      {shaped, body, Aiming::direct, {"/attack/shot/shape/ball/radius", "/attack/shot/radius"}},
      {volley,
       body,
       Aiming::direct,
       {"/attack/shot/life", "/attack/shot/pierce/bodies", "/attack/shot/volley/count"}},
      {apex, body, Aiming::direct, {"/attack/then/0/when"}},
  };
  for (std::size_t i = 0; i < cases.size(); ++i) {
    const Launch launch{.by = yard.mara, .toward = cases[i].toward, .aim = cases[i].aim};
    const Outcome out = resolve(yard.arena, cases[i].attack, launch);
    std::vector<std::string> where;
    for (const Problem& p : out.problems) where.push_back(p.where);
    EXPECT_EQ(where, cases[i].where) << "case " << i;
    EXPECT_EQ(out.ended == Ended::refused, !cases[i].where.empty()) << "case " << i;
  }
  const Problems nested = check(deep);
  ASSERT_FALSE(nested.empty());
  EXPECT_NE(nested[0].what.find("deeper"), std::string::npos);
  EXPECT_FALSE(aim(yard.arena, shot(curve), {.by = yard.mara, .toward = body}).problems.empty());
}

TEST(Shot, NobodyShootsThroughAWallByLeaningOnIt) {
  Yard yard;
  const BuildId armed = *yard.arena.add_build(
      {.name = "armed", .hitboxes = {{"all", Ball{{0, 0, 0}, 0.5}}}, .muzzles = {{"sling", {1, 0, 0}}}});
  const BodyId gunner =
      yard.add({.id = "gunner", .build = armed, .faction = yard.wardens, .pose = {{0, 5, 0}, {}}});
  yard.wall("plank", {0.75, 5, 0}, {0.1, 2, 2});
  yard.raider("raider", {6, 5, 0});
  const Outcome out =
      resolve(yard.arena, shot(StraightPath{.speed = 20}), {.by = gunner, .toward = AlongDirection{kX}});
  EXPECT_TRUE(out.strikes.empty());
  EXPECT_EQ(out.ended, Ended::muzzle_blocked);
}

TEST(Shot, ThatComesOutOfTheGroundForAMomentMeetsItAnew) {
  // From 3 m below it rises a few centimetres above it.
  Yard yard;
  ASSERT_TRUE(yard.arena.set_ground(3).empty());
  yard.arena.update();
  for (const double above : {0.03, 0.06, 0.5}) {
    SCOPED_TRACE(above);
    const double up = std::sqrt(2 * 9.81 * (3 + above));
    ShotDelivery stone{.path = FallingPath{.speed = std::hypot(up, 3)}, .life_s = 10};
    stone.ricochet = {.count = 1, .restitution = 0.8};
    const Outcome out = resolve(yard.arena, {.name = "stone", .delivery = stone, .reach = {0, 100}},
                                {.by = yard.mara, .toward = AlongDirection{{3, 0, up}}});
    EXPECT_EQ(out.ended, Ended::ground);
    EXPECT_NEAR(out.end.z, 3, 1e-6);
    // Once it is thrown back with what it falls with, and falls again.
    const double falls = std::sqrt(2 * 9.81 * above);
    EXPECT_NEAR(out.end_s, (up + falls + 2 * 0.8 * falls) / 9.81, 1e-6);
  }
}

}  // namespace
}  // namespace dardo::shot_test
