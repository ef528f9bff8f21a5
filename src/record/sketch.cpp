#include "dardo/record/sketch.hpp"

#include <algorithm>
#include <string_view>
#include <unordered_map>

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

/// Where the bodies and walls are while a launch lasts.
class Whereabouts {
 public:
  Whereabouts(const Arena& arena, const Outcome& outcome) : arena_(arena) {
    for (const Mark& m : outcome.marks) {
      const auto* motion = std::get_if<MotionMark>(&m);
      if (motion == nullptr || motion->legs.empty()) continue;
      if (motions_.size() <= motion->body.index) motions_.resize(motion->body.index + 1);
      motions_[motion->body.index] = motion;
    }
  }

  bool moves(BodyId id) const { return motion(id) != nullptr || !arena_.body(id).track.empty(); }
  Pose pose(BodyId id, double time_s) const {
    if (const MotionMark* m = motion(id); m != nullptr && time_s <= m->legs.back().end) {
      const std::size_t i = last_begun(m->legs, time_s, [](const Leg& l) { return l.start; });
      return m->legs[i].at(std::max(time_s, m->legs[i].start));
    }
    const Body& body = arena_.body(id);
    if (!body.track.empty()) return leg_at(body.track, time_s).at(time_s);
    const MotionMark* m = motion(id);
    return m != nullptr ? m->legs.back().at(m->legs.back().end) : body.pose;
  }
  std::vector<Shape> hitboxes(BodyId id, double time_s) const {
    const auto& own = arena_.build(arena_.body(id).build).hitboxes;
    const Pose there = pose(id, time_s);
    std::vector<Shape> out;
    for (std::uint32_t i = 0; i < own.size(); ++i) {
      if (arena_.has_hitbox(id, i, time_s)) out.push_back(placed(own[i].shape, there));
    }
    return out;
  }

 private:
  const MotionMark* motion(BodyId id) const {
    return id.index < motions_.size() ? motions_[id.index] : nullptr;
  }

  const Arena& arena_;
  std::vector<const MotionMark*> motions_;
};

constexpr int kSteps = 60;
double step_time(const TimeSpan& span, int i) { return span.from_s + (span.to_s - span.from_s) * i / kSteps; }

void add_wall(const Arena& arena, const TimeSpan& span, WallId id, bool one_moment, Sketch& out) {
  const WallTable& table = arena.wall_table();
  SketchWall& wall = out.walls.emplace_back();
  wall.id = arena.wall(id).id, wall.material = arena.material_name(id), wall.blocks = arena.blocks(id);
  Bounds own;
  const auto place = [&](double time_s) { return table.leg(id, time_s).at(time_s); };
  for (const WallPartId part : table.parts_of(id)) {
    wall.parts.push_back(placed(table.shape(part), place(one_moment ? span.to_s : span.from_s)));
    own.add(bounds(table.shape(part)));
  }
  if (one_moment || !table.moves(id) || !(span.to_s > span.from_s)) return;
  for (const WallPartId part : table.parts_of(id))
    wall.at_end.push_back(placed(table.shape(part), place(span.to_s)));
  for (int i = 0; i <= kSteps; ++i) wall.way.push_back(place(step_time(span, i)) * own.center());
}

/// Which bodies and walls the attack concerns, by what was met and what the verdicts say.
void add_concerned(const Arena& arena, const Outcome& outcome, Sketch& out) {
  const auto stood_between = [&](const auto& is) {
    return std::any_of(outcome.verdicts.begin(), outcome.verdicts.end(),
                       [&](const Verdict& v) { return is(v.deciding.by); });
  };
  for (std::size_t i = 0; i < outcome.verdicts.size(); ++i) {
    const Verdict& v = outcome.verdicts[i];
    SketchBody& b = out.bodies[i];
    b.concerned = b.attacker || v.struck || nearly_struck(v) ||
                  stood_between([&](const Blocker& by) { return by.body == v.body; });
  }
  const std::vector<WallId> walls = arena.walls();
  for (std::size_t i = 0; i < walls.size(); ++i) {
    out.walls[i].concerned = std::any_of(outcome.surfaces.begin(), outcome.surfaces.end(),
                                         [&](const SurfaceMet& m) { return m.wall == walls[i]; }) ||
                             stood_between([&](const Blocker& by) { return by.wall == walls[i]; });
  }
}

/// As much of a mark as there is at a time; nothing before it begins, and once it is over of what lasts.
class Cut {
 public:
  explicit Cut(double time_s) : time_s_(time_s) {}

  template <class Instant>
  std::optional<Mark> operator()(const Instant& m) const {
    return m.time_s <= time_s_ ? std::optional<Mark>(m) : std::nullopt;
  }
  std::optional<Mark> operator()(const MotionMark&) const { return std::nullopt; }
  std::optional<Mark> operator()(const FlightMark& m) const {
    if (m.times.front() > time_s_) return std::nullopt;
    if (m.times.back() <= time_s_) return m;
    FlightMark out = m;
    const auto later = std::upper_bound(m.times.begin(), m.times.end(), time_s_) - m.times.begin();
    out.times.resize(static_cast<std::size_t>(later)), out.places.resize(static_cast<std::size_t>(later));
    if (m.pieces.empty()) return out;
    const std::size_t i = last_begun(m.pieces, time_s_, [](const WayPiece& p) { return p.start_s; });
    out.pieces.resize(i + 1), out.pieces.back().end_s = time_s_;
    out.times.push_back(time_s_), out.places.push_back(place_at(m.pieces[i], time_s_));
    out.ended = Ended::reach;
    return out;
  }
  std::optional<Mark> operator()(const LastingMark& m) const {
    if (time_s_ < m.from_s || time_s_ > m.to_s) return std::nullopt;
    LastingMark out = m;
    // Of a blade its way until now tells what it swept through.
    if (!m.blade) out.from_s = time_s_;
    out.to_s = time_s_;
    return out;
  }
  std::optional<Mark> operator()(const HopMark& m) const {
    return m.from_s <= time_s_ ? std::optional<Mark>(m) : std::nullopt;
  }
  std::optional<Mark> operator()(const DashMark& m) const {
    if (m.legs.empty() || m.legs.front().start > time_s_) return std::nullopt;
    if (m.legs.back().end <= time_s_) return m;
    DashMark out = m;
    while (out.legs.back().start > time_s_) out.legs.pop_back();
    out.legs.back().end = time_s_, out.hitboxes.clear();
    return out;
  }

 private:
  double time_s_;
};

/// Which statuses a body has at a moment, or has been given; and whether it has fallen by then.
void add_statuses(const Outcome& outcome, BodyId body, std::optional<double> at_s, SketchBody& out) {
  const auto given = [&](const std::vector<EffectDone>& effects, double time_s) {
    for (const EffectDone& e : effects) {
      const auto* status = std::get_if<StatusDone>(&e.what);
      if (e.on != body || status == nullptr || (at_s && !(time_s <= *at_s && *at_s < status->until_s)))
        continue;
      const std::string name = status->name.str();
      if (std::find(out.statuses.begin(), out.statuses.end(), name) == out.statuses.end())
        out.statuses.push_back(name);
    }
  };
  for (const Strike& s : outcome.strikes) {
    given(s.effects, s.time_s);
    if (s.body == body && s.felled && (!at_s || s.time_s <= *at_s)) out.fallen = true;
  }
  for (const Happening& h : outcome.happenings) {
    if (h.on == body && h.felled && (!at_s || h.time_s <= *at_s)) out.fallen = true;
    if (h.what == Happening::What::released) given(h.effects, h.time_s);
    // What was ended before its time.
    if (at_s && h.on == body && h.what == Happening::What::over && h.time_s <= *at_s)
      std::erase(out.statuses, h.status.view());
  }
  if (!out.struck) return;
  for (const std::string& name : out.statuses) out.note += (out.note.empty() ? "" : ", ") + name;
}

/// The whole course, or one moment.
Sketch make(const Arena& arena, const Outcome& outcome, std::optional<double> at_s) {
  Sketch out;
  out.span = span_of(outcome), out.at_s = at_s;
  const TimeSpan shown = at_s ? TimeSpan{std::min(out.span.from_s, *at_s), *at_s} : out.span;
  const double then = at_s.value_or(out.span.from_s);
  const Whereabouts course(arena, outcome);
  out.title = (outcome.launch.empty() ? std::string() : outcome.launch + ": ") + outcome.attack;
  for (const Verdict& v : outcome.verdicts) {
    const Body& body = arena.body(v.body);
    SketchBody& b = out.bodies.emplace_back();
    b.id = body.id, b.attacker = v.body == outcome.by, b.fallen = body.fallen;
    const FactionId faction = arena.faction_at(v.body, then);
    b.faction = arena.faction_name(faction), b.faction_number = faction.index;
    b.pose = course.pose(v.body, then), b.hitboxes = course.hitboxes(v.body, then);
    b.note = v.struck ? std::string() : explain_briefly(v, arena);
    const auto first = std::find_if(outcome.strikes.begin(), outcome.strikes.end(),
                                    [&](const Strike& s) { return s.body == v.body; });
    b.struck = v.struck && (!at_s || (first != outcome.strikes.end() && first->time_s <= *at_s));
    add_statuses(outcome, v.body, at_s, b);
    if (!course.moves(v.body) || !(shown.to_s > shown.from_s)) continue;
    for (int i = 0; i <= kSteps; ++i) {
      b.way_times.push_back(step_time(shown, i));
      b.way.push_back(course.pose(v.body, b.way_times.back()).at);
    }
    if (b.struck && !at_s && first != outcome.strikes.end())
      b.struck_at = course.hitboxes(v.body, first->time_s);
  }
  for (const WallId id : arena.walls()) add_wall(arena, shown, id, at_s.has_value(), out);
  add_concerned(arena, outcome, out);
  for (const Strike& s : outcome.strikes) {
    if (!at_s || s.time_s <= *at_s) out.contacts.push_back({out.contacts.size() + 1, s.point, s.normal});
  }
  for (const Mark& m : outcome.marks) {
    if (const auto cut = at_s ? std::visit(Cut(*at_s), m) : std::optional<Mark>(m)) out.marks.push_back(*cut);
  }
  out.flat = arena.flat();
  if (arena.ground()) out.ground = HalfSpace{arena.ground_normal() * *arena.ground(), arena.ground_normal()};
  const auto struck =
      std::count_if(out.bodies.begin(), out.bodies.end(), [](const SketchBody& b) { return b.struck; });
  out.summary = std::to_string(struck) + " of " + std::to_string(outcome.verdicts.size()) + " struck";
  out.summary += at_s && *at_s < out.span.to_s ? " until then" : "; " + explain_end(outcome, arena);
  return out;
}

}  // namespace

TimeSpan span_of(const Outcome& outcome) {
  TimeSpan out{outcome.start_s, std::max(outcome.start_s, outcome.end_s)};
  const auto add = [&](double time_s) { out.to_s = std::max(out.to_s, time_s); };
  for (const Strike& s : outcome.strikes) add(s.time_s);
  for (const Happening& h : outcome.happenings) add(h.time_s);
  for (const Mark& m : outcome.marks) {
    if (const auto* lasted = std::get_if<LastingMark>(&m)) add(lasted->to_s);
    if (const auto* flight = std::get_if<FlightMark>(&m)) add(flight->times.back());
    if (const auto* hop = std::get_if<HopMark>(&m)) add(hop->to_s);
    if (const auto* dash = std::get_if<DashMark>(&m); dash != nullptr && !dash->legs.empty())
      add(dash->legs.back().end);
  }
  return out;
}

Sketch sketch(const Arena& arena, const Outcome& outcome) { return make(arena, outcome, std::nullopt); }
Sketch sketch_at(const Arena& arena, const Outcome& outcome, double time_s) {
  return make(arena, outcome, time_s);
}

Sketch together(const std::vector<Sketch>& parts) {
  Sketch out = parts.front();
  if (parts.size() == 1) return out;
  for (const Sketch& part : parts) {
    if (&part == &parts.front()) continue;
    out.title += ", " + part.title;
    out.span.from_s = std::min(out.span.from_s, part.span.from_s);
    out.span.to_s = std::max(out.span.to_s, part.span.to_s);
    out.marks.insert(out.marks.end(), part.marks.begin(), part.marks.end());
    for (const SketchContact& c : part.contacts)
      out.contacts.push_back({out.contacts.size() + 1, c.point, c.normal});
    for (std::size_t i = 0; i < out.bodies.size() && i < part.bodies.size(); ++i) {
      SketchBody& b = out.bodies[i];
      const SketchBody& also = part.bodies[i];
      b.attacker |= also.attacker, b.struck |= also.struck, b.concerned |= also.concerned;
      b.differs |= also.differs;
      if (b.struck_at.empty()) b.struck_at = also.struck_at;
      // Where one of them strikes it, or says more, why another does not tells little.
      if (b.struck || b.attacker) b.note.clear();
    }
    for (std::size_t i = 0; i < out.walls.size() && i < part.walls.size(); ++i)
      out.walls[i].concerned |= part.walls[i].concerned;
  }
  const auto struck =
      std::count_if(out.bodies.begin(), out.bodies.end(), [](const SketchBody& b) { return b.struck; });
  out.summary = std::to_string(parts.size()) + " launches; " + std::to_string(struck) + " of " +
                std::to_string(out.bodies.size()) + " struck by one of them or more";
  return out;
}

std::size_t mark_differences(Sketch& a, Sketch& b) {
  std::unordered_map<std::string_view, SketchBody*> others;
  for (SketchBody& body : b.bodies) others.emplace(body.id, &body);
  std::size_t count = 0;
  for (SketchBody& mine : a.bodies) {
    const auto found = others.find(mine.id);
    if (found == others.end()) continue;
    SketchBody& other = *found->second;
    if (mine.struck == other.struck) continue;
    ++count;
    for (SketchBody* body : {&mine, &other}) {
      body->differs = body->concerned = true;
      if (body->struck) body->note = "struck";
    }
  }
  return count;
}

}  // namespace dardo
