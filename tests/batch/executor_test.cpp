#include "dardo/batch/executor.hpp"

#include <gtest/gtest.h>

#include <thread>
#include <tuple>

#include "dardo/resolve/skirmish.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::executor_test {
namespace {

/// Takes the jobs in another order, some at the same time on a thread of its own.
struct Backwards {
  void run(std::size_t jobs, Executor::Job job, void* data) {
    ++calls;
    std::thread other([&] {
      for (std::size_t i = jobs; i-- > jobs / 2;) job(data, i);
    });
    for (std::size_t i = jobs / 2; i-- > 0;) job(data, i);
    other.join();
  }
  int calls = 0;
};

struct Played {
  std::vector<Strike> strikes;
  std::vector<std::tuple<std::uint32_t, Ended, double>> ends;
  std::string bytes;
  friend bool operator==(const Played&, const Played&) = default;
};

/// Thousands of shots of all kinds among hundreds who walk, run and fall.
Played play(const Executor* executor) {
  test::Random random(5);
  test::Yard yard;
  std::vector<BodyId> bodies;
  for (int i = 0; i < 400; ++i) {
    Body body{.id = std::to_string(i), .faction = yard.raiders, .pose = {random.place(25), {}}};
    if (i % 5 == 0) body.track = {{0, body.pose}, {0.7, {random.place(25), {}}}, {2, {random.place(25), {}}}};
    bodies.push_back(yard.add(std::move(body)));
  }
  for (int i = 0; i < 40; ++i)
    yard.wall("wall-" + std::to_string(i), random.place(25), abs(random.place(2)) + Vec3{0.1, 0.1, 0.1});
  Skirmish live(yard.arena);
  if (executor != nullptr) live.set_executor(*executor);
  std::vector<AttackId> attacks;
  for (const ShotPath& path :
       {ShotPath(StraightPath{.speed = 30}), ShotPath(FallingPath{.speed = 30, .drag = 0.01}),
        ShotPath(GuidedPath{.speed = 20}), ShotPath(CurvePath{.speed = 20, .side = 5})}) {
    ShotDelivery shot{.path = path, .radius = 0.1, .life_s = 1.5};
    shot.pierce.bodies = 2, shot.ricochet.count = 2;
    shot.volley = {.count = 150, .gap_s = 0.001, .spread = Volley::Spread::gauss, .angle = 1};
    Attack attack{.name = "shot", .delivery = shot, .reach = {1, 200}};
    attack.then = {{.when = Then::When::end, .attacks = {test::blast(2)}}};
    attacks.push_back(*live.add_attack(attack));
  }
  for (std::size_t i = 0; i < 24; ++i)
    (void)*live.start(attacks[i % 4], {.by = yard.mara, .toward = bodies[15 * i + 1], .seed = i});
  Played out;
  for (int tick = 0; tick < 90; ++tick) {
    for (std::size_t i = 0; i < bodies.size(); ++i) {
      Pose pose = yard.arena.body(bodies[i]).pose;
      pose.at = pose.at + random.direction() * (i % 7 == 0 ? 2 : 0.05);
      (void)live.move(bodies[i], pose);
    }
    (void)live.advance(
        1.0 / 30, [&](const Strike& s) { return out.strikes.push_back(s), s.body.index % 3 == 0; },
        [&](const ShotEnd& e) { out.ends.emplace_back(e.launch, e.ended, e.time_s); });
  }
  out.bytes = live.save();
  return out;
}

TEST(Executor, AdvanceTellsTheSameToTheBitWhoeverSharesTheWork) {
  const Played alone = play(nullptr);
  EXPECT_GT(alone.strikes.size(), 1000u);
  EXPECT_GT(alone.ends.size(), 1000u);
  Backwards backwards;
  const Executor other(backwards);
  EXPECT_TRUE(play(&other) == alone);
  EXPECT_GT(backwards.calls, 90);
}

TEST(Executor, OnAllCoresItIsTheSame) {
  const Executor cores = on_all_cores();
  EXPECT_TRUE(play(&cores) == play(nullptr));
}

TEST(Executor, RunsEachJobOnce) {
  Backwards backwards;
  const Executor none, other(backwards), cores = on_all_cores();
  for (const Executor* executor : {&none, &other, &cores}) {
    for (const std::size_t count : {std::size_t{0}, std::size_t{1}, std::size_t{7}, std::size_t{1000}}) {
      std::vector<int> times(count);
      executor->in_parts(count, 10, [&](std::size_t from, std::size_t to) {
        for (std::size_t i = from; i < to; ++i) ++times[i];
      });
      EXPECT_EQ(times, std::vector<int>(count, 1));
    }
  }
}

}  // namespace
}  // namespace dardo::executor_test
