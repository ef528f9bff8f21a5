// The five workloads of the index: W1 first contact of a ray with bodies and walls, W2 all bodies that a ball
// touches, W3 whether a wall cuts a line of sight, W4 first body that a small moving ball meets, W5 upkeep
// while all bodies move, and rays after it. Each beside a plain loop over all bodies, which the compiler
// makes vector code of. Answers are compared first: with that loop's, and to the bit with those of a loop of
// the same exact tests.
#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <map>
#include <memory>
#include <utility>

#include "dardo/index/plain_loop.hpp"
#include "dardo/index/query_batch.hpp"
#include "dardo/index/tree.hpp"
#include "index/scene.hpp"
#include "index/vector_loop.hpp"

namespace {

using namespace dardo;
using bench::Hit;
using bench::kNoHit;
using bench::Scene;
using bench::VectorLoop;

void require(bool same, const char* what) {
  if (same) return;
  std::fprintf(stderr, "%s\n", what);
  std::exit(1);
}

/// The scene of the recipe, of so many bodies.
Scene scene_of(std::size_t count) {
  Scene scene(count);
  require(scene.hash == Scene::expected_hash(count), "the scene is not the one of the recipe");
  return scene;
}

template <class Index>
struct World {
  Scene scene;
  Index all;  ///< bodies, then walls
  Index bodies;
  Index walls;

  explicit World(std::size_t count) : scene(scene_of(count)) {
    std::vector<Entry> b, w, a;
    for (std::uint32_t i = 0; i < count; ++i) b.push_back({bounds(scene.bodies[i]), i});
    for (std::uint32_t i = 0; i < scene.walls.size(); ++i) w.push_back({bounds(scene.walls[i]), i});
    a = b;
    for (const Entry& e : w) a.push_back({e.bounds, e.item + n()});
    bodies.build(b), walls.build(w), all.build(a);
  }
  std::uint32_t n() const { return static_cast<std::uint32_t>(scene.bodies.size()); }

  Hit first(const Ray& line) const {
    Hit best = kNoHit;
    all.along(line, line.length, [&](std::uint32_t i, double limit) {
      const Ray rest{line.from, line.direction, limit};
      const auto c = i < n() ? ray(scene.bodies[i], rest) : ray(scene.walls[i - n()], rest);
      if (c) best = std::min(best, {c->distance, i});
      return std::min(limit, best.first);
    });
    return best;
  }
  std::size_t touched(const Vec3& center, double radius) const {
    std::size_t count = 0;
    bodies.touching(
        Ball{center, radius},
        [&](std::uint32_t i) { count += nearest(scene.bodies[i], center).distance <= radius; },
        [&](std::uint32_t i) { prefetch(scene.bodies[i]); });
    return count;
  }
  bool sees(const Segment& line) const {
    return !walls.cuts(line, [&](std::uint32_t i) { return touches(scene.walls[i], line); });
  }
  static Bounds around(const Ray& way) {
    Bounds box{way.from, way.from};
    box.add(way.at(way.length));
    return box.grown(Scene::kSweepRadius);
  }
  void meet(const Ray& way, std::uint32_t i, Hit& best) const {
    Capsule grown = scene.bodies[i];
    grown.radius += Scene::kSweepRadius;
    if (const auto c = ray(grown, way)) best = std::min(best, {c->distance, i});
  }
  Hit sweep(const Ray& way) const {
    Hit best = kNoHit;
    bodies.touching(around(way), [&](std::uint32_t i) { meet(way, i, best); });
    return best;
  }
  /// Takes the places of all bodies after a step of the scene.
  void upkeep() {
    all.refit(
        [&](std::uint32_t i) { return i < n() ? bounds(scene.bodies[i]) : bounds(scene.walls[i - n()]); },
        [&](std::uint32_t i) { fetch(i); });
  }
  void fetch(std::uint32_t i) const { i < n() ? prefetch(scene.bodies[i]) : prefetch(scene.walls[i - n()]); }
};

template <>
struct World<VectorLoop> : VectorLoop {
  Scene scene;

  explicit World(std::size_t count) : World(scene_of(count)) {}
  explicit World(Scene s) : VectorLoop(s), scene(std::move(s)) {}
  void upkeep() { VectorLoop::upkeep(scene.bodies); }
};

template <class Index>
World<Index>& world(std::int64_t count) {
  static std::map<std::int64_t, std::unique_ptr<World<Index>>> worlds;
  auto& w = worlds[count];
  if (!w) w = std::make_unique<World<Index>>(static_cast<std::size_t>(count));
  return *w;
}

// The answers to all queries of a workload, asked in one call.
void first_of_all(const World<Tree>& w, QueryBatch& batch, std::vector<std::optional<Ranked>>& out) {
  const auto& rays = w.scene.rays;
  batch.first_along(
      w.all, rays,
      [&](std::uint32_t k, std::uint32_t i) -> std::optional<double> {
        const auto c = i < w.n() ? ray(w.scene.bodies[i], rays[k]) : ray(w.scene.walls[i - w.n()], rays[k]);
        return c ? std::optional(c->distance) : std::nullopt;
      },
      out, 0, [&](std::uint32_t i) { w.fetch(i); });
}
void cuts_of_all(const World<Tree>& w, QueryBatch& batch, std::vector<std::uint8_t>& out) {
  const auto& lines = w.scene.sights;
  batch.cuts(
      w.walls, lines, [&](std::uint32_t k, std::uint32_t i) { return touches(w.scene.walls[i], lines[k]); },
      out, [&](std::uint32_t i) { prefetch(w.scene.walls[i]); });
}
void sweeps_of_all(const World<Tree>& w, QueryBatch& batch, std::vector<Hit>& out) {
  const auto& ways = w.scene.sweeps;
  std::fill(out.begin(), out.end(), kNoHit);
  batch.touching(
      w.bodies, ways.size(), [&](std::uint32_t k) { return World<Tree>::around(ways[k]); },
      [&](std::uint32_t k, std::uint32_t i) { w.meet(ways[k], i, out[k]); },
      [&](std::uint32_t i) { prefetch(w.scene.bodies[i]); });
}

/// Their rounding differs.
bool agree(const Hit& a, const Hit& b) {
  return a.second == b.second && (a.first == b.first || std::fabs(a.first - b.first) < 1e-6);
}

/// The tree's answers to some queries of each kind must be the loops'.
void check(std::int64_t count) {
  static std::map<std::int64_t, bool> done;
  if (std::exchange(done[count], true)) return;
  const auto& tree = world<Tree>(count);
  const auto& exact = world<PlainLoop>(count);
  const auto& loop = world<VectorLoop>(count);
  QueryBatch batch;
  std::vector<std::optional<Ranked>> first(Scene::kQueries);
  std::vector<std::uint8_t> cut(Scene::kQueries);
  std::vector<Hit> swept(Scene::kQueries);
  first_of_all(tree, batch, first), cuts_of_all(tree, batch, cut), sweeps_of_all(tree, batch, swept);
  const Scene& s = tree.scene;
  for (std::size_t i = 0; i < (count > 10000 ? 100u : 500u); ++i) {
    const Hit hit = tree.first(s.rays[i]);
    require(hit == exact.first(s.rays[i]), "W1: the tree and the loop of exact tests disagree");
    require(agree(hit, loop.first(s.rays[i])), "W1: the tree and the plain loop disagree");
    require(first[i].value_or(kNoHit) == hit, "W1: the batch disagrees");
    const std::size_t touched = tree.touched(s.balls[i], 15);
    require(touched == exact.touched(s.balls[i], 15), "W2: the tree and the loop of exact tests disagree");
    require(touched == loop.touched(s.balls[i], 15), "W2: the tree and the plain loop disagree");
    const bool sees = tree.sees(s.sights[i]);
    require(sees == exact.sees(s.sights[i]), "W3: the tree and the loop of exact tests disagree");
    require(sees == loop.sees(s.sights[i]), "W3: the tree and the plain loop disagree");
    require((cut[i] == 0) == sees, "W3: the batch disagrees");
    const Hit met = tree.sweep(s.sweeps[i]);
    require(met == exact.sweep(s.sweeps[i]), "W4: the tree and the loop of exact tests disagree");
    require(agree(met, loop.sweep(s.sweeps[i])), "W4: the tree and the plain loop disagree");
    require(swept[i] == met, "W4: the batch disagrees");
  }
}

template <class Index, class Ask>
void queries(benchmark::State& state, Ask ask) {
  check(state.range(0));
  const auto& w = world<Index>(state.range(0));
  std::size_t i = 0;
  for (auto _ : state) {
    benchmark::DoNotOptimize(ask(w, i));
    i = i + 1 < Scene::kQueries ? i + 1 : 0;
  }
}

template <class Index>
void w1_ray(benchmark::State& s) {
  queries<Index>(s, [](const auto& w, std::size_t i) { return w.first(w.scene.rays[i]); });
}
template <class Index>
void w2_ball_5(benchmark::State& s) {
  queries<Index>(s, [](const auto& w, std::size_t i) { return w.touched(w.scene.balls[i], 5); });
}
template <class Index>
void w2_ball_15(benchmark::State& s) {
  queries<Index>(s, [](const auto& w, std::size_t i) { return w.touched(w.scene.balls[i], 15); });
}
template <class Index>
void w3_sight(benchmark::State& s) {
  queries<Index>(s, [](const auto& w, std::size_t i) { return w.sees(w.scene.sights[i]); });
}
template <class Index>
void w4_moving_ball(benchmark::State& s) {
  queries<Index>(s, [](const auto& w, std::size_t i) { return w.sweep(w.scene.sweeps[i]); });
}

/// All queries of a workload in one call; the time is that of one.
template <class Answers, class Ask>
void batches(benchmark::State& state, Ask ask) {
  check(state.range(0));
  const auto& w = world<Tree>(state.range(0));
  QueryBatch batch;
  Answers out(Scene::kQueries);
  for (auto _ : state) ask(w, batch, out);
  state.counters["per query"] =
      benchmark::Counter(static_cast<double>(Scene::kQueries),
                         benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}
void w1_batch(benchmark::State& state) { batches<std::vector<std::optional<Ranked>>>(state, first_of_all); }
void w3_batch(benchmark::State& state) { batches<std::vector<std::uint8_t>>(state, cuts_of_all); }
void w4_batch(benchmark::State& state) { batches<std::vector<Hit>>(state, sweeps_of_all); }

template <class Index>
void w5_upkeep(benchmark::State& state) {
  std::unique_ptr<World<Index>> w;
  for (int tick = 0; auto _ : state) {
    // Nobody goes farther than in 60 ticks: then all starts again.
    if (tick++ % 60 == 0) w = std::make_unique<World<Index>>(static_cast<std::size_t>(state.range(0)));
    w->scene.step();
    const auto start = std::chrono::steady_clock::now();
    w->upkeep();
    state.SetIterationTime(std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
  }
}
void w5_build(benchmark::State& state) {
  const auto& w = world<Tree>(state.range(0));
  std::vector<Entry> entries;
  for (std::uint32_t i = 0; i < w.n(); ++i) entries.push_back({bounds(w.scene.bodies[i]), i});
  Tree tree;
  for (auto _ : state) tree.build(entries);
  state.counters["bytes/entry"] = static_cast<double>(tree.bytes()) / static_cast<double>(entries.size());
}
void w5_ray_after(benchmark::State& state, bool fresh) {
  World<Tree> w(static_cast<std::size_t>(state.range(0)));
  for (int tick = 0; tick < 60; ++tick) w.scene.step(), w.upkeep();
  if (fresh) {
    std::vector<Entry> a;
    for (std::uint32_t i = 0; i < w.n(); ++i) a.push_back({bounds(w.scene.bodies[i]), i});
    for (std::uint32_t i = 0; i < w.scene.walls.size(); ++i)
      a.push_back({bounds(w.scene.walls[i]), i + w.n()});
    w.all.build(a);
  }
  std::size_t i = 0;
  for (auto _ : state) benchmark::DoNotOptimize(w.first(w.scene.rays[i++ % Scene::kQueries]));
}

/// How bodies go for 500 ticks: one in a hundred jumps anywhere, all go a metre a tick, or all walk within 50
/// crowds.
enum class Wear { jumps, metre, crowds };
void wear(World<Tree>& w, Wear how, std::vector<double>& upkeep) {
  const std::size_t count = w.scene.bodies.size();
  const double side = 5 * std::sqrt(static_cast<double>(count));
  bench::Stream random(9);
  std::vector<Vec3> middles;
  for (int i = 0; i < 50; ++i) middles.push_back({random.unit() * side, random.unit() * side, 0});
  const auto put = [&](std::size_t i, const Vec3& at) {
    w.scene.bodies[i].from = at + Vec3{0, 0, 0.4}, w.scene.bodies[i].to = at + Vec3{0, 0, 1.4};
  };
  if (how == Wear::crowds) {
    for (std::size_t i = 0; i < count; ++i)
      put(i, middles[i % 50] + random.heading() * (random.unit() * side * 0.04));
    w.upkeep();
  }
  for (int tick = 0; tick < 500; ++tick) {
    if (how == Wear::jumps) w.scene.step();
    for (std::size_t i = 0; i < count; ++i) {
      const Vec3 at = w.scene.bodies[i].from - Vec3{0, 0, 0.4};
      if (how == Wear::jumps && random.unit() < 0.01) put(i, {random.unit() * side, random.unit() * side, 0});
      if (how == Wear::metre) put(i, at + w.scene.headings[i]);
      if (how == Wear::crowds) {
        // Back toward the middle from its edge.
        if (length(at - middles[i % 50]) > side * 0.04)
          w.scene.headings[i] = normalized(middles[i % 50] - at);
        put(i, at + w.scene.headings[i] * 0.1);
      }
      // Nobody leaves the field.
      for (double* v : {&w.scene.headings[i].x, &w.scene.headings[i].y}) {
        const double p = v == &w.scene.headings[i].x ? at.x : at.y;
        if (p < 0 || p > side) *v = p < 0 ? std::fabs(*v) : -std::fabs(*v);
      }
    }
    const auto start = std::chrono::steady_clock::now();
    w.upkeep();
    upkeep.push_back(std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
  }
}
/// Rays after it, in turn with those through a fresh tree.
void worn(benchmark::State& state, Wear how) {
  const auto count = static_cast<std::size_t>(state.range(0));
  World<Tree> old(count);
  std::vector<double> upkeep, ratio;
  wear(old, how, upkeep);
  World<Tree> fresh(count);
  fresh.scene = old.scene;
  std::vector<Entry> a;
  for (std::uint32_t i = 0; i < old.n(); ++i) a.push_back({bounds(old.scene.bodies[i]), i});
  for (std::uint32_t i = 0; i < old.scene.walls.size(); ++i)
    a.push_back({bounds(old.scene.walls[i]), i + old.n()});
  fresh.all.build(a);
  std::size_t from = 0;
  const auto some = [&](const World<Tree>& w) {
    const auto start = std::chrono::steady_clock::now();
    for (std::size_t i = 0; i < 1000; ++i)
      benchmark::DoNotOptimize(w.first(w.scene.rays[(from + i) % Scene::kQueries]));
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  };
  for (auto _ : state) {
    from += 1000;
    const double one = some(fresh), two = some(old);
    ratio.push_back(two / one);
    state.SetIterationTime(two);
  }
  const auto median = [](std::vector<double>& v) {
    std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
    return v[v.size() / 2];
  };
  state.counters["ratio"] = median(ratio);
  state.counters["upkeep, us"] = median(upkeep) * 1e6;
}

#define DARDO_SIZES RangeMultiplier(10)->Range(1000, 100000)
#define DARDO_BOTH(name, ...)                     \
  BENCHMARK(name<Tree>)->DARDO_SIZES __VA_ARGS__; \
  BENCHMARK(name<VectorLoop>)->DARDO_SIZES __VA_ARGS__
DARDO_BOTH(w1_ray);
DARDO_BOTH(w2_ball_5);
DARDO_BOTH(w2_ball_15);
DARDO_BOTH(w3_sight);
DARDO_BOTH(w4_moving_ball);
BENCHMARK(w1_batch)->DARDO_SIZES;
BENCHMARK(w3_batch)->DARDO_SIZES;
BENCHMARK(w4_batch)->DARDO_SIZES;
DARDO_BOTH(w5_upkeep, ->UseManualTime());
BENCHMARK(w5_build)->DARDO_SIZES;
BENCHMARK_CAPTURE(worn, jumps, Wear::jumps)->Arg(10000)->Arg(100000)->Iterations(40)->UseManualTime();
BENCHMARK_CAPTURE(worn, a_metre_a_tick, Wear::metre)
    ->Arg(10000)
    ->Arg(100000)
    ->Iterations(40)
    ->UseManualTime();
BENCHMARK_CAPTURE(worn, crowds, Wear::crowds)->Arg(10000)->Arg(100000)->Iterations(40)->UseManualTime();
BENCHMARK_CAPTURE(w5_ray_after, 60_ticks, false)->DARDO_SIZES;
BENCHMARK_CAPTURE(w5_ray_after, fresh, true)->DARDO_SIZES;

}  // namespace
