#include "dardo/batch/resolve_all.hpp"

#include <gtest/gtest.h>

#include <algorithm>

#include "support/effort.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::resolve_all_test {
namespace {

TEST(ResolveAll, IsToTheBitWhatResolveSaysForAnyThreadsAndOrder) {
  test::Yard yard;
  test::Random random(61);
  for (int i = 0; i < test::effort(300); ++i) {
    Body body{.id = "raider-" + std::to_string(i), .faction = yard.raiders, .pose = {random.place(40), {}}};
    if (i % 3 == 0) body.track = {{0, body.pose}, {3, {random.place(40), {}}}};
    yard.add(std::move(body));
  }
  for (int i = 0; i < 40; ++i)
    yard.wall("wall-" + std::to_string(i), random.place(40), abs(random.place(4)) + Vec3{0.1, 0.1, 0.1});
  yard.arena.update();
  Attack bolt = test::kBolt, blast = test::blast(8),
         stone{.name = "stone", .delivery = ShotDelivery{.path = FallingPath{.speed = 25}}};
  std::get<ShotDelivery>(stone.delivery).ricochet.count = 3;
  std::get<ShotDelivery>(stone.delivery).volley = {.count = 3, .spread = Volley::Spread::gauss, .angle = 0.1};
  stone.then.push_back({.when = Then::When::end, .attacks = {test::blast(3)}});
  std::vector<BatchLaunch> launches;
  for (std::uint64_t i = 0; i < 400; ++i) {
    const Attack* attack = i % 3 == 0 ? &bolt : i % 3 == 1 ? &blast : &stone;
    launches.push_back({attack, {.by = yard.mara, .toward = AtPlace{random.place(20)}, .seed = i}});
  }
  std::vector<Outcome> alone;
  for (const BatchLaunch& l : launches) alone.push_back(resolve(yard.arena, *l.attack, l.launch));
  for (const int threads : {1, 2, 8, 0})
    EXPECT_EQ(resolve_all(yard.arena, launches, {.threads = threads}), alone) << threads;
  std::reverse(launches.begin(), launches.end());
  std::reverse(alone.begin(), alone.end());
  EXPECT_EQ(resolve_all(yard.arena, launches, {.threads = 2}), alone);
  EXPECT_TRUE(resolve_all(yard.arena, {}, {.threads = 2}).empty());
}

// Of all launches and of one: each as if it were asked for alone.
TEST(ResolveAll, ShotsUnderWayAreThoseOfAllAndOfTheLaunch) {
  test::Yard yard;
  const BodyId raider = yard.raider("raider", {20, 0, 0});
  const Attack dart{
      .name = "dart",
      .delivery = ShotDelivery{.path = StraightPath{.speed = 10}, .radius = 0.05, .vulnerable = 0.3},
      .reach = {0, 200}};
  const UnderWay first[] = {{dart, {.by = raider, .toward = yard.mara}, 0.5}},
                 second[] = {{dart, {.by = raider, .toward = yard.mara}, 1}};
  const Attack blast = test::blast(100);
  const Launch launch{.by = yard.mara, .toward = AtPlace{{10, 0, 0}}};
  const BatchLaunch launches[] = {{&blast, launch, {}}, {&blast, launch, second}};
  const auto out = resolve_all(yard.arena, launches, {.under_way = first, .threads = 2});
  const UnderWay both[] = {first[0], second[0]};
  EXPECT_EQ(out[0], resolve(yard.arena, blast, launch, {.under_way = first}));
  EXPECT_EQ(out[1], resolve(yard.arena, blast, launch, {.under_way = both}));
  EXPECT_EQ(out[0].downed.size(), 1u);
  EXPECT_EQ(out[1].downed.size(), 2u);
}

}  // namespace
}  // namespace dardo::resolve_all_test
