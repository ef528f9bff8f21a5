#include "support/trials.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <sstream>

#include "dardo/batch/resolve_all.hpp"
#include "dardo/io/outcome_json.hpp"
#include "dardo/io/scene.hpp"

namespace dardo::test {
namespace {

constexpr double kSameTime = 1e-6, kLongest = 8;

/// What came of a run: enough to hold two of them against each other.
struct Course {
  std::vector<Strike> strikes;
  std::vector<ShotEnd> ends;
};

/// When the ticks of a way end: always on halves of a second, too.
class Clock {
 public:
  explicit Clock(double hertz) : hertz_(hertz) {}
  double next(double now) {
    if (hertz_ > 0) return std::round(now * hertz_ + 1) / hertz_;
    state_ = state_ * 6364136223846793005u + 1442695040888963407u;
    const double step =
        state_ >> 60 == 0 ? 0 : 0.0005 + 0.1 * static_cast<double>(state_ >> 40 & 0xffffff) * 0x1p-24;
    const double half = std::floor(now * 2 + 1 + 1e-9) / 2;
    return std::min(now + step, half);
  }

 private:
  double hertz_;
  std::uint64_t state_ = 12345;
};

struct Way {
  const char* name;
  double hertz;  ///< 0: irregular
  bool by_moves = false, saved = false, beside_another = false;
};

Course play(const Recipe& recipe, const Way& way, const Carry& carry = {}) {
  Carry c = carry;
  c.by_moves = way.by_moves;
  Situation s = make_situation(recipe, c);
  auto live = std::make_unique<Skirmish>(s.arena);
  const AttackId attack = *live->add_attack(s.attack);
  const Attack flash{.name = "flash",
                     .delivery = AreaDelivery{.radius = 0.1, .around = AreaDelivery::Around::attacker},
                     .who = {Relation::neutral}};
  const AttackId other = *live->add_attack(flash);
  if (way.beside_another) (void)live->start(other, {.by = s.bodies[0]});
  const auto number = live->start(attack, s.launch);
  Course out;
  Clock clock(way.hertz);
  std::size_t deed = 0;
  int ticks = 0;
  std::size_t spawned = 0;
  do {
    for (; deed < s.deeds.size() && s.deeds[deed].time <= live->time() + 1e-9; ++deed) {
      const Deed& d = s.deeds[deed];
      const BodyId body = s.bodies[d.body];
      switch (d.kind) {
        case Deed::Kind::fall: (void)s.arena.set_fallen(body, true); break;
        case Deed::Kind::revive: (void)s.arena.set_fallen(body, false); break;
        case Deed::Kind::jump:
          // What is on a track follows that.
          if (s.arena.has(body) && s.arena.body(body).track.empty() && s.tracks[d.body].empty())
            (void)s.arena.move(body, d.pose);
          break;
        case Deed::Kind::spawn:
          (void)s.arena.add_body({.id = "new-" + std::to_string(spawned++),
                                  .build = s.arena.body(s.bodies[0]).build,
                                  .faction = *s.arena.find_faction("raiders"),
                                  .pose = d.pose});
          break;
        case Deed::Kind::remove: (void)s.arena.remove(body); break;
        case Deed::Kind::none: break;
      }
    }
    const double now = live->time(), end = clock.next(now);
    if (way.by_moves) {
      for (std::size_t i = 0; i < s.bodies.size(); ++i) {
        if (s.tracks[i].empty() || !s.arena.has(s.bodies[i])) continue;
        const Pose pose = leg_at(s.tracks[i], end).at(end);
        if (!(pose == s.arena.body(s.bodies[i]).pose)) (void)live->move(s.bodies[i], pose);
      }
    }
    (void)live->advance(
        end - now,
        [&](const Strike& strike) {
          if (strike.launch != *number) return false;
          out.strikes.push_back(strike);
          return s.struck_fall;
        },
        [&](const ShotEnd& e) {
          if (e.launch == *number) out.ends.push_back(e);
        });
    if (way.saved && ticks % 7 == 3) {
      const std::string bytes = live->save();
      auto again = std::make_unique<Skirmish>(s.arena);
      (void)*again->add_attack(s.attack), (void)*again->add_attack(flash);
      if (!again->restore(bytes)) return {{}, {}};
      live = std::move(again);
    }
  } while (++ticks < 20000 && live->time() < kLongest &&
           (live->in_flight() > 0 || deed < s.deeds.size() || live->time() < 0.6));
  return out;
}

std::string say(const Situation& s, const Strike& k) {
  std::ostringstream out;
  out.precision(12);
  out << (s.arena.has(k.body) ? s.arena.body(k.body).id : "gone") << '/' << k.hitbox << " stage " << k.stage
      << " cause " << k.cause << " t " << k.time_s << " at (" << k.point.x << ' ' << k.point.y << ' '
      << k.point.z << ')';
  return out.str();
}

/// Whether it holds of a shot of the attack, or of one within it.
template <class Holds>
bool any_within(const Attack& a, const Holds& holds) {
  const auto* shot = std::get_if<ShotDelivery>(&a.delivery);
  if (shot != nullptr && holds(*shot)) return true;
  for (const Then& t : a.then) {
    if (std::any_of(t.attacks.begin(), t.attacks.end(),
                    [&](const Attack& child) { return any_within(child, holds); }))
      return true;
  }
  return false;
}
bool foresees(const ShotDelivery& shot) { return shot.foreseen; }
bool has_shape(const ShotDelivery& shot) { return shot.shape.has_value(); }
bool homes(const ShotDelivery& shot) { return std::holds_alternative<GuidedPath>(shot.path); }

std::string differ(const Situation& s, const std::vector<Strike>& a, const std::vector<Strike>& b,
                   double same_time = kSameTime, double same_place = 1e-4) {
  // Where two flat faces touch, any place of both is a point of contact.
  if (any_within(s.attack, has_shape)) same_place = 10;
  std::ostringstream out;
  for (std::size_t i = 0; i < std::max(a.size(), b.size()); ++i) {
    const bool same = i < a.size() && i < b.size() && a[i].body == b[i].body && a[i].hitbox == b[i].hitbox &&
                      a[i].stage == b[i].stage && a[i].cause == b[i].cause &&
                      std::fabs(a[i].time_s - b[i].time_s) <= same_time &&
                      length(a[i].point - b[i].point) <= same_place;
    if (same) continue;
    out << "strike " << i + 1 << " of " << a.size() << ": " << (i < a.size() ? say(s, a[i]) : "none")
        << " | of " << b.size() << ": " << (i < b.size() ? say(s, b[i]) : "none");
    return out.str();
  }
  return {};
}

std::string differ(const Situation& s, const std::vector<ShotEnd>& a, const std::vector<ShotEnd>& b) {
  const double same_place = any_within(s.attack, has_shape) ? 10 : 1e-4;
  std::ostringstream out;
  out.precision(17);
  if (a.size() != b.size()) out << a.size() << " ends | " << b.size();
  for (std::size_t i = 0; i < a.size() && out.str().empty(); ++i) {
    if (a[i].ended != b[i].ended || std::fabs(a[i].time_s - b[i].time_s) > kSameTime ||
        length(a[i].place - b[i].place) > same_place)
      out << "end " << i + 1 << ": off by " << length(a[i].place - b[i].place) << " m; " << name(a[i].ended)
          << " t " << a[i].time_s << " | " << name(b[i].ended) << " t " << b[i].time_s;
  }
  return out.str();
}

bool finite(const std::optional<double>& v) { return !v || std::isfinite(*v); }

/// What holds of any outcome by itself.
std::string check_outcome(const Situation& s, const Outcome& out) {
  if (out.ended == Ended::refused) return "refused: " + out.problems[0].where + " " + out.problems[0].what;
  if (!is_finite(out.origin) || !is_finite(out.end) || !std::isfinite(out.end_s))
    return "numbers: end or origin";
  for (const Strike& k : out.strikes) {
    if (!is_finite(k.point) || !is_finite(k.normal) || !std::isfinite(k.time_s) ||
        !std::isfinite(k.distance) || !std::isfinite(k.power.arriving()))
      return "numbers: strike of " + say(s, k);
    if (std::fabs(length(k.normal) - 1) > 1e-6) return "numbers: normal of " + say(s, k);
  }
  if (out.verdicts.size() != s.arena.bodies().size()) return "verdicts: not one for each body";
  for (const Verdict& v : out.verdicts) {
    const bool struck = std::any_of(out.strikes.begin(), out.strikes.end(),
                                    [&](const Strike& k) { return k.body == v.body; });
    const std::string& id = s.arena.body(v.body).id;
    if (struck != v.struck)
      return "verdicts: " + id + (struck ? " is struck, and told: " : " is not struck, and told to be") +
             explain(v, s.arena);
    if (!struck && v.deciding.reason == Reason::none)
      return "verdicts: " + id + " is not struck, without a reason";
    if (!finite(v.deciding.measured) || !finite(v.deciding.limit) || !finite(v.deciding.margin))
      return "numbers: verdict of " + id;
    if (v.deciding.margin && *v.deciding.margin < 0) return "numbers: margin of " + id;
  }
  return {};
}

std::string check_files(const Situation& s, const Outcome& full) {
  const Outcome list[] = {full};
  const std::string json = io::outcomes_json(list, s.arena, "x");
  if (json.find("null") != std::string::npos) return "files: a null in the outcome";
  const auto again = io::parse_outcomes(json, "x", s.arena);
  if (!again) return "files: outcome not read: " + io::text(again.error()[0]);
  if (!((*again)[0] == full)) return "files: outcome read as another";
  io::Scene scene{
      .title = "", .arena = s.arena, .attacks = {s.attack}, .launches = {{s.launch, s.attack, {}}}};
  const std::string text = io::scene_json(scene);
  const auto read = io::parse_scene(text, "x");
  if (!read) return "files: scene not read: " + io::text(read.error()[0]);
  if (read->attacks != scene.attacks) return "files: attack read as another";
  if (!(resolve(read->arena, read->launches[0].attack, read->launches[0].launch, Detail::full) == full))
    return "files: scene read as another";
  return {};
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
};

std::string delivery_of(const Attack& a) {
  const auto* shot = std::get_if<ShotDelivery>(&a.delivery);
  if (shot == nullptr) return std::holds_alternative<RayDelivery>(a.delivery) ? "ray" : "area";
  constexpr std::array kPaths{"straight", "falling", "curve", "guided", "lob"};
  return kPaths[shot->path.index()];
}

void count(Tally& tally, const Situation& s) {
  const std::string d = delivery_of(s.attack);
  ++tally.seen[d];
  for (const Then& t : s.attack.then)
    ++tally.seen[d + " then " + std::string(word_of(t.when)) + " " + delivery_of(t.attacks[0])];
  const bool tracked = !s.arena.tracked().empty();
  ++tally.seen[d + (tracked ? " among movers" : " among the still")];
}

/// Who was struck in which order, and why the others were not.
std::string reasons(const Outcome& a, const Outcome& b, std::size_t bodies) {
  for (std::size_t i = 0; i < bodies; ++i) {
    const Verdict &x = a.verdicts[i], &y = b.verdicts[i];
    if (x.struck != y.struck || x.deciding.reason != y.deciding.reason)
      return "body " + std::to_string(i) + ": " + std::string(name(x.deciding.reason)) + " | " +
             std::string(name(y.deciding.reason));
  }
  return {};
}

}  // namespace

std::string try_all(const Recipe& recipe, Tally& tally) {
  const Situation s = make_situation(recipe);
  ++tally.situations;
  count(tally, s);
  const auto start = std::chrono::steady_clock::now();
  const Outcome full = resolve(s.arena, s.attack, s.launch, Detail::full);
  // Verdicts of many shots among many bodies take long: those situations are asked less, and counted.
  const bool costly = std::chrono::steady_clock::now() - start > std::chrono::milliseconds(100);
  tally.costly += costly;
  if (auto bad = check_outcome(s, full); !bad.empty()) return bad;
  tally.striking += !full.strikes.empty();
  const Outcome whole = resolve(s.arena, s.attack, s.launch, Detail::strikes);
  if (whole.strikes != full.strikes) return "detail: other strikes without verdicts";
  if (!costly) {
    if (auto bad = check_files(s, full); !bad.empty()) return bad;
  }
  const BatchLaunch one{&s.attack, s.launch}, two[] = {one, one, one};
  for (const int threads : {1, 4}) {
    if (costly) break;
    for (const Outcome& o : resolve_all(s.arena, two, Detail::full, threads)) {
      if (!(o == full)) return "batch: another outcome";
    }
  }
  if (!recipe.coincident) {
    ++tally.generic;
    Recipe aside = recipe;
    aside.nudge = 1e-8;
    const Situation n = make_situation(aside);
    const Outcome near = resolve(n.arena, n.attack, n.launch);
    if (!differ(s, full.strikes, near.strikes, 1e-4, 1e-3).empty()) {
      ++tally.degenerate;
      return {};
    }
  }
  const bool by_hand = !s.deeds.empty() || s.struck_fall;
  const Course reference = play(recipe, kReference);
  if (!by_hand) {
    if (auto bad = differ(s, whole.strikes, reference.strikes); !bad.empty())
      return "whole against 60 Hz: " + bad;
  }
  for (const Way& way : kWays) {
    // Nobody foresees what the game does.
    if (way.by_moves && (s.jumps || any_within(s.attack, foresees))) continue;
    const Course other = play(recipe, way);
    if (auto bad = differ(s, reference.strikes, other.strikes); !bad.empty())
      return "60 Hz against " + std::string(way.name) + ": " + bad;
    if (auto bad = differ(s, reference.ends, other.ends); !bad.empty())
      return "60 Hz against " + std::string(way.name) + ": " + bad;
  }
  if (costly) return {};
  // What changes nothing.
  const auto same = [&](const char* what, const Carry& carry, bool exact) -> std::string {
    const Situation t = make_situation(recipe, carry);
    Outcome o = resolve(t.arena, t.attack, t.launch);
    if (auto bad = check_outcome(t, o); !bad.empty()) return std::string(what) + ": " + bad;
    if (exact)
      return o.strikes == full.strikes ? reasons(full, o, s.bodies.size())
                                       : std::string(what) + ": " + differ(s, full.strikes, o.strikes);
    std::vector<Strike> back = o.strikes;
    for (std::size_t i = 0; i < back.size() && i < full.strikes.size(); ++i)
      back[i].point = full.strikes[i].point;
    if (auto bad = differ(s, full.strikes, back, 1e-7); !bad.empty()) return std::string(what) + ": " + bad;
    if (auto bad = reasons(full, o, s.bodies.size()); !bad.empty()) return std::string(what) + ": " + bad;
    return {};
  };
  if (auto bad = same("a far body added", {.extra_body = true}, true); !bad.empty()) return bad;
  if (auto bad = same("a far wall added", {.extra_wall = true}, true); !bad.empty()) return bad;
  if (auto bad = same("turned", {.quarters = 1}, false); !bad.empty()) return bad;
  if (auto bad = same("moved", {.move = {16, -32, 4}}, false); !bad.empty()) return bad;
  if (auto bad = same("boxes as hulls", {.boxes_as_hulls = true}, false); !bad.empty()) return bad;
  // What homes eases out its turns over a time of its own, whatever the scale.
  if (any_within(s.attack, homes)) return {};
  if (auto bad = same("twice as large", {.scale = 2}, false); !bad.empty()) return bad;
  return {};
}

Recipe shrunk(Recipe recipe, const std::string& complaint) {
  const std::string kind = complaint.substr(0, complaint.find(':'));
  const auto still = [&](const Recipe& r) {
    Tally ignored;
    const std::string now = try_all(r, ignored);
    return !now.empty() && now.substr(0, now.find(':')) == kind;
  };
  for (bool smaller = true; smaller;) {
    smaller = false;
    for (std::size_t i = 0; i < Recipe::records(); ++i) {
      const Recipe less = recipe.without_record(i);
      if (!(less.bodies == recipe.bodies && less.walls == recipe.walls && less.attack == recipe.attack &&
            less.script == recipe.script && less.general == recipe.general) &&
          still(less))
        recipe = less, smaller = true;
    }
    for (std::size_t i = 0; i < recipe.size(); ++i) {
      const Recipe less = recipe.without_byte(i);
      if (!(less.bodies == recipe.bodies && less.walls == recipe.walls && less.attack == recipe.attack &&
            less.script == recipe.script && less.general == recipe.general) &&
          still(less))
        recipe = less, smaller = true;
    }
  }
  return recipe;
}

}  // namespace dardo::test
