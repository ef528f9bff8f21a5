#include "dardo/record/sketch.hpp"

#include "dardo/record/explain.hpp"

namespace dardo {

Sketch sketch(const Arena& arena, const Outcome& outcome) {
  Sketch out;
  out.title = (outcome.launch.empty() ? std::string() : outcome.launch + ": ") + outcome.attack;
  out.summary = std::to_string(outcome.strikes.size()) + " of " + std::to_string(outcome.verdicts.size()) +
                " struck; " + explain_end(outcome, arena);
  for (const Verdict& v : outcome.verdicts) {
    const Body& body = arena.body(v.body);
    const auto hitboxes = arena.hitboxes(v.body);
    out.bodies.push_back({.id = body.id,
                          .faction = arena.faction_name(body.faction),
                          .faction_number = body.faction.index,
                          .pose = body.pose,
                          .hitboxes = {hitboxes.begin(), hitboxes.end()},
                          .attacker = v.body == outcome.by,
                          .fallen = body.fallen,
                          .struck = v.struck,
                          .note = v.struck ? std::string() : explain_briefly(v, arena)});
  }
  for (const WallId id : arena.walls()) {
    const Wall& wall = arena.wall(id);
    out.walls.push_back({wall.id, arena.material(wall.material).name, wall.box, arena.blocks(id)});
  }
  for (const Strike& s : outcome.strikes) {
    out.contacts.push_back({out.contacts.size() + 1, s.point, s.normal});
  }
  out.marks = outcome.marks;
  return out;
}

}  // namespace dardo
