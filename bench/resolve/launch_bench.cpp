// One launch in a field of upright bodies at constant density, beside the same launch without the index: an
// arena that was never updated looks at every body, by the same code. The answers are compared before
// anything is timed.
#include <benchmark/benchmark.h>

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <map>
#include <memory>
#include <random>

#include "dardo/dardo.hpp"

namespace {

using namespace dardo;

struct Field {
  Arena arena;
  std::vector<Launch> launches;
  Attack ray{.name = "bolt", .delivery = RayDelivery{}, .reach = {0, 40}};
  Attack area{.name = "blast", .delivery = AreaDelivery{.shape = BallArea{8}}, .reach = {0, 1e7}};
};

std::unique_ptr<Field> make_field(std::int64_t count, bool indexed) {
  auto f = std::make_unique<Field>();
  std::mt19937_64 random(7);
  const double side = 5 * std::sqrt(static_cast<double>(count));
  const auto place = [&] {
    const auto u = [&] { return static_cast<double>(random() >> 11) * 0x1.0p-53 * side; };
    const double x = u(), y = u();
    return Vec3{x, y, 0};
  };
  const auto us = *f->arena.add_faction("wardens"), them = *f->arena.add_faction("raiders");
  f->arena.relate(us, them, Relation::foe);
  const auto build = *f->arena.add_build(
      {.name = "deckhand",
       .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.3}, 0.4}}, {"head", Ball{{0, 0, 1.6}, 0.2}, 2}}});
  const auto timber = *f->arena.add_material({.name = "timber"});
  for (std::int64_t i = 0; i < count; ++i) {
    (void)*f->arena.add_body(
        {.id = std::to_string(i), .build = build, .faction = i % 4 ? them : us, .pose = {place(), {}}});
  }
  for (std::int64_t i = 0; i < count / 10; ++i) {
    (void)*f->arena.add_wall(
        {.id = std::to_string(i), .shape = Box{place(), {2, 0.4, 1.5}, {}}, .material = timber});
  }
  const auto bodies = f->arena.bodies();
  for (int i = 0; i < 256; ++i) {
    const BodyId by = bodies[4 * (random() % (bodies.size() / 4))];
    const double angle = static_cast<double>(random() % 3600) / 3600 * 6.283185307179586;
    f->launches.push_back({.by = by, .toward = AlongDirection{{std::cos(angle), std::sin(angle), 0}}});
  }
  if (indexed) f->arena.update();
  return f;
}

Field& field(std::int64_t count, bool indexed) {
  static std::map<std::pair<std::int64_t, bool>, std::unique_ptr<Field>> fields;
  auto& f = fields[{count, indexed}];
  if (!f) f = make_field(count, indexed);
  return *f;
}

Launch launch_of(const Field& f, std::size_t i, bool area) {
  Launch l = f.launches[i % f.launches.size()];
  if (area) l.toward = AtPlace{f.arena.center(l.by)};
  return l;
}

void launches(benchmark::State& state, bool area, bool indexed) {
  const Field& f = field(state.range(0), indexed);
  const Field& other = field(state.range(0), !indexed);
  const Attack& attack = area ? f.area : f.ray;
  for (std::size_t i = 0; i < 32; ++i) {
    const auto a = resolve(f.arena, attack, launch_of(f, i, area), Detail::strikes);
    const auto b = resolve(other.arena, attack, launch_of(f, i, area), Detail::strikes);
    if (!(a == b) || a.ended == Ended::refused) {
      std::fprintf(stderr, "the index and the plain loop disagree on launch %zu\n", i);
      std::exit(1);
    }
  }
  std::size_t i = 0, strikes = 0;
  for (auto _ : state) {
    strikes += resolve(f.arena, attack, launch_of(f, i++, area), Detail::strikes).strikes.size();
  }
  state.counters["strikes"] =
      benchmark::Counter(static_cast<double>(strikes), benchmark::Counter::kAvgIterations);
}

BENCHMARK_CAPTURE(launches, ray_index, false, true)->RangeMultiplier(10)->Range(100, 100000);
BENCHMARK_CAPTURE(launches, ray_plain_loop, false, false)->RangeMultiplier(10)->Range(100, 100000);
BENCHMARK_CAPTURE(launches, area_index, true, true)->RangeMultiplier(10)->Range(100, 100000);
BENCHMARK_CAPTURE(launches, area_plain_loop, true, false)->RangeMultiplier(10)->Range(100, 100000);

}  // namespace
