#include "support/trials.hpp"

#include <algorithm>
#include <array>
#include <chrono>

#include "dardo/batch/resolve_all.hpp"
#include "dardo/io/outcome_json.hpp"
#include "dardo/io/scene.hpp"
#include "dardo/resolve/prepared.hpp"
#include "resolve/work.hpp"
#include "support/play.hpp"
#include "support/reference.hpp"
#include "support/relations.hpp"

namespace dardo::test {
namespace {

std::string check_files(const Situation& s, const Outcome& full) {
  const Outcome list[] = {full};
  const std::string json = io::outcomes_json(list, s.arena, "x");
  // Nobody attacks from a place; all else that is null would be no number.
  const std::size_t null = json.find("null");
  if (null != std::string::npos && null != json.find("\"by\": null") + 6)
    return "files: a null in the outcome";
  const auto again = io::parse_outcomes(json, "x", s.arena);
  if (!again) return "files: outcome not read: " + io::text(again.error()[0]);
  const Outcome& read_back = (*again)[0];
  if (read_back.strikes != full.strikes) return "files: strikes read as others";
  if (read_back.surfaces != full.surfaces) return "files: surfaces read as others";
  if (read_back.verdicts != full.verdicts) return "files: verdicts read as others";
  if (read_back.marks != full.marks) return "files: marks read as others";
  if (!(read_back == full)) return "files: outcome read as another";
  io::Scene scene{.title = "",
                  .arena = s.arena,
                  .attacks = {s.attack},
                  .launches = {{s.launch, s.attack, {}}},
                  .limits = s.limits};
  const std::string text = io::scene_json(scene);
  const auto read = io::parse_scene(text, "x");
  if (!read) return "files: scene not read: " + io::text(read.error()[0]);
  if (read->attacks != scene.attacks) return "files: attack read as another";
  if (!(io::resolve(*read, read->launches[0], ResolveOptions{.detail = Detail::full, .rules = &rules()}) ==
        full))
    return "files: scene read as another";
  return {};
}

/// Looks at how far two are apart, for each piece and contact and whatever could have been near.
std::string check_work(const Situation& s, const detail::Work& before) {
  const detail::Work& now = detail::work();
  const double events =
                   1.0 + static_cast<double>(now.pieces - before.pieces + now.contacts - before.contacts),
               looks = static_cast<double>(now.looks - before.looks);
  double near = 1;
  // Each triangle of a mesh is looked at by itself.
  for (const WallId wall : s.arena.walls())
    near += static_cast<double>(s.arena.wall_table().parts_of(wall).size());
  for (const BodyId body : s.arena.bodies())
    near += static_cast<double>(s.arena.build(s.arena.body(body).build).hitboxes.size());

  // What lasts is looked at over all its time: by how it turns, and who is in it.
  const double kAtFirst = any_attack(s.attack, lasts) ? 100'000 : 300, kEach = 64;
  if (looks <= kAtFirst + kEach * events * near) return {};
  return "work: " + std::to_string(looks) + " looks for " + std::to_string(events) + " events among " +
         std::to_string(near);
}

const Way kReference{"60 Hz", 60};
const Way kWays[] = {
    {"10 Hz", 10},
    {"30 Hz", 30},
    {"144 Hz", 144},
    {"irregular ticks", 0},
    {"60 Hz by moves", 60, true},
    {"irregular ticks by moves", 0, true},
    {"60 Hz saved and restored", 60, false, true},
    {"60 Hz beside another", 60, false, false, true},
    {"60 Hz half a second later", 60, false, false, false, 0.5},
    {"60 Hz a day later", 60, false, false, false, 86'400},
    {"60 Hz, all fallen and revived between ticks", 60, false, false, false, 0, true},
};

/// The same played in all ways.
std::string check_ways(const Recipe& recipe, const Situation& s, const Outcome& whole) {
  const bool by_hand = !s.deeds.empty() || s.struck_fall;
  const Played reference = play(recipe, kReference);
  if (!by_hand) {
    if (auto bad = differ(s, whole.strikes, s, reference.strikes); !bad.empty())
      return "whole against 60 Hz: " + bad;
    if (auto bad = differ(s, whole.happenings, s, reference.happenings); !bad.empty())
      return "whole against 60 Hz: " + bad;
    if (auto bad = differ(whole.limits_met, reference.limits_met); !bad.empty())
      return "whole against 60 Hz: " + bad;
  }
  for (const Way& way : kWays) {
    // Nobody foresees what the game does.
    if (way.by_moves && (s.jumps || any_shot(s.attack, foresees))) continue;
    // Who fell by hand stays so only where nobody revives him; who falls by a strike, the game lets lie.
    if (way.winking && by_hand) continue;
    // At another time all numbers are rounded otherwise.
    if (way.later > 0 && recipe.coincident) continue;
    const Played other = play(recipe, way);
    std::string bad = other.restored ? "" : "not restored";
    if (bad.empty()) bad = differ(s, reference.strikes, s, other.strikes);
    if (bad.empty()) bad = differ(s, reference.ends, other.ends);
    if (bad.empty()) bad = differ(s, reference.happenings, s, other.happenings);
    if (bad.empty()) bad = differ(reference.limits_met, other.limits_met);
    if (!bad.empty()) return "60 Hz against " + std::string(way.name) + ": " + bad;
  }
  return {};
}

std::string delivery_of(const Attack& a) {
  const auto* shot = std::get_if<ShotDelivery>(&a.delivery);
  const auto* area = std::get_if<AreaDelivery>(&a.delivery);
  if (area != nullptr && area->lasts) return "lasting";
  constexpr std::array kKinds{"ray", "area", "shot", "swing", "trap", "chain", "dash"};
  if (shot == nullptr) return kKinds[a.delivery.index()];
  constexpr std::array kPaths{"straight", "falling", "curve", "guided", "lob"};
  return kPaths[shot->path.index()];
}

}  // namespace

void count(Tally& tally, const Situation& s) {
  const std::string d = delivery_of(s.attack),
                    motion = s.arena.tracked().empty() ? " among the still" : " among movers";
  ++tally.seen[d];
  ++tally.seen[d + motion];
  for (const Then& t : s.attack.then)
    ++tally.seen[d + " then " + std::string(word_of(t.when)) + " " + delivery_of(t.attacks[0]) + motion];
  constexpr std::array kShapes{"ball", "capsule", "box", "cylinder", "cone", "hull", "triangle", "mesh"};
  for (const WallId wall : s.arena.walls()) {
    ++tally.seen[std::string("wall: ") + kShapes[s.arena.wall(wall).shape.index()]];
    if (s.arena.wall_table().moves(wall)) ++tally.seen["wall that moves"];
  }
  for (const BodyId body : s.arena.bodies()) {
    if (s.arena.changes(body)) ++tally.seen["body that changes"];
  }
  if (s.launch.from) ++tally.seen["launch from a place"];
  if (s.launch.muzzle_at) ++tally.seen["launch from a muzzle in the world"];
  if (s.launch.leaving) ++tally.seen["launch that leaves aside"];
  if (std::holds_alternative<AtChoice>(s.launch.toward)) ++tally.seen["launch at a choice"];
  if (s.launch.at_s > 0) ++tally.seen["launch at its own time"];
  const auto* shot = std::get_if<ShotDelivery>(&s.attack.delivery);
  if (shot == nullptr) return;
  const std::string flyer = shot->shape        ? kShapes[shot->shape->index()]
                            : shot->radius > 0 ? "radius"
                                               : "point";
  for (const BodyId body : s.bodies) {
    for (const Hitbox& h : s.arena.build(s.arena.body(body).build).hitboxes)
      ++tally.seen[flyer + " at a " + kShapes[h.shape.index()]];
  }
}

std::string try_all(const Recipe& recipe, Tally& tally) {
  const Situation s = make_situation(recipe);
  ++tally.situations;
  count(tally, s);
  const auto start = std::chrono::steady_clock::now();
  const Outcome full = s.resolved(Detail::full);
  const auto took = std::chrono::steady_clock::now() - start;
  // Verdicts of many shots among many bodies take long: those situations are asked less, and counted.
  const bool costly = took > std::chrono::milliseconds(100);
  tally.costly += costly;
  // Whom it has chosen, or aims at by then, may be just where it starts.
  if (full.ended == Ended::not_ready) {
    ++tally.seen["not ready"];
    return full.problems.empty() || !full.strikes.empty() ? "not ready, and does something" : "";
  }
  if (full.ended == Ended::refused &&
      (std::holds_alternative<AtChoice>(s.launch.toward) || s.launch.at_s > 0 || s.attack.windup))
    return {};
  if (auto bad = check_outcome(s, full); !bad.empty()) return bad;
  tally.striking += !full.strikes.empty();
  for (const LimitMet& m : full.limits_met) ++tally.seen["limit of " + std::string(name(m.limit))];
  const detail::Work before = detail::work();
  const Outcome whole = s.resolved(Detail::strikes);
  if (auto bad = check_work(s, before); !bad.empty()) return bad;
  // What would have been done is told with verdicts only.
  std::vector<Strike> without_spared = full.strikes;
  for (Strike& k : without_spared) k.spared.clear();
  if (whole.strikes != without_spared) return "detail: other strikes without verdicts";
  if (whole.happenings != full.happenings) return "detail: other happenings without verdicts";
  if (!costly) {
    if (auto bad = check_files(s, full); !bad.empty()) return bad;
  }
  const auto prepared = prepare(s.arena, s.attack, rules());
  if (!prepared) return "prepared: refused";
  Outcome again;
  for (int i = 0; i < 2 && !costly; ++i) {
    resolve(s.arena, *prepared, s.launch,
            {.detail = Detail::full, .under_way = {}, .limits = s.limits, .rules = &rules()}, again);
    if (!(again == full)) return "prepared: another outcome";
  }
  // Enough of them to be shared between threads, where they take no time.
  const bool quick = took < std::chrono::microseconds(300);
  const std::vector<BatchLaunch> many(quick ? 40 : 3, BatchLaunch{&s.attack, s.launch});
  for (const int threads : {1, 4}) {
    if (costly) break;
    for (const Outcome& o :
         resolve_all(s.arena, many,
                     {.detail = Detail::full, .limits = s.limits, .rules = &rules(), .threads = threads})) {
      if (!(o == full)) return "batch: another outcome";
    }
  }
  if (!recipe.coincident) {
    ++tally.generic;
    Recipe aside = recipe;
    aside.nudge = 1e-8;
    const Situation n = make_situation(aside);
    const Outcome near = n.resolved();
    if (!differ(s, full.strikes, n, near.strikes, 1e-4, 1e-3).empty() ||
        !differ_in_reasons(s, full, n, near).empty()) {
      ++tally.degenerate;
      return {};
    }
  }
  if (auto bad = check_ways(recipe, s, whole); !bad.empty()) return bad;
  if (!recipe.coincident && recipe.general[7] % 10 == 0) {
    if (auto bad = check_densely(s); !bad.empty()) return bad;
  }
  return costly ? std::string{} : relate(recipe, s, full);
}

Recipe shrunk(Recipe recipe, const std::string& complaint) {
  const std::string kind = complaint.substr(0, complaint.find(':'));
  const auto take = [&](const Recipe& less) {
    if (less == recipe) return false;
    Tally ignored;
    const std::string now = try_all(less, ignored);
    if (now.empty() || now.substr(0, now.find(':')) != kind) return false;
    recipe = less;
    return true;
  };
  for (bool smaller = true; smaller;) {
    smaller = false;
    for (std::size_t i = 0; i < Recipe::records(); ++i) smaller = take(recipe.without_record(i)) || smaller;
    for (std::size_t i = 0; i < recipe.size(); ++i) smaller = take(recipe.without_byte(i)) || smaller;
  }
  return recipe;
}

}  // namespace dardo::test
