#include "dardo/index/queries.hpp"

#include <gtest/gtest.h>

#include "dardo/geometry/shape.hpp"
#include "dardo/index/plain_loop.hpp"
#include "dardo/index/query_batch.hpp"
#include "dardo/index/tree.hpp"
#include "support/allocations.hpp"
#include "support/random.hpp"

namespace dardo {
namespace {

TEST(Queries, TreeAndLoopSayTheSameInTheSameOrder) {
  for (std::uint64_t seed = 1; seed <= 15; ++seed) {
    SCOPED_TRACE(seed);
    test::Random random(seed);
    std::vector<Shape> shapes;
    std::vector<Entry> entries;
    for (int i = random.whole(0, 500); i > 0; --i) {
      entries.push_back({{}, static_cast<std::uint32_t>(shapes.size())});
      // Some twice in one place: ties go by item.
      shapes.push_back(random.chance(0.2) && !shapes.empty()
                           ? shapes.back()
                           : placed(random.shape(2), {random.place(30), {}}));
      entries.back().bounds = bounds(shapes.back());
    }
    Tree tree;
    PlainLoop loop;
    tree.build(entries), loop.build(entries);
    std::vector<Ranked> a, b;
    for (int q = 0; q < 40; ++q) {
      const Vec3 from = random.place(40);
      const Ray line{from, random.direction_to(from, {}, 20), random.range(0, 90)};
      const auto contact_of = [&](std::uint32_t item) -> std::optional<double> {
        const auto contact = ray(shapes[item], line);
        return contact ? std::optional(contact->distance) : std::nullopt;
      };
      all_along(tree, line, contact_of, a), all_along(loop, line, contact_of, b);
      ASSERT_EQ(a, b);
      const auto first = first_along(tree, line, contact_of);
      ASSERT_EQ(first.has_value(), !a.empty());
      if (first) ASSERT_EQ(*first, a.front());

      const auto distance_of = [&](std::uint32_t item) { return nearest(shapes[item], from).distance; };
      const auto count = static_cast<std::size_t>(random.whole(0, 12));
      const double limit = random.range(0, 60);
      nearest_of(tree, from, count, limit, distance_of, a, random.range(0.1, 20));
      std::vector<Ranked> all;
      for (std::uint32_t i = 0; i < shapes.size(); ++i) {
        if (distance_of(i) <= limit) all.push_back({distance_of(i), i});
      }
      std::sort(all.begin(), all.end());
      all.resize(std::min(all.size(), count));
      ASSERT_EQ(a, all);
    }
    const std::size_t before = test::allocations();
    nearest_of(
        tree, {}, 1, 1, [&](std::uint32_t item) { return nearest(shapes[item], {}).distance; }, a);
    EXPECT_LE(test::allocations(), before + 1) << "the list only";
  }
}

TEST(Batch, SaysOfEachWhatItSaysOfOneAlone) {
  test::Random random(77);
  std::vector<Shape> shapes;
  std::vector<Entry> entries;
  for (std::uint32_t i = 0; i < 300; ++i) {
    shapes.push_back(placed(random.shape(2), {random.place(30), {}}));
    entries.push_back({bounds(shapes.back()), i});
  }
  Tree tree;
  tree.build(entries);
  QueryBatch batch;
  for (const int count : {0, 1, 700}) {
    std::vector<Ray> rays;
    std::vector<Segment> lines;
    for (int i = 0; i < count; ++i) {
      const Vec3 from = i % 7 == 0 ? Vec3{1, 2, 3} : random.place(30);
      rays.push_back({from, random.direction_to(from, {}, 30), random.range(0, 60)});
      lines.push_back({from, rays.back().at(rays.back().length)});
    }
    const auto contact_of = [&](std::uint32_t number, std::uint32_t item) -> std::optional<double> {
      const auto contact = ray(shapes[item], rays[number]);
      return contact ? std::optional(contact->distance) : std::nullopt;
    };
    const auto blocks = [&](std::uint32_t number, std::uint32_t item) {
      return distance(shapes[item], lines[number]) == 0;
    };
    std::vector<std::optional<Ranked>> first(rays.size());
    std::vector<std::uint8_t> cut(lines.size());
    batch.first_along(tree, rays, contact_of, first);
    batch.cuts(tree, lines, blocks, cut);
    for (std::uint32_t i = 0; i < rays.size(); ++i) {
      ASSERT_EQ(first[i],
                first_along(tree, rays[i], [&](std::uint32_t item) { return contact_of(i, item); }));
      ASSERT_EQ(cut[i] != 0, tree.cuts(lines[i], [&](std::uint32_t item) { return blocks(i, item); }));
    }
    const std::size_t before = test::allocations();
    batch.first_along(tree, rays, contact_of, first);
    batch.cuts(tree, lines, blocks, cut);
    EXPECT_EQ(test::allocations(), before);
  }
}

}  // namespace
}  // namespace dardo
