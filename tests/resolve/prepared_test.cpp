// Attacks that are made ready once.
#include "dardo/resolve/prepared.hpp"

#include <gtest/gtest.h>

#include "support/allocations.hpp"
#include "support/yard.hpp"

namespace dardo::prepared_test {
namespace {

using test::verdict_of;
using test::Yard;

TEST(Prepared, RefusesWhatTheAttackIsRefusedFor) {
  Yard yard;
  Attack wrong = test::kBolt;
  wrong.reach.far = -1;
  const auto prepared = prepare(yard.arena, wrong);
  ASSERT_FALSE(prepared);
  EXPECT_EQ(prepared.error()[0].where.substr(0, 6), "/reach");
}

TEST(Prepared, KnowsWordsThatComeLater) {
  Yard yard;
  Attack bolt = test::kBolt;
  bolt.needs = {"wet"};
  const auto prepared = prepare(yard.arena, bolt);
  const BodyId dry = yard.raider("dry", {5, 0, 0});
  const BodyId wet =
      yard.add({.id = "wet", .faction = yard.raiders, .pose = {{9, 0, 0}, {}}, .tags = {"wet"}});
  Outcome out;
  resolve(yard.arena, *prepared, {.by = yard.mara, .toward = AlongDirection{{1, 0, 0}}}, {}, out);
  EXPECT_EQ(verdict_of(out, dry).deciding.reason, Reason::tag_missing);
  EXPECT_TRUE(verdict_of(out, wet).struck);
}

TEST(Prepared, AnyNumberOfWords) {
  // More than fit into one block of a set: each body has the tags of its number's bits, written out.
  Yard yard;
  constexpr int kWords = 200;
  std::vector<BodyId> bodies;
  const auto word = [](int i) { return "tag-" + std::to_string(i); };
  for (int i = 0; i < kWords; ++i) {
    Body body{.id = "raider-" + std::to_string(i), .faction = yard.raiders, .pose = {{2.0 + i, 0, 0}, {}}};
    body.tags = {word(i), word((i + 1) % kWords)};
    if (i % 3 == 0) body.immune = {word(i)};
    bodies.push_back(yard.add(std::move(body)));
  }
  for (int i = 0; i < kWords; i += 7) {
    Attack blast = test::blast(1000);
    blast.needs = {word(i)}, blast.tags = {word(i)};
    if (i % 2 == 0) blast.forbids = {word((i + 1) % kWords)};
    const Outcome out = resolve(yard.arena, blast, {.by = yard.mara, .toward = AtPlace{{0, 0, 0}}});
    for (int k = 0; k < kWords; ++k) {
      const bool has = k == i || (k + 1) % kWords == i, immune = k == i && i % 3 == 0,
                 spared = i % 2 == 0 && (k == i || k == (i + 1) % kWords);
      EXPECT_EQ(verdict_of(out, bodies[static_cast<std::size_t>(k)]).struck, has && !immune && !spared)
          << i << ' ' << k;
    }
  }
}

TEST(Prepared, StrikesOnlyAllocatesNothingInASteadyState) {
  Yard yard;
  for (int i = 0; i < 40; ++i)
    yard.raider("raider-" + std::to_string(i), {3.0 + 2 * (i % 8), 2.0 * (i / 8) - 4, 0});
  yard.wall("wall", {25, 0, 0}, {1, 30, 4});
  ShotDelivery delivery;
  delivery.pierce.bodies = 5, delivery.ricochet.count = 3, delivery.volley.count = 4,
  delivery.volley.gap_s = 0.1;
  Attack volley{.name = "volley", .delivery = delivery};
  volley.then = {{.when = Then::When::strike, .attacks = {test::blast(3)}},
                 {.when = Then::When::end, .attacks = {test::kBolt}}};
  Attack swarm{.name = "swarm", .delivery = ShotDelivery{.path = GuidedPath{}}};
  for (const Attack& attack : {volley, test::kBolt, test::blast(12), swarm}) {
    const PreparedAttack prepared = *prepare(yard.arena, attack);
    const Launch launch{.by = yard.mara, .toward = AtBody{*yard.arena.find_body("raider-12")}};
    const ResolveOptions options{.detail = Detail::strikes};
    Outcome out;
    for (int i = 0; i < 3; ++i) resolve(yard.arena, prepared, launch, options, out);
    EXPECT_FALSE(out.strikes.empty()) << attack.name;
    const std::size_t before = test::allocations();
    for (int i = 0; i < 20; ++i) resolve(yard.arena, prepared, launch, options, out);
    EXPECT_EQ(test::allocations(), before) << attack.name;
  }
}

}  // namespace
}  // namespace dardo::prepared_test
