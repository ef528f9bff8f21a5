// What once was wrong by a rule, and is small.
#include <gtest/gtest.h>

#include <cmath>
#include <stdexcept>

#include "dardo/resolve/resolve.hpp"
#include "dardo/resolve/skirmish.hpp"

namespace dardo::test::faults_test {
namespace {

/// One faction of foes; bodies are balls unless they say otherwise.
struct Ground {
  Arena arena;
  FactionId us = *arena.add_faction("us"), them = *arena.add_faction("them");
  BuildId ball = *arena.add_build({.name = "ball", .hitboxes = {{"all", Ball{{}, 0.5}}}});

  Ground() { arena.relate(us, them, Relation::foe); }
  BodyId add(const char* id, FactionId faction, const Vec3& at, std::optional<BuildId> build = {}) {
    const BodyId body =
        *arena.add_body({.id = id, .build = build.value_or(ball), .faction = faction, .pose = {at, {}}});
    arena.update();
    return body;
  }
  Outcome of(const Attack& attack, const Launch& launch, const ResolveOptions& options = {}) {
    arena.update();
    return resolve(arena, attack, launch, options);
  }
};

TEST(Ray, EndsWithItsCentreAndTellsWhereItTouches) {
  Ground g;
  const BodyId me = g.add("me", g.us, {0, 0, 5});
  const Attack thick{.delivery = RayDelivery{.radius = 0.25}, .reach = {0, 50}};
  // Off its line by 0.6 m: the ball of 0.5 m is touched aside, with the centre on the line.
  g.add("foe", g.them, {10, 0.6, 5});
  const Launch level{.by = me, .toward = AlongDirection{{1, 0, 0}}};
  const Outcome struck = g.of(thick, level);
  ASSERT_EQ(struck.ended, Ended::strike);
  EXPECT_NEAR(struck.end.x, 10 - std::sqrt(0.75 * 0.75 - 0.6 * 0.6), 1e-9);
  EXPECT_NEAR(struck.end.y, 0, 1e-9);
  ASSERT_TRUE(struck.end_contact);
  EXPECT_NEAR(length(*struck.end_contact - struck.end), 0.25, 1e-9);
  EXPECT_EQ(*struck.end_contact, struck.strikes[0].point);
  ASSERT_TRUE(g.arena.add_wall({.id = "wall", .shape = Box{{5, 0, 5}, {0.5, 3, 3}, {}}}));
  const Outcome stopped = g.of(thick, level);
  ASSERT_EQ(stopped.ended, Ended::wall);
  EXPECT_NEAR(stopped.end.x, 4.25, 1e-9);
  EXPECT_NEAR(stopped.end_contact->x, 4.5, 1e-9);
  ASSERT_TRUE(g.arena.set_ground(0.0).empty());
  const Outcome down = g.of(thick, {.by = me, .toward = AlongDirection{{0, 0, -1}}});
  ASSERT_EQ(down.ended, Ended::ground);
  EXPECT_NEAR(down.end.z, 0.25, 1e-9);
  EXPECT_NEAR(down.end_contact->z, 0, 1e-9);
  EXPECT_FALSE(g.of(thick, {.by = me, .toward = AlongDirection{{0, 0, 1}}}).end_contact);
}

TEST(Area, ARingIsTouchedWithinIt) {
  Ground g;
  const BodyId me = g.add("me", g.us, {0, 0, 0});
  const BuildId post =
      *g.arena.add_build({.name = "beam", .hitboxes = {{"all", Box{{0, 0, 0}, {3, 0.25, 0.25}, {}}}}});
  g.add("foe", g.them, {3.5, 0, 0}, post);  // from 0.5 to 6.5 m
  const Outcome out = g.of(
      {.delivery = AreaDelivery{.shape = RingArea{4, 5, -1, 1}, .around = AreaDelivery::Around::attacker}},
      {.by = me, .toward = AlongDirection{{1, 0, 0}}});
  ASSERT_EQ(out.strikes.size(), 1u);
  const Vec3& p = out.strikes[0].point;
  EXPECT_GE(std::hypot(p.x, p.y), 4 - 1e-9);
  EXPECT_LE(std::hypot(p.x, p.y), 5 + 1e-9);
}

TEST(Area, AZoneThatIsNotSeenIsNotStruck) {
  Ground g;
  const BodyId me = g.add("me", g.us, {0, 0, 1.6});
  const BuildId man = *g.arena.add_build(
      {.name = "man",
       .hitboxes = {{"legs", Ball{{0, 0, 0.5}, 0.4}, 1}, {"head", Ball{{0, 0, 1.6}, 0.2}, 2}}});
  g.add("foe", g.them, {6, 0, 0}, man);
  ASSERT_TRUE(g.arena.add_wall({.id = "parapet", .shape = Box{{3, 0, 0.5}, {0.1, 5, 0.6}, {}}}));
  Attack bang{.delivery = AreaDelivery{.shape = BallArea{9}, .around = AreaDelivery::Around::attacker}};
  bang.sight = Sight(Passage::sight);
  bang.sight->to = Sight::To::zones;
  const Outcome out = g.of(bang, {.by = me, .toward = AlongDirection{{1, 0, 0}}});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.strikes[0].hitbox, 1u);  // the legs are nearer to nothing, and hidden
  // Whole bodies of which no zone within the area is seen are told why.
  std::get<AreaDelivery>(bang.delivery).shape = BoxArea{{9, 9, 1.2}};
  const Outcome low = g.of(bang, {.by = me, .toward = AlongDirection{{1, 0, 0}}});
  for (const Verdict& v : low.verdicts) EXPECT_EQ(v.struck, v.deciding.reason == Reason::none);
}

TEST(Area, SharesAreTheSameWhereverTheSceneLies) {
  for (const double away : {0.0, 1000.0, 123456.7}) {
    Ground g;
    const BuildId crate =
        *g.arena.add_build({.name = "crate", .hitboxes = {{"all", Box{{0, 0, 0}, {0.5, 0.5, 0.5}, {}}}}});
    const BodyId me = g.add("me", g.us, {away, away, 0});
    g.add("foe", g.them, {away + 0.5, away, 0}, crate);  // begins where the half-space does
    Attack wave{.delivery = AreaDelivery{.shape = HalfSpaceArea{}, .around = AreaDelivery::Around::attacker}};
    std::get<AreaDelivery>(wave.delivery).share = 0.25;
    const Outcome out = g.of(wave, {.by = me, .toward = AlongDirection{{1, 0, 0}}});
    for (const Strike& s : out.strikes) {
      ASSERT_TRUE(s.covered);
      EXPECT_EQ(s.covered->error, 0) << away;
    }
    for (const Verdict& v : out.verdicts) {
      if (g.arena.body(v.body).id == "foe" && !v.struck) EXPECT_EQ(*v.deciding.measured, 0) << away;
    }
  }
}

TEST(Volley, AFanAllRoundHasNoTwoInOnePlace) {
  Ground g;
  const BodyId me = g.add("me", g.us, {0, 0, 0});
  for (const std::uint32_t count : {2u, 3u, 4u, 8u}) {
    Attack burst{.reach = {0, 5}};
    ShotDelivery shot{.path = StraightPath{.speed = 10}};
    shot.volley = {.count = count, .spread = Volley::Spread::fan, .angle = 2 * 3.14159265358979323846};
    burst.delivery = shot;
    const Outcome out = g.of(burst, {.by = me, .toward = AlongDirection{{1, 0, 0}}});
    std::vector<Vec3> ends;
    for (const Mark& m : out.marks) {
      if (const auto* flight = std::get_if<FlightMark>(&m)) ends.push_back(flight->places.back());
    }
    ASSERT_EQ(ends.size(), count);
    for (std::size_t i = 0; i < count; ++i) {
      const double apart = length(ends[i] - ends[(i + 1) % count]);
      EXPECT_NEAR(apart, 10 * std::sin(3.14159265358979323846 / count), 1e-6) << count;
    }
  }
}

TEST(Shot, WhatRestsSticksUntilItsLifetimeIsOver) {
  Ground g;
  const BodyId me = g.add("me", g.us, {0, 0, 2});
  ASSERT_TRUE(g.arena.set_ground(0.0).empty());
  Attack lump{.reach = {0, 100}};
  ShotDelivery shot{.path = FallingPath{.speed = 1}, .life_s = 6, .sticks = true};
  shot.ricochet = {.count = 50, .restitution = 0.3};
  lump.delivery = shot;
  const Outcome out = g.of(lump, {.by = me, .toward = AlongDirection{{1, 0, 0}}});
  EXPECT_EQ(out.ended, Ended::stuck);
  EXPECT_NEAR(out.end_s, 6, 1e-9);
}

TEST(Heal, TellsWhatCounted) {
  Ground g;
  const BodyId me = *g.arena.add_body(
      {.id = "me", .build = g.ball, .faction = g.us, .numbers = {{"health", 57}, {"most", 60}}});
  Attack potion{.delivery = AreaDelivery{.shape = BallArea{4}, .around = AreaDelivery::Around::attacker},
                .who = {Relation::self}};
  Heal heal;
  heal.amount = 5, heal.at_most = "most";
  potion.effects.push_back(heal);
  const Launch launch{.by = me, .toward = AlongDirection{{1, 0, 0}}};
  const Outcome kept = g.of(potion, launch, {.ledger = true});
  ASSERT_EQ(kept.strikes.size(), 1u);
  const auto& done = std::get<HealDone>(kept.strikes[0].effects[0].what);
  EXPECT_EQ(done.amount, 5);
  EXPECT_EQ(*done.given, 3);
  EXPECT_EQ(*done.left, 60);
}

TEST(Hours, WhatGainsSpeedEndsAtAnyHour) {
  // A phase shorter than the clock's next moment once was begun for ever.
  Ground g;
  const BodyId me = g.add("me", g.us, {0, 0, 0});
  for (const double late : {0.0, 86'400.9, 1.6e7, 9e8}) {
    Attack rocket{.reach = {0, 50}};
    rocket.delivery = ShotDelivery{.path = StraightPath{.speed = 1, .acceleration = 3, .top_speed = 7.1}};
    const Outcome out = g.of(rocket, {.by = me, .toward = AlongDirection{{1, 0, 0}}, .at_s = late});
    EXPECT_EQ(out.ended, Ended::reach);
    EXPECT_NEAR(out.end.x, 50.0, 1e-6 + late * 1e-15 * 100);
  }
}

TEST(Skirmish, ACallbackThatThrowsEndsItsTickFirst) {
  Ground g;
  const BodyId me = g.add("me", g.us, {0, 0, 0});
  const BodyId foe = g.add("foe", g.them, {5, 0, 0});
  Skirmish live(g.arena);
  const AttackId ray = *live.add_attack({.delivery = RayDelivery{}, .reach = {0, 50}});
  ASSERT_TRUE(live.start(ray, {.by = me, .toward = foe}));
  int asked = 0;
  EXPECT_THROW((void)live.advance(0.1,
                                  [&](const Strike&) -> bool {
                                    ++asked;
                                    throw std::runtime_error("no");
                                  }),
               std::runtime_error);
  EXPECT_EQ(asked, 1);
  EXPECT_NEAR(live.time(), 0.1, 1e-12);
  EXPECT_TRUE(g.arena.stands(foe));
  EXPECT_TRUE(g.arena.move(foe, {{6, 0, 0}, {}}).empty());  // nobody holds it
  ASSERT_TRUE(live.start(ray, {.by = me, .toward = foe}));
  EXPECT_TRUE(live.advance(0.1, [&](const Strike&) { return ++asked, true; }).empty());
  EXPECT_EQ(asked, 2);
  EXPECT_FALSE(g.arena.stands(foe));
}

TEST(Skirmish, AnArenaIsHeldUntilTheLastLetsGo) {
  Ground g;
  const BodyId me = g.add("me", g.us, {0, 0, 0});
  const BodyId foe = g.add("foe", g.them, {5, 0, 0});
  Skirmish outer(g.arena), inner(g.arena);
  const AttackId ray = *outer.add_attack({.delivery = RayDelivery{}, .reach = {0, 50}});
  ASSERT_TRUE(outer.start(ray, {.by = me, .toward = foe}));
  bool told = false;
  (void)outer.advance(0.1, [&](const Strike&) {
    (void)inner.advance(0.1, [](const Strike&) {});
    EXPECT_FALSE(g.arena.move(foe, {{9, 9, 9}, {}}).empty());
    told = true;
  });
  EXPECT_TRUE(told);
  EXPECT_TRUE(g.arena.move(foe, {{9, 9, 9}, {}}).empty());
}

}  // namespace
}  // namespace dardo::test::faults_test
