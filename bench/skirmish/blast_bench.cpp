// Explosions in a tick of a running game, beside the bare query for the same: the boxes in the tree that a
// ball touches, and how near each capsule comes to its middle.
#include <benchmark/benchmark.h>

#include <chrono>
#include <cmath>
#include <random>

#include "dardo/index/tree.hpp"
#include "dardo/resolve/skirmish.hpp"

namespace {

using namespace dardo;

constexpr int kBodies = 10000, kBlasts = 256;
constexpr double kRadius = 8;

struct Field {
  Arena arena;
  std::vector<Vec3> places;
  BodyId mara;

  Field() {
    std::mt19937_64 random(7);
    const double side = 5 * std::sqrt(static_cast<double>(kBodies));
    const auto place = [&] {
      const auto u = [&] { return static_cast<double>(random() >> 11) * 0x1.0p-53 * side; };
      const double x = u(), y = u();
      return Vec3{x, y, 0};
    };
    const auto us = *arena.add_faction("wardens"), them = *arena.add_faction("raiders");
    arena.relate(us, them, Relation::foe);
    const auto build = *arena.add_build(
        {.name = "deckhand", .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.4}, 0.4}}}});
    mara = *arena.add_body({.id = "mara", .build = build, .faction = us});
    for (int i = 0; i < kBodies; ++i)
      (void)*arena.add_body(
          {.id = std::to_string(i), .build = build, .faction = them, .pose = {place(), {}}});
    for (int i = 0; i < kBlasts; ++i) places.push_back(place() + Vec3{0, 0, 1});
    arena.update();
  }
};

void blasts_in_a_tick(benchmark::State& state) {
  Field f;
  Skirmish live(f.arena);
  const AttackId blast = *live.add_attack(
      {.name = "blast", .delivery = AreaDelivery{.shape = BallArea{kRadius}}, .reach = {0, 1e6}});
  std::size_t strikes = 0;
  for (auto _ : state) {
    for (const Vec3& at : f.places) (void)*live.start(blast, {.by = f.mara, .toward = AtPlace{at}});
    const auto start = std::chrono::steady_clock::now();
    (void)live.advance(1.0 / 60, [&](const Strike&) { ++strikes; });
    state.SetIterationTime(std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
  }
  state.counters["strikes"] =
      benchmark::Counter(static_cast<double>(strikes) / kBlasts, benchmark::Counter::kAvgIterations);
  state.counters["a blast"] = benchmark::Counter(
      kBlasts, benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}

void bare_queries(benchmark::State& state) {
  const Field f;
  std::vector<Entry> entries;
  std::vector<Capsule> capsules;
  for (const BodyId body : f.arena.bodies()) {
    capsules.push_back(std::get<Capsule>(f.arena.hitboxes(body)[0]));
    entries.push_back({bounds(capsules.back()), static_cast<std::uint32_t>(entries.size())});
  }
  Tree tree;
  tree.build(entries);
  std::size_t touched = 0;
  for (auto _ : state) {
    for (const Vec3& at : f.places) {
      tree.touching(bounds(Ball{at, kRadius}), [&](std::uint32_t i) {
        touched += nearest(capsules[i], at).distance <= kRadius ? 1 : 0;
      });
    }
  }
  state.counters["strikes"] =
      benchmark::Counter(static_cast<double>(touched) / kBlasts, benchmark::Counter::kAvgIterations);
  state.counters["a blast"] = benchmark::Counter(
      kBlasts, benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}

BENCHMARK(blasts_in_a_tick)->UseManualTime()->Unit(benchmark::kMicrosecond);
BENCHMARK(bare_queries)->Unit(benchmark::kMicrosecond);

}  // namespace
