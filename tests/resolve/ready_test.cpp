#include <gtest/gtest.h>

#include <functional>

#include "dardo/dardo.hpp"
#include "support/yard.hpp"

namespace dardo::ready_test {
namespace {

using test::Yard;
using Why = NotReady::Why;

/// One raider, ten metres ahead.
struct Duel : Yard {
  BodyId raider_1 = raider("raider-1", {10, 0, 0});

  Ready ask(const Attack& attack, double at = 0, const History& history = {}, Toward toward = {}) {
    arena.update();
    if (std::holds_alternative<AlongFacing>(toward)) toward = raider_1;
    return ready(arena, attack, {.by = mara, .toward = toward, .at_s = at}, history);
  }
};

Attack with(Readiness ready) {
  Attack out = test::kBolt;
  out.ready = std::move(ready);
  return out;
}

TEST(Readiness, UsesComeBackOneByOneOrTogether) {
  Duel duel;
  Attack attack = with({.uses = Uses{.count = 2, .back_after_s = 3}});
  History history;
  EXPECT_TRUE(duel.ask(attack, 0, history).yes());
  history.note(duel.mara, attack, 0);
  EXPECT_TRUE(duel.ask(attack, 0, history).yes());
  history.note(duel.mara, attack, 1);
  // The first is back at 3 s, the second at 6.
  const Ready no = duel.ask(attack, 2, history);
  ASSERT_EQ(no.missing.size(), 1u);
  EXPECT_EQ(no.missing[0].why, Why::uses);
  EXPECT_EQ(no.missing[0].in_s, 1);
  EXPECT_EQ(explain(no.missing[0], duel.arena), "ready in 1.00 s: its uses are spent");
  EXPECT_TRUE(duel.ask(attack, 3, history).yes());
  history.note(duel.mara, attack, 3);
  EXPECT_EQ(duel.ask(attack, 4, history).missing.at(0).in_s, 2);
  // Another attacker has its own.
  duel.arena.update();
  EXPECT_TRUE(
      ready(duel.arena, attack, {.by = duel.raider_1, .toward = duel.mara, .at_s = 4}, history).yes());

  attack.ready->uses->back = Uses::Back::together;
  history.clear();
  history.note(duel.mara, attack, 0), history.note(duel.mara, attack, 1);
  EXPECT_EQ(duel.ask(attack, 3, history).missing.at(0).in_s, 1);
  EXPECT_TRUE(duel.ask(attack, 4, history).yes());
  history.note(duel.mara, attack, 4);
  EXPECT_TRUE(duel.ask(attack, 4.5, history).yes());
}

TEST(Readiness, RestsCostsAndLeaves) {
  Duel duel;
  ASSERT_TRUE(duel.arena.set_number(duel.mara, "breath", 10).empty());
  ASSERT_TRUE(duel.arena.set_number(duel.mara, "breath_most", 40).empty());
  const Attack attack =
      with({.rest_s = 2,
            .costs = {{.number = "breath", .amount = 6, .leaves = 0.2, .leaves_share = "breath_most"}}});
  History history;
  history.note(duel.mara, attack, 1);
  const Ready no = duel.ask(attack, 1.5, history);
  ASSERT_EQ(no.missing.size(), 2u);
  EXPECT_EQ(explain(no.missing[0], duel.arena), "ready in 1.50 s: it rests");
  EXPECT_EQ(explain(no.missing[1], duel.arena), "needs 4 more breath");
  ASSERT_TRUE(duel.arena.set_number(duel.mara, "breath", 14).empty());
  EXPECT_TRUE(duel.ask(attack, 3, history).yes());
}

TEST(Readiness, AsksForWhatCameBefore) {
  Duel duel;
  Attack lash = test::kBolt;
  lash.name = "lash";
  const Attack combo = with({.before = {{.attack = "lash", .within_s = 2}}});
  const Attack calm = with({.before = {{.attack = "lash", .within_s = 2, .must = false}}});
  History history;
  EXPECT_EQ(duel.ask(combo, 1, history).missing.at(0).why, Why::before);
  EXPECT_TRUE(duel.ask(calm, 1, history).yes());
  history.note(duel.mara, lash, 1);
  EXPECT_TRUE(duel.ask(combo, 3, history).yes());
  EXPECT_FALSE(duel.ask(combo, 3.1, history).yes());
  const Ready no = duel.ask(calm, 2.5, history);
  EXPECT_EQ(explain(no.missing.at(0), duel.arena), "ready in 0.50 s: lash has just come");
  EXPECT_TRUE(duel.ask(calm, 3.1, history).yes());
}

TEST(Readiness, AsksForTagsFacingDistanceAndSight) {
  Duel duel;
  EXPECT_EQ(duel.ask(with({.needs = {"drawn"}})).missing.at(0).why, Why::tag_missing);
  ASSERT_TRUE(duel.arena.set_tags(duel.mara, {"drawn"}).empty());
  EXPECT_TRUE(duel.ask(with({.needs = {"drawn"}})).yes());
  EXPECT_EQ(duel.ask(with({.forbids = {"drawn"}})).missing.at(0).why, Why::tag_forbidden);
  const Attack narrow = with({.facing = 0.5});
  EXPECT_TRUE(duel.ask(narrow).yes());
  const Ready aside = duel.ask(narrow, 0, {}, AlongDirection{{0, 1, 0}});
  EXPECT_EQ(explain(aside.missing.at(0), duel.arena), "its aim lies 61.4° too far aside");
  // To its nearest point, from the centre: 9.5 m.
  EXPECT_TRUE(duel.ask(with({.nearest = 9.5, .farthest = 9.5})).yes());
  EXPECT_DOUBLE_EQ(duel.ask(with({.nearest = 10})).missing.at(0).missing.value(), 0.5);
  EXPECT_EQ(duel.ask(with({.farthest = 9})).missing.at(0).why, Why::too_far);
  EXPECT_EQ(duel.ask(with({.farthest = 9}), 0, {}, AtPlace{{20, 0, 0}}).missing.at(0).missing, 11);
  EXPECT_TRUE(duel.ask(with({.sight = Sight{}})).yes());
  duel.wall("crate", {5, 0, 0}, {1, 1, 1});
  const Ready blind = duel.ask(with({.sight = Sight{}}));
  EXPECT_EQ(blind.missing.at(0).why, Why::sight);
  EXPECT_NE(explain(blind.missing.at(0), duel.arena).find("crate"), std::string::npos);
}

TEST(Readiness, RefusesWithTheSameWords) {
  Duel duel;
  const Attack attack = with({.costs = {{.number = "breath", .amount = 6}}});
  duel.arena.update();
  const Outcome out = resolve(duel.arena, attack, {.by = duel.mara, .toward = duel.raider_1});
  EXPECT_EQ(out.ended, Ended::not_ready);
  EXPECT_TRUE(out.strikes.empty());
  EXPECT_EQ(out.problems.at(0).what, "is not ready: needs 6 more breath");
  Skirmish live(duel.arena);
  const AttackId id = *live.add_attack(attack);
  const auto refused = live.start(id, {.by = duel.mara, .toward = duel.raider_1});
  ASSERT_FALSE(refused);
  EXPECT_EQ(refused.error().at(0).what, "is not ready: needs 6 more breath");
  // What has no attacker cannot be ready.
  const Outcome placed =
      resolve(duel.arena, attack, {.toward = duel.raider_1, .from = FromPlace{{}, duel.wardens}});
  EXPECT_EQ(placed.problems.at(0).where, "/launch/from");
}

TEST(Readiness, ARunningGameKeepsItsHistoryAndSavesIt) {
  Duel duel;
  ASSERT_TRUE(duel.arena.set_number(duel.mara, "breath", 10).empty());
  duel.arena.update();
  Attack attack =
      with({.uses = Uses{.count = 1, .back_after_s = 2}, .costs = {{.number = "breath", .amount = 4}}});
  attack.at_release = {Status{.name = "winded", .lasts_s = 0.5, .gives = {"winded"}}};
  attack.ready->forbids = {"winded"};
  auto live = std::make_unique<Skirmish>(duel.arena);
  ASSERT_TRUE(live->keep_ledger(true).empty());
  AttackId id = *live->add_attack(attack);
  const Launch launch{.by = duel.mara, .toward = duel.raider_1};
  const auto words = [&] {
    std::string out;
    for (const NotReady& m : live->ready(id, launch).missing) out += explain(m, duel.arena) + "; ";
    return out;
  };
  EXPECT_EQ(words(), "");
  ASSERT_TRUE(live->start(id, launch));
  // Later ones are asked when their time comes.
  Launch later = launch;
  later.at_s = 1.75;
  ASSERT_TRUE(live->start(id, later));
  std::vector<Ended> ends;
  const auto advance = [&](double dt) {
    return live->advance(
        dt, [](const Strike&) {}, [&](const ShotEnd& e) { ends.push_back(e.ended); });
  };
  ASSERT_TRUE(advance(0.25).empty());
  EXPECT_EQ(words(), "ready in 1.75 s: its uses are spent; its attacker has the tag winded; ");
  const std::string bytes = live->save();
  live = std::make_unique<Skirmish>(duel.arena);
  id = *live->add_attack(attack);
  ASSERT_TRUE(live->restore(bytes));
  EXPECT_EQ(live->save(), bytes);
  EXPECT_EQ(words(), "ready in 1.75 s: its uses are spent; its attacker has the tag winded; ");
  ASSERT_TRUE(advance(1.5).empty());
  ASSERT_TRUE(advance(0.125).empty());
  EXPECT_EQ(ends, (std::vector<Ended>{Ended::not_ready}));
  ASSERT_TRUE(advance(0.125).empty());
  EXPECT_EQ(words(), "");
  EXPECT_EQ(duel.arena.number(duel.mara, "breath"), 6);
}

TEST(Readiness, TogetherEachWaitsForItsTurn) {
  Duel duel;
  duel.arena.update();
  const Attack attack = with({.uses = Uses{.count = 1, .back_after_s = 2}});
  Attack lash = test::kBolt;
  lash.name = "lash";
  const Attack combo = with({.before = {{.attack = "lash", .within_s = 1}}});
  std::vector<Launching> all;
  const auto add = [&](const Attack& what, double at) {
    all.push_back({what, {.by = duel.mara, .toward = duel.raider_1, .at_s = at}});
  };
  add(attack, 0), add(attack, 1), add(attack, 2), add(combo, 2.5), add(lash, 3), add(combo, 3.5);
  std::vector<Ended> ends;
  for (const Outcome& o : resolve_together(duel.arena, all)) ends.push_back(o.ended);
  const Ended no = Ended::not_ready, yes = Ended::strike;
  EXPECT_EQ(ends, (std::vector<Ended>{yes, no, yes, no, yes, yes}));
}

}  // namespace
}  // namespace dardo::ready_test
