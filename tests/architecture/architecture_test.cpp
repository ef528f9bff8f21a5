// The documents must be true: the paths they name exist, the tests they name exist, and no include points
// upward.
#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <regex>
#include <set>
#include <sstream>

#include "support/files.hpp"

namespace {

namespace fs = std::filesystem;
using dardo::test::source_file;
using dardo::test::source_path;

TEST(Architecture, EveryPathThatTheDocumentsNameExists) {
  const std::regex quoted("`([A-Za-z0-9_.\\-]+/[A-Za-z0-9_./\\-]*|[A-Z]+\\.md|CMakeLists\\.txt)`");
  int paths = 0;
  for (const char* document :
       {"ARCHITECTURE.md", "README.md", "CONTRIBUTING.md", "docs/semantics.md", "docs/geometry.md"}) {
    const std::string text = source_file(document);
    ASSERT_FALSE(text.empty()) << document;
    for (std::sregex_iterator i(text.begin(), text.end(), quoted), end; i != end; ++i) {
      const std::string path = (*i)[1];
      if (path.starts_with("build/") || path.starts_with("out/")) continue;  // made, not kept
      ++paths;
      EXPECT_TRUE(fs::exists(source_path(path))) << document << " names " << path;
    }
    const std::regex link("\\]\\(([^)#:]+)\\)");
    for (std::sregex_iterator i(text.begin(), text.end(), link), end; i != end; ++i) {
      const fs::path path = fs::path(source_path(document)).parent_path() / (*i)[1].str();
      EXPECT_TRUE(fs::exists(path)) << document << " links to " << path;
    }
  }
  EXPECT_GT(paths, 25);
}

TEST(Architecture, EveryTestThatTheSemanticsNameExists) {
  std::set<std::string> tests;
  const std::regex declared("TEST\\((\\w+), (\\w+)\\)");
  for (const auto& entry : fs::recursive_directory_iterator(source_path("tests"))) {
    if (entry.path().extension() != ".cpp") continue;
    const std::string text = dardo::test::read_file(entry.path());
    for (std::sregex_iterator i(text.begin(), text.end(), declared), end; i != end; ++i) {
      tests.insert((*i)[1].str() + "." + (*i)[2].str());
    }
  }
  const std::string text = source_file("docs/semantics.md");
  const std::regex named("`([A-Z]\\w+\\.[A-Z]\\w+)`");
  int count = 0;
  for (std::sregex_iterator i(text.begin(), text.end(), named), end; i != end; ++i, ++count) {
    EXPECT_TRUE(tests.contains((*i)[1])) << (*i)[1];
  }
  EXPECT_GT(count, 20);
}

TEST(Architecture, NoIncludePointsUpward) {
  // What each layer may see besides itself.
  const std::map<std::string, std::set<std::string>> allowed{
      {"geometry", {}},
      {"index", {"geometry"}},
      {"arena", {"geometry", "index"}},
      {"aim", {"geometry"}},
      {"attack", {"geometry", "arena"}},
      {"record", {"geometry", "arena", "attack"}},
      {"resolve", {"geometry", "index", "aim", "arena", "attack", "record"}},
      {"batch", {"arena", "attack", "record", "resolve"}},
      {"io", {"geometry", "arena", "attack", "record", "resolve"}},
      {"draw", {"geometry", "arena", "record"}},
  };
  // What lies right under include/dardo belongs to no layer.
  const std::regex include("#include \"(?:dardo/(?=\\w+/))?(\\w+)/[^\"]+\"");
  int files = 0;
  for (const auto& [layer, below] : allowed) {
    for (const char* root : {"include/dardo/", "src/"}) {
      const std::string folder = source_path(root + layer);
      if (!fs::exists(folder)) continue;
      for (const auto& entry : fs::recursive_directory_iterator(folder)) {
        if (!entry.is_regular_file()) continue;
        ++files;
        const std::string text = dardo::test::read_file(entry.path());
        for (std::sregex_iterator i(text.begin(), text.end(), include), end; i != end; ++i) {
          const std::string other = (*i)[1];
          EXPECT_TRUE(other == "dardo" || other == layer || below.contains(other))
              << entry.path() << " includes " << (*i)[0];
        }
        // Internals stay inside: no public header may include one.
        if (std::string(root).starts_with("include"))
          EXPECT_EQ(text.find("/detail/"), std::string::npos) << entry.path();
      }
    }
  }
  EXPECT_GT(files, 40);
}

/// The sources that say a word, but for those under `tests/`.
std::set<std::string> files_with(const std::regex& word) {
  std::set<std::string> out;
  for (const char* root : {"include", "src", "cli"}) {
    for (const auto& entry : fs::recursive_directory_iterator(source_path(root))) {
      if (!entry.is_regular_file()) continue;
      if (std::regex_search(dardo::test::read_file(entry.path()), word))
        out.insert(fs::relative(entry.path(), source_path("")).string());
    }
  }
  return out;
}

TEST(Architecture, AKindOfDeliveryIsNamedWhereItsOwnThingsAre) {
  const std::set<std::string> data{"include/dardo/attack/attack.hpp", "include/dardo/attack/rows.hpp",
                                   "src/resolve/carriers/kinds.hpp"};
  auto with = [&](std::initializer_list<const char*> more) {
    std::set<std::string> out = data;
    out.insert(more.begin(), more.end());
    return out;
  };
  EXPECT_EQ(files_with(std::regex("RayDelivery")),
            with({"src/resolve/carriers/ray.cpp", "src/resolve/carriers/ray.hpp", "src/attack/check.cpp"}));
  // Its run's declaration, and what its keys mean together.
  EXPECT_EQ(files_with(std::regex("AreaDelivery")),
            with({"src/resolve/carriers/area.cpp", "src/resolve/carriers/area.hpp", "src/attack/check.cpp",
                  "include/dardo/attack/area.hpp", "src/io/schema.cpp",
                  // What lasts is one that stays.
                  "src/resolve/carriers/lasting/plan.hpp", "src/resolve/carriers/lasting/plan.cpp",
                  "src/resolve/carriers/lasting/extent.cpp", "src/resolve/carriers/lasting/hung.cpp"}));
}

TEST(Architecture, AKindOfPathIsNamedWhereItFliesAndIsAimed) {
  const std::set<std::string> allowed{
      "include/dardo/attack/shot.hpp",       // its data
      "include/dardo/attack/rows.hpp",       // its rows,
      "src/attack/check.cpp",                // what they mean together,
      "src/io/schema.cpp",                   // and the words of one of them
      "src/resolve/carriers/shot/path.cpp",  // how it flies, and what else is to be known of it
      "src/resolve/carriers/shot/path_curve.cpp",
      "src/resolve/carriers/shot/path_guided.cpp",
      "src/resolve/carriers/shot/path_steps.hpp",
      "src/resolve/carriers/shot/path.hpp",
      "src/resolve/aimed.cpp",
      "src/resolve/aimed.hpp",
      "src/resolve/pass.cpp",
      "src/resolve/aim_report.cpp",  // how it is aimed
  };
  for (const char* kind : {"StraightPath", "FallingPath", "CurvePath", "GuidedPath", "LobPath"}) {
    for (const std::string& file : files_with(std::regex(kind))) EXPECT_TRUE(allowed.contains(file)) << file;
  }
}

TEST(Architecture, TheEnginesFilesAreShort) {
  for (const auto& entry : fs::recursive_directory_iterator(source_path("src/resolve"))) {
    if (!entry.is_regular_file()) continue;
    const std::string text = dardo::test::read_file(entry.path());
    EXPECT_LE(std::count(text.begin(), text.end(), '\n'), 400) << entry.path();
  }
}

TEST(Architecture, TheEnginesFunctionsAreShort) {
  int functions = 0;
  for (const auto& entry : fs::recursive_directory_iterator(source_path("src/resolve"))) {
    if (entry.path().extension() != ".cpp") continue;
    std::istringstream text(dardo::test::read_file(entry.path()));
    // As they are formatted, a function of a namespace begins and ends at the margin.
    int begun = 0, number = 1;
    std::string signature;
    for (std::string line; std::getline(text, line); ++number) {
      if (!line.empty() && std::isalpha(static_cast<unsigned char>(line[0])) != 0)
        begun = number, signature = line;
      if (line != "}") continue;
      EXPECT_LE(number - begun + 1, 60) << entry.path() << ": " << signature;
      ++functions;
    }
  }
  EXPECT_GT(functions, 200);
}

TEST(Architecture, NoArenaIsCopied) {
  const std::regex copy("\\bArena \\w+\\s*(?:=|\\{|\\()\\s*(?:\\*|\\w*arena)");
  for (const auto& entry : fs::recursive_directory_iterator(source_path("src"))) {
    if (!entry.is_regular_file()) continue;
    const std::string text = dardo::test::read_file(entry.path());
    std::smatch found;
    EXPECT_FALSE(std::regex_search(text, found, copy)) << entry.path() << ": " << found.str();
  }
}

TEST(Architecture, TheCoreCallsNoElementaryFunctionOfTheLibrary) {
  // Those differ from one C library to the next; what is exact by IEEE 754 (sqrt, fmod, round) does not.
  const std::regex call(
      "\\b(?:std::)?(a?(?:sin|cos|tan)h?|atan2|log(?:2|10|1p|b)?|exp2?|expm1|pow|hypot|cbrt|[lt]gamma|erfc?)["
      "fl]?\\(");
  int files = 0;
  for (const char* layer :
       {"geometry", "index", "arena", "aim", "attack", "record", "resolve", "batch", "io"}) {
    for (const char* root : {"include/dardo/", "src/"}) {
      const std::string folder = source_path(root + std::string(layer));
      if (!fs::exists(folder)) continue;
      for (const auto& entry : fs::recursive_directory_iterator(folder)) {
        if (!entry.is_regular_file()) continue;
        ++files;
        const std::string text = dardo::test::read_file(entry.path());
        for (std::sregex_iterator i(text.begin(), text.end(), call), end; i != end; ++i)
          ADD_FAILURE() << entry.path() << " calls " << (*i)[0];
      }
    }
  }
  EXPECT_GT(files, 80);
}

}  // namespace
