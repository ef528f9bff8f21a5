#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <tuple>

#include "dardo/resolve/skirmish.hpp"
#include "support/effort.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::shot_down_test {
namespace {

using test::Yard;

Attack shot(ShotPath path, double radius, double vulnerable) {
  return {.name = "shot",
          .delivery =
              ShotDelivery{.path = std::move(path), .radius = radius, .life_s = 3, .vulnerable = vulnerable},
          .reach = {0, 200},
          .power = 10};
}

/// Mara at the origin, a raider 20 m ahead who shoots at her.
struct Duel {
  Yard yard;
  BodyId raider = yard.raider("raider", {20, 0, 0});
  Launch mine{.by = yard.mara, .toward = raider};
  UnderWay theirs{shot(StraightPath{.speed = 10}, 0.05, 0.3), {.by = raider, .toward = yard.mara}, 0};

  Outcome run(const Attack& attack) const {
    return resolve(yard.arena, attack, mine, {.detail = Detail::full, .under_way = {&theirs, 1}});
  }
};

TEST(ShotDown, HeadOnWhenTheGapIsClosed) {
  Duel duel;
  const Outcome out = duel.run(shot(StraightPath{.speed = 30}, 0.1, 0));
  ASSERT_EQ(out.downed.size(), 1u);
  EXPECT_EQ(out.downed[0].by, duel.raider);
  EXPECT_EQ(out.downed[0].launch, 0u);
  const double time = (20 - 0.1 - 0.3) / 40;
  EXPECT_NEAR(out.downed[0].time_s, time, 1e-9);
  EXPECT_NEAR(out.downed[0].point.x, 20 - 10 * time, 1e-8);
  EXPECT_EQ(out.ended, Ended::strike);
  EXPECT_NEAR(out.end_s, time, 1e-9);
  EXPECT_TRUE(out.strikes.empty());
  EXPECT_EQ(test::verdict_of(out, duel.raider).deciding.reason, Reason::shielded);
  EXPECT_EQ(explain_end(out, duel.yard.arena), "ended in a shot of raider after 0.49 s");
}

// However often it has rebounded before this launch: those are events of many times, not of one.
TEST(ShotDown, OneUnderWayHasReboundedForLong) {
  Duel duel;
  duel.yard.wall("before", {15, 0, 0}, {1, 5, 5});
  duel.yard.wall("behind", {25, 0, 0}, {1, 5, 5});
  duel.yard.arena.update();
  duel.theirs = {shot(StraightPath{.speed = 3000}, 0.05, 0.3), duel.theirs.launch, 10};
  duel.theirs.attack.reach.far = 1e6;
  auto& delivery = std::get<ShotDelivery>(duel.theirs.attack.delivery);
  delivery.life_s = 20, delivery.ricochet.count = 20000;
  duel.mine.toward = AtPlace{{20, 0, 0}};
  EXPECT_EQ(duel.run(test::blast(10)).downed.size(), 1u);
}

TEST(ShotDown, OneUnderWayIsWhereItHasCome) {
  for (const bool falls : {false, true}) {
    for (const double since : {0.25, 1.0}) {
      SCOPED_TRACE(std::to_string(since) + (falls ? " falling" : " straight"));
      Duel duel;
      duel.theirs.since_s = since;
      if (falls) duel.theirs.attack = shot(FallingPath{.speed = 10}, 0.05, 0.3);
      // From below it, straight up, when it comes by.
      const Vec3 there = falls ? Vec3{20 - 10 * (since + 0.4), 0, -9.81 / 2 * (since + 0.4) * (since + 0.4)}
                               : Vec3{20 - 10 * (since + 0.4), 0, 0};
      const BodyId odo = duel.yard.add("odo", duel.yard.wardens, there - Vec3{0, 0, 8});
      duel.mine = {.by = odo, .toward = AlongDirection{{0, 0, 1}}};
      const Outcome out = duel.run(shot(StraightPath{.speed = 20}, 0.3, 0));
      ASSERT_EQ(out.downed.size(), 1u);
      EXPECT_NEAR(out.downed[0].time_s, 0.4, 0.04);
      EXPECT_LT(length(out.downed[0].point - there), 0.8);
    }
  }
}

TEST(ShotDown, ThoseThatPierceGoOnAndThoseWithoutAHullPass) {
  Duel duel;
  Attack through = shot(StraightPath{.speed = 30}, 0.1, 0);
  std::get<ShotDelivery>(through.delivery).pierce.bodies = 2;
  Outcome out = duel.run(through);
  EXPECT_EQ(out.downed.size(), 1u);
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.strikes[0].body, duel.raider);
  std::get<ShotDelivery>(duel.theirs.attack.delivery).vulnerable = 0;
  out = duel.run(through);
  EXPECT_TRUE(out.downed.empty());
  EXPECT_EQ(out.strikes.size(), 1u);
}

TEST(ShotDown, WhoHearsOfItMayStartWhateverTheyLike) {
  // One blast downs many shots; at each the game starts more than its tables have room for.
  Yard yard;
  const BodyId raider = yard.raider("raider", {20, 0, 0});
  Skirmish live(yard.arena);
  Attack flock = shot(StraightPath{.speed = 1}, 0.05, 0.3);
  std::get<ShotDelivery>(flock.delivery).volley.count = 8;
  const AttackId shots = *live.add_attack(flock), blast = *live.add_attack(test::blast(100));
  int ends = 0, started = 0;
  const auto tick = [&] {
    return live.advance(
        1.0 / 60,
        [&](const Strike&) {
          for (int i = 0; i < 50 && started < 400; ++i, ++started)
            EXPECT_TRUE(live.start(blast, {.by = raider, .toward = AtPlace{{-500, 0, 0}}}));
          return false;
        },
        [&](const ShotEnd& end) {
          ends += end.ended == Ended::shot_down;
          for (int i = 0; i < 50 && started < 400; ++i, ++started)
            EXPECT_TRUE(live.start(blast, {.by = raider, .toward = AtPlace{{-500, 0, 0}}}));
        });
  };
  ASSERT_TRUE(live.start(shots, {.by = raider, .toward = AlongDirection{{-1, 0, 0}}}));
  ASSERT_TRUE(tick().empty());
  ASSERT_TRUE(live.start(blast, {.by = yard.mara, .toward = AtPlace{{20, 0, 0}}}));
  for (int i = 0; i < 3; ++i) ASSERT_TRUE(tick().empty());
  EXPECT_EQ(ends, 8);
  EXPECT_EQ(started, 400);
  EXPECT_EQ(live.in_flight(), 0u);
}

TEST(ShotDown, FallingOnesMeetAsIfNothingFell) {
  Duel duel;
  // Both fall alike: seen from one, the other comes on a straight line.
  duel.theirs.attack = shot(FallingPath{.speed = 12}, 0, 0.5);
  const Outcome out = duel.run(shot(FallingPath{.speed = 15}, 0.1, 0));
  ASSERT_EQ(out.downed.size(), 1u);
  EXPECT_NEAR(out.downed[0].time_s, (20 - 0.6) / 27, 1e-9);
  EXPECT_NEAR(out.downed[0].point.z, -9.81 / 2 * std::pow(out.downed[0].time_s, 2), 1e-8);
}

TEST(ShotDown, PassesTheGatesOfBodies) {
  struct Case {
    const char* what;
    std::function<void(Duel&, Attack&)> change;
    bool downed;
  };
  const Case cases[]{
      {"as it is", [](Duel&, Attack&) {}, true},
      {"not listed", [](Duel&, Attack& a) { a.who = {Relation::neutral}; }, false},
      {"a tag is missing", [](Duel&, Attack& a) { a.needs = {"fire"}; }, false},
      {"the tag is there", [](Duel& d, Attack& a) { a.needs = {"fire"}, d.theirs.attack.tags = {"fire"}; },
       true},
      {"a tag is forbidden",
       [](Duel& d, Attack& a) { a.forbids = {"fire"}, d.theirs.attack.tags = {"fire"}; }, false},
      {"too near", [](Duel&, Attack& a) { a.reach.near = 19; }, false},
      {"of her own",
       [](Duel& d, Attack&) {
         d.theirs.launch = {.by = d.yard.mara, .toward = AlongDirection{{1, 0, 0}}};
       },
       false},
  };
  for (const Case& c : cases) {
    SCOPED_TRACE(c.what);
    Duel duel;
    Attack attack = shot(StraightPath{.speed = 30}, 0.1, 0);
    c.change(duel, attack);
    EXPECT_EQ(duel.run(attack).downed.size(), c.downed ? 1u : 0u);
  }
}

TEST(ShotDown, ByARayAndByAnArea) {
  Duel duel;
  duel.theirs.since_s = 0.5;  // it is at x = 15 then
  Outcome out = duel.run(test::kBolt);
  ASSERT_EQ(out.downed.size(), 1u);
  EXPECT_NEAR(out.end.x, 14.7, 1e-9);
  EXPECT_TRUE(out.strikes.empty());
  const Reading& stopped = test::verdict_of(out, duel.raider).deciding;
  EXPECT_EQ(stopped.reason, Reason::shielded);
  EXPECT_NEAR(stopped.margin.value_or(0), 19.5 - 14.7, 1e-9);
  duel.yard.wall("crate", {10, 0, 0}, {1, 1, 1});
  EXPECT_TRUE(duel.run(test::kBolt).downed.empty()) << "it ends in the crate";

  duel.mine.toward = AtPlace{{13, 0, 0}};
  EXPECT_EQ(duel.run(test::blast(1.7)).downed.size(), 1u) << "touched from outside";
  EXPECT_TRUE(duel.run(test::blast(1.6)).downed.empty());
  duel.mine.toward = AtPlace{{8, 0, 0}};
  Attack blast = test::blast(8);
  EXPECT_EQ(duel.run(blast).downed.size(), 1u);
  blast.sight = Passage::blasts;
  EXPECT_TRUE(duel.run(blast).downed.empty()) << "the crate stands between";
}

TEST(ShotDown, OneThatIsUnderWayMeetsAHullThatSetsOffLater) {
  Duel duel;
  Skirmish live(duel.yard.arena);
  const AttackId bolt = *live.add_attack(shot(StraightPath{.speed = 4}, 0.1, 0));
  const AttackId flare = *live.add_attack(duel.theirs.attack);
  (void)*live.start(bolt, duel.mine);
  std::vector<ShotEnd> ends;
  for (int i = 0; i < 120; ++i) {
    if (i == 30) (void)*live.start(flare, duel.theirs.launch);
    live.advance(
        1.0 / 60, [](const Strike&) {}, [&](const ShotEnd& e) { ends.push_back(e); });
  }
  ASSERT_EQ(ends.size(), 2u);
  EXPECT_EQ(ends[0].ended, Ended::shot_down);
  // The bolt is at x = 2 when the other sets off.
  EXPECT_NEAR(ends[0].time_s, 0.5 + (18 - 0.4) / 14, 1e-9);
}

TEST(ShotDown, WhatFollowsItsEndFollows) {
  Duel duel;
  Attack burst = test::blast(30);
  burst.who = {Relation::foe};
  duel.theirs.attack.then = {{.when = Then::When::end, .attacks = {burst}}};
  Skirmish live(duel.yard.arena);
  const AttackId bolt = *live.add_attack(shot(StraightPath{.speed = 30}, 0.1, 0));
  const AttackId flare = *live.add_attack(duel.theirs.attack);
  (void)*live.start(flare, duel.theirs.launch), (void)*live.start(bolt, duel.mine);
  std::vector<BodyId> struck;
  std::vector<ShotEnd> ends;
  for (int i = 0; i < 60; ++i) {
    live.advance(
        1.0 / 60, [&](const Strike& s) { struck.push_back(s.body); },
        [&](const ShotEnd& e) { ends.push_back(e); });
  }
  ASSERT_EQ(ends.size(), 2u);
  EXPECT_EQ(ends[0].ended, Ended::shot_down);
  EXPECT_EQ(ends[0].by.body, duel.yard.mara);
  EXPECT_EQ(ends[1].ended, Ended::strike);
  EXPECT_EQ(ends[1].by.body, duel.raider);
  EXPECT_TRUE(ends[1].by.shot);
  EXPECT_EQ(struck, std::vector{duel.yard.mara});
}

TEST(ShotDown, RefusesWhatIsNotUnderWay) {
  Duel duel;
  duel.theirs.since_s = -1;
  EXPECT_EQ(duel.run(test::kBolt).ended, Ended::refused);
  duel.theirs = {test::kBolt, duel.theirs.launch, 0};
  const Outcome out = duel.run(test::kBolt);
  ASSERT_EQ(out.problems.size(), 1u);
  EXPECT_EQ(out.problems[0].where, "/under_way/0/launch");
}

/// Two volleys at each other, of random kinds.
struct Barrage {
  Yard yard;
  BodyId raider;
  std::vector<Attack> attacks;
  std::vector<Launch> launches;

  explicit Barrage(std::uint64_t seed) {
    test::Random random(seed);
    raider = yard.raider("raider", {random.range(12, 25), random.range(-3, 3), 0});
    if (random.chance(0.5)) yard.wall("crate", {8, random.range(-2, 2), 0}, {1, 2, 2});
    for (int side = 0; side < 2; ++side) {
      const double speed = random.range(8, 20);
      ShotPath path = StraightPath{.speed = speed};
      switch (random.whole(0, 4)) {
        case 0: path = FallingPath{.speed = speed, .drag = random.chance(0.5) ? 0.01 : 0}; break;
        case 1: path = CurvePath{.speed = speed, .side = random.range(-2, 2)}; break;
        case 2: path = GuidedPath{.speed = speed, .turn_rate = 2, .lead = random.chance(0.5)}; break;
        case 3: path = LobPath{.flight_time_s = random.range(0.8, 2)}; break;
        default: break;
      }
      Attack attack = shot(path, random.range(0, 0.3), random.range(0.2, 1.5));
      ShotDelivery& d = std::get<ShotDelivery>(attack.delivery);
      d.volley = {.count = 4, .gap_s = random.range(0, 0.2), .spread = Volley::Spread::cone, .angle = 0.15};
      d.pierce.bodies = static_cast<std::uint32_t>(random.whole(1, 3));
      if (random.chance(0.4)) d.ricochet = {.count = 3, .restitution = 0.8};
      if (random.chance(0.4)) {
        Attack burst = test::blast(random.range(1, 3));
        burst.who = {Relation::foe};
        attack.then = {{.when = Then::When::end, .attacks = {burst}}};
      }
      attacks.push_back(attack);
      const BodyId by = side == 0 ? yard.mara : raider, at = side == 0 ? raider : yard.mara;
      launches.push_back({.by = by, .toward = at, .seed = seed});
    }
  }

  std::vector<ShotEnd> run(const std::function<double(int)>& tick, bool restored = false) {
    Skirmish live(yard.arena);
    std::vector<AttackId> ids;
    for (const Attack& a : attacks) ids.push_back(*live.add_attack(a));
    for (std::size_t i = 0; i < 2; ++i) (void)*live.start(ids[i], launches[i]);
    std::vector<ShotEnd> ends;
    for (int i = 0; live.time() < 5; ++i) {
      live.advance(
          tick(i), [](const Strike&) {}, [&](const ShotEnd& e) { ends.push_back(e); });
      if (restored) EXPECT_TRUE(live.restore(live.save()));
    }
    return ends;
  }
};

TEST(ShotDown, IsTheSameForAnyTicks) {
  std::size_t downed = 0;
  const int scenes = test::effort(120);
  for (int seed = 1; seed <= scenes && !testing::Test::HasFailure(); ++seed) {
    SCOPED_TRACE(seed);
    Barrage barrage(static_cast<std::uint64_t>(seed));
    const auto whole = barrage.run([](int) { return 5; });
    for (const double rate : {10, 30, 60, 144}) {
      const auto live = barrage.run([&](int) { return 1 / rate; }, rate == 30);
      ASSERT_EQ(live.size(), whole.size()) << rate;
      for (std::size_t i = 0; i < live.size(); ++i) {
        EXPECT_EQ(live[i].launch, whole[i].launch)
            << rate << " end " << i << " at " << live[i].time_s - whole[i].time_s << ' '
            << name(live[i].ended);
        EXPECT_EQ(live[i].ended, whole[i].ended) << rate << " end " << i;
        EXPECT_EQ(live[i].by, whole[i].by) << rate << " end " << i;
        EXPECT_NEAR(live[i].time_s, whole[i].time_s, 1e-6) << rate << " end " << i;
        EXPECT_LT(length(live[i].place - whole[i].place), 1e-4) << rate << " end " << i;
      }
    }
    for (const ShotEnd& e : whole) downed += e.ended == Ended::shot_down;
  }
  EXPECT_GT(static_cast<int>(downed), scenes / 3);
}

/// What ends in a second of play, in ticks of any length.
std::vector<ShotEnd> ends_of(Yard& yard, double dt, const std::vector<std::pair<Attack, Launch>>& launches) {
  Skirmish live(yard.arena);
  for (const auto& [attack, launch] : launches) (void)*live.start(*live.add_attack(attack), launch);
  std::vector<ShotEnd> ends;
  while (live.time() < 1.9)
    (void)live.advance(
        dt, [](const Strike&) {}, [&](const ShotEnd& e) { ends.push_back(e); });
  return ends;
}

TEST(ShotDown, OfAVolleyOnlyThoseThatAreOff) {
  for (const double dt : {1.0, 0.1, 1.0 / 60}) {
    SCOPED_TRACE(dt);
    Yard yard;
    const BodyId raider = yard.raider("raider", {5, 0, 0});
    Attack volley = shot(StraightPath{.speed = 10}, 0, 0.5);
    ShotDelivery& shots = std::get<ShotDelivery>(volley.delivery);
    shots.volley = {.count = 3, .gap_s = 0.1}, shots.life_s = 1;
    Attack fuse = shot(StraightPath{.speed = 10}, 0, 0);
    std::get<ShotDelivery>(fuse.delivery).life_s = 0.05;
    Attack burst = test::blast(30);
    burst.who = {Relation::foe};
    fuse.then = {{.when = Then::When::end, .attacks = {burst}}};
    const auto ends = ends_of(yard, dt,
                              {{volley, {.by = yard.mara, .toward = AlongDirection{{0, 1, 0}}}},
                               {fuse, {.by = raider, .toward = AlongDirection{{0, 1, 0}}}}});
    ASSERT_EQ(ends.size(), 4u);
    EXPECT_EQ(ends[1].ended, Ended::shot_down);
    EXPECT_NEAR(ends[1].time_s, 0.05, 1e-9);
    for (const std::size_t i : {2u, 3u}) EXPECT_EQ(ends[i].ended, Ended::life);
  }
}

TEST(ShotDown, NotByWhatSticksInABodyThatJumps) {
  for (const double dt : {2.0, 0.3, 1.0 / 60}) {
    SCOPED_TRACE(dt);
    Yard yard;
    Body jumper{.id = "jumper", .faction = yard.raiders};
    jumper.track = {{0, {{10, 0, 0}, {}}}, {1, {{10, 0, 0}, {}}}, {1, {{10, 40, 0}, {}}}};
    const BodyId body = yard.add(std::move(jumper)), raider = yard.raider("raider", {10, 20, 0});
    Attack harpoon = shot(StraightPath{.speed = 50}, 0, 0);
    std::get<ShotDelivery>(harpoon.delivery).sticks = true;
    const auto ends = ends_of(
        yard, dt,
        {{harpoon, {.by = yard.mara, .toward = body}},
         {shot(StraightPath{.speed = 0.01}, 0, 1), {.by = raider, .toward = AlongDirection{{0, 1, 0}}}}});
    EXPECT_TRUE(ends.empty()) << name(ends[0].ended) << " at " << ends[0].time_s;
  }
}

/// Many shots of two sides, straight and point-like, each from a bystander of its own far below: against all
/// pairs by the closed form of when two that fly straight are first so near.
TEST(ShotDown, InACrowdAsAllPairsSay) {
  constexpr int kShots = 400;
  constexpr double kNear = 0.6, kLife = 2.5;
  std::size_t downed = 0;
  for (std::uint64_t seed = 1; seed <= test::effort<std::uint64_t>(6); ++seed) {
    SCOPED_TRACE(seed);
    test::Random random(seed);
    Yard yard;
    struct Line {
      Vec3 at, velocity;
    };
    std::vector<Line> lines;
    std::vector<Launch> launches;
    for (int i = 0; i < kShots; ++i) {
      const Line line{random.place(25), random.direction() * random.range(3, 30)};
      const Vec3 way = normalized(line.velocity);
      // It starts at the shooter's middle.
      const BodyId by = yard.add(std::to_string(i), i % 2 == 0 ? yard.wardens : yard.raiders, line.at);
      lines.push_back(line);
      launches.push_back({.by = by, .toward = AlongDirection{way}});
    }
    // Which pairs meet, by time; each ends both.
    struct Pair {
      double time;
      int a, b;
    };
    std::vector<Pair> pairs;
    for (int a = 0; a < kShots; ++a) {
      for (int b = a + 1; b < kShots; b += 2) {
        const auto &p = lines[static_cast<std::size_t>(a)], &q = lines[static_cast<std::size_t>(b)];
        const Vec3 away = p.at - q.at, way = p.velocity - q.velocity;
        const double ww = dot(way, way), aw = dot(away, way), gap = dot(away, away) - kNear * kNear,
                     under = aw * aw - ww * gap;
        const double time = gap <= 0 ? 0 : under >= 0 ? (-aw - std::sqrt(under)) / ww : -1;
        if (time >= 0 && time < kLife) pairs.push_back({time, a, b});
      }
    }
    std::sort(pairs.begin(), pairs.end(), [](const Pair& x, const Pair& y) {
      return std::tie(x.time, x.a, x.b) < std::tie(y.time, y.a, y.b);
    });
    std::vector<double> over(kShots, kLife);
    for (const Pair& pair : pairs) {
      double &a = over[static_cast<std::size_t>(pair.a)], &b = over[static_cast<std::size_t>(pair.b)];
      if (a == kLife && b == kLife) a = b = pair.time, downed += 2;
    }

    Skirmish live(yard.arena);
    std::vector<AttackId> attacks;
    for (const Line& line : lines) {
      Attack attack = shot(StraightPath{.speed = length(line.velocity)}, 0, kNear);
      std::get<ShotDelivery>(attack.delivery).life_s = kLife;
      attacks.push_back(*live.add_attack(attack));
    }
    for (int i = 0; i < kShots; ++i)
      (void)*live.start(attacks[static_cast<std::size_t>(i)], launches[static_cast<std::size_t>(i)]);
    (void)live.advance(0, [](const Strike&) {});
    // Nobody else is in the way.
    for (const Launch& l : launches) (void)yard.arena.remove(l.by);
    (void)yard.arena.remove(yard.mara);
    std::size_t ended = 0;
    for (int tick = 0; live.in_flight() > 0 && tick < 1000; ++tick) {
      (void)live.advance(
          seed % 2 == 0 ? 1.0 / 60 : 0.2, [](const Strike&) {},
          [&](const ShotEnd& e) {
            ++ended;
            EXPECT_NEAR(e.time_s, over[e.launch], 1e-6) << e.launch << ' ' << name(e.ended);
          });
    }
    EXPECT_EQ(ended, static_cast<std::size_t>(kShots));
  }
  EXPECT_GT(downed, 10u);
}

}  // namespace
}  // namespace dardo::shot_down_test
