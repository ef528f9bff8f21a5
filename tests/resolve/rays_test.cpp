// Rays that are thick, go through and turn; conditions and rules; whom a launch picks by itself.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "dardo/resolve/choose.hpp"
#include "dardo/resolve/prepared.hpp"
#include "dardo/resolve/skirmish.hpp"
#include "support/yard.hpp"

namespace dardo::rays_test {
namespace {

using test::verdict_of;
using test::Yard;
const Vec3 kX{1, 0, 0};

Attack bolt() { return {.name = "bolt", .delivery = RayDelivery{}, .reach = {0, 40}}; }
RayDelivery& ray_of(Attack& attack) { return std::get<RayDelivery>(attack.delivery); }
Outcome along(const Yard& yard, const Attack& attack, const Vec3& way = kX) {
  return resolve(yard.arena, attack, {.by = yard.mara, .toward = AlongDirection{way}});
}
std::vector<BodyId> struck(const Outcome& out) {
  std::vector<BodyId> all;
  for (const Strike& s : out.strikes) all.push_back(s.body);
  return all;
}
using Ids = std::vector<BodyId>;

TEST(Rays, PierceInTheirOrder) {
  Yard yard;
  const BodyId c = yard.raider("c", {9, 0, 0}), a = yard.raider("a", {3, 0.2, 0}),
               b = yard.raider("b", {6, 0, 0});
  const BodyId aside = yard.raider("aside", {6, 3, 0});
  yard.wall("plank", {7.5, 0, 0}, {0.2, 4, 4});
  Attack attack = bolt();
  ray_of(attack).pierce = {
      .bodies = 3, .power = {1, 0.5}, .materials = {"timber"}, .thickness = 0.5, .power_loss = 1};
  attack.power = 10;
  Outcome out = along(yard, attack);
  EXPECT_EQ(struck(out), (Ids{a, b, c}));
  EXPECT_EQ(out.strikes[1].power.order, 0.5);
  EXPECT_EQ(out.strikes[2].power.order, 0.5) << "the last repeats";
  EXPECT_EQ(out.strikes[1].power.through, 1);
  EXPECT_NEAR(out.strikes[2].power.through, 0.8, 1e-9) << "0.2 m of plank";
  EXPECT_EQ(out.ended, Ended::strike);
  EXPECT_NEAR(out.strikes[2].distance, 8.5, 1e-9);
  EXPECT_EQ(verdict_of(out, aside).deciding.reason, Reason::missed);
  ray_of(attack).pierce.bodies = 2;
  out = along(yard, attack);
  EXPECT_EQ(struck(out), (Ids{a, b}));
  EXPECT_EQ(verdict_of(out, c).deciding.reason, Reason::shielded);
  EXPECT_EQ(verdict_of(out, c).deciding.by.body, b);
  ray_of(attack).pierce.thickness = 0.1, ray_of(attack).pierce.bodies = 3;
  out = along(yard, attack);
  EXPECT_EQ(out.ended, Ended::wall);
  EXPECT_EQ(verdict_of(out, c).deciding.reason, Reason::wall);
}

TEST(Rays, AThickOneTouchesWithItsSide) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {10, 0.9, 0});
  Attack attack = bolt();
  EXPECT_TRUE(along(yard, attack).strikes.empty());
  EXPECT_NEAR(*verdict_of(along(yard, attack), raider).deciding.margin, 0.4, 1e-12);
  ray_of(attack).radius = 0.3;
  EXPECT_NEAR(*verdict_of(along(yard, attack), raider).deciding.margin, 0.1, 1e-12);
  ray_of(attack).radius = 0.5;
  const Outcome out = along(yard, attack);
  ASSERT_EQ(out.strikes.size(), 1u);
  // Its centre has gone 10 - sqrt(1 - 0.81).
  EXPECT_NEAR(out.strikes[0].distance, 10 - std::sqrt(1 - 0.81), 1e-7);
  // A gap that is as wide as it stops it.
  yard.wall("left", {5, 1.5, 0}, {1, 2, 4});
  EXPECT_EQ(along(yard, attack).ended, Ended::wall);
  EXPECT_NEAR(along(yard, attack).end.x, 4.5, 1e-6);
}

TEST(Rays, TurnAtWallsAsMirrorsDo) {
  Yard yard;
  // A corridor 4 m wide; at 45 degrees it turns every 4 m of its length.
  for (const double y : {-2.5, 2.5}) yard.wall(y > 0 ? "north" : "south", {20, y, 0}, {60, 1, 6});
  const BodyId raider = yard.raider("raider", {16, 0, 0});
  Attack attack = bolt();
  ray_of(attack).ricochet.count = 10;
  const Outcome out = along(yard, attack, {1, 1, 0});
  EXPECT_EQ(struck(out), Ids{raider});
  EXPECT_NEAR(out.strikes[0].distance, 16 * std::numbers::sqrt2 - 0.5, 1e-9);
  int legs = 0;
  for (const Mark& m : out.marks) legs += std::holds_alternative<PathMark>(m);
  EXPECT_EQ(legs, 5);
  ray_of(attack).ricochet.count = 3;
  EXPECT_EQ(along(yard, attack, {1, 1, 0}).ended, Ended::wall);
  EXPECT_EQ(verdict_of(along(yard, attack, {1, 1, 0}), raider).struck, false);
  // The same places as a shot that keeps its speed.
  Attack shot{.name = "shot", .reach = {0, 40}};
  ShotDelivery flies;
  flies.path = StraightPath{.speed = 20}, flies.ricochet.count = 10;
  shot.delivery = flies;
  const Outcome flown = along(yard, shot, {1, 1, 0});
  ASSERT_EQ(flown.strikes.size(), 1u);
  EXPECT_LT(length(flown.strikes[0].point - out.strikes[0].point), 1e-6);
  // Friction and restitution tilt it alike.
  ray_of(attack).ricochet = {.count = 1, .restitution = 0.5, .friction = 0.25};
  std::get<ShotDelivery>(shot.delivery).ricochet = ray_of(attack).ricochet;
  attack.who = shot.who = {Relation::neutral};
  EXPECT_LT(length(along(yard, attack, {1, 1, 0}).end - along(yard, shot, {1, 1, 0}).end), 1e-6);
}

TEST(Conditions, HoldOfTheTargetAndOfTheAttacker) {
  Yard yard;
  const BodyId weak =
      yard.add({.id = "weak", .faction = yard.raiders, .pose = {{5, 0, 0}, {}}, .numbers = {{"health", 9}}});
  Attack attack = bolt();
  const auto reason = [&](Condition c) {
    attack.conditions = {c};
    const Verdict v = verdict_of(along(yard, attack), weak);
    return v.struck ? Reason::none : v.deciding.reason;
  };
  using Is = Condition::Is;
  EXPECT_EQ(reason({.number = "health", .is = Is::at_most, .value = 9}), Reason::none);
  EXPECT_EQ(reason({.number = "health", .is = Is::below, .value = 9}), Reason::condition);
  EXPECT_EQ(reason({.number = "health", .is = Is::equal, .value = 9}), Reason::none);
  EXPECT_EQ(reason({.number = "health", .is = Is::above, .value = 9}), Reason::condition);
  EXPECT_EQ(reason({.of = Condition::Of::attacker, .number = "health", .value = 1}), Reason::no_number);
  EXPECT_TRUE(yard.arena.set_number(yard.mara, "strength", 12).empty());
  EXPECT_EQ(reason({.number = "health", .is = Is::below, .than = Condition::Other{.number = "strength"}}),
            Reason::none);
  EXPECT_TRUE(yard.arena.set_number(yard.mara, "strength", 8).empty());
  EXPECT_EQ(reason({.number = "health", .is = Is::below, .than = Condition::Other{.number = "strength"}}),
            Reason::condition);
  const Outcome out = along(yard, attack);
  EXPECT_EQ(explain(verdict_of(out, weak), yard.arena),
            "its condition on \"health\" does not hold: 9 against 8");
  EXPECT_EQ(*verdict_of(out, weak).deciding.margin, 1);
  attack.conditions = {{.number = ""}};
  EXPECT_FALSE(check(attack).empty());
}

TEST(RulesOfTheGame, AreGatesOfTheirOwn) {
  Yard yard;
  const BodyId near = yard.raider("near", {4, 0, 0}), far = yard.raider("far", {8, 0, 0});
  Attack attack = bolt();
  attack.rules = {"on-deck"};
  Rules rules;
  EXPECT_EQ(along(yard, attack).ended, Ended::refused) << "nobody knows it";
  EXPECT_EQ(along(yard, attack).problems[0].where, "/attack/rules/0");
  EXPECT_FALSE(prepare(yard.arena, attack, rules));
  rules.add("on-deck", [&](const RuleQuestion& q) { return RuleAnswer{q.target == far, 2.5}; });
  const Launch launch{.by = yard.mara, .toward = AlongDirection{kX}};
  const Outcome out = resolve(yard.arena, attack, launch, ResolveOptions{.rules = &rules});
  EXPECT_EQ(struck(out), Ids{far});
  EXPECT_EQ(verdict_of(out, near).deciding.gate, Gate::rules);
  EXPECT_EQ(verdict_of(out, near).deciding.margin, 2.5);
  EXPECT_EQ(explain(verdict_of(out, near), yard.arena), "the rule \"on-deck\" keeps it");
  Outcome again;
  resolve(yard.arena, *prepare(yard.arena, attack, rules), launch, {}, again);
  EXPECT_EQ(again, out);
  Skirmish live(yard.arena);
  EXPECT_FALSE(live.add_attack(attack));
  (void)*live.start(*live.add_attack(attack, rules), launch);
  std::vector<BodyId> told;
  (void)live.advance(0.1, [&](const Strike& s) { told.push_back(s.body); });
  EXPECT_EQ(told, Ids{far});
}

TEST(Toward, AChoiceIsMadeByTheGatesReachSightAndOrder) {
  Yard yard;
  const BodyId near = yard.raider("near", {3, 0, 0}),
               weak = yard.add({.id = "weak",
                                .faction = yard.raiders,
                                .pose = {{0, 6, 0}, {}},
                                .numbers = {{"health", 1}}}),
               far = yard.raider("far", {-30, 0, 0}), friendly = yard.add("friend", yard.wardens, {1, 1, 0});
  const Attack attack = bolt();
  Launch launch{.by = yard.mara, .toward = AtChoice{.within = 20}};
  EXPECT_EQ(choose(yard.arena, attack, launch).body, near);
  EXPECT_EQ(struck(resolve(yard.arena, attack, launch)), Ids{near});
  launch.toward = AtChoice{.within = 20, .order = {ByNumber{"health"}}};
  const Chosen chosen = choose(yard.arena, attack, launch);
  EXPECT_EQ(chosen.body, weak);
  const auto reason = [&](BodyId body) {
    for (const Verdict& v : chosen.verdicts) {
      if (v.body == body) return v.struck ? Reason::none : v.deciding.reason;
    }
    return Reason::limit;
  };
  EXPECT_EQ(reason(weak), Reason::none);
  EXPECT_EQ(reason(near), Reason::cap);
  EXPECT_EQ(reason(far), Reason::too_far);
  EXPECT_EQ(reason(friendly), Reason::relation);
  EXPECT_EQ(reason(yard.mara), Reason::self);
  yard.wall("screen", {1.5, 0, 0}, {0.2, 2, 2});
  launch.toward = AtChoice{.within = 20, .sight = Sight{}};
  EXPECT_EQ(choose(yard.arena, attack, launch).body, weak) << "the nearest is hidden";
  Skirmish live(yard.arena);
  const AttackId id = *live.add_attack(attack);
  (void)*live.start(id, launch);
  std::vector<BodyId> told;
  (void)live.advance(0.1, [&](const Strike& s) { told.push_back(s.body); });
  EXPECT_EQ(told, Ids{weak});
  launch.toward = AtChoice{.within = 1};
  const Outcome none = resolve(yard.arena, attack, launch);
  EXPECT_EQ(none.ended, Ended::no_target);
  EXPECT_EQ(explain_end(none, yard.arena), "did not begin: nobody to aim at");
  EXPECT_FALSE(live.start(id, launch));
  launch.toward = AtChoice{.within = -1};
  EXPECT_EQ(check(yard.arena, attack, launch)[0].where, "/launch/toward/choice/within");
}

TEST(ByHand, BodiesChangeInARunningGame) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {5, 0, 0});
  const BuildId giant =
      *yard.arena.add_build({.name = "giant", .hitboxes = {{"all", Ball{{}, 2}}}, .immune = {"rope"}});
  Skirmish live(yard.arena);
  Attack attack = bolt();
  attack.tags = {"rope"};
  const AttackId id = *live.add_attack(attack);
  const auto at = [&] {
    (void)*live.start(id, {.by = yard.mara, .toward = AlongDirection{kX}});
    double distance = -1;
    (void)live.advance(0.1, [&](const Strike& s) { distance = s.distance; });
    return distance;
  };
  EXPECT_NEAR(at(), 4.5, 1e-12);
  EXPECT_TRUE(yard.arena.set_faction(raider, yard.wardens).empty());
  EXPECT_EQ(at(), -1) << "one of one's own now";
  EXPECT_TRUE(yard.arena.set_faction(raider, yard.raiders).empty());
  EXPECT_TRUE(yard.arena.set_immune(raider, {"rope"}).empty());
  EXPECT_EQ(at(), -1);
  EXPECT_TRUE(yard.arena.set_immune(raider, {}).empty());
  EXPECT_NEAR(at(), 4.5, 1e-12);
  EXPECT_TRUE(yard.arena.set_build(raider, giant).empty());
  EXPECT_EQ(at(), -1) << "its build is immune";
  EXPECT_FALSE(yard.arena.set_build(raider, BuildId{77, 0}).empty());
  EXPECT_FALSE(yard.arena.set_faction(BodyId{}, yard.raiders).empty());
  EXPECT_TRUE(yard.arena.set_tags(raider, {"wet"}).empty());
  EXPECT_TRUE(yard.arena.has_tag(raider, "wet"));
}

}  // namespace
}  // namespace dardo::rays_test
