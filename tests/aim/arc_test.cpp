#include "dardo/aim/arc.hpp"

#include <gtest/gtest.h>

#include <chrono>
#include <numbers>

#include "dardo/resolve/aimed.hpp"
#include "dardo/resolve/resolve.hpp"
#include "support/effort.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::arc_test {
namespace {

const Vec3 kDown{0, 0, -9.81};

/// Where something is that flies off so.
Vec3 flown(const Vec3& from, const Arc& arc, const Vec3& gravity) {
  return from + arc.velocity * arc.time_s + gravity * (0.5 * arc.time_s * arc.time_s);
}

TEST(Arcs, FlyToTheTargetAtTheSpeedGiven) {
  test::Random random(51);
  int both = 0, none = 0;
  for (int i = 0; i < 2000; ++i) {
    const Vec3 from = random.place(10);
    const Target target{random.place(60), random.chance(0.5) ? Vec3{} : random.place(8)};
    const double speed = random.range(5, 40);
    for (const Vec3& gravity : {kDown, Vec3{}, Vec3{3, 0, -5}}) {
      const Arcs found = arcs(from, target, speed, gravity);
      for (const Arc& a : found) {
        EXPECT_NEAR(length(a.velocity), speed, 1e-7 * speed);
        EXPECT_LT(length(flown(from, a, gravity) - (target.at + target.velocity * a.time_s)), 1e-6);
      }
      if (found.count == 2) EXPECT_LT(found.arc[0].time_s, found.arc[1].time_s);
      both += found.count == 2, none += found.count == 0;
      // With as much more speed as it says, and not with a little less, there is a way.
      if (found.count == 0 && gravity == kDown) {
        EXPECT_GT(found.more_speed, 0);
        EXPECT_GT(arcs(from, target, speed + found.more_speed * 1.0001 + 1e-6, gravity).count, 0u);
        EXPECT_EQ(arcs(from, target, speed + found.more_speed * 0.999, gravity).count, 0u) << i;
      }
    }
  }
  EXPECT_GT(both, 500);
  EXPECT_GT(none, 100);
}

TEST(Arcs, ClosedForms) {
  // 45 degrees carry speed²/g on the level.
  const double speed = std::sqrt(9.81 * 20);
  const Arc least = least_speed_arc({0, 0, 0}, {{20, 0, 0}, {}}, kDown);
  EXPECT_NEAR(length(least.velocity), speed, 1e-12);
  EXPECT_NEAR(least.velocity.x, least.velocity.z, 1e-12);
  EXPECT_NEAR(least_speed_arc({0, 0, 0}, {{0, 0, 5}, {}}, kDown).velocity.z, std::sqrt(2 * 9.81 * 5), 1e-12);
  const Arcs low_and_high = arcs({0, 0, 0}, {{10, 0, 0}, {}}, speed, kDown);
  ASSERT_EQ(low_and_high.count, 2u);  // sin 2e = 1/2
  EXPECT_NEAR(std::atan2(low_and_high.arc[0].velocity.z, low_and_high.arc[0].velocity.x),
              std::numbers::pi / 12, 1e-12);
  EXPECT_NEAR(std::atan2(low_and_high.arc[1].velocity.z, low_and_high.arc[1].velocity.x),
              5 * std::numbers::pi / 12, 1e-12);
  const Arcs crossing = lead({0, 0, 0}, {{3, 0, 0}, {0, 4, 0}}, 5);
  ASSERT_EQ(crossing.count, 1u);  // 3, 4, 5 after a second
  EXPECT_NEAR(crossing.arc[0].time_s, 1, 1e-12);
  EXPECT_EQ(lead({0, 0, 0}, {{3, 0, 0}, {6, 0, 0}}, 5).count, 0u) << "it runs away";
  const auto over = arc_over({0, 0, 0}, {{8, 0, 2}, {}}, kDown, 3);
  ASSERT_TRUE(over);
  EXPECT_NEAR(over->velocity.z, std::sqrt(2 * 9.81 * 5), 1e-12);
  EXPECT_LT(length(flown({0, 0, 0}, *over, kDown) - Vec3{8, 0, 2}), 1e-12);
  const auto steep = arc_at({0, 0, 0}, {10, 0, 1}, kDown, 1);
  ASSERT_TRUE(steep);
  EXPECT_NEAR(std::atan2(steep->velocity.z, steep->velocity.x), 1, 1e-12);
  EXPECT_FALSE(arc_at({0, 0, 0}, {1, 0, 10}, kDown, 0.5)) << "too steep to be seen over";
  EXPECT_NEAR(arc_in({0, 0, 0}, {{4, 0, 0}, {}}, kDown, 2).velocity.z, 9.81, 1e-12);
}

Attack shot(ShotPath path) {
  ShotDelivery delivery;
  delivery.path = std::move(path);
  return {.name = "shot", .delivery = delivery, .reach = {0, 500}};
}

TEST(Aim, EveryPathMeetsAMovingTarget) {
  test::Random random(52);
  const std::vector<std::pair<ShotPath, double>> paths{
      {StraightPath{.speed = 25}, 1e-6},
      {StraightPath{.speed = 10, .acceleration = 20, .top_speed = 40}, 1e-3},
      {FallingPath{.speed = 22}, 1e-6},
      {FallingPath{.speed = 30, .drag = 0.01}, 1e-3},
      {GuidedPath{.speed = 20, .turn_rate = 3, .lead = true}, 1e-3},
      {GuidedPath{.speed = 20, .turn_rate = 3}, 0.5},
      {LobPath{.flight_time_s = 2}, 1e-6},
      {LobPath{.apex = 5}, 1e-6},
      {LobPath{.flight_time_s = 2, .follows = true}, 1e-6},
  };
  for (int i = 0; i < test::effort(12); ++i) {
    test::Yard yard;
    const Vec3 at{random.range(8, 25), random.range(-10, 10), random.range(-2, 2)};
    const Vec3 velocity{random.range(-3, 3), random.range(-3, 3), 0};
    const BodyId raider = yard.add(
        {.id = "raider", .faction = yard.raiders, .track = {{0, {at, {}}}, {20, {at + velocity * 20, {}}}}});
    for (std::size_t k = 0; k < paths.size(); ++k) {
      const AimReport report =
          aim(yard.arena, shot(paths[k].first), {.by = yard.mara, .toward = AtBody{raider, {}}});
      ASSERT_FALSE(report.ways.empty()) << i << " path " << k << " " << report.problem;
      for (const Aimed& way : report.ways) EXPECT_LE(way.off, paths[k].second) << i << " path " << k;
      ASSERT_NE(report.best(), nullptr);
    }
    // Launched so, it strikes.
    for (const ShotPath& path : {paths[0].first, paths[2].first, paths[3].first}) {
      for (const Aiming how : {Aiming::lead, Aiming::high}) {
        if (how == Aiming::high && !std::holds_alternative<FallingPath>(path)) continue;
        const Outcome out =
            resolve(yard.arena, shot(path), {.by = yard.mara, .toward = AtBody{raider, {}}, .aim = how});
        ASSERT_EQ(out.strikes.size(), 1u) << i;
      }
    }
  }
}

TEST(Aim, SaysWhatIsMissingAndOffersTheOtherArc) {
  test::Yard yard;
  const BodyId far = yard.raider("far", {60, 0, 0});
  const AimReport none =
      aim(yard.arena, shot(FallingPath{.speed = 20}), {.by = yard.mara, .toward = AtBody{far, {}}});
  EXPECT_TRUE(none.ways.empty());
  EXPECT_EQ(none.problem, "needs 4.26 m/s more");
  const BodyId near = yard.raider("near", {20, 0, 0});
  yard.wall("mast", {10, 0, 1}, {0.5, 3, 6});
  const AimReport report =
      aim(yard.arena, shot(FallingPath{.speed = 20}), {.by = yard.mara, .toward = AtBody{near, {}}});
  ASSERT_EQ(report.ways.size(), 2u);
  ASSERT_TRUE(report.ways[0].blocked_by);
  EXPECT_EQ(yard.arena.wall(*report.ways[0].blocked_by).id, "mast");
  EXPECT_NEAR(report.ways[0].blocked_at.x, 9.75, 1e-6);
  ASSERT_EQ(report.best(), &report.ways[1]);
  EXPECT_TRUE(report.best()->high);
  EXPECT_EQ(lob_beyond(yard.arena, {.by = yard.mara, .toward = AtBody{near, {}}}, 15), Aiming::high);
  EXPECT_EQ(lob_beyond(yard.arena, {.by = yard.mara, .toward = AtBody{near, {}}}, 25), Aiming::lead);
}

}  // namespace

// Slowed within a hand's breadth, then falling for an hour: no flight of a hundred may be flown to its end.
TEST(Aim, ASearchHasABound) {
  test::Yard yard;
  const Launch launch{.by = yard.mara, .toward = AtBody{yard.raider("far", {40000, 0, 0}), {}}};
  for (const double drag : {1.0, 30.0}) {
    for (const ShotPath& path : {ShotPath{FallingPath{.speed = 90, .drag = drag}},
                                 ShotPath{GuidedPath{.speed = 2, .turn_rate = 1, .lead = true}}}) {
      Attack long_lived = shot(path);
      std::get<ShotDelivery>(long_lived.delivery).life_s = 3600;
      const auto start = std::chrono::steady_clock::now();
      EXPECT_TRUE(aim(yard.arena, long_lived, launch).ways.empty());
      (void)least_speed(yard.arena, long_lived, launch);
      EXPECT_LT(std::chrono::steady_clock::now() - start, std::chrono::seconds(60));
    }
  }
}

}  // namespace dardo::arc_test
