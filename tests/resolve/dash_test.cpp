// Bodies that dash: where that takes them, what stops them, whom they strike; held against dense sampling and
// closed forms, and played whole, in ticks, and saved.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "dardo/resolve/skirmish.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::test::dash_test {
namespace {

Attack dash(DashDelivery how) { return {.name = "dash", .delivery = how}; }

const DashMark* mark_of(const Outcome& out) {
  for (const Mark& m : out.marks) {
    if (const auto* mark = std::get_if<DashMark>(&m)) return mark;
  }
  return nullptr;
}
Vec3 landing_of(const Outcome& out) {
  const DashMark* mark = mark_of(out);
  return mark == nullptr ? Vec3{NAN, NAN, NAN} : mark->legs.back().at(mark->legs.back().end).at;
}
void expect_at(const Vec3& place, const Vec3& expected, double known = 1e-7) {
  EXPECT_NEAR(length(place - expected), 0, known) << place.x << ' ' << place.y << ' ' << place.z;
}

// Two hitboxes of the attacker against one that moves and turns: never later than a sample that touches, and
// never when none does.
TEST(Dashes, StrikeWhatTheySweepAsDenseSamplingSays) {
  Random random(5);
  int met = 0, missed = 0;
  for (int i = 0; i < 100; ++i) {
    Yard yard;
    const std::vector<Hitbox> own{{"trunk", Capsule{{0, 0, 0.3}, {0, 0, 1.2}, 0.3}},
                                  {"shield", Box{{0.5, 0.2, 0.8}, {0.05, 0.4, 0.5}, {}}}};
    const BuildId warden = *yard.arena.add_build({.name = "warden", .hitboxes = own}),
                  thing = *yard.arena.add_build(
                      {.name = "thing",
                       .hitboxes = {{"all", i % 2 == 0 ? Shape(Capsule{{0, 0, 0}, {0.3, 0, 0.9}, 0.2})
                                                       : Shape(Box{{0, 0, 0.5}, {0.3, 0.15, 0.4}, {}})}}});
    const Rotation facing = Rotation::about_z(random.range(-3, 3));
    const BodyId by =
        yard.add({.id = "by", .build = warden, .faction = yard.wardens, .pose = {{0, 0, 0}, facing}});
    const Pose a{{random.range(-1, 7), random.range(-2, 2), random.range(-1, 2)},
                 Rotation::about_z(random.range(-3, 3))},
        b{{random.range(-1, 7), random.range(-2, 2), random.range(-1, 2)},
          Rotation::about_z(random.range(-3, 3))};
    (void)yard.add({.id = "thing", .build = thing, .faction = yard.raiders, .track = {{0, a}, {0.4, b}}});
    const double rise = i % 3 == 0 ? 1.5 : 0, speed = random.range(10, 25);
    const Attack charge = dash({.speed = speed, .rise = rise});
    const Vec3 to{6, random.range(-1, 1), 0};
    const Outcome out = resolve(yard.arena, charge, {.by = by, .toward = AtPlace{to}});
    const double takes = length(to) / speed;
    ASSERT_EQ(out.ended, Ended::arrived) << i;
    EXPECT_NEAR(out.end_s, takes, 1e-9);
    expect_at(out.end, to);
    // The parabola in 32 straight pieces, by hand.
    const auto place = [&](double t) {
      const auto on = [&](double u) { return to * u + Vec3{0, 0, 4 * rise * u * (1 - u)}; };
      if (rise == 0) return on(t / takes);
      const double piece = std::min(31.0, std::floor(32 * t / takes)), u = 32 * t / takes - piece;
      return on(piece / 32) * (1 - u) + on((piece + 1) / 32) * u;
    };
    std::optional<double> sampled;
    const Leg way = leg_between(0, a, 0.4, b);
    const Shape& shape = yard.arena.build(thing).hitboxes[0].shape;
    for (int n = 0; n * 2e-5 <= takes && !sampled; ++n) {
      const double t = n * 2e-5;
      const Shape there = placed(shape, t < 0.4 ? way.at(t) : b);
      for (const Hitbox& h : own) {
        if (overlaps(placed(h.shape, Pose{place(t), facing}), there)) sampled = t;
      }
    }
    if (!sampled) {
      ++missed;
      EXPECT_LE(out.strikes.size(), 1u);
      continue;
    }
    ++met;
    ASSERT_EQ(out.strikes.size(), 1u) << i;
    EXPECT_LE(out.strikes[0].time_s, *sampled + 1e-9) << i;
    EXPECT_GE(out.strikes[0].time_s, *sampled - 2.1e-5) << i;
  }
  EXPECT_GT(met, 20);
  EXPECT_GT(missed, 10);
}

TEST(Dashes, GoSoFarToAPlaceOrToWhereABodyStands) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {8, 6, 0});
  const Launch at{.by = yard.mara, .toward = raider};
  expect_at(landing_of(resolve(yard.arena, dash({.speed = 20}), at)), {8, 6, 0});
  expect_at(landing_of(resolve(yard.arena, dash({.speed = 20, .distance = 5}), at)), {4, 3, 0});
  expect_at(landing_of(resolve(yard.arena, dash({.distance = 5}), {.by = yard.mara})), {5, 0, 0});
  expect_at(
      landing_of(resolve(yard.arena, dash({.speed = 9}), {.by = yard.mara, .toward = AtPlace{{1, 2, 3}}})),
      {1, 2, 3});
  const Launch up{.by = yard.mara, .toward = AtPlace{{3, 4, 12}}};
  expect_at(landing_of(resolve(yard.arena, dash({.distance = 10, .level = true}), up)), {6, 8, 0});
  expect_at(landing_of(resolve(yard.arena, dash({.distance = 6.5}), up)), {1.5, 2, 6});
  expect_at(landing_of(resolve(yard.arena, dash({.level = true}), up)), {3, 4, 0});
  Attack few = dash({.speed = 20});
  few.reach = {0, 5};
  expect_at(landing_of(resolve(yard.arena, few, at)), {4, 3, 0});
  std::get<DashDelivery>(few.delivery).blocked = DashDelivery::Blocked::refused;
  const Outcome refused = resolve(yard.arena, few, at);
  EXPECT_EQ(refused.ended, Ended::out_of_reach);
  EXPECT_EQ(verdict_of(refused, raider).deciding.reason, Reason::too_far);
  EXPECT_NEAR(*verdict_of(refused, raider).deciding.margin, 5, 1e-9);
  few.reach = {12, 20};
  EXPECT_EQ(verdict_of(resolve(yard.arena, few, at), raider).deciding.reason, Reason::too_near);
  EXPECT_EQ(mark_of(resolve(yard.arena, few, at)), nullptr);
}

// Two balls of half a metre: so far apart along each side that the gap is what is asked.
TEST(Dashes, LandBesideABodyOnTheSideThatTheyAreTold) {
  using Side = DashDelivery::Side;
  Yard yard;
  const BodyId raider = yard.add({.id = "raider",
                                  .faction = yard.raiders,
                                  .pose = {{6, 0, 0}, Rotation::about_z(std::numbers::pi / 2)}});
  const auto land = [&](Side side, double gap, std::optional<double> speed = {}) {
    return resolve(yard.arena, dash({.speed = speed, .beside = gap, .side = side}),
                   {.by = yard.mara, .toward = raider});
  };
  expect_at(landing_of(land(Side::near, 0.25)), {4.75, 0, 0});
  expect_at(landing_of(land(Side::far, 0.25)), {7.25, 0, 0});
  expect_at(landing_of(land(Side::front, 1)), {6, 2, 0});
  expect_at(landing_of(land(Side::back, 1)), {6, -2, 0});
  EXPECT_EQ(land(Side::far, 0.25).strikes.size(), 0u) << "at once nobody is touched on the way";
  EXPECT_EQ(land(Side::far, 0.25, 30).strikes.size(), 1u) << "at a speed who stands in it is";
  EXPECT_EQ(land(Side::near, 0).strikes.size(), 1u) << "without room between them they touch";
  EXPECT_EQ(land(Side::near, 0.01).strikes.size(), 0u);
}

TEST(Dashes, WhoFallsByItsOwnReleaseGoesNowhere) {
  for (const double far : {0.0, 40.0}) {
    Yard yard;
    const Vec3 from{far, -far, 0};
    const BodyId mara =
        yard.add({.id = "weary", .faction = yard.wardens, .pose = {from, {}}, .numbers = {{"health", 5}}});
    const BodyId raider = yard.raider("raider", from + Vec3{6, 0, 0});
    Attack leap = dash({});
    leap.at_release = {Damage{.amount = 9}};
    const Outcome out = resolve(yard.arena, leap, {.by = mara, .toward = AtBody{raider}});
    EXPECT_EQ(out.ended, Ended::no_way);
    EXPECT_EQ(out.stopped_by.body, mara);
    expect_at(out.end, from, 1e-12);
    EXPECT_EQ(verdict_of(out, raider).deciding.reason, Reason::no_way);
    EXPECT_NE(explain_end(out, yard.arena).find("weary had fallen"), std::string::npos)
        << explain_end(out, yard.arena);
  }
}

TEST(Dashes, AreStoppedByWallsOrRefusedAndNeverEndInOne) {
  Yard yard;
  const BodyId raider = yard.raider("raider", {9, 0, 0});
  const WallId fence = yard.wall("fence", {5, 0, 0}, {1, 4, 4});
  const Launch at{.by = yard.mara, .toward = AtPlace{{8, 0, 0}}};
  for (const std::optional<double> speed : {std::optional<double>(10), std::optional<double>()}) {
    const Outcome stopped = resolve(yard.arena, dash({.speed = speed}), at);
    expect_at(landing_of(stopped), {4, 0, 0}, 1e-3);
    EXPECT_LE(landing_of(stopped).x, 4 + 1e-3);
    if (speed) EXPECT_EQ(stopped.ended, Ended::wall);
    if (speed) EXPECT_EQ(stopped.stopped_by.wall, fence);
    const Outcome refused =
        resolve(yard.arena, dash({.speed = speed, .blocked = DashDelivery::Blocked::refused}), at);
    EXPECT_EQ(refused.ended, Ended::no_way);
    EXPECT_EQ(refused.stopped_by.wall, fence);
    EXPECT_EQ(verdict_of(refused, raider).deciding.reason, Reason::no_way);
    expect_at(landing_of(resolve(yard.arena, dash({.speed = speed, .through_walls = true}), at)), {8, 0, 0});
    // Within the wall there is no room: as near to it as there is.
    const Launch into{.by = yard.mara, .toward = AtPlace{{5.2, 0, 0}}};
    expect_at(landing_of(resolve(yard.arena, dash({.speed = speed, .through_walls = true}), into)), {4, 0, 0},
              1e-3);
  }
  // From where it was stopped it gets away, along the wall, or not at all.
  const BodyId leaning = yard.add({.id = "leaning", .faction = yard.wardens, .pose = {{4, 0, 0}, {}}});
  for (const Vec3& way : {Vec3{-1, 0, 0}, Vec3{0, 1, 0}}) {
    expect_at(landing_of(resolve(yard.arena, dash({.speed = 5, .distance = 1}),
                                 {.by = leaning, .toward = AlongDirection{way}})),
              Vec3{4, 0, 0} + way);
  }
  const Outcome pressed = resolve(yard.arena, dash({.speed = 5, .distance = 3}),
                                  {.by = leaning, .toward = AlongDirection{{1, 0, 0}}});
  expect_at(landing_of(pressed), {4, 0, 0}, 1e-3);
  EXPECT_EQ(pressed.ended, Ended::wall);
}

TEST(Dashes, RiseOverWhatIsLowAndComeDownOnTheGround) {
  Yard yard;
  (void)yard.arena.set_ground(-0.5);
  (void)yard.wall("low", {4, 0, 0}, {0.5, 4, 1});
  const Launch at{.by = yard.mara, .toward = AtPlace{{8, 0, 0}}};
  EXPECT_EQ(resolve(yard.arena, dash({.speed = 10}), at).ended, Ended::wall);
  const Outcome over = resolve(yard.arena, dash({.speed = 10, .rise = 2}), at);
  EXPECT_EQ(over.ended, Ended::arrived);
  expect_at(landing_of(over), {8, 0, 0});
  EXPECT_NEAR(over.end_s, 0.8, 1e-9);
  const Outcome below =
      resolve(yard.arena, dash({.speed = 10}), {.by = yard.mara, .toward = AtPlace{{2, 0, -3}}});
  expect_at(landing_of(below), {0, 0, 0}, 2e-3);
}

// Doors are where they are by then.
TEST(Dashes, ADoorThatShutsInTheWayStopsIt) {
  Yard yard;
  Wall door{.id = "door", .shape = Box{{}, {0.25, 2, 2}, {}}, .material = yard.timber};
  door.track = {{0, {{5, 10, 0}, {}}}, {0.5, {{5, 10, 0}, {}}}, {0.500001, {{5, 0, 0}, {}}}};
  (void)*yard.arena.add_wall(door);
  const Launch at{.by = yard.mara, .toward = AtPlace{{9, 0, 0}}};
  EXPECT_EQ(resolve(yard.arena, dash({.speed = 20}), at).ended, Ended::arrived);
  const Outcome slow = resolve(yard.arena, dash({.speed = 5}), at);
  EXPECT_EQ(slow.ended, Ended::wall);
  expect_at(landing_of(slow), {4.25, 0, 0}, 1e-3);
}

// Who dashes into the way of a shot is met where both are by then, whatever the ticks are, and not where it
// would have been. The net plays the same whole, by moves, saved and restored.
TEST(Dashes, EveryMomentKnowsWhereTheyTakeTheirBody) {
  Attack slow{.name = "dart", .delivery = ShotDelivery{.path = StraightPath{.speed = 10}}, .reach = {0, 60}};
  Attack late = dash({.speed = 20, .distance = 6});
  late.windup = Windup{.for_s = 0.5};
  // From (8, -5) at 0.5 s with 20 m/s along y; the dart goes along x.
  for (const int hertz : {10, 60, 144}) {
    Yard other;
    const BodyId runs = other.add(
        {.id = "raider", .faction = other.raiders, .track = {{0, {{8, -6, 0}, {}}}, {2, {{8, -2, 0}, {}}}}});
    Skirmish live(other.arena);
    const AttackId first = *live.add_attack(late), second = *live.add_attack(slow);
    ASSERT_TRUE(live.start(first, {.by = runs, .toward = AlongDirection{{0, 1, 0}}}));
    ASSERT_TRUE(live.start(second, {.by = other.mara, .toward = AlongDirection{{1, 0, 0}}}));
    std::vector<Strike> strikes;
    std::vector<DashView> dashes;
    for (int i = 0; i < hertz; ++i) {
      (void)live.advance(1.0 / hertz, [&](const Strike& s) { strikes.push_back(s); });
      live.dashes(dashes);
      const double t = live.time();
      if (t > 0.5 + 1e-9 && t < 0.8 - 1e-9) {
        ASSERT_EQ(dashes.size(), 1u);
        expect_at(dashes[0].pose.at, {8, -5 + 20 * (t - 0.5), 0});
        EXPECT_EQ(other.arena.body(runs).pose, dashes[0].pose);
        expect_at(dashes[0].velocity, {0, 20, 0});
        EXPECT_NEAR(dashes[0].lands_s, 0.8, 1e-9);
        EXPECT_FALSE(dashes[0].over);
      }
    }
    ASSERT_EQ(strikes.size(), 1u) << hertz;
    // The root of |(8, -5 + 20 (t - 0.5)) - (10 t, 0)| = 0.5.
    const double a = 500, b = -2 * (80 + 20 * 15), c = 64 + 225 - 0.25;
    EXPECT_NEAR(strikes[0].time_s, (-b - std::sqrt(b * b - 4 * a * c)) / (2 * a), 1e-7);
    // It stays where it has landed, whatever its track says.
    expect_at(other.arena.body(runs).pose.at, {8, 1, 0});
    EXPECT_FALSE(other.arena.has_track(runs));
  }
}

TEST(Dashes, EndWhenTheirBodyFallsIsMovedOrDashesAnew) {
  const auto play = [](auto&& meanwhile) {
    Yard yard;
    Skirmish live(yard.arena);
    const AttackId attack = *live.add_attack(dash({.speed = 10, .distance = 8}));
    (void)*live.start(attack, {.by = yard.mara});
    std::vector<ShotEnd> ends;
    for (int i = 0; i < 60; ++i) {
      if (i == 20) meanwhile(yard, live, attack);
      (void)live.advance(
          1.0 / 50, [](const Strike&) {}, [&](const ShotEnd& e) { ends.push_back(e); });
    }
    EXPECT_EQ(live.under_way(), 0u);
    return std::pair(ends, yard.arena.body(yard.mara).pose.at);
  };
  const auto [fell, lies] =
      play([](Yard& y, Skirmish&, AttackId) { (void)y.arena.set_fallen(y.mara, true); });
  ASSERT_EQ(fell.size(), 1u);
  EXPECT_EQ(fell[0].ended, Ended::carrier_fell);
  expect_at(lies, {4, 0, 0}, 1e-6);
  const auto [moved, stands] = play([](Yard& y, Skirmish& live, AttackId) {
    (void)live.move(y.mara, {{0, 3, 0}, {}});
  });
  ASSERT_EQ(moved.size(), 1u);
  EXPECT_EQ(moved[0].ended, Ended::moved);
  EXPECT_NEAR(moved[0].time_s, 0.4, 1e-9);
  expect_at(stands, {0, 3, 0});
  const auto [put, there] = play([](Yard& y, Skirmish&, AttackId) {
    (void)y.arena.move(y.mara, {{0, 5, 0}, {}});
  });
  ASSERT_EQ(put.size(), 1u);
  EXPECT_EQ(put[0].ended, Ended::moved);
  expect_at(there, {0, 5, 0});
  const auto [anew, far] = play([](Yard& y, Skirmish& live, AttackId attack) {
    (void)*live.start(attack, {.by = y.mara, .toward = AlongDirection{{0, 1, 0}}});
  });
  ASSERT_EQ(anew.size(), 2u);
  EXPECT_EQ(anew[0].ended, Ended::moved);
  EXPECT_EQ(anew[1].ended, Ended::arrived);
  expect_at(far, {4, 8, 0}, 1e-6);
  const auto [through, end] = play([](Yard&, Skirmish&, AttackId) {});
  ASSERT_EQ(through.size(), 1u);
  EXPECT_EQ(through[0].ended, Ended::arrived);
  EXPECT_NEAR(through[0].time_s, 0.8, 1e-9);
  expect_at(end, {8, 0, 0});
}

// What hangs on it, what it follows from and what follows from it.
TEST(Dashes, MixWithWhatElseThereIs) {
  Yard yard;
  const BodyId first = yard.raider("first", {4, 0.3, 0}), second = yard.raider("second", {7, 0, 0}),
               third = yard.raider("third", {12, 2.4, 0});
  Attack charge = dash({.speed = 10, .distance = 12});
  charge.cap = 1;
  charge.then = {{.when = Then::When::landing, .attacks = {blast(2)}}};
  const Outcome out = resolve(yard.arena, charge, {.by = yard.mara});
  EXPECT_EQ(out.ended, Ended::arrived) << "the cap is one of strikes, not of the way";
  ASSERT_EQ(out.strikes.size(), 2u);
  EXPECT_EQ(out.strikes[0].body, first);
  EXPECT_EQ(out.strikes[1].body, third);
  EXPECT_NEAR(out.strikes[1].time_s, 1.2, 1e-9);
  EXPECT_EQ(verdict_of(out, second).deciding.reason, Reason::cap);
  // An area that it carries along.
  Attack lamp{.name = "lamp",
              .delivery = AreaDelivery{.shape = BallArea{1},
                                       .around = AreaDelivery::Around::attacker,
                                       .lasts = Lasts{.for_s = 2, .on = Hangs::attacker}}};
  lamp.then = {{.when = Then::When::release, .attacks = {dash({.speed = 10, .distance = 6})}}};
  lamp.then[0].attacks[0].who = {Relation::neutral};
  const Outcome carried = resolve(yard.arena, lamp, {.by = yard.mara});
  ASSERT_EQ(carried.strikes.size(), 2u);
  EXPECT_NEAR(carried.strikes[0].time_s, (4 - std::sqrt(1.5 * 1.5 - 0.09)) / 10, 1e-7);
  EXPECT_NEAR(carried.strikes[1].time_s, (7 - 1.5) / 10.0, 1e-7);
  // A hook on a line: to where the shot struck; a second round goes on from there.
  Attack hook{.name = "hook", .delivery = ShotDelivery{.path = StraightPath{.speed = 50}}, .reach = {0, 60}};
  hook.then = {{.when = Then::When::strike, .attacks = {dash({.speed = 25, .beside = 0.5})}}};
  const BodyId aside = yard.raider("aside", {0, 9, 0});
  const Outcome drawn = resolve(yard.arena, hook, {.by = yard.mara, .toward = aside});
  ASSERT_NE(mark_of(drawn), nullptr);
  expect_at(landing_of(drawn), {0, 7.5, 0}, 1e-6);
}

// However far, often or soon.
TEST(Dashes, KeepWithinTheirBounds) {
  Yard yard;
  yard.raider("raider", {3, 0, 0});
  Attack far = dash({});
  far.reach.far = std::numeric_limits<double>::infinity();
  const Launch ahead{.by = yard.mara, .toward = AlongDirection{{1, 0, 0}}};
  expect_at(landing_of(resolve(yard.arena, far, ahead)), {1e7, 0, 0});
  std::get<DashDelivery>(far.delivery).speed = 0.01;
  const Outcome slow = resolve(yard.arena, far, ahead);
  EXPECT_NEAR(slow.end_s, 3600, 1e-6) << "no longer than anything flies by itself";
  Attack often = dash({.speed = 500, .distance = 0.01});
  often.burst = Burst{.count = 9000, .gap_s = 1e-5};
  const Outcome many = resolve(yard.arena, often, ahead);
  EXPECT_NEAR(static_cast<double>(many.strikes.size()), 400, 5)
      << "each an act of its own that the next one cuts short: from 2 to 4 m";
  Attack nowhere = dash({.speed = 5});
  const Outcome stays = resolve(yard.arena, nowhere, {.by = yard.mara, .toward = AtPlace{{0, 0, 0}}});
  EXPECT_EQ(stays.ended, Ended::arrived);
  EXPECT_EQ(stays.end_s, 0);
}

TEST(Dashes, WhatMeansNothingIsRefused) {
  const auto where = [](const Attack& a) { return check(a).empty() ? "" : check(a)[0].where; };
  EXPECT_EQ(where(dash({})), "");
  EXPECT_EQ(where(dash({.distance = 3, .beside = 1})), "/dash/beside");
  EXPECT_EQ(where(dash({.distance = 0})), "/dash/distance");
  EXPECT_EQ(where(dash({.side = DashDelivery::Side::back})), "/dash/side");
  EXPECT_EQ(where(dash({.rise = 1})), "/dash/rise");
  EXPECT_EQ(where(dash({.speed = 0})), "/dash/speed");
  EXPECT_EQ(where(dash({.speed = NAN})), "/dash/speed");
  Attack seen = dash({});
  seen.sight = Sight();
  EXPECT_EQ(where(seen), "/sight");
  Attack waits = dash({});
  waits.then = {{.when = Then::When::trigger, .attacks = {blast(1)}}};
  EXPECT_EQ(where(waits), "/then/0/when");
  Attack lands = blast(1);
  lands.then = {{.when = Then::When::landing, .attacks = {blast(1)}}};
  EXPECT_EQ(where(lands), "/then/0/when");
  Yard yard;
  Attack nested = blast(1);
  nested.then = {{.when = Then::When::end, .attacks = {dash({})}}};
  const Launch nobody{.toward = AtPlace{{1, 0, 0}}, .from = FromPlace{{}, yard.wardens}};
  EXPECT_EQ(check(yard.arena, nested, nobody)[0].where, "/launch/from");
  const Launch at_place{.by = yard.mara, .toward = AtPlace{{1, 0, 0}}};
  EXPECT_EQ(check(yard.arena, dash({.beside = 1}), at_place)[0].where, "/launch/toward");
}

}  // namespace
}  // namespace dardo::test::dash_test
