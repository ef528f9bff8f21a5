// One 60 Hz tick of shots in flight among moving bodies, on one thread: a Skirmish; the bare query of the
// geometry kernel for the same ways (a moving ball against the bodies whose boxes it touches, with the same
// tree), and the same without the index, over all bodies.
#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <memory>
#include <random>

#include "dardo/index/plain_loop.hpp"
#include "dardo/index/tree.hpp"
#include "dardo/resolve/skirmish.hpp"

namespace {

using namespace dardo;

constexpr double kTick = 1.0 / 60, kSpeed = 24, kRadius = 0.1;
constexpr std::int64_t kBodies = 10000;

struct Fight {
  Arena arena;
  std::vector<BodyId> bodies;
  std::vector<Vec3> velocities;
  std::vector<Ray> ways;  ///< of one tick
  double side = 5 * std::sqrt(static_cast<double>(kBodies));
  std::unique_ptr<Skirmish> live;
  AttackId bolt;

  explicit Fight(std::int64_t shots) {
    std::mt19937_64 random(7);
    const auto u = [&] { return static_cast<double>(random() >> 11) * 0x1.0p-53; };
    const auto us = *arena.add_faction("wardens"), them = *arena.add_faction("raiders");
    arena.relate(us, them, Relation::foe);
    const auto build = *arena.add_build(
        {.name = "deckhand", .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.4}, 0.4}}}});
    const auto gunner = *arena.add_build({.name = "gunner", .hitboxes = {{"all", Ball{{0, 0, 0}, 0.1}}}});
    for (std::int64_t i = 0; i < kBodies; ++i) {
      const double x = u() * side, y = u() * side, a = u() * 6.283185307179586;
      bodies.push_back(*arena.add_body(
          {.id = std::to_string(i), .build = build, .faction = them, .pose = {{x, y, 0}, {}}}));
      velocities.push_back({3 * std::cos(a), 3 * std::sin(a), 0});
    }
    live = std::make_unique<Skirmish>(arena);
    // They go through everybody, so that their number stays the same.
    Attack attack{
        .name = "bolt",
        .delivery = ShotDelivery{.path = StraightPath{.speed = kSpeed}, .radius = kRadius, .life_s = 1e6},
        .reach = {0, 1e7}};
    std::get<ShotDelivery>(attack.delivery).pierce.bodies = 1000000000;
    bolt = *live->add_attack(attack);
    for (std::int64_t i = 0; i < shots; ++i) {
      const double x = u() * side, y = u() * side, a = u() * 6.283185307179586;
      const Vec3 at{x, y, 1}, way{std::cos(a), std::sin(a), 0};
      const auto by = *arena.add_body(
          {.id = "gunner-" + std::to_string(i), .build = gunner, .faction = us, .pose = {at, {}}});
      (void)*live->start(bolt, {.by = by, .toward = AlongDirection{way}});
      ways.push_back({at, way, kSpeed * kTick});
    }
    arena.update();
    live->advance(0, [](const Strike&) {});
    for (std::int64_t i = 0; i < shots; ++i)
      (void)arena.remove(*arena.find_body("gunner-" + std::to_string(i)));
    arena.update();
  }

  /// Everybody a little on; back and forth, so that the fight stays what it is.
  void move(int tick) {
    for (std::size_t i = 0; i < bodies.size(); ++i) {
      Pose pose = arena.body(bodies[i]).pose;
      pose.at = pose.at + velocities[i] * (tick % 2 ? kTick : -kTick);
      (void)live->move(bodies[i], pose);
    }
  }
};

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

template <class Work>
double nanoseconds(Work&& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double, std::nano>(std::chrono::steady_clock::now() - start).count();
}

double median(std::vector<double> v) {
  std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
  return v[v.size() / 2];
}

/// In turn, as the machine's speed changes from moment to moment: a tick with all shots, the same with one
/// (what the bodies cost), and the bare query for all.
void tick(benchmark::State& state) {
  const auto shots = static_cast<double>(state.range(0));
  Fight fight(state.range(0)), lone(1);
  const BareQuery<Tree> query(fight);
  std::vector<double> whole, upkeep, bare, shot, ratio;
  std::size_t strikes = 0;
  int i = 0;
  const auto on = [&](Fight& f) { f.live->advance(kTick, [&](const Strike&) { ++strikes; }); };
  for (; i < 16; ++i) {
    for (Fight* f : {&fight, &lone}) f->move(i), on(*f);
  }
  const int first = i;
  strikes = 0;
  for (auto _ : state) {
    fight.move(i), lone.move(i), ++i;
    whole.push_back(nanoseconds([&] { on(fight); }));
    upkeep.push_back(nanoseconds([&] { on(lone); }));
    query();  // so that what it reads is near
    bare.push_back(nanoseconds(query));
    shot.push_back((whole.back() - upkeep.back()) / shots);
    ratio.push_back(shot.back() / (bare.back() / shots));
    state.SetIterationTime(whole.back() * 1e-9);
  }
  state.counters["in flight"] = static_cast<double>(fight.live->in_flight());
  state.counters["strikes/tick"] = static_cast<double>(strikes) / (i - first);
  state.counters["tick, us"] = median(whole) * 1e-3;
  state.counters["bodies alone, us"] = median(upkeep) * 1e-3;
  state.counters["shot, ns"] = median(shot);
  state.counters["bare query, ns"] = median(bare) / shots;
  state.counters["shot to query"] = median(ratio);
}

/// The same question without an index, over all bodies.
void plain_query(benchmark::State& state) {
  const Fight fight(state.range(0));
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
