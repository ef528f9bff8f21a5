#include "dardo/record/sketch.hpp"

#include <algorithm>

#include "dardo/record/explain.hpp"

namespace dardo {

Vec3 place_at(const WayPiece& p, double time_s) {
  const double s = time_s - p.start_s;
  return p.at + (p.velocity + (p.acceleration * 0.5 + p.jerk * (s / 6)) * s) * s;
}

namespace {

/// The one that holds a time: the last that has begun.
template <class List, class Begins>
std::size_t last_begun(const List& list, double time_s, Begins&& begins) {
  std::size_t at = 0;
  while (at + 1 < list.size() && begins(list[at + 1]) <= time_s) ++at;
  return at;
}

}  // namespace

Pose frame_at(const LastingMark& mark, double time_s) {
  const auto at = [&](const std::vector<Leg>& legs) {
    if (legs.empty()) return Pose{};
    return legs[last_begun(legs, time_s, [](const Leg& l) { return l.start; })].at(time_s);
  };
  return at(mark.carrier) * mark.base * at(mark.own);
}

AreaShape shape_at(const LastingMark& mark, double time_s) {
  if (mark.sizes.empty()) return BallArea{0};
  const std::size_t i = last_begun(mark.sizes, time_s, [](const GrownArea& g) { return g.time_s; });
  const GrownArea& a = mark.sizes[i];
  if (i + 1 == mark.sizes.size() || !(time_s > a.time_s)) return a.shape;
  const GrownArea& b = mark.sizes[i + 1];
  return between(a.shape, b.shape, (time_s - a.time_s) / (b.time_s - a.time_s));
}

namespace {

double last_time(const Outcome& outcome) {
  double last = outcome.end_s;
  for (const Mark& m : outcome.marks) {
    if (const auto* lasted = std::get_if<LastingMark>(&m)) last = std::max(last, lasted->to_s);
  }
  for (const Strike& s : outcome.strikes) last = std::max(last, s.time_s);
  return last;
}

/// Where a body on a track goes until the launch is over, and where it is first struck.
void add_way(const Arena& arena, const Outcome& outcome, BodyId id, SketchBody& out) {
  const Body& body = arena.body(id);
  const double until = last_time(outcome);
  if (body.track.empty() || !(until > 0)) return;
  constexpr int kSteps = 60;
  for (int i = 0; i <= kSteps; ++i) {
    const double t = until * i / kSteps;
    out.way.push_back(leg_at(body.track, t).at(t).at);
  }
  for (const Strike& s : outcome.strikes) {
    if (s.body != id) continue;
    const Pose pose = leg_at(body.track, s.time_s).at(s.time_s);
    for (const Hitbox& h : arena.build(body.build).hitboxes) out.struck_at.push_back(placed(h.shape, pose));
    return;
  }
}

void add_wall(const Arena& arena, const Outcome& outcome, WallId id, Sketch& out) {
  const WallTable& table = arena.wall_table();
  SketchWall& wall = out.walls.emplace_back();
  wall.id = arena.wall(id).id, wall.material = arena.material_name(id), wall.blocks = arena.blocks(id);
  Bounds own;
  for (const WallPartId part : table.parts_of(id)) {
    wall.parts.push_back(placed(table.shape(part), table.leg(id, 0).at(0)));
    own.add(bounds(table.shape(part)));
  }
  const double until = last_time(outcome);
  if (!table.moves(id) || !(until > 0)) return;
  for (const WallPartId part : table.parts_of(id))
    wall.at_end.push_back(placed(table.shape(part), table.leg(id, until).at(until)));
  constexpr int kSteps = 60;
  for (int i = 0; i <= kSteps; ++i) {
    const double t = until * i / kSteps;
    wall.way.push_back(table.leg(id, t).at(t) * own.center());
  }
}

}  // namespace

Sketch sketch(const Arena& arena, const Outcome& outcome) {
  Sketch out;
  out.title = (outcome.launch.empty() ? std::string() : outcome.launch + ": ") + outcome.attack;
  const auto struck = std::count_if(outcome.verdicts.begin(), outcome.verdicts.end(),
                                    [](const Verdict& v) { return v.struck; });
  out.summary = std::to_string(struck) + " of " + std::to_string(outcome.verdicts.size()) + " struck; " +
                explain_end(outcome, arena);
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
  const auto stood_between = [&](const auto& is) {
    return std::any_of(outcome.verdicts.begin(), outcome.verdicts.end(),
                       [&](const Verdict& v) { return is(v.deciding.by); });
  };
  for (std::size_t i = 0; i < outcome.verdicts.size(); ++i) {
    const Verdict& v = outcome.verdicts[i];
    SketchBody& b = out.bodies[i];
    b.concerned = b.attacker || b.struck || nearly_struck(v) ||
                  stood_between([&](const Blocker& by) { return by.body == v.body; });
  }
  for (std::size_t i = 0; i < outcome.verdicts.size(); ++i)
    add_way(arena, outcome, outcome.verdicts[i].body, out.bodies[i]);
  for (const WallId id : arena.walls()) {
    add_wall(arena, outcome, id, out);
    out.walls.back().concerned = std::any_of(outcome.surfaces.begin(), outcome.surfaces.end(),
                                             [&](const SurfaceMet& m) { return m.wall == id; }) ||
                                 stood_between([&](const Blocker& by) { return by.wall == id; });
  }
  for (const Strike& s : outcome.strikes) {
    out.contacts.push_back({out.contacts.size() + 1, s.point, s.normal});
  }
  out.marks = outcome.marks;
  out.flat = arena.flat();
  if (arena.ground()) out.ground = HalfSpace{arena.ground_normal() * *arena.ground(), arena.ground_normal()};
  return out;
}

}  // namespace dardo
