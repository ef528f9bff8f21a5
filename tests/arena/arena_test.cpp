#include "dardo/arena/arena.hpp"

#include <gtest/gtest.h>

#include <limits>

namespace dardo::arena_test {
namespace {

struct Harbour {
  Arena arena;
  FactionId wardens = *arena.add_faction("wardens"), raiders = *arena.add_faction("raiders");
  BuildId post =
      *arena.add_build({.name = "post", .hitboxes = {{"all", Ball{{0, 0, 1}, 0.5}}}, .tags = {"wooden"}});
  MaterialId timber = *arena.add_material({.name = "timber"});

  BodyId add(const char* id, Vec3 at) {
    return *arena.add_body({.id = id, .build = post, .faction = raiders, .pose = {at, {}}});
  }
  std::vector<BodyId> around(const Vec3& at) const {
    std::vector<BodyId> out;
    arena.bodies_touching(Bounds{at, at}.grown(1), [&](BodyId b) { out.push_back(b); });
    return out;
  }
};

TEST(Arena, AnswersAreRightBeforeAndAfterUpdate) {
  Harbour h;
  const BodyId a = h.add("a", {0, 0, 0});
  for (int pass = 0; pass < 2; ++pass) {
    EXPECT_EQ(h.around({0, 0, 1}), std::vector{a}) << pass;
    h.arena.update();
  }
  ASSERT_TRUE(h.arena.move(a, {{50, 0, 0}, {}}).empty());
  for (int pass = 0; pass < 2; ++pass) {
    EXPECT_EQ(h.around({50, 0, 1}), std::vector{a}) << pass;
    if (pass == 1) EXPECT_TRUE(h.around({0, 0, 1}).empty());
    h.arena.update();
  }
}

TEST(Arena, HandlesOfTheRemovedAreRecognised) {
  Harbour h;
  const BodyId a = h.add("a", {0, 0, 0}), b = h.add("b", {5, 0, 0});
  h.arena.update();
  ASSERT_TRUE(h.arena.remove(a));
  EXPECT_FALSE(h.arena.remove(a));
  EXPECT_FALSE(h.arena.has(a));
  EXPECT_FALSE(h.arena.set_fallen(a, true));
  EXPECT_EQ(h.arena.move(a, {}).size(), 1u);
  EXPECT_FALSE(h.arena.find_body("a"));
  const BodyId again = h.add("a", {0, 0, 0});
  EXPECT_EQ(again.index, a.index) << "the place is given away again";
  EXPECT_FALSE(h.arena.has(a)) << "but the old handle does not mean the new tenant";
  EXPECT_EQ(h.around({0, 0, 1}), std::vector{again})
      << "found once, not by its old entry in the index as well";
  EXPECT_EQ(h.arena.bodies(), (std::vector{b, again})) << "in order of creation";
  EXPECT_LT(h.arena.order(b), h.arena.order(again));
}

TEST(Arena, RefusesWhatIsWrongWithAllProblemsAtOnce) {
  Harbour h;
  h.add("a", {0, 0, 0});
  const double inf = std::numeric_limits<double>::infinity();
  const auto body = h.arena.add_body({.id = "a", .build = {77, 0}, .faction = {}, .pose = {{inf, 0, 0}, {}}});
  ASSERT_FALSE(body);
  EXPECT_EQ(body.error().size(), 4u);
  const auto build = h.arena.add_build(
      {.name = "", .hitboxes = {{"x", Ball{{0, 0, 0}, -1}, NAN}}, .muzzles = {{"m", {}}, {"m", {}}}});
  ASSERT_FALSE(build);
  EXPECT_EQ(build.error().size(), 4u) << "radius, factor, muzzle twice, no name";
  EXPECT_FALSE(h.arena.add_build({.name = "bare"})) << "no hitboxes";
  EXPECT_FALSE(h.arena.add_faction("wardens"));
  EXPECT_FALSE(h.arena.add_material({.name = "timber"}));
  EXPECT_FALSE(h.arena.add_wall({.id = "w", .shape = Box{{0, 0, 0}, {-1, 1, 1}, {}}, .material = h.timber}));
  EXPECT_FALSE(h.arena.add_wall({.id = "w", .shape = Box{{0, 0, 0}, {1, 1, 1}, {}}, .material = {99, 0}}));
  EXPECT_EQ(h.arena.move(*h.arena.find_body("a"), {{NAN, 0, 0}, {}}).size(), 1u);
  EXPECT_EQ(h.arena.body(*h.arena.find_body("a")).pose.at, Vec3{}) << "and stays where it was";
  EXPECT_EQ(h.arena.body_count(), 1u);
}

TEST(Arena, RelationsAreReadFromTheAttackersSide) {
  Harbour h;
  EXPECT_EQ(h.arena.relation(h.wardens, h.wardens), Relation::friendly);
  EXPECT_EQ(h.arena.relation(h.wardens, h.raiders), Relation::neutral);
  h.arena.relate(h.wardens, h.raiders, Relation::foe);
  EXPECT_EQ(h.arena.relation(h.wardens, h.raiders), Relation::foe);
  EXPECT_EQ(h.arena.relation(h.raiders, h.wardens), Relation::neutral);
  h.arena.relate(h.wardens, {9, 0}, Relation::foe);  // not of this arena: nothing happens
}

TEST(Arena, BodyTagsAddToTheBuilds) {
  Harbour h;
  const BodyId a = *h.arena.add_body(
      {.id = "a", .build = h.post, .faction = h.wardens, .tags = {"wet"}, .immune = {"fire"}});
  EXPECT_TRUE(h.arena.has_tag(a, "wooden"));
  EXPECT_TRUE(h.arena.has_tag(a, "wet"));
  EXPECT_FALSE(h.arena.has_tag(a, "dry"));
  EXPECT_TRUE(h.arena.is_immune(a, "fire"));
  EXPECT_FALSE(h.arena.is_immune(a, "wet"));
}

}  // namespace
}  // namespace dardo::arena_test
