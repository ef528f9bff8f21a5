// What is covered, and seen: each shape of an area beside a ball that finds as many, among 10,000 bodies; an
// explosion with sight beside as many lines of sight; rays against a shore of triangles beside one of boxes.
#include <benchmark/benchmark.h>

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <memory>
#include <random>

#include "dardo/dardo.hpp"

namespace {

using namespace dardo;

struct Crowd {
  Arena arena;
  BodyId mara;
  std::vector<BodyId> all;

  /// So many deckhands on a square of 5 m each, or of `side` metres; and walls among them.
  Crowd(int count, double side, int walls) {
    std::mt19937_64 random(11);
    const auto u = [&] { return (static_cast<double>(random() >> 11) * 0x1.0p-53 - 0.5) * side; };
    const auto us = *arena.add_faction("wardens"), them = *arena.add_faction("raiders");
    arena.relate(us, them, Relation::foe);
    const auto build = *arena.add_build({.name = "deckhand",
                                         .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.3}, 0.4}},
                                                      {"head", Ball{{0, 0, 1.6}, 0.2}, 2}}});
    mara = *arena.add_body({.id = "mara", .build = build, .faction = us});
    for (int i = 0; i < count; ++i) {
      const double x = u(), y = u();
      all.push_back(*arena.add_body(
          {.id = std::to_string(i), .build = build, .faction = them, .pose = {{x, y, 0}, {}}}));
    }
    for (int i = 0; i < walls; ++i) {
      const double x = u(), y = u();
      (void)*arena.add_wall({.id = std::to_string(i), .shape = Box{{x, y, 1}, {0.5, 0.1, 1}, {}}});
    }
    arena.update();
  }
};

const Crowd& crowd() {
  static const Crowd one(10000, 500, 0);
  return one;
}

/// An area around the attacker, prepared: how many it strikes is told beside its time.
void area(benchmark::State& state, AreaShape shape, AreaDelivery::Inside inside) {
  const Crowd& c = crowd();
  const auto made = prepare(
      c.arena, {.name = "area",
                .delivery = AreaDelivery{
                    .shape = std::move(shape), .around = AreaDelivery::Around::attacker, .inside = inside}});
  if (!made) std::exit(1);
  const Launch launch{.by = c.mara, .toward = AlongDirection{{1, 0.3, 0}}};
  Outcome out;
  for (auto _ : state) resolve(c.arena, *made, launch, {.detail = Detail::strikes}, out);
  state.counters["strikes"] = static_cast<double>(out.strikes.size());
}

constexpr auto kTouches = AreaDelivery::Inside::touches;
// All of about 700 m²: 28 bodies.
BENCHMARK_CAPTURE(area, ball, BallArea{15}, kTouches);
BENCHMARK_CAPTURE(area, ring, (RingArea{6, 16.2, -1, 3}), kTouches);
BENCHMARK_CAPTURE(area, shell, (ShellArea{6, 16.2}), kTouches);
BENCHMARK_CAPTURE(area, sector, (SectorArea{1.5707963, 0, 30, -1, 3}), kTouches);
BENCHMARK_CAPTURE(area, cone, (ConeArea{1.5707963, 0, 30}), kTouches);
BENCHMARK_CAPTURE(area, box, (BoxArea{{13.3, 13.3, 3}}), kTouches);
BENCHMARK_CAPTURE(area, beam, (BeamArea{60, 5.9}), kTouches);
BENCHMARK_CAPTURE(area, capsule, (CapsuleArea{{-20, 0, 0}, {20, 0, 0}, 7}), kTouches);
BENCHMARK_CAPTURE(area, prism, (PrismArea{{{-10, -16}, {22, -10}, {22, 10}, {-10, 16}}, -1, 3}), kTouches);
BENCHMARK_CAPTURE(area, ball_centre, BallArea{15}, AreaDelivery::Inside::centre);
BENCHMARK_CAPTURE(area, ball_whole, BallArea{15}, AreaDelivery::Inside::whole);

/// An explosion that sees 500 bodies past 2,000 walls, or the lines alone.
void explosion(benchmark::State& state, bool lines_alone) {
  static const Crowd c(500, 60, 2000);
  const auto made = prepare(
      c.arena, {.name = "blast",
                .delivery = AreaDelivery{.shape = BallArea{60}, .around = AreaDelivery::Around::attacker},
                .sight = Sight(Passage::sight)});
  if (!made) std::exit(1);
  Outcome out;
  std::size_t seen = 0;
  for (auto _ : state) {
    if (lines_alone) {
      seen = 0;
      for (const BodyId body : c.all)
        seen += look(c.arena, {.place = c.arena.center(c.mara), .target = c.arena.center(body)}).seen;
    } else {
      resolve(c.arena, *made, {.by = c.mara}, {.detail = Detail::strikes}, out);
      seen = out.strikes.size();
    }
  }
  state.counters["seen"] = static_cast<double>(seen);
}
BENCHMARK_CAPTURE(explosion, with_sight, false)->Unit(benchmark::kMicrosecond);
BENCHMARK_CAPTURE(explosion, lines_of_sight, true)->Unit(benchmark::kMicrosecond);

/// A hilly shore of 10,000 triangles, or of as many boxes; rays come down on it aslant.
std::unique_ptr<Crowd> shore(bool triangles) {
  auto out = std::make_unique<Crowd>(0, 1, 0);
  constexpr int kAcross = 71;  // 2 x 71 x 71 triangles
  const auto height = [](int x, int y) { return 1.5 * std::sin(x * 0.4) * std::cos(y * 0.3); };
  Mesh mesh;
  for (int y = 0; y <= kAcross; ++y) {
    for (int x = 0; x <= kAcross; ++x) mesh.corners.push_back({2.0 * x, 2.0 * y, height(x, y)});
  }
  for (int y = 0; y < kAcross; ++y) {
    for (int x = 0; x < kAcross; ++x) {
      const auto at = [&](int i, int k) {
        return static_cast<std::uint32_t>((y + k) * (kAcross + 1) + x + i);
      };
      mesh.triangles.push_back({at(0, 0), at(1, 0), at(0, 1)});
      mesh.triangles.push_back({at(1, 0), at(1, 1), at(0, 1)});
      if (triangles) continue;
      for (int half = 0; half < 2; ++half)
        (void)*out->arena.add_wall(
            {.id = std::to_string(2 * (y * kAcross + x) + half),
             .shape = Box{{2.0 * x + 0.5 + half, 2.0 * y + 1, height(x, y)}, {0.5, 1, 0.2}, {}}});
    }
  }
  if (triangles) (void)*out->arena.add_wall({.id = "shore", .shape = std::move(mesh)});
  out->arena.update();
  return out;
}
void ray_on_shore(benchmark::State& state, bool triangles) {
  const auto c = shore(triangles);
  const auto made = prepare(c->arena, {.name = "ray", .delivery = RayDelivery{}, .reach = {0, 400}});
  std::mt19937_64 random(5);
  std::vector<Launch> launches;
  for (int i = 0; i < 256; ++i) {
    const auto u = [&] { return static_cast<double>(random() >> 11) * 0x1.0p-53; };
    Launch l{.toward = AlongDirection{{u() - 0.5, u() - 0.5, -0.4}}};
    l.from = FromPlace{{{142 * u(), 142 * u(), 12}, {}}, c->arena.faction_of(c->mara)};
    launches.push_back(l);
  }
  Outcome out;
  std::size_t i = 0, met = 0;
  for (auto _ : state) {
    resolve(c->arena, *made, launches[i++ % 256], {.detail = Detail::strikes}, out);
    met += out.ended == Ended::wall;
  }
  state.counters["met"] = benchmark::Counter(static_cast<double>(met), benchmark::Counter::kAvgIterations);
}
BENCHMARK_CAPTURE(ray_on_shore, triangles, true);
BENCHMARK_CAPTURE(ray_on_shore, boxes, false);

}  // namespace
