// Chains against a plain search over all bodies, pushes by their closed forms, and when things come about.
#include <gtest/gtest.h>

#include <cmath>
#include <set>

#include "dardo/resolve/skirmish.hpp"
#include "support/effort.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::test::chain_test {
namespace {

Attack spark(ChainDelivery chain) { return {.name = "spark", .delivery = std::move(chain)}; }

std::vector<std::string> ids(const Yard& yard, const Outcome& out) {
  std::vector<std::string> names;
  for (const Strike& s : out.strikes) names.push_back(yard.arena.body(s.body).id);
  return names;
}

// The nearest that it was not at, sought among all of them.
TEST(Chains, GoWhereAPlainSearchOverAllBodiesGoes) {
  Random random(3);
  for (int round = 0; round < 20; ++round) {
    Yard yard;
    std::vector<BodyId> all;
    std::vector<Vec3> places;
    for (int i = 0; i < 300; ++i) {
      places.push_back({random.range(-30, 30), random.range(-30, 30), 0});
      all.push_back(yard.raider("r" + std::to_string(i), places.back()));
    }
    const ChainDelivery chain{.hop = 6, .hop_ratio = 0.97, .hops = 40};
    const Outcome out = resolve(yard.arena, spark(chain), {.by = yard.mara, .toward = all[0]});
    std::vector<BodyId> expected{all[0]};
    std::set<std::size_t> been{0};
    Vec3 at = places[0];
    for (int hop = 1; hop <= 40; ++hop) {
      std::size_t best = all.size();
      double least = 6 * std::pow(0.97, hop - 1);
      for (std::size_t i = 0; i < all.size(); ++i) {
        const double away = std::max(0.0, length(places[i] - at) - 0.5);
        if (!been.contains(i) && (away < least || (best == all.size() && away <= least)))
          best = i, least = away;
      }
      if (best == all.size()) break;
      been.insert(best), at = places[best], expected.push_back(all[best]);
    }
    ASSERT_EQ(out.strikes.size(), expected.size()) << round;
    for (std::size_t i = 0; i < expected.size(); ++i) {
      EXPECT_EQ(out.strikes[i].body, expected[i]) << round << ' ' << i;
      EXPECT_EQ(out.strikes[i].hop, i);
      EXPECT_EQ(out.strikes[i].cause, i);
    }
  }
}

TEST(Chains, ComeBackAsTheyAreTold) {
  Yard yard;
  const BodyId a = yard.raider("a", {4, 0, 0});
  (void)yard.raider("b", {6, 0, 0});
  ChainDelivery chain{.hop = 3, .hops = 4};
  const Launch launch{.by = yard.mara, .toward = a};
  EXPECT_EQ(ids(yard, resolve(yard.arena, spark(chain), launch)), (std::vector<std::string>{"a", "b"}));
  chain.again = ChainDelivery::Again::not_at_once;
  EXPECT_EQ(ids(yard, resolve(yard.arena, spark(chain), launch)),
            (std::vector<std::string>{"a", "b", "a", "b", "a"}));
  chain.again = ChainDelivery::Again::always;
  EXPECT_EQ(ids(yard, resolve(yard.arena, spark(chain), launch)),
            (std::vector<std::string>{"a", "a", "a", "a", "a"}));
}

// Two from each: breadth first, and who is taken is not taken twice.
TEST(Chains, MakeATreeInTheOrderStruck) {
  Yard yard;
  const BodyId root = yard.raider("root", {10, 0, 0});
  for (const auto& [id, at] : {std::pair{"a", Vec3{11.5, 1, 0}},
                               {"b", Vec3{11.6, -1.1, 0}},
                               {"aa", Vec3{13, 2, 0}},
                               {"ab", Vec3{13.5, 0.2, 0}},
                               {"ba", Vec3{13, -2.5, 0}}})
    (void)yard.raider(id, at);
  const ChainDelivery chain{.hop = 2, .hops = 2, .next = 2, .power = {1, 0.5}, .power_ratio = 0.5};
  const Outcome out = resolve(yard.arena, spark(chain), {.by = yard.mara, .toward = root});
  EXPECT_EQ(ids(yard, out), (std::vector<std::string>{"root", "a", "b", "aa", "ab", "ba"}));
  EXPECT_EQ(out.strikes[3].cause, 2u);
  EXPECT_EQ(out.strikes[5].cause, 3u);
  EXPECT_DOUBLE_EQ(out.strikes[1].power.arriving(), 0.5);
  EXPECT_DOUBLE_EQ(out.strikes[5].power.arriving(), 0.25);
  Attack capped = spark(chain);
  capped.cap = 4;
  EXPECT_EQ(resolve(yard.arena, capped, {.by = yard.mara, .toward = root}).strikes.size(), 4u);
}

TEST(Chains, ArriveWhereTheBodyIsByThenAndGoOnFromTheFallen) {
  Yard yard;
  const BodyId a = yard.raider("a", {3, 0, 0});
  const BodyId b =
      yard.add({.id = "b", .faction = yard.raiders, .track = {{0, {{5, 0, 0}, {}}}, {1, {{5, 8, 0}, {}}}}});
  const BodyId c = yard.raider("c", {5, 6, 0});
  const Attack attack = spark({.hop = 3, .hops = 2, .delay_s = 0.25});
  const Outcome out = resolve(yard.arena, attack, {.by = yard.mara, .toward = a});
  ASSERT_EQ(out.strikes.size(), 3u);
  EXPECT_EQ(out.strikes[1].body, b);
  EXPECT_NEAR(out.strikes[1].time_s, 0.5, 1e-12);
  EXPECT_NEAR(out.strikes[1].point.y, 4, 0.6) << "not where it was as the hop departed";
  EXPECT_EQ(out.strikes[2].body, c) << "sought from there";
  // It has fallen meanwhile: the hop is spent, the next is sought from where it lies.
  Skirmish live(yard.arena);
  ASSERT_TRUE(live.start(*live.add_attack(attack), {.by = yard.mara, .toward = a}));
  std::vector<BodyId> struck;
  const auto tick = [&] { (void)live.advance(0.1, [&](const Strike& s) { struck.push_back(s.body); }); };
  for (int i = 0; i < 4; ++i) tick();
  (void)yard.arena.set_fallen(b, true);
  for (int i = 0; i < 6; ++i) tick();
  EXPECT_EQ(struck, (std::vector<BodyId>{a, c}));
}

TEST(Chains, AVerdictTellsTheBestHop) {
  Yard yard;
  const BodyId a = yard.raider("a", {4, 0, 0}), near = yard.raider("near", {6, 0, 0}),
               beside = yard.raider("beside", {6, 0.5, 0}), far = yard.raider("far", {9.5, 0, 0}),
               hidden = yard.raider("hidden", {4, 2, 0});
  yard.wall("crate", {4, 1, 0}, {1.5, 0.2, 2});
  Attack attack = spark({.hop = 2, .hops = 1});
  attack.sight = Sight(Passage::sight);
  const Outcome out = resolve(yard.arena, attack, {.by = yard.mara, .toward = a});
  EXPECT_EQ(ids(yard, out), (std::vector<std::string>{"a", "near"}));
  EXPECT_TRUE(verdict_of(out, near).struck);
  const Reading& third = verdict_of(out, beside).deciding;
  EXPECT_EQ(third.reason, Reason::cap);
  EXPECT_NEAR(*third.margin, std::hypot(2, 0.5) - 2, 1e-9);
  EXPECT_EQ(verdict_of(out, hidden).deciding.reason, Reason::wall);
  EXPECT_EQ(verdict_of(out, far).deciding.reason, Reason::too_far);
  EXPECT_NEAR(*verdict_of(out, far).deciding.margin, 9.5 - 4 - 0.5 - 2, 1e-9)
      << "from a, as no hop is left at near";
}

// A thousand from each of a thousand, and back: what waits counts against the limit of carriers.
TEST(Chains, AreBoundedWhateverIsAskedOfThem) {
  Yard yard;
  BodyId first;
  for (int i = 0; i < test::effort(1100); ++i)
    first = yard.raider("r" + std::to_string(i), {4 + i * 1e-3, 0, 0});
  const ChainDelivery all{
      .hop = 10, .hops = 100'000, .next = 1000, .again = ChainDelivery::Again::always, .delay_s = 0.1};
  Attack attack = spark(all);
  attack.burst = Burst{.count = 10'000, .gap_s = 0};
  const Outcome out =
      resolve(yard.arena, attack, {.by = yard.mara, .toward = first}, {.detail = Detail::strikes});
  EXPECT_LE(out.strikes.size(), Limits{}.carriers);
  ASSERT_FALSE(out.limits_met.empty());
  EXPECT_EQ(out.limits_met[0].limit, Limit::carriers);
}

PushDone push_of(const Strike& s) { return std::get<PushDone>(s.effects.at(0).what); }

TEST(Pushes, FallOffByTheirClosedForms) {
  const double d = 3.5 / 5, left = 1 - d;
  for (const auto& [falloff, factor] : {std::pair{Falloff::Curve::none, 1.0},
                                        {Falloff::Curve::linear, left},
                                        {Falloff::Curve::smooth, 1 - 3 * d * d + 2 * d * d * d},
                                        {Falloff::Curve::square, left * left}}) {
    Yard yard;
    (void)yard.raider("raider", {0, 4, 0});
    Attack wave = blast(5);
    wave.effects = {Push{.strength = 8, .falloff = {falloff, 5, {}}}};
    const Outcome out = resolve(yard.arena, wave, {.by = yard.mara, .toward = AtPlace{{0, 0, 0}}});
    ASSERT_EQ(out.strikes.size(), 1u);
    EXPECT_NEAR(push_of(out.strikes[0]).factor, factor, 1e-12);
    EXPECT_NEAR(push_of(out.strikes[0]).velocity.y, 8 * factor, 1e-12);
  }
}

TEST(Pushes, GoByMassByPointsAndFromTheVeryCentre) {
  Yard yard;
  const BodyId heavy = yard.add({.id = "heavy",
                                 .faction = yard.raiders,
                                 .pose = {{2, 0, 0}, {}},
                                 .numbers = {{"mass", 80}}}),
               light = yard.raider("light", {0, 0, 0});
  Attack wave = blast(5);
  wave.effects = {Push{.strength = -160,
                       .as = Push::As::impulse,
                       .falloff = {.points = {{1, 1}, {2, 0.5}}},
                       .direction = {0, 0, 2}}};
  const Outcome out = resolve(yard.arena, wave, {.by = yard.mara, .toward = AtPlace{{0, 0, 0}}});
  ASSERT_EQ(out.strikes.size(), 2u);
  const PushDone at_centre = push_of(out.strikes[0]), pulled = push_of(out.strikes[1]);
  EXPECT_EQ(out.strikes[0].body, light);
  EXPECT_EQ(at_centre.impulse, (Vec3{0, 0, -160}));
  EXPECT_EQ(at_centre.velocity, Vec3{}) << "its mass is not known";
  EXPECT_EQ(out.strikes[1].body, heavy);
  EXPECT_NEAR(pulled.factor, 0.75, 1e-12) << "1.5 m from the centre";
  EXPECT_NEAR(pulled.velocity.x, -160 * 0.75 / 80, 1e-12);
}

TEST(Timing, AWindupReleasesFromWhereTheAttackerIsByThen) {
  Yard yard;
  const BodyId raider = yard.add(
      {.id = "raider", .faction = yard.raiders, .track = {{0, {{8, -4, 0}, {}}}, {1, {{8, 4, 0}, {}}}}});
  Attack bolt = kBolt;
  bolt.windup = Windup{.for_s = 0.5};
  Outcome out = resolve(yard.arena, bolt, {.by = yard.mara, .toward = raider});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_NEAR(out.strikes[0].time_s, 0.5, 1e-12);
  bolt.windup->aim = Windup::Aim::start;
  out = resolve(yard.arena, bolt, {.by = yard.mara, .toward = raider});
  EXPECT_TRUE(out.strikes.empty()) << "it is not where it was aimed at any more";
  for (const bool though_fallen : {false, true}) {
    bolt.windup = Windup{.for_s = 0.5, .though_fallen = though_fallen};
    Yard other;
    (void)other.raider("raider", {8, 0, 0});
    Skirmish live(other.arena);
    ASSERT_TRUE(live.start(*live.add_attack(bolt), {.by = other.mara}));
    int struck = 0;
    (void)live.advance(0.25, [&](const Strike&) { ++struck; });
    (void)other.arena.set_fallen(other.mara, true);
    (void)live.advance(0.5, [&](const Strike&) { ++struck; });
    EXPECT_EQ(struck, though_fallen ? 1 : 0);
    EXPECT_EQ(live.under_way(), 0u);
  }
}

TEST(Timing, RoundsAimAnewOrNotAndGoOnOrNot) {
  Yard yard;
  const BodyId raider = yard.add(
      {.id = "raider", .faction = yard.raiders, .track = {{0, {{8, -4, 0}, {}}}, {1, {{8, 4, 0}, {}}}}});
  Attack bolt = kBolt;
  bolt.burst = Burst{.count = 4, .gap_s = 0.25};
  Outcome out = resolve(yard.arena, bolt, {.by = yard.mara, .toward = raider});
  ASSERT_EQ(out.strikes.size(), 4u);
  for (std::size_t i = 0; i < 4; ++i)
    EXPECT_NEAR(out.strikes[i].time_s, 0.25 * static_cast<double>(i), 1e-12);
  bolt.burst->aims_anew = false;
  EXPECT_EQ(resolve(yard.arena, bolt, {.by = yard.mara, .toward = raider}).strikes.size(), 1u);
  for (const bool though_fallen : {false, true}) {
    bolt.burst = Burst{.count = 4, .gap_s = 0.25, .though_fallen = though_fallen};
    (void)yard.arena.set_fallen(yard.mara, false);
    Skirmish live(yard.arena);
    ASSERT_TRUE(live.start(*live.add_attack(bolt), {.by = yard.mara, .toward = raider}));
    int struck = 0;
    while (live.time() < 1) {
      if (live.time() > 0.3) (void)yard.arena.set_fallen(yard.mara, true);
      (void)live.advance(0.05, [&](const Strike&) { ++struck; });
    }
    EXPECT_EQ(struck, though_fallen ? 4 : 2);
  }
}

/// Where the rounds of one who goes north at 2 m/s strike.
std::vector<Vec3> struck_at(const Burst& burst) {
  Yard yard;
  const BodyId runner = yard.add(
      {.id = "runner", .faction = yard.wardens, .track = {{0, {{0, 0, 0}, {}}}, {2, {{0, 4, 0}, {}}}}});
  const BodyId raider = yard.raider("raider", {8, 0, 0});
  Attack bolt = kBolt;
  bolt.burst = burst;
  std::vector<Vec3> out;
  for (const Strike& s : resolve(yard.arena, bolt, {.by = runner, .toward = raider}).strikes)
    out.push_back(s.point);
  return out;
}

TEST(Timing, RoundsComeFromWhereTheMuzzleIsOrWasAtFirst) {
  const std::vector<Vec3> along = struck_at({.count = 3, .gap_s = 0.5}),
                          stays = struck_at({.count = 3, .gap_s = 0.5, .follows_muzzle = false});
  ASSERT_EQ(along.size(), 3u);
  ASSERT_EQ(stays.size(), 3u);
  // From 0, 1 and 2 m north the ball is struck on its northern side; from one place always at one.
  EXPECT_GT(along[1].y, along[0].y + 0.01);
  EXPECT_GT(along[2].y, along[1].y + 0.01);
  EXPECT_EQ(stays[1], stays[0]);
  EXPECT_EQ(stays[2], stays[0]);
}

TEST(Timing, StaggeredStrikesComeInOrderAndNotToTheFallen) {
  Yard yard;
  const BodyId a = yard.raider("a", {1, 0, 0}), b = yard.raider("b", {2, 0, 0}),
               c = yard.raider("c", {3, 0, 0});
  Attack wave = blast(5);
  wave.stagger_s = 0.2;
  const Outcome out = resolve(yard.arena, wave, {.by = yard.mara, .toward = AtPlace{{0, 0, 0}}});
  ASSERT_EQ(out.strikes.size(), 3u);
  EXPECT_NEAR(out.strikes[2].time_s, 0.4, 1e-12);
  Skirmish live(yard.arena);
  ASSERT_TRUE(live.start(*live.add_attack(wave), {.by = yard.mara, .toward = AtPlace{{0, 0, 0}}}));
  std::vector<BodyId> struck;
  (void)live.advance(0.1, [&](const Strike& s) { struck.push_back(s.body); });
  (void)yard.arena.set_fallen(b, true);
  (void)live.advance(0.5, [&](const Strike& s) { struck.push_back(s.body); });
  EXPECT_EQ(struck, (std::vector<BodyId>{a, c}));
}

TEST(Timing, WhatFollowsMayComeLaterAndAtRelease) {
  Yard yard;
  (void)yard.raider("raider", {4, 0, 0});
  Attack bolt = kBolt;
  bolt.windup = Windup{.for_s = 0.25};
  bolt.then = {{.when = Then::When::end, .delay_s = 0.5, .attacks = {blast(1)}},
               {.when = Then::When::release, .attacks = {blast(4)}}};
  const Outcome out = resolve(yard.arena, bolt, {.by = yard.mara});
  ASSERT_EQ(out.strikes.size(), 3u);
  EXPECT_NEAR(out.strikes[0].time_s, 0.25, 1e-12);
  EXPECT_EQ(out.strikes[1].stage, 2u) << "around its muzzle, as it is released";
  EXPECT_NEAR(out.strikes[1].time_s, 0.25, 1e-12);
  EXPECT_EQ(out.strikes[2].stage, 1u);
  EXPECT_NEAR(out.strikes[2].time_s, 0.75, 1e-12);
}

// It follows at the release of what follows, too, and of each round.
TEST(Timing, WhatFollowsIsReleasedAsWell) {
  Yard yard;
  (void)yard.raider("raider", {4, 0, 0});
  Attack flash = blast(1);
  flash.burst = Burst{.count = 3, .gap_s = 0.25};
  flash.then = {{.when = Then::When::release, .attacks = {blast(2)}}};
  Attack bolt = kBolt;
  bolt.then = {{.when = Then::When::end, .attacks = {flash}}};
  const Outcome out = resolve(yard.arena, bolt, {.by = yard.mara});
  int released = 0;
  for (const Strike& s : out.strikes) released += s.stage == 2;
  EXPECT_EQ(released, 3);
  EXPECT_EQ(out.strikes.size(), 7u);
}

// Whom a delayed follow-up was for may be gone by then.
TEST(Timing, WhatComesLaterForWhoIsGoneGoesToTheirPlace) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {6, 0, 0}), near = yard.raider("near", {6, 1.2, 0});
  Attack bolt = kBolt;
  const Attack pot{.name = "pot", .delivery = ShotDelivery{.path = LobPath{.flight_time_s = 0.5}}};
  bolt.then = {{.when = Then::When::strike, .delay_s = 0.5, .attacks = {pot, blast(1)}}};
  Skirmish live(yard.arena);
  ASSERT_TRUE(live.start(*live.add_attack(bolt), {.by = yard.mara, .toward = raider}));
  std::vector<BodyId> struck;
  const auto tick = [&] { (void)live.advance(0.2, [&](const Strike& s) { struck.push_back(s.body); }); };
  tick();
  (void)yard.arena.remove(raider);
  (void)yard.raider("instead", {30, 30, 0});  // in its place in the tables
  for (int i = 0; i < 60; ++i) tick();
  EXPECT_EQ(struck, (std::vector<BodyId>{raider, near}));
  EXPECT_EQ(live.under_way(), 0u);
}

TEST(Timing, WhatMeansNothingIsRefusedWithItsPlace) {
  const auto where = [](const Attack& attack) {
    const Problems problems = check(attack);
    return problems.empty() ? std::string() : problems[0].where;
  };
  Attack child = blast(1);
  child.windup = Windup{.for_s = 1};
  EXPECT_EQ(where({.delivery = RayDelivery{}, .then = {{.attacks = {child}}}}), "/then/0/attacks/0/windup");
  child.windup.reset(), child.burst = Burst{.count = 2, .though_fallen = true};
  EXPECT_EQ(where({.delivery = RayDelivery{}, .then = {{.attacks = {child}}}}), "/then/0/attacks/0/burst");
  Attack trap{.delivery = TrapDelivery{}, .effects = {Push{}}};
  EXPECT_EQ(where(trap), "/effects");
  trap.effects.clear(), trap.sight = Sight(Passage::sight);
  EXPECT_EQ(where(trap), "/sight");
  EXPECT_EQ(where({.delivery = TrapDelivery{.rest_s = 1e-12}}), "/trap/rest");
  EXPECT_EQ(where({.delivery = SwingDelivery{}}), "/swing/keys");
  Lasts grows{.grows = {{1, BoxArea{}}}};
  EXPECT_EQ(where({.delivery = AreaDelivery{.shape = BallArea{1}, .lasts = grows}}), "/area/lasts/grows/0");
  EXPECT_EQ(where({.delivery = RayDelivery{}, .stagger_s = 1}), "/stagger");
  // What strikes one after the other has its effects target by target anyhow.
  const Lasts lasts{.for_s = 1};
  for (const Attack& attack : {Attack{.delivery = ShotDelivery{}}, Attack{.delivery = ChainDelivery{}},
                               Attack{.delivery = AreaDelivery{.shape = BallArea{1}, .lasts = lasts}},
                               Attack{.delivery = AreaDelivery{.shape = BallArea{1}}, .stagger_s = 1}}) {
    Attack ordered = attack;
    ordered.effect_order = EffectOrder::by_effect;
    EXPECT_EQ(where(attack), "");
    EXPECT_EQ(where(ordered), "/effect_order");
  }
  EXPECT_EQ(where({.delivery = RayDelivery{}, .effect_order = EffectOrder::by_effect}), "");
  EXPECT_EQ(where({.delivery = RayDelivery{}, .then = {{.when = Then::When::hop, .attacks = {blast(1)}}}}),
            "/then/0/when");
}

// A net that opens: each of its shots at another body, none at the one that it comes out of.
TEST(Timing, SplitsGoAtTheNearestOthers) {
  Yard yard;
  const BodyId first = yard.raider("first", {6, 0, 0}), left = yard.raider("left", {8, 3, 0}),
               right = yard.raider("right", {8, -2, 0});
  (void)yard.raider("far", {30, 0, 0});
  Attack net{.name = "net", .delivery = ShotDelivery{.path = StraightPath{.speed = 20}}, .reach = {0, 40}};
  Attack part = net;
  part.reach.far = 10;
  std::get<ShotDelivery>(part.delivery).volley = {.count = 5, .spread = Volley::Spread::bodies};
  net.then = {{.when = Then::When::strike, .attacks = {part}}};
  const Outcome out = resolve(yard.arena, net, {.by = yard.mara, .toward = first});
  ASSERT_EQ(out.strikes.size(), 3u);
  EXPECT_EQ(out.strikes[0].body, first);
  EXPECT_EQ(out.strikes[1].body, right);
  EXPECT_EQ(out.strikes[2].body, left);
}

}  // namespace
}  // namespace dardo::test::chain_test
