// A margin says how far the deciding number was from letting the body through: moved by it and a hair, the
// gate lets it through; by a hair less, it does not.
#include <gtest/gtest.h>

#include <cmath>
#include <map>

#include "support/effort.hpp"
#include "support/play.hpp"

namespace dardo::test::margins_test {
namespace {

/// What of an attack decides a reason, and which way it has to be moved.
double* deciding_number(Attack& attack, Reason reason) {
  auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  auto* area = std::get_if<AreaDelivery>(&attack.delivery);
  switch (reason) {
    case Reason::too_far:
    case Reason::too_near:
      // A chain's hops have reaches of their own.
      if (std::holds_alternative<ChainDelivery>(attack.delivery)) return nullptr;
      return reason == Reason::too_far ? &attack.reach.far : &attack.reach.near;
    case Reason::outside: {
      auto* ball = area != nullptr ? std::get_if<BallArea>(&area->shape) : nullptr;
      // What it grows to by a time does not go by what it was.
      if (area != nullptr && area->lasts && !area->lasts->grows.empty()) return nullptr;
      return ball != nullptr && area->inside == AreaDelivery::Inside::touches && !area->share ? &ball->radius
                                                                                              : nullptr;
    }
    case Reason::missed: return shot != nullptr && !shot->shape ? &shot->radius : nullptr;
    case Reason::over: return shot != nullptr ? &shot->life_s : nullptr;
    default: return nullptr;
  }
}

Reason reason_of(const Situation& s, const Attack& attack, BodyId body, Gate gate) {
  const Outcome out = resolve_ruled(s.arena, attack, s.launch, Detail::full);
  for (const Verdict& v : out.verdicts) {
    if (v.body != body) continue;
    Reason found = Reason::none;
    for (const Reading& r : v.gates) {
      if (r.stage != 0) continue;
      if (r.gate == gate) found = r.reason;
      // A miss is by how near it came in its life: what it would have touched later is still missed by that.
      // The same of what lasts, shortly before and after its time.
      const bool other_time = r.reason == Reason::over || r.reason == Reason::early;
      const Reason miss =
          std::holds_alternative<AreaDelivery>(attack.delivery) ? Reason::outside : Reason::missed;
      if (r.gate == Gate::time && other_time && gate == Gate::reach) found = miss;
    }
    return found;
  }
  return Reason::none;
}

TEST(Net, MarginsSayHowFarTheDecidingNumberWasFromFlipping) {
  std::map<Reason, int> tried;
  for (std::uint64_t seed = 1; seed <= effort<std::uint64_t>(80000); ++seed) {
    Situation s = make_situation(Recipe::random(seed, false));
    // Nothing but the gate that is asked stands between.
    if (!s.arena.walls().empty() || s.arena.ground() || !s.arena.tracked().empty() ||
        any_shot(s.attack, homes))
      continue;
    s.attack.then.clear(), s.attack.stopped_by = {};
    s.attack.effects.clear(), s.attack.at_release.clear(), s.attack.ready.reset();
    if (std::holds_alternative<AtChoice>(s.launch.toward)) s.launch.toward = s.bodies[1];
    if (auto* shot = std::get_if<ShotDelivery>(&s.attack.delivery))
      shot->pierce.bodies = 1000, shot->sticks = false, shot->least_speed = 0;
    if (auto* area = std::get_if<AreaDelivery>(&s.attack.delivery); area != nullptr && area->lasts)
      area->lasts->strikes.reset();
    if (!check(s.arena, s.attack, s.launch).empty()) continue;
    const Outcome out = resolve_ruled(s.arena, s.attack, s.launch);
    for (const Verdict& v : out.verdicts) {
      Attack probe = s.attack;
      const Reading& d = v.deciding;
      double* number = deciding_number(probe, d.reason);
      if (v.struck || number == nullptr || !d.margin || !(*d.margin > 1e-3) || *d.margin > 20) continue;
      // One that ends before its near limit would touch whatever it touches later too near.
      if (d.reason == Reason::missed && length(out.end - out.origin) < s.attack.reach.near) continue;
      if (tried[d.reason] >= 60) continue;
      const double before = *number, way = d.reason == Reason::too_near ? -1 : 1,
                   hair = 3e-4 * *d.margin + 1e-6;
      *number = before + way * (*d.margin + hair);
      if (!check(s.arena, probe, s.launch).empty()) continue;
      ++tried[d.reason];
      EXPECT_NE(reason_of(s, probe, v.body, d.gate), d.reason)
          << seed << " body " << v.body.index << ' ' << name(d.reason) << " by " << *d.margin;
      *number = before + way * (*d.margin - hair);
      EXPECT_EQ(reason_of(s, probe, v.body, d.gate), d.reason)
          << seed << " body " << v.body.index << ' ' << name(d.reason) << " by less than " << *d.margin;
    }
  }
  if (kSanitized) return;
  for (const Reason reason :
       {Reason::too_far, Reason::too_near, Reason::outside, Reason::missed, Reason::over})
    EXPECT_GT(tried[reason], 3) << name(reason);
}

}  // namespace
}  // namespace dardo::test::margins_test
