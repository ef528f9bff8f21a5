// A game's loop at 60 Hz: bodies that move, a few hundred shots in flight, who is struck and who falls.
#include <cmath>
#include <cstdio>
#include <map>

#include <dardo/resolve/skirmish.hpp>

using namespace dardo;

int main() {
  // The pier by night: a line of wardens, and raiders who run at them.
  Arena pier;
  const auto wardens = *pier.add_faction("wardens"), raiders = *pier.add_faction("raiders");
  pier.relate(wardens, raiders, Relation::foe);
  const auto deckhand = *pier.add_build({.name = "deckhand",
                                         .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.3}, 0.35}},
                                                      {"head", Ball{{0, 0, 1.62}, 0.18}, 2}},
                                         .muzzles = {{"hand", {0.5, 0.2, 1.2}}}});
  std::vector<BodyId> line, crowd;
  for (int i = 0; i < 8; ++i) {
    line.push_back(*pier.add_body({.id = "warden-" + std::to_string(i),
                                   .build = deckhand,
                                   .faction = wardens,
                                   .pose = {{0, 2.0 * i, 0}, {}}}));
  }
  for (int i = 0; i < 60; ++i) {
    crowd.push_back(*pier.add_body({.id = "raider-" + std::to_string(i),
                                    .build = deckhand,
                                    .faction = raiders,
                                    .pose = {{25.0 + i % 10 * 1.5, 1.2 * (i / 5), 0}, {}}}));
  }

  Skirmish live(pier);
  Attack stone;
  stone.name = "sling-stone";
  stone.power = 12;
  stone.delivery =
      ShotDelivery{.path = FallingPath{.speed = 26},
                   .radius = 0.05,
                   .life_s = 3,
                   .volley = {.count = 3, .gap_s = 0.05, .spread = Volley::Spread::gauss, .angle = 0.02}};
  const auto sling = live.add_attack(stone);
  if (!sling) {
    for (const Problem& p : sling.error())
      std::printf("%s %s; expected %s\n", p.where.c_str(), p.what.c_str(), p.fix.c_str());
    return 1;
  }

  std::map<std::uint32_t, double> health;  // the game's own
  std::size_t strikes = 0, most_in_flight = 0;
  int fallen = 0;
  for (int tick = 0; tick < 60 * 6; ++tick) {
    // Every tenth of a second each warden slings at the raider opposite, where that will be.
    for (std::size_t i = 0; i < line.size() && tick % 6 == 0; ++i) {
      const BodyId target = crowd[(i * 7 + static_cast<std::size_t>(tick)) % crowd.size()];
      if (pier.body(target).fallen) continue;
      (void)live.start(*sling, {.by = line[i],
                                .toward = target,
                                .seed = static_cast<std::uint64_t>(tick) * 100 + i,
                                .aim = Aiming::lead});
    }
    // Where everybody is at the end of the tick. In between they move steadily, and are met on their way.
    for (const BodyId raider : crowd) {
      if (pier.body(raider).fallen) continue;
      Pose pose = pier.body(raider).pose;
      pose.at.x -= 3.0 / 60;
      (void)live.move(raider, pose);
    }
    live.advance(1.0 / 60, [&](const Strike& s) {
      ++strikes;
      double& left = health.try_emplace(s.body.index, 30.0).first->second;
      left -= s.power.arriving();
      fallen += left <= 0;
      return left <= 0;  // true: it falls, from this instant on
    });
    most_in_flight = std::max(most_in_flight, live.in_flight());
  }
  std::printf("%zu strikes, %d raiders fell, at most %zu stones in the air at once\n", strikes, fallen,
              most_in_flight);
  return fallen > 0 ? 0 : 1;
}
