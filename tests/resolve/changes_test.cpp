// Bodies that change at stated times.
#include <gtest/gtest.h>

#include <cmath>

#include "support/yard.hpp"

namespace dardo::test::changes_test {
namespace {

/// A raider with a shield before it, which it lowers at 1 s and raises at 2 s.
struct Guarded : Yard {
  BuildId guard = *arena.add_build({.name = "guard",
                                    .hitboxes = {{"shield", Box{{-0.6, 0, 0}, {0.05, 0.5, 0.5}, {}}},
                                                 {"trunk", Ball{{0, 0, 0}, 0.5}, 2}}});
  BodyId raider_1 = add({.id = "raider-1",
                         .build = guard,
                         .faction = raiders,
                         .pose = {{10, 0, 0}, {}},
                         .changes = {{1, {}, {"shield"}, {}}, {2, {}, {}, {"shield"}}}});
  std::string zone_at(const Attack& attack, double time) const {
    const Outcome out = resolve(arena, attack, {.by = mara, .toward = raider_1, .at_s = time});
    if (out.strikes.size() != 1) return "none";
    return arena.build(guard).hitboxes[out.strikes[0].hitbox].zone;
  }
};

TEST(Changes, HitboxesAreThereAtTheirTimes) {
  Guarded yard;
  const Attack stone{.name = "stone", .delivery = ShotDelivery{.path = StraightPath{.speed = 1000}}};
  for (const auto& [time, zone] :
       {std::pair{0.0, "shield"}, {0.9, "shield"}, {1.0, "trunk"}, {1.5, "trunk"}, {2.0, "shield"}}) {
    EXPECT_EQ(yard.zone_at(kBolt, time), zone) << time;
    EXPECT_EQ(yard.zone_at(stone, time), zone) << time;
    Attack area = blast(9.42);  // from the origin it reaches the shield alone, or nothing
    area.delivery = AreaDelivery{.shape = BallArea{9.42}, .around = AreaDelivery::Around::attacker};
    EXPECT_EQ(yard.zone_at(area, time), std::string(zone) == "shield" ? "shield" : "none") << time;
  }
  // Sent off while the shield is down, it comes when that is up again.
  const Attack slow{.name = "slow", .delivery = ShotDelivery{.path = StraightPath{.speed = 10}}};
  EXPECT_EQ(yard.zone_at(slow, 0.2), "trunk");
  EXPECT_EQ(yard.zone_at(slow, 1.3), "shield");
}

// What stands in the place of a hitbox as that comes is touched then.
TEST(Changes, AShieldRaisedAroundAShotIsStruckThen) {
  Guarded yard;
  const Attack creeping{.name = "creeping",
                        .delivery = ShotDelivery{.path = StraightPath{.speed = 0.05}, .life_s = 30},
                        .reach = {0, 30}};
  const Launch launch{.by = yard.mara, .toward = yard.raider_1, .at_s = 1.5, .from = {}, .leaving = {}};
  Launch from = launch;
  from.by = {}, from.from = FromPlace{{{9.39, 0, 0}, {}}, yard.wardens};
  const Outcome out = resolve(yard.arena, creeping, from);
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_NEAR(out.strikes[0].time_s, 2, 1e-8);
  EXPECT_EQ(out.strikes[0].hitbox, 0u);
}

TEST(Changes, WhomOneFightsForIsAskedThen) {
  Yard yard;
  const BodyId turncoat = yard.add({.id = "turncoat",
                                    .faction = yard.raiders,
                                    .pose = {{10, 0, 0}, {}},
                                    .changes = {{1, yard.wardens, {}, {}}, {3, yard.raiders, {}, {}}}});
  const Attack stone{
      .name = "stone", .delivery = ShotDelivery{.path = StraightPath{.speed = 10}}, .reach = {0, 20}};
  for (const auto& [time, struck] :
       {std::pair{0.0, true}, {0.2, false}, {1.0, false}, {1.9, false}, {2.0, true}, {2.1, true}}) {
    const Outcome out = resolve(yard.arena, stone, {.by = yard.mara, .toward = turncoat, .at_s = time});
    EXPECT_EQ(!out.strikes.empty(), struck) << time;
    const Verdict& v = verdict_of(out, turncoat);
    if (!struck) EXPECT_EQ(v.deciding.reason, Reason::relation) << time;
  }
  EXPECT_EQ(resolve(yard.arena, kBolt, {.by = yard.mara, .toward = turncoat, .at_s = 1}).strikes.size(), 0u);
  EXPECT_EQ(resolve(yard.arena, kBolt, {.by = yard.mara, .toward = turncoat, .at_s = 3}).strikes.size(), 1u);
  // An attacker keeps the faction that it had when it launched.
  EXPECT_EQ(resolve(yard.arena, kBolt, {.by = turncoat, .toward = yard.mara, .at_s = 0.5}).strikes.size(),
            1u);
  EXPECT_EQ(resolve(yard.arena, kBolt, {.by = turncoat, .toward = yard.mara, .at_s = 2}).strikes.size(), 0u);
  // By hand it is what it is made.
  EXPECT_TRUE(yard.arena.set_faction(turncoat, yard.raiders).empty());
  EXPECT_TRUE(yard.arena.change_times().empty());
  EXPECT_EQ(resolve(yard.arena, kBolt, {.by = yard.mara, .toward = turncoat, .at_s = 2}).strikes.size(), 1u);
}

// Of more hitboxes than can come and go the faction may change.
TEST(Changes, BodiesOfManyHitboxesMayChangeSides) {
  Yard yard;
  Build many{.name = "many", .hitboxes = {}};
  for (int i = 0; i < 70; ++i)
    many.hitboxes.push_back({"h" + std::to_string(i), Ball{{0, 0.1 * i, 0}, 0.05}});
  const BuildId build = *yard.arena.add_build(many);
  const BodyId raider = yard.add({.id = "raider",
                                  .build = build,
                                  .faction = yard.raiders,
                                  .pose = {{8, -6.9, 0}, {}},
                                  .changes = {{1, yard.wardens, {}, {}}}});
  const Attack stone{.name = "stone", .delivery = ShotDelivery{.path = StraightPath{.speed = 100}}};
  for (const Attack& attack : {kBolt, stone}) {
    const Outcome out = resolve(yard.arena, attack, {.by = yard.mara, .toward = AlongDirection{{1, 0, 0}}});
    ASSERT_EQ(out.strikes.size(), 1u);
    EXPECT_EQ(out.strikes[0].body, raider);
    EXPECT_EQ(out.strikes[0].hitbox, 69u);
    EXPECT_TRUE(resolve(yard.arena, attack, {.by = yard.mara, .toward = AlongDirection{{1, 0, 0}}, .at_s = 1})
                    .strikes.empty());
  }
  EXPECT_FALSE(yard.arena.add_body(
      {.id = "x", .build = build, .faction = yard.raiders, .changes = {{1, {}, {"h3"}, {}}}}));
}

TEST(Changes, WhatMeansNothingIsRefused) {
  Guarded yard;
  const auto where = [&](std::vector<BodyChange> changes) {
    const auto added =
        yard.arena.add_body({.id = "x", .build = yard.guard, .faction = yard.raiders, .changes = changes});
    return added ? std::string() : added.error()[0].where;
  };
  EXPECT_EQ(where({{2, {}, {}, {}}, {1, {}, {}, {}}}), "/changes/1/t");
  EXPECT_EQ(where({{1, {}, {"sheild"}, {}}}), "/changes/0/off/0");
  EXPECT_EQ(where({{1, {}, {"shield", "trunk"}, {}}}), "/changes/0");
  EXPECT_EQ(where({{NAN, {}, {}, {}}}), "/changes/0/t");
  EXPECT_EQ(where({{1, FactionId{9, 0}, {}, {}}}), "/changes/0/faction");
}

}  // namespace
}  // namespace dardo::test::changes_test
