// Saved bytes are never trusted: what is damaged, foreign or made up is refused, or means a state that is
// played on.
#include <gtest/gtest.h>

#include <limits>

#include "dardo/resolve/skirmish.hpp"
#include "resolve/machine/bytes.hpp"
#include "support/effort.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::bytes_test {
namespace {

struct Game {
  test::Yard yard;
  BodyId raider = yard.raider("raider", {12, 0, 0});
  Skirmish live{yard.arena};
  AttackId dart, oil, hook, keg, spark, bolts, leap;

  explicit Game(double reach = 60) {
    yard.wall("wall", {6, 4, 0}, {1, 1, 4});
    ShotDelivery shot{.path = GuidedPath{.speed = 5}, .radius = 0.1};
    shot.volley = {.count = 3, .gap_s = 0.1, .spread = Volley::Spread::cone, .angle = 0.2};
    shot.ricochet.count = 2, shot.sticks = true, shot.pierce.bodies = 2;
    dart = *live.add_attack({.name = "dart", .delivery = shot, .reach = {0, reach}});
    oil = *live.add_attack(
        {.name = "oil",
         .delivery =
             AreaDelivery{.shape = BallArea{3}, .lasts = Lasts{.for_s = 5, .every_s = 0.25, .growth = 0.1}},
         .cap = 1});
    hook = *live.add_attack({.name = "hook",
                             .delivery = SwingDelivery{.blade = CapsuleArea{{0.5, 0, 0}, {2, 0, 0}, 0.1},
                                                       .keys = {{0, {}, 0}, {2, {}, 9}}}});
    keg = *live.add_attack(
        {.name = "keg",
         .delivery = TrapDelivery{.shape = BallArea{2}, .armed_after_s = 0.9, .vulnerable = 0.5},
         .then = {{.when = Then::When::trigger, .attacks = {test::blast(3)}}}});
    Attack jumps{.name = "spark", .delivery = ChainDelivery{.hop = 9, .delay_s = 0.4}};
    jumps.then = {{.when = Then::When::strike, .delay_s = 0.7, .attacks = {test::blast(1)}}};
    spark = *live.add_attack(jumps);
    Attack waves = test::blast(20);
    waves.stagger_s = 0.5, waves.burst = Burst{.count = 4, .gap_s = 0.3};
    waves.effects = {Status{.name = "burning",
                            .lasts_s = 3,
                            .again = Status::Again::add,
                            .most = 3,
                            .gives = {"hot"},
                            .ticks = Ticks{.every_s = 0.2, .effects = {Damage{.amount = 1, .up_to = 2}}}},
                     Status{.name = "marked", .lasts_s = std::numeric_limits<double>::infinity()}};
    waves.ready = Readiness{.uses = Uses{.count = 2, .back_after_s = 5}, .forbids = {"hot"}};
    waves.tags = {"smoke"};
    bolts = *live.add_attack(waves);
    leap = *live.add_attack(
        {.name = "leap", .delivery = DashDelivery{.speed = 4, .beside = 1, .rise = 1}, .cap = 2});
    yard.raider("another", {13, 3, 0}), yard.raider("third", {10, -2, 0});
    (void)yard.arena.set_number(raider, "health", 1e6);
    (void)live.keep_ledger(true);
  }
  void play(int ticks) {
    for (int i = 0; i < ticks; ++i) (void)live.advance(1.0 / 30, [](const Strike&) {});
  }
  std::string saved() {
    (void)*live.start(dart, {.by = yard.mara, .toward = AtBody{raider, "all"}, .seed = 5});
    (void)*live.start(dart, {.toward = raider,
                             .from = FromPlace{{{2, 9, 1}, Rotation::about_z(1)}, yard.wardens},
                             .leaving = Vec3{0, 0, 1}});
    AtChoice choice{
        .within = 30, .order = {ByNumber{"health"}, ByDistance::most}, .sight = Sight(Passage::shots)};
    (void)*live.start(dart, {.by = yard.mara, .toward = choice, .at_s = 0.75});
    (void)*live.start(dart, {.by = yard.mara, .toward = raider, .at_s = 0.72});
    for (const AttackId lasting : {oil, hook, keg, spark, bolts, leap})
      (void)*live.start(lasting, {.by = yard.mara, .toward = raider});
    play(20);
    (void)*live.start(dart, {.by = yard.mara, .toward = raider});
    (void)live.move(raider, {{12, 1, 0}, {}});
    (void)live.set_bounds(Bounds{{-50, -50, -50}, {50, 50, 50}});
    return live.save();
  }
};

TEST(Bytes, EachDamagedByteIsSeen) {
  Game game, other;
  const std::string bytes = game.saved();
  ASSERT_TRUE(other.live.restore(bytes));
  EXPECT_EQ(other.live.save(), bytes) << "nothing is lost: bounds and moves that wait, too";
  for (std::size_t i = 0; i < bytes.size(); ++i) {
    std::string damaged = bytes;
    damaged[i] = static_cast<char>(damaged[i] ^ 0x11);
    EXPECT_FALSE(other.live.restore(damaged)) << i;
    EXPECT_FALSE(other.live.restore(bytes.substr(0, i))) << i;
  }
  EXPECT_FALSE(other.live.restore(bytes + "x"));
  EXPECT_EQ(other.live.save(), bytes) << "nothing has changed";
  Game longer(61);
  EXPECT_FALSE(longer.live.restore(bytes)) << "of another attack";
  Game fuller;
  fuller.yard.raider("one-more", {3, 3, 0});
  EXPECT_FALSE(fuller.live.restore(bytes)) << "of another arena";
}

TEST(Bytes, AStrikeThatWaitsForABodyThatIsGoneIsSavedToo) {
  test::Yard yard;
  for (const int i : {1, 2, 3}) (void)yard.raider("raider-" + std::to_string(i), {1.0 * i, 0, 0});
  Attack slow = test::blast(5);
  slow.stagger_s = 0.1;
  Skirmish live(yard.arena);
  (void)*live.start(*live.add_attack(slow), {.by = yard.mara, .toward = AtPlace{{0, 0, 1}}});
  std::vector<std::string> struck;
  const auto note = [&](const Strike& s) {
    struck.push_back(yard.arena.body(s.body).id);
    return false;
  };
  ASSERT_TRUE(live.advance(0.05, note).empty());
  ASSERT_TRUE(yard.arena.remove(*yard.arena.find_body("raider-2")));
  yard.arena.update();
  Skirmish again(yard.arena);
  (void)*again.add_attack(slow);
  ASSERT_TRUE(again.restore(live.save()));
  for (int i = 0; i < 10; ++i) ASSERT_TRUE(again.advance(0.05, note).empty());
  EXPECT_EQ(struck, (std::vector<std::string>{"raider-1", "raider-3"}));
}

/// Whoever makes bytes up can make up their sum, too.
TEST(Bytes, MadeUpStatesAreRefusedOrPlayedOn) {
  Game game;
  const std::string bytes = game.saved();
  test::Random random(7);
  int taken = 0;
  for (int i = 0; i < test::effort(800); ++i) {
    std::string patched = bytes.substr(0, bytes.size() - 8);
    for (int k = random.whole(1, 3); k > 0; --k) {
      const auto at = static_cast<std::size_t>(random.whole(25, static_cast<int>(patched.size()) - 1));
      patched[at] = static_cast<char>(random.chance(0.3) ? random.whole(0, 255)
                                                         : patched[at] ^ (1 << random.whole(0, 7)));
    }
    detail::Hash sum;
    sum.add(std::string_view(patched));
    for (int b = 0; b < 64; b += 8) patched.push_back(static_cast<char>(sum.value() >> b & 0xff));
    Game other;
    if (!other.live.restore(patched)) continue;
    ++taken;
    other.play(3);
    std::vector<ShotView> shots;
    other.live.shots(shots);
  }
  EXPECT_GT(taken, 0);
}

/// Of what a callback may do, each is either done for the tick after or refused.
TEST(Bytes, WithinACallbackNothingIsChanged) {
  Game game;
  (void)*game.live.start(game.dart, {.by = game.yard.mara, .toward = game.raider});
  int called = 0;
  for (int i = 0; i < 200; ++i) {
    EXPECT_TRUE(
        game.live
            .advance(
                1.0 / 30,
                [&](const Strike&) {
                  ++called;
                  Arena& arena = game.yard.arena;
                  EXPECT_EQ(game.live.save(), "");
                  EXPECT_FALSE(game.live.restore(""));
                  EXPECT_FALSE(game.live.advance(1, [](const Strike&) {}).empty());
                  EXPECT_FALSE(game.live.set_bounds({}).empty());
                  EXPECT_FALSE(arena.remove(game.raider));
                  EXPECT_FALSE(arena.set_fallen(game.raider, true));
                  EXPECT_FALSE(arena.move(game.raider, {}).empty());
                  EXPECT_FALSE(arena.add_body({.id = "new"}).has_value());
                  EXPECT_TRUE(
                      game.live.start(game.dart, {.by = game.yard.mara, .toward = game.raider}).has_value());
                  EXPECT_TRUE(game.live.move(game.yard.mara, {{0, 0, 0.1}, {}}).empty());
                })
            .empty());
  }
  EXPECT_GT(called, 3) << "what was started from within has flown, too";
  EXPECT_EQ(game.yard.arena.body(game.yard.mara).pose.at.z, 0.1);
  for (const double dt : {static_cast<double>(INFINITY), -1.0, static_cast<double>(NAN), 1e300})
    EXPECT_FALSE(game.live.advance(dt, [](const Strike&) {}).empty()) << dt;
  EXPECT_TRUE(game.live.advance(0.1, [](const Strike&) {}).empty()) << "and nothing is lost by it";
}

}  // namespace
}  // namespace dardo::bytes_test
