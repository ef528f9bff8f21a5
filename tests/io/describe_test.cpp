// Attacks in words: whatever is in the data is told, and nothing else.
#include "dardo/io/describe.hpp"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <set>

#include "dardo/io/scene.hpp"
#include "support/files.hpp"

namespace dardo::io::describe_test {
namespace {

using Json = nlohmann::ordered_json;

Scene read(const std::string& file) {
  auto out = read_scene(test::source_path("scenes/" + file));
  if (!out) throw std::runtime_error(io::text(out.error()[0]));
  return std::move(*out);
}
std::string sentences(const std::vector<Told>& told) {
  std::string out;
  for (const Told& t : told) out += t.text + "\n";
  return out;
}

TEST(Describe, TellsAnAttackInPlainWords) {
  const Scene scene = read("slipway.json");
  const Description words = describe(scene, *find_attack(scene, "pitch-pot"));
  EXPECT_EQ(words.line, "pitch-pot: an area, to 16 m, 1 fire damage, burning");
  const std::string text = sentences(words.text);
  for (const char* sentence :
       {"It reaches from 2 m to 16 m.", "The shape is a ball with a radius of 4 m.", "It strikes foes.",
        "Its power is 10.", "Its power falls off with the distance: linear, to nothing at 5 m.",
        "It deals 1 fire damage.", "It leaves whom it strikes burning for 3 s.", "It comes back every 0.5 s.",
        "Each time it deals 2 fire damage.", "That is not for whoever is: wet, shelled.",
        "It winds up for 0.3 s."})
    EXPECT_NE(text.find(sentence), std::string::npos) << sentence << "\n" << text;
  const std::string bad = sentences(words.bad_at);
  for (const char* sentence : {"Nothing nearer than 2 m is struck.", "Farther away it is weaker.",
                               "It passes whoever is immune to fire."})
    EXPECT_NE(bad.find(sentence), std::string::npos) << sentence << "\n" << bad;
  // An optional part stands there only where it says something.
  EXPECT_NE(
      sentences(describe(scene, *find_attack(scene, "cutlass")).text).find("It deals 5 to 8 blade damage."),
      std::string::npos);
}

/// Another value of the same kind for a leaf; null where there is none.
Json other(const Json& leaf, const std::string& key) {
  if (leaf.is_boolean()) return !leaf.get<bool>();
  if (leaf.is_number_integer()) return leaf.get<int>() + 1;
  if (leaf.is_number()) return leaf.get<double>() * 0.875;
  if (leaf.is_string() &&
      (key == "name" || key == "kind" || key == "number" || key == "text" || key == "attack"))
    return leaf.get<std::string>() + "-b";
  return nullptr;
}

/// Each leaf of the data, changed one at a time, changes what is told.
TEST(Describe, EveryFieldIsTold) {
  std::size_t changed = 0;
  for (const char* file : {"slipway.json", "harbour.json", "quay.json"}) {
    const Scene scene = read(file);
    const Json whole = Json::parse(scene_json(scene));
    for (const Attack& attack : scene.attacks) {
      const Description before = describe(scene, attack);
      Json bare = whole;
      bare["launches"] = Json::array();
      const Json flat = bare["attacks"][attack.name].flatten();
      for (const auto& [pointer, leaf] : flat.items()) {
        if (pointer.starts_with("/levels")) continue;
        const Json value = other(leaf, pointer.substr(pointer.rfind('/') + 1));
        if (value.is_null()) continue;
        Json scene_with = bare;
        scene_with["attacks"][attack.name][Json::json_pointer(pointer)] = value;
        scene_with["attacks"][attack.name].erase("levels");
        const auto read = parse_scene(scene_with.dump(), "x.json");
        if (!read) continue;  // which is no attack any more
        const Attack& now = *find_attack(*read, attack.name);
        if (now == attack) continue;
        ++changed;
        const Description after = describe(*read, now);
        EXPECT_FALSE(compare(before, after).empty()) << file << " " << attack.name << pointer;
      }
    }
  }
  EXPECT_GT(changed, 300u);
}

/// Every sentence that comes with the library is of something that there is, and names places that it has.
TEST(Describe, EveryMessageHasItsPlaces) {
  std::set<std::string> told;
  for (const char* file : {"slipway.json", "harbour.json"}) {
    const Scene scene = read(file);
    const auto take = [&](const Attack& a) {
      const Description d = describe(scene, a);
      for (const auto* all : {&d.text, &d.bad_at}) {
        for (const Told& t : *all) {
          told.insert(t.key);
          EXPECT_EQ(t.text.find_first_of("{}[]"), std::string::npos) << t.text;
          const std::string& sentence = *Messages::standard().find(t.key);
          for (std::size_t at = sentence.find('{'); at != std::string::npos;
               at = sentence.find('{', at + 1)) {
            const std::string place = sentence.substr(at + 1, sentence.find('}', at) - at - 1);
            const bool optional = sentence.rfind('[', at) != std::string::npos &&
                                  sentence.find(']', at) < sentence.find('[', at);
            const bool there = std::any_of(t.places.begin(), t.places.end(),
                                           [&](const auto& p) { return p.first == place; });
            EXPECT_TRUE(there || optional) << t.key << ": {" << place << "}";
          }
        }
      }
    };
    for (const Attack& a : scene.attacks) take(a);
    for (const Levels& levels : scene.levels) {
      for (const Level& l : levels.all) take(l.attack);
    }
  }
  EXPECT_GT(told.size(), 60u);
}

TEST(Describe, ComparesLevels) {
  const Scene scene = read("slipway.json");
  const auto differences = compare(describe(scene, *find_attack(scene, "pitch-pot", "1")),
                                   describe(scene, *find_attack(scene, "pitch-pot", "3")));
  std::string out;
  for (const ToldDifference& d : differences) out += d.pointer + " " + d.one + " -> " + d.other + "\n";
  EXPECT_EQ(out, "/area/ball/radius 4 m -> 4.84 m\n/power 10 -> 16\n/cap  -> 4\n");
}

TEST(Messages, AreReadAndRefused) {
  const auto problem = [](const std::string& text) {
    const auto read = Messages::parse(text, "m.json");
    return read ? "" : read.error()[0].pointer + ": " + read.error()[0].what;
  };
  EXPECT_EQ(problem(R"({"line": "{name}"})"), "");
  EXPECT_EQ(problem(R"({"line": 3})"), "/line: is the number 3");
  EXPECT_EQ(problem(R"([])"), ": is a list of 0");
  for (const char* sentence : {"{name", "name}", "[{name}", "{name}]", "[[a]]", "{[a]}", "{{a}}", "{a[b]}"})
    EXPECT_EQ(problem(Json{{"line", sentence}}.dump()), "/line: has brackets that do not match") << sentence;
  const Scene scene = read("slipway.json");
  const auto other = Messages::parse(
      R"({"line": "{name}!", "attack.reach": "bis {far}", "words.foe": "Feinde", "attack.who.always": "gegen {value}"})",
      "m.json");
  ASSERT_TRUE(other);
  const Description words = describe(scene, *find_attack(scene, "pitch-pot"), *other);
  EXPECT_EQ(words.line, "pitch-pot!");
  EXPECT_EQ(sentences(words.text), "bis 16 m\ngegen Feinde\n");
}

}  // namespace
}  // namespace dardo::io::describe_test
