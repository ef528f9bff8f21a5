// A fight in a running game that keeps a ledger: who is ready for what, what strikes do, statuses that tick,
// and who felled whom.
#include <cstdio>
#include <string>

#include <dardo/dardo.hpp>

using namespace dardo;

int main() {
  Arena slip;
  const auto wardens = *slip.add_faction("wardens"), raiders = *slip.add_faction("raiders");
  slip.relate(wardens, raiders, Relation::foe);
  slip.relate(raiders, wardens, Relation::foe);
  const auto deckhand = *slip.add_build({.name = "deckhand",
                                         .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.6}, 0.35}}},
                                         .resists = {{.kind = "fire", .factor = 1.5}}});
  const auto stand = [&](std::string id, FactionId faction, Vec3 at, std::vector<NamedNumber> numbers) {
    return *slip.add_body({.id = std::move(id),
                           .build = deckhand,
                           .faction = faction,
                           .pose = {at, {}},
                           .numbers = std::move(numbers)});
  };
  const BodyId mara = stand("mara", wardens, {0, 0, 0}, {{"health", 40}, {"breath", 10}});
  const BodyId raider = stand("raider", raiders, {6, 0, 0}, {{"health", 30}});

  // A pot of pitch sets alight; two are at hand, and a throw takes breath.
  Attack pot{.name = "pitch-pot", .delivery = ShotDelivery{.path = FallingPath{.speed = 12}}};
  pot.effects = {Damage{.amount = 4, .up_to = 6, .kind = "fire"},
                 Status{.name = "burning",
                        .lasts_s = 2,
                        .ticks = Ticks{.every_s = 0.5, .effects = {Damage{.amount = 2, .kind = "fire"}}}}};
  pot.ready =
      Readiness{.uses = Uses{.count = 2, .back_after_s = 3}, .costs = {{.number = "breath", .amount = 3}}};

  Skirmish live(slip);
  (void)live.keep_ledger(true);
  const AttackId thrown = *live.add_attack(pot);
  const Launch launch{.by = mara, .toward = raider, .seed = 7, .aim = Aiming::lead};
  for (int tick = 0; tick < 60 * 8; ++tick) {
    if (tick % 30 == 0 && slip.stands(raider)) {
      const Ready ready = live.ready(thrown, launch);
      if (ready.yes()) (void)live.start(thrown, launch);
      for (const NotReady& why : ready.missing)
        std::printf("%5.2f s  not ready: %s\n", live.time(), explain(why, slip).c_str());
    }
    (void)live.advance(
        1.0 / 60,
        [&](const Strike& s) {
          std::printf("%5.2f s  %s of %s strikes %s\n", s.time_s, std::string(s.attack.view()).c_str(),
                      slip.body(s.by).id.c_str(), slip.body(s.body).id.c_str());
          for (const EffectDone& e : s.effects) std::printf("         %s\n", explain(e).c_str());
        },
        [](const ShotEnd&) {}, [](const LimitMet&) {}, [](const Presence&) {},
        [&](const Happening& h) {
          std::printf("%5.2f s  %s\n", h.time_s, explain(h, slip).c_str());
          if (h.felled) std::printf("         felled by %s\n", slip.body(h.by).id.c_str());
        });
  }
  std::printf("the raider has %g health left, mara %g breath\n", *slip.number(raider, "health"),
              *slip.number(mara, "breath"));
}
