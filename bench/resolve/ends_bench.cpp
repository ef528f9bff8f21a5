// Attacks that would run without end, or nearly: each ends by itself in under 50 ms, or at its limits in
// under a second. The counter `limits` says how many of those were met.
#include <benchmark/benchmark.h>

#include <cstdio>
#include <cstdlib>

#include "dardo/dardo.hpp"

namespace {

using namespace dardo;

/// A thrower 5 m up, somebody to throw at, and what else a row needs.
struct Place {
  Arena arena;
  FactionId us = *arena.add_faction("wardens"), them = *arena.add_faction("raiders");
  BuildId post = *arena.add_build({.name = "post", .hitboxes = {{"all", Ball{{}, 0.5}}}});
  MaterialId timber = *arena.add_material({.name = "timber"});
  BodyId mara, raider;
  Attack attack{.name = "attack", .reach = {0, 1e6}};
  Toward toward = AlongDirection{{1, 0, 0}};
  Aiming aim = Aiming::direct;

  Place() {
    arena.relate(us, them, Relation::foe);
    mara = *arena.add_body({.id = "mara", .build = post, .faction = us, .pose = {{0, 0, 5}, {}}});
    raider = *arena.add_body({.id = "raider", .build = post, .faction = them, .pose = {{20, 0, 5}, {}}});
  }
  void wall(const char* id, const Vec3& at, const Vec3& half) {
    (void)*arena.add_wall({.id = id, .shape = Box{at, half, {}}, .material = timber});
  }
};

ShotDelivery shot(ShotPath path, double life_s) {
  ShotDelivery out;
  out.path = std::move(path), out.life_s = life_s;
  return out;
}
ShotDelivery volley(std::uint32_t count) {
  ShotDelivery out = shot(StraightPath{.speed = 10}, 0.1);
  out.volley = {.count = count, .spread = Volley::Spread::cone, .angle = 0.5};
  return out;
}

void volleys_of_volleys(Place& p) {
  Attack inner{.name = "a", .delivery = volley(7), .reach = {0, 100}};
  for (int i = 0; i < 7; ++i) {
    Attack outer{.name = "a", .delivery = volley(7), .reach = {0, 100}};
    outer.then = {{.when = Then::When::end, .attacks = {std::move(inner)}}};
    inner = std::move(outer);
  }
  p.attack = std::move(inner);
}
void ten_thousand_squared(Place& p) {
  p.attack.delivery = volley(10000);
  p.attack.then = {{.when = Then::When::end, .attacks = {{.name = "b", .delivery = volley(10000)}}}};
}
void ricochets_in_2_cm(Place& p) {
  ShotDelivery bolt = shot(StraightPath{.speed = 100}, 3600);
  bolt.radius = 0.01, bolt.ricochet.count = 1'000'000;
  p.attack.delivery = bolt;
  p.wall("east", {0.62, 0, 5}, {0.1, 5, 5}), p.wall("west", {-0.62, 0, 5}, {0.1, 5, 5});
}
void slow_curve(Place& p) {
  p.attack.delivery = shot(CurvePath{.speed = 0.01}, 18000);
  p.toward = AtBody{p.raider};
}
void bouncing(Place& p, double drag) {
  ShotDelivery ball = shot(FallingPath{.speed = 10, .drag = drag}, 1e4);
  ball.ricochet.count = 1'000'000;
  p.attack.delivery = ball;
  p.toward = AlongDirection{{0, 1, 0.5}};
  (void)p.arena.set_ground(0);
}
void bouncing_for_an_hour(Place& p) { bouncing(p, 0); }
void bouncing_with_drag(Place& p) { bouncing(p, 0.1); }
void five_thousand_in_one_place(Place& p) {
  for (int i = 0; i < 5000; ++i)
    (void)*p.arena.add_body(
        {.id = std::to_string(i), .build = p.post, .faction = p.them, .pose = {{20, 0, 5}, {}}});
  ShotDelivery bolt = shot(StraightPath{.speed = 10}, 10);
  bolt.pierce.bodies = 1'000'000;
  p.attack.delivery = bolt;
}
void lead_with_drag(Place& p) {
  p.raider = *p.arena.add_body({.id = "runner",
                                .build = p.post,
                                .faction = p.them,
                                .track = {{0, {{20, 0, 5}, {}}}, {20, {{20, 40, 5}, {}}}}});
  p.attack.delivery = shot(FallingPath{.speed = 40, .drag = 0.01}, 10);
  p.toward = AtBody{p.raider}, p.aim = Aiming::lead;
}
void box_thrown_up(Place& p) {
  ShotDelivery box = shot(FallingPath{.speed = 12}, 10);
  box.shape = Box{{}, {0.6, 0.2, 0.1}, {}};
  p.attack.delivery = box;
  p.toward = AlongDirection{{0, 0, 1}};
}
void slowing_cylinder_at_a_cone(Place& p) {
  const BuildId cone =
      *p.arena.add_build({.name = "cone", .hitboxes = {{"all", Cone{{0, 0, 1}, {0, 0, 0}, 0.5}}}});
  (void)*p.arena.add_body({.id = "cone", .build = cone, .faction = p.them, .pose = {{7.9, 0.3, 4.6}, {}}});
  ShotDelivery log = shot(StraightPath{.speed = 8, .acceleration = -4}, 10);
  log.shape = Cylinder{{-0.5, 0, 0}, {0.5, 0, 0}, 0.25};
  p.attack.delivery = log;
}

void ends(benchmark::State& state, void (*set_up)(Place&)) {
  Place p;
  set_up(p);
  p.arena.update();
  std::size_t limits = 0;
  for (auto _ : state) {
    const Outcome out = resolve(p.arena, p.attack, {.by = p.mara, .toward = p.toward, .aim = p.aim});
    if (out.ended == Ended::refused) {
      std::fprintf(stderr, "%s %s\n", out.problems[0].where.c_str(), out.problems[0].what.c_str());
      std::exit(1);
    }
    limits = out.limits_met.size();
  }
  state.counters["limits"] = static_cast<double>(limits);
}

#define DARDO_ENDS(row) BENCHMARK_CAPTURE(ends, row, row)->Unit(benchmark::kMillisecond)
DARDO_ENDS(volleys_of_volleys);
DARDO_ENDS(ten_thousand_squared);
DARDO_ENDS(ricochets_in_2_cm);
DARDO_ENDS(slow_curve);
DARDO_ENDS(bouncing_for_an_hour);
DARDO_ENDS(bouncing_with_drag);
DARDO_ENDS(five_thousand_in_one_place);
DARDO_ENDS(lead_with_drag);
DARDO_ENDS(box_thrown_up);
DARDO_ENDS(slowing_cylinder_at_a_cone);

}  // namespace
