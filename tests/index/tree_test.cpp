#include <gtest/gtest.h>

#include <algorithm>
#include <set>

#include "dardo/geometry/shape.hpp"
#include "dardo/index/tree.hpp"
#include "support/random.hpp"

namespace dardo {
namespace {

struct World {
  std::vector<Shape> shapes;
  Tree tree;
  PlainLoop loop;
};

/// Shapes of all sizes, some in one spot, near the origin or as far out as allowed.
World make_world(test::Random& random, int count) {
  World w;
  const Vec3 middle = random.chance(0.3) ? random.place(9e6) : Vec3{};
  const double size = random.range(0.5, 200);
  std::vector<Entry> entries;
  for (int i = 0; i < count; ++i) {
    const Vec3 at = random.chance(0.1) ? middle : middle + random.place(size);
    w.shapes.push_back(placed(random.shape(random.range(0.01, 3)), {at, {}}));
    entries.push_back({bounds(w.shapes.back()), static_cast<std::uint32_t>(i)});
  }
  w.tree.build(entries);
  w.loop.build(entries);
  return w;
}

template <class Index>
std::pair<double, std::uint32_t> first_contact(const World& w, const Index& index, const Ray& line) {
  std::pair<double, std::uint32_t> best{1e300, 0};
  index.along(line, line.length, [&](std::uint32_t item, double limit) {
    const auto contact = ray(w.shapes[item], line);
    if (contact) best = std::min(best, {contact->distance, item});
    return std::min(limit, best.first);
  });
  return best;
}

TEST(Tree, FindsTheSameFirstContactAsTheLoop) {
  int hits = 0;
  for (std::uint64_t seed = 1; seed <= 60; ++seed) {
    SCOPED_TRACE(seed);
    test::Random random(seed);
    const World w = make_world(random, random.whole(seed == 1 ? 0 : 1, 700));
    for (int q = 0; q < 200; ++q) {
      Vec3 from = random.place(250), direction = random.direction();
      if (!w.shapes.empty()) {
        from = from + center(w.shapes[0]);
        const auto aim = static_cast<std::size_t>(random.whole(0, static_cast<int>(w.shapes.size()) - 1));
        direction = random.direction_to(from, center(w.shapes[aim]), 1);
      }
      if (random.chance(0.3)) direction = {0, random.chance(0.5) ? 1.0 : -1.0, 0};  // along an axis
      const Ray line{from, direction, random.range(0, 500)};
      const auto a = first_contact(w, w.tree, line), b = first_contact(w, w.loop, line);
      ASSERT_EQ(a, b);
      hits += a.first < 1e300;
    }
  }
  EXPECT_GT(hits, 800);
}

TEST(Tree, FindsTheSameBoxesAsTheLoop) {
  for (std::uint64_t seed = 1; seed <= 40; ++seed) {
    SCOPED_TRACE(seed);
    test::Random random(seed);
    const World w = make_world(random, random.whole(seed == 1 ? 0 : 1, 700));
    for (int q = 0; q < 50; ++q) {
      const Vec3 at = (w.shapes.empty() ? Vec3{} : center(w.shapes[0])) + random.place(100);
      const Bounds box = Bounds{at, at}.grown(random.range(0, 60));
      std::multiset<std::uint32_t> exact, found;
      w.loop.touching(box, [&](std::uint32_t item) { exact.insert(item); });
      w.tree.touching(box, [&](std::uint32_t item) { found.insert(item); });
      // The tree's boxes are a little larger (at 9e6 m a float's step is 1 m); none is lost, none comes
      // twice.
      ASSERT_TRUE(std::includes(found.begin(), found.end(), exact.begin(), exact.end()));
      for (const std::uint32_t item : found) ASSERT_EQ(found.count(item), 1u);
      std::size_t nearly = 0;
      w.loop.touching(box.grown(largest(at) * 2e-6 + 1e-3), [&](std::uint32_t) { ++nearly; });
      ASSERT_LE(found.size(), nearly);
    }
  }
}

TEST(Tree, StopsWhenTold) {
  test::Random random(3);
  const World w = make_world(random, 300);
  int calls = 0;
  w.tree.along({{0, 0, 0}, {1, 0, 0}, 1e7}, 1e7, [&](std::uint32_t, double) { return ++calls, -1.0; });
  EXPECT_LE(calls, 1);
}

TEST(Tree, CopesWithManyInOnePlace) {
  std::vector<Entry> entries(5000, Entry{{{1, 1, 1}, {2, 2, 2}}, 0});
  for (std::uint32_t i = 0; i < entries.size(); ++i) entries[i].item = i;
  Tree tree;
  tree.build(entries);
  std::set<std::uint32_t> found;
  tree.touching({{0, 0, 0}, {1, 1, 1}}, [&](std::uint32_t item) { found.insert(item); });
  EXPECT_EQ(found.size(), entries.size());
}

TEST(Tree, EmptyAndRebuilt) {
  Tree tree;
  const auto count = [&] {
    int n = 0;
    tree.touching({{-1, -1, -1}, {1, 1, 1}}, [&](std::uint32_t) { ++n; });
    return n;
  };
  EXPECT_EQ(count(), 0);
  const std::vector<Entry> entries{{{{0, 0, 0}, {0, 0, 0}}, 7}, {Bounds{}, 8}};
  tree.build(entries);
  EXPECT_EQ(count(), 1) << "an empty box is left out";
  tree.build({});
  EXPECT_EQ(count(), 0);
}

}  // namespace
}  // namespace dardo
