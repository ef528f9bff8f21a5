// One 60 Hz tick of shots in flight among moving bodies, on one thread: a Skirmish; the bare query of the
// geometry kernel for the same ways (a moving ball against the bodies whose boxes it touches, with the same
// tree), and the same without the index, over all bodies.
#include <benchmark/benchmark.h>

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <memory>
#include <random>

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

void tick(benchmark::State& state) {
  Fight fight(state.range(0));
  std::size_t strikes = 0;
  int i = 0;
  const auto one = [&](double dt) { fight.live->advance(dt, [&](const Strike&) { ++strikes; }); };
  for (int warm = 0; warm < 16; ++warm) fight.move(i++), one(kTick);
  for (auto _ : state) {
    state.PauseTiming();
    fight.move(i++);
    state.ResumeTiming();
    one(kTick);
  }
  state.counters["in flight"] = static_cast<double>(fight.live->in_flight());
  state.counters["strikes/tick"] = static_cast<double>(strikes) / static_cast<double>(i);
  state.counters["per shot"] =
      benchmark::Counter(static_cast<double>(state.range(0)),
                         benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}

/// What is the least that must be asked: each shot's way against the capsules near it, grown by its radius.
template <class Index>
void bare_query(benchmark::State& state) {
  Fight fight(state.range(0));
  std::vector<Entry> entries;
  std::vector<Capsule> capsules;
  for (std::uint32_t i = 0; i < fight.bodies.size(); ++i) {
    capsules.push_back(std::get<Capsule>(fight.arena.hitboxes(fight.bodies[i])[0]));
    entries.push_back({bounds(capsules.back()), i});
    capsules.back().radius += kRadius;
  }
  Index index;
  index.build(entries);
  for (auto _ : state) {
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
  state.counters["per shot"] =
      benchmark::Counter(static_cast<double>(state.range(0)),
                         benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}

BENCHMARK(tick)->Arg(1)->Arg(1000)->Arg(10000)->Arg(100000)->Unit(benchmark::kMicrosecond);
BENCHMARK(bare_query<Tree>)->Arg(10000)->Arg(100000)->Unit(benchmark::kMicrosecond);
BENCHMARK(bare_query<PlainLoop>)->Arg(1000)->Unit(benchmark::kMicrosecond);

}  // namespace
