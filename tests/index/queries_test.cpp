#include "dardo/index/queries.hpp"

#include <gtest/gtest.h>

#include <set>

#include "dardo/geometry/shape.hpp"
#include "dardo/index/plain_loop.hpp"
#include "dardo/index/query_batch.hpp"
#include "dardo/index/tree.hpp"
#include "support/allocations.hpp"
#include "support/random.hpp"

namespace dardo::queries_test {
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
    const auto box_of = [&](std::uint32_t number) {
      return Bounds{rays[number].from, rays[number].from}.grown(2);
    };
    std::vector<std::uint64_t> touched(rays.size());
    const auto touch = [&](std::uint32_t number, std::uint32_t item) { touched[number] += item + 1000; };
    batch.touching(tree, rays.size(), box_of, touch);
    for (std::uint32_t i = 0; i < rays.size(); ++i) {
      std::uint64_t alone = 0;
      tree.touching(box_of(i), [&](std::uint32_t item) { alone += item + 1000; });
      ASSERT_EQ(touched[i], alone);
    }
    const std::size_t before = test::allocations();
    batch.first_along(tree, rays, contact_of, first);
    batch.cuts(tree, lines, blocks, cut);
    batch.touching(tree, rays.size(), box_of, touch);
    EXPECT_EQ(test::allocations(), before);
  }
}

/// Counts what is announced, and that each visit had been.
struct Announced {
  std::multiset<std::uint32_t> announced, visited;
  void ahead(std::uint32_t item) { announced.insert(item); }
  void visit(std::uint32_t item) {
    visited.insert(item);
    EXPECT_LE(visited.count(item), announced.count(item)) << "announced too late";
  }
};

TEST(Queries, EachItemIsAnnouncedBeforeItIsVisited) {
  test::Random random(78);
  std::vector<Shape> shapes;
  std::vector<Entry> entries, others;
  for (std::uint32_t i = 0; i < 3000; ++i) {
    shapes.push_back(placed(random.shape(2), {random.place(30), {}}));
    (i < 2500 ? entries : others).push_back({bounds(shapes.back()), i < 2500 ? i : i - 2500});
  }
  Tree tree, other;
  tree.build(entries), other.build(others);
  QueryBatch batch;
  std::vector<Ray> rays;
  std::vector<Segment> lines;
  for (int i = 0; i < 100; ++i) {
    rays.push_back({random.place(30), random.direction(), 60});
    lines.push_back({rays.back().from, rays.back().at(60)});
  }
  Announced one, two;
  const auto ahead = [](Announced& a) { return [&a](std::uint32_t item) { a.ahead(item); }; };
  const auto visit = [](Announced& a) {
    return [&a](std::uint32_t, std::uint32_t item, double limit) { return a.visit(item), limit; };
  };
  const auto check = [&](std::size_t least) {
    EXPECT_EQ(one.announced, one.visited);
    EXPECT_EQ(two.announced, two.visited);
    EXPECT_GT(one.visited.size(), least);
    one = two = {};
  };
  tree.touching(
      Ball{{}, 20}, [&](std::uint32_t item) { one.visit(item); }, ahead(one));
  check(100);
  tree.touching(
      Bounds{{-5, -20, -20}, {20, 20, 20}}, [&](std::uint32_t item) { one.visit(item); }, ahead(one));
  check(100);
  std::vector<Ranked> ranked;
  nearest_of(
      tree, {}, 50, 30,
      [&](std::uint32_t item) { return one.visit(item), nearest(shapes[item], {}).distance; }, ranked, 4,
      ahead(one));
  check(49);
  batch.along(tree, rays, visit(one), 0, ahead(one));
  check(100);
  batch.along_with(tree, other, rays, visit(one), visit(two), 0, ahead(one), ahead(two));
  EXPECT_GT(two.visited.size(), 10u);
  check(100);
  std::vector<std::optional<Ranked>> first(rays.size());
  batch.first_along(
      tree, rays, [&](std::uint32_t, std::uint32_t item) { return one.visit(item), std::optional<double>(); },
      first, 0, ahead(one));
  check(100);
  std::vector<std::uint8_t> cut(lines.size());
  batch.cuts(
      tree, lines, [&](std::uint32_t, std::uint32_t item) { return one.visit(item), false; }, cut,
      ahead(one));
  check(100);
  batch.touching(
      tree, rays.size(),
      [&](std::uint32_t i) {
        return Bounds{rays[i].from, rays[i].from}.grown(3);
      },
      [&](std::uint32_t, std::uint32_t item) { one.visit(item); }, ahead(one));
  check(100);
}

/// Rays and lines that run along faces, with components of 0, at coordinate 0 and elsewhere: whatever the
/// exact tests call a touch, the tree names.
TEST(Queries, LinesAlongFacesMeetWhatTheyTouch) {
  std::size_t touched = 0;
  for (const double far : {0.0, 1.0, 1000.0, 9e6}) {
    for (const double aside : {0.0, 2.0, -3.0}) {
      for (int axis = 0; axis < 3; ++axis) {
        const auto turned = [axis](double along, double across, double up) {
          return axis == 0   ? Vec3{along, across, up}
                 : axis == 1 ? Vec3{up, along, across}
                             : Vec3{across, up, along};
        };
        // Above and below the plane `across` = aside, flush with it, flat in it, and a point on the line.
        std::vector<Box> boxes;
        for (const double side : {-1.0, 1.0})
          boxes.push_back({turned(far + 10, aside + side * 0.5, 0), abs(turned(1, 0.5, 1)), {}});
        boxes.push_back({turned(far + 5, aside, 0), abs(turned(1, 0, 1)), {}});
        boxes.push_back({turned(far + 7, aside, 0), {}, {}});
        std::vector<Entry> entries;
        for (std::uint32_t i = 0; i < boxes.size(); ++i) entries.push_back({bounds(boxes[i]), i});
        Tree tree;
        tree.build(entries);
        for (const double sense : {1.0, -1.0}) {
          const Vec3 from = turned(far + (sense > 0 ? 0 : 20), aside, 0);
          const Ray line{from, turned(sense, 0, 0), 20};
          std::vector<bool> named(boxes.size());
          tree.along(line, 20, [&](std::uint32_t i, double limit) {
            named[i] = true;
            return limit;
          });
          const bool cut = tree.cuts({line.from, line.at(20)}, [&](std::uint32_t i) { return i == 2; });
          EXPECT_TRUE(cut) << far << ' ' << aside << ' ' << axis;
          for (std::size_t i = 0; i < boxes.size(); ++i) {
            if (!ray(boxes[i], line)) continue;
            ++touched;
            EXPECT_TRUE(named[i]) << far << ' ' << aside << ' ' << axis << " box " << i;
          }
        }
      }
    }
  }
  EXPECT_EQ(touched, 4u * 3 * 3 * 2 * 4) << "all of them touch";
}

}  // namespace
}  // namespace dardo::queries_test
