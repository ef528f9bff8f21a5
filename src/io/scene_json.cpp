#include <nlohmann/json.hpp>
#include <vector>

#include "dardo/io/scene.hpp"
#include "dardo/record/rows.hpp"
#include "io/detail/objects.hpp"
#include "io/detail/to_rows.hpp"

namespace dardo::io {
namespace {

using detail::OrderedJson;
using detail::RowWriter;

OrderedJson factions_json(const Arena& arena) {
  OrderedJson out = OrderedJson::object();
  const std::vector<FactionId> all = arena.factions();
  for (const FactionId from : all) {
    OrderedJson& entry = out[arena.faction_name(from)] = OrderedJson::object();
    for (const FactionId to : all) {
      const Relation relation = arena.relation(from, to),
                     standard = from == to ? Relation::friendly : Relation::neutral;
      if (relation != standard) entry[std::string(word_of(relation))].push_back(arena.faction_name(to));
    }
  }
  return out;
}

/// What is on a track has no other place, and its keys say theirs.
void settle_place(OrderedJson& item, const OrderedJson& origin) {
  if (item.contains("velocity")) item.erase("track");
  if (!item.contains("track")) return;
  item.erase("at"), item.erase("facing");
  for (OrderedJson& key : item["track"]) {
    if (!key.contains("at")) key["at"] = origin;
  }
}

detail::LaunchEntry entry_of(const SceneLaunch& l) {
  detail::LaunchEntry out{.id = l.launch.id,
                          .by = l.launch.by,
                          .attack = l.attack.name,
                          .level = {l.level},
                          .toward = {},
                          .muzzle = l.launch.muzzle,
                          .muzzle_at = l.launch.muzzle_at,
                          .seed = l.launch.seed,
                          .aim = l.launch.aim,
                          .at_s = l.launch.at_s,
                          .from = {},
                          .leaving = l.launch.leaving,
                          .under_way = {}};
  if (const auto& from = l.launch.from) out.from = {.pose = from->pose, .faction = from->faction};
  if (const auto* at = std::get_if<AtBody>(&l.launch.toward))
    out.toward = {
        .body = at->body, .zone = at->zone, .point = at->point, .place = {}, .direction = {}, .choice = {}};
  if (const auto* place = std::get_if<AtPlace>(&l.launch.toward)) out.toward.emplace().place = place->place;
  if (const auto* along = std::get_if<AlongDirection>(&l.launch.toward))
    out.toward.emplace().direction = along->direction;
  if (const auto* choice = std::get_if<AtChoice>(&l.launch.toward)) out.toward.emplace().choice = *choice;
  for (const UnderWay& u : l.under_way) out.under_way.push_back({u.launch.id, u.since_s});
  return out;
}

}  // namespace

OrderedJson detail::attack_object(const Scene& scene, const Attack& attack) {
  return RowWriter(scene.arena, {scene.flat.has_value(), scene.y_down}).write(attack);
}

std::string scene_json(const Scene& scene) {
  const Arena& arena = scene.arena;
  const detail::Plane plane{scene.flat.has_value(), scene.y_down};
  const RowWriter writer(arena, plane);
  const OrderedJson origin = writer.write(Vec3{});
  OrderedJson out{{"dardo", 1}};
  if (!scene.title.empty()) out["title"] = scene.title;
  if (scene.flat) out["flat"] = *scene.flat == Flat::above ? "above" : "side";
  if (!scene.unit.empty()) out["unit"] = scene.unit;
  if (scene.y_down) out["y_down"] = true;
  if (const auto& slope = arena.ground_slope()) {
    out["ground"] = {{"at", writer.write(slope->point)}, {"normal", writer.write(slope->normal)}};
  } else if (arena.ground()) {
    out["ground"] = plane.y(*arena.ground());
  }
  out["gravity"] = writer.write(arena.gravity());
  if (!(scene.limits == Limits{})) out["limits"] = writer.write(scene.limits);
  out["factions"] = factions_json(arena);
  out["materials"] = OrderedJson::object();
  for (const MaterialId id : arena.materials()) {
    out["materials"][arena.material(id).name] = {{"blocks", writer.write(arena.material(id).blocks)}};
  }
  out["builds"] = OrderedJson::object();
  for (const BuildId id : arena.builds()) out["builds"][arena.build(id).name] = writer.write(arena.build(id));
  out["bodies"] = OrderedJson::array();
  for (const BodyId id : arena.bodies()) {
    OrderedJson body = writer.write(arena.body(id));
    settle_place(body, origin);
    if (!body.contains("track") && !body.contains("at")) body["at"] = origin;
    out["bodies"].push_back(std::move(body));
  }
  out["walls"] = OrderedJson::array();
  for (const WallId id : arena.walls()) {
    OrderedJson wall = writer.write(arena.wall(id));
    settle_place(wall, origin);
    out["walls"].push_back(std::move(wall));
  }
  out["attacks"] = OrderedJson::object();
  for (const Attack& attack : scene.attacks)
    out["attacks"][attack.name] = detail::attack_object(scene, attack);
  for (const Levels& levels : scene.levels)
    out["attacks"][levels.attack]["levels"] = OrderedJson::parse(levels.written);
  out["launches"] = OrderedJson::array();
  for (const SceneLaunch& launch : scene.launches) out["launches"].push_back(writer.write(entry_of(launch)));
  return out.dump(2) + "\n";
}

}  // namespace dardo::io
