// One launch among 10,000 bodies with a verdict for each.
#include <benchmark/benchmark.h>

#include <random>

#include "dardo/dardo.hpp"

namespace {

using namespace dardo;

void verdicts(benchmark::State& state, const Delivery& delivery) {
  Arena arena;
  std::mt19937_64 random(7);
  const auto u = [&] { return static_cast<double>(random() >> 11) * 0x1.0p-53 * 500 - 250; };
  const auto us = *arena.add_faction("wardens"), them = *arena.add_faction("raiders");
  arena.relate(us, them, Relation::foe);
  const auto build =
      *arena.add_build({.name = "deckhand", .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.4}, 0.4}}}});
  const auto mara = *arena.add_body({.id = "mara", .build = build, .faction = us});
  BodyId last;
  for (int i = 0; i < 10000; ++i) {
    const double x = u(), y = u();
    last =
        *arena.add_body({.id = std::to_string(i), .build = build, .faction = them, .pose = {{x, y, 0}, {}}});
  }
  arena.update();
  const Attack attack{.name = "attack", .delivery = delivery, .reach = {0, 60}};
  std::size_t struck = 0;
  for (auto _ : state) struck += resolve(arena, attack, {.by = mara, .toward = AtBody{last}}).verdicts.size();
  benchmark::DoNotOptimize(struck);
}

ShotDelivery shot(ShotPath path) {
  ShotDelivery out;
  out.path = std::move(path), out.radius = 0.1, out.life_s = 4;
  return out;
}

BENCHMARK_CAPTURE(verdicts, ray, RayDelivery{})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(verdicts, area, AreaDelivery{.shape = BallArea{15}})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(verdicts, straight, shot(StraightPath{.speed = 24}))->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(verdicts, drag, shot(FallingPath{.speed = 40, .drag = 0.01}))
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(verdicts, curve, shot(CurvePath{.speed = 24, .side = 5}))->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(verdicts, guided, shot(GuidedPath{.speed = 24}))->Unit(benchmark::kMillisecond);

}  // namespace
