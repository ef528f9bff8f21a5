// Live, most flights are told apart by a look that sees several ticks ahead. Whatever the game does in the
// meantime, it must miss nothing, and leave no trace.
#include <gtest/gtest.h>

#include <algorithm>
#include <tuple>

#include "dardo/resolve/skirmish.hpp"
#include "support/effort.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::look_test {
namespace {

constexpr int kTicks = 90;

/// A fray that does the same for the same seed: shots fly while bodies walk, turn, jump, come and go, and
/// walls rise.
class Fray {
 public:
  /// `long_way`: something far off makes the skirmish follow every flight without looks.
  Fray(std::uint64_t seed, bool long_way)
      : random_(seed),
        tick_(random_.chance(0.5) ? 1.0 / 60 : 0.1),
        walks_(random_.chance(0.3) ? 0 : random_.range(0, random_.chance(0.3) ? 0.9 : 0.3)),
        happens_(random_.chance(0.5) ? 0.1 : 0.003),
        turns_(walks_ > 0.2 || random_.chance(0.3) ? 0 : random_.range(0, 0.4)),
        runs_(random_.chance(0.5) ? 0 : random_.range(0, 0.6)),
        tracks_(random_.chance(0.5) ? 0 : random_.range(0, 0.5)) {
    if (random_.chance(0.3)) yard_.arena.set_ground(-3);
    for (int i = 0; i < 40; ++i) come();
    skirmish_ = std::make_unique<Skirmish>(yard_.arena);
    for (int i = 0; i < 6; ++i) {
      ShotDelivery d;
      const double speed = random_.range(1, 60);
      d.path = StraightPath{.speed = speed};
      if (random_.chance(0.5)) d.path = FallingPath{.speed = speed};
      d.radius = random_.chance(0.3) ? 0 : random_.range(0.01, 0.5);
      d.life_s = random_.range(0.3, 3);
      d.pierce.bodies = static_cast<std::uint32_t>(random_.whole(1, 4));
      if (random_.chance(0.5)) d.again_after_s = 0.05;
      if (random_.chance(0.5)) d.ricochet = {.count = 3, .restitution = 0.8};
      Attack attack{.name = "shot", .delivery = d, .reach = {0, random_.range(5, 60)}};
      if (random_.chance(0.3)) attack.stopped_by = {Relation::friendly, Relation::neutral};
      if (random_.chance(0.3)) attack.then = {{.when = Then::When::strike, .attacks = {test::blast(1.5)}}};
      attacks_.push_back(*skirmish_->add_attack(attack));
    }
    const BodyId far = yard_.raider("far", {5000, 0, 0});
    ShotDelivery flare{.path = StraightPath{.speed = 0.01}, .life_s = 1e6};
    flare.vulnerable = long_way ? 0.1 : 0;
    const AttackId attack = *skirmish_->add_attack({.name = "flare", .delivery = flare, .reach = {0, 1e6}});
    (void)*skirmish_->start(attack, {.by = far, .toward = AlongDirection{{1, 0, 0}}});
  }

  void tick(int i, std::vector<Strike>* out) {
    const auto anybody = [&] {
      return bodies_[static_cast<std::size_t>(random_.whole(0, 1 << 20)) % bodies_.size()];
    };
    for (int k = random_.whole(0, 3); k > 0; --k) {
      const Launch launch{.by = yard_.mara,
                          .toward = AlongDirection{random_.direction()},
                          .seed = static_cast<std::uint64_t>(i)};
      (void)*skirmish_->start(attacks_[static_cast<std::size_t>(random_.whole(0, 5))], launch);
    }
    const double pace = random_.chance(0.2) ? 0 : random_.range(0.5, 1);
    for (std::size_t k = 0; k < bodies_.size(); ++k) {
      Pose pose = yard_.arena.body(bodies_[k]).pose;
      pose.at = pose.at + headings_[k] * pace;
      if (runs_ > 0 && random_.chance(0.02)) pose.turn = Rotation::about_z(3) * pose.turn;
      if (turns_ > 0) pose.turn = Rotation::about_z(turns_) * pose.turn;
      (void)skirmish_->move(bodies_[k], pose);
      if (length(pose.at) > 9) headings_[k] = pose.at * (-walks_ / length(pose.at));
    }
    if (random_.chance(happens_)) (void)skirmish_->move(anybody(), {random_.place(8), {}});   // in one tick
    if (random_.chance(happens_)) (void)yard_.arena.move(anybody(), {random_.place(8), {}});  // at once
    if (random_.chance(happens_)) come();
    if (random_.chance(happens_)) {
      (void)yard_.arena.remove(bodies_.back());
      bodies_.pop_back(), headings_.pop_back();
    }
    if (random_.chance(0.5 * happens_))
      yard_.wall("wall-" + std::to_string(i), random_.place(9), abs(random_.place(3)) + Vec3{0.1, 0.1, 0.1});
    if (random_.chance(0.2 * happens_)) yard_.arena.set_ground(random_.range(-9, -2));
    if (random_.chance(0.2 * happens_)) {
      const Vec3 half = Vec3{1, 1, 1} * random_.range(8, 20);
      skirmish_->set_bounds(Bounds{-half, half});
    }
    const double dt = random_.chance(0.05) ? 0 : tick_;
    if (dt == 0) {  // in no time every way is a jump
      for (int k = 0; k < 10; ++k) (void)skirmish_->move(anybody(), {random_.place(8), {}});
    }
    skirmish_->advance(dt, [&](const Strike& s) {
      if (out != nullptr) out->push_back(s);
    });
  }

  Skirmish& skirmish() { return *skirmish_; }

 private:
  void come() {
    Body body{.id = "raider-" + std::to_string(next_++),
              .build = random_.chance(0.5) ? yard_.post : crab_,
              .faction = random_.chance(0.8) ? yard_.raiders : yard_.passengers,
              .pose = {random_.place(9), {}}};
    // Some on tracks that stand, go, turn and jump.
    for (double t = 0; random_.chance(tracks_) && t < kTicks * tick_; t += random_.range(0, 1)) {
      const Rotation turn = random_.chance(0.5) ? Rotation{} : Rotation::about_z(random_.range(-3, 3));
      body.track.push_back({t, {random_.chance(0.3) ? random_.place(9) : body.pose.at, turn}});
    }
    bodies_.push_back(yard_.add(std::move(body)));
    headings_.push_back(random_.direction() * random_.range(0, walks_) * (random_.chance(runs_) ? 8 : 1));
  }

  test::Random random_;
  double tick_, walks_, happens_, turns_;
  double runs_, tracks_;  ///< so many go far in a tick, or on tracks
  test::Yard yard_;
  BuildId crab_ =
      *yard_.arena.add_build({.name = "crab",
                              .hitboxes = {{"shell", Box{{0, 0, 0}, {0.7, 0.4, 0.3}, {}}, 0.5},
                                           {"claw", Capsule{{0.5, 0, 0}, {1.2, 0.3, 0}, 0.1}, 2}}});
  std::vector<BodyId> bodies_;
  std::vector<Vec3> headings_;  ///< of each, in a tick at full pace
  std::vector<AttackId> attacks_;
  int next_ = 0;
  std::unique_ptr<Skirmish> skirmish_;
};

TEST(Look, MissesNothing) {
  std::size_t strikes = 0;
  for (std::uint64_t seed = 1; seed <= test::effort<std::uint64_t>(60); ++seed) {
    Fray looks(seed, false), follows(seed, true);
    std::vector<Strike> a, b;
    for (int i = 0; i < kTicks; ++i) looks.tick(i, &a), follows.tick(i, &b);
    strikes += a.size();
    ASSERT_EQ(a.size(), b.size()) << seed;
    // What comes at the same instant may be told apart by the last bit of its time.
    const auto by_shot = [](const Strike& s, const Strike& t) {
      return std::tie(s.launch, s.stage, s.body.index, s.time_s) <
             std::tie(t.launch, t.stage, t.body.index, t.time_s);
    };
    std::sort(a.begin(), a.end(), by_shot), std::sort(b.begin(), b.end(), by_shot);
    for (std::size_t i = 0; i < a.size(); ++i) {
      ASSERT_EQ(a[i].body, b[i].body) << seed << " strike " << i;
      ASSERT_EQ(a[i].launch, b[i].launch) << seed << " strike " << i;
      ASSERT_NEAR(a[i].time_s, b[i].time_s, 1e-9) << seed << " strike " << i;
    }
  }
  EXPECT_GT(strikes, test::effort<std::size_t>(60) * 10);
}

TEST(Look, LeavesNoTrace) {
  for (std::uint64_t seed = 1; seed <= test::effort<std::uint64_t>(60); ++seed) {
    Fray first(seed, false), second(seed, false);
    std::vector<Strike> a, b;
    for (int i = 0; i < kTicks; ++i) {
      // The second one forgets all that it has seen, at every fifth tick.
      if (i % 5 == 3) ASSERT_TRUE(second.skirmish().restore(second.skirmish().save()));
      first.tick(i, &a), second.tick(i, &b);
    }
    ASSERT_EQ(a, b) << seed;
    ASSERT_EQ(first.skirmish().save(), second.skirmish().save()) << seed;
  }
}

}  // namespace
}  // namespace dardo::look_test
