// Levels: patches over an attack, and what of them is refused, with its place.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "dardo/io/outcome_json.hpp"
#include "dardo/io/scene.hpp"
#include "support/files.hpp"
#include "support/validate.hpp"

namespace dardo::io::levels_test {
namespace {

using Json = nlohmann::json;

Json slipway() { return Json::parse(test::source_file("scenes/slipway.json"), nullptr, true, true); }

/// The slipway, with other levels of its pitch pot.
Json with_levels(const std::string& levels) {
  Json out = slipway();
  out["attacks"]["pitch-pot"]["levels"] = Json::parse(levels);
  for (Json& l : out["launches"]) l.erase("level");
  return out;
}
std::string problem_of(const Json& scene) {
  const auto read = parse_scene(scene.dump(), "x.json");
  return read ? "" : read.error()[0].pointer + ": " + read.error()[0].what;
}
Scene read(const Json& scene) {
  auto out = parse_scene(scene.dump(), "x.json");
  if (!out) throw std::runtime_error(io::text(out.error()[0]));
  return std::move(*out);
}
double radius_of(const Attack& a) {
  return std::get<BallArea>(std::get<AreaDelivery>(a.delivery).shape).radius;
}

TEST(Levels, GrowByNumberAndArePatchedByNameOrNumber) {
  const Scene scene = read(slipway());
  const Attack& base = *find_attack(scene, "pitch-pot");
  EXPECT_EQ(*find_attack(scene, "pitch-pot", "1"), base);
  const Attack &two = *find_attack(scene, "pitch-pot", "2"), &three = *find_attack(scene, "pitch-pot", "3");
  EXPECT_EQ(two.power, 13);
  EXPECT_DOUBLE_EQ(radius_of(two), 4.4);
  EXPECT_FALSE(two.cap);
  EXPECT_EQ(three.power, 16);
  EXPECT_DOUBLE_EQ(radius_of(three), 4.84);
  EXPECT_EQ(three.cap, 4u);
  const Attack& tarred = *find_attack(scene, "pitch-pot", "tarred");
  EXPECT_EQ(tarred.power, base.power);
  EXPECT_EQ(tarred.windup->for_s, 0.6);
  EXPECT_EQ(tarred.tags, (std::vector<std::string>{"fire", "tar"}));
  EXPECT_EQ(find_attack(scene, "pitch-pot", "4"), nullptr);
  EXPECT_EQ(find_attack(scene, "cutlass", "1"), nullptr);
  // The launches have what they name.
  for (const SceneLaunch& l : scene.launches) {
    if (l.launch.id == "odo-pitch") EXPECT_EQ(l.attack, two);
    if (l.launch.id == "odo-crab") EXPECT_EQ(l.attack, tarred);
  }
}

TEST(Levels, BuildOnEachOtherOnlyIfSaid) {
  const std::string patches =
      R"("from": 1, "to": 3, "patches": {"1": {"cap": 4}, "2": {"power": 20, "tags": null}, "rich": {"power": 50}, "richer": {"cap": 9}})";
  const Scene apart = read(with_levels("{" + patches + "}"));
  EXPECT_FALSE(find_attack(apart, "pitch-pot", "2")->cap);
  EXPECT_EQ(find_attack(apart, "pitch-pot", "3")->power, 10);
  EXPECT_EQ(find_attack(apart, "pitch-pot", "richer")->power, 10);
  const Scene built = read(with_levels("{" + patches + R"(, "build_on": true})"));
  EXPECT_EQ(find_attack(built, "pitch-pot", "2")->cap, 4u);
  EXPECT_TRUE(find_attack(built, "pitch-pot", "2")->tags.empty());
  EXPECT_EQ(find_attack(built, "pitch-pot", "3")->power, 20);
  EXPECT_EQ(find_attack(built, "pitch-pot", "richer")->power, 50);
  EXPECT_FALSE(find_attack(built, "pitch-pot", "rich")->cap) << "not on those by number";
}

TEST(Levels, WhatIsWrongIsSaidWhereItIs) {
  const std::string at = "/attacks/pitch-pot/levels";
  const std::pair<const char*, std::string> cases[] = {
      {R"({"patches": {"tarred": {"powr": 2}}})", at + "/patches/tarred/powr: makes level tarred wrong"},
      {R"({"patches": {"tarred": {"power": [2]}}})", at + "/patches/tarred/power: makes level tarred wrong"},
      {R"({"patches": {"tarred": {"cap": 0}}})", at + "/patches/tarred/cap: makes level tarred wrong"},
      {R"({"patches": {"tarred": {"area": {"ball": {"radius": -1}}}}})",
       at + "/patches/tarred/area/ball/radius: makes level tarred wrong"},
      {R"({"patches": {"tarred": {"area": null}}})", at + "/patches/tarred: makes level tarred wrong"},
      {R"({"from": 1, "to": 2, "grow": {"/powr": {"add": 1}}})", at + "/grow/~1powr: leads to nothing"},
      {R"({"from": 1, "to": 2, "grow": {"/tags": {"add": 1}}})", at + "/grow/~1tags: leads to a list of 1"},
      {R"({"from": 1, "to": 2, "grow": {"/power": {}}})", at + "/grow/~1power: says no way to grow"},
      {R"({"from": 1, "to": 2, "grow": {"/power": {"list": [1]}}})",
       at + "/grow/~1power/list: is a list of 1"},
      {R"({"from": 1, "to": 400, "grow": {"/area/ball/radius": {"times": 2}}})",
       at + "/grow/~1area~1ball~1radius: makes level"},
      {R"({"grow": {"/power": {"add": 1}}})", at + "/grow: is there, but no levels by number are"},
      {R"({"from": 1, "to": 5000})", at + "/to: is no level from 1 on"},
      {R"({"from": 1.5, "to": 2})", at + "/from: is 1.5"},
      {R"({"from": 1, "to": 2, "patches": {"3": {}}})", at + "/patches/3: is of no level that there is"},
      {R"({"from": 1, "to": 2, "patches": {"01": {}}})", at + "/patches/01: is of no level that there is"},
      {R"({"patches": {"tarred": 3}})", at + "/patches/tarred: is the number 3"},
      {R"({})", at + ": makes no level"},
      {R"([])", at + ": is a list of 0"},
      {R"({"patches": {"tarred": {"levels": {}}}})", at + "/patches/tarred/levels: makes level tarred wrong"},
  };
  for (const auto& [levels, problem] : cases) {
    const std::string said = problem_of(with_levels(levels));
    EXPECT_EQ(said.substr(0, problem.size()), problem) << levels;
  }
  Json scene = slipway();
  scene["launches"][2]["level"] = 7;
  EXPECT_EQ(problem_of(scene), "/launches/2/level: is not a level of this scene: \"7\"");
}

TEST(Levels, AreWrittenAndValidate) {
  EXPECT_TRUE(test::validates(scene_schema(), slipway()));
  const Scene scene = read(slipway());
  const auto again = parse_scene(scene_json(scene), "again.json");
  ASSERT_TRUE(again) << io::text(again.error()[0]);
  ASSERT_EQ(again->levels.size(), scene.levels.size());
  for (std::size_t i = 0; i < scene.levels.size(); ++i) {
    for (std::size_t k = 0; k < scene.levels[i].all.size(); ++k)
      EXPECT_EQ(again->levels[i].all[k].attack, scene.levels[i].all[k].attack);
  }
  for (std::size_t i = 0; i < scene.launches.size(); ++i) {
    EXPECT_EQ(again->launches[i].attack, scene.launches[i].attack);
    EXPECT_EQ(again->launches[i].level, scene.launches[i].level);
  }
}

TEST(Slipway, TogetherGoesAsItsCommentsSay) {
  const Scene scene = read(slipway());
  std::vector<const SceneLaunch*> all;
  for (const SceneLaunch& l : scene.launches) all.push_back(&l);
  const auto outcomes = resolve_together(scene, all, {.detail = Detail::full});
  const auto of = [&](std::string_view id) -> const Outcome& {
    return *std::find_if(outcomes.begin(), outcomes.end(), [&](const Outcome& o) { return o.launch == id; });
  };
  for (const char* id : {"tessa-third", "mara-early", "mara-winded"})
    EXPECT_EQ(of(id).ended, Ended::not_ready) << id;
  EXPECT_NE(of("tessa-third").problems.at(0).what.find("its uses are spent"), std::string::npos);
  EXPECT_NE(of("mara-early").problems.at(0).what.find("cutlass has not come before"), std::string::npos);
  EXPECT_NE(of("mara-winded").problems.at(0).what.find("has the tag winded"), std::string::npos);
  EXPECT_FALSE(of("tessa-sparks").strikes.empty());
  // Alone there is nobody wet.
  EXPECT_EQ(resolve(scene, scene.launches[1]).strikes.size(), 1u) << "but for whom the jar itself strikes";
  // What is told is the same once it was written and read.
  const std::string text = outcomes_json(outcomes, scene.arena, scene.title);
  EXPECT_TRUE(test::validates(outcome_schema(), Json::parse(text)));
  const auto again = parse_outcomes(text, "x.json", scene.arena);
  ASSERT_TRUE(again) << io::text(again.error()[0]);
  for (std::size_t i = 0; i < outcomes.size(); ++i) {
    EXPECT_EQ((*again)[i].strikes, outcomes[i].strikes) << outcomes[i].launch;
    ASSERT_EQ((*again)[i].happenings.size(), outcomes[i].happenings.size());
    for (std::size_t k = 0; k < outcomes[i].happenings.size(); ++k) {
      Happening told = outcomes[i].happenings[k];
      told.launch = 0;  // which is that of the outcome
      EXPECT_EQ((*again)[i].happenings[k], told);
    }
  }
}

}  // namespace
}  // namespace dardo::io::levels_test
