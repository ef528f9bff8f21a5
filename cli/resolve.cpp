#include <fmt/format.h>

#include <algorithm>
#include <span>
#include <tuple>

#include "commands.hpp"
#include "dardo/dardo.hpp"
#include "dardo/io/outcome_json.hpp"
#include "fates.hpp"
#include "terminal.hpp"

namespace dardo::cli {
namespace {

std::string metres(double v) { return fmt::format("{:.2f} m", v); }
std::string place(const Vec3& p) { return fmt::format("({:.2f}, {:.2f}, {:.2f})", p.x, p.y, p.z); }

/// What is over in an instant needs no times.
bool takes_time(const Outcome& out) {
  return std::any_of(out.marks.begin(), out.marks.end(), [](const Mark& m) {
    return std::holds_alternative<FlightMark>(m) || std::holds_alternative<LastingMark>(m) ||
           std::holds_alternative<HopMark>(m) || std::holds_alternative<DashMark>(m);
  });
}

/// Walls and ground that it met; of a great many the first.
void print_surfaces(const Outcome& out, const Arena& arena) {
  if (out.surfaces.empty()) return;
  const bool flies = takes_time(out);
  Table met({Tone::quiet});
  constexpr std::size_t kShown = 20;
  const std::size_t shown = std::min(kShown, out.surfaces.size());
  for (const SurfaceMet& m : std::span(out.surfaces).first(shown)) {
    std::vector<std::string> row{"  " + std::string(name(m.did)),
                                 m.wall.empty() ? "the ground" : arena.wall(m.wall).id,
                                 "at " + metres(m.distance), place(m.point)};
    if (flies) row.push_back(fmt::format("{:.3f} s", m.time_s));
    if (m.speed > 0)
      row.push_back(m.leaves > 0 ? fmt::format("{:.1f} to {:.1f} m/s", m.speed, m.leaves)
                                 : fmt::format("{:.1f} m/s", m.speed));
    met.add(std::move(row));
  }
  fmt::print("  walls and ground: {}\n", out.surfaces.size());
  met.print("  ");
  if (shown < out.surfaces.size()) fmt::print("      and {} more\n", out.surfaces.size() - shown);
}

std::size_t struck_in(const Outcome& out) {
  return static_cast<std::size_t>(
      std::count_if(out.verdicts.begin(), out.verdicts.end(), [](const Verdict& v) { return v.struck; }));
}

/// A line for each launch.
void print_summary(std::span<const Outcome> outcomes, const Arena& arena) {
  Table lines({Tone::strong});
  for (const Outcome& out : outcomes) {
    double power = 0;
    for (const Strike& s : out.strikes) power += s.power.arriving();
    const std::size_t struck = struck_in(out);
    lines.add({out.launch, out.attack + " " + attacker_name(out, arena), fmt::format("{:>3} struck", struck),
               fmt::format("{:>3} not", out.verdicts.size() - struck), fmt::format("power {:g}", power),
               explain_end(out, arena)});
  }
  lines.print("");
  fmt::print("\n");
}

/// What a strike does, a line for each, below it.
void print_effects(const Strike& s, const Arena& arena, Table& struck) {
  const auto line = [&](BodyId on, const std::string& text) {
    const std::string whom = on == s.body || !arena.has(on) ? "" : "on " + arena.body(on).id + ": ";
    struck.note("       " + whom + text);
  };
  for (const EffectDone& e : s.effects) line(e.on, explain(e));
  for (const EffectSpared& e : s.spared)
    line(e.on, fmt::format("effect {} spared: {}", e.effect + 1, explain(e)));
  if (s.felled) line(s.body, "felled by it");
}

/// What releases and statuses do, by time.
void print_happenings(const Outcome& out, const Arena& arena) {
  if (out.happenings.empty()) return;
  Table happened({Tone::quiet});
  constexpr std::size_t kShown = 40;
  const std::size_t most = std::min(kShown, out.happenings.size());
  for (const Happening& h : std::span(out.happenings).first(most))
    happened.add({fmt::format("  {:.3f} s", h.time_s), explain(h, arena)});
  fmt::print("  besides: {}\n", out.happenings.size());
  happened.print("  ");
  if (most < out.happenings.size()) fmt::print("      and {} more\n", out.happenings.size() - most);
}

void print_strikes(std::span<const Fate> fates, const Outcome& out, const Arena& arena) {
  const bool flies = takes_time(out);
  Table struck({Tone::good, Tone::good});
  for (const Fate& f : fates) {
    if (f.strike == nullptr) continue;
    const Strike& s = *f.strike;
    const Hitbox& hitbox = arena.build(arena.body(s.body).build).hitboxes[s.hitbox];
    std::vector<std::string> row{fmt::format("{:>3}", f.number), arena.body(s.body).id, hitbox.zone,
                                 "at " + metres(s.distance), place(s.point)};
    if (flies) row.push_back(fmt::format("{:.3f} s", s.time_s));
    row.push_back(explain(s.power));
    if (s.stage > 0) row.push_back(s.cause > 0 ? fmt::format("follows from {}", s.cause) : "follows from it");
    struck.add(std::move(row));
    print_effects(s, arena, struck);
  }
  struck.print("  ");
}

void print_downed(const Outcome& out, const Arena& arena) {
  if (out.downed.empty()) return;
  Table downed({Tone::quiet, Tone::good, Tone::plain, Tone::plain});
  for (const Downed& d : out.downed) {
    downed.add({"  -", d.by.empty() ? "a shot from a place" : "a shot of " + arena.body(d.by).id,
                place(d.point), fmt::format("{:.3f} s", d.time_s)});
  }
  fmt::print("  shot down: {}\n", out.downed.size());
  downed.print("  ");
}

void print_outcome(const Outcome& out, const Arena& arena, Only only, SortBy by) {
  fmt::print("{}  {} {}, {}\n", toned(shown(out.launch), Tone::strong), shown(out.attack),
             shown(attacker_name(out, arena)), shown(explain_end(out, arena)));
  for (const Problem& p : out.problems) fmt::print("  problem: {} {}\n", shown(p.where), shown(p.what));
  for (const LimitMet& m : out.limits_met) fmt::print("  limit: {}\n", explain(m));
  for (const std::string& w : out.warnings) fmt::print("  warning: {}\n", shown(w));
  const std::vector<Fate> fates = fates_of(out, arena, only, by);
  fmt::print("  struck: {}\n", struck_in(out));
  print_strikes(fates, out, arena);
  if (only == Only::all) {
    print_happenings(out, arena);
    print_downed(out, arena);
    print_surfaces(out, arena);
  }
  if (only == Only::struck) return;
  Table passed({Tone::plain, Tone::plain, Tone::quiet});
  std::size_t count = 0;
  for (const Fate& f : fates) {
    if (f.verdict != nullptr)
      ++count, passed.add({"  -", arena.body(f.body()).id, explain(*f.verdict, arena)});
  }
  const std::size_t spared = out.verdicts.size() - struck_in(out);
  fmt::print("  not struck: {}{}\n", spared, only == Only::near ? fmt::format(", near: {}", count) : "");
  passed.print("  ");
}

void print_why(const Outcome& out, const Verdict& v, const Arena& arena) {
  fmt::print("{}  {} {}: {} {}\n", toned(shown(out.launch), Tone::strong), shown(out.attack),
             shown(attacker_name(out, arena)), shown(arena.body(v.body).id),
             v.struck ? toned("struck", Tone::good) : "not struck");
  const auto same = [](const Reading& a, const Reading& b) {
    return a.stage == b.stage && a.since_s == b.since_s;
  };
  for (std::size_t i = 0; i < v.gates.size();) {
    const Reading& first = v.gates[i];
    if (first.stage > 0) fmt::print("  what follows ({}), from {:.3f} s:\n", first.stage, first.since_s);
    Table gates({Tone::plain, Tone::plain, Tone::quiet});
    // Each attack's gates begin with the first one again.
    do {
      const Reading& r = v.gates[i];
      const bool pass = r.reason == Reason::none;
      const bool decides = !pass && r.gate == v.deciding.gate && same(r, v.deciding);
      gates.add({std::string(name(r.gate)), pass ? "pass" : decides ? "STOP" : "stop", explain(r, arena)});
    } while (++i < v.gates.size() && v.gates[i].gate != first.gate);
    gates.print("  ");
  }
}

std::string quoted_list(const std::vector<std::string>& names) {
  return names.empty() ? "none" : fmt::format("{}", fmt::join(names, ", "));
}

}  // namespace

std::optional<std::vector<const io::SceneLaunch*>> pick_launches(const io::Scene& scene,
                                                                 const std::vector<std::string>& ids) {
  std::vector<const io::SceneLaunch*> out;
  std::vector<std::string> all;
  for (const io::SceneLaunch& l : scene.launches) {
    all.push_back(l.launch.id);
    if (ids.empty()) out.push_back(&l);
  }
  for (const std::string& id : ids) {
    const auto found = std::find(all.begin(), all.end(), id);
    if (found == all.end()) {
      print_error(
          fmt::format("--launch {}: no such launch in this scene; expected one of {}", id, quoted_list(all)));
      return std::nullopt;
    }
    out.push_back(&scene.launches[static_cast<std::size_t>(found - all.begin())]);
  }
  return out;
}

namespace {

/// Rules of a game's own, assumed to pass or to stop everybody; nothing, with a message printed, when one is
/// not said so.
std::optional<Rules> assumed_rules(const std::vector<std::string>& assume) {
  Rules out;
  for (const std::string& one : assume) {
    const std::size_t at = one.rfind('=');
    const std::string answer = at == std::string::npos ? "" : one.substr(at + 1);
    if (at == 0 || (answer != "pass" && answer != "stop")) {
      print_error(fmt::format("--assume {}: says no answer; expected NAME=pass or NAME=stop", one));
      return std::nullopt;
    }
    const bool passes = answer == "pass";
    out.add(one.substr(0, at), [passes](const RuleQuestion&) { return RuleAnswer{.passes = passes}; });
  }
  return out;
}

/// Rules that an attack lists, and those within it.
void add_rules(std::vector<std::string>& out, const Attack& attack) {
  out.insert(out.end(), attack.rules.begin(), attack.rules.end());
  for (const Then& then : attack.then) {
    for (const Attack& child : then.attacks) add_rules(out, child);
  }
}

}  // namespace

std::unique_ptr<const Opened> open_scene(const std::string& path, const std::vector<std::string>& ids,
                                         const std::optional<std::vector<std::string>>& assume) {
  auto scene = io::read_scene(path);
  if (!scene) {
    print_problems(scene.error());
    return nullptr;
  }
  print_doubts(scene->doubts);
  auto rules = assumed_rules(assume.value_or(std::vector<std::string>{}));
  if (!rules) return nullptr;
  for (const Attack& attack : scene->attacks) {
    if (!assume) break;
    std::vector<std::string> listed;
    add_rules(listed, attack);
    for (const std::string& rule : listed) {
      if (rules->find(rule) != nullptr) continue;
      print_error(
          fmt::format("{}: /attacks/{}: lists the rule \"{}\", which only a game knows; expected "
                      "--assume {}=pass, or =stop",
                      path, attack.name, rule, rule));
      return nullptr;
    }
  }
  // The launches are picked where the scene stays.
  auto out = std::make_unique<Opened>(Opened{std::move(*scene), {}, std::move(*rules)});
  auto launches = pick_launches(out->scene, ids);
  if (!launches) return nullptr;
  out->launches = std::move(*launches);
  return out;
}

std::vector<Outcome> outcomes_of(const io::Scene& scene, const std::vector<const io::SceneLaunch*>& launches,
                                 const Resolving& how) {
  std::vector<io::SceneLaunch> all;
  for (const io::SceneLaunch* l : launches) {
    all.push_back(*l);
    if (how.seed) all.back().launch.seed = *how.seed;
  }
  const dardo::ResolveOptions options{.detail = how.detail, .rules = &how.rules};
  std::vector<Outcome> out;
  if (how.together) {
    std::vector<const io::SceneLaunch*> refs;
    for (const io::SceneLaunch& l : all) refs.push_back(&l);
    return io::resolve_together(scene, refs, options);
  }
  for (const io::SceneLaunch& l : all) out.push_back(io::resolve(scene, l, options));
  return out;
}

void print_course(const std::vector<Outcome>& outcomes, const Arena& arena) {
  struct Event {
    double time;
    int rank;  ///< at one time: what begins, is released, is struck, and then the rest
    std::string launch, what;
  };
  std::vector<Event> events;
  for (const Outcome& out : outcomes) {
    const auto add = [&](double time, int rank, std::string what) {
      events.push_back({time, rank, out.launch, std::move(what)});
    };
    if (out.problems.empty()) add(out.start_s, 0, "begins " + attacker_name(out, arena));
    for (const Problem& p : out.problems) add(out.end_s, 0, p.where + " " + p.what);
    for (const Strike& s : out.strikes) {
      std::string what = "strikes " + arena.body(s.body).id;
      for (const EffectDone& e : s.effects)
        what += (e.on == s.body ? ", " : ", " + arena.body(e.on).id + ": ") + explain(e);
      add(s.time_s, 2, std::move(what));
    }
    for (const Happening& h : out.happenings)
      add(h.time_s, h.what == Happening::What::released ? 1 : 3, explain(h, arena));
    for (const Downed& d : out.downed)
      add(d.time_s, 2, d.by.empty() ? "shoots down a shot" : "shoots down a shot of " + arena.body(d.by).id);
  }
  std::stable_sort(events.begin(), events.end(), [](const Event& a, const Event& b) {
    return std::tie(a.time, a.rank) < std::tie(b.time, b.rank);
  });
  Table rows({Tone::quiet, Tone::strong});
  for (Event& e : events)
    rows.add({fmt::format("{:8.3f} s", e.time), std::move(e.launch), std::move(e.what)});
  rows.print("");
  fmt::print("\n");
}

void print_outcomes(const io::Scene& scene, const std::vector<Outcome>& outcomes, bool together,
                    const std::string& only, const std::string& sort) {
  if (together) print_course(outcomes, scene.arena);
  if (outcomes.size() > 1) print_summary(outcomes, scene.arena);
  for (const Outcome& out : outcomes) {
    print_outcome(out, scene.arena, only_of(only), sort_of(sort));
    if (&out != &outcomes.back()) fmt::print("\n");
  }
}

int run_resolve(const ResolveOptions& options) {
  const auto opened = open_scene(options.scene, options.launches, options.assume);
  if (!opened) return kBadInput;
  const io::Scene* scene = &opened->scene;
  const auto* launches = &opened->launches;
  const Arena& arena = scene->arena;
  const auto why = arena.find_body(options.why);
  if (!options.why.empty() && !why) {
    std::vector<std::string> ids;
    for (const BodyId b : arena.bodies()) ids.push_back(arena.body(b).id);
    print_error(fmt::format("--why {}: no such body in this scene; expected one of {}", options.why,
                            quoted_list(ids)));
    return kBadInput;
  }
  const bool for_machines = options.json || options.csv || options.lines;
  std::vector<Outcome> outcomes = outcomes_of(
      *scene, *launches, {opened->rules, why ? Detail::full : Detail::verdicts, options.together});
  if (!for_machines && !why) {
    print_outcomes(*scene, outcomes, options.together, options.only, options.sort);
    return kDone;
  }
  // The gates of the one body that was asked about, and no others'.
  for (Outcome& out : outcomes) {
    for (Verdict& v : out.verdicts) {
      if (v.body != why) v.gates.clear();
    }
  }
  if (options.json) {
    fmt::print("{}", io::outcomes_json(outcomes, arena, scene->title));
    return kDone;
  }
  if (options.csv || options.lines) {
    std::vector<Fate> fates;
    for (const Outcome& out : outcomes) {
      const std::vector<Fate> of_one = fates_of(out, arena, only_of(options.only), sort_of(options.sort));
      fates.insert(fates.end(), of_one.begin(), of_one.end());
    }
    fmt::print("{}", options.csv ? fates_csv(fates, arena) : fates_json_lines(fates, arena));
    return kDone;
  }
  for (const Outcome& out : outcomes) {
    for (const Verdict& v : out.verdicts) {
      if (v.body == why) print_why(out, v, arena);
    }
    if (&out != &outcomes.back()) fmt::print("\n");
  }
  return kDone;
}

}  // namespace dardo::cli
