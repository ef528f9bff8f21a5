// 4,096 launches in one call, on one thread and on two; the work is the same, to the bit.
#include "dardo/batch/resolve_all.hpp"

#include <benchmark/benchmark.h>

#include <cmath>
#include <random>

namespace {

using namespace dardo;

struct Field {
  Arena arena;
  Attack stone{.name = "stone",
               .delivery = ShotDelivery{.path = FallingPath{.speed = 25}, .radius = 0.1},
               .reach = {0, 60}};
  std::vector<BatchLaunch> launches;

  Field() {
    std::mt19937_64 random(7);
    const auto place = [&] {
      const auto u = [&] { return static_cast<double>(random() >> 11) * 0x1.0p-53 * 500; };
      const double x = u(), y = u();
      return Vec3{x, y, 0};
    };
    const auto us = *arena.add_faction("wardens"), them = *arena.add_faction("raiders");
    arena.relate(us, them, Relation::foe);
    const auto build = *arena.add_build(
        {.name = "deckhand", .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.3}, 0.4}}}});
    std::vector<BodyId> wardens;
    for (int i = 0; i < 10000; ++i) {
      const auto id = *arena.add_body(
          {.id = std::to_string(i), .build = build, .faction = i % 4 ? them : us, .pose = {place(), {}}});
      if (i % 4 == 0) wardens.push_back(id);
    }
    arena.update();
    for (std::uint64_t i = 0; i < 4096; ++i) {
      const double a = static_cast<double>(random() % 3600) / 3600 * 6.283185307179586;
      launches.push_back({&stone,
                          {.by = wardens[i % wardens.size()],
                           .toward = AlongDirection{{std::cos(a), std::sin(a), 0.3}},
                           .seed = i}});
    }
  }
};

void resolve_4096(benchmark::State& state) {
  static const Field field;
  for (auto _ : state) {
    benchmark::DoNotOptimize(
        resolve_all(field.arena, field.launches,
                    {.detail = Detail::strikes, .threads = static_cast<int>(state.range(0))}));
  }
  state.counters["per launch"] =
      benchmark::Counter(4096, benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}
BENCHMARK(resolve_4096)->ArgName("threads")->Arg(1)->Arg(2)->UseRealTime()->Unit(benchmark::kMillisecond);

}  // namespace
