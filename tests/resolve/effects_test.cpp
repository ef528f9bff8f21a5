#include <gtest/gtest.h>

#include <cmath>
#include <functional>

#include "dardo/dardo.hpp"
#include "support/allocations.hpp"
#include "support/effort.hpp"
#include "support/yard.hpp"

namespace dardo::effects_test {
namespace {

using test::Yard;

const DamageDone& damage_of(const Strike& s, std::size_t i = 0) {
  return std::get<DamageDone>(s.effects.at(i).what);
}

/// A yard with two raiders in a row, ten and eleven metres ahead, each with some health.
struct Row : Yard {
  BodyId one = add({.id = "one",
                    .faction = raiders,
                    .pose = {{10, 0, 0}, {}},
                    .numbers = {{"health", 20}, {"health_most", 25}}});
  BodyId two = add({.id = "two", .faction = raiders, .pose = {{12, 0, 0}, {}}, .numbers = {{"health", 20}}});

  Outcome shoot(const Attack& attack, std::uint64_t seed = 0, Detail detail = Detail::verdicts) {
    arena.update();
    return resolve(arena, attack, {.by = mara, .toward = one, .seed = seed}, detail);
  }
};

Attack bolt(std::vector<Effect> effects) {
  Attack out = test::kBolt;
  out.power = 1, out.effects = std::move(effects);
  return out;
}

TEST(Damage, ComesToItsAmountInTheStatedOrder) {
  struct Case {
    Damage damage;
    double power;
    std::vector<Resistance> resists;
    double amount;
  };
  const std::vector<Case> cases{
      {{.amount = 10}, 1, {}, 10},
      {{.amount = 10}, 1.5, {}, 15},
      {{.amount = 10, .by_power = false}, 1.5, {}, 10},
      {{.amount = 10, .kind = "fire"}, 1, {{"fire", 0.5}}, 5},
      {{.amount = 10, .kind = "cold"}, 1, {{"fire", 0.5}}, 10},
      {{.amount = 10, .kind = "fire"}, 1, {{"", 0.5}, {"fire", 0.5}}, 2.5},
      {{.amount = 10}, 1, {{"", 0.5}}, 5},
      // Armour before the factor, never below nothing; below 0 it adds.
      {{.amount = 10, .kind = "fire"}, 2, {{"fire", 0.5, 4}}, 8},
      {{.amount = 10, .kind = "fire"}, 1, {{"fire", 1, 12}}, 0},
      {{.amount = 10, .kind = "fire"}, 1, {{"fire", 2, -1}}, 22},
      // A floor, where anything was dealt and nobody is immune.
      {{.amount = 10, .kind = "fire"}, 1, {{"fire", 1, 12, 3}}, 3},
      {{.amount = 10, .kind = "fire"}, 1, {{"fire", 0, 0, 3}}, 0},
      {{.amount = 0, .kind = "fire"}, 1, {{"fire", 1, 0, 3}}, 0},
      {{.amount = 10, .kind = "fire"}, 1, {{"fire", 1, 12, 3}, {"", 1, 0, 2}}, 3},
      {{.amount = 10}, -1, {}, 0},
      {{.amount = 5, .round = Rounding::down}, 1.5, {}, 7},
      {{.amount = 5, .round = Rounding::up}, 1.5, {}, 8},
      {{.amount = 5, .round = Rounding::nearest}, 1.5, {}, 8},
      {{.amount = 5, .round = Rounding::nearest}, 1.3, {}, 7},
  };
  for (std::size_t i = 0; i < cases.size(); ++i) {
    Row row;
    ASSERT_TRUE(row.arena.set_resists(row.one, cases[i].resists).empty());
    Attack attack = bolt({cases[i].damage});
    attack.power = cases[i].power;
    const Outcome out = row.shoot(attack);
    ASSERT_EQ(out.strikes.size(), 1u) << i;
    EXPECT_DOUBLE_EQ(damage_of(out.strikes[0]).amount, cases[i].amount) << i;
    EXPECT_EQ(damage_of(out.strikes[0]).left, std::max(0.0, 20 - cases[i].amount)) << i;
  }
}

TEST(Power, IsTheProductOfWhatItListsToTheBit) {
  Row row;
  Attack attack = bolt({Damage{.amount = 3}});
  attack.power = 1.1, attack.level_factor = 1.3;
  attack.by_distance = Falloff{Falloff::Curve::linear, 30, {}};
  attack.critical = Critical{1, 1.7};
  const Outcome out = row.shoot(attack);
  const Strike& s = out.strikes.at(0);
  EXPECT_EQ(s.distance, 9.5);
  EXPECT_EQ(s.power.distance, 1 - 9.5 / 30);
  EXPECT_EQ(s.power.level, 1.3);
  EXPECT_EQ(s.power.critical, 1.7);
  double product = 1;
  for (const Power::Factor& f : s.power.factors()) product *= f.factor;
  EXPECT_EQ(s.power.arriving(), product);
  EXPECT_EQ(damage_of(s).amount, 3 * product);
  EXPECT_EQ(explain(s.power), "power 1.66118 = 1.1 x distance 0.683333 x level 1.3 x critical 1.7");
}

TEST(Chance, RollsAsOftenAndAsFarAsItSays) {
  const int kSeeds = test::kSanitized ? 5'000 : 100'000;
  Row row;
  Attack attack = bolt({Damage{.amount = 10, .up_to = 20}, Custom{"gong", ""}});
  attack.effects[1].chance = 0.3;
  attack.critical = Critical{0.2, 2};
  attack.effects[0].name = "burn";
  row.arena.update();
  const PreparedAttack made = *prepare(row.arena, attack);
  double sum = 0, squares = 0;
  int gongs = 0, criticals = 0;
  Outcome out;
  for (int seed = 0; seed < kSeeds; ++seed) {
    resolve(row.arena, made, {.by = row.mara, .toward = row.one, .seed = static_cast<std::uint64_t>(seed)},
            {.detail = Detail::strikes}, out);
    const double rolled = damage_of(out.strikes[0]).rolled;
    sum += rolled, squares += (rolled - 15) * (rolled - 15);
    gongs += out.strikes[0].effects.size() > 1;
    criticals += out.strikes[0].power.critical > 1;
  }
  // Four standard deviations of the mean of so many.
  const double n = kSeeds, deviation = 10 / std::sqrt(12.0);
  EXPECT_NEAR(sum / n, 15, 4 * deviation / std::sqrt(n));
  EXPECT_NEAR(squares / n, deviation * deviation, 4 * deviation * deviation * std::sqrt(0.8 / n));
  EXPECT_NEAR(gongs / n, 0.3, 4 * std::sqrt(0.3 * 0.7 / n));
  EXPECT_NEAR(criticals / n, 0.2, 4 * std::sqrt(0.2 * 0.8 / n));
}

TEST(Chance, OfNoneAndOfOneIsExactAndNobodyShiftsAnother) {
  Row row;
  for (std::uint64_t seed = 0; seed < 200; ++seed) {
    Attack attack = bolt({Damage{.amount = 1, .up_to = 9, .kind = "fire"}});
    const double alone = damage_of(row.shoot(attack, seed).strikes[0]).rolled;
    Effect never(Custom{"never", ""}), always(Custom{"always", ""});
    never.chance = 0, always.chance = 1;
    Effect ice(Damage{.amount = 1, .up_to = 9, .kind = "ice"});
    attack.effects = {never, ice, always, attack.effects[0]};
    attack.critical = Critical{0.5, 1};
    const Outcome out = row.shoot(attack, seed);
    ASSERT_EQ(out.strikes[0].effects.size(), 3u);
    ASSERT_EQ(out.strikes[0].spared.size(), 1u);
    EXPECT_EQ(out.strikes[0].spared[0].why, EffectSpared::Why::chance);
    EXPECT_EQ(damage_of(out.strikes[0], 2).rolled, alone);
    EXPECT_NE(damage_of(out.strikes[0], 0).rolled, alone);
  }
}

TEST(Ledger, FellsWhomDamageBringsToNothingInAWholeResolution) {
  Row row;
  Attack volley{
      .name = "volley",
      .delivery = ShotDelivery{.path = StraightPath{.speed = 50}, .volley = {.count = 5, .gap_s = 0.1}},
      .effects = {Damage{.amount = 8}}};
  const Outcome out = row.shoot(volley);
  // Three shots fell the first, the others pass where it stood and strike the second.
  ASSERT_EQ(out.strikes.size(), 5u);
  for (std::size_t i = 0; i < 5; ++i) {
    EXPECT_EQ(out.strikes[i].body, i < 3 ? row.one : row.two);
    EXPECT_EQ(out.strikes[i].felled, i == 2);
    EXPECT_EQ(out.strikes[i].by, row.mara);
    EXPECT_EQ(out.strikes[i].carrier, i);
    EXPECT_EQ(out.strikes[i].attack, "volley");
  }
  EXPECT_EQ(damage_of(out.strikes[2]).left, 0);
  row.arena.update();
  const Outcome without = resolve(row.arena, volley, {.by = row.mara, .toward = row.one}, {.ledger = false});
  for (const Strike& s : without.strikes) EXPECT_EQ(s.body, row.one);
  EXPECT_FALSE(damage_of(without.strikes[0]).left);
}

TEST(Ledger, HealsUpToAndChangesAndSpares) {
  Row row;
  Effect thorns(Damage{.amount = 5}), spend(Change{.number = "breath", .by = -4});
  thorns.on = spend.on = Effect::On::attacker;
  Effect wet(Custom{"splash", ""});
  wet.needs = {"wet"};
  Attack attack = bolt({Heal{.amount = 9, .at_most = "health_most"}, Change{.number = "fear", .by = 2},
                        Change{.number = "fear", .set_to = 7}, thorns, spend, wet});
  ASSERT_TRUE(row.arena.set_number(row.mara, "health", 5).empty());
  const Outcome out = row.shoot(attack);
  const Strike& s = out.strikes.at(0);
  EXPECT_EQ(std::get<HealDone>(s.effects.at(0).what).left, 25);
  EXPECT_EQ(std::get<ChangeDone>(s.effects.at(1).what).left, 2);
  EXPECT_EQ(std::get<ChangeDone>(s.effects.at(2).what).left, 7);
  EXPECT_EQ(s.effects.at(3).on, row.mara);
  EXPECT_EQ(damage_of(s, 3).left, 0);
  EXPECT_FALSE(s.felled);  // the attacker is
  EXPECT_EQ(std::get<ChangeDone>(s.effects.at(4).what).left, -4);
  ASSERT_EQ(s.spared.size(), 1u);
  EXPECT_EQ(s.spared[0].why, EffectSpared::Why::tag_missing);
  EXPECT_EQ(explain(s.spared[0]), "lacks the tag wet");
}

TEST(Ledger, ARunningGameHasWhatAWholeResolutionTells) {
  Attack volley{
      .name = "volley",
      .delivery = ShotDelivery{.path = StraightPath{.speed = 50}, .volley = {.count = 5, .gap_s = 0.1}},
      .effects = {Damage{.amount = 3, .up_to = 12}}};
  Row row;
  const Outcome whole = row.shoot(volley, 5);
  for (const double dt : {1.0 / 144, 1.0 / 10, 2.0}) {
    Row again;
    again.arena.update();
    Skirmish live(again.arena);
    ASSERT_TRUE(live.keep_ledger(true).empty());
    (void)*live.start(*live.add_attack(volley), {.by = again.mara, .toward = again.one, .seed = 5});
    std::vector<Strike> strikes;
    while (live.under_way() > 0)
      ASSERT_TRUE(live.advance(dt, [&](const Strike& s) { strikes.push_back(s); }).empty());
    ASSERT_EQ(strikes.size(), whole.strikes.size());
    for (std::size_t i = 0; i < strikes.size(); ++i) {
      EXPECT_EQ(strikes[i].effects, whole.strikes[i].effects);
      EXPECT_EQ(strikes[i].felled, whole.strikes[i].felled);
    }
    for (const BodyId body : {again.one, again.two}) {
      double health = 20;
      for (const Strike& s : whole.strikes) {
        if (s.body == body) health = *damage_of(s).left;
      }
      EXPECT_EQ(again.arena.number(body, "health"), health);
      EXPECT_EQ(again.arena.body(body).fallen, health == 0);
    }
  }
}

/// A damage tick of fire each half second.
Status burning(double lasts, bool at_start, bool at_end) {
  return {.name = "burning",
          .lasts_s = lasts,
          .ticks = Ticks{.every_s = 0.5,
                         .at_start = at_start,
                         .at_end = at_end,
                         .effects = {Damage{.amount = 1, .up_to = 3, .kind = "fire", .by_power = false}}}};
}
std::vector<double> tick_times(const std::vector<Happening>& all) {
  std::vector<double> out;
  for (const Happening& h : all) {
    if (h.what == Happening::What::ticked) out.push_back(h.time_s);
  }
  return out;
}

TEST(Statuses, TickAtTheirExactTimes) {
  using Times = std::vector<double>;
  const auto ticks = [](const Status& status) {
    Row row;
    const Outcome out = row.shoot(bolt({status}));
    EXPECT_EQ(out.happenings.back().what, Happening::What::over);
    EXPECT_EQ(out.happenings.back().time_s, status.lasts_s);
    return tick_times(out.happenings);
  };
  EXPECT_EQ(ticks(burning(2, false, true)), (Times{0.5, 1, 1.5, 2}));
  EXPECT_EQ(ticks(burning(2, false, false)), (Times{0.5, 1, 1.5}));
  EXPECT_EQ(ticks(burning(2, true, true)), (Times{0, 0.5, 1, 1.5, 2}));
  EXPECT_EQ(ticks(burning(2, true, false)), (Times{0, 0.5, 1, 1.5}));
  EXPECT_EQ(ticks(burning(1.75, false, true)), (Times{0.5, 1, 1.5}));
  EXPECT_EQ(ticks(burning(0, true, true)), (Times{0}));
  EXPECT_EQ(ticks(burning(0.25, false, true)), (Times{}));
}

/// All that is told of a play.
struct Told {
  std::vector<Strike> strikes;
  std::vector<Happening> happenings;
};
/// Shoots at each of the times, and plays on to the end of all.
Told play(Row& row, const Attack& attack, const std::vector<double>& at, double dt, bool saved) {
  row.arena.update();
  auto live = std::make_unique<Skirmish>(row.arena);
  const AttackId id = *live->add_attack(attack);
  EXPECT_TRUE(live->keep_ledger(true).empty());
  Told told;
  for (std::size_t i = 0; i < at.size(); ++i)
    (void)*live->start(id, {.by = row.mara, .toward = row.one, .seed = i, .at_s = at[i]});
  for (int tick = 1; live->under_way() > 0 && tick < 10'000; ++tick) {
    EXPECT_TRUE(live->advance(
                        tick * dt - live->time(), [&](const Strike& s) { told.strikes.push_back(s); },
                        [](const ShotEnd&) {}, [](const LimitMet&) {}, [](const Presence&) {},
                        [&](const Happening& h) { told.happenings.push_back(h); })
                    .empty());
    if (!saved || tick % 3 != 0) continue;
    auto again = std::make_unique<Skirmish>(row.arena);
    (void)*again->add_attack(attack);
    const std::string bytes = live->save();
    EXPECT_TRUE(again->restore(bytes));
    EXPECT_EQ(again->save(), bytes);
    live = std::move(again);
  }
  return told;
}

TEST(Statuses, AreTheSameForAnyTicksAndFromSavedBytes) {
  Status status = burning(3, false, true);
  status.again = Status::Again::add, status.most = 2;
  const Attack attack = bolt({Damage{.amount = 1}, status});
  const std::vector<double> at{0, 0.7, 1.1, 4.25};
  Row row;
  const Told first = play(row, attack, at, 1.0 / 60, false);
  EXPECT_EQ(first.strikes.size(), 4u);
  const double left = *row.arena.number(row.one, "health");
  EXPECT_LT(left, 12);
  for (const double dt : {1.0 / 144, 0.1, 0.37, 20.0}) {
    for (const bool saved : {false, true}) {
      Row again;
      const Told told = play(again, attack, at, dt, saved);
      ASSERT_EQ(told.happenings.size(), first.happenings.size()) << dt;
      for (std::size_t i = 0; i < told.happenings.size(); ++i) {
        EXPECT_NEAR(told.happenings[i].time_s, first.happenings[i].time_s, 1e-9);
        EXPECT_EQ(told.happenings[i].tick, first.happenings[i].tick);
        EXPECT_EQ(told.happenings[i].effects, first.happenings[i].effects);
      }
      EXPECT_EQ(again.arena.number(again.one, "health"), left);
    }
  }
}

TEST(Statuses, AgainRenewsKeepsOrAdds) {
  const auto did = [](Status::Again again, std::uint32_t most) {
    Row row;
    Status status{.name = "soaked", .lasts_s = 2, .again = again, .most = most};
    std::vector<StatusDone> out;
    const Told told = play(row, bolt({status}), {0, 0.5, 1}, 0.05, false);
    for (const Strike& s : told.strikes) out.push_back(std::get<StatusDone>(s.effects.at(0).what));
    return std::pair(out, told.happenings);
  };
  using Did = StatusDone::Did;
  const auto [renewed, over_renewed] = did(Status::Again::renew, 1);
  EXPECT_EQ(renewed[1].did, Did::renewed);
  EXPECT_EQ(renewed[2].until_s, 3);
  ASSERT_EQ(over_renewed.size(), 1u);
  EXPECT_EQ(over_renewed[0].time_s, 3);
  const auto [kept, over_kept] = did(Status::Again::keep, 1);
  EXPECT_EQ(kept[2].did, Did::kept);
  EXPECT_EQ(kept[2].until_s, 2);
  ASSERT_EQ(over_kept.size(), 1u);
  EXPECT_EQ(over_kept[0].time_s, 2);
  const auto [added, over_added] = did(Status::Again::add, 2);
  EXPECT_EQ(added[1].did, Did::added);
  EXPECT_EQ(added[1].at_once, 2u);
  EXPECT_EQ(added[2].did, Did::renewed);  // of the two the first
  ASSERT_EQ(over_added.size(), 2u);
  EXPECT_EQ(over_added[0].time_s, 2.5);
  EXPECT_EQ(over_added[1].time_s, 3);
}

TEST(Statuses, OneEndsAnotherAndAFallEndsAll) {
  Row row;
  Attack attack = bolt({Status{.name = "soaked", .lasts_s = 5}});
  const Status dry{.name = "dry", .lasts_s = 1, .ends = {"soaked"}};
  const std::vector<Launching> all{
      {attack, {.by = row.mara, .toward = row.one}},
      {bolt({dry}), {.by = row.mara, .toward = row.one, .at_s = 2}},
      {attack, {.by = row.mara, .toward = row.two, .at_s = 3}},
      {bolt({Damage{.amount = 100}}), {.by = row.mara, .toward = row.one, .at_s = 3.5}}};
  row.arena.update();
  const auto outcomes = resolve_together(row.arena, all);
  ASSERT_EQ(outcomes[0].happenings.size(), 1u);
  EXPECT_EQ(outcomes[0].happenings[0].why, Happening::Over::ended);
  EXPECT_EQ(outcomes[0].happenings[0].time_s, 2);
  // The third goes for whoever stands first in its way.
  ASSERT_EQ(outcomes[2].happenings.size(), 1u);
  EXPECT_EQ(outcomes[2].happenings[0].why, Happening::Over::fell);
  EXPECT_EQ(outcomes[2].happenings[0].time_s, 3.5);
  EXPECT_TRUE(outcomes[3].strikes.at(0).felled);
}

/// Wet first, then sparks strike whoever is wet; those in the air see it as soon as it is so.
TEST(Statuses, GiveTagsThatShotsInFlightGoBy) {
  const Attack splash{.name = "splash",
                      .delivery = AreaDelivery{.shape = BallArea{3}, .around = AreaDelivery::Around::aim},
                      .effects = {Status{.name = "soaked", .lasts_s = 0.3, .gives = {"wet"}}}};
  const Attack sparks{
      .name = "sparks", .delivery = ShotDelivery{.path = StraightPath{.speed = 10}}, .needs = {"wet"}};
  const auto struck_at = [&](double splash_at, double dt) -> std::optional<double> {
    Row row;
    row.arena.update();
    Skirmish live(row.arena);
    const AttackId wet = *live.add_attack(splash), dart = *live.add_attack(sparks);
    (void)*live.start(dart, {.by = row.mara, .toward = row.one});
    (void)*live.start(wet, {.by = row.mara, .toward = row.one, .at_s = splash_at});
    std::optional<double> out;
    while (live.time() < 3) {
      (void)live.advance(dt, [&](const Strike& s) {
        if (s.attack == "sparks" && s.body == row.one) out = s.time_s;
      });
    }
    return out;
  };
  for (const double dt : {1.0 / 144, 1.0 / 60, 0.1, 0.25, 3.0}) {
    // It is there at 0.95 s, within the body until 1.05 s.
    EXPECT_NEAR(struck_at(0.8, dt).value_or(-1), 0.95, 1e-6) << dt;
    EXPECT_NEAR(struck_at(1.0, dt).value_or(-1), 1.0, 1e-6) << dt;
    EXPECT_FALSE(struck_at(0.5, dt)) << dt;
    EXPECT_FALSE(struck_at(1.2, dt)) << dt;
  }
}

TEST(Statuses, TakeTagsAndMakeImmuneAndWhatLastsGoesByThem) {
  Row row;
  ASSERT_TRUE(row.arena.set_tags(row.one, {"wet"}).empty());
  const Attack cloud{.name = "cloud",
                     .delivery = AreaDelivery{.shape = BallArea{3},
                                              .around = AreaDelivery::Around::aim,
                                              .lasts = Lasts{.for_s = 3, .every_s = 10}},
                     .tags = {"smoke"}};
  const auto first_time = [&](const Status& status, const Attack& what) {
    row.arena.update();
    const std::vector<Launching> all{{what, {.by = row.mara, .toward = row.one, .at_s = 0.5}},
                                     {bolt({status}), {.by = row.mara, .toward = row.one}}};
    const auto out = resolve_together(row.arena, all);
    for (const Strike& s : out[0].strikes) {
      if (s.body == row.one) return s.time_s;
    }
    return -1.0;
  };
  Attack wet = cloud;
  wet.needs = {"wet"};
  EXPECT_NEAR(first_time({.name = "dry", .lasts_s = 2, .takes = {"wet"}}, wet), 2, 1e-6);
  EXPECT_NEAR(first_time({.name = "masked", .lasts_s = 1.25, .immune = {"smoke"}}, cloud), 1.25, 1e-6);
  EXPECT_NEAR(first_time({.name = "masked", .lasts_s = 1.25, .immune = {"fire"}}, cloud), 0.5, 1e-6);
  EXPECT_EQ(first_time({.name = "masked", .lasts_s = 9, .immune = {"smoke"}}, cloud), -1);
}

// What a picture shades is what arrives, of whatever covers a space.
TEST(Power, IsToldByDistanceOfEveryArea) {
  Row row;
  Attack roar{.name = "roar", .delivery = AreaDelivery{.shape = BallArea{20}}};
  roar.by_distance = Falloff{.points = {{2, 1}, {9, 0.25}, {16, 0.5}}};
  const auto check_fades = [&](const std::vector<FalloffPoint>& fades, double to) {
    ASSERT_GE(fades.size(), 2u);
    EXPECT_EQ(fades.front().distance, 0);
    EXPECT_DOUBLE_EQ(fades.back().distance, to);
    for (const FalloffPoint& p : fades) EXPECT_DOUBLE_EQ(p.factor, roar.by_distance->at(p.distance));
  };
  const auto fades_of = [&]<class Kind>(const Kind&) {
    const Outcome out = row.shoot(roar);
    for (const Mark& m : out.marks) {
      if (const auto* mark = std::get_if<Kind>(&m)) return mark->fades;
    }
    ADD_FAILURE() << "no such mark";
    return std::vector<FalloffPoint>{};
  };
  check_fades(fades_of(RingMark{}), 16);
  std::get<AreaDelivery>(roar.delivery).shape = SectorArea{.angle = 1, .far = 12, .low = -5, .high = 5};
  check_fades(fades_of(AreaMark{}), 13);
  std::get<AreaDelivery>(roar.delivery).lasts = Lasts{.for_s = 1};
  const Outcome lasting = row.shoot(roar);
  check_fades(fades_of(LastingMark{}), 13);
  for (const Strike& s : lasting.strikes)
    EXPECT_DOUBLE_EQ(s.power.distance, roar.by_distance->at(s.distance));
  roar.by_distance.reset();
  EXPECT_TRUE(fades_of(LastingMark{}).empty());
}

TEST(Effects, ComeByTargetOrByEffect) {
  Row row;
  // Who has more fear takes more: by effect all are afraid before anybody is hurt.
  Effect fear(Change{.number = "fear", .by = 1}), hurt(Damage{.amount = 1, .from = "fear"});
  fear.on = hurt.on = Effect::On::attacker;
  Attack roar{.name = "roar", .delivery = AreaDelivery{.shape = BallArea{20}}, .effects = {fear, hurt}};
  const auto lefts = [&](EffectOrder order) {
    roar.effect_order = order;
    std::vector<double> out;
    const Outcome out_of = row.shoot(roar);
    for (const Strike& s : out_of.strikes) {
      if (s.effects.empty()) continue;
      out.push_back(std::get<ChangeDone>(s.effects.at(0).what).left.value_or(-1));
      out.push_back(damage_of(s, 1).left.value_or(-1));
    }
    return out;
  };
  // The first damage takes all its fear, by which the attacker falls.
  EXPECT_EQ(lefts(EffectOrder::by_effect), (std::vector<double>{1, 1, 2, 0}));
  EXPECT_EQ(lefts(EffectOrder::by_target), (std::vector<double>{1, 0}));
}

TEST(Effects, WhoFallsByThemIsToldInEitherOrder) {
  for (const EffectOrder order : {EffectOrder::by_target, EffectOrder::by_effect}) {
    Row row;
    const Attack roar{.name = "roar",
                      .delivery = AreaDelivery{.shape = BallArea{20}},
                      .effects = {Damage{.amount = 15}, Damage{.amount = 5}},
                      .effect_order = order};
    const Outcome out = row.shoot(roar);
    ASSERT_EQ(out.strikes.size(), 2u);
    for (const Strike& s : out.strikes) EXPECT_TRUE(s.felled);
  }
}

TEST(Statuses, OneThatIsEndedTicksNoMore) {
  Row row;
  const std::vector<Launching> all{{bolt({burning(3, false, true)}), {.by = row.mara, .toward = row.one}},
                                   {bolt({Status{.name = "doused", .lasts_s = 1, .ends = {"burning"}}}),
                                    {.by = row.mara, .toward = row.one, .at_s = 1}}};
  row.arena.update();
  const auto outcomes = resolve_together(row.arena, all);
  EXPECT_EQ(tick_times(outcomes[0].happenings), (std::vector<double>{0.5}));
  EXPECT_EQ(outcomes[0].happenings.back().why, Happening::Over::ended);
}

TEST(Releases, CostAndComeToTheAttacker) {
  Row row;
  ASSERT_TRUE(row.arena.set_number(row.mara, "breath", 10).empty());
  Attack attack = bolt({});
  attack.ready = Readiness{.costs = {{.number = "breath", .amount = 4}}};
  attack.at_release = {Status{.name = "winded", .lasts_s = 1, .gives = {"winded"}}};
  attack.burst = Burst{.count = 2, .gap_s = 0.5};
  const Outcome out = row.shoot(attack);
  ASSERT_EQ(out.happenings.size(), 3u);
  EXPECT_EQ(out.happenings[0].what, Happening::What::released);
  EXPECT_EQ(std::get<ChangeDone>(out.happenings[0].effects.at(0).what).left, 6);
  EXPECT_EQ(std::get<StatusDone>(out.happenings[0].effects.at(1).what).did, StatusDone::Did::began);
  EXPECT_EQ(out.happenings[1].effects.size(), 1u);  // a round costs nothing more
  EXPECT_EQ(out.happenings[2].what, Happening::What::over);
  EXPECT_EQ(out.happenings[2].time_s, 1.5);
}

TEST(Together, TheFallenAttackNobodyAndStrikesSayWhose) {
  Row row;
  const Attack club = bolt({Damage{.amount = 20, .kind = "blunt"}});
  Attack spit{.name = "spit", .delivery = ShotDelivery{.path = StraightPath{.speed = 10}}};
  row.arena.update();
  const std::vector<Launching> all{{spit, {.id = "early", .by = row.one, .toward = row.mara, .at_s = 0.5}},
                                   {club, {.id = "club", .by = row.mara, .toward = row.one, .at_s = 1}},
                                   {spit, {.id = "late", .by = row.one, .toward = row.mara, .at_s = 1.5}},
                                   {club, {.id = "again", .by = row.mara, .toward = row.one, .at_s = 2}}};
  const auto out = resolve_together(row.arena, all);
  ASSERT_EQ(out.size(), 4u);
  EXPECT_EQ(out[0].strikes.at(0).body, row.mara);
  EXPECT_TRUE(out[1].strikes.at(0).felled);
  EXPECT_EQ(out[1].strikes.at(0).launch, 1u);
  EXPECT_EQ(out[2].ended, Ended::refused);
  EXPECT_EQ(out[2].problems.at(0).where, "/launch/by");
  // It goes on through where the first stood, and the verdict says so.
  EXPECT_EQ(out[3].strikes.at(0).body, row.two);
  EXPECT_EQ(test::verdict_of(out[3], row.one).deciding.reason, Reason::fallen);
  EXPECT_EQ(test::verdict_of(out[0], row.one).deciding.reason, Reason::self);
  // Each alone knows nothing of the others.
  EXPECT_EQ(resolve(row.arena, spit, all[2].launch).strikes.size(), 1u);
}

TEST(Together, IsAsARunningGameWithALedger) {
  const Attack pot{.name = "pot",
                   .delivery = ShotDelivery{.path = FallingPath{.speed = 12}},
                   .then = {{.when = Then::When::end,
                             .attacks = {{.name = "blaze",
                                          .delivery = AreaDelivery{.shape = BallArea{3}},
                                          .effects = {Damage{.amount = 4, .up_to = 9, .kind = "fire"},
                                                      burning(2, false, true)}}}}}};
  Row row;
  row.arena.update();
  std::vector<Launching> all;
  for (std::uint64_t i = 0; i < 6; ++i)
    all.push_back({pot,
                   {.by = row.mara,
                    .toward = i % 2 == 0 ? row.one : row.two,
                    .seed = i,
                    .at_s = 0.3 * static_cast<double>(i)}});
  const auto together = resolve_together(row.arena, all);
  Row again;
  again.arena.update();
  Skirmish live(again.arena);
  (void)live.keep_ledger(true);
  const AttackId id = *live.add_attack(pot);
  for (const Launching& l : all) (void)*live.start(id, l.launch);
  std::vector<std::vector<Strike>> strikes(all.size());
  std::size_t happenings = 0;
  while (live.under_way() > 0)
    (void)live.advance(
        1.0 / 30, [&](const Strike& s) { strikes[s.launch].push_back(s); }, [](const ShotEnd&) {},
        [](const LimitMet&) {}, [](const Presence&) {}, [&](const Happening&) { ++happenings; });
  for (std::size_t i = 0; i < all.size(); ++i) {
    ASSERT_EQ(strikes[i].size(), together[i].strikes.size()) << i;
    for (std::size_t k = 0; k < strikes[i].size(); ++k)
      EXPECT_EQ(strikes[i][k].effects, together[i].strikes[k].effects);
    happenings -= together[i].happenings.size();
  }
  EXPECT_EQ(happenings, 0u);
}

TEST(Effects, ExtremesStayFiniteAndEverythingEnds) {
  Row row;
  ASSERT_TRUE(row.arena.set_number(row.one, "health", 1e15).empty());
  ASSERT_TRUE(row.arena.set_resists(row.one, {{"", 1e9, -1e12, 1e12}, {"x", 1e9, -1e12, 0}}).empty());
  Attack attack =
      bolt({Damage{.amount = 1e12, .up_to = 1e12, .kind = "x", .round = Rounding::up}, Heal{.amount = 1e12},
            Change{.number = "fear", .by = -1e12},
            Status{.name = "a", .lasts_s = 0, .ticks = Ticks{.at_start = true, .effects = {Damage{}}}},
            Status{.name = "b", .lasts_s = 1e-3, .ticks = Ticks{.every_s = 1e-3, .effects = {Damage{}}}},
            Status{.name = "c", .lasts_s = std::numeric_limits<double>::infinity()}});
  attack.power = 1e9, attack.level_factor = 1e9, attack.critical = Critical{1, 1e9};
  const Outcome out = row.shoot(attack);
  const DamageDone& d = damage_of(out.strikes.at(0));
  EXPECT_TRUE(std::isfinite(d.amount));
  EXPECT_EQ(d.left, 0);
  for (const Strike& s : out.strikes) {
    for (const EffectDone& e : s.effects) EXPECT_FALSE(explain(e).empty());
  }
  for (const Happening& h : out.happenings) EXPECT_EQ(h.why, Happening::Over::fell);
  // Nothing that is not a number, or beyond its range, comes in.
  for (const Damage& wrong : {Damage{.amount = std::nan("")}, Damage{.amount = -1},
                              Damage{.amount = 2, .up_to = 1}, Damage{.amount = 1e13}, Damage{.from = ""}})
    EXPECT_FALSE(check(bolt({wrong})).empty());
  EXPECT_FALSE(
      check(bolt({Status{
                .name = "long", .lasts_s = 1e6, .ticks = Ticks{.every_s = 1e-3, .effects = {Damage{}}}}}))
          .empty());
  EXPECT_FALSE(check(bolt({Status{.name = "", .lasts_s = 1}})).empty());
}

TEST(Effects, FourThatEndAtOnceAndTwoWhoFellEachOther) {
  Row row;
  ASSERT_TRUE(row.arena.set_number(row.mara, "health", 5).empty());
  std::vector<Effect> four;
  for (const char* name : {"a", "b", "c", "d"}) four.push_back(Status{.name = name, .lasts_s = 1});
  Effect back(Damage{.amount = 9});
  back.on = Effect::On::attacker;
  four.push_back(back), four.push_back(Damage{.amount = 30});
  const Outcome out = row.shoot(bolt(four));
  // Both fall by the one strike; the statuses end with the fall.
  EXPECT_TRUE(out.strikes.at(0).felled);
  EXPECT_EQ(damage_of(out.strikes[0], 4).left, 0);
  EXPECT_EQ(out.happenings.size(), 4u);
  four.resize(4);
  const Outcome over = row.shoot(bolt(four));
  ASSERT_EQ(over.happenings.size(), 4u);
  for (const Happening& h : over.happenings) EXPECT_EQ(h.time_s, 1);
}

TEST(Effects, AllocateNothingInASteadyState) {
  Row row;
  for (const BodyId body : {row.one, row.two}) (void)row.arena.set_number(body, "health", 1e9);
  row.arena.update();
  Skirmish live(row.arena);
  (void)live.keep_ledger(true);
  Attack attack = bolt({Damage{.amount = 1, .up_to = 5, .kind = "a kind with a name that is long"},
                        Change{.number = "a number with a name that is long", .by = 1},
                        Status{.name = "a status with a name that is long",
                               .lasts_s = 0.5,
                               .ticks = Ticks{.every_s = 0.1, .effects = {Damage{.amount = 1}}}}});
  const AttackId id = *live.add_attack(attack);
  std::uint64_t told = 0;
  const auto tick = [&] {
    (void)*live.start(id, {.by = row.mara, .toward = row.one});
    (void)live.advance(
        0.05, [&](const Strike& s) { told += s.effects.size(); }, [](const ShotEnd&) {},
        [](const LimitMet&) {}, [](const Presence&) {},
        [&](const Happening& h) { told += h.effects.size(); });
  };
  for (int i = 0; i < 50; ++i) tick();
  const std::uint64_t before = told;
  const std::size_t allocated = test::allocations();
  for (int i = 0; i < 50; ++i) tick();
  const std::size_t counted = test::allocations() - allocated;
  EXPECT_GE(told - before, 150u);
  EXPECT_EQ(counted, 0u);
}

}  // namespace
}  // namespace dardo::effects_test
