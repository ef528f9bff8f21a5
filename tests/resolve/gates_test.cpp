// Each rule of docs/semantics.md on the smallest arena that shows it.
#include <gtest/gtest.h>

#include <functional>

#include "support/yard.hpp"

namespace dardo::gates_test {
namespace {

using test::blast;
using test::kBolt;
using test::verdict_of;
using test::Yard;

const Toward kEast = AlongDirection{{1, 0, 0}};

struct ReasonCase {
  const char* title;
  Reason reason;
  std::optional<double> margin;
  // Puts the target into the yard, and says what is launched at whom.
  std::function<BodyId(Yard&, Attack&, Toward&)> set;
};

std::vector<ReasonCase> reason_cases() {
  return {
      {"ray: struck", Reason::none, 10.5,
       [](Yard& y, Attack&, Toward&) {
         return y.raider("t", {10, 0, 0});
       }},
      {"ray: fallen",
       Reason::fallen,
       {},
       [](Yard& y, Attack&, Toward&) {
         return y.add({.id = "t", .faction = y.raiders, .pose = {{10, 0, 0}, {}}, .fallen = true});
       }},
      {"ray: self", Reason::self, {}, [](Yard& y, Attack&, Toward&) { return y.mara; }},
      {"ray: friend",
       Reason::relation,
       {},
       [](Yard& y, Attack&, Toward&) {
         return y.add("t", y.wardens, {5, 0, 0});
       }},
      {"ray: neutral",
       Reason::relation,
       {},
       [](Yard& y, Attack&, Toward&) {
         return y.add("t", y.passengers, {5, 0, 0});
       }},
      {"ray: tag missing",
       Reason::tag_missing,
       {},
       [](Yard& y, Attack& a, Toward&) {
         return a.needs = {"wet"}, y.raider("t", {5, 0, 0});
       }},
      {"ray: tag forbidden",
       Reason::tag_forbidden,
       {},
       [](Yard& y, Attack& a, Toward&) {
         a.forbids = {"wet"};
         return y.add({.id = "t", .faction = y.raiders, .pose = {{5, 0, 0}, {}}, .tags = {"wet"}});
       }},
      {"ray: immune",
       Reason::immune,
       {},
       [](Yard& y, Attack& a, Toward&) {
         a.tags = {"iron", "fire"};
         return y.add({.id = "t", .faction = y.raiders, .pose = {{5, 0, 0}, {}}, .immune = {"fire"}});
       }},
      {"ray: too near", Reason::too_near, 0.5,
       [](Yard& y, Attack& a, Toward&) {
         return a.reach.near = 5, y.raider("t", {5, 0, 0});
       }},
      {"ray: exactly at the near limit", Reason::none, 0.0,
       [](Yard& y, Attack& a, Toward&) {
         return a.reach.near = 4.5, y.raider("t", {5, 0, 0});
       }},
      {"ray: too far", Reason::too_far, 0.25,
       [](Yard& y, Attack&, Toward&) {
         return y.raider("t", {20.75, 0, 0});
       }},
      {"ray: too far and aside", Reason::too_far, 9.5,
       [](Yard& y, Attack&, Toward&) {
         return y.raider("t", {0, 30, 0});
       }},
      {"ray: exactly at the far limit", Reason::none, 0.0,
       [](Yard& y, Attack&, Toward&) {
         return y.raider("t", {20.5, 0, 0});
       }},
      {"ray: missed", Reason::missed, 1.5,
       [](Yard& y, Attack&, Toward&) {
         return y.raider("t", {10, 2, 0});
       }},
      {"ray: missed, behind", Reason::missed, 2.5,
       [](Yard& y, Attack&, Toward&) {
         return y.raider("t", {-3, 0, 0});
       }},
      {"ray: grazed", Reason::none, 10.0,
       [](Yard& y, Attack&, Toward&) {
         return y.raider("t", {10, 0.5, 0});
       }},
      {"ray: behind a wall", Reason::wall, 5.0,
       [](Yard& y, Attack&, Toward&) {
         return y.wall("w", {5, 0, 0}, {1, 1, 1}), y.raider("t", {10, 0, 0});
       }},
      {"ray: touched where the wall begins", Reason::none, 15.5,
       [](Yard& y, Attack&, Toward&) {
         return y.wall("w", {5, 0, 0}, {1, 1, 1}), y.raider("t", {5, 0, 0});
       }},
      {"ray: behind what shots pass", Reason::none, 10.5,
       [](Yard& y, Attack&, Toward&) {
         const auto smoke = *y.arena.add_material({.name = "smoke", .blocks = {Passage::sight}});
         return y.wall("w", {5, 0, 0}, {1, 1, 1}, smoke), y.raider("t", {10, 0, 0});
       }},
      {"ray: shielded by another foe", Reason::shielded, 3.0,
       [](Yard& y, Attack&, Toward&) {
         return y.raider("first", {7, 0, 0}), y.raider("t", {10, 0, 0});
       }},
      {"ray: shielded by a friend that stops it", Reason::shielded, 6.0,
       [](Yard& y, Attack& a, Toward&) {
         a.stopped_by = {Relation::friendly};
         return y.add("odo", y.wardens, {4, 0, 0}), y.raider("t", {10, 0, 0});
       }},
      {"ray: friends are passed unless they stop it", Reason::none, 10.5,
       [](Yard& y, Attack&, Toward&) {
         return y.add("odo", y.wardens, {4, 0, 0}), y.raider("t", {10, 0, 0});
       }},
      {"ray: the fallen stop nothing", Reason::none, 10.5,
       [](Yard& y, Attack& a, Toward&) {
         a.stopped_by = {Relation::friendly};
         y.add({.id = "odo", .faction = y.wardens, .pose = {{4, 0, 0}, {}}, .fallen = true});
         return y.raider("t", {10, 0, 0});
       }},
      {"ray: listed self is struck at 0", Reason::none, 20.0,
       [](Yard& y, Attack& a, Toward&) { return a.who = {Relation::self}, y.mara; }},
      {"area: struck", Reason::none, 1.5,
       [](Yard& y, Attack& a, Toward& to) {
         return a = blast(6), to = AtPlace{{5, 0, 0}}, y.raider("t", {10, 0, 0});
       }},
      {"area: touched from outside", Reason::none, 0.0,
       [](Yard& y, Attack& a, Toward& to) {
         return a = blast(4.5), to = AtPlace{{5, 0, 0}}, y.raider("t", {10, 0, 0});
       }},
      {"area: outside", Reason::outside, 0.5,
       [](Yard& y, Attack& a, Toward& to) {
         return a = blast(4), to = AtPlace{{5, 0, 0}}, y.raider("t", {10, 0, 0});
       }},
      {"area: placed too far", Reason::too_far, 5.0,
       [](Yard& y, Attack& a, Toward& to) {
         return a = blast(4), a.reach = {1, 20}, to = AtPlace{{25, 0, 0}}, y.raider("t", {25, 0, 0});
       }},
      {"area: placed too near", Reason::too_near, 1.0,
       [](Yard& y, Attack& a, Toward& to) {
         return a = blast(9), a.reach = {3, 20}, to = AtPlace{{0, 2, 0}}, y.raider("t", {5, 0, 0});
       }},
      {"area: placed exactly at its reach", Reason::none, 4.0,
       [](Yard& y, Attack& a, Toward& to) {
         return a = blast(4), a.reach = {1, 20}, to = AtPlace{{20, 0, 0}}, y.raider("t", {20, 0, 0});
       }},
      {"area: behind a wall", Reason::wall, 3.0,
       [](Yard& y, Attack& a, Toward& to) {
         a = blast(9), a.sight = Passage::blasts, to = AtPlace{{0, 0, 0}};
         return y.wall("w", {2, 0, 0}, {1, 4, 4}), y.raider("t", {5, 0, 0});
       }},
      {"area: a wall is nothing without sight", Reason::none, 4.5,
       [](Yard& y, Attack& a, Toward& to) {
         a = blast(9), to = AtPlace{{0, 0, 0}};
         return y.wall("w", {2, 0, 0}, {1, 4, 4}), y.raider("t", {5, 0, 0});
       }},
      {"area: glass does not cut sight", Reason::none, 4.5,
       [](Yard& y, Attack& a, Toward& to) {
         a = blast(9), a.sight = Passage::sight, to = AtPlace{{0, 0, 0}};
         return y.wall("w", {2, 0, 0}, {1, 4, 4}, y.glass), y.raider("t", {5, 0, 0});
       }},
      {"area: glass cuts blasts", Reason::wall, 3.0,
       [](Yard& y, Attack& a, Toward& to) {
         a = blast(9), a.sight = Passage::blasts, to = AtPlace{{0, 0, 0}};
         return y.wall("w", {2, 0, 0}, {1, 4, 4}, y.glass), y.raider("t", {5, 0, 0});
       }},
      {"area: sight along an edge is blocked", Reason::wall, 3.0,
       [](Yard& y, Attack& a, Toward& to) {
         a = blast(9), a.sight = Passage::blasts, to = AtPlace{{0, 0, 0}};
         return y.wall("w", {2, 2, 0}, {1, 4, 4}), y.raider("t", {5, 0, 0});
       }},
      {"area: target inside a wall",
       Reason::inside_wall,
       {},
       [](Yard& y, Attack& a, Toward& to) {
         a = blast(9), a.sight = Passage::blasts, to = AtPlace{{0, 0, 0}};
         return y.wall("w", {5, 0, 0}, {2, 2, 2}), y.raider("t", {5, 0, 0});
       }},
      {"area: its middle inside a wall",
       Reason::inside_wall,
       {},
       [](Yard& y, Attack& a, Toward& to) {
         a = blast(9), a.sight = Passage::blasts, to = AtPlace{{2, 0, 0}};
         return y.wall("w", {2, 0, 0}, {2, 2, 2}), y.raider("t", {5, 0, 0});
       }},
      {"area: cap", Reason::cap, 1.0,
       [](Yard& y, Attack& a, Toward& to) {
         a = blast(9), a.cap = 2, to = AtPlace{{0, 0, 0}};
         y.raider("near", {2, 0, 0}), y.raider("nearer", {0, 1, 0});
         return y.raider("t", {0, 0, 3});
       }},
      {"area: equally near, the earlier body fills the cap", Reason::cap, 0.0,
       [](Yard& y, Attack& a, Toward& to) {
         a = blast(9), a.cap = 1, to = AtPlace{{0, 0, 0}};
         return y.raider("earlier", {2, 0, 0}), y.raider("t", {0, 2, 0});
       }},
      {"area: the ignored do not count against the cap", Reason::none, 6.5,
       [](Yard& y, Attack& a, Toward& to) {
         a = blast(9), a.cap = 1, to = AtPlace{{0, 0, 0}};
         y.add("odo", y.wardens, {1, 0, 0}),
             y.add({.id = "x", .faction = y.raiders, .pose = {{1, 1, 0}, {}}, .fallen = true});
         return y.raider("t", {3, 0, 0});
       }},
  };
}

TEST(Gates, EachReasonWithItsMargin) {
  for (const ReasonCase& c : reason_cases()) {
    SCOPED_TRACE(c.title);
    Yard y;
    Attack attack = kBolt;
    Toward toward = kEast;
    const BodyId target = c.set(y, attack, toward);
    for (const bool updated : {false, true}) {
      if (updated) y.arena.update();
      const Launch launch{.by = y.mara, .toward = toward};
      ASSERT_TRUE(check(y.arena, attack, launch).empty());
      const Outcome out = resolve(y.arena, attack, launch);
      const Verdict& v = verdict_of(out, target);
      EXPECT_EQ(v.deciding.reason, c.reason) << explain(v, y.arena);
      EXPECT_EQ(v.struck, c.reason == Reason::none);
      EXPECT_FALSE(explain(v, y.arena).empty());
      EXPECT_FALSE(explain_briefly(v, y.arena).empty());
      if (c.margin && c.reason != Reason::none) {
        ASSERT_TRUE(v.deciding.margin.has_value());
        EXPECT_NEAR(*v.deciding.margin, *c.margin, 1e-9);
      }
      if (c.margin && v.struck) EXPECT_NEAR(v.deciding.margin.value_or(-1), *c.margin, 1e-9);
    }
  }
}

TEST(Gates, FullDetailReadsEveryGateAndKeepsTheVerdict) {
  for (const ReasonCase& c : reason_cases()) {
    SCOPED_TRACE(c.title);
    Yard y;
    Attack attack = kBolt;
    Toward toward = kEast;
    c.set(y, attack, toward);
    const Launch launch{.by = y.mara, .toward = toward};
    const Outcome brief = resolve(y.arena, attack, launch),
                  full = resolve(y.arena, attack, launch, Detail::full);
    const Outcome only_strikes = resolve(y.arena, attack, launch, Detail::strikes);
    EXPECT_EQ(brief.strikes, full.strikes);
    EXPECT_EQ(brief.strikes, only_strikes.strikes);
    EXPECT_TRUE(only_strikes.verdicts.empty());
    ASSERT_EQ(brief.verdicts.size(), full.verdicts.size());
    for (std::size_t i = 0; i < full.verdicts.size(); ++i) {
      EXPECT_EQ(brief.verdicts[i].deciding, full.verdicts[i].deciding);
      ASSERT_EQ(full.verdicts[i].gates.size(), 10u);
      for (std::size_t g = 0; g < 8; ++g)
        EXPECT_EQ(static_cast<std::size_t>(full.verdicts[i].gates[g].gate), g);
    }
  }
}

TEST(Ray, StrikeSaysWhereAndWithWhat) {
  Yard y;
  const auto deckhand = *y.arena.add_build(
      {.name = "deckhand",
       .hitboxes = {{"trunk", Box{{0, 0, 0}, {0.5, 0.5, 0.5}, {}}, 1}, {"heart", Ball{{0, 0, 0}, 0.25}, 3}}});
  const BodyId t = y.add({.id = "t", .build = deckhand, .faction = y.raiders, .pose = {{10, 0, 0}, {}}});
  Attack attack = kBolt;
  for (const ZoneRule rule : {ZoneRule::first, ZoneRule::best}) {
    attack.zone = rule;
    const Outcome out = resolve(y.arena, attack, {.id = "L", .by = y.mara, .toward = t});
    ASSERT_EQ(out.strikes.size(), 1u);
    const Strike& s = out.strikes[0];
    EXPECT_NEAR(s.distance, 9.5, 1e-12) << "the contact point is that of the first contact by either rule";
    EXPECT_NEAR(s.point.x, 9.5, 1e-12);
    EXPECT_EQ(s.normal, (Vec3{-1, 0, 0}));
    EXPECT_EQ(s.hitbox, rule == ZoneRule::first ? 0u : 1u);
    EXPECT_EQ(s.power.arriving(), rule == ZoneRule::first ? 10 : 30);
    EXPECT_EQ(out.ended, Ended::strike);
    EXPECT_EQ(out.stopped_by.body, t);
    EXPECT_EQ(out.end, s.point);
  }
}

TEST(Ray, HasAnEndAlsoWhenNothingIsStruck) {
  Yard y;
  const auto end = [&](Attack a) { return resolve(y.arena, a, {.by = y.mara, .toward = kEast}); };
  EXPECT_EQ(end(kBolt).ended, Ended::reach);
  EXPECT_EQ(end(kBolt).end, (Vec3{20, 0, 0}));
  y.add("odo", y.wardens, {8, 0, 0});
  Attack stopped = kBolt;
  stopped.stopped_by = {Relation::friendly};
  EXPECT_EQ(end(stopped).ended, Ended::body);
  EXPECT_NEAR(end(stopped).end.x, 7.5, 1e-12);
  const WallId w = y.wall("w", {5, 0, 0}, {1, 1, 1});
  EXPECT_EQ(end(kBolt).ended, Ended::wall);
  EXPECT_EQ(end(kBolt).stopped_by.wall, w);
  EXPECT_NEAR(end(kBolt).end.x, 4.5, 1e-12);
}

TEST(Ray, EqualContactsGoToTheEarlierBody) {
  for (const bool updated : {false, true}) {
    Yard y;
    const BodyId first = y.raider("zz", {10, 0.25, 0});
    const BodyId second = y.raider("aa", {10, -0.25, 0});
    if (updated) y.arena.update();
    const Outcome out = resolve(y.arena, kBolt, {.by = y.mara, .toward = kEast});
    EXPECT_EQ(out.strikes[0].body, first);
    EXPECT_EQ(verdict_of(out, second).deciding.reason, Reason::shielded);
    EXPECT_EQ(verdict_of(out, second).deciding.margin, 0.0);
  }
}

TEST(Ray, NobodyShootsThroughAWallByLeaningOnIt) {
  Yard y;
  const auto gunner_build = *y.arena.add_build(
      {.name = "gunner", .hitboxes = {{"all", Ball{{0, 0, 0}, 0.5}}}, .muzzles = {{"long", {1.5, 0, 0}}}});
  const BodyId gunner =
      y.add({.id = "gunner", .build = gunner_build, .faction = y.wardens, .pose = {{0, 5, 0}, {}}});
  const BodyId t = y.raider("t", {5, 5, 0});
  const WallId w = y.wall("w", {1, 5, 0}, {0.2, 2, 2});
  const Outcome out = resolve(y.arena, kBolt, {.by = gunner, .toward = t});
  EXPECT_TRUE(out.strikes.empty());
  EXPECT_EQ(out.ended, Ended::muzzle_blocked);
  EXPECT_EQ(out.stopped_by.wall, w);
  EXPECT_NEAR(out.end.x, 0.9, 1e-12);
  EXPECT_EQ(verdict_of(out, t).deciding.reason, Reason::wall);
  EXPECT_NEAR(*verdict_of(out, t).deciding.margin, 3.6, 1e-9) << "from the wall to the contact it kept away";
}

TEST(Launch, AimsAtCentresZonesPointsPlacesAndAlongTheFacing) {
  Yard y;
  const auto tall =
      *y.arena.add_build({.name = "tall",
                          .hitboxes = {{"foot", Ball{{0, 0, 0}, 0.5}}, {"head", Ball{{0, 0, 4}, 0.5}}},
                          .eyes = Vec3{0, 0, 4.1},
                          .muzzles = {{"shoe", {0.1, 0, 0}}}});
  const BodyId t = y.add({.id = "t", .build = tall, .faction = y.raiders, .pose = {{0, 8, 0}, {}}});
  const auto end = [&](Toward to) { return resolve(y.arena, kBolt, {.by = y.mara, .toward = to}); };
  EXPECT_EQ(end(t).ended, Ended::reach) << "the centre lies between its two hitboxes";
  ASSERT_EQ(end(AtBody{t, "head"}).strikes.size(), 1u);
  EXPECT_EQ(end(AtBody{t, "head"}).strikes[0].hitbox, 1u);
  EXPECT_EQ(end(AtBody{t, "", "eyes"}).strikes.at(0).hitbox, 1u);
  EXPECT_EQ(end(AtBody{t, "", "shoe"}).strikes.at(0).hitbox, 0u);
  EXPECT_NEAR(end(AtPlace{{0, 3, 0}}).strikes.at(0).point.y, 7.5, 1e-12)
      << "through the place, to the limit of reach";
  EXPECT_EQ(end(AlongFacing{}).end, (Vec3{20, 0, 0}));
  EXPECT_EQ(end(AlongDirection{{0, 0, -1e300}}).end, (Vec3{0, 0, -20}));
}

TEST(Area, AroundTheAttackerAndSightFromItsEyes) {
  Yard y;
  const auto watcher_build = *y.arena.add_build(
      {.name = "watcher", .hitboxes = {{"all", Ball{{0, 0, 0}, 0.5}}}, .eyes = Vec3{0, 0, 3}});
  const BodyId watcher =
      y.add({.id = "watcher", .build = watcher_build, .faction = y.wardens, .pose = {{0, 50, 0}, {}}});
  const BodyId t = y.raider("t", {4, 50, 0});
  y.wall("low", {2, 50, 0}, {0.5, 4, 2});
  Attack glare = blast(5);
  glare.sight = Passage::sight;
  auto& area = std::get<AreaDelivery>(glare.delivery);
  area.around = AreaDelivery::Around::attacker;
  EXPECT_TRUE(resolve(y.arena, glare, {.by = watcher}).strikes.empty());
  glare.sight->from = Sight::From::eyes;
  const Outcome out = resolve(y.arena, glare, {.by = watcher});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.strikes[0].body, t);
}

TEST(Area, ABodyCountsWhenAnyHitboxIsSeen) {
  Yard y;
  const auto tall = *y.arena.add_build(
      {.name = "tall", .hitboxes = {{"foot", Ball{{0, 0, 0}, 0.5}, 1}, {"head", Ball{{0, 0, 3}, 0.5}, 2}}});
  const BodyId t = y.add({.id = "t", .build = tall, .faction = y.raiders, .pose = {{5, 0, 0}, {}}});
  y.wall("low", {3, 0, 0}, {0.5, 4, 2});
  Attack attack = blast(9);
  attack.sight = Passage::blasts;
  const Outcome out = resolve(y.arena, attack, {.by = y.mara, .toward = AtPlace{{0, 0, 0}}});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.strikes[0].body, t);
  EXPECT_EQ(out.strikes[0].hitbox, 1u) << "only the head looks over the wall";
}

TEST(Launch, WhatIsWrongIsRefusedWithAllProblems) {
  Yard y;
  const BodyId gone = y.raider("gone", {5, 0, 0}),
               down = y.add({.id = "down", .faction = y.wardens, .fallen = true});
  y.arena.remove(gone);
  const double inf = std::numeric_limits<double>::infinity();
  Attack wrong = kBolt;
  wrong.reach = {5, 2};
  wrong.power = inf;
  struct Case {
    Attack attack;
    Launch launch;
    std::vector<std::string> where;
  };
  Attack capped = kBolt, eyes = blast(3), empty = kBolt, flat = blast(-1);
  capped.cap = 0, capped.sight = Passage::sight;
  eyes.sight = Passage::feet;
  eyes.stopped_by = {Relation::foe};
  empty.who = {};
  const std::vector<Case> cases{
      {wrong, {.by = y.mara}, {"/attack/reach", "/attack/power"}},
      {capped, {.by = y.mara}, {"/attack/cap", "/attack/sight", "/attack/cap"}},
      {eyes, {.by = y.mara, .toward = AtPlace{}}, {"/attack/sight/through", "/attack/stopped_by"}},
      {empty, {.by = y.mara}, {"/attack/who"}},
      {flat, {.by = y.mara, .toward = AtPlace{}}, {"/attack/area/ball/radius"}},
      {kBolt, {.by = gone}, {"/launch/by"}},
      {kBolt, {.by = down}, {"/launch/by"}},
      {kBolt, {.by = y.mara, .toward = gone}, {"/launch/toward"}},
      {kBolt, {.by = y.mara, .toward = AtBody{y.mara, "tail"}}, {"/launch/toward/zone"}},
      {kBolt, {.by = y.mara, .toward = AtBody{y.mara, "", "tail"}}, {"/launch/toward/point"}},
      {kBolt, {.by = y.mara, .toward = AtBody{y.mara, "all", "eyes"}}, {"/launch/toward"}},
      {kBolt, {.by = y.mara, .toward = AtPlace{{inf, 0, 0}}}, {"/launch/toward/place"}},
      {kBolt, {.by = y.mara, .toward = AlongDirection{{0, 0, 0}}}, {"/launch/toward/direction"}},
      {kBolt, {.by = y.mara, .toward = AlongDirection{{NAN, 0, 0}}}, {"/launch/toward/direction"}},
      {kBolt, {.by = y.mara, .toward = AtPlace{{0, 0, 0}}}, {"/launch/toward"}},
      {kBolt, {.by = y.mara, .muzzle = "horn"}, {"/launch/muzzle"}},
      {blast(3), {.by = y.mara}, {"/launch/toward"}},
  };
  for (const Case& c : cases) {
    const Outcome out = resolve(y.arena, c.attack, c.launch);
    EXPECT_EQ(out.ended, Ended::refused);
    EXPECT_TRUE(out.strikes.empty());
    std::vector<std::string> where;
    for (const Problem& p : out.problems) where.push_back(p.where);
    EXPECT_EQ(where, c.where);
  }
}

}  // namespace
}  // namespace dardo::gates_test
