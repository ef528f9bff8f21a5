// What lasts among ten thousand bodies that walk, and chains among as many that stand: each beside the plain
// thing in the same run.
#include <benchmark/benchmark.h>

#include "dardo/resolve/prepared.hpp"
#include "skirmish/fight.hpp"

namespace {

using namespace bench;

Attack burning() {
  return {.name = "oil",
          .delivery = AreaDelivery{.shape = BallArea{3}, .lasts = Lasts{.for_s = 3600, .every_s = 0.5}},
          .reach = {0, 1e7}};
}
/// Round and round, a turn a second.
Attack hook() {
  return {.name = "hook",
          .delivery = SwingDelivery{.blade = CapsuleArea{{0.5, 0, 1}, {2.2, 0, 1}, 0.06},
                                    .keys = {{0, {}, 0}, {400, {}, 400 * kTau}},
                                    .again_after_s = 0.5,
                                    .on = Hangs::place},
          .reach = {0, 1e7}};
}

/// `extra, us` is what a tick with so many of each takes beyond one with none.
void lasting(benchmark::State& state) {
  const auto areas = static_cast<int>(state.range(0)), swings = static_cast<int>(state.range(1));
  Fight none({.shots = 1}), some({.shots = 1});
  const AttackId oil = *some.live->add_attack(burning()), blade = *some.live->add_attack(hook());
  for (int i = 0; i < areas + swings; ++i) {
    const FromPlace at{{{some.u() * some.side, some.u() * some.side, 0}, {}}, some.us};
    (void)*some.live->start(i < areas ? oil : blade, {.toward = AtPlace{at.pose.at}, .from = at});
  }
  std::vector<double> extra, alone;
  int i = 0;
  const auto both = [&] {
    none.move(i), some.move(i), ++i;
    const double one = nanoseconds([&] { none.tick(); }), two = nanoseconds([&] { some.tick(); });
    alone.push_back(one), extra.push_back(two - one);
    return two;
  };
  while (i < kWarm) both();
  extra.clear(), alone.clear();
  for (auto _ : state) state.SetIterationTime(both() * 1e-9);
  state.counters["upkeep, us"] = median(alone) * 1e-3;
  state.counters["extra, us"] = median(extra) * 1e-3;
  state.counters["each, ns"] = median(extra) / (areas + swings);
}
BENCHMARK(lasting)
    ->Args({500, 0})
    ->Args({0, 500})
    ->Args({500, 500})
    ->Iterations(120)
    ->UseManualTime()
    ->Unit(benchmark::kMicrosecond);

/// A thousand hops against a thousand nearest queries of the same bodies: `ratio`.
void chain(benchmark::State& state) {
  Arena arena;
  const auto us = *arena.add_faction("wardens"), them = *arena.add_faction("raiders");
  arena.relate(us, them, Relation::foe);
  const auto build =
      *arena.add_build({.name = "deckhand", .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.4}, 0.4}}}});
  std::mt19937_64 random(7);
  const auto u = [&] { return static_cast<double>(random() >> 11) * 0x1.0p-53; };
  std::vector<BodyId> bodies;
  for (int i = 0; i < 10000; ++i)
    bodies.push_back(*arena.add_body(
        {.id = std::to_string(i), .build = build, .faction = them, .pose = {{u() * 500, u() * 500, 0}, {}}}));
  arena.update();
  const auto spark = *prepare(
      arena, {.name = "spark", .delivery = ChainDelivery{.hop = 40, .hops = 1000}, .reach = {0, 1e7}});
  const Launch launch{.toward = AtBody{bodies[0]}, .from = FromPlace{{{0, 0, 1}, {}}, us}};
  const ResolveOptions options{.detail = Detail::strikes, .limits = Limits{.contacts = 1000000}};
  Outcome out;
  std::vector<double> ratio;
  for (auto _ : state) {
    const double hops = nanoseconds([&] { resolve(arena, spark, launch, options, out); });
    double found = 0;
    const double queries = nanoseconds([&] {
      std::vector<bool> passed(arena.slots());
      for (const Strike& s : out.strikes) {
        // The nearest of those that it was not at.
        double least = 1e9;
        for (double within = 2.5; within <= 40 && least > within; within *= 2) {
          arena.bodies_touching(Bounds{s.centre, s.centre}.grown(within), [&](BodyId body) {
            if (passed[body.index]) return;
            for (const Shape& h : arena.hitboxes(body))
              least = std::min(least, nearest(h, s.centre).distance);
          });
        }
        passed[s.body.index] = true;
        found += least;
      }
    });
    benchmark::DoNotOptimize(found);
    ratio.push_back(hops / queries);
    state.SetIterationTime(hops * 1e-9);
  }
  state.counters["strikes"] = static_cast<double>(out.strikes.size());
  state.counters["ratio"] = median(ratio);
}
BENCHMARK(chain)->Iterations(40)->UseManualTime()->Unit(benchmark::kMicrosecond);

}  // namespace
