// Two sides of bodies on tracks, all of them shooting at once with attacks of all kinds that shoot each
// other's shots down: told alike in ticks of any length, saved and restored on the way, and whoever shares
// the work.
#include <gtest/gtest.h>

#include <algorithm>
#include <memory>
#include <tuple>

#include "dardo/batch/executor.hpp"
#include "dardo/resolve/skirmish.hpp"
#include "support/effort.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::fray_test {
namespace {

constexpr double kPlay = 2.5;

class Fray {
 public:
  explicit Fray(std::uint64_t seed) : random_(seed) {
    if (random_.chance(0.5)) (void)yard_.arena.set_ground(-2);
    for (int i = 0; i < 24; ++i) come(i, i % 2 == 0 ? yard_.wardens : yard_.raiders);
    for (int i = 0; i < 12; ++i)
      yard_.wall("wall-" + std::to_string(i), random_.place(15), abs(random_.place(2)) + Vec3{0.1, 0.1, 0.1});
    yard_.arena.update();
    live_ = std::make_unique<Skirmish>(yard_.arena);
    if (random_.chance(0.3)) (void)live_->set_limits({.alive = 5, .strikes = 20});
    for (int i = 0; i < 6; ++i) {
      const auto attack = live_->add_attack(draw_attack(0));
      if (attack) attacks_.push_back(*attack);
    }
  }

  /// What is told of it: of which kind, of which launch, what, at which stage, when.
  using Told = std::vector<std::tuple<int, std::uint32_t, std::uint32_t, std::uint32_t, double>>;
  Told play(double dt, const Executor* executor, bool restored) {
    if (executor != nullptr) live_->set_executor(*executor);
    for (std::size_t i = 0; i < bodies_.size() && !attacks_.empty(); ++i) {
      const BodyId at = bodies_[(i + 1 + 2 * (i % 5)) % bodies_.size()];
      (void)live_->start(attacks_[i % attacks_.size()], {.by = bodies_[i], .toward = at, .seed = i});
    }
    Told told;
    for (int tick = 1; live_->time() < kPlay; ++tick) {
      (void)live_->advance(
          std::min(tick * dt, kPlay) - live_->time(),
          [&](const Strike& s) {
            told.emplace_back(0, s.launch, s.body.index, s.stage, s.time_s);
            return s.body.index % 4 == 0;
          },
          [&](const ShotEnd& e) {
            told.emplace_back(1, e.launch, static_cast<std::uint32_t>(e.ended), 0, e.time_s);
          },
          [&](const LimitMet& m) {
            told.emplace_back(2, m.launch, static_cast<std::uint32_t>(m.limit), 0, m.time_s);
          });
      if (restored && tick % 7 == 0) EXPECT_TRUE(live_->restore(live_->save()));
    }
    // What comes at one time may be told apart by its last bit.
    std::sort(told.begin(), told.end());
    return told;
  }

 private:
  /// Some walk, some race, some jump; all turn.
  void come(int number, FactionId faction) {
    Body body{.id = std::to_string(number), .faction = faction, .pose = {random_.place(15), {}}};
    const double most = number % 6 == 0 ? 12 : 1;
    Vec3 at = body.pose.at;
    for (double t = 0; t < kPlay; t += random_.range(0.2, 0.9)) {
      const auto turn = Rotation::about_z(random_.range(-3, 3));
      if (random_.chance(0.1)) body.track.push_back({t, {at, turn}}), at = random_.place(15);
      body.track.push_back({t, {at, turn}});
      at = at + random_.place(most);
    }
    bodies_.push_back(yard_.add(std::move(body)));
  }

  ShotPath draw_path() {
    const double speed = random_.range(8, 40);
    switch (random_.whole(0, 4)) {
      case 0: return FallingPath{.speed = speed, .drag = random_.chance(0.5) ? 0.02 : 0};
      case 1:
        return GuidedPath{.speed = speed, .lead = random_.chance(0.5), .lost = GuidedPath::Lost::pick_anew};
      case 2: return CurvePath{.speed = speed, .side = random_.range(-5, 5)};
      case 3: return LobPath{.flight_time_s = random_.range(0.5, 1.5)};
      default: return StraightPath{.speed = speed};
    }
  }
  Attack draw_attack(int depth) {
    Attack attack{.name = "attack", .reach = {random_.chance(0.3) ? 1.0 : 0.0, 100}};
    if (depth > 0 && random_.chance(0.6)) {
      attack.delivery = AreaDelivery{.shape = BallArea{random_.range(1, 5)}};
      if (random_.chance(0.4)) attack.delivery = RayDelivery{};
      return attack;
    }
    ShotDelivery shot{
        .path = draw_path(), .radius = random_.chance(0.5) ? 0 : 0.1, .life_s = random_.range(0.3, 2)};
    if (random_.chance(0.2)) shot.radius = 0, shot.shape = Box{{}, {0.3, 0.05, 0.02}, {}};
    if (random_.chance(0.6)) shot.vulnerable = random_.range(0.2, 1);
    if (random_.chance(0.5))
      shot.volley = {.count = 5, .gap_s = 0.03, .spread = Volley::Spread::cone, .angle = 0.3};
    shot.pierce.bodies = static_cast<std::uint32_t>(random_.whole(1, 3));
    if (random_.chance(0.4)) shot.ricochet = {.count = 2, .restitution = 0.8};
    if (random_.chance(0.3)) shot.least_speed = 3;
    shot.sticks = random_.chance(0.3);
    attack.delivery = shot;
    if (depth < 2 && random_.chance(0.6)) {
      const auto when = random_.chance(0.5) ? Then::When::end : Then::When::strike;
      attack.then = {{.when = when, .attacks = {draw_attack(depth + 1)}}};
    }
    return attack;
  }

  test::Random random_;
  test::Yard yard_;
  std::vector<BodyId> bodies_;
  std::vector<AttackId> attacks_;
  std::unique_ptr<Skirmish> live_;
};

TEST(Fray, IsToldAlikeInAllWays) {
  const Executor cores = on_all_cores();
  std::size_t strikes = 0, downed = 0;
  for (std::uint64_t seed = 1; seed <= test::effort<std::uint64_t>(40) && !HasFailure(); ++seed) {
    const Fray::Told usual = Fray(seed).play(1.0 / 60, nullptr, false);
    for (const auto& [kind, launch, what, stage, time] : usual) {
      strikes += kind == 0;
      downed += kind == 1 && what == static_cast<std::uint32_t>(Ended::shot_down);
    }
    struct Way {
      double dt;
      const Executor* executor;
      bool restored;
    };
    for (const Way& way :
         {Way{1.0 / 60, &cores, false}, Way{1.0 / 60, nullptr, true}, Way{1.0 / 12, nullptr, false},
          Way{1.0 / 144, &cores, true}, Way{1.0 / 3, nullptr, false}, Way{kPlay, nullptr, false}}) {
      SCOPED_TRACE(testing::Message() << "seed " << seed << ", ticks of " << way.dt << " s");
      const Fray::Told told = Fray(seed).play(way.dt, way.executor, way.restored);
      ASSERT_EQ(told.size(), usual.size());
      for (std::size_t i = 0; i < told.size(); ++i) {
        const auto& [kind, launch, what, stage, time] = told[i];
        const auto& [kind_1, launch_1, what_1, stage_1, time_1] = usual[i];
        ASSERT_EQ(std::tie(kind, launch, what, stage), std::tie(kind_1, launch_1, what_1, stage_1))
            << i << " at " << time;
        ASSERT_NEAR(time, time_1, 1e-6) << "launch " << launch << ", kind " << kind << ", " << what;
      }
    }
  }
  EXPECT_GT(strikes, test::effort<std::size_t>(40) * 10);
  EXPECT_GT(downed, test::effort<std::size_t>(40));
}

}  // namespace
}  // namespace dardo::fray_test
