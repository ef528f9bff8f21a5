#include "dardo/io/scene.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>
#include <unordered_map>

#include "dardo/record/explain.hpp"
#include "dardo/record/rows.hpp"
#include "dardo/resolve/resolve.hpp"
#include "io/detail/from_rows.hpp"
#include "io/detail/levels.hpp"

namespace dardo::io {
namespace {

using detail::FactionEntry;
using detail::Fields;
using detail::LaunchEntry;
using detail::Node;
using detail::Place;
using detail::Reader;
using detail::RowReader;
using detail::SceneNames;
using detail::TowardEntry;
using detail::UnderWayEntry;

/// Reads a scene in one pass over its sections; every section is read even when an earlier one has problems.
class SceneReader {
 public:
  SceneReader(Reader& reader, const Node& root) : reader_(reader), root_{&root, ""} {}

  FileResult<Scene> read() {
    const Fields top(reader_, root_,
                     {"$schema", "dardo", "title", "factions", "materials", "builds", "bodies", "walls",
                      "attacks", "launches", "gravity", "ground", "limits", "flat", "unit", "y_down"});
    if (top.is_object()) {
      if (const auto p = top.need("dardo", "\"dardo\": 1, the version of the format")) {
        const auto version = reader_.number(*p);
        if (version && *version != 1) reader_.problem(p->pointer, fmt::format("is {}", *version), "1");
      }
      if (const auto p = top.at("title")) scene_.title = reader_.text(*p).value_or("");
      if (const auto p = top.at("$schema")) reader_.text(*p);
      read_plane(top);
      if (const auto p = top.at("ground")) {
        read_ground(*p);
      }
      if (const auto p = top.at("limits")) rows_.read(*p, scene_.limits);
      if (const auto p = top.at("gravity")) {
        if (scene_.flat == Flat::above)
          reader_.problem(p->pointer, "means nothing seen from above", "no \"gravity\"");
        Vec3 down = scene_.arena.gravity();
        rows_.read(*p, down, units::acceleration);
        (void)scene_.arena.set_gravity(down);
      }
      if (const auto p = top.need("factions", "an object of factions")) read_factions(*p);
      if (const auto p = top.at("materials")) read_materials(*p);
      if (const auto p = top.need("builds", "an object of builds")) read_builds(*p);
      if (const auto p = top.need("bodies", "a list of bodies")) read_bodies(*p);
      if (const auto p = top.at("walls")) read_walls(*p);
      if (const auto p = top.need("attacks", "an object of attacks")) read_attacks(*p);
      if (const auto p = top.need("launches", "a list of launches")) read_launches(*p);
    }
    if (!reader_.clean()) return tl::unexpected(reader_.take());
    scene_.arena.update();
    reader_.problems("", doubts(scene_.arena));
    for (std::size_t i = 0; i < scene_.attacks.size(); ++i)
      reader_.problems(attack_places_[i],
                       doubts(scene_.arena, scene_.attacks[i], scene_.attacks, scene_.limits));
    scene_.doubts = reader_.take();
    return std::move(scene_);
  }

 private:
  /// What lies in a plane, and which way: before anything that has a place.
  void read_plane(const Fields& top) {
    if (const auto p = top.at("flat")) {
      if (const auto w = reader_.word(*p, {"above", "side"})) {
        scene_.flat = *w == 0 ? Flat::above : Flat::side;
        plane_.flat = true;
      }
    }
    if (const auto p = top.at("unit")) scene_.unit = reader_.name(*p).value_or("");
    if (const auto p = top.at("y_down")) {
      scene_.y_down = plane_.y_down = reader_.boolean(*p).value_or(false);
      if (!scene_.flat) reader_.problem(p->pointer, "means nothing in space", "\"flat\" beside it");
    }
    rows_.lie_in(plane_);
    if (!scene_.flat) return;
    scene_.arena.set_flat(true);
    (void)scene_.arena.set_gravity(scene_.flat == Flat::side ? Vec3{0, -9.81, 0} : Vec3{});
  }

  void read_ground(const Place& place) {
    if (scene_.flat == Flat::above) {
      reader_.problem(place.pointer, "means nothing seen from above", "no \"ground\"");
      return;
    }
    if (place.node->kind == Node::Kind::number) {
      std::optional<double> height;
      rows_.read(place, height, units::coordinate);
      if (height) height = plane_.y(*height);
      (void)scene_.arena.set_ground(height);
      return;
    }
    detail::SlopeEntry slope;
    const std::size_t before = reader_.count();
    rows_.read(place, slope);
    if (reader_.count() != before) return;
    for (Problem& p : scene_.arena.set_ground(HalfSpace{slope.at, slope.normal})) {
      p.where.erase(0, std::string_view("/ground").size());
      reader_.problems(place.pointer, {p});
    }
  }

  void read_factions(const Place& place) {
    const auto all = reader_.members(place);
    constexpr std::size_t kMost = 1024;
    if (all.size() > kMost) {
      reader_.problem(place.pointer, fmt::format("has {} factions", all.size()),
                      fmt::format("at most {}", kMost));
      return;
    }
    for (const auto& [name, value] : all) {
      names_.factions.add(name);
      if (auto added = scene_.arena.add_faction(name); !added) reader_.problems(value.pointer, added.error());
    }
    for (const auto& [name, value] : all) {
      FactionEntry entry;
      rows_.read(value, entry);
      const auto from = scene_.arena.find_faction(name);
      if (!from) continue;
      if (entry.others) {
        for (const std::string& other : names_.factions.names) {
          const auto to = scene_.arena.find_faction(other);
          if (other != name && to) scene_.arena.relate(*from, *to, *entry.others);
        }
      }
      std::set<std::string> seen;
      relate(value, "foe", *from, entry.foe, Relation::foe, seen);
      relate(value, "friend", *from, entry.friendly, Relation::friendly, seen);
      relate(value, "neutral", *from, entry.neutral, Relation::neutral, seen);
      if (entry.others == Relation::self)
        reader_.problem(value.pointer + "/others", "is \"self\"", "one of foe, friend, neutral");
    }
  }

  void relate(const Place& faction, std::string_view key, FactionId from,
              const std::vector<std::string>& others, Relation relation, std::set<std::string>& seen) {
    for (std::size_t i = 0; i < others.size(); ++i) {
      const std::string pointer = fmt::format("{}/{}/{}", faction.pointer, key, i);
      const auto to = scene_.arena.find_faction(others[i]);
      if (!to) {
        reader_.unknown_name(pointer, others[i], "a faction", names_.factions.names);
      } else if (!seen.insert(others[i]).second) {
        reader_.problem(pointer, fmt::format("says \"{}\" a second time", others[i]),
                        "one relation for each");
      } else {
        scene_.arena.relate(from, *to, relation);
      }
    }
  }

  void read_materials(const Place& place) {
    for (const auto& [name, value] : reader_.members(place)) {
      names_.materials.add(name);
      const std::size_t before = reader_.count();
      Material material{.name = name, .blocks = kEverything};
      rows_.read(value, material);
      if (reader_.count() == before) take(value, scene_.arena.add_material(std::move(material)));
    }
  }

  void read_builds(const Place& place) {
    for (const auto& [name, value] : reader_.members(place)) {
      names_.builds.add(name);
      const std::size_t before = reader_.count();
      Build build{.name = name, .hitboxes = {}, .eyes = {}, .muzzles = {}, .tags = {}, .immune = {}};
      rows_.read(value, build);
      // What could not be read is not checked again: one fault, one message.
      if (reader_.count() == before) take(value, scene_.arena.add_build(std::move(build)));
    }
  }

  /// A build that a body says itself goes by its id.
  BuildId read_own_build(const std::string& body, const Place& place) {
    Build build{.name = "of " + body, .hitboxes = {}, .eyes = {}, .muzzles = {}, .tags = {}, .immune = {}};
    while (names_.builds.known.contains(build.name)) build.name += "'";
    const std::size_t before = reader_.count();
    rows_.read(place, build);
    if (reader_.count() != before) return {};
    auto added = scene_.arena.add_build(std::move(build));
    take(place, added);
    return added ? *added : BuildId{};
  }

  void read_bodies(const Place& place) {
    std::set<std::string> seen;
    for (const Place& item : reader_.items(place)) {
      const std::size_t before = reader_.count();
      const Fields f(reader_, item, detail::keys_of<Body>());
      Body body;
      names_.lost = false;
      names_.own_build = [&](const Place& at) { return read_own_build(body.id, at); };
      rows_.read_fields(f, item, body);
      names_.own_build = nullptr;
      read_id(f, body.id, seen, "body");
      if (!body.id.empty()) names_.bodies.add(body.id);
      if (const auto p = f.at("track")) {
        check_track(f, *p, item, body.track.empty());
      } else if (f.is_object() && !f.has("at")) {
        reader_.problem(item.pointer, "has no \"at\"",
                        scene_.flat ? "a place: [x, y]" : "a place: [x, y, z] in metres");
      }
      // What refers to an entry that was refused has had its message there.
      if (reader_.count() == before && !names_.lost) take(item, scene_.arena.add_body(std::move(body)));
    }
  }

  void check_track(const Fields& f, const Place& track, const Place& item, bool empty) {
    if (empty && track.node->kind == Node::Kind::array && track.node->items.empty())
      reader_.problem(track.pointer, "is empty", "at least one place with its time");
    if (f.has("at") || f.has("facing"))
      reader_.problem(item.pointer, "has both a track and a place", "\"track\", or \"at\" and \"facing\"");
  }

  void read_walls(const Place& place) {
    std::set<std::string> seen;
    for (const Place& item : reader_.items(place)) {
      const std::size_t before = reader_.count();
      const Fields f(reader_, item, detail::keys_of<Wall>());
      Wall wall;
      names_.lost = false;
      rows_.read_fields(f, item, wall);
      read_id(f, wall.id, seen, "wall");
      if (const auto p = f.at("track")) check_track(f, *p, item, wall.track.empty());
      if (reader_.count() == before && !names_.lost) take(item, scene_.arena.add_wall(std::move(wall)));
    }
  }

  /// An id must be new among those of its kind.
  void read_id(const Fields& f, const std::string& id, std::set<std::string>& seen, std::string_view kind) {
    if (!id.empty() && !seen.insert(id).second)
      reader_.problem(f.at("id")->pointer, fmt::format("is there twice: \"{}\"", detail::excerpt(id)),
                      fmt::format("a name of its own for each {}", kind));
  }
  template <class Added>
  void take(const Place& place, const Added& added) {
    if (!added) reader_.problems(place.pointer, added.error());
  }

  void read_attacks(const Place& place) {
    for (const auto& [name, value] : reader_.members(place)) {
      names_.attacks.add(name);
      const std::size_t before = reader_.count();
      Attack attack;
      // Its levels are none of its own keys.
      const Node own = detail::without(*value.node, "levels");
      rows_.read_attack(name, {&own, value.pointer}, attack);
      if (reader_.count() != before) continue;
      const Problems problems = check(attack);
      reader_.problems(value.pointer, problems);
      if (!problems.empty()) continue;
      attack_of_.emplace(name, scene_.attacks.size());
      scene_.attacks.push_back(std::move(attack));
      attack_places_.push_back(value.pointer);
      if (const Node* levels = value.node->find("levels"))
        read_levels(name, {levels, value.pointer + "/levels"}, own);
    }
  }

  /// Each is read and checked as an attack of its own.
  void read_levels(const std::string& name, const Place& place, const Node& own) {
    Levels out{.attack = name, .all = {}, .written = detail::node_text(*place.node)};
    for (const detail::LevelDraft& draft : detail::draft_levels(reader_, place, own)) {
      Reader reader(draft.attack, "");
      RowReader rows(reader, names_);
      rows.lie_in(plane_);
      Attack attack;
      rows.read_attack(name, {&draft.attack, ""}, attack);
      if (reader.clean()) reader.problems("", check(attack));
      for (const FileProblem& p : reader.take())
        reader_.problem(detail::place_in_levels(draft, place, p.pointer),
                        fmt::format("makes level {} wrong: {} {}", draft.name,
                                    p.pointer.empty() ? "it" : p.pointer, p.what),
                        p.fix);
      out.all.push_back({draft.name, std::move(attack)});
    }
    scene_.levels.push_back(std::move(out));
  }

  void read_launches(const Place& place) {
    std::set<std::string> seen;
    for (const Place& item : reader_.items(place)) {
      const std::size_t before = reader_.count();
      const Fields f(reader_, item, detail::keys_of<LaunchEntry>());
      LaunchEntry entry;
      names_.lost = false;
      rows_.read_fields(f, item, entry);
      read_id(f, entry.id, seen, "launch");
      SceneLaunch out;
      out.launch = {.id = entry.id,
                    .by = entry.by,
                    .toward = {},
                    .muzzle = entry.muzzle,
                    .muzzle_at = entry.muzzle_at,
                    .seed = entry.seed,
                    .aim = entry.aim,
                    .at_s = entry.at_s,
                    .from = {},
                    .leaving = entry.leaving};
      if (entry.from) out.launch.from = FromPlace{entry.from->pose, entry.from->faction};
      if (f.is_object() && !f.has("by") && !f.has("from"))
        reader_.problem(item.pointer, "has no \"by\" and no \"from\"", "an attacker, or a place");
      if (entry.toward) out.launch.toward = toward_of(*f.at("toward"), *entry.toward);
      const Attack* attack = nullptr;
      if (const auto p = f.at("attack"); p && !entry.attack.empty()) {
        const auto found = attack_of_.find(entry.attack);
        if (found != attack_of_.end()) attack = &scene_.attacks[found->second];
        if (!names_.attacks.known.contains(entry.attack))
          reader_.unknown_name(p->pointer, entry.attack, "an attack", names_.attacks.names);
      }
      if (const auto p = f.at("under_way")) add_under_way(*p, entry.under_way, out);
      // Only a launch whose every part was read can be held against the arena.
      if (reader_.count() != before || attack == nullptr || names_.lost) continue;
      out.attack = *attack, out.level = entry.level.text;
      if (!out.level.empty()) {
        const Attack* level = find_attack(scene_, entry.attack, out.level);
        if (level == nullptr) {
          reader_.unknown_name(f.at("level")->pointer, out.level, "a level", level_names(entry.attack));
          continue;
        }
        out.attack = *level;
      }
      for (Problem& p : check(scene_.arena, out.attack, out.launch)) {
        // The attack was checked where it stands; here "/launch" is this item.
        if (p.where.starts_with("/launch")) p.where.erase(0, std::string_view("/launch").size());
        reader_.problems(item.pointer, {p});
      }
      if (reader_.count() != before) continue;
      launch_of_.emplace(out.launch.id, scene_.launches.size());
      scene_.launches.push_back(std::move(out));
    }
  }

  std::vector<std::string> level_names(std::string_view attack) const {
    std::vector<std::string> out;
    for (const Levels& l : scene_.levels) {
      if (l.attack != attack) continue;
      for (const Level& level : l.all) out.push_back(level.name);
    }
    return out;
  }

  void add_under_way(const Place& place, const std::vector<UnderWayEntry>& entries, SceneLaunch& out) {
    for (std::size_t i = 0; i < entries.size(); ++i) {
      const std::string pointer = fmt::format("{}/{}", place.pointer, i);
      const auto found = launch_of_.find(entries[i].launch);
      if (found == launch_of_.end()) {
        if (!entries[i].launch.empty())
          reader_.problem(pointer + "/launch",
                          fmt::format("is not the id of a launch before this one: \"{}\"",
                                      detail::excerpt(entries[i].launch)),
                          "the id of a launch that stands before this one, and is right by itself");
        continue;
      }
      const SceneLaunch& other = scene_.launches[found->second];
      out.under_way.push_back({other.attack, other.launch, entries[i].since_s});
      reader_.problems(pointer, check(scene_.arena, out.under_way.back()));
    }
  }

  Toward toward_of(const Place& place, const TowardEntry& entry) {
    const Node& node = *place.node;
    const auto has = [&](std::string_view key) { return node.find(key) != nullptr; };
    const int given =
        node.kind == Node::Kind::string ? 1 : has("body") + has("place") + has("direction") + has("choice");
    if (given != 1 || ((has("zone") || has("point")) && !has("body"))) {
      reader_.problem(place.pointer, "says too much or too little",
                      "a body's id, {body}, {body, zone}, {body, point}, {place}, {direction} or {choice}");
      return {};
    }
    if (entry.place) return AtPlace{*entry.place};
    if (entry.direction) return AlongDirection{*entry.direction};
    if (entry.choice) return *entry.choice;
    return AtBody{entry.body.value_or(BodyId{}), entry.zone, entry.point};
  }

  Reader& reader_;
  Place root_;
  Scene scene_;
  detail::Plane plane_;
  SceneNames names_{scene_.arena};
  RowReader rows_{reader_, names_};
  std::unordered_map<std::string, std::size_t> attack_of_, launch_of_;  ///< by name: those that are right
  std::vector<std::string> attack_places_;                              ///< of the scene's attacks
};

}  // namespace

const Attack* find_attack(const Scene& scene, std::string_view attack, std::string_view level) {
  if (level.empty()) {
    const auto is_it = [&](const Attack& a) { return a.name == attack; };
    const auto at = std::find_if(scene.attacks.begin(), scene.attacks.end(), is_it);
    return at != scene.attacks.end() ? &*at : nullptr;
  }
  for (const Levels& levels : scene.levels) {
    if (levels.attack != attack) continue;
    for (const Level& l : levels.all) {
      if (l.name == level) return &l.attack;
    }
  }
  return nullptr;
}

std::vector<Outcome> resolve_together(const Scene& scene, std::span<const SceneLaunch* const> launches,
                                      const ResolveOptions& options) {
  std::vector<Launching> all;
  for (const SceneLaunch* l : launches) all.push_back({l->attack, l->launch});
  ResolveOptions with = options;
  if (!with.limits) with.limits = scene.limits;
  return dardo::resolve_together(scene.arena, all, with);
}

Outcome resolve(const Scene& scene, const SceneLaunch& launch, const ResolveOptions& options) {
  std::vector<UnderWay> all(options.under_way.begin(), options.under_way.end());
  all.insert(all.end(), launch.under_way.begin(), launch.under_way.end());
  ResolveOptions with = options;
  with.under_way = all;
  if (!with.limits) with.limits = scene.limits;
  return dardo::resolve(scene.arena, launch.attack, launch.launch, with);
}

FileResult<Scene> parse_scene(std::string_view text, std::string_view name) {
  const auto root = detail::parse_document(text, name);
  if (!root) return tl::unexpected(root.error());
  Reader reader(*root, name);
  return SceneReader(reader, *root).read();
}

FileResult<Scene> read_scene(const std::string& path) {
  const auto text = read_text(path);
  if (!text) return tl::unexpected(text.error());
  return parse_scene(*text, path == "-" ? "standard input" : path);
}

}  // namespace dardo::io
