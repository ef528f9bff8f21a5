// Who is struck by a harpoon, and why the others are not: no file, no picture, just the library.
#include <cstdio>

#include "dardo/dardo.hpp"

int main() {
  using namespace dardo;
  Arena arena;
  const auto wardens = arena.add_faction("wardens").value();
  const auto raiders = arena.add_faction("raiders").value();
  arena.relate(wardens, raiders, Relation::foe);

  const auto deckhand = arena
                            .add_build({.name = "deckhand",
                                        .hitboxes = {{"trunk", Capsule{{0, 0, 0.35}, {0, 0, 1.3}, 0.35}},
                                                     {"head", Ball{{0, 0, 1.62}, 0.18}, 2.0}}})
                            .value();
  const auto mara = arena.add_body({.id = "mara", .build = deckhand, .faction = wardens}).value();
  const auto near =
      arena.add_body({.id = "near", .build = deckhand, .faction = raiders, .pose = {{6, 0, 0}, {}}}).value();
  arena.add_body({.id = "behind", .build = deckhand, .faction = raiders, .pose = {{9, 0.1, 0}, {}}}).value();
  arena.add_body({.id = "aside", .build = deckhand, .faction = raiders, .pose = {{5, 2, 0}, {}}}).value();
  arena.add_body({.id = "odo", .build = deckhand, .faction = wardens, .pose = {{3, 0, 0}, {}}}).value();
  arena.update();

  const Attack harpoon{.name = "harpoon", .delivery = RayDelivery{}, .reach = {0, 20}, .power = 40};
  const Outcome out = resolve(arena, harpoon, {.by = mara, .toward = near});
  for (const Strike& s : out.strikes) {
    std::printf("%s is struck at %.2f m with power %g\n", arena.body(s.body).id.c_str(), s.distance,
                s.power.arriving());
  }
  for (const Verdict& v : out.verdicts) {
    std::printf("%-7s %s\n", arena.body(v.body).id.c_str(), explain(v, arena).c_str());
  }
}
