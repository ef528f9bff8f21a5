#include "dardo/resolve/skirmish.hpp"
#include "dardo/resolve/touching.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include <functional>
#include "dardo/resolve/resolve.hpp"

#include "support/allocations.hpp"
#include "support/effort.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::skirmish_test {
namespace {

using test::Yard;
const Vec3 kX{1, 0, 0};

Attack shot(ShotPath path, double radius = 0.1) {
  ShotDelivery delivery;
  delivery.path = std::move(path), delivery.radius = radius;
  return {.name = "shot", .delivery = std::move(delivery), .reach = {0, 150}};
}
ShotDelivery& delivery(Attack& attack) { return std::get<ShotDelivery>(attack.delivery); }

/// A yard full of things that stand, move and turn, and an attack of one of all kinds.
struct Scenario {
  Yard yard;
  Attack attack;
  Launch launch;

  explicit Scenario(std::uint64_t seed) {
    test::Random random(seed);
    if (random.chance(0.3)) yard.arena.set_ground(random.range(-12, -3));
    const BuildId crab =
        *yard.arena.add_build({.name = "crab",
                               .hitboxes = {{"shell", Box{{0, 0, 0}, {0.7, 0.4, 0.3}, {}}, 0.5},
                                            {"claw", Capsule{{0.5, 0, 0}, {1.2, 0.3, 0}, 0.1}, 2}}});
    BodyId target;
    for (int i = 0; i < 14; ++i) {
      Body body{
          .id = "raider-" + std::to_string(i), .build = i % 2 ? crab : yard.post, .faction = yard.raiders};
      const auto pose = [&] { return Pose{random.place(14), Rotation::about_z(random.range(-3, 3))}; };
      if (random.chance(0.7)) {
        double t = random.range(-0.5, 0.5);
        for (int k = random.whole(1, 5); k > 0; --k, t += random.chance(0.15) ? 0 : random.range(0.2, 1.5))
          body.track.push_back({t, pose()});
      } else {
        body.pose = pose();
      }
      if (length(body.pose.at) < 2) body.pose.at.x += 4;
      const BodyId id = yard.add(std::move(body));
      if (i == 3) target = id;
    }
    for (int i = 0; i < 5; ++i) {
      yard.wall("wall-" + std::to_string(i), random.direction() * random.range(4, 14),
                abs(random.place(3)) + Vec3{0.1, 0.1, 0.1}, random.chance(0.3) ? yard.glass : yard.timber);
    }
    const double speed = random.range(6, 30);
    switch (random.whole(0, 5)) {
      case 0:
        attack = shot(StraightPath{.speed = speed, .acceleration = random.range(-3, 12), .top_speed = 35});
        break;
      case 1: attack = shot(FallingPath{.speed = speed}); break;
      case 2: attack = shot(FallingPath{.speed = speed, .drag = random.range(0, 0.03)}); break;
      case 3:
        attack = shot(CurvePath{.speed = speed, .side = random.range(-4, 4), .rise = random.range(0, 3)});
        break;
      case 4: {
        GuidedPath guided{.speed = speed, .turn_rate = random.range(0.5, 4), .delay_s = random.range(0, 0.4)};
        guided.climb = random.chance(0.3) ? 3 : 0, guided.lead = random.chance(0.5),
        guided.needs_sight = random.chance(0.3);
        guided.lost = static_cast<GuidedPath::Lost>(random.whole(0, 2));
        attack = shot(guided);
        break;
      }
      default: attack = shot(LobPath{.flight_time_s = random.range(0.5, 2.5), .follows = random.chance(0.5)});
    }
    ShotDelivery& d = delivery(attack);
    d.radius = random.chance(0.3) ? 0 : random.range(0.01, 0.4);
    d.life_s = random.range(1, 4);
    d.pierce = {.bodies = static_cast<std::uint32_t>(random.whole(1, 6)), .power = {1, 0.5}};
    if (random.chance(0.5))
      d.ricochet = {.count = 5, .restitution = random.range(0.3, 1), .friction = 0.1, .jitter = 0.1};
    if (random.chance(0.4))
      d.volley = {.count = 3, .gap_s = random.range(0, 0.3), .spread = Volley::Spread::cone, .angle = 0.3};
    if (random.chance(0.3)) d.again_after_s = 0.3;
    d.sticks = random.chance(0.2);
    if (random.chance(0.5)) {
      Attack burst = test::blast(random.range(1, 4));
      if (random.chance(0.5)) burst.sight = Passage::blasts;
      attack.then.push_back(
          {.when = random.chance(0.5) ? Then::When::end : Then::When::strike, .attacks = {burst}});
    }
    if (random.chance(0.2)) {
      Attack splinter = shot(FallingPath{.speed = 8});
      delivery(splinter).volley = {.count = 4, .spread = Volley::Spread::ring, .angle = 1};
      delivery(splinter).life_s = 1;
      attack.then.push_back({.when = Then::When::surface, .attacks = {splinter}});
    }
    launch = {.by = yard.mara, .toward = AtBody{target, {}}, .seed = seed};
  }
};

std::vector<Strike> live(std::uint64_t seed, const std::function<double(int)>& tick) {
  Scenario s(seed);
  Skirmish skirmish(s.yard.arena);
  const AttackId id = *skirmish.add_attack(s.attack);
  EXPECT_TRUE(skirmish.start(id, s.launch).has_value());
  std::vector<Strike> out;
  double last = 0;
  for (int i = 0; skirmish.time() < 9; ++i) {
    skirmish.advance(tick(i), [&](const Strike& strike) {
      EXPECT_GE(strike.time_s, last - 1e-12) << "in order of time";
      last = strike.time_s;
      out.push_back(strike);
    });
  }
  EXPECT_EQ(skirmish.in_flight(), 0u);
  return out;
}

void expect_same(const std::vector<Strike>& a, const std::vector<Strike>& b, const std::string& what) {
  ASSERT_EQ(a.size(), b.size()) << what;
  for (std::size_t i = 0; i < a.size(); ++i) {
    EXPECT_EQ(a[i].body, b[i].body) << what << " strike " << i;
    EXPECT_EQ(a[i].hitbox, b[i].hitbox) << what << " strike " << i;
    EXPECT_EQ(a[i].stage, b[i].stage) << what << " strike " << i;
    EXPECT_EQ(a[i].cause, b[i].cause) << what << " strike " << i;
    EXPECT_NEAR(a[i].time_s, b[i].time_s, 1e-6) << what << " strike " << i;
    EXPECT_LT(length(a[i].point - b[i].point), 1e-4) << what << " strike " << i;
  }
}

constexpr auto kScenes = test::effort<std::uint64_t>(150);

TEST(Skirmish, StrikesAreTheSameForAnyTicks) {
  std::size_t strikes = 0;
  for (std::uint64_t seed = 1; seed <= kScenes; ++seed) {
    Scenario s(seed);
    const Outcome whole = resolve(s.yard.arena, s.attack, s.launch, Detail::strikes);
    ASSERT_NE(whole.ended, Ended::refused) << seed;
    strikes += whole.strikes.size();
    for (const double hertz : {10.0, 30.0, 60.0, 144.0}) {
      expect_same(whole.strikes, live(seed, [&](int) { return 1 / hertz; }),
                  "seed " + std::to_string(seed) + " at " + std::to_string(hertz));
    }
    test::Random random(seed);
    expect_same(whole.strikes,
                live(seed, [&](int) { return random.chance(0.1) ? 0 : random.range(0.0001, 0.2); }),
                "seed " + std::to_string(seed) + " irregular");
    if (HasFailure()) break;
  }
  EXPECT_GT(strikes, kScenes / 2);
}

TEST(Skirmish, AnApexAtTheEndOfATickComesOnce) {
  // Thrown so high it is highest at the end of a tick, where its law makes a new piece.
  for (int i = 0; i < 40; ++i) {
    const double hertz = i % 2 ? 60 : 10, flight = 1 + 0.01 * i,
                 highest = std::ceil(0.6 * flight * hertz) / hertz;
    Yard yard;
    const double up = -yard.arena.gravity().z * flight * (highest - flight / 2);
    const BodyId raider = yard.raider("raider", {7 + 0.37 * i, 3 - 0.21 * i, up});
    Attack lob = shot(LobPath{.flight_time_s = flight, .follows = true});
    lob.then = {{.when = Then::When::apex, .attacks = {shot(StraightPath{.speed = 1})}}};
    Skirmish live(yard.arena);
    const AttackId attack = *live.add_attack(lob);
    ASSERT_TRUE(live.start(attack, {.by = yard.mara, .toward = AtBody{raider}}));
    int ends = 0;
    for (int tick = 1; tick <= 20 * hertz; ++tick)
      (void)live.advance(
          tick / hertz - live.time(), [](const Strike&) { return false; }, [&](const ShotEnd&) { ++ends; });
    EXPECT_EQ(ends, 2) << i;
  }
}

TEST(Skirmish, StrikesAndVerdictsOfShotsAgree) {
  for (std::uint64_t seed = 1; seed <= kScenes; ++seed) {
    Scenario s(seed);
    const Outcome out = resolve(s.yard.arena, s.attack, s.launch, Detail::full);
    for (const Verdict& v : out.verdicts) {
      const bool struck = std::any_of(out.strikes.begin(), out.strikes.end(),
                                      [&](const Strike& k) { return k.body == v.body; });
      EXPECT_EQ(v.struck, struck) << seed;
      EXPECT_EQ(v.struck, v.deciding.reason == Reason::none) << seed << " " << s.yard.arena.body(v.body).id;
      if (v.deciding.margin) EXPECT_TRUE(std::isfinite(*v.deciding.margin) && *v.deciding.margin >= 0);
    }
  }
}

TEST(Skirmish, GoesOnToTheBitFromSavedBytes) {
  for (std::uint64_t seed = 1; seed <= kScenes / 2; ++seed) {
    test::Random random(seed);
    Scenario s(seed), t(seed);
    Skirmish first(s.yard.arena), second(t.yard.arena);
    const AttackId id = *first.add_attack(s.attack);
    (void)*second.add_attack(t.attack);
    (void)*first.start(id, s.launch);
    const int at = random.whole(0, 60);
    for (int i = 0; i < at; ++i) first.advance(1.0 / 60, [](const Strike&) {});
    const std::string bytes = first.save();
    ASSERT_TRUE(second.restore(bytes));
    for (const BodyId b : s.yard.arena.bodies()) (void)t.yard.arena.move(b, s.yard.arena.body(b).pose);
    std::vector<Strike> a, b;
    for (int i = 0; i < 300; ++i) {
      first.advance(1.0 / 60, [&](const Strike& strike) { a.push_back(strike); });
      second.advance(1.0 / 60, [&](const Strike& strike) { b.push_back(strike); });
    }
    ASSERT_EQ(a.size(), b.size()) << seed;
    for (std::size_t i = 0; i < a.size(); ++i) {
      EXPECT_EQ(a[i], b[i]) << seed << " strike " << i;
      EXPECT_TRUE(is_finite(a[i].normal) && is_finite(a[i].point));
    }
    // What is not whole, or of another version, is refused and changes nothing.
    const double now = second.time();
    EXPECT_FALSE(second.restore(bytes.substr(0, bytes.size() - 1)));
    EXPECT_FALSE(second.restore("dardo skirmish 0\n" + bytes.substr(17)));
    EXPECT_FALSE(second.restore(""));
    EXPECT_EQ(second.time(), now);
  }
}

TEST(Skirmish, WhoFallsIsNotStruckAgainAndStopsNothing) {
  Yard yard;
  const BodyId front = yard.raider("front", {5, 0, 0}), back = yard.raider("back", {10, 0, 0});
  Skirmish skirmish(yard.arena);
  const AttackId bolt = *skirmish.add_attack(shot(StraightPath{.speed = 20}));
  (void)*skirmish.start(bolt, {.by = yard.mara, .toward = AlongDirection{kX}});
  (void)*skirmish.start(bolt, {.by = yard.mara, .toward = AlongDirection{kX}});
  std::vector<BodyId> struck;
  skirmish.advance(1, [&](const Strike& s) {
    struck.push_back(s.body);
    return true;
  });
  EXPECT_EQ(struck, (std::vector<BodyId>{front, back}))
      << "the second shot of the same tick finds nobody in front";
  EXPECT_TRUE(yard.arena.body(front).fallen);
}

TEST(Skirmish, BodiesMovedByTheGameAreMetOnTheirWay) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {10, -3, 0});
  Skirmish skirmish(yard.arena);
  const AttackId bolt = *skirmish.add_attack(shot(StraightPath{.speed = 20}, 0));
  (void)*skirmish.start(bolt, {.by = yard.mara, .toward = AlongDirection{kX}});
  // In one tick from one side of the line to the other: by its places alone it is never on it.
  (void)skirmish.move(raider, {{10, 3, 0}, {}});
  std::vector<Strike> strikes;
  skirmish.advance(1, [&](const Strike& s) { strikes.push_back(s); });
  ASSERT_EQ(strikes.size(), 1u);
  EXPECT_NEAR(strikes[0].time_s, 0.5 - 0.5 / std::sqrt(400.0 + 36), 1e-9);
  // Moved past the skirmish it jumps, and is met by nothing on the way.
  (void)yard.arena.move(raider, {{10, -3, 0}, {}});
  (void)*skirmish.start(bolt, {.by = yard.mara, .toward = AlongDirection{kX}});
  strikes.clear();
  skirmish.advance(1, [&](const Strike& s) { strikes.push_back(s); });
  EXPECT_TRUE(strikes.empty());
}

TEST(Skirmish, TellsWhoEntersStaysAndLeaves) {
  test::Yard yard;
  yard.raider("near", {3, 0, 0}), yard.raider("far", {6, 0, 0});
  yard.add("friend", yard.wardens, {4.5, 0, 0});
  Skirmish live(yard.arena);
  // One metre a tick, through everybody; touches from 1.3 m before a middle to 1.3 m behind it.
  Attack wave = shot(StraightPath{.speed = 1}, 0.8);
  delivery(wave).pierce.bodies = 9;
  (void)*live.start(*live.add_attack(wave), {.by = yard.mara, .toward = AlongDirection{kX}});
  TouchWatch watch, other;
  std::string told;
  const auto note = [&](char what) {
    return [&told, what, &yard](const Touching& o) { told += what + yard.arena.body(o.body).id + ' '; };
  };
  std::size_t strikes = 0;
  for (int tick = 0; tick < 9; ++tick) {
    live.advance(1, [&](const Strike&) { ++strikes; });
    if (tick == 4) {
      const std::string bytes = live.save();
      ASSERT_TRUE(live.restore(bytes));
    }
    watch.look(live, note('+'), note('='), note('-'));
    told += "| ";
    // A watch that is reset sees everything as it is.
    other.reset(live);
    other.look(
        live, [](const Touching&) { FAIL(); }, [](const Touching&) {}, [](const Touching&) { FAIL(); });
  }
  EXPECT_EQ(told, "| +near | =near | =near | -near +far | =far | =far | -far | | ");
  EXPECT_EQ(strikes, 2u);
}

TEST(Skirmish, CarriesWhatSticks) {
  test::Yard yard;
  const BodyId raider = yard.raider("raider", {2.5, 0, 0});
  Skirmish live(yard.arena);
  Attack dart = shot(StraightPath{.speed = 10}, 0);
  delivery(dart).sticks = true, delivery(dart).life_s = 2;
  (void)*live.start(*live.add_attack(dart), {.by = yard.mara, .toward = AlongDirection{kX}});
  std::vector<ShotEnd> ends;
  std::vector<ShotView> shots;
  std::size_t strikes = 0;
  for (int tick = 1; tick <= 30; ++tick) {
    if (tick > 10) (void)live.move(raider, {{2.5, 0.1 * (tick - 10), 0}, {}});
    live.advance(
        0.1, [&](const Strike&) { ++strikes; }, [&](const ShotEnd& e) { ends.push_back(e); });
    if (tick != 15) continue;
    live.shots(shots);
    ASSERT_EQ(shots.size(), 1u);
    EXPECT_EQ(shots[0].stuck_in, raider);
    EXPECT_LT(length(shots[0].place - Vec3{2, 0.5, 0}), 1e-9);
    ASSERT_TRUE(live.restore(live.save()));
  }
  EXPECT_EQ(strikes, 1u);
  ASSERT_EQ(ends.size(), 1u);
  EXPECT_EQ(ends[0].ended, Ended::stuck);
  EXPECT_EQ(ends[0].by.body, raider);
  EXPECT_NEAR(ends[0].time_s, 2, 1e-12);
  EXPECT_LT(length(ends[0].place - Vec3{2, 1, 0}), 1e-9);
}

TEST(Skirmish, ASteadyStateAllocatesNothing) {
  Yard yard;
  test::Random random(3);
  std::vector<BodyId> raiders;
  for (int i = 0; i < 200; ++i)
    raiders.push_back(
        yard.raider("raider-" + std::to_string(i), {random.range(5, 60), random.range(-30, 30), 0}));
  Skirmish skirmish(yard.arena);
  Attack bolt = shot(StraightPath{.speed = 10});
  delivery(bolt).pierce.bodies = 1000000;
  delivery(bolt).again_after_s = 0.05;
  delivery(bolt).life_s = 1000;
  bolt.reach.far = 1e6;
  const AttackId id = *skirmish.add_attack(bolt);
  for (int i = 0; i < 100; ++i)
    (void)*skirmish.start(id, {.by = yard.mara, .toward = AlongDirection{{1, random.range(-0.6, 0.6), 0}}});
  std::size_t strikes = 0;
  const auto tick = [&](int i) {
    for (const BodyId b : raiders) {
      Pose pose = yard.arena.body(b).pose;
      pose.at.y += i % 2 ? 0.05 : -0.05;
      (void)skirmish.move(b, pose);
    }
    skirmish.advance(1.0 / 60, [&](const Strike&) { ++strikes; });
  };
  for (int i = 0; i < 600; ++i) tick(i);
  const std::size_t before = test::allocations();
  for (int i = 0; i < 60; ++i) tick(i);
  EXPECT_EQ(test::allocations(), before);
  EXPECT_GT(strikes, kScenes / 2);
  EXPECT_EQ(skirmish.in_flight(), 100u);
}

TEST(Skirmish, WhatLastsAllocatesNothingInASteadyState) {
  Yard yard;
  test::Random random(3);
  std::vector<BodyId> raiders;
  for (int i = 0; i < 200; ++i)
    raiders.push_back(
        yard.raider("raider-" + std::to_string(i), {random.range(0, 40), random.range(-20, 20), 0}));
  Skirmish skirmish(yard.arena);
  const Attack oil{
      .name = "oil",
      .delivery = AreaDelivery{.shape = RingArea{0, 3, -1, 1}, .lasts = Lasts{.for_s = 1000, .every_s = 0.1}},
      .effects = {Push{.strength = 2}}};
  const Attack hook{.name = "hook",
                    .delivery = SwingDelivery{.blade = CapsuleArea{{0.5, 0, 0}, {3, 0, 0}, 0.1},
                                              .keys = {{0, {}, 0}, {400, {}, 2400}},
                                              .again_after_s = 0.2}};
  const AttackId area = *skirmish.add_attack(oil), blade = *skirmish.add_attack(hook);
  for (int i = 0; i < 20; ++i) {
    const Vec3 at{random.range(0, 40), random.range(-20, 20), 0};
    (void)*skirmish.start(area, {.by = yard.mara, .toward = AtPlace{at}});
    (void)*skirmish.start(blade, {.from = FromPlace{{at, {}}, yard.wardens}});
  }
  std::size_t strikes = 0;
  const auto tick = [&](int i) {
    for (const BodyId b : raiders) {
      Pose pose = yard.arena.body(b).pose;
      pose.at.y += i / 40 % 2 ? 0.05 : -0.05;
      (void)skirmish.move(b, pose);
    }
    (void)skirmish.advance(1.0 / 60, [&](const Strike&) { ++strikes; });
  };
  for (int i = 0; i < 1600; ++i) tick(i);
  const std::size_t before = test::allocations();
  for (int i = 0; i < 80; ++i) tick(i);
  EXPECT_EQ(test::allocations(), before);
  EXPECT_GT(strikes, 1000u);
  EXPECT_EQ(skirmish.under_way(), 40u);
}

TEST(Skirmish, TellsOfEveryShotThatIsOver) {
  Yard yard;
  yard.raider("raider", {5, 0, 0});
  Skirmish skirmish(yard.arena);
  Attack bolt = shot(StraightPath{.speed = 20});
  delivery(bolt).life_s = 0.5;
  const AttackId id = *skirmish.add_attack(bolt);
  (void)*skirmish.start(id, {.by = yard.mara, .toward = AlongDirection{kX}});
  (void)*skirmish.start(id, {.by = yard.mara, .toward = AlongDirection{{0, 1, 0}}});
  std::vector<ShotEnd> ends;
  skirmish.advance(
      1, [](const Strike&) {}, [&](const ShotEnd& e) { ends.push_back(e); });
  ASSERT_EQ(ends.size(), 2u);
  EXPECT_EQ(ends[0].launch, 0u);
  EXPECT_EQ(ends[0].ended, Ended::strike);
  EXPECT_EQ(ends[1].ended, Ended::life);
  EXPECT_NEAR(ends[1].time_s, 0.5, 1e-12);
  EXPECT_NEAR(ends[1].place.y, 10, 1e-9);
}

TEST(Skirmish, RefusesWhatIsWrong) {
  Yard yard;
  Skirmish skirmish(yard.arena);
  Attack still = shot(StraightPath{.speed = 0});
  EXPECT_FALSE(skirmish.add_attack(still).has_value());
  EXPECT_FALSE(skirmish.start(AttackId{}, {.by = yard.mara}).has_value());
  const AttackId id = *skirmish.add_attack(shot(StraightPath{}));
  EXPECT_FALSE(skirmish.start(id, {.by = BodyId{}}).has_value());
  EXPECT_FALSE(skirmish.move(BodyId{}, {}).empty());
  EXPECT_FALSE(skirmish.move(yard.mara, {{NAN, 0, 0}, {}}).empty());
}

TEST(Skirmish, WhoFallsInAnInstantKeepsNoShotFromTheOthersWhoAreTouchedInIt) {
  test::Yard yard;
  const BodyId a = yard.raider("a", {10, 0, 0}), b = yard.raider("b", {10, 0, 0});
  Attack pair{.name = "pair", .delivery = ShotDelivery{.path = StraightPath{.speed = 20}}, .reach = {0, 50}};
  std::get<ShotDelivery>(pair.delivery).volley.count = 2;
  pair.then = {{.when = Then::When::strike, .attacks = {test::blast(1)}}};
  for (const double dt : {1.0, 1.0 / 60}) {
    Skirmish live(yard.arena);
    for (const BodyId body : {a, b}) (void)yard.arena.set_fallen(body, false);
    (void)*live.start(*live.add_attack(pair), {.by = yard.mara, .toward = AlongDirection{{1, 0, 0}}});
    std::vector<Strike> strikes;
    while (live.time() < 1)
      (void)live.advance(dt, [&](const Strike& s) { return strikes.push_back(s), true; });
    ASSERT_EQ(strikes.size(), 2u) << "what follows finds nobody";
    EXPECT_EQ(strikes[0].body, a);
    EXPECT_EQ(strikes[1].body, b);
    EXPECT_EQ(strikes[1].stage, 0u);
  }
}

}  // namespace
}  // namespace dardo::skirmish_test
