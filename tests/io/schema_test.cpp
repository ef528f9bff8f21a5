// The schema and the reader must agree: what one refuses the other refuses, wherever a schema can say so.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <random>

#include "dardo/io/scene.hpp"
#include "support/effort.hpp"
#include "support/files.hpp"
#include "support/validate.hpp"

namespace dardo::io::schema_test {
namespace {

using Json = nlohmann::json;

Json harbour() { return Json::parse(test::source_file("scenes/harbour.json"), nullptr, true, true); }

bool reader_accepts(const Json& scene) { return parse_scene(scene.dump(), "x.json").has_value(); }
bool schema_accepts(const Json& scene) { return test::validates(scene_schema(), scene); }

TEST(Schema, DemoScenesValidate) {
  EXPECT_TRUE(schema_accepts(harbour()));
  EXPECT_TRUE(reader_accepts(harbour()));
}

TEST(Schema, AcceptsEveryShapeThatTheReaderAccepts) {
  for (const char* hitbox :
       {R"({"zone": "a", "ball": {"at": [0,0,1], "radius": 0}})",
        R"({"zone": "a", "cylinder": {"from": [0,0,0], "to": [0,0,1], "radius": 0.5}})",
        R"({"zone": "a", "cone": {"apex": [0,0,2], "base": [0,0,1], "radius": 0.5}})",
        R"({"zone": "a", "hull": [[0,0,0], [1,0,0], [0,1,0], [0,0,1]]})",
        R"({"zone": "a", "prism": {"polygon": [[0,0],[0,1],[1,1],[1,0]], "low": 0, "high": 0.5}})"}) {
    SCOPED_TRACE(hitbox);
    Json scene = harbour();
    scene["builds"]["deckhand"]["hitboxes"][0] = Json::parse(hitbox);
    EXPECT_TRUE(schema_accepts(scene));
    EXPECT_TRUE(reader_accepts(scene));
  }
}

TEST(Schema, AcceptsEveryShotThatTheReaderAccepts) {
  for (
      const char* shot :
      {R"({"straight": {"speed": 30, "acceleration": -3, "top_speed": 40}, "least_speed": 2, "again_after": 0.5})",
       R"({"falling": {"speed": 30, "gravity": 0.5, "drag": 0.01}, "shape": {"capsule": {"from": [-1,0,0], "to": [1,0,0], "radius": 0.1}}})",
       R"({"curve": {"speed": 12, "side": -2, "rise": 1, "returns": false, "strikes_again": false}})",
       R"({"guided": {"speed": 12, "turn_rate": 90, "delay": 1, "climb": 2, "lead": true, "needs_sight": true, "lost": "pick_anew"}})",
       R"({"lob": {"flight_time": 2, "follows": true}, "radius": 0.2, "life": 5})",
       R"({"lob": {"apex": 3}, "pierce": {"bodies": 2, "power": [1, 0.5], "materials": ["glass"], "thickness": 0.3, "speed_loss": 2, "power_loss": 0.1},
            "ricochet": {"count": 3, "restitution": 0.5, "friction": 0.1, "jitter": 5, "least_speed": 1, "materials": ["timber"]},
            "volley": {"count": 3, "gap": 0.1, "spread": "ring", "angle": 10, "speed_variation": 0.1}})",
       R"({"straight": {"speed": 30}, "pierce": {"bodies": 9, "power_ratio": 0.7}, "ricochet": {"count": 3, "restitution": 0.7, "friction": 0.3}, "foreseen": true})"}) {
    SCOPED_TRACE(shot);
    Json scene = harbour();
    scene["attacks"]["flare"]["shot"] = Json::parse(shot);
    for (Json& launch : scene["launches"]) launch.erase("aim");  // not every path is led
    EXPECT_TRUE(schema_accepts(scene));
    EXPECT_TRUE(reader_accepts(scene));
  }
}

struct Mutation {
  const char* pointer;
  const char* value;  // JSON; nothing: the value is taken away
  bool schema_can_say = true;
};

TEST(Schema, RefusesWhatTheReaderRefuses) {
  const std::vector<Mutation> mutations{
      {"/dardo", "2"},
      {"/dardo", nullptr},
      {"/dardo", "\"1\""},
      {"/extra", "1"},
      {"/title", "3"},
      {"/factions", "[]"},
      {"/factions/wardens/foe", "\"raiders\""},
      {"/factions/wardens/foe/0", "\"nobody\"", false},
      {"/factions/wardens/foe", "[\"raiders\", \"raiders\"]", false},
      {"/factions/wardens/others", "\"self\""},
      {"/factions/wardens/hates", "[]"},
      {"/materials/glass/blocks/0", "\"light\""},
      {"/materials/glass/blocks", "[\"shots\", \"shots\"]"},
      {"/builds/deckhand/hitboxes", "[]"},
      {"/builds/deckhand/hitboxes/0/capsule/radius", "-0.1"},
      {"/builds/deckhand/hitboxes/0/capsule/radius", "1e8"},
      {"/builds/deckhand/hitboxes/0/capsule/radius", "\"0.3\""},
      {"/builds/deckhand/hitboxes/0/capsule", nullptr},
      {"/builds/deckhand/hitboxes/0/ball", R"({"at": [0,0,0], "radius": 1})"},
      {"/builds/deckhand/hitboxes/0", R"({"zone": "a", "cylinder": {"from": [0,0,0], "to": [0,0,1]}})"},
      {"/builds/deckhand/hitboxes/0",
       R"({"zone": "a", "cylinder": {"from": [0,0,0], "to": [0,0,0], "radius": 1}})", false},
      {"/builds/deckhand/hitboxes/0",
       R"({"zone": "a", "cone": {"apex": [0,0,0], "base": [0,0,1], "radius": -1}})"},
      {"/builds/deckhand/hitboxes/0", R"({"zone": "a", "hull": []})"},
      {"/builds/deckhand/hitboxes/0",
       R"({"zone": "a", "prism": {"polygon": [[0,0],[1,0]], "low": 0, "high": 1}})"},
      {"/builds/deckhand/hitboxes/0",
       R"({"zone": "a", "prism": {"polygon": [[0,0],[2,0],[1,1],[2,2],[0,2]], "low": 0, "high": 1}})", false},
      {"/builds/deckhand/hitboxes/0",
       R"({"zone": "a", "prism": {"polygon": [[0,0],[1,0],[0,1]], "low": 1, "high": 0}})", false},
      {"/builds/deckhand/hitboxes/0/factor", "-2"},
      {"/builds/deckhand/hitboxes/0/zone", "\"\""},
      // Two numbers are a place of a flat scene.
      {"/builds/deckhand/muzzles/hand", "[0, 0]", false},
      {"/builds/deckhand/muzzles/hand", "[0]"},
      {"/builds/deckhand/eyes", "[0, 0, 2e7]"},
      {"/bodies/0/at", "[0, 0]", false},
      {"/bodies/0/at", "[0, 0, null]"},
      {"/bodies/0/at/0", "1.1e7"},
      {"/bodies/0/id", nullptr},
      {"/bodies/0/id", "\"\""},
      {"/bodies/0/id", "\"tessa\"", false},
      {"/bodies/0/build", "\"dekhand\"", false},
      {"/bodies/0/facing", "\"north\""},
      {"/bodies/0/fallen", "1"},
      {"/bodies/0/colour", "\"red\""},
      {"/walls/0/box/size", "[1, 1, -1]"},
      {"/walls/0/box/size", "[1, 1, 3e7]"},
      {"/walls/0/box/turn", "[1, 2]"},
      {"/walls/0/material", "\"stone\"", false},
      {"/attacks/harpoon/reach", "[5, 2]", false},
      {"/attacks/harpoon/reach", "[-1, 2]"},
      {"/attacks/harpoon/ray", nullptr},
      {"/attacks/harpoon/ray/speed", "3"},
      {"/attacks/harpoon/area", R"({"radius": 3})"},
      {"/attacks/harpoon/who", "[]"},
      {"/attacks/harpoon/who", "[\"enemy\"]"},
      {"/attacks/harpoon/who", "[\"foe\", \"foe\"]"},
      {"/attacks/harpoon/cap", "2"},
      {"/attacks/harpoon/sight", "\"sight\""},
      {"/attacks/fire-pot/sight", "true"},
      {"/attacks/harpoon/zone", "\"head\""},
      {"/attacks/harpoon/power", "\"40\""},
      {"/attacks/fire-pot/cap", "0"},
      {"/attacks/fire-pot/cap", "1.5"},
      {"/attacks/fire-pot/sight", "\"feet\"", false},
      {"/attacks/fire-pot/stopped_by", "[\"friend\"]"},
      {"/attacks/fire-pot/area/ball/radius", "-1"},
      {"/attacks/fire-pot/area/ball/radius", nullptr},
      {"/attacks/fire-pot/area/inside", "\"eyes\""},
      {"/attacks/flare/shot", nullptr},
      {"/attacks/flare/shot", "{}"},
      {"/attacks/flare/shot/straight", R"({"speed": 3})"},
      {"/attacks/flare/shot/falling/speed", "0"},
      {"/attacks/flare/shot/falling/speed", nullptr},
      {"/attacks/flare/shot/falling/wind", "3"},
      {"/attacks/flare/shot/falling/drag", "-1"},
      {"/attacks/flare/shot/life", "0"},
      {"/attacks/flare/shot/radius", "-0.1"},
      {"/attacks/flare/shot/shape", R"({"ball": {"at": [0,0,0], "radius": 1}, "hull": [[0,0,0]]})"},
      {"/attacks/flare/then/0/when", "\"soon\""},
      {"/attacks/flare/then/0/when", "\"near\""},
      {"/attacks/flare/then/0/distance", "3"},
      {"/attacks/flare/then/0/attacks", nullptr},
      {"/attacks/flare/then/0/attacks/0/area/ball/radius", "-3"},
      {"/attacks/harpoon/then", R"([{"when": "apex", "attacks": [{"area": {"ball": {"radius": 1}}}]}])",
       false},
      {"/attacks/harpoon/facing_within", "200"},
      {"/attacks/whale-harpoon/shot/pierce/bodies", "0"},
      {"/attacks/whale-harpoon/shot/pierce/power/0", "-1"},
      {"/attacks/whale-harpoon/cap", "2"},
      {"/attacks/skipping-stone/shot/ricochet/count", "0.5"},
      {"/attacks/skipping-stone/shot/ricochet/friction", "1.5"},
      {"/attacks/skipping-stone/shot/ricochet", R"({"count": 2, "speed_kept": 0.5})"},
      {"/attacks/whale-harpoon/shot/pierce/power_ratio", "-0.5"},
      {"/attacks/thrown-oar/shot/curve/returns", "1"},
      {"/attacks/signal-rocket/shot/guided/turn_rate", "0"},
      {"/attacks/signal-rocket/shot/guided/lost", "\"wait\""},
      {"/attacks/signal-rocket/shot", R"({"lob": {}})"},
      {"/attacks/signal-rocket/shot", R"({"lob": {"apex": 3, "flight_time": 2}})"},
      {"/attacks/grapeshot/shot/volley/count", "0"},
      {"/attacks/grapeshot/shot/volley/spread", "\"wide\""},
      {"/bodies/8/track", "[]"},
      {"/bodies/8/at", "[0, 0, 0]"},
      {"/bodies/8/facing", "3"},
      {"/bodies/8/track/0/t", nullptr},
      {"/bodies/8/track/0/t", "100", false},
      {"/walls/0/one_way", "[0, 0, 0]", false},
      {"/walls/0/one_way", "[1, 0]", false},
      {"/gravity", "-9.81"},
      {"/ground", "\"sea\""},
      {"/ground", "2e7"},
      {"/launches/6/aim", "\"low\""},
      {"/launches/0/by", "\"raider-5\"", false},
      {"/launches/0/by", "\"mrara\"", false},
      {"/launches/0/attack", nullptr},
      {"/launches/0/muzzle", "\"tail\"", false},
      {"/launches/0/seed", "-1"},
      {"/launches/0/seed", "0.5"},
      {"/launches/0/toward", "{}"},
      {"/launches/0/toward", R"({"zone": "head"})"},
      {"/launches/0/toward", R"({"body": "raider-1", "zone": "tail"})", false},
      {"/launches/0/toward", R"({"body": "raider-1", "place": [0,0,0]})"},
      {"/launches/0/toward", R"({"place": [0,0]})", false},
      {"/launches/0/toward", R"({"direction": [0,0,0]})", false},
      {"/launches/1/id", "\"mara-harpoon\"", false},
      {"/launches/2/toward", nullptr, false},
  };
  for (const Mutation& m : mutations) {
    SCOPED_TRACE(std::string(m.pointer) + " = " + (m.value ? m.value : "nothing"));
    Json scene = harbour();
    const Json::json_pointer pointer(m.pointer);
    if (m.value) {
      scene[pointer] = Json::parse(m.value);
    } else {
      scene = scene.patch(Json::array({{{"op", "remove"}, {"path", m.pointer}}}));
    }
    EXPECT_FALSE(reader_accepts(scene));
    EXPECT_EQ(schema_accepts(scene), !m.schema_can_say);
  }
}

// What the schema refuses, the reader must refuse, whatever was done to the scene.
TEST(Schema, IsNeverStricterThanTheReader) {
  const std::vector<std::string> values{"0",        "-1",        "1.5",       "100000000", "\"foe\"", "\"\"",
                                        "[]",       "{}",        "true",      "false",     "null",    "[1]",
                                        "\"mara\"", "[0, 0, 0]", "[\"foe\"]", "[[]]"};
  std::vector<std::string> pointers;
  const Json flat = harbour().flatten();
  for (const auto& [pointer, value] : flat.items()) {
    for (std::string p = pointer; !p.empty(); p.resize(p.rfind('/'))) pointers.push_back(p);
  }
  std::mt19937 random(5);
  int refused = 0;
  for (int i = 0; i < test::effort(1200); ++i) {
    Json scene = harbour();
    const std::string& pointer = pointers[random() % pointers.size()];
    const std::string& value = values[random() % values.size()];
    SCOPED_TRACE(pointer + " = " + value);
    scene[Json::json_pointer(pointer)] = Json::parse(value);
    if (!schema_accepts(scene)) {
      ++refused;
      ASSERT_FALSE(reader_accepts(scene));
    }
  }
  EXPECT_GT(refused, test::effort(600));
}

}  // namespace
}  // namespace dardo::io::schema_test
