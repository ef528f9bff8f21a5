// One 60 Hz tick of shots in flight among moving bodies, on one thread: a Skirmish; the bare query of the
// geometry kernel for the same ways (a moving ball against the bodies whose boxes it touches, with the same
// tree), and the same without the index, over all bodies.
#include <benchmark/benchmark.h>

#include "dardo/index/plain_loop.hpp"
#include "dardo/index/tree.hpp"
#include "skirmish/fight.hpp"

namespace {

using namespace bench;

/// What is the least that must be asked: each shot's way against the capsules near it, grown by its radius.
template <class Index>
struct BareQuery {
  const Fight& fight;
  std::vector<Capsule> capsules;
  Index index;

  explicit BareQuery(const Fight& f) : fight(f) {
    std::vector<Entry> entries;
    for (std::uint32_t i = 0; i < fight.bodies.size(); ++i) {
      capsules.push_back(std::get<Capsule>(fight.arena.hitboxes(fight.bodies[i])[0]));
      entries.push_back({bounds(capsules.back()), i});
      capsules.back().radius += kRadius;
    }
    index.build(entries);
  }
  void operator()() const {
    for (const Ray& way : fight.ways) {
      Bounds box{way.from, way.from};
      box.add(way.at(way.length));
      double first = way.length;
      index.touching(box.grown(kRadius + 3 * kTick), [&](std::uint32_t i) {
        const Vec3 v = way.direction * kSpeed - fight.velocities[i];  // both move
        const double speed = length(v);
        if (const auto c = ray(capsules[i], {way.from, v / speed, speed * kTick}))
          first = std::min(first, c->distance);
      });
      benchmark::DoNotOptimize(first);
    }
  }
};

/// In turn, as the machine's speed changes from moment to moment: a tick with all shots, the same with one
/// (what the bodies cost), and the bare query for all.
void tick(benchmark::State& state) {
  const auto shots = static_cast<double>(state.range(0));
  Fight fight({.shots = state.range(0)}), lone({.shots = 1});
  const BareQuery<Tree> query(fight);
  std::vector<double> whole, upkeep, bare, shot, ratio;
  int i = 0;
  for (; i < 16; ++i) {
    for (Fight* f : {&fight, &lone}) f->move(i), f->tick();
  }
  const int first = i;
  fight.strikes = 0;
  for (auto _ : state) {
    fight.move(i), lone.move(i), ++i;
    whole.push_back(nanoseconds([&] { fight.tick(); }));
    upkeep.push_back(nanoseconds([&] { lone.tick(); }));
    query();  // so that what it reads is near
    bare.push_back(nanoseconds(query));
    shot.push_back((whole.back() - upkeep.back()) / shots);
    ratio.push_back(shot.back() / (bare.back() / shots));
    state.SetIterationTime(whole.back() * 1e-9);
  }
  state.counters["in flight"] = static_cast<double>(fight.live->in_flight());
  state.counters["strikes/tick"] = static_cast<double>(fight.strikes) / (i - first);
  state.counters["tick, us"] = median(whole) * 1e-3;
  state.counters["bodies alone, us"] = median(upkeep) * 1e-3;
  state.counters["shot, ns"] = median(shot);
  state.counters["bare query, ns"] = median(bare) / shots;
  state.counters["shot to query"] = median(ratio);
}

/// The same question without an index, over all bodies.
void plain_query(benchmark::State& state) {
  const Fight fight({.shots = state.range(0)});
  const BareQuery<PlainLoop> query(fight);
  for (auto _ : state) query();
  state.counters["per shot"] =
      benchmark::Counter(static_cast<double>(state.range(0)),
                         benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}

// So many ticks that most shots are still among the bodies.
BENCHMARK(tick)->Arg(1000)->Arg(10000)->Arg(100000)->Iterations(200)->UseManualTime()->Unit(
    benchmark::kMicrosecond);
BENCHMARK(plain_query)->Arg(1000)->Unit(benchmark::kMicrosecond);

}  // namespace
