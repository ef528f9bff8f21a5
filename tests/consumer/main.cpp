#include <cstdio>

#include "dardo/dardo.hpp"

int main() {
  using namespace dardo;
  Arena arena;
  const auto us = *arena.add_faction("wardens"), them = *arena.add_faction("raiders");
  arena.relate(us, them, Relation::foe);
  const auto build = *arena.add_build(
      {.name = "deckhand", .hitboxes = {{"trunk", Capsule{{0, 0, 0.3}, {0, 0, 1.3}, 0.35}}}});
  const auto mara = *arena.add_body({.id = "mara", .build = build, .faction = us});
  for (int i = 0; i < 50; ++i) {
    (void)arena.add_body(
        {.id = "raider-" + std::to_string(i),
         .build = build,
         .faction = them,
         .pose = {{3 + 0.75 * i, 0.25 * (i % 7) - 0.875, 0}, {}}});  // exact: no rounding of ours
  }
  arena.update();
  const Outcome ray = resolve(arena, {.name = "bolt", .delivery = RayDelivery{}}, {.by = mara});
  const Outcome area = resolve(arena, {.name = "blast", .delivery = AreaDelivery{.shape = BallArea{9.3}}},
                               {.by = mara, .toward = AtPlace{{9, 0.1, 0.2}}});
  // To the last bit: the two programs must print the same.
  for (const Strike& s : ray.strikes) std::printf("ray %a %a %a\n", s.distance, s.point.x, s.normal.y);
  for (const Strike& s : area.strikes) std::printf("area %u %a %a\n", s.body.index, s.distance, s.point.y);
  return ray.strikes.size() == 1 && area.strikes.size() > 10 ? 0 : 1;
}
