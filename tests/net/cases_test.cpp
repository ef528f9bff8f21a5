// Scenes that once went wrong, and still give the same in all ways. See tests/cases/README.md.
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "dardo/io/scene.hpp"
#include "support/play.hpp"

namespace dardo::test::cases_test {
namespace {

namespace fs = std::filesystem;
using Json = nlohmann::json;

Json script_of(const fs::path& scene) {
  fs::path file = scene;
  std::ifstream in(file.replace_extension(".play.json"));
  return in ? Json::parse(in) : Json::object();
}

Deed deed_of(const Json& j, const Situation& s) {
  Deed d;
  d.time = j.at("t");
  const std::pair<const char*, Deed::Kind> kinds[] = {{"fall", Deed::Kind::fall},
                                                      {"revive", Deed::Kind::revive},
                                                      {"remove", Deed::Kind::remove},
                                                      {"jump", Deed::Kind::jump}};
  for (const auto& [name, kind] : kinds) {
    if (!j.contains(name)) continue;
    d.kind = kind;
    const BodyId body = *s.arena.find_body(j[name].get<std::string>());
    d.body = static_cast<std::size_t>(std::find(s.bodies.begin(), s.bodies.end(), body) - s.bodies.begin());
  }
  if (j.contains("at")) d.pose.at = {j["at"][0], j["at"][1], j["at"][2]};
  return d;
}

Situation situation_of(const io::Scene& scene, const io::SceneLaunch& launch, const Json& script) {
  Situation s;
  s.arena = scene.arena;
  s.bodies = s.arena.bodies();
  s.attack = launch.attack, s.launch = launch.launch, s.limits = scene.limits;
  s.struck_fall = script.value("struck_fall", false);
  for (const Json& j : script.value("deeds", Json::array())) s.deeds.push_back(deed_of(j, s));
  s.tracks.resize(s.bodies.size());
  return s;
}

/// The same with the bodies' tracks beside the arena, for the game to move them along.
Situation moved_by_hand(const fs::path& file, const Situation& s) {
  std::ifstream in(file);
  Json scene = Json::parse(in);
  for (Json& body : scene["bodies"]) {
    if (!body.contains("track")) continue;
    const Json first = body["track"][0];
    body.erase("track");
    for (const char* key : {"at", "facing"}) {
      if (first.contains(key)) body[key] = first[key];
    }
  }
  Situation out = s;
  out.arena = io::parse_scene(scene.dump(), file.string())->arena;
  for (std::size_t i = 0; i < s.bodies.size(); ++i) out.tracks[i] = s.arena.body(s.bodies[i]).track;
  return out;
}

TEST(Cases, AreTheSameInAllWays) {
  std::size_t cases = 0;
  for (const auto& entry : fs::directory_iterator(DARDO_SOURCE_DIR "/tests/cases")) {
    const std::string file = entry.path().filename().string();
    if (entry.path().extension() != ".json" || file.ends_with(".play.json")) continue;
    ++cases;
    const auto scene = io::read_scene(entry.path().string());
    ASSERT_TRUE(scene) << io::text(scene.error()[0]);
    const Json script = script_of(entry.path());
    for (const io::SceneLaunch& launch : scene->launches) {
      SCOPED_TRACE(file + ": " + scene->title);
      const bool moves = script.value("moves", false);
      Situation s = situation_of(*scene, launch, script);
      if (moves) s = moved_by_hand(entry.path(), s);
      const Played reference = play(s, {"60 Hz", 60, moves});
      if (!script.contains("deeds") && !s.struck_fall && !moves)
        EXPECT_EQ(differ(s, s.resolved().strikes, s, reference.strikes), "");
      for (const Way& way : {Way{"10 Hz", 10, moves}, Way{"30 Hz", 30, moves}, Way{"144 Hz", 144, moves},
                             Way{"irregular", 0, moves}, Way{"saved", 60, moves, true}}) {
        const Played other = play(s, way);
        EXPECT_EQ(differ(s, reference.strikes, s, other.strikes), "") << way.name;
        EXPECT_EQ(differ(s, reference.ends, other.ends), "") << way.name;
      }
      if (script.contains("surfaces")) {
        std::vector<std::string> met;
        for (const SurfaceMet& m : s.resolved(Detail::verdicts).surfaces)
          met.push_back((m.wall.empty() ? "ground" : s.arena.wall(m.wall).id) + " " +
                        std::string(name(m.did)));
        EXPECT_EQ(met, script["surfaces"].get<std::vector<std::string>>());
      }
      if (!script.contains("strikes")) continue;
      std::vector<std::string> struck;
      for (const Strike& k : reference.strikes) struck.push_back(s.arena.body(k.body).id);
      EXPECT_EQ(struck, script["strikes"].get<std::vector<std::string>>());
    }
  }
  EXPECT_GE(cases, 10u);
}

}  // namespace
}  // namespace dardo::test::cases_test
