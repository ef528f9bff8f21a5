// Every launch ends: by itself, or at a limit, which is told.
#include <gtest/gtest.h>

#include <algorithm>
#include <string>

#include "resolve/work.hpp"
#include "support/yard.hpp"

namespace dardo::limits_test {
namespace {

using test::Yard;
const Vec3 kX{1, 0, 0};

Attack shots(double life, std::uint32_t count, std::vector<Then> then = {}) {
  ShotDelivery delivery{.path = StraightPath{.speed = 10}, .radius = 0.01, .life_s = life};
  delivery.volley = {.count = count, .spread = Volley::Spread::fan, .angle = 0.5};
  return {.name = "shots", .delivery = delivery, .reach = {0, 1e6}, .then = std::move(then)};
}
ShotDelivery& delivery(Attack& attack) { return std::get<ShotDelivery>(attack.delivery); }

Attack nested(int deep, std::uint32_t count) {
  if (deep == 0) return shots(0.1, count);
  return shots(0.1, count, {{.when = Then::When::end, .distance = 0, .attacks = {nested(deep - 1, count)}}});
}

bool met(const Outcome& out, Limit limit) {
  return std::any_of(out.limits_met.begin(), out.limits_met.end(),
                     [&](const LimitMet& m) { return m.limit == limit; });
}

TEST(Limits, VolleysOfVolleysBeginOnlySoMany) {
  Yard yard;
  const Launch launch{.by = yard.mara, .toward = AlongDirection{kX}};
  const Outcome deep = resolve(yard.arena, nested(7, 7), launch);
  ASSERT_EQ(deep.limits_met.size(), 1u);
  EXPECT_EQ(deep.limits_met[0].limit, Limit::carriers);
  EXPECT_EQ(deep.limits_met[0].most, 10'000);
  EXPECT_NEAR(deep.limits_met[0].time_s, 0.4, 1e-6) << "7 + 49 + 343 + 2401 fit, 16807 do not";
  EXPECT_TRUE(met(resolve(yard.arena, nested(1, 10'000), launch), Limit::carriers));
  const Outcome few = resolve(yard.arena, nested(2, 3), launch);
  EXPECT_TRUE(few.limits_met.empty());
  const Outcome shallow = resolve(yard.arena, nested(2, 3), launch, {.limits = Limits{.depth = 1}});
  ASSERT_TRUE(met(shallow, Limit::depth));
  const auto flights = [](const Outcome& out) {
    return std::count_if(out.marks.begin(), out.marks.end(),
                         [](const Mark& m) { return std::holds_alternative<FlightMark>(m); });
  };
  EXPECT_EQ(flights(few), 3 + 9 + 27);
  EXPECT_EQ(flights(shallow), 3 + 9);
}

TEST(Limits, OfThoseInFlightThereAreNoMoreAtOnce) {
  Yard yard;
  const Launch launch{.by = yard.mara, .toward = AlongDirection{kX}};
  // Three fly; where the first ends, those that follow from it find one place, then those of the others.
  const Outcome out = resolve(yard.arena, nested(2, 3), launch, {.limits = Limits{.alive = 3}});
  ASSERT_EQ(out.limits_met.size(), 1u);
  EXPECT_EQ(out.limits_met[0].limit, Limit::alive);
  EXPECT_EQ(out.limits_met[0].most, 3);
  std::vector<std::pair<double, int>> changes;
  for (const Mark& m : out.marks) {
    if (const auto* way = std::get_if<FlightMark>(&m))
      changes.push_back({way->times.front() + 1e-6, 1}), changes.push_back({way->times.back() - 1e-6, -1});
  }
  std::sort(changes.begin(), changes.end());
  int alive = 0, most = 0;
  for (const auto& [time, change] : changes) most = std::max(most, alive += change);
  EXPECT_EQ(most, 3);
  EXPECT_EQ(changes.size() / 2, 9u) << "three at a time, in three generations";
}

TEST(Limits, MoreThanSurelyBeginsIsDoubted) {
  Yard yard;
  EXPECT_TRUE(doubts(yard.arena, nested(2, 3)).empty());
  const Problems many = doubts(yard.arena, nested(7, 7));
  ASSERT_EQ(many.size(), 1u);
  EXPECT_EQ(many[0].what,
            "begins 6725600 shots, rays and areas, more than its limit of 10000: no more begin");
  EXPECT_EQ(doubts(yard.arena, nested(2, 3), {}, {.carriers = 38}).size(), 1u) << "3 + 9 + 27";
  EXPECT_TRUE(doubts(yard.arena, nested(2, 3), {}, {.carriers = 39}).empty());
}

TEST(Limits, AShotBetweenTwoWallsEndsAtItsContacts) {
  Yard yard;
  yard.wall("left", {-0.62, 0, 0}, {0.2, 4, 4}), yard.wall("right", {0.62, 0, 0}, {0.2, 4, 4});
  Attack pinball = shots(3600, 1);
  delivery(pinball).ricochet.count = 1'000'000;
  const Outcome out = resolve(yard.arena, pinball, {.by = yard.mara, .toward = AlongDirection{kX}},
                              {.limits = Limits{.contacts = 500}});
  EXPECT_EQ(out.ended, Ended::limit);
  ASSERT_TRUE(met(out, Limit::contacts));
  EXPECT_NEAR(out.end_s, (0.51 + 500 * 1.02) / 10, 1e-6);
  EXPECT_EQ(out.limits_met[0].time_s, out.end_s);
}

TEST(Limits, WhoIsStruckOverAndOverIsStruckOnlySoOften) {
  Yard yard;
  yard.raider("raider", {6, 0, 0});
  Attack slow = shots(60, 1);
  std::get<StraightPath>(delivery(slow).path).speed = 0.5;
  delivery(slow).pierce.bodies = 1'000'000, delivery(slow).again_after_s = 1e-3;
  const Outcome out = resolve(yard.arena, slow, {.by = yard.mara, .toward = AlongDirection{kX}},
                              {.limits = Limits{.strikes = 100}});
  EXPECT_EQ(out.strikes.size(), 100u);
  EXPECT_EQ(out.ended, Ended::limit);
  EXPECT_TRUE(met(out, Limit::strikes));
}

TEST(Limits, AnAreaStrikesNoMoreThanAreLeft) {
  Yard yard;
  for (int i = 0; i < 9; ++i) yard.raider("raider-" + std::to_string(i), {6.0 + 0.1 * i, 0, 0});
  Attack flare = shots(60, 1, {{.when = Then::When::strike, .distance = 0, .attacks = {test::blast(5)}}});
  const Outcome out = resolve(yard.arena, flare, {.by = yard.mara, .toward = AlongDirection{kX}},
                              {.limits = Limits{.strikes = 4}});
  EXPECT_EQ(out.strikes.size(), 4u) << "one by the shot";
  std::size_t left_out = 0;
  for (const Verdict& v : out.verdicts) left_out += v.deciding.reason == Reason::limit;
  EXPECT_EQ(left_out, 9u - 3u) << "the one that the shot has struck is struck by the blast, too";
  EXPECT_TRUE(met(out, Limit::strikes));
}

TEST(Limits, AFlightEndsInTime) {
  Yard yard;
  const Outcome out = resolve(yard.arena, shots(1e6, 1), {.by = yard.mara, .toward = AlongDirection{kX}},
                              {.limits = Limits{.flight_s = 2}});
  EXPECT_EQ(out.ended, Ended::limit);
  EXPECT_EQ(out.end_s, 2);
  EXPECT_TRUE(met(out, Limit::flight));
  const Outcome own = resolve(yard.arena, shots(2, 1), {.by = yard.mara, .toward = AlongDirection{kX}},
                              {.limits = Limits{.flight_s = 2}});
  EXPECT_EQ(own.ended, Ended::life);
  EXPECT_TRUE(own.limits_met.empty());
}

TEST(Limits, OutOfRangeTheyAreRefused) {
  Yard yard;
  const Outcome out = resolve(yard.arena, shots(1, 1), {.by = yard.mara, .toward = AlongDirection{kX}},
                              {.limits = Limits{.carriers = 0, .flight_s = -1}});
  ASSERT_EQ(out.problems.size(), 2u);
  EXPECT_EQ(out.problems[0].where, "/limits/carriers");
  EXPECT_EQ(out.problems[1].where, "/limits/flight");
  Skirmish live(yard.arena);
  EXPECT_EQ(live.set_limits({.contacts = 0}).size(), 1u);
  EXPECT_TRUE(live.set_limits({.contacts = 1}).empty());
}

TEST(Limits, ARunningGameHearsOfThemOnceALaunch) {
  Yard yard;
  Skirmish live(yard.arena);
  ASSERT_TRUE(live.set_limits({.carriers = 20}).empty());
  const AttackId attack = *live.add_attack(nested(3, 3));
  for (int i = 0; i < 2; ++i) (void)live.start(attack, {.by = yard.mara, .toward = AlongDirection{kX}});
  std::vector<LimitMet> heard;
  for (int tick = 0; tick < 60; ++tick) {
    (void)live.advance(
        1.0 / 60, [](const Strike&) {}, [](const ShotEnd&) {},
        [&](const LimitMet& m) { heard.push_back(m); });
  }
  ASSERT_EQ(heard.size(), 2u);
  for (std::uint32_t i = 0; i < 2; ++i) {
    EXPECT_EQ(heard[i].launch, i);
    EXPECT_EQ(heard[i].limit, Limit::carriers);
    EXPECT_NEAR(heard[i].time_s, 0.2, 1e-6) << "3 + 9 fit, 27 do not";
  }
  EXPECT_EQ(explain(heard[0]), "its limit of 20 carriers was met after 0.20 s: no more begin");
}

/// Looks of a whole resolution.
std::uint64_t looks(const Arena& arena, const Attack& attack, const Launch& launch) {
  const std::uint64_t before = detail::work().looks;
  (void)resolve(arena, attack, launch, Detail::strikes);
  return detail::work().looks - before;
}

TEST(Limits, ASecondOfBouncingCostsWhatTheFirstDid) {
  Yard yard;
  (void)yard.arena.set_ground(-1);
  const auto bouncing = [](double life) {
    Attack stone = shots(life, 1);
    delivery(stone).path = FallingPath{.speed = 5}, delivery(stone).ricochet.count = 1'000'000;
    return stone;
  };
  const Launch launch{.by = yard.mara, .toward = AlongDirection{{0, 1, 1}}};
  const double few = static_cast<double>(looks(yard.arena, bouncing(30), launch)),
               many = static_cast<double>(looks(yard.arena, bouncing(300), launch));
  EXPECT_LT(many, 11 * few);
}

TEST(Limits, WhatIsSlowTakesNoMorePieces) {
  Yard yard;
  yard.raider("raider", {20, 0, 0});
  const auto pieces = [&](double speed) {
    Attack curve = shots(20 / speed, 1);
    delivery(curve).path = CurvePath{.speed = speed};
    const std::uint64_t before = detail::work().pieces;
    EXPECT_EQ(resolve(yard.arena, curve, {.by = yard.mara, .toward = AtPlace{{20, 0, 0}}}, Detail::strikes)
                  .strikes.size(),
              1u);
    return detail::work().pieces - before;
  };
  EXPECT_LT(pieces(0.01), 2000u);
  EXPECT_LT(pieces(25), 200u);
}

}  // namespace
}  // namespace dardo::limits_test
