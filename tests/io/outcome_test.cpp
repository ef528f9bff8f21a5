#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "dardo/dardo.hpp"
#include "dardo/io/outcome_json.hpp"
#include "dardo/io/scene.hpp"
#include "support/files.hpp"
#include "support/validate.hpp"

namespace dardo::io::outcome_test {
namespace {

std::vector<Outcome> harbour_outcomes(const Scene& scene, Detail detail) {
  std::vector<Outcome> out;
  for (const SceneLaunch& l : scene.launches) out.push_back(resolve(scene, l, detail));
  // And one that is refused.
  out.push_back(resolve(scene.arena, scene.attacks[0], {.id = "wrong"}, detail));
  return out;
}

TEST(OutcomeJson, RoundTripToTheBit) {
  const auto scene = read_scene(test::source_path("scenes/harbour.json"));
  ASSERT_TRUE(scene);
  for (const Detail detail : {Detail::strikes, Detail::verdicts, Detail::full}) {
    const auto outcomes = harbour_outcomes(*scene, detail);
    const std::string text = outcomes_json(outcomes, scene->arena, scene->title);
    const auto again = parse_outcomes(text, "out.json", scene->arena);
    ASSERT_TRUE(again) << io::text(again.error()[0]);
    EXPECT_EQ(outcomes, *again);
    EXPECT_TRUE(test::validates(outcome_schema(), nlohmann::json::parse(text)));
  }
}

/// Whatever stands under `properties` says what it is, but for those that only repeat another.
void expect_described(const nlohmann::json& schema, const std::string& where) {
  if (schema.is_object() && schema.contains("properties")) {
    for (const auto& [key, value] : schema["properties"].items()) {
      if (value.is_object() && !value.contains("const"))
        EXPECT_TRUE(value.contains("description")) << where << "/" << key;
    }
  }
  if (!schema.is_structured()) return;
  for (const auto& [key, value] : schema.items()) expect_described(value, where + "/" + key);
}

TEST(OutcomeJson, TheSchemaDescribesEveryProperty) {
  expect_described(nlohmann::json::parse(outcome_schema()), "");
}

TEST(OutcomeJson, ShowsEveryReasonAtTheHarbour) {
  const auto scene = read_scene(test::source_path("scenes/harbour.json"));
  std::set<std::string_view> seen;
  for (const Outcome& o : harbour_outcomes(*scene, Detail::verdicts)) {
    for (const Verdict& v : o.verdicts) seen.insert(name(v.deciding.reason));
  }
  // But limits, which nothing that is meant meets, and bodies without volume, which nobody builds.
  for (int r = 0; r < static_cast<int>(Reason::limit); ++r) {
    if (static_cast<Reason>(r) == Reason::rule) continue;  // which only a game knows
    EXPECT_TRUE(seen.contains(name(static_cast<Reason>(r)))) << name(static_cast<Reason>(r));
  }
}

TEST(OutcomeJson, RefusesWhatItDidNotWrite) {
  const auto scene = read_scene(test::source_path("scenes/harbour.json"));
  const auto refuses = [&](const std::string& text) {
    const auto r = parse_outcomes(text, "out.json", scene->arena);
    return r ? std::string() : io::text(r.error()[0]);
  };
  EXPECT_NE(refuses("{}").find("has no \"launches\""), std::string::npos);
  EXPECT_NE(refuses(R"({"launches": [{"by": "nobody"}]})").find("has no \"launch\""), std::string::npos);
  auto json =
      nlohmann::json::parse(outcomes_json(harbour_outcomes(*scene, Detail::verdicts), scene->arena, ""));
  json["launches"][0]["strikes"][0]["body"] = "nobody";
  EXPECT_NE(refuses(json.dump()).find("is not a body of the arena"), std::string::npos);
}

}  // namespace
}  // namespace dardo::io::outcome_test
