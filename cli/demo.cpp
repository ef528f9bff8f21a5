#include <fmt/format.h>

#include <filesystem>
#include <system_error>

#include "commands.hpp"
#include "dardo/io/outcome_json.hpp"
#include "terminal.hpp"

extern const std::string_view dardo_embedded_harbour;
extern const std::string_view dardo_embedded_slipway;

namespace dardo::cli {
namespace {

/// A fight, told as one course of events; false, with a message printed, when it cannot be written.
bool demo_fight(const std::string& folder) {
  const auto scene = io::parse_scene(dardo_embedded_slipway, "slipway.json");
  if (!scene) return print_problems(scene.error()), false;
  const Rules none;
  const auto launches = *pick_launches(*scene, {});
  fmt::print("\n{}\n\n", toned(scene->title, Tone::strong));
  print_course(outcomes_of(*scene, launches, {none, Detail::verdicts, true}), scene->arena);
  const std::string copy = folder + "/slipway.json", page = folder + "/slipway.html";
  if (const auto written = io::write_text(copy, dardo_embedded_slipway); !written)
    return print_problems(written.error()), false;
  fmt::print("written to {}:\n  {}\n", folder, copy);
  if (!has_report()) return true;
  if (!write_report(*scene, launches, {none, Detail::full, true}, "slipway.json", page)) return false;
  fmt::print("  {}\n", page);
  return true;
}

}  // namespace

int run_demo(const DemoOptions& options) {
  const auto scene = io::parse_scene(dardo_embedded_harbour, "harbour.json");
  if (!scene) {
    print_problems(scene.error());
    return kBadInput;
  }
  std::error_code failed;
  std::filesystem::create_directories(options.folder, failed);
  if (failed) {
    print_error(fmt::format("--out {}: cannot be made: {}; expected a folder that can be written",
                            options.folder, failed.message()));
    return kBadInput;
  }
  fmt::print("{}\n\n", toned(scene->title, Tone::strong));
  const auto launches = *pick_launches(*scene, {});
  const Rules none;
  print_outcomes(*scene, outcomes_of(*scene, launches, {none}), false);
  fmt::print("\nwritten to {}:\n", options.folder);
  const std::string copy = options.folder + "/harbour.json";
  if (const auto written = io::write_text(copy, dardo_embedded_harbour); !written) {
    print_problems(written.error());
    return kBadInput;
  }
  fmt::print("  {}\n", copy);
  for (const io::SceneLaunch* l : launches) {
    const std::string path = fmt::format("{}/{}.png", options.folder, l->launch.id);
    if (!write_picture(*scene, *l, path)) return kBadInput;
    fmt::print("  {}\n", path);
  }
  if (has_report()) {
    const std::string page = options.folder + "/harbour.html";
    if (!write_report(*scene, launches, {none, Detail::full}, "harbour.json", page)) return kBadInput;
    fmt::print("  {}, all of it to move through in a browser\n", page);
  }
  if (!demo_fight(options.folder)) return kBadInput;
  fmt::print("\nChange {} and look again:\n  dardo resolve {}\n  dardo draw {} --launch {} -o picture.png\n",
             copy, copy, copy, launches.front()->launch.id);
  return kDone;
}

int run_schema(const SchemaOptions& options) {
  fmt::print("{}", options.reference ? io::reference_page()
                   : options.outcome ? io::outcome_schema()
                                     : io::scene_schema());
  return kDone;
}

}  // namespace dardo::cli
