#include "dardo/io/scene.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <set>

#include "dardo/record/explain.hpp"
#include "dardo/resolve/resolve.hpp"
#include "io/detail/attack.hpp"
#include "io/detail/parts.hpp"

namespace dardo::io {
namespace {

using detail::Fields;
using detail::Node;
using detail::Place;
using detail::Reader;

/// Reads a scene in one pass over its sections; every section is read even when an earlier one has problems.
class SceneReader : private detail::Parts {
 public:
  SceneReader(Reader& reader, const Node& root) : Parts(reader), root_{&root, ""} {}

  FileResult<Scene> read() {
    const Fields top(reader_, root_,
                     {"$schema", "dardo", "title", "factions", "materials", "builds", "bodies", "walls",
                      "attacks", "launches", "gravity", "ground"});
    if (top.is_object()) {
      if (const auto p = top.need("dardo", "\"dardo\": 1, the version of the format")) {
        const auto version = reader_.number(*p);
        if (version && *version != 1) reader_.problem(p->pointer, fmt::format("is {}", *version), "1");
      }
      if (const auto p = top.at("title")) scene_.title = reader_.text(*p).value_or("");
      if (const auto p = top.at("$schema")) reader_.text(*p);
      if (const auto p = top.at("ground")) {
        const auto height = reader_.number(*p);
        if (height && std::fabs(*height) > kMaxCoordinate) {
          reader_.problem(p->pointer, "lies beyond 10,000,000 m", "a height of at most 1e7 in size");
        } else {
          scene_.arena.set_ground(height);
        }
      }
      if (const auto p = top.at("gravity")) {
        if (const auto down = reader_.vec3(*p)) scene_.arena.set_gravity(*down);
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
    return std::move(scene_);
  }

 private:
  void read_factions(const Place& place) {
    const auto all = reader_.members(place);
    for (const auto& [name, value] : all) {
      faction_names_.push_back(name);
      if (auto added = scene_.arena.add_faction(name); !added) reader_.problems(value.pointer, added.error());
    }
    for (const auto& [name, value] : all) {
      const Fields f(reader_, value, {"foe", "friend", "neutral", "others"});
      const auto from = scene_.arena.find_faction(name);
      if (!from) continue;
      if (const auto p = f.at("others")) {
        if (const auto r = reader_.word(*p, {"foe", "friend", "neutral"})) {
          for (const std::string& other : faction_names_) {
            const auto to = scene_.arena.find_faction(other);
            if (other != name && to) scene_.arena.relate(*from, *to, static_cast<Relation>(*r));
          }
        }
      }
      std::set<std::string> seen;
      for (const Relation relation : {Relation::foe, Relation::friendly, Relation::neutral}) {
        const auto list = f.at(dardo::name(relation));
        if (!list) continue;
        for (const Place& item : reader_.items(*list)) {
          const auto other = reader_.name(item);
          if (!other) continue;
          const auto to = scene_.arena.find_faction(*other);
          if (!to) {
            reader_.unknown_name(item.pointer, *other, "a faction", faction_names_);
          } else if (!seen.insert(*other).second) {
            reader_.problem(item.pointer, fmt::format("says \"{}\" a second time", *other),
                            "one relation for each");
          } else {
            scene_.arena.relate(*from, *to, relation);
          }
        }
      }
    }
  }

  void read_materials(const Place& place) {
    for (const auto& [name, value] : reader_.members(place)) {
      material_names_.push_back(name);
      const Fields f(reader_, value, {"blocks"});
      Material material{.name = name, .blocks = kEverything};
      if (const auto p = f.at("blocks")) material.blocks = read_passages(*p);
      if (auto added = scene_.arena.add_material(std::move(material)); !added) {
        reader_.problems(value.pointer, added.error());
      }
    }
  }

  void read_builds(const Place& place) {
    for (const auto& [name, value] : reader_.members(place)) {
      build_names_.push_back(name);
      const std::size_t before = reader_.count();
      const Fields f(reader_, value, {"hitboxes", "eyes", "muzzles", "tags", "immune"});
      Build build{.name = name, .hitboxes = {}, .eyes = {}, .muzzles = {}, .tags = {}, .immune = {}};
      if (const auto p = f.need("hitboxes", "a list of at least one hitbox")) {
        for (const Place& item : reader_.items(*p)) build.hitboxes.push_back(read_hitbox(item));
      }
      if (const auto p = f.at("muzzles")) {
        for (const auto& [muzzle, at] : reader_.members(*p)) {
          build.muzzles.push_back({muzzle, reader_.vec3(at).value_or(Vec3{})});
        }
      }
      if (const auto p = f.at("tags")) build.tags = reader_.names(*p);
      if (const auto p = f.at("immune")) build.immune = reader_.names(*p);
      if (const auto p = f.at("eyes")) {
        build.eyes = reader_.vec3(*p).value_or(Vec3{});
      } else {
        build.eyes = middle(build);
      }
      // What could not be read is not checked again: one fault, one message.
      if (reader_.count() != before) continue;
      if (auto added = scene_.arena.add_build(std::move(build)); !added) {
        reader_.problems(value.pointer, added.error());
      }
    }
  }

  static Vec3 middle(const Build& build) {
    Bounds around;
    for (const Hitbox& h : build.hitboxes) around.add(bounds(h.shape));
    return around.empty() ? Vec3{} : around.center();
  }

  Hitbox read_hitbox(const Place& place) {
    const Fields f(reader_, place,
                   {"zone", "factor", "ball", "capsule", "box", "cylinder", "cone", "hull", "prism"});
    Hitbox out;
    if (const auto p = f.need("zone", "the name of the zone, such as \"trunk\"")) {
      out.zone = reader_.name(*p).value_or("");
    }
    out.factor = read_number(f, "factor", 1);
    if (const auto shape = read_shape(place, f)) out.shape = *shape;
    return out;
  }

  void read_bodies(const Place& place) {
    std::set<std::string> seen;
    for (const Place& item : reader_.items(place)) {
      const std::size_t before = reader_.count();
      const Fields f(reader_, item,
                     {"id", "build", "faction", "at", "facing", "tags", "immune", "fallen", "track"});
      Body body;
      if (const auto p = f.need("id", "a name of its own")) {
        body.id = reader_.name(*p).value_or("");
        if (!body.id.empty() && !seen.insert(body.id).second) {
          reader_.problem(p->pointer, fmt::format("is there twice: \"{}\"", body.id),
                          "a name of its own for each body");
        }
        if (!body.id.empty()) body_names_.push_back(body.id);
      }
      read_reference(f, "build", "a build", build_names_, body.build,
                     [&](const std::string& n) { return scene_.arena.find_build(n); });
      read_reference(f, "faction", "a faction", faction_names_, body.faction,
                     [&](const std::string& n) { return scene_.arena.find_faction(n); });
      if (const auto p = f.at("track")) {
        read_track(*p, body.track);
        if (f.has("at") || f.has("facing")) {
          reader_.problem(item.pointer, "has both a track and a place",
                          "\"track\", or \"at\" and \"facing\"");
        }
      } else {
        body.pose.at = need_vec3(f, "at");
      }
      if (const auto p = f.at("facing")) {
        if (const auto angle = reader_.number(*p))
          body.pose.turn = Rotation::about_z(detail::radians(*angle));
      }
      if (const auto p = f.at("tags")) body.tags = reader_.names(*p);
      if (const auto p = f.at("immune")) body.immune = reader_.names(*p);
      if (const auto p = f.at("fallen")) body.fallen = reader_.boolean(*p).value_or(false);
      if (reader_.count() != before) continue;
      // A build or faction that was refused above has had its message.
      if (body.build.empty() || body.faction.empty()) {
        reader_.problems(item.pointer, check(body.pose));
        continue;
      }
      if (auto added = scene_.arena.add_body(std::move(body)); !added) {
        reader_.problems(item.pointer, added.error());
      }
    }
  }

  void read_track(const Place& place, std::vector<TrackKey>& out) {
    const auto all = reader_.items(place);
    if (all.empty()) reader_.problem(place.pointer, "is empty", "at least one place with its time");
    double facing = 0;
    for (const Place& item : all) {
      const Fields f(reader_, item, {"t", "at", "facing"});
      TrackKey key;
      key.time_s = need_number(f, "t", "a time in seconds");
      key.pose.at = need_vec3(f, "at");
      facing = read_number(f, "facing", facing);  // as before unless said
      key.pose.turn = Rotation::about_z(detail::radians(facing));
      out.push_back(key);
    }
  }

  /// A name of something defined elsewhere in the scene.
  template <class IdType, class Find>
  void read_reference(const Fields& f, std::string_view key, std::string_view kind,
                      const std::vector<std::string>& known, IdType& out, Find find) {
    const auto p = f.need(key, fmt::format("the name of {}", kind));
    if (!p) return;
    const auto name = reader_.name(*p);
    if (!name) return;
    if (std::find(known.begin(), known.end(), *name) == known.end()) {
      reader_.unknown_name(p->pointer, *name, kind, known);
    } else if (const auto found = find(*name)) {
      out = *found;
    }
  }

  void read_walls(const Place& place) {
    std::set<std::string> seen;
    for (const Place& item : reader_.items(place)) {
      const std::size_t before = reader_.count();
      const Fields f(reader_, item, {"id", "box", "material", "blocks", "one_way"});
      Wall wall;
      if (const auto p = f.need("id", "a name of its own")) {
        wall.id = reader_.name(*p).value_or("");
        if (!wall.id.empty() && !seen.insert(wall.id).second) {
          reader_.problem(p->pointer, fmt::format("is there twice: \"{}\"", wall.id),
                          "a name of its own for each wall");
        }
      }
      if (const auto p = f.need("box", "an object with \"at\" and \"size\"")) wall.box = read_box(*p);
      read_reference(f, "material", "a material", material_names_, wall.material,
                     [&](const std::string& n) { return scene_.arena.find_material(n); });
      if (const auto p = f.at("blocks")) wall.blocks = read_passages(*p);
      if (const auto p = f.at("one_way")) wall.one_way = reader_.vec3(*p);
      if (reader_.count() != before) continue;
      if (wall.material.empty()) {
        reader_.problems(item.pointer, check(wall));
        continue;
      }
      if (auto added = scene_.arena.add_wall(std::move(wall)); !added) {
        reader_.problems(item.pointer, added.error());
      }
    }
  }

  void read_attacks(const Place& place) {
    for (const auto& [name, value] : reader_.members(place)) {
      attack_names_.push_back(name);
      const std::size_t before = reader_.count();
      Attack attack = detail::AttackReader(reader_).read(name, value);
      if (reader_.count() != before) continue;
      const Problems problems = check(attack);
      reader_.problems(value.pointer, problems);
      if (problems.empty()) scene_.attacks.push_back(std::move(attack));
    }
  }

  void read_launches(const Place& place) {
    std::set<std::string> seen;
    for (const Place& item : reader_.items(place)) {
      const std::size_t before = reader_.count();
      const Fields f(reader_, item, {"id", "by", "attack", "toward", "muzzle", "seed", "aim", "under_way"});
      SceneLaunch out;
      lost_target_ = false;
      if (const auto p = f.need("id", "a name of its own")) {
        out.launch.id = reader_.name(*p).value_or("");
        if (!out.launch.id.empty() && !seen.insert(out.launch.id).second) {
          reader_.problem(p->pointer, fmt::format("is there twice: \"{}\"", out.launch.id),
                          "a name of its own for each launch");
        }
      }
      read_reference(f, "by", "a body", body_names_, out.launch.by,
                     [&](const std::string& n) { return scene_.arena.find_body(n); });
      const Attack* attack = read_attack_name(f);
      if (const auto p = f.at("toward")) out.launch.toward = read_toward(*p);
      if (const auto p = f.at("muzzle")) out.launch.muzzle = reader_.name(*p).value_or("");
      if (const auto p = f.at("aim")) {
        if (const auto w = reader_.word(*p, {"direct", "lead", "high"}))
          out.launch.aim = static_cast<Aiming>(*w);
      }
      if (const auto p = f.at("seed")) {
        const auto seed = reader_.number(*p);
        if (seed && (*seed < 0 || *seed > 9007199254740992.0 || std::floor(*seed) != *seed)) {
          reader_.problem(p->pointer, fmt::format("is {}", *seed), "a whole number from 0 to 2^53");
        } else if (seed) {
          out.launch.seed = static_cast<std::uint64_t>(*seed);
        }
      }
      if (const auto p = f.at("under_way")) read_under_way(*p, out);
      // Only a launch whose every part was read can be held against the arena.
      if (reader_.count() != before || out.launch.by.empty() || attack == nullptr || lost_target_) continue;
      out.attack = *attack;
      for (Problem& p : check(scene_.arena, out.attack, out.launch)) {
        // The attack was checked where it stands; here "/launch" is this item.
        p.where.erase(0, std::string_view("/launch").size());
        reader_.problems(item.pointer, {p});
      }
      if (reader_.count() == before) scene_.launches.push_back(std::move(out));
    }
  }

  void read_under_way(const Place& place, SceneLaunch& out) {
    for (const Place& item : reader_.items(place)) {
      const std::size_t before = reader_.count();
      const Fields f(reader_, item, {"launch", "since"});
      const auto named = f.need("launch", "the id of a launch that stands before this one");
      const auto id = named ? reader_.name(*named) : std::nullopt;
      const auto found = std::find_if(scene_.launches.begin(), scene_.launches.end(),
                                      [&](const SceneLaunch& l) { return id && l.launch.id == *id; });
      if (id && found == scene_.launches.end()) {
        reader_.problem(named->pointer, fmt::format("is not the id of a launch before this one: \"{}\"", *id),
                        "the id of a launch that stands before this one, and is right by itself");
      }
      const auto since = f.at("since");
      const double since_s = since ? reader_.number(*since).value_or(0) : 0;
      if (reader_.count() != before || found == scene_.launches.end()) continue;
      out.under_way.push_back({found->attack, found->launch, since_s});
      reader_.problems(item.pointer, check(scene_.arena, out.under_way.back()));
    }
  }

  const Attack* read_attack_name(const Fields& f) {
    const auto p = f.need("attack", "the name of an attack");
    const auto name = p ? reader_.name(*p) : std::nullopt;
    if (!name) return nullptr;
    if (std::find(attack_names_.begin(), attack_names_.end(), *name) == attack_names_.end()) {
      reader_.unknown_name(p->pointer, *name, "an attack", attack_names_);
    }
    for (const Attack& a : scene_.attacks) {
      if (a.name == *name) return &a;
    }
    return nullptr;
  }

  Toward read_toward(const Place& place) {
    if (place.node->kind == Node::Kind::string) return AtBody{read_target(place), {}};
    const Fields f(reader_, place, {"body", "zone", "point", "place", "direction"});
    const int given = f.has("body") + f.has("place") + f.has("direction");
    if (f.is_object() && (given != 1 || ((f.has("zone") || f.has("point")) && !f.has("body")))) {
      reader_.problem(place.pointer, "says too much or too little",
                      "a body's id, {body}, {body, zone}, {body, point}, {place} or {direction}");
      return {};
    }
    if (const auto p = f.at("place")) return AtPlace{reader_.vec3(*p).value_or(Vec3{})};
    if (const auto p = f.at("direction")) return AlongDirection{reader_.vec3(*p).value_or(Vec3{})};
    AtBody at;
    if (const auto p = f.at("body")) at.body = read_target(*p);
    if (const auto p = f.at("point")) at.point = reader_.name(*p).value_or("");
    if (const auto p = f.at("zone")) at.zone = reader_.name(*p).value_or("");
    return at;
  }

  BodyId read_target(const Place& place) {
    const auto name = reader_.name(place);
    if (!name) return {};
    if (std::find(body_names_.begin(), body_names_.end(), *name) == body_names_.end()) {
      reader_.unknown_name(place.pointer, *name, "a body", body_names_);
    }
    const auto found = scene_.arena.find_body(*name);
    lost_target_ = !found;
    return found.value_or(BodyId{});
  }

  Place root_;
  Scene scene_;
  std::vector<std::string> faction_names_, material_names_, build_names_, body_names_, attack_names_;
  bool lost_target_ = false;  ///< the target's own entry was refused, and has had its message
};

}  // namespace

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
