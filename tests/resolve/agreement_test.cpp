// Random arenas: the strikes, the verdicts and a plain loop must say the same.
#include <gtest/gtest.h>

#include <algorithm>

#include "support/effort.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::agreement_test {
namespace {

using test::Random;
using test::Yard;

struct Case {
  Yard yard;
  Attack attack;
  Launch launch;
};

Case make_case(std::uint64_t seed) {
  Case c;
  Random random(seed);
  std::vector<BuildId> builds;
  for (int i = 0; i < 4; ++i) {
    Build b{.name = "build-" + std::to_string(i)};
    for (int k = random.whole(1, 3); k > 0; --k) {
      b.hitboxes.push_back({"zone-" + std::to_string(k), random.shape(0.8), random.range(0, 3)});
    }
    if (random.chance(0.5)) b.muzzles.push_back({"m", random.place(1)});
    if (random.chance(0.3)) b.tags.push_back("wet");
    builds.push_back(*c.yard.arena.add_build(std::move(b)));
  }
  for (int i = random.whole(0, 40); i > 0; --i) {
    const FactionId factions[] = {c.yard.wardens, c.yard.raiders, c.yard.passengers};
    c.yard.add({.id = "b" + std::to_string(i),
                .build = builds[static_cast<std::size_t>(random.whole(0, 3))],
                .faction = factions[random.whole(0, 2)],
                .pose = {random.place(12), random.rotation()},
                .fallen = random.chance(0.1)});
  }
  for (int i = random.whole(0, 6); i > 0; --i) {
    c.yard.wall("w" + std::to_string(i), random.place(10), abs(random.place(4)),
                random.chance(0.5) ? c.yard.timber : c.yard.glass);
  }
  Attack& a = c.attack;
  a.reach = {random.chance(0.3) ? random.range(0, 4) : 0, random.range(4, 20)};
  for (const Relation r : {Relation::friendly, Relation::neutral, Relation::self}) {
    if (random.chance(0.25)) a.who.add(r);
  }
  if (random.chance(0.2)) a.needs = {"wet"};
  a.zone = random.chance(0.5) ? ZoneRule::best : ZoneRule::first;
  c.launch = {.by = c.yard.mara, .toward = AlongDirection{random.direction()}};
  if (random.chance(0.5)) {
    a.delivery = RayDelivery{};
    if (random.chance(0.3)) a.stopped_by = {Relation::friendly, Relation::neutral};
  } else {
    a.delivery = AreaDelivery{.shape = BallArea{random.range(0, 12)}};
    a.reach.near = 0;
    if (random.chance(0.5)) a.sight = random.chance(0.5) ? Passage::sight : Passage::blasts;
    if (random.chance(0.5)) a.cap = static_cast<std::uint32_t>(random.whole(1, 5));
    c.launch.toward = AtPlace{random.place(6)};
  }
  return c;
}

TEST(Agreement, StrikesVerdictsIndexAndLoop) {
  std::size_t strikes = 0;
  for (std::uint64_t seed = 1; seed <= test::effort<std::uint64_t>(3000); ++seed) {
    SCOPED_TRACE(seed);
    Case c = make_case(seed);
    Arena& arena = c.yard.arena;
    ASSERT_TRUE(check(arena, c.attack, c.launch).empty());
    // Before the update every body and wall is looked at one by one: the plain loop.
    const Outcome loop = resolve(arena, c.attack, c.launch, Detail::full);
    arena.update();
    const Outcome tree = resolve(arena, c.attack, c.launch, Detail::full);
    ASSERT_EQ(loop, tree);

    ASSERT_EQ(tree.verdicts.size(), arena.body_count());
    std::vector<BodyId> judged;
    for (const Verdict& v : tree.verdicts) {
      judged.push_back(v.body);
      const bool struck = std::any_of(tree.strikes.begin(), tree.strikes.end(),
                                      [&](const Strike& s) { return s.body == v.body; });
      ASSERT_EQ(v.struck, struck);
      ASSERT_EQ(v.struck, v.deciding.reason == Reason::none);
      const bool all_pass = std::all_of(v.gates.begin(), v.gates.end(),
                                        [](const Reading& r) { return r.reason == Reason::none; });
      ASSERT_EQ(v.struck, all_pass) << arena.body(v.body).id << " " << explain(v, arena);
      if (v.deciding.margin) ASSERT_GE(*v.deciding.margin, 0);
    }
    ASSERT_EQ(judged, arena.bodies());
    for (std::size_t i = 1; i < tree.strikes.size(); ++i) {
      ASSERT_LE(tree.strikes[i - 1].distance, tree.strikes[i].distance);
    }
    strikes += tree.strikes.size();
  }
  EXPECT_GT(strikes, test::effort(1000u));
}

TEST(Agreement, OneLaunchLeavesNothingBehindForTheNext) {
  Case c = make_case(7);
  c.yard.arena.update();
  const Outcome first = resolve(c.yard.arena, c.attack, c.launch, Detail::full);
  for (std::uint64_t seed = 1; seed < 20; ++seed) {
    const Case other = make_case(seed);
    (void)resolve(c.yard.arena, other.attack, c.launch);
  }
  EXPECT_EQ(first, resolve(c.yard.arena, c.attack, c.launch, Detail::full));
}

}  // namespace
}  // namespace dardo::agreement_test
