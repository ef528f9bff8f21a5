// The program, run as people and scripts run it.
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <iterator>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "dardo/io/outcome_json.hpp"
#include "dardo/io/scene.hpp"
#include "support/process.hpp"
#include "support/validate.hpp"

namespace {

using dardo::test::Finished;
using dardo::test::Folder;
using Json = nlohmann::json;

const std::string kHarbour = dardo::test::source_path("scenes/harbour.json");
const std::string kSlipway = dardo::test::source_path("scenes/slipway.json");
const std::string kJetty = dardo::test::source_path("scenes/jetty.json");

#ifdef DARDO_HAS_VIEWER
constexpr bool kHasReport = true;
#else
constexpr bool kHasReport = false;
#endif

Finished dardo_run(std::vector<std::string> arguments, const std::string& input = "") {
  arguments.insert(arguments.begin(), DARDO_PROGRAM);
  return dardo::test::run(arguments, input);
}
bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

TEST(Resolve, JsonListsEveryBodyOnceForEveryLaunch) {
  const Finished r = dardo_run({"resolve", kHarbour, "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(r.err, "");
  const Json out = Json::parse(r.out);
  EXPECT_TRUE(dardo::test::validates(dardo::io::outcome_schema(), out));
  const auto scene = dardo::io::read_scene(kHarbour);
  std::set<std::string> all;
  for (const auto id : scene->arena.bodies()) all.insert(scene->arena.body(id).id);
  ASSERT_EQ(out["launches"].size(), scene->launches.size());
  EXPECT_GE(scene->launches.size(), 12u);
  for (const Json& launch : out["launches"]) {
    std::set<std::string> seen, struck;
    for (const Json& v : launch["verdicts"]) {
      EXPECT_TRUE(seen.insert(v["body"]).second);
      EXPECT_NE(v["struck"].get<bool>(), v.contains("reason"));
      if (v["struck"]) struck.insert(v["body"]);
    }
    EXPECT_EQ(seen, all);
    std::set<std::string> strikes;
    for (const Json& s : launch["strikes"]) strikes.insert(s["body"]);
    EXPECT_EQ(strikes, struck);
  }
}

TEST(Resolve, TextIsPlainOutsideATerminal) {
  const Finished r = dardo_run({"resolve", kHarbour, "--launch", "mara-harpoon"});
  EXPECT_EQ(r.code, 0);
  EXPECT_TRUE(has(r.out, "raider-1  trunk  at 10.24 m"));
  EXPECT_TRUE(has(r.out, "crab-1       nearer than the near limit by"));
  EXPECT_TRUE(has(r.out, "raider-2     raider-1 stands between"));
  EXPECT_FALSE(has(r.out, "\033"));
  EXPECT_FALSE(has(r.out, "tessa-horn")) << "only the launch that was asked for";
}

std::vector<std::string> lines_of(const std::string& text) {
  std::vector<std::string> out;
  std::istringstream in(text);
  for (std::string line; std::getline(in, line);) out.push_back(line);
  return out;
}

TEST(Resolve, ALineForEachLaunchComesFirst) {
  const auto scene = dardo::io::read_scene(kHarbour);
  const std::vector<std::string> lines = lines_of(dardo_run({"resolve", kHarbour}).out);
  ASSERT_GT(lines.size(), scene->launches.size());
  for (std::size_t i = 0; i < scene->launches.size(); ++i) {
    const std::string& id = scene->launches[i].launch.id;
    EXPECT_EQ(lines[i].substr(0, id.size()), id);
    EXPECT_TRUE(has(lines[i], " struck  ")) << lines[i];
  }
  EXPECT_EQ(lines[scene->launches.size()], "");
}

TEST(Resolve, OnlySomeAreShownAndInAnotherOrder) {
  const auto shown = [](std::vector<std::string> more) {
    more.insert(more.begin(), {"resolve", kHarbour, "--launch", "tessa-horn"});
    return dardo_run(more).out;
  };
  const Json all = Json::parse(dardo_run({"resolve", kHarbour, "--launch", "tessa-horn", "--json"}).out);
  const std::string struck = shown({"--only", "struck"}), spared = shown({"--only", "spared"}),
                    near = shown({"--only", "near"});
  for (const Json& v : all["launches"][0]["verdicts"]) {
    const std::string body = "  " + v["body"].get<std::string>() + " ";
    EXPECT_EQ(has(struck, body), v["struck"].get<bool>()) << body;
    EXPECT_EQ(has(spared, body), !v["struck"].get<bool>()) << body;
    if (v["struck"]) EXPECT_FALSE(has(near, body)) << body;
  }
  std::vector<double> margins;
  for (const std::string& line : lines_of(shown({"--only", "spared", "--sort", "margin", "--json-lines"}))) {
    const Json row = Json::parse(line);
    margins.push_back(row.value("margin", 1e9));
  }
  EXPECT_GT(margins.size(), 3u);
  EXPECT_TRUE(std::is_sorted(margins.begin(), margins.end()));
  EXPECT_EQ(dardo_run({"resolve", kHarbour, "--only", "some"}).code, 2);
  EXPECT_EQ(dardo_run({"resolve", kHarbour, "--json", "--only", "near"}).code, 2);
  EXPECT_EQ(dardo_run({"resolve", kHarbour, "--why", "raider-3", "--sort", "name"}).code, 2);
}

TEST(Resolve, TheLinesForMachinesSayWhatTheOutcomeSays) {
  const Json all = Json::parse(dardo_run({"resolve", kHarbour, "--json"}).out);
  std::size_t strikes = 0, spared = 0;
  for (const Json& launch : all["launches"]) {
    strikes += launch["strikes"].size();
    for (const Json& v : launch["verdicts"]) spared += !v["struck"].get<bool>();
  }
  const std::vector<std::string> rows = lines_of(dardo_run({"resolve", kHarbour, "--json-lines"}).out),
                                 cells = lines_of(dardo_run({"resolve", kHarbour, "--csv"}).out);
  ASSERT_EQ(rows.size(), strikes + spared);
  ASSERT_EQ(cells.size(), rows.size() + 1);
  EXPECT_EQ(cells[0].substr(0, 22), "launch,attack,by,body,");
  const Json first = Json::parse(rows[0]), &strike = all["launches"][0]["strikes"][0];
  EXPECT_EQ(first["body"], strike["body"]);
  EXPECT_EQ(first["distance_m"], strike["distance"]);
}

TEST(Resolve, NamesAreTextWhateverTheyHold) {
  const std::string names[] = {"=1+1", R"(a,\"b\")", "<b>&", R"(\u2060joined)", R"(\ud83e\udd80 \u6ce2)"};
  std::string bodies;
  for (int i = 0; i < 5; ++i)
    bodies += ", {\"id\": \"" + names[i] + "\", \"build\": \"b\", \"faction\": \"f\", \"at\": [" +
              std::to_string(i + 3) + ", 0, 0]}";
  const std::string scene =
      R"({"dardo": 1, "factions": {"f": {"foe": ["f"]}}, "builds": {"b": {"hitboxes": [{"zone": "all", "ball": {"at": [0, 0, 0], "radius": 0.5}}]}},
          "bodies": [{"id": "me", "build": "b", "faction": "f", "at": [0, 0, 0]})" +
      bodies +
      R"(], "attacks": {"a": {"area": {"ball": {"radius": 6}, "around": "attacker"}, "who": ["foe", "friend"]}},
          "launches": [{"id": "l", "by": "me", "attack": "a"}]})";
  // The reader lets nothing in that a terminal obeys; what nobody sees is shown by its number.
  const auto plain = [](const std::string& text) { return !has(text, "\u2060"); };
  for (const char* form : {"", "--csv", "--json-lines"}) {
    std::vector<std::string> arguments{"resolve", "-"};
    if (*form != 0) arguments.emplace_back(form);
    const Finished r = dardo_run(arguments, scene);
    ASSERT_EQ(r.code, 0) << r.err;
    EXPECT_EQ(plain(r.out), std::string(form) != "--json-lines") << r.out;
    EXPECT_TRUE(has(r.out, "\U0001F980")) << form;
  }
  const std::string csv = dardo_run({"resolve", "-", "--csv"}, scene).out;
  EXPECT_TRUE(has(csv, ",'=1+1,"));
  EXPECT_TRUE(has(csv, ",\"a,\"\"b\"\"\","));
}

TEST(Resolve, WideTablesFoldToTheWindow) {
  ::setenv("COLUMNS", "72", 1);
  const std::string narrow = dardo_run({"resolve", kHarbour, "--launch", "tessa-horn"}).out;
  ::unsetenv("COLUMNS");
  const std::string wide = dardo_run({"resolve", kHarbour, "--launch", "tessa-horn"}).out;
  const auto words = [](const std::string& text) {
    std::istringstream in(text);
    return std::vector<std::string>{std::istream_iterator<std::string>(in), {}};
  };
  EXPECT_EQ(words(narrow), words(wide));
  EXPECT_GT(lines_of(narrow).size(), lines_of(wide).size());
  for (const std::string& line : lines_of(narrow)) {
    if (has(line, "  -  ")) EXPECT_LE(line.size(), 72u) << line;
  }
}

TEST(Resolve, WhyListsEveryGate) {
  const Finished r = dardo_run({"resolve", kHarbour, "--launch", "tessa-horn", "--why", "raider-3"});
  EXPECT_EQ(r.code, 0);
  for (const char* gate : {"stands", "self", "relation", "tags", "reach", "time", "sight", "cap"}) {
    EXPECT_TRUE(has(r.out, std::string("  ") + gate + " ")) << gate;
  }
  EXPECT_TRUE(has(r.out, "STOP  crate-1 stands between"));
  EXPECT_TRUE(has(r.out, "pass  at 5.29 m, within reach (1.71 m to spare)"));
  const Json json = Json::parse(dardo_run({"resolve", kHarbour, "--why", "raider-3", "--json"}).out);
  for (const Json& v : json["launches"][0]["verdicts"])
    EXPECT_EQ(v.contains("gates"), v["body"] == "raider-3");
}

TEST(Resolve, ReadsStandardInput) {
  const Finished r = dardo_run({"resolve", "-", "--json"}, dardo::test::read_file(kHarbour));
  EXPECT_EQ(r.code, 0);
  EXPECT_EQ(r.out, dardo_run({"resolve", kHarbour, "--json"}).out);
}

TEST(BadInput, OneClearMessageExitCode2AndNothingOnStandardOutput) {
  Folder folder;
  const std::string garbage = folder / "garbage.json", empty = folder / "empty.json",
                    typo = folder / "typo.json";
  dardo::test::write_file(empty, "");
  {
    // 100 MB that are no JSON.
    std::string block(1 << 20, '\0');
    for (std::size_t i = 0; i < block.size(); ++i) block[i] = static_cast<char>(i * 2654435761u >> 13);
    std::ofstream out(garbage, std::ios::binary);
    for (int i = 0; i < 100; ++i) out << block;
  }
  std::string scene = dardo::test::read_file(kHarbour);
  scene.replace(scene.find("\"attack\": \"horn\""), 16, "\"attack\": \"hron\"");
  dardo::test::write_file(typo, scene);
  struct Case {
    std::vector<std::string> arguments;
    std::string message;
  };
  const std::vector<Case> cases{
      {{}, "subcommand is required"},
      {{"resolve"}, "SCENE is required"},
      {{"resolve", kHarbour, "--lunch", "x"}, "--lunch"},
      {{"resolve", folder / "none.json"}, "cannot be read"},
      {{"resolve", folder.path()}, "is a folder"},
      {{"resolve", empty}, "is empty"},
      {{"resolve", garbage}, "is not JSON"},
      {{"resolve", typo, "--json"}, "did you mean \"horn\"?"},
      {{"resolve", kHarbour, "--launch", "none"}, "no such launch"},
      {{"resolve", kHarbour, "--why", "none"}, "no such body"},
      {{"draw", kHarbour, "-o", folder / "x.jpeg"}, "expected .png, .svg or .pdf"},
      {{"draw", kHarbour, "-o", folder / "none/x.png"}, "cannot be written"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--size", "12"}, "is not a size"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--size", "1x1"}, "a side of 1 pixels"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--launch", "none"}, "no such launch"},
      {{"draw", typo, "-o", folder / "x.png"}, "did you mean \"horn\"?"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--view", "behind"}, "is no view"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--view", "plan:30"}, "is no view"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--view", "side:1e99"}, "is no view"},
      {{"draw", kJetty, "-o", folder / "x.png", "--view", "oblique"}, "is flat"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--frames", "4"}, "all of it happens in one instant"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--frames", "1"}, "--frames"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--frames", "4", "--at", "1"}, "--frames"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--at", "nan"}, "--at"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--at", "-3"}, "--at"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--focus", "nobody"}, "neither a body nor a place"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--focus", "nan,0"}, "neither a body nor a place"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--span", "9"}, "--focus"},
      {{"draw", kHarbour, "-o", folder / "x.png", "--against", "none"}, "no such launch"},
      {{"draw", kHarbour, kJetty, "-o", folder / "x.png", "--against", "tessa-horn"}, "neither"},
      {{"report", kHarbour, "-o", folder / "x.png"}, kHasReport ? "ends in .html" : "no page for reports"},
      {{"report", kHarbour, "-o", folder / "x.html", "--launch", "none"},
       kHasReport ? "no such launch" : "no page for reports"},
      {{"report", kHarbour, kJetty, "-o", folder / "x.html"},
       kHasReport ? "of one kind" : "no page for reports"},
      {{"report", kHarbour, kHarbour, "-o", folder / "x.html", "--seed", "3"},
       kHasReport ? "expected one scene" : "no page for reports"},
      {{"report", kHarbour, "-o", folder / "x.html", "--seed", "-3"}, "--seed"},
      {{"report", kHarbour, "-o", folder / "none/x.html"},
       kHasReport ? "cannot be written" : "no page for reports"},
      {{"demo", "--out", empty + "/x"}, "cannot be made"},
  };
  const std::size_t files = folder.files();
  for (const Case& c : cases) {
    const Finished r = dardo_run(c.arguments);
    SCOPED_TRACE(c.message);
    EXPECT_EQ(r.code, 2);
    EXPECT_TRUE(has(r.err, c.message)) << r.err;
    EXPECT_EQ(r.out, "");
    EXPECT_LT(r.err.size(), 700u);
    EXPECT_EQ(folder.files(), files) << "no output is left behind";
  }
}

TEST(Output, IsNeverAnInputWhateverLinksLeadToIt) {
  Folder folder;
  const std::string scene = dardo::test::read_file(kHarbour);
  dardo::test::write_file(folder / "scene.svg", scene);
  ASSERT_EQ(::symlink((folder / "scene.svg").c_str(), (folder / "soft.svg").c_str()), 0);
  ASSERT_EQ(::link((folder / "scene.svg").c_str(), (folder / "hard.svg").c_str()), 0);
  for (const char* output : {"scene.svg", "soft.svg", "hard.svg"}) {
    const Finished r = dardo_run({"draw", folder / "scene.svg", "-o", folder / output});
    EXPECT_EQ(r.code, 2);
    EXPECT_TRUE(has(r.err, "is the file that is read")) << r.err;
    EXPECT_EQ(dardo::test::read_file(folder / "scene.svg"), scene);
  }
}

TEST(Output, ClosedStreamsEndWithACode) {
  for (const char* closed : {">&-", "2>&-", ">&- 2>&-", "<&-"}) {
    const std::string command =
        std::string("\"$0\" resolve \"$1\" ") + closed + "; code=$?; [ $code -eq 0 ] || [ $code -eq 2 ]";
    EXPECT_EQ(dardo::test::run({"/bin/sh", "-c", command, DARDO_PROGRAM, kHarbour}).code, 0) << closed;
  }
  // What is opened next does not take the place of standard output.
  Folder folder;
  (void)dardo::test::run(
      {"/bin/sh", "-c", "\"$0\" draw \"$1\" -o \"$2\" >&-", DARDO_PROGRAM, kHarbour, folder / "x.svg"});
  EXPECT_FALSE(has(dardo::test::read_file(folder / "x.svg"), "x.svg"));
}

TEST(BadInput, NoIdHoldsWhatATerminalObeys) {
  for (const char* unseen :
       {"\xe2\x80\xae", "\xe2\x80\xa8", "\xe2\x81\xa6", "\xe2\x80\x8f", "\xc2\x85", "\xd8\x9c"}) {
    const std::string scene =
        std::string(R"({"dardo": 1, "factions": {"f": {}}, "builds": {"b": {"hitboxes": [)") +
        R"({"zone": "all", "ball": {"radius": 1}}]}}, "bodies": [{"id": "a)" + unseen +
        R"(b", "build": "b", "faction": "f", "at": [0, 0]}]})";
    const Finished r = dardo_run({"resolve", "-"}, scene);
    EXPECT_EQ(r.code, 2);
    EXPECT_TRUE(has(r.err, "control character")) << r.err;
  }
}

TEST(Draw, WritesEachFormat) {
  Folder folder;
  for (const auto& [name, magic] : {std::pair{"a.png", "\x89PNG"}, {"a.svg", "<?xml"}, {"a.pdf", "%PDF"}}) {
    const Finished r =
        dardo_run({"draw", kHarbour, "--launch", "ilse-glare", "-o", folder / name, "--size", "900x600"});
    EXPECT_EQ(r.code, 0) << r.err;
    EXPECT_EQ(r.out, (folder / name) + "\n");
    EXPECT_EQ(dardo::test::read_file(folder / name).substr(0, 4), std::string(magic).substr(0, 4));
  }
}

TEST(Draw, MomentsViewsFociAndComparisons) {
  Folder folder;
  const std::vector<std::vector<std::string>> asked{
      {"--launch", "mara-rocket", "--at", "1.2"},
      {"--launch", "mara-rocket", "--frames", "6", "--dark"},
      {"--launch", "mara-rocket", "--launch", "tessa-horn", "--view", "plan", "--view", "side:30"},
      {"--launch", "tessa-flare", "--view", "oblique", "--focus", "raider-6", "--span", "8"},
      {"--launch", "tessa-flare", "--focus", "20,12", "--names", "concerned"},
      {"--launch", "tessa-horn", "--against", "tessa-bell"},
  };
  std::vector<std::string> pictures;
  for (const auto& options : asked) {
    std::vector<std::string> arguments{"draw", kHarbour, "-o", folder / "x.png", "--size", "640x480"};
    arguments.insert(arguments.end(), options.begin(), options.end());
    const Finished r = dardo_run(arguments);
    EXPECT_EQ(r.code, 0) << r.err;
    EXPECT_EQ(r.err, "");
    pictures.push_back(dardo::test::read_file(folder / "x.png"));
    EXPECT_GT(pictures.back().size(), 5000u);
    for (std::size_t k = 0; k + 1 < pictures.size(); ++k) EXPECT_TRUE(pictures[k] != pictures.back()) << k;
  }
  // The same file twice: no fate differs, and both are drawn.
  const Finished both = dardo_run({"draw", kHarbour, kHarbour, "-o", folder / "y.svg"});
  EXPECT_EQ(both.code, 0) << both.err;
}

TEST(Report, HoldsAllThatThereIsAsDataInThePage) {
  if (!kHasReport) GTEST_SKIP() << "built without node";
  Folder folder;
  const Finished r = dardo_run({"report", kHarbour, "-o", folder / "a.html", "--launch", "tessa-horn"});
  EXPECT_EQ(r.code, 0) << r.err;
  const std::string page = dardo::test::read_file(folder / "a.html");
  const std::string begin = "id=\"data\">";
  const std::size_t from = page.find(begin) + begin.size(), to = page.find("</script>", from);
  const Json data = Json::parse(page.substr(from, to - from));
  ASSERT_EQ(data["scenes"].size(), 1u);
  const Json& launch = data["scenes"][0]["launches"][0];
  const Json outcome = Json::parse(dardo_run({"resolve", kHarbour, "--launch", "tessa-horn", "--json"}).out);
  const Json& same = outcome["launches"][0];
  EXPECT_EQ(launch["strikes"].size(), same["strikes"].size());
  EXPECT_EQ(launch["verdicts"].size(), same["verdicts"].size());
  for (std::size_t i = 0; i < same["verdicts"].size(); ++i) {
    const std::size_t text = launch["verdicts"][i]["text"];
    EXPECT_EQ(launch["texts"][text], same["verdicts"][i]["text"]);
    EXPECT_GE(launch["verdicts"][i]["gates"].size(), 1u);
  }
  // Nothing in the data can end the script that holds it, and nothing is fetched.
  EXPECT_FALSE(has(page.substr(from, to - from), "<"));
  EXPECT_FALSE(has(page, "src=\"http"));
}

TEST(Resolve, TogetherIsOneCourseByTime) {
  const Finished r = dardo_run({"resolve", kSlipway, "--together"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(r.err, "");
  std::istringstream lines(r.out);
  double last = -1;
  std::size_t count = 0;
  for (std::string line; std::getline(lines, line) && !line.empty(); ++count) {
    const double time = std::stod(line);
    EXPECT_GE(time, last) << line;
    last = time;
  }
  EXPECT_GT(count, 40u);
  EXPECT_TRUE(has(r.out, "/launch is not ready: ready in 2.70 s: its uses are spent"));
  EXPECT_TRUE(has(r.out, "health 0: it falls"));
  // The same for machines; alone nothing of it is known.
  const Json together = Json::parse(dardo_run({"resolve", kSlipway, "--together", "--json"}).out);
  EXPECT_TRUE(dardo::test::validates(dardo::io::outcome_schema(), together));
  const auto late = [](const Json& out) { return out["launches"][5]["ended"].get<std::string>(); };
  EXPECT_EQ(late(together), "not_ready");
  EXPECT_NE(late(Json::parse(dardo_run({"resolve", kSlipway, "--json"}).out)), "not_ready");
}

TEST(Describe, SaysAttacksInWordsAndComparesLevels) {
  const Finished all = dardo_run({"describe", kSlipway});
  ASSERT_EQ(all.code, 0) << all.err;
  EXPECT_TRUE(has(all.out, "cutlass: a swing, 5 to 8 blade damage, a push of 1.5\n"));
  const Finished one = dardo_run({"describe", kSlipway, "pitch-pot", "--level", "3"});
  ASSERT_EQ(one.code, 0) << one.err;
  EXPECT_TRUE(has(one.out, "pitch-pot, level 3\n"));
  EXPECT_TRUE(has(one.out, "The shape is a ball with a radius of 4.84 m.\n"));
  EXPECT_TRUE(has(one.out, "- Beyond 4 bodies nobody is struck.\n"));
  const Finished both = dardo_run({"describe", kSlipway, "pitch-pot", "--compare", "-", "tarred"});
  ASSERT_EQ(both.code, 0) << both.err;
  EXPECT_TRUE(has(both.out, "itself and level tarred"));
  EXPECT_TRUE(has(both.out, "/windup/for"));
  const Json json = Json::parse(dardo_run({"describe", kSlipway, "grog", "--json"}).out);
  EXPECT_EQ(json["attacks"][0]["text"][0]["places"].contains("shape"), false);
  EXPECT_GT(json["attacks"][0]["numbers"].size(), 8u);
  // What is not there is said with what is.
  const std::pair<std::vector<std::string>, std::string> wrong[] = {
      {{"describe", kSlipway, "grogg"},
       "ATTACK: \"grogg\" is not an attack of this scene; one of water-pail"},
      {{"describe", kSlipway, "grog", "--level", "2"}, "--level: \"2\" is not a level of grog; it has none"},
      {{"describe", kSlipway, "pitch-pot", "--compare", "1", "9"}, "one of 1, 2, 3, tarred"},
      {{"describe", kSlipway, "--level", "2"}, "of which attack?"},
      {{"describe", kSlipway, "grog", "--messages", "/nowhere.json"}, "/nowhere.json"}};
  for (const auto& [arguments, message] : wrong) {
    const Finished r = dardo_run(arguments);
    EXPECT_EQ(r.code, 2);
    EXPECT_EQ(r.out, "");
    EXPECT_TRUE(has(r.err, message)) << r.err;
  }
}

TEST(Demo, PrintsOneScreenAndWritesThePictures) {
  Folder folder;
  const Finished r = dardo_run({"demo", "--out", folder / "raid"});
  EXPECT_EQ(r.code, 0) << r.err;
  for (const char* launch :
       {"mara-harpoon", "tessa-horn", "odo-fire-pot", "ilse-glare", "raider-4-bow", "odo-far-throw"}) {
    const std::string path = (folder / "raid/") + launch + ".png";
    EXPECT_GT(dardo::test::read_file(path).size(), 10000u);
  }
  EXPECT_EQ(dardo::test::read_file(folder / "raid/harbour.json"), dardo::test::read_file(kHarbour));
  EXPECT_EQ(has(r.out, "harbour.html"), kHasReport);
  EXPECT_LE(std::count(r.out.begin(), r.out.end(), '\n'), 30) << r.out;
  EXPECT_TRUE(has(r.out, "spares ")) << r.out;
}

TEST(Program, TeachesAndKnowsItsVersion) {
  EXPECT_EQ(dardo_run({"--version"}).out, "dardo 0.1.0\n");
  const Finished help = dardo_run({"--help"});
  EXPECT_EQ(help.code, 0);
  EXPECT_TRUE(has(help.out, "dardo resolve scenes/harbour.json"));
  EXPECT_EQ(Json::parse(dardo_run({"schema"}).out)["title"], "Dardo scene");
  EXPECT_EQ(Json::parse(dardo_run({"schema", "--outcome"}).out)["title"], "Dardo outcomes");
}

}  // namespace
