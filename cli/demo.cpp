#include <fmt/format.h>

#include <filesystem>
#include <system_error>

#include "commands.hpp"
#include "dardo/io/outcome_json.hpp"
#include "terminal.hpp"

extern const std::string_view dardo_embedded_harbour;

namespace dardo::cli {

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
