// Ticks that are not usual, each in turn with the usual one in the same run: `ratio` is the median of what
// they take against it. Of kinds of shots it is what one of a thousand takes against a straight one.
#include <benchmark/benchmark.h>

#include "dardo/batch/executor.hpp"
#include "skirmish/fight.hpp"

namespace {

using namespace bench;

void usual_to(benchmark::State& state, const Manner& manner) {
  Fight usual({.shots = manner.shots, .two_sides = manner.two_sides}), other(manner);
  std::vector<double> theirs, ratio;
  int i = 0;
  const auto both = [&] {
    usual.move(i), other.move(i), ++i;
    const double one = nanoseconds([&] { usual.tick(); }), two = nanoseconds([&] { other.tick(); });
    theirs.push_back(two), ratio.push_back(two / one);
    return two;
  };
  while (i < kWarm) both();
  theirs.clear(), ratio.clear();
  for (auto _ : state) state.SetIterationTime(both() * 1e-9);
  state.counters["tick, us"] = median(theirs) * 1e-3;
  state.counters["strikes/tick"] = static_cast<double>(other.strikes) / i;
  state.counters["ratio"] = median(ratio);
}

void straight_to(benchmark::State& state, Manner manner) {
  manner.shots = 1000;
  Manner same = manner, none = manner;
  same.shot = Manner().shot, same.at_bodies = false, none.shots = 1;
  Fight straight(same), other(manner), alone(none);
  std::vector<double> a, b, ratio;
  int i = 0;
  const auto all = [&] {
    for (Fight* f : {&straight, &other, &alone}) f->move(i);
    ++i;
    const double lone = nanoseconds([&] { alone.tick(); });
    a.push_back(nanoseconds([&] { straight.tick(); }) - lone);
    b.push_back(nanoseconds([&] { other.tick(); }) - lone);
    return b.back() + lone;
  };
  while (i < kWarm) all();
  a.clear(), b.clear();
  for (auto _ : state) state.SetIterationTime(all() * 1e-9);
  state.counters["in flight"] = static_cast<double>(other.live->in_flight());
  state.counters["shot, ns"] = median(b) / 1000;
  state.counters["ratio"] = median(b) / median(a);
}

/// One where each shot strikes: about 150 a tick.
std::vector<Then> blasts() {
  return {
      {.when = Then::When::strike,
       .attacks = {{.name = "blast", .delivery = AreaDelivery{.shape = BallArea{3}}, .reach = {0, 1e7}}}}};
}

/// A thousand shots set off in one tick, all from among the bodies.
void launches(benchmark::State& state) {
  Fight fight({.shots = 1000});
  ShotDelivery brief = fight.manner.shot;
  brief.life_s = 0.01;
  const AttackId attack = *fight.live->add_attack({.name = "brief", .delivery = brief, .reach = {0, 1e7}});
  std::vector<double> each;
  for (auto _ : state) {
    fight.move(0), fight.tick();
    const double took = nanoseconds([&] {
      for (std::size_t i = 0; i < 1000; ++i)
        (void)*fight.live->start(attack, {.by = fight.bodies[i], .toward = AlongDirection{{1, 0, 0}}});
      (void)fight.live->advance(0, [](const Strike&) {});
    });
    each.push_back(took / 1000);
    state.SetIterationTime(took * 1e-9);
  }
  state.counters["each, ns"] = median(each);
}
BENCHMARK(launches)->Iterations(60)->UseManualTime()->Unit(benchmark::kMicrosecond);

/// How many times as fast with all cores as with one.
void on_cores(benchmark::State& state) {
  Fight alone({.shots = state.range(0)}), shared({.shots = state.range(0)});
  shared.live->set_executor(on_all_cores());
  std::vector<double> times;
  int i = 0;
  for (auto _ : state) {
    alone.move(i), shared.move(i), ++i;
    const double one = nanoseconds([&] { alone.tick(); }), two = nanoseconds([&] { shared.tick(); });
    if (i > kWarm) times.push_back(one / two);
    state.SetIterationTime(two * 1e-9);
  }
  state.counters["times as fast"] = median(times);
}
BENCHMARK(on_cores)->Arg(10000)->Arg(100000)->Iterations(76)->UseManualTime()->Unit(benchmark::kMicrosecond);

/// How many times as long a tick takes with ten times as many shots.
void growth(benchmark::State& state, Manner manner) {
  Fight few(manner);
  manner.shots *= 10;
  Fight many(manner);
  std::vector<double> grows;
  int i = 0;
  for (auto _ : state) {
    few.move(i), many.move(i), ++i;
    const double one = nanoseconds([&] { few.tick(); }), two = nanoseconds([&] { many.tick(); });
    if (i > kWarm) grows.push_back(two / one);
    state.SetIterationTime(two * 1e-9);
  }
  state.counters["grows"] = median(grows);
}
#define DARDO_GROWTH(name, ...)                        \
  BENCHMARK_CAPTURE(growth, name, Manner{__VA_ARGS__}) \
      ->Iterations(40)                                 \
      ->UseManualTime()                                \
      ->Unit(benchmark::kMicrosecond)

#define DARDO_ROW(kind, name, ...)                   \
  BENCHMARK_CAPTURE(kind, name, Manner{__VA_ARGS__}) \
      ->Iterations(60)                               \
      ->UseManualTime()                              \
      ->Unit(benchmark::kMicrosecond)

DARDO_ROW(usual_to, itself);
DARDO_ROW(usual_to, one_fast, .fast = 1, .fast_speed = 55);
DARDO_ROW(usual_to, hundred_fast, .fast = 100, .fast_speed = 100);
DARDO_ROW(usual_to, thousand_fast, .fast = 1000, .fast_speed = 100);
DARDO_ROW(usual_to, hundred_on_tracks, .tracked = 100);
DARDO_ROW(usual_to, thousand_on_tracks, .tracked = 1000);
DARDO_ROW(usual_to, hundred_turning_round, .turning = 100);
DARDO_ROW(usual_to, all_fast_in_long_ticks, .walk = 12, .tick_s = 0.1);
DARDO_ROW(usual_to, hiccup_of_400_ms, .tick_s = 0.4);

DARDO_ROW(usual_to, one_spawns, .one_spawns = true);
DARDO_ROW(usual_to, one_jumps, .one_jumps = true);
DARDO_ROW(usual_to, one_goes, .one_goes = true);
DARDO_ROW(usual_to, kills_75, .kills = 75);
DARDO_ROW(usual_to, blasts, .then = blasts());

/// Three of each strike: damage that is rolled, a number that changes, a name of the game's own.
std::vector<Effect> three_effects() {
  return {Damage{.amount = 4, .up_to = 9, .kind = "blade"}, Change{.number = "fear", .by = 1},
          Custom{.name = "splash", .text = {}}};
}
DARDO_ROW(usual_to, three_effects, .effects = three_effects());

ShotDelivery vulnerable() {
  ShotDelivery shot = Manner().shot;
  shot.vulnerable = 0.1;
  return shot;
}
DARDO_ROW(usual_to, shot_down, .shot = vulnerable(), .two_sides = true);
DARDO_ROW(usual_to, shot_down_by_nobody, .shot = vulnerable());

ShotDelivery with_least_speed() {
  ShotDelivery shot = Manner().shot;
  shot.least_speed = 1;
  return shot;
}
ShotDelivery blade() {
  ShotDelivery shot = Manner().shot;
  shot.radius = 0, shot.shape = Box{{}, {0.2, 0.05, 0.02}, {}};
  return shot;
}

DARDO_ROW(straight_to, guided, .shot = endless(GuidedPath{.speed = kSpeed}), .onward = true,
          .at_bodies = true);
DARDO_ROW(straight_to, guided_at_swerving, .shot = endless(GuidedPath{.speed = kSpeed}), .onward = true,
          .swerving = true, .at_bodies = true);
DARDO_ROW(straight_to, leading, .shot = endless(GuidedPath{.speed = kSpeed, .lead = true}), .onward = true,
          .at_bodies = true);
DARDO_ROW(straight_to, curve, .shot = endless(CurvePath{.speed = kSpeed, .side = 20, .returns = false}));
DARDO_ROW(straight_to, drag, .shot = endless(FallingPath{.speed = kSpeed, .gravity = 0, .drag = 0.002}));
DARDO_ROW(straight_to, blade, .shot = blade());
DARDO_ROW(straight_to, least_speed, .shot = with_least_speed());

DARDO_GROWTH(usual);
DARDO_GROWTH(hundred_fast, .fast = 100, .fast_speed = 100);
DARDO_GROWTH(thousand_fast, .fast = 1000, .fast_speed = 100);
DARDO_GROWTH(thousand_on_tracks, .tracked = 1000);
DARDO_GROWTH(one_jumps, .one_jumps = true);
DARDO_GROWTH(hiccup_of_400_ms, .tick_s = 0.4);
DARDO_GROWTH(kills_75, .kills = 75);
DARDO_GROWTH(blasts, .then = blasts());
DARDO_GROWTH(shot_down, .shot = vulnerable(), .two_sides = true);
DARDO_GROWTH(drag, .shot = endless(FallingPath{.speed = kSpeed, .gravity = 0, .drag = 0.002}));
DARDO_GROWTH(guided, .shot = endless(GuidedPath{.speed = kSpeed}), .onward = true, .at_bodies = true);

}  // namespace
