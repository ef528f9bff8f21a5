// What stays for a time: fronts, areas that last, swings, traps; held against equations and dense sampling of
// the tests' own.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "dardo/resolve/skirmish.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::test::lasting_test {
namespace {

constexpr double kPi = std::numbers::pi;

Attack lasting(AreaShape shape, Lasts lasts) {
  return {
      .name = "front",
      .delivery = AreaDelivery{
          .shape = std::move(shape), .around = AreaDelivery::Around::attacker, .lasts = std::move(lasts)}};
}

/// A raider that goes steadily from one place.
BodyId walker(Yard& yard, const std::string& id, const Vec3& from, const Vec3& velocity, double for_s = 10) {
  return yard.add({.id = id,
                   .faction = yard.raiders,
                   .track = {{0, {from, {}}}, {for_s, {from + velocity * for_s, {}}}}});
}

// |p + v t| = r + g t + R, the lesser root: when a growing ball comes to a ball that moves.
TEST(Lasting, AGrowingBallPassesMovingBallsAtTheRootsOfTheirEquation) {
  Random random(1);
  int met = 0;
  for (int i = 0; i < 200; ++i) {
    Yard yard;
    const Vec3 p{random.range(-20, 20), random.range(-20, 20), random.range(-3, 3)},
        v{random.range(-4, 4), random.range(-4, 4), random.range(-1, 1)};
    const double radius = random.range(0, 2), growth = random.range(0.5, 12), near = radius + 0.5;
    if (length(p) < near + 0.1) continue;
    const BodyId raider = walker(yard, "raider", p, v);
    const Attack front = lasting(BallArea{radius}, {.for_s = 2, .growth = growth});
    const double a = dot(v, v) - growth * growth, b = 2 * (dot(p, v) - near * growth),
                 c = dot(p, p) - near * near, root = b * b - 4 * a * c;
    double expected = INFINITY;
    if (root >= 0) {
      for (const double t : {(-b - std::sqrt(root)) / (2 * a), (-b + std::sqrt(root)) / (2 * a)}) {
        if (t >= 0 && near + growth * t >= 0) expected = std::min(expected, t);
      }
    }
    const Outcome out = resolve(yard.arena, front, {.by = yard.mara});
    ASSERT_EQ(out.strikes.size(), expected <= 2 ? 1u : 0u) << i;
    if (out.strikes.empty()) {
      EXPECT_GT(*verdict_of(out, raider).deciding.margin, 0);
      continue;
    }
    ++met;
    EXPECT_NEAR(out.strikes[0].time_s, expected, 1e-7) << i;
  }
  EXPECT_GT(met, 40);
}

// A shell whose inner edge goes along passes whoever stands still from both sides; a ring goes by the plane.
TEST(Lasting, FrontsWithAnInnerEdgePassEachBodyOnce) {
  Yard yard;
  const BodyId far = yard.raider("far", {6, 0, 0}), inside = yard.raider("inside", {0.9, 0, 0});
  const Outcome out =
      resolve(yard.arena, lasting(ShellArea{2, 2.5}, {.for_s = 2, .growth = 4}), {.by = yard.mara});
  ASSERT_EQ(out.strikes.size(), 1u) << "whoever is nearer than the inner edge is not touched";
  EXPECT_EQ(out.strikes[0].body, far);
  EXPECT_NEAR(out.strikes[0].time_s, (6 - 0.5 - 2.5) / 4, 1e-7);
  EXPECT_NEAR(*verdict_of(out, inside).deciding.margin, 2 - 1.4, 1e-6);
  const Outcome ring =
      resolve(yard.arena, lasting(RingArea{0, 1, -1, 1}, {.for_s = 2, .grows = {{1, RingArea{0, 7, -1, 1}}}}),
              {.by = yard.mara});
  ASSERT_EQ(ring.strikes.size(), 2u);
  EXPECT_EQ(ring.strikes[0].body, inside);
  EXPECT_NEAR(ring.strikes[1].time_s, (6 - 0.5 - 1) / 6.0, 1e-7);
}

// A box that grows evenly: its face comes to a ball that flees along x.
TEST(Lasting, AGrowingBoxComesToWhoFleesOrIsOutrun) {
  Yard yard;
  const BodyId slow = walker(yard, "slow", {5, 0.3, 0}, {2, 0, 0}),
               fast = walker(yard, "fast", {5, -0.3, 0}, {9, 0, 0});
  const Outcome out =
      resolve(yard.arena, lasting(BoxArea{{1, 1, 1}}, {.for_s = 3, .growth = 4}), {.by = yard.mara});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.strikes[0].body, slow);
  EXPECT_NEAR(out.strikes[0].time_s, (5 - 0.5 - 1) / (4 - 2.0), 1e-7);
  // The one that outruns it was nearest at the start.
  EXPECT_EQ(verdict_of(out, fast).deciding.reason, Reason::outside);
  EXPECT_NEAR(*verdict_of(out, fast).deciding.margin, 3.5, 1e-6);
}

TEST(Lasting, StrikesAtEntryAndEachIntervalAndTellsWhenWhoWasInside) {
  Yard yard;
  // In from 0.5 on (2.5 m at 2 m/s, touching at 1.5), out again when it is 1.5 m past the middle.
  const BodyId raider = walker(yard, "raider", {2.5, 0, 0}, {-2, 0, 0});
  const Attack oil = lasting(BallArea{1}, {.for_s = 5, .every_s = 0.4});
  Skirmish live(yard.arena);
  const AttackId attack = *live.add_attack(oil);
  ASSERT_TRUE(live.start(attack, {.by = yard.mara}));
  std::vector<double> strikes;
  std::vector<Presence> told;
  std::size_t most = 0;
  std::vector<Presence> inside;
  while (live.time() < 5.5) {
    (void)live.advance(
        1.0 / 30, [&](const Strike& s) { strikes.push_back(s.time_s); }, [](const ShotEnd&) {},
        [](const LimitMet&) {}, [&](const Presence& p) { told.push_back(p); });
    live.inside(inside);
    most = std::max(most, inside.size());
  }
  ASSERT_EQ(told.size(), 2u);
  EXPECT_TRUE(told[0].inside && !told[1].inside && told[0].body == raider);
  EXPECT_NEAR(told[0].time_s, 0.5, 1e-6);
  EXPECT_NEAR(told[1].time_s, 2.0, 1e-6);
  EXPECT_EQ(most, 1u);
  ASSERT_EQ(strikes.size(), 4u);
  for (std::size_t i = 0; i < 4; ++i) EXPECT_NEAR(strikes[i], 0.5 + 0.4 * static_cast<double>(i), 1e-6);
  EXPECT_EQ(live.under_way(), 0u);
}

// The clock goes on outside: who is back before the interval is over waits for it.
TEST(Lasting, LeavingKeepsTheClock) {
  Yard yard;
  yard.add({.id = "raider",
            .faction = yard.raiders,
            .track = {{0, {{1, 0, 0}, {}}}, {0.2, {{4, 0, 0}, {}}}, {0.4, {{1, 0, 0}, {}}}}});
  const Outcome out =
      resolve(yard.arena, lasting(BallArea{1}, {.for_s = 1.2, .every_s = 1}), {.by = yard.mara});
  ASSERT_EQ(out.strikes.size(), 2u);
  EXPECT_NEAR(out.strikes[1].time_s, 1, 1e-9);
}

TEST(Lasting, WhoeverWaitsInsideCountsAsAnotherLeaves) {
  Yard yard;
  const BodyId first = walker(yard, "first", {0.5, 0, 0}, {4, 0, 0}),
               second = yard.raider("second", {0.8, 0, 0}), third = yard.raider("third", {0, 0.9, 0});
  Attack oil = lasting(BallArea{1}, {.for_s = 1});
  oil.cap = 1;
  const Outcome out = resolve(yard.arena, oil, {.by = yard.mara});
  ASSERT_EQ(out.strikes.size(), 2u);
  EXPECT_EQ(out.strikes[0].body, first);
  EXPECT_EQ(out.strikes[1].body, second);
  EXPECT_NEAR(out.strikes[1].time_s, 0.25, 1e-6) << "as the first is 1.5 m away";
  EXPECT_EQ(verdict_of(out, third).deciding.reason, Reason::waiting);
}

TEST(Lasting, IsOverByStrikesOrWhenItsCarrierFalls) {
  Yard yard;
  yard.raider("raider", {1, 0, 0});
  Attack oil = lasting(BallArea{1}, {.for_s = 9, .every_s = 0.5, .strikes = 3});
  const Outcome out = resolve(yard.arena, oil, {.by = yard.mara});
  EXPECT_EQ(out.ended, Ended::spent);
  EXPECT_EQ(out.strikes.size(), 3u);
  EXPECT_NEAR(out.end_s, 1, 1e-9);

  auto& lasts = *std::get<AreaDelivery>(oil.delivery).lasts;
  lasts.strikes.reset(), lasts.on = Hangs::attacker;
  Skirmish live(yard.arena);
  ASSERT_TRUE(live.start(*live.add_attack(oil), {.by = yard.mara}));
  std::vector<ShotEnd> ends;
  (void)live.advance(
      0.7, [](const Strike&) {}, [&](const ShotEnd& e) { ends.push_back(e); });
  (void)yard.arena.set_fallen(yard.mara, true);
  (void)live.advance(
      0.7, [](const Strike&) {}, [&](const ShotEnd& e) { ends.push_back(e); });
  ASSERT_EQ(ends.size(), 1u);
  EXPECT_EQ(ends[0].ended, Ended::carrier_fell);
  EXPECT_NEAR(ends[0].time_s, 0.7, 1e-9);
}

TEST(Lasting, HangsOnABodyAndTurnsWithIt) {
  Yard yard;
  const BodyId guard =
      yard.add({.id = "guard",
                .faction = yard.wardens,
                .track = {{0, {{0, 0, 0}, {}}}, {1, {{0, 0, 0}, Rotation::about_z(kPi / 2)}}}});
  const BodyId raider = yard.raider("raider", {0, 4, 0});
  Attack beam{.name = "beam",
              .delivery = AreaDelivery{.shape = BeamArea{6, 0.25},
                                       .around = AreaDelivery::Around::attacker,
                                       .along = AreaDelivery::Along::attacker,
                                       .lasts = Lasts{.for_s = 2, .on = Hangs::attacker}}};
  const Outcome out = resolve(yard.arena, beam, {.by = guard});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.strikes[0].body, raider);
  // Its edge, 0.25 m aside, comes within half a metre of a place 4 m away.
  const double angle = kPi / 2 - std::asin(0.75 / 4);
  EXPECT_NEAR(out.strikes[0].time_s, angle / (kPi / 2), 1e-6);
}

TEST(Lasting, AVerdictSaysHowLongBeforeOrAfter) {
  Yard yard;
  const BodyId late = walker(yard, "late", {6.6, 0, 0}, {-3, 0, 0}),
               gone = yard.add({.id = "gone",
                                .faction = yard.raiders,
                                .track = {{0, {{0, 1, 0}, {}}}, {1, {{0, 9, 0}, {}}}}}),
               aside = yard.raider("aside", {0, -4, 0});
  Attack oil = lasting(BallArea{1}, {.for_s = 1});
  const Outcome out = resolve(yard.arena, oil, {.by = yard.mara, .at_s = 0.5});
  EXPECT_TRUE(out.strikes.empty());
  const Reading& after = verdict_of(out, late).deciding;
  EXPECT_EQ(after.reason, Reason::over);
  EXPECT_NEAR(*after.margin, 5.1 / 3 - 1.5, 1e-6);
  EXPECT_EQ(verdict_of(out, gone).deciding.reason, Reason::early);
  EXPECT_NEAR(*verdict_of(out, gone).deciding.margin, 0.5 - 0.5 / 8, 1e-6);
  EXPECT_EQ(verdict_of(out, aside).deciding.reason, Reason::outside);
}

SwingDelivery arc(double from_deg, double to_deg, double time) {
  return {.blade = CapsuleArea{{0.5, 0, 0}, {2, 0, 0}, 0.05},
          .keys = {{0, {}, from_deg * kPi / 180}, {time, {}, to_deg * kPi / 180}}};
}

// Against the least distance of the two on a fine grid of times.
TEST(Swings, MeetCapsulesAndBoxesAsDenseSamplingSays) {
  Random random(7);
  int met = 0;
  for (int i = 0; i < 60; ++i) {
    Yard yard;
    const BuildId build = *yard.arena.add_build(
        {.name = "thing",
         .hitboxes = {{"all", i % 2 == 0 ? Shape(Capsule{{0, 0, -0.5}, {0.2, 0, 0.6}, 0.2})
                                         : Shape(Box{{}, {0.3, 0.15, 0.4}, {}})}}});
    const Pose a{{random.range(-3, 3), random.range(-3, 3), 0}, Rotation::about_z(random.range(-3, 3))},
        b{{random.range(-3, 3), random.range(-3, 3), random.range(-0.3, 0.3)},
          Rotation::about_z(random.range(-3, 3))};
    (void)yard.add({.id = "thing", .build = build, .faction = yard.raiders, .track = {{0, a}, {0.3, b}}});
    const double from = random.range(-180, 180), to = from + random.range(-400, 400);
    const BodyId guard =
        yard.add({.id = "guard",
                  .faction = yard.wardens,
                  .track = {{0, {{0, 0, 0}, {}}}, {0.3, {{0.5, 0.2, 0}, Rotation::about_z(1)}}}});
    const Attack hook{.name = "hook", .delivery = arc(from, to, 0.3)};
    const Outcome out = resolve(yard.arena, hook, {.by = guard});
    // The tests' own: poses by hand, distances of segments and boxes by the library's closed forms.
    std::optional<double> sampled;
    const Shape& own = yard.arena.build(build).hitboxes[0].shape;
    const Leg thing = leg_between(0, a, 0.3, b),
              holder = leg_between(0, {}, 0.3, {{0.5, 0.2, 0}, Rotation::about_z(1)});
    for (int n = 0; n <= 30000 && !sampled; ++n) {
      const double t = n * 1e-5;
      const double angle = (from + (to - from) * t / 0.3) * kPi / 180;
      const Pose hand = holder.at(t);
      const Rotation turn = hand.turn * Rotation::about_z(angle);
      const Segment blade{hand.at + turn * Vec3{0.5, 0, 0}, hand.at + turn * Vec3{2, 0, 0}};
      if (distance(placed(own, thing.at(t)), blade) <= 0.05) sampled = t;
    }
    if (!sampled) {
      EXPECT_LE(out.strikes.size(), 1u);
      continue;
    }
    ++met;
    ASSERT_EQ(out.strikes.size(), 1u) << i;
    EXPECT_LE(out.strikes[0].time_s, *sampled + 1e-9) << i;
    EXPECT_GE(out.strikes[0].time_s, *sampled - 1.1e-5) << i;
  }
  EXPECT_GT(met, 15);
}

TEST(Swings, AnglesAreTakenLiterally) {
  Yard yard;
  const BodyId behind = yard.raider("behind", {-1.5, 0, 0});
  const Attack back{.name = "hook", .delivery = arc(350, 10, 1)},
      on{.name = "hook", .delivery = arc(-10, 10, 1)};
  EXPECT_EQ(resolve(yard.arena, back, {.by = yard.mara}).strikes.size(), 1u) << "a turn of -340";
  EXPECT_EQ(resolve(yard.arena, on, {.by = yard.mara}).strikes.size(), 0u);
  SwingDelivery twice = arc(0, 720, 1);
  twice.again_after_s = 0.3;
  const Outcome out = resolve(yard.arena, {.name = "hook", .delivery = twice}, {.by = yard.mara});
  ASSERT_EQ(out.strikes.size(), 2u) << "two turns are two";
  EXPECT_NEAR(out.strikes[1].time_s - out.strikes[0].time_s, 0.5, 1e-6);
  EXPECT_EQ(out.strikes[0].body, behind);
}

// 5 cm of wood stand in the way of 40 rad/s for less than a tick of any rate.
TEST(Swings, AThinPostIsStruckEveryTime) {
  for (const double hertz : {10.0, 30.0, 60.0, 144.0}) {
    for (int i = 0; i < 40; ++i) {
      Yard yard;
      const BuildId thin = *yard.arena.add_build(
          {.name = "thin", .hitboxes = {{"all", Cylinder{{0, 0, -1}, {0, 0, 1}, 0.025}}}});
      const double angle = 0.13 * i;
      (void)yard.add({.id = "post",
                      .build = thin,
                      .faction = yard.raiders,
                      .pose = {{1.9 * std::cos(angle), 1.9 * std::sin(angle), 0}, {}}});
      Skirmish live(yard.arena);
      ASSERT_TRUE(live.start(*live.add_attack({.name = "hook", .delivery = arc(-20, 340, 2 * kPi / 40)}),
                             {.by = yard.mara}));
      int struck = 0;
      while (live.time() < 0.3) (void)live.advance(1 / hertz, [&](const Strike&) { ++struck; });
      EXPECT_EQ(struck, 1) << hertz << " Hz, " << i;
    }
  }
}

// However its start is rounded, what comes after a key is looked for along the way after it.
TEST(Swings, EveryPartCountsWheneverTheyBegin) {
  Random random(12);
  for (int i = 0; i < 300; ++i) {
    Yard yard;
    (void)yard.raider("raider", {0, 3, 0});
    Attack hook{.name = "hook"};
    hook.delivery = SwingDelivery{.blade = CapsuleArea{{0, 0, 0}, {0.2, 0, 0}, 0.1},
                                  .keys = {{0, {1, 0, 0}}, {2, {1, 0.5, 0}}, {2.25, {0, 2.5, 0}}}};
    const Outcome out =
        resolve(yard.arena, hook, {.by = yard.mara, .toward = AlongFacing{}, .at_s = random.range(0, 1)});
    EXPECT_EQ(out.strikes.size(), 1u) << i;
  }
}

TEST(Swings, AreActiveInTheirWindowAndStopAtWallsIfAsked) {
  Yard yard;
  const BodyId ahead = yard.raider("ahead", {1.5, 0, 0});
  SwingDelivery swing = arc(-90, 90, 1);
  swing.from_s = 0.6;
  Outcome out = resolve(yard.arena, {.name = "hook", .delivery = swing}, {.by = yard.mara});
  ASSERT_EQ(out.strikes.size(), 1u) << "it still overlaps as the window opens";
  EXPECT_NEAR(out.strikes[0].time_s, 0.6, 1e-9);
  swing.from_s = 0.8;
  out = resolve(yard.arena, {.name = "hook", .delivery = swing}, {.by = yard.mara});
  EXPECT_EQ(verdict_of(out, ahead).deciding.reason, Reason::early);
  EXPECT_GT(*verdict_of(out, ahead).deciding.margin, 0.01);
  swing.from_s = 0, swing.stopped_by_walls = true;
  yard.wall("post", {1.2, -1.2, 0}, {0.2, 0.2, 2});
  out = resolve(yard.arena, {.name = "hook", .delivery = swing}, {.by = yard.mara});
  EXPECT_EQ(out.ended, Ended::wall);
  EXPECT_TRUE(out.strikes.empty());
}

// A thrust: no turn, a way along a line.
TEST(Swings, AThrustIsASwingAlongALine) {
  Yard yard;
  const BodyId ahead = yard.raider("ahead", {3, 0, 0});
  const SwingDelivery thrust{.blade = CapsuleArea{{0, 0, 0}, {1, 0, 0}, 0.05},
                             .keys = {{0, {0, 0, 0}, 0}, {0.5, {2, 0, 0}, 0}}};
  const Outcome out = resolve(yard.arena, {.name = "pike", .delivery = thrust}, {.by = yard.mara});
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.strikes[0].body, ahead);
  EXPECT_NEAR(out.strikes[0].time_s, (3 - 0.5 - 1.05) / 4, 1e-7);
  EXPECT_NEAR(out.strikes[0].speed, 4, 1e-9);
  EXPECT_NEAR(out.strikes[0].normal.x, -1, 1e-9);
}

Attack keg(TrapDelivery trap) {
  return {.name = "keg",
          .delivery = std::move(trap),
          .then = {{.when = Then::When::trigger, .attacks = {blast(3)}}}};
}

TEST(Traps, WaitUntilTheyAreArmedAndForThoseWhoAreListed) {
  Yard yard;
  const BodyId raider = walker(yard, "raider", {6, 0, 0}, {-2, 0, 0});
  (void)yard.add({.id = "warden", .faction = yard.wardens, .pose = {{3, 0.5, 0}, {}}});
  const Launch launch{.by = yard.mara, .toward = AtPlace{{3, 0, 0}}};
  Outcome out = resolve(yard.arena, keg({.shape = BallArea{1}, .for_s = 9}), launch);
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_EQ(out.ended, Ended::spent);
  EXPECT_NEAR(out.strikes[0].time_s, 1.5 / 2, 1e-6);
  EXPECT_EQ(out.strikes[0].body, raider);
  // Whoever stands inside as it is armed sets it off then.
  out = resolve(yard.arena, keg({.shape = BallArea{1}, .armed_after_s = 1.25, .for_s = 9}), launch);
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_NEAR(out.strikes[0].time_s, 1.25, 1e-9);
  out = resolve(yard.arena, keg({.shape = BallArea{1}, .armed_after_s = 4, .for_s = 9}), launch);
  EXPECT_TRUE(out.strikes.empty());
  EXPECT_EQ(out.ended, Ended::over);
}

TEST(Traps, ALineIsCrossedAndARestLeavesTime) {
  Yard yard;
  (void)yard.add({.id = "raider",
                  .faction = yard.raiders,
                  .track = {{0, {{3, -4, 0}, {}}}, {2, {{3, 4, 0}, {}}}, {4, {{3, -4, 0}, {}}}}});
  const Attack wire = keg({.shape = CapsuleArea{{-2, 0, 0}, {2, 0, 0}, 0}, .for_s = 9, .times = 2});
  Outcome out = resolve(yard.arena, wire, {.by = yard.mara, .toward = AtPlace{{3, 0, 0}}});
  ASSERT_EQ(out.strikes.size(), 2u);
  EXPECT_NEAR(out.strikes[0].time_s, 3.5 / 4, 1e-6);
  EXPECT_NEAR(out.strikes[1].time_s, 2 + 3.5 / 4, 1e-6);
  Attack rests = wire;
  std::get<TrapDelivery>(rests.delivery).rest_s = 0.1;
  out = resolve(yard.arena, rests, {.by = yard.mara, .toward = AtPlace{{3, 0, 0}}});
  ASSERT_EQ(out.strikes.size(), 2u);
  EXPECT_NEAR(out.strikes[1].time_s - out.strikes[0].time_s, 0.1, 1e-9) << "it still stands in it";
}

TEST(Traps, MayBeStruckAndGoOffOrBeGone) {
  for (const bool sets_off : {false, true}) {
    Yard yard;
    const BodyId raider = yard.raider("raider", {8, 0, 0});
    const BodyId bystander = yard.raider("bystander", {3, 2, 0});
    Skirmish live(yard.arena);
    const Attack trap =
        keg({.shape = BallArea{0.5}, .for_s = 9, .vulnerable = 0.3, .struck_sets_off = sets_off});
    const AttackId put = *live.add_attack(trap), shoot = *live.add_attack(kBolt);
    ASSERT_TRUE(live.start(put, {.by = yard.mara, .toward = AtPlace{{3, 0, 0}}}));
    std::vector<BodyId> struck;
    std::vector<ShotEnd> ends;
    const auto tick = [&] {
      (void)live.advance(
          0.1, [&](const Strike& s) { struck.push_back(s.body); },
          [&](const ShotEnd& e) { ends.push_back(e); });
    };
    tick();
    EXPECT_EQ(live.in_flight(), 0u);
    EXPECT_GT(live.under_way(), 0u);
    ASSERT_TRUE(live.start(shoot, {.by = raider, .toward = AtPlace{{3, 0, 0}}}));
    tick();
    EXPECT_EQ(live.under_way(), 0u);
    ASSERT_FALSE(ends.empty());
    EXPECT_EQ(ends[0].ended, Ended::shot_down);
    EXPECT_EQ(struck, sets_off ? std::vector<BodyId>{bystander} : std::vector<BodyId>{});
  }
}

}  // namespace
}  // namespace dardo::test::lasting_test
