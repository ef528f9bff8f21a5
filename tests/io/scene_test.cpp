#include "dardo/io/scene.hpp"

#include <gtest/gtest.h>

#include <filesystem>
#include <numbers>

#include "support/files.hpp"

namespace dardo::io::scene_test {
namespace {

std::string problems_of(const std::string& text) {
  const auto scene = parse_scene(text, "x.json");
  std::string out;
  if (!scene) {
    for (const FileProblem& p : scene.error()) out += io::text(p) + "\n";
  }
  return out;
}

TEST(Scene, HarbourIsReadWhole) {
  const auto scene = read_scene(test::source_path("scenes/harbour.json"));
  ASSERT_TRUE(scene) << io::text(scene.error()[0]);
  EXPECT_EQ(scene->title, "Night raid on Saltmarsh harbour");
  EXPECT_EQ(scene->arena.body_count(), 18u);
  EXPECT_EQ(scene->arena.walls().size(), 9u);
  EXPECT_EQ(scene->launches.size(), 30u);
  EXPECT_EQ(scene->arena.tracked().size(), 1u);
  const Arena& a = scene->arena;
  const BodyId odo = *a.find_body("odo");
  EXPECT_EQ(a.body(odo).pose.at, (Vec3{10, 19, 0}));
  EXPECT_NEAR(a.body(odo).pose.turn.x.y, std::sin(-40 * std::numbers::pi / 180), 1e-15) << "degrees in files";
  EXPECT_TRUE(a.body(*a.find_body("raider-5")).fallen);
  EXPECT_EQ(a.relation(*a.find_faction("crabs"), *a.find_faction("passengers")), Relation::foe)
      << "by \"others\"";
  EXPECT_EQ(a.relation(*a.find_faction("wardens"), *a.find_faction("passengers")), Relation::neutral);
  EXPECT_FALSE(a.blocks(*a.find_wall("lantern-pane")).has(Passage::sight));
  EXPECT_EQ(std::get<Box>(a.wall(*a.find_wall("hull")).shape).half, (Vec3{4.5, 1.1, 1.2}))
      << "sizes in files are whole extents";
}

TEST(Scene, IsWrittenSoThatItReadsAsTheSame) {
  const auto scene = read_scene(test::source_path("scenes/harbour.json"));
  ASSERT_TRUE(scene);
  const std::string text = scene_json(*scene);
  const auto again = parse_scene(text, "again.json");
  ASSERT_TRUE(again) << io::text(again.error()[0]);
  EXPECT_EQ(again->attacks, scene->attacks);
  ASSERT_EQ(again->launches.size(), scene->launches.size());
  for (const BodyId id : scene->arena.bodies()) EXPECT_EQ(again->arena.body(id), scene->arena.body(id));
  for (const BuildId id : scene->arena.builds()) EXPECT_EQ(again->arena.build(id), scene->arena.build(id));
  for (const WallId id : scene->arena.walls()) EXPECT_EQ(again->arena.wall(id), scene->arena.wall(id));
  for (const FactionId a : scene->arena.factions()) {
    for (const FactionId b : scene->arena.factions())
      EXPECT_EQ(again->arena.relation(a, b), scene->arena.relation(a, b));
  }
  for (std::size_t i = 0; i < scene->launches.size(); ++i) {
    const SceneLaunch &a = scene->launches[i], &b = again->launches[i];
    EXPECT_EQ(io::resolve(*again, b, Detail::full), io::resolve(*scene, a, Detail::full)) << a.launch.id;
  }
  EXPECT_EQ(scene_json(*again), text);
}

TEST(Scene, WhatSlopesMovesAndChoosesIsWrittenToTheBit) {
  const std::string text = R"({
    "dardo": 1, "ground": { "at": [0, 0, -0.2], "normal": [0.05, 0, 1] },
    "factions": { "w": {} }, "builds": { "m": { "hitboxes": [{ "zone": "a", "triangle": { "a": [0,0,0], "b": [1,0,0], "c": [0,1,0.3] } }] } },
    "bodies": [{ "id": "me", "build": "m", "faction": "w", "at": [0, 0, 0], "numbers": { "health": 0.1 } }],
    "walls": [
      { "id": "gate", "prism": { "polygon": [[0,0],[1,0],[1,1]], "low": 0, "high": 2 }, "one_way": [1, 2, 3],
        "track": [{ "t": 0.1, "at": [1, 2, 3], "facing": 33 }, { "t": 0.7, "at": [0, 0, 0] }] },
      { "id": "bank", "mesh": { "corners": [[0,0,0],[1,0,0.1],[0,1,0.7]], "triangles": [[0,1,2]] }, "at": [3, 4, 5], "facing": 7 }],
    "attacks": { "a": {
      "area": { "prism": { "polygon": [[0,0],[1.1,0],[0.3,1]], "low": -1, "high": 2 }, "along": "target", "offset": [0.1, 0.2, 0.3], "share": 0.3 },
      "conditions": [{ "number": "health", "is": "below", "than": { "of": "attacker", "number": "health" } }],
      "sight": { "through": "blasts", "to": "points", "least": 0.1, "blocked_by": ["foe"], "scales_power": true },
      "cap": 2, "order": [{ "number": { "name": "health" } }, { "tag": "wet" }, { "angle": "most" }, { "chance": "even" }] } },
    "launches": [{ "id": "l", "by": "me", "attack": "a", "toward": { "choice": { "within": 9.7, "order": [{ "tag": "wet" }], "sight": "shots" } } }]
  })";
  const auto scene = parse_scene(text, "scene.json");
  ASSERT_TRUE(scene) << io::text(scene.error()[0]);
  const std::string written = scene_json(*scene);
  const auto again = parse_scene(written, "again.json");
  ASSERT_TRUE(again) << io::text(again.error()[0]);
  EXPECT_EQ(scene_json(*again), written);
  EXPECT_EQ(again->attacks, scene->attacks);
  for (const WallId id : scene->arena.walls()) EXPECT_EQ(again->arena.wall(id), scene->arena.wall(id));
  EXPECT_EQ(again->arena.ground_normal(), scene->arena.ground_normal());
  EXPECT_EQ(again->arena.ground(), scene->arena.ground());
  EXPECT_EQ(std::get<AtChoice>(again->launches[0].launch.toward),
            std::get<AtChoice>(scene->launches[0].launch.toward));
}

TEST(Scene, TheReferencePageIsThatOfTheRows) {
  EXPECT_EQ(test::source_file("docs/reference.md"), reference_page())
      << "dardo schema --reference > docs/reference.md";
}

TEST(Scene, AllProblemsInOnePassEachWithItsLine) {
  const std::string text = R"({
  "dardo": 1,
  "factions": { "wardens": { "foe": ["raidrs"] }, "raiders": {} },
  "builds": {
    "deckhand": { "hitboxes": [ { "zone": "trunk", "ball": { "at": [0, 0, 1], "radius": -0.4 } } ] }
  },
  "bodies": [
    { "id": "mara", "build": "dekhand", "faction": "wardens", "at": [0, 0, 0] },
    { "id": "mara", "build": "deckhand", "faction": "wardens", "at": [0, 0], "facng": 3 }
  ],
  // a comment does not upset the count of lines
  "attacks": { "bolt": { "ray": {}, "reach": [5, 2] } },
  "launches": [ { "id": "a", "by": "mara", "attack": "blot" } ]
})";
  EXPECT_EQ(
      problems_of(text),
      "x.json:3: /factions/wardens/foe/0 is not a faction of this scene: \"raidrs\"; did you mean "
      "\"raiders\"?\n"
      "x.json:5: /builds/deckhand/hitboxes/0/ball/radius is -0.4; expected metres from 0 to 1e7\n"
      "x.json:8: /bodies/0/build is not a build of this scene: \"dekhand\"; did you mean \"deckhand\"?\n"
      "x.json:9: /bodies/1/facng is not a key that is known here; did you mean \"facing\"?\n"
      "x.json:9: /bodies/1/at is a list of 2; expected a list of 3 numbers\n"
      "x.json:9: /bodies/1/id is there twice: \"mara\"; expected a name of its own for each body\n"
      "x.json:12: /attacks/bolt/reach has its near limit beyond its far one; expected [near, far] with near "
      "<= far\n"
      "x.json:13: /launches/0/attack is not an attack of this scene: \"blot\"; did you mean \"bolt\"?\n");
}

TEST(Scene, OneFaultOneMessage) {
  // The launch names a body and an attack that are themselves refused: no second message about them.
  const std::string text =
      problems_of(R"({"dardo": 1, "factions": {"w": {}}, "builds": {"b": {"hitboxes": []}},
    "bodies": [{"id": "mara", "build": "b", "faction": "w", "at": [0, 0, 0]}],
    "attacks": {"x": {"ray": {}, "reach": [0, 5]}},
    "launches": [{"id": "l", "by": "mara", "attack": "x", "toward": "mara"}]})");
  EXPECT_EQ(text, "x.json:1: /builds/b/hitboxes is empty; expected at least one hitbox\n");
  // A misspelt shape is one fault, not an unknown key and a missing shape.
  EXPECT_EQ(problems_of(R"({"dardo": 1, "factions": {}, "bodies": [], "attacks": {}, "launches": [],
    "builds": {"b": {"hitboxes": [{"zone": "a", "bal": {"at": [0, 0, 0], "radius": 1}}]}}})"),
            "x.json:2: /builds/b/hitboxes/0/bal is not a key that is known here; did you mean \"ball\"?\n");
}

TEST(Scene, PlacesAreThoseOfTheFileInItsUnits) {
  const std::string text = problems_of(R"({"dardo": 1, "factions": {"w": {}}, "bodies": [], "launches": [],
  "builds": {"b": {"hitboxes": [{"zone": "t", "ball": {"at": [0, 0, 1], "radius": 1}}],
    "muzzles": {"a/b": [1e9, 0, 0]}}},
  "attacks": {"h": {
    "shot": {"straight": {"speed": -1}},
    "reach": [0, -5],
    "then": [{"when": "end", "attacks": [{"area": {
       "ball": {"radius": -2}}}]}]},
   "g": {"shot": {"straight": {"speed": 3}, "ricochet": {"count": 1,
       "jitter": 1000}}}}})");
  EXPECT_EQ(text,
            "x.json:3: /builds/b/muzzles/a~1b/0 is 1e9; expected metres from -1e7 to 1e7\n"
            "x.json:5: /attacks/h/shot/straight/speed is -1; expected m/s from 1e-6 to 1e6\n"
            "x.json:6: /attacks/h/reach/1 is -5; expected metres from 0 to 1e7, or \"endless\"\n"
            "x.json:8: /attacks/h/then/0/attacks/0/area/ball/radius is -2; expected metres from 0 to 1e7\n"
            "x.json:10: /attacks/g/shot/ricochet/jitter is 1000; expected degrees from 0 to 180\n");
}

TEST(Scene, WhatNobodyHasIsDoubted) {
  const std::string text = R"({
  "dardo": 1, "factions": {"wardens": {}},
  "materials": {"timber": {}},
  "builds": {"post": {"hitboxes": [{"zone": "all", "ball": {"at": [0, 0, 1], "radius": 0.5}}], "tags": ["wet"]}},
  "bodies": [{"id": "odo", "build": "post", "faction": "wardens", "at": [0, 0, 0]}],
  "attacks": {
    "dart": {"needs": ["wet"], "forbids": ["dry"], "tags": ["bolt"],
             "shot": {"straight": {"speed": 9}, "pierce": {"thickness": 1, "materials": ["timber", "tinber"]}},
             "then": [{"when": "end", "attacks": [{"needs": ["bolt"], "area": {"ball": {"radius": 1}}},
                                                  {"needs": ["wett"], "area": {"ball": {"radius": 1}}}]}]}
  },
  "launches": []})";
  const auto scene = parse_scene(text, "x.json");
  ASSERT_TRUE(scene) << io::text(scene.error()[0]);
  std::string doubts;
  for (const FileProblem& p : scene->doubts) doubts += io::text(p) + "\n";
  EXPECT_EQ(doubts,
            "x.json:7: /attacks/dart/forbids/0 names \"dry\", a tag that nobody here has: nobody is spared\n"
            "x.json:8: /attacks/dart/shot/pierce/materials/1 names \"tinber\", a material that is not here: "
            "no wall of it is pierced\n"
            "x.json:10: /attacks/dart/then/0/attacks/1/needs/0 names \"wett\", a tag that nobody here has: "
            "nobody is struck\n");
}

// Each fault of the new ways to say things has one message, and says what would be right.
TEST(Scene, EndlessVelocitiesAndOwnBuildsHaveOneMessageForOneFault) {
  const auto errors_of = [](const std::string& attack, const std::string& raider) {
    const std::string text = R"({"dardo": 1, "factions": {"w": {}},
      "builds": {"b": {"hitboxes": [{"zone": "all", "ball": {"at": [0, 0, 0], "radius": 1}}]}},
      "bodies": [{"id": "a", "build": "b", "faction": "w", "at": [0, 0, 0]},)" +
                             raider + R"(], "attacks": {"s": )" + attack + R"(}, "launches": []})";
    std::string out;
    if (const auto scene = io::parse_scene(text, "x"); !scene) {
      for (const auto& p : scene.error()) out += io::text(p) + "\n";
    }
    return out;
  };
  const std::string ray = R"({"ray": {}})",
                    still = R"({"id": "r", "build": "b", "faction": "w", "at": [9, 0, 0]})";
  EXPECT_EQ(errors_of(R"({"shot": {"straight": {"speed": 5}, "life": "forever"}})", still),
            "x:3: /attacks/s/shot/life is the text \"forever\"; expected seconds from 1e-6 to 1e6, or "
            "\"endless\"\n");
  EXPECT_EQ(
      errors_of(ray,
                R"({"id": "r", "build": "b", "faction": "w", "at": [9, 0, 0], "velocity": [1e5, 0, 0]})"),
      "x:3: /bodies/1/velocity takes it beyond 1e7 within an hour; expected less of it, or a track\n");
  EXPECT_EQ(errors_of(ray, R"({"id": "r", "build": {"hitboxes": []}, "faction": "w", "at": [9, 0, 0]})"),
            "x:3: /bodies/1/build/hitboxes is empty; expected at least one hitbox\n");
  EXPECT_EQ(
      errors_of(
          ray, R"({"id": "r", "build": {"hitboxes": [{"zone": "all", "hull": {"points": [[0, 0, 0], [1, 0, 0],
      [0, 1, 0], [0, 0, 1]], "turn": {"axis": [0, 0, 0], "angle": 9}}}]}, "faction": "w", "at": [9, 0, 0]})"),
      "x:4: /bodies/1/build/hitboxes/0/hull/turn/axis has no direction; expected three numbers, not all 0\n");
}

TEST(Scene, ControlCharactersAreRefused) {
  const std::string text = problems_of(
      "{\"dardo\": 1, \"title\": \"a\\u001b[2J\", \"factions\": {\"w\\u0007\": {}}, "
      "\"builds\": {}, \"bodies\": [], \"attacks\": {}, \"launches\": []}");
  EXPECT_EQ(text,
            "x.json:1: /title holds a control character: \"a?[2J\"; expected text that can be printed\n"
            "x.json:1: /factions/w? holds a control character: \"w?\"; expected text that can be printed\n");
}

/// What takes a step for each pair takes minutes here; what goes once over all of it no second.
TEST(Scene, LargeFilesAreReadInTime) {
  std::string builds, bodies, factions;
  for (int i = 0; i < 20000; ++i) {
    const std::string n = std::to_string(i);
    builds += (i ? ", " : "") +
              ("\"b" + n +
               "\": {\"hitboxes\": [{\"zone\": \"t\", \"ball\": {\"at\": [0, 0, 0], \"radius\": -1}}]}");
    bodies += (i ? ", " : "") + ("{\"id\": \"x" + n + "\", \"build\": \"none" + n +
                                 "\", \"faction\": \"w\", \"at\": [0, 0, 0]}");
    factions += ", \"f" + n + "\": {}";
  }
  const auto head = [](const std::string& f, const std::string& b, const std::string& o) {
    return "{\"dardo\": 1, \"factions\": {\"w\": {}" + f + "}, \"builds\": {" + b + "}, \"bodies\": [" + o +
           "], \"attacks\": {}, \"launches\": []}";
  };
  const auto faulty = parse_scene(head("", builds, bodies), "x.json");
  ASSERT_FALSE(faulty);
  EXPECT_EQ(faulty.error().size(), 40000u);
  EXPECT_NE(problems_of(head(factions, "", "")).find("/factions has 20001 factions; expected at most 1024"),
            std::string::npos);
}

TEST(Scene, NotEvenJson) {
  EXPECT_EQ(problems_of(""), "x.json: is empty; expected a JSON object\n");
  EXPECT_EQ(problems_of(" \n\n"), "x.json: is empty; expected a JSON object\n");
  EXPECT_NE(problems_of("{\n\"dardo\": 1,\n oops").find("x.json:3: is not JSON"), std::string::npos);
  EXPECT_NE(problems_of("{\"dardo\": NaN}").find("is not JSON"), std::string::npos);
  EXPECT_NE(problems_of("{\"dardo\": 1e999}").find("is not JSON"), std::string::npos);
  EXPECT_NE(problems_of(std::string(200, '[')).find("nested deeper"), std::string::npos);
  EXPECT_NE(problems_of("{\"dardo\": 1, \"dardo\": 1}").find("/dardo is there twice"), std::string::npos);
  EXPECT_EQ(problems_of("[1]"), "x.json:1: is a list of 1; expected an object in braces\n");
  EXPECT_NE(problems_of(std::string("\xff\xfe\x00\x01", 4)).find("is not JSON"), std::string::npos);
}

TEST(Scene, FilesThatCannotBeRead) {
  test::Folder folder;
  const auto message = [](const std::string& path) {
    const auto scene = read_scene(path);
    return scene ? std::string("read") : io::text(scene.error()[0]);
  };
  EXPECT_EQ(message(folder.path()), folder.path() + ": is a folder; expected a file");
  EXPECT_NE(message(folder / "none.json").find("cannot be read: No such file"), std::string::npos);
}

TEST(Text, LinksAndPipesStayWhatTheyAre) {
  test::Folder folder;
  ASSERT_TRUE(write_text(folder / "real.txt", "old"));
  std::filesystem::create_symlink(folder / "real.txt", folder / "link.txt");
  ASSERT_TRUE(write_text(folder / "link.txt", "new"));
  EXPECT_TRUE(std::filesystem::is_symlink(folder / "link.txt"));
  EXPECT_EQ(test::read_file(folder / "real.txt"), "new");
  EXPECT_TRUE(write_text("/dev/null", "x"));
  EXPECT_TRUE(std::filesystem::is_character_file("/dev/null"));
  EXPECT_FALSE(write_text("/dev/full", "x"));
}

TEST(Text, IsWrittenWholeOrNotAtAll) {
  test::Folder folder;
  ASSERT_TRUE(write_text(folder / "a.txt", "old"));
  ASSERT_TRUE(write_text(folder / "a.txt", "new"));
  EXPECT_EQ(test::read_file(folder / "a.txt"), "new");
  EXPECT_FALSE(write_text(folder / "none/b.txt", "x"));
  EXPECT_FALSE(write_text(folder.path(), "x"));
  EXPECT_EQ(folder.files(), 1u) << "nothing is left beside it";
}

}  // namespace
}  // namespace dardo::io::scene_test
