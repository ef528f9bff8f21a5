#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <system_error>

#include "commands.hpp"
#include "dardo/io/outcome_json.hpp"
#include "dardo/record/explain.hpp"
#include "fates.hpp"
#include "terminal.hpp"

extern const std::string_view dardo_embedded_harbour;
extern const std::string_view dardo_embedded_slipway;

namespace dardo::cli {
namespace {

constexpr std::size_t kMostLines = 8, kMostNames = 4;

/// The names of whom it strikes, each once.
std::string struck_by(const Outcome& out, const Arena& arena) {
  std::vector<BodyId> bodies;
  for (const Strike& s : out.strikes) {
    if (std::find(bodies.begin(), bodies.end(), s.body) == bodies.end()) bodies.push_back(s.body);
  }
  if (bodies.empty()) return "strikes nobody";
  std::string names;
  for (std::size_t i = 0; i < std::min(bodies.size(), kMostNames); ++i)
    names += (i > 0 ? ", " : "") + arena.body(bodies[i]).id;
  if (bodies.size() > kMostNames) names += fmt::format(" and {} more", bodies.size() - kMostNames);
  return "strikes " + names;
}

/// The launches that spared somebody by the least, each with whom it strikes and why that one was spared.
void print_close_calls(const std::vector<Outcome>& outcomes, const Arena& arena) {
  struct Close {
    const Outcome* outcome;
    Fate fate;
  };
  std::vector<Close> close;
  for (const Outcome& out : outcomes) {
    const auto near = fates_of(out, arena, Only::near, SortBy::margin);
    const auto spared =
        std::find_if(near.begin(), near.end(), [](const Fate& f) { return f.verdict != nullptr; });
    if (spared != near.end()) close.push_back({&out, *spared});
  }
  const auto margin = [](const Close& c) { return c.fate.verdict->deciding.margin.value_or(1e9); };
  std::stable_sort(close.begin(), close.end(),
                   [&](const Close& a, const Close& b) { return margin(a) < margin(b); });
  close.resize(std::min(close.size(), kMostLines));
  Table lines({Tone::strong});
  for (const Close& c : close)
    lines.add({c.outcome->launch, struck_by(*c.outcome, arena),
               fmt::format("spares {}: {}", arena.body(c.fate.body()).id, explain(*c.fate.verdict, arena))});
  lines.print("  ");
}

std::size_t strikes_in(const std::vector<Outcome>& outcomes) {
  std::size_t all = 0;
  for (const Outcome& o : outcomes) all += o.strikes.size();
  return all;
}

bool write_copy(const std::string& path, std::string_view text) {
  const auto written = io::write_text(path, text);
  if (!written) print_problems(written.error());
  return written.has_value();
}

}  // namespace

int run_demo(const DemoOptions& options) {
  const auto harbour = io::parse_scene(dardo_embedded_harbour, "harbour.json"),
             slipway = io::parse_scene(dardo_embedded_slipway, "slipway.json");
  for (const auto* scene : {&harbour, &slipway}) {
    if (*scene) continue;
    print_problems(scene->error());
    return kBadInput;
  }
  const std::string& folder = options.folder;
  std::error_code failed;
  std::filesystem::create_directories(folder, failed);
  if (failed) {
    print_error(fmt::format("--out {}: cannot be made: {}; expected a folder that can be written", folder,
                            failed.message()));
    return kBadInput;
  }
  const Rules none;
  const auto raid = *pick_launches(*harbour, {}), fight = *pick_launches(*slipway, {});
  const std::vector<Outcome> raided = outcomes_of(*harbour, raid, {none}),
                             fought = outcomes_of(*slipway, fight, {none, Detail::verdicts, true});
  const std::string copy = folder + "/harbour.json";
  if (!write_copy(copy, dardo_embedded_harbour) ||
      !write_copy(folder + "/slipway.json", dardo_embedded_slipway))
    return kBadInput;
  for (const io::SceneLaunch* l : raid) {
    if (!write_picture(*harbour, *l, fmt::format("{}/{}.png", folder, l->launch.id))) return kBadInput;
  }
  if (has_report() &&
      (!write_report(*harbour, raid, {none, Detail::full}, "harbour.json", folder + "/harbour.html") ||
       !write_report(*slipway, fight, {none, Detail::full, true}, "slipway.json", folder + "/slipway.html")))
    return kBadInput;

  fmt::print("{}\n{} launches among {} bodies: {} strikes. Decided by little:\n\n",
             toned(harbour->title, Tone::strong), raided.size(), harbour->arena.body_count(),
             strikes_in(raided));
  print_close_calls(raided, harbour->arena);
  fmt::print("\n{}\n{} launches as one fight: {} strikes\n", toned(slipway->title, Tone::strong),
             fought.size(), strikes_in(fought));
  fmt::print("\nWritten to {}:\n  harbour.json, slipway.json   the two scenes\n", folder);
  fmt::print("  {:<26}   a picture of each launch\n",
             fmt::format("{}.png and {} more", raid.front()->launch.id, raid.size() - 1));
  if (has_report()) fmt::print("  harbour.html, slipway.html   pages to move through in a browser\n");
  fmt::print("\nTry:\n");
  const auto suggest = [](const std::string& command, const char* what) {
    fmt::print("  {}\n      {}\n", command, what);
  };
  suggest("dardo resolve " + copy, "who is struck, and why the others are not");
  suggest("dardo resolve " + copy + " --why raider-3", "every gate for one body, with its numbers");
  suggest("dardo draw " + copy + " --launch " + raid.front()->launch.id + " -o picture.png",
          "the picture again, after you changed a number in the scene");
  return kDone;
}

int run_schema(const SchemaOptions& options) {
  fmt::print("{}", options.reference ? io::reference_page()
                   : options.outcome ? io::outcome_schema()
                                     : io::scene_schema());
  return kDone;
}

}  // namespace dardo::cli
