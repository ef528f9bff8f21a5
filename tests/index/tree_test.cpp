// The tree against the plain loop, on every vector instruction set that this machine has.
#include "dardo/index/tree.hpp"

#include <gtest/gtest.h>
#include <hwy/targets.h>

#include <algorithm>
#include <set>

#include "dardo/geometry/shape.hpp"
#include "dardo/index/plain_loop.hpp"
#include "dardo/index/query_batch.hpp"
#include "support/allocations.hpp"
#include "support/effort.hpp"
#include "support/random.hpp"

namespace dardo::tree_test {
namespace {

/// Each test runs under each instruction set.
class TreeOn : public testing::TestWithParam<std::int64_t> {
 protected:
  void SetUp() override {
    hwy::SetSupportedTargetsForTest(GetParam());
    hwy::GetChosenTarget().DeInit();
  }
  void TearDown() override {
    hwy::SetSupportedTargetsForTest(0);
    hwy::GetChosenTarget().DeInit();
  }
};

std::vector<std::int64_t> targets() {
  std::vector<std::int64_t> out;
  for (std::int64_t left = hwy::SupportedTargets(); left != 0; left &= left - 1) {
    const std::int64_t target = left & -left;
    // Those that the library has code for.
    if ((target & (HWY_SSSE3 | HWY_SSE4 | HWY_AVX2 | HWY_AVX3 | HWY_NEON)) != 0) out.push_back(target);
  }
  out.push_back(HWY_EMU128);  // what a machine without any of these runs
  return out;
}
INSTANTIATE_TEST_SUITE_P(Target, TreeOn, testing::ValuesIn(targets()),
                         [](const auto& target) { return std::string(hwy::TargetName(target.param)); });

/// Shapes of all sizes, some in one spot, near the origin or as far out as allowed, in a tree and in a loop.
struct World {
  std::vector<Shape> shapes;
  Tree tree;
  PlainLoop loop;
  Vec3 middle;
  double size;

  World(test::Random& random, int count) {
    middle = random.chance(0.3) ? random.place(9e6) : Vec3{};
    size = random.range(0.5, 200);
    std::vector<Entry> entries;
    for (int i = 0; i < count; ++i) entries.push_back(entry(random));
    tree.build(entries);
    loop.build(entries);
  }
  Entry entry(test::Random& random) {
    const Vec3 at = random.chance(0.1) ? middle : middle + random.place(size);
    shapes.push_back(placed(random.shape(random.range(0.01, 3)), {at, {}}));
    return {bounds(shapes.back()), static_cast<std::uint32_t>(shapes.size() - 1)};
  }
  Ray ray(test::Random& random) const {
    const Vec3 from = middle + random.place(1.5 * size);
    Vec3 direction = random.direction();
    if (!shapes.empty()) {
      const auto aim = static_cast<std::size_t>(random.whole(0, static_cast<int>(shapes.size()) - 1));
      direction = random.direction_to(from, center(shapes[aim]), 1);
    }
    if (random.chance(0.3)) direction = {0, random.chance(0.5) ? 1.0 : -1.0, 0};  // along an axis
    return {from, direction, random.range(0, 4 * size)};
  }
};

template <class Index>
std::pair<double, std::uint32_t> first_contact(const World& w, const Index& index, const Ray& line,
                                               double radius = 0) {
  std::pair<double, std::uint32_t> best{1e300, 0};
  index.along(
      line, line.length,
      [&](std::uint32_t item, double limit) {
        Shape grown = w.shapes[item];
        if (auto* ball = std::get_if<Ball>(&grown)) ball->radius += radius;
        if (auto* capsule = std::get_if<Capsule>(&grown)) capsule->radius += radius;
        if (const auto contact = ray(grown, line)) best = std::min(best, {contact->distance, item});
        return std::min(limit, best.first);
      },
      radius);
  return best;
}

template <class Index>
std::set<std::uint32_t> touched(const World& w, const Index& index, const Ball& ball) {
  std::set<std::uint32_t> out;
  const Ball roomy{ball.center, ball.radius + 1e-6};
  index.touching(roomy, [&](std::uint32_t item) {
    if (overlaps(ball, w.shapes[item])) EXPECT_TRUE(out.insert(item).second) << "none comes twice";
  });
  return out;
}

/// What first_contact says of each ray, asked in one batch.
std::vector<std::pair<double, std::uint32_t>> first_contacts(const World& w, std::span<const Ray> lines,
                                                             QueryBatch& batch) {
  std::vector<std::pair<double, std::uint32_t>> best(lines.size(), {1e300, 0});
  batch.along(w.tree, lines, [&](std::uint32_t number, std::uint32_t item, double limit) {
    if (const auto contact = ray(w.shapes[item], lines[number])) {
      best[number] = std::min(best[number], {contact->distance, item});
    }
    return std::min(limit, best[number].first);
  });
  return best;
}

/// What touched says of each ball, asked in one batch by the boxes around them.
std::vector<std::set<std::uint32_t>> touched(const World& w, std::span<const Ball> balls, QueryBatch& batch) {
  std::vector<std::set<std::uint32_t>> out(balls.size());
  batch.touching(
      w.tree, balls.size(), [&](std::uint32_t number) { return bounds(balls[number]).grown(1e-6); },
      [&](std::uint32_t number, std::uint32_t item) {
        if (!overlaps(balls[number], w.shapes[item])) return;
        EXPECT_TRUE(out[number].insert(item).second) << "none comes twice";
      });
  return out;
}

int compare(const World& w, test::Random& random, int queries) {
  int hits = 0;
  std::vector<Ray> lines;
  std::vector<Segment> segments;
  std::vector<Ball> balls;
  std::vector<std::uint8_t> are_cut;
  for (int q = 0; q < queries; ++q) {
    const Ray line = w.ray(random);
    const double radius = random.chance(0.5) ? random.range(0, 2) : 0;
    const auto found = first_contact(w, w.tree, line, radius);
    EXPECT_EQ(found, first_contact(w, w.loop, line, radius));
    hits += found.first < 1e300;
    const Segment segment{line.from, line.at(line.length)};
    const auto cut = [&](std::uint32_t item) { return distance(w.shapes[item], segment) == 0; };
    EXPECT_EQ(w.tree.cuts(segment, cut), w.loop.cuts(segment, cut));
    lines.push_back(line), segments.push_back(segment), are_cut.push_back(w.loop.cuts(segment, cut));
    const Ball ball{w.middle + random.place(w.size), random.range(0, w.size)};
    EXPECT_EQ(touched(w, w.tree, ball), touched(w, w.loop, ball));
    balls.push_back(ball);
  }
  // The same in batches.
  static QueryBatch batch;
  const auto found = first_contacts(w, lines, batch);
  for (std::size_t i = 0; i < lines.size(); ++i) EXPECT_EQ(found[i], first_contact(w, w.loop, lines[i]));
  const auto in_reach = touched(w, balls, batch);
  for (std::size_t i = 0; i < balls.size(); ++i) EXPECT_EQ(in_reach[i], touched(w, w.loop, balls[i]));
  std::vector<std::uint8_t> cut(segments.size());
  std::vector<int> cuts(segments.size(), 0);
  batch.cuts(
      w.tree, segments,
      [&](std::uint32_t number, std::uint32_t item) {
        const bool does = distance(w.shapes[item], segments[number]) == 0;
        cuts[number] += does;
        return does;
      },
      cut);
  EXPECT_EQ(cut, are_cut);
  for (const int count : cuts) EXPECT_LE(count, 1) << "nothing more is asked of a line that is cut";
  return hits;
}

TEST_P(TreeOn, AnswersAsTheLoopDoes) {
  int hits = 0;
  for (std::uint64_t seed = 1; seed <= test::effort(40u) && !HasFailure(); ++seed) {
    SCOPED_TRACE(seed);
    test::Random random(seed);
    const World w(random, random.whole(seed == 1 ? 0 : 1, 900));
    hits += compare(w, random, 40);
  }
  EXPECT_GT(hits, test::effort(200));
}

TEST_P(TreeOn, StaysRightAndGoodWhileThingsMoveComeAndGo) {
  for (std::uint64_t seed = 1; seed <= test::effort(6u) && !HasFailure(); ++seed) {
    SCOPED_TRACE(seed);
    test::Random random(seed);
    World w(random, random.whole(0, 2500));
    for (int tick = 0; tick < 60 && !HasFailure(); ++tick) {
      for (Shape& s : w.shapes) s = placed(s, {random.place(w.size / 50), {}});
      const auto bounds_of = [&](std::uint32_t item) { return bounds(w.shapes[item]); };
      w.tree.refit(bounds_of), w.loop.refit(bounds_of);
      for (int i = random.whole(0, 6); i > 0; --i) {
        const Entry e = w.entry(random);
        w.tree.insert(e), w.loop.insert(e);
      }
      for (int i = random.whole(0, 6); i > 0; --i) {
        const auto item = static_cast<std::uint32_t>(random.whole(0, static_cast<int>(w.shapes.size())));
        EXPECT_EQ(w.tree.remove(item), w.loop.remove(item));
      }
      EXPECT_EQ(w.tree.size(), w.loop.size());
      compare(w, random, 4);
    }
  }
}

TEST_P(TreeOn, StaysRightAndSmallWhenACrowdGathers) {
  test::Random random(11);
  World w(random, 3000);
  const Vec3 meeting = w.middle + random.place(w.size / 2);
  std::size_t most = w.tree.bytes();
  for (int tick = 0; tick < 120; ++tick) {
    for (Shape& s : w.shapes)
      s = placed(s, {(meeting - bounds(s).center()) * 0.02 + random.place(w.size / 400), {}});
    const auto bounds_of = [&](std::uint32_t item) { return bounds(w.shapes[item]); };
    w.tree.refit(bounds_of), w.loop.refit(bounds_of);
    most = std::max(most, w.tree.bytes());
    if (tick % 10 == 9) compare(w, random, 4);
  }
  std::vector<Entry> entries;
  for (std::uint32_t i = 0; i < w.shapes.size(); ++i) entries.push_back({bounds(w.shapes[i]), i});
  Tree fresh;
  fresh.build(entries);
  EXPECT_LT(most, 3 * fresh.bytes());
  EXPECT_LT(w.tree.quality_cost(), 2 * fresh.quality_cost());
}

TEST_P(TreeOn, UpkeepAsksForEachEntryOnce) {
  for (const int count : {1, 8, 9, 70, 300, 2500}) {
    SCOPED_TRACE(count);
    test::Random random(31);
    World w(random, count);
    for (std::uint32_t item = 0; item < w.shapes.size(); ++item) {
      if (random.whole(0, 3) == 0) w.tree.remove(item), w.loop.remove(item);
    }
    for (int tick = 0; tick < 3; ++tick) {
      for (Shape& s : w.shapes) s = placed(s, {random.place(w.size / 20), {}});
      std::multiset<std::uint32_t> present, asked, announced;
      w.loop.refit([&](std::uint32_t item) {
        present.insert(item);
        return bounds(w.shapes[item]);
      });
      w.tree.refit(
          [&](std::uint32_t item) {
            asked.insert(item);
            return bounds(w.shapes[item]);
          },
          [&](std::uint32_t item) {
            announced.insert(item);
            EXPECT_EQ(asked.count(item), 0u) << "announced too late";
          });
      EXPECT_EQ(asked, present);
      // All but those that come first.
      EXPECT_TRUE(std::includes(present.begin(), present.end(), announced.begin(), announced.end()));
      EXPECT_LE(present.size(), announced.size() + 64);
      compare(w, random, 4);
    }
  }
}

TEST_P(TreeOn, TakesBatchesOfAnySize) {
  test::Random random(21);
  const World w(random, 700);
  QueryBatch batch;
  std::size_t found_in_boxes = 0;
  for (const int count : {0, 1, 15, 16, 17, 63, 64, 65, 1000}) {
    std::vector<Ray> lines;
    for (int i = 0; i < count; ++i) lines.push_back(w.ray(random));
    const auto found = first_contacts(w, lines, batch);
    for (std::size_t i = 0; i < lines.size(); ++i) EXPECT_EQ(found[i], first_contact(w, w.tree, lines[i]));
    // Each may be ended at any time, without the others noticing.
    std::vector<int> calls(lines.size(), 0);
    batch.along(w.tree, lines, [&](std::uint32_t number, std::uint32_t, double limit) {
      ++calls[number];
      return number % 2 == 0 ? -1 : limit;
    });
    for (std::size_t i = 0; i < lines.size(); ++i) {
      int alone = 0;
      w.tree.along(lines[i], lines[i].length, [&](std::uint32_t, double limit) {
        ++alone;
        return i % 2 == 0 ? -1 : limit;
      });
      EXPECT_EQ(calls[i], alone);
    }
    // Each box has its own answer; an empty one has none.
    const auto box_of = [&](std::uint32_t number) {
      return number % 5 == 4 ? Bounds{} : Bounds{lines[number].from, lines[number].from}.grown(w.size / 4);
    };
    std::vector<std::multiset<std::uint32_t>> touched(lines.size());
    batch.touching(w.tree, lines.size(), box_of,
                   [&](std::uint32_t number, std::uint32_t item) { touched[number].insert(item); });
    for (std::uint32_t i = 0; i < lines.size(); ++i) {
      std::multiset<std::uint32_t> alone;
      w.tree.touching(box_of(i), [&](std::uint32_t item) { alone.insert(item); });
      EXPECT_EQ(touched[i], alone);
      if (i % 5 == 4) EXPECT_TRUE(alone.empty());
      found_in_boxes += alone.size();
    }
    batch.touching(Tree{}, lines.size(), box_of,
                   [](std::uint32_t, std::uint32_t) { FAIL() << "an empty tree"; });
  }
  EXPECT_GT(found_in_boxes, 1000u);
}

TEST_P(TreeOn, TwoTreesAnswerAsOne) {
  test::Random random(5);
  World w(random, 600);
  std::vector<Entry> odd, even;
  for (std::uint32_t i = 0; i < w.shapes.size(); ++i)
    (i % 2 ? odd : even).push_back({bounds(w.shapes[i]), i});
  Tree a, b, nothing;
  a.build(odd), b.build(even);
  std::vector<Ray> lines;
  for (int q = 0; q < 300; ++q) {
    const Ray line = w.ray(random);
    lines.push_back(line);
    std::pair<double, std::uint32_t> best{1e300, 0};
    const auto test = [&](std::uint32_t parity) {
      return [&, parity](std::uint32_t item, double limit) {
        EXPECT_EQ(item % 2, parity);
        if (const auto contact = ray(w.shapes[item], line)) best = std::min(best, {contact->distance, item});
        return std::min(limit, best.first);
      };
    };
    a.along_with(b, line, line.length, test(1), test(0));
    EXPECT_EQ(best, first_contact(w, w.loop, line));
    nothing.along_with(nothing, line, line.length, test(1), test(0));
  }
  QueryBatch batch;
  using Pair = std::pair<const Tree*, const Tree*>;
  for (const auto& [one, other] : {Pair{&a, &b}, {&nothing, &b}, {&a, &nothing}, {&nothing, &nothing}}) {
    std::vector<std::pair<double, std::uint32_t>> best(lines.size(), {1e300, 0});
    const auto test = [&](std::uint32_t parity) {
      return [&, parity](std::uint32_t number, std::uint32_t item, double limit) {
        EXPECT_EQ(item % 2, parity);
        const auto contact = ray(w.shapes[item], lines[number]);
        if (contact) best[number] = std::min(best[number], {contact->distance, item});
        return std::min(limit, best[number].first);
      };
    };
    batch.along_with(*one, *other, lines, test(1), test(0));
    for (std::size_t i = 0; i < lines.size(); ++i) {
      std::pair<double, std::uint32_t> expected{1e300, 0};
      for (const Tree* tree : {one, other}) expected = std::min(expected, first_contact(w, *tree, lines[i]));
      EXPECT_EQ(best[i], expected);
    }
  }
}

TEST(Tree, QueriesAllocateNothing) {
  test::Random random(8);
  World w(random, 3000);
  std::size_t seen = 0;
  const std::size_t before = test::allocations();
  for (int q = 0; q < 200; ++q) {
    const Ray line = w.ray(random);
    w.tree.along(line, line.length, [&](std::uint32_t, double limit) { return ++seen, limit; });
    w.tree.cuts({line.from, line.at(line.length)}, [&](std::uint32_t) { return ++seen, false; });
    w.tree.touching(Ball{line.from, w.size}, [&](std::uint32_t) { ++seen; });
    w.tree.touching(Bounds{line.from, line.from}.grown(w.size), [&](std::uint32_t) { ++seen; });
  }
  EXPECT_EQ(test::allocations(), before);
  EXPECT_GT(seen, 1000u);
}

TEST(Tree, BoxesAreATrifleLargerAtMost) {
  test::Random random(3);
  for (int round = 0; round < 20; ++round) {
    const World w(random, 400);
    const Vec3 at = w.middle + random.place(w.size);
    const Bounds box = Bounds{at, at}.grown(random.range(0, w.size));
    std::multiset<std::uint32_t> exact, found, nearly;
    w.loop.touching(box, [&](std::uint32_t item) { exact.insert(item); });
    w.loop.touching(box.grown(largest(at) * 4e-6 + 1e-3), [&](std::uint32_t item) { nearly.insert(item); });
    w.tree.touching(box, [&](std::uint32_t item) { found.insert(item); });
    EXPECT_TRUE(std::includes(found.begin(), found.end(), exact.begin(), exact.end())) << "none is lost";
    EXPECT_TRUE(std::includes(nearly.begin(), nearly.end(), found.begin(), found.end()));
  }
}

TEST(Tree, AreasMayBeBeyondAllFloats) {
  test::Random random(4);
  for (const double scale : {1e15, 1e22, 1e30}) {
    for (const int count : {5, 40, 700}) {
      std::vector<Entry> entries;
      for (std::uint32_t i = 0; i < static_cast<std::uint32_t>(count); ++i) {
        const Vec3 at = random.place(scale);
        entries.push_back({Bounds{at, at}.grown(scale * random.range(0, 0.01)), i});
      }
      Tree tree;
      tree.build(entries);
      for (int q = 0; q < 20; ++q) {
        const Vec3 at = random.place(scale);
        const Bounds box = Bounds{at, at}.grown(scale * 0.3);
        std::set<std::uint32_t> expected, found;
        for (const Entry& e : entries) {
          if (overlaps(e.bounds, box)) expected.insert(e.item);
        }
        tree.touching(box, [&](std::uint32_t item) { found.insert(item); });
        EXPECT_TRUE(std::includes(found.begin(), found.end(), expected.begin(), expected.end()));
      }
    }
  }
}

TEST(Tree, StopsWhenTold) {
  test::Random random(3);
  const World w(random, 300);
  int calls = 0;
  w.tree.along({w.middle - Vec3{1e3, 0, 0}, {1, 0, 0}, 1e7}, 1e7,
               [&](std::uint32_t, double) { return ++calls, -1.0; });
  EXPECT_LE(calls, 1);
}

TEST(Tree, CopesWithManyInOnePlace) {
  std::vector<Entry> entries(5000, Entry{{{1, 1, 1}, {2, 2, 2}}, 0});
  for (std::uint32_t i = 0; i < entries.size(); ++i) entries[i].item = i;
  Tree tree;
  const auto count = [&] {
    std::set<std::uint32_t> found;
    tree.touching(Bounds{{0, 0, 0}, {1, 1, 1}}, [&](std::uint32_t item) { found.insert(item); });
    return found.size();
  };
  tree.build(entries);
  EXPECT_EQ(count(), 5000u);
  tree.build({});
  EXPECT_EQ(count(), 0u);
  for (const Entry& e : entries) tree.insert(e);
  EXPECT_EQ(count(), 5000u) << "one by one";
  for (std::uint32_t i = 0; i < 5000; i += 2) EXPECT_TRUE(tree.remove(i));
  EXPECT_EQ(count(), 2500u);
  for (std::uint32_t i = 1; i < 5000; i += 2) EXPECT_TRUE(tree.remove(i));
  EXPECT_EQ(count(), 0u);
  EXPECT_FALSE(tree.remove(1));
}

TEST(Tree, APartMayBecomeEmptyAndFillAgain) {
  test::Random random(6);
  World w(random, 3000);
  std::vector<std::uint32_t> left_side;
  for (std::uint32_t i = 0; i < w.shapes.size(); ++i) {
    if (center(w.shapes[i]).x < w.middle.x) left_side.push_back(i);
  }
  for (int round = 0; round < 3; ++round) {
    for (const std::uint32_t i : left_side) EXPECT_TRUE(w.tree.remove(i) && w.loop.remove(i));
    compare(w, random, 20);
    for (const std::uint32_t i : left_side) {
      w.tree.insert({bounds(w.shapes[i]), i});
      w.loop.insert({bounds(w.shapes[i]), i});
    }
    compare(w, random, 20);
  }
}

TEST_P(TreeOn, StaysRightWhileSomeJump) {
  for (const int count : {20, 300, 3000}) {
    SCOPED_TRACE(count);
    test::Random random(12);
    World w(random, count);
    for (int tick = 0; tick < 60; ++tick) {
      for (Shape& s : w.shapes) {
        // One in ten times all at once, to one place or far out.
        const bool jumps = random.chance(tick % 10 == 5 ? 0.9 : 0.02);
        const double out = tick == 35 ? 100 : 1;
        const Vec3 to = tick == 25 ? w.middle : w.middle + random.place(w.size * out);
        if (jumps) s = placed(s, {to - center(s), {}});
      }
      const auto bounds_of = [&](std::uint32_t item) { return bounds(w.shapes[item]); };
      w.tree.refit(bounds_of), w.loop.refit(bounds_of);
      ASSERT_EQ(w.tree.size(), w.loop.size());
      if (tick % 5 == 0) compare(w, random, 4);
    }
  }
}

/// How 4,000 go for 300 ticks, and what the tree may then cost of a fresh one's: counted in its boxes' areas,
/// no clock.
struct Going {
  const char* name;
  double step, jumps, most;
};
class TreeAfter : public testing::TestWithParam<Going> {};

TEST_P(TreeAfter, ManyTicksIsNearlyAsGoodAsAFreshOne) {
  const Going& going = GetParam();
  test::Random random(4);
  std::vector<Vec3> at(4000), way(4000);
  for (std::size_t i = 0; i < at.size(); ++i) {
    at[i] = {random.range(0, 316), random.range(0, 316), 0};
    way[i] = random.direction() * going.step;
  }
  const auto bounds_of = [&](std::uint32_t i) { return Bounds{at[i], at[i]}.grown(0.4); };
  std::vector<Entry> entries;
  for (std::uint32_t i = 0; i < at.size(); ++i) entries.push_back({bounds_of(i), i});
  Tree kept;
  kept.build(entries);
  for (int tick = 0; tick < 300; ++tick) {
    for (std::size_t i = 0; i < at.size(); ++i) {
      at[i] = at[i] + way[i];
      if (random.chance(going.jumps)) at[i] = {random.range(0, 316), random.range(0, 316), 0};
    }
    kept.refit(bounds_of);
  }
  Tree fresh;
  for (Entry& e : entries) e.bounds = bounds_of(e.item);
  fresh.build(entries);
  EXPECT_LE(kept.quality_cost(), going.most * fresh.quality_cost());
}

INSTANTIATE_TEST_SUITE_P(Going, TreeAfter,
                         testing::Values(Going{"walking", 0.1, 0, 1.15}, Going{"a_metre_a_tick", 1, 0, 1.4},
                                         Going{"one_in_a_hundred_jumping", 0.1, 0.01, 1.4},
                                         Going{"one_in_ten_jumping", 0, 0.1, 1.6}),
                         [](const auto& one) { return std::string(one.param.name); });

}  // namespace
}  // namespace dardo::tree_test
