// Aiming, and one launch of what is integrated: alone, and among bodies that walk on tracks.
#include <benchmark/benchmark.h>

#include <random>

#include "dardo/dardo.hpp"
#include "dardo/resolve/aimed.hpp"

namespace {

using namespace dardo;

/// A thrower, a target 60 m ahead that stands, walks or walks and turns, and a crowd around.
struct Range {
  Arena arena;
  BodyId mara, raider;
  Attack attack{.name = "shot", .reach = {0, 400}};
  Launch launch;

  enum class Target { stands, walks, turns };
  explicit Range(const ShotDelivery& shot, Aiming aim, Target target, int crowd = 0, bool tracks = false) {
    const auto us = *arena.add_faction("wardens"), them = *arena.add_faction("raiders");
    arena.relate(us, them, Relation::foe);
    const auto build = *arena.add_build(
        {.name = "deckhand", .hitboxes = {{"trunk", Capsule{{0.3, 0, 0.4}, {0.3, 0, 1.4}, 0.4}}}});
    mara = *arena.add_body({.id = "mara", .build = build, .faction = us});
    Body raider_body{.id = "raider", .build = build, .faction = them, .pose = {{60, 10, 0}, {}}};
    const Rotation turned = target == Target::turns ? Rotation::about_z(3) : Rotation{};
    if (target != Target::stands) raider_body.track = {{0, raider_body.pose}, {8, {{60, 30, 0}, turned}}};
    raider = *arena.add_body(raider_body);
    std::mt19937_64 random(7);
    const auto u = [&] { return static_cast<double>(random() >> 11) * 0x1.0p-53; };
    for (int i = 0; i < crowd; ++i) {
      const Vec3 at{u() * 160 - 20, u() * 160 - 80, 0}, to = at + Vec3{u() - 0.5, u() - 0.5, 0} * 40;
      Body body{.id = std::to_string(i), .build = build, .faction = us, .pose = {at, {}}};
      for (int key = 0; tracks && key < 8; ++key) body.track.push_back({2.0 * key, {key % 2 ? to : at, {}}});
      (void)*arena.add_body(body);
    }
    arena.update();
    attack.delivery = shot;
    launch = {.by = mara, .toward = AtBody{raider}, .aim = aim};
  }
};
using Target = Range::Target;

ShotDelivery shot(ShotPath path) {
  ShotDelivery out;
  out.path = std::move(path), out.radius = 0.05, out.life_s = 8;
  return out;
}

void aiming(benchmark::State& state, const ShotDelivery& delivery, Aiming aiming, Target target) {
  const Range range(delivery, aiming, target);
  std::size_t ways = 0;
  for (auto _ : state) ways = dardo::aim(range.arena, range.attack, range.launch).ways.size();
  state.counters["ways"] = static_cast<double>(ways);
}
void one(benchmark::State& state, const ShotDelivery& delivery, int crowd, bool tracks) {
  const Range range(delivery, Aiming::direct, Target::walks, crowd, tracks);
  std::size_t strikes = 0;
  for (auto _ : state)
    strikes = resolve(range.arena, range.attack, range.launch, Detail::strikes).strikes.size();
  state.counters["strikes"] = static_cast<double>(strikes);
}

const ShotDelivery kBolt = shot(StraightPath{.speed = 40}), kStone = shot(FallingPath{.speed = 30}),
                   kWeak = shot(FallingPath{.speed = 12}),
                   kFeather = shot(FallingPath{.speed = 40, .drag = 0.01}),
                   kWeakFeather = shot(FallingPath{.speed = 12, .drag = 0.02}),
                   kCurve = shot(CurvePath{.speed = 24, .side = 5}), kSeeker = shot(GuidedPath{.speed = 24});

BENCHMARK_CAPTURE(aiming, straight, kBolt, Aiming::lead, Target::walks);
BENCHMARK_CAPTURE(aiming, arc, kStone, Aiming::lead, Target::walks);
BENCHMARK_CAPTURE(aiming, no_way, kWeak, Aiming::lead, Target::walks);
BENCHMARK_CAPTURE(aiming, turning, kBolt, Aiming::lead, Target::turns);
BENCHMARK_CAPTURE(aiming, drag, kFeather, Aiming::lead, Target::walks);
BENCHMARK_CAPTURE(aiming, drag_and_turning, kFeather, Aiming::lead, Target::turns);
BENCHMARK_CAPTURE(aiming, drag_no_way, kWeakFeather, Aiming::lead, Target::walks);
BENCHMARK_CAPTURE(one, curve, kCurve, 1000, false);
BENCHMARK_CAPTURE(one, guided, kSeeker, 1000, false);
BENCHMARK_CAPTURE(one, drag, kFeather, 1000, false);
BENCHMARK_CAPTURE(one, straight, kBolt, 1000, false);
BENCHMARK_CAPTURE(one, curve_among_tracks, kCurve, 1000, true);
BENCHMARK_CAPTURE(one, guided_among_tracks, kSeeker, 1000, true);
BENCHMARK_CAPTURE(one, drag_among_tracks, kFeather, 1000, true);
BENCHMARK_CAPTURE(one, straight_among_tracks, kBolt, 1000, true);

}  // namespace
