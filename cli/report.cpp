#include "dardo/io/report.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "commands.hpp"
#include "terminal.hpp"

extern const std::string_view dardo_embedded_viewer;

namespace dardo::cli {
namespace {

bool write(const std::vector<io::ReportScene>& scenes, const std::string& path) {
  const auto page = io::report_page(dardo_embedded_viewer, scenes);
  if (!page) {
    print_error("the page: " + page.error());
    return false;
  }
  const auto written = io::write_text(path, *page);
  if (!written) print_problems(written.error());
  return written.has_value();
}

std::string name_of(const std::string& path) {
  return path == "-" ? "standard input" : std::filesystem::path(path).filename().string();
}

}  // namespace

bool has_report() { return !dardo_embedded_viewer.empty(); }

bool write_report(const io::Scene& scene, const std::vector<const io::SceneLaunch*>& launches,
                  const Resolving& how, const std::string& name, const std::string& path) {
  return write({{name, scene, outcomes_of(scene, launches, how), how.together}}, path);
}

int run_report(const ReportOptions& options) {
  if (!has_report()) {
    print_error("this build has no page for reports; expected one that was built where node and npm are");
    return kBadInput;
  }
  const std::string ending = std::filesystem::path(options.output).extension().string();
  if (ending != ".html" && ending != ".htm") {
    print_error(fmt::format("-o {}: is no name of a page; expected one that ends in .html", options.output));
    return kBadInput;
  }
  if (!spares_inputs("-o", options.output, options.scenes)) return kBadInput;
  if (options.seed && options.scenes.size() > 1) {
    print_error("--seed: two scenes stand beside each other already; expected one scene");
    return kBadInput;
  }
  std::vector<std::unique_ptr<const Opened>> opened;
  std::vector<io::ReportScene> scenes;
  const auto add = [&](const Opened& of, const std::string& name, std::optional<std::uint64_t> seed) {
    scenes.push_back({name, of.scene,
                      outcomes_of(of.scene, of.launches, {of.rules, Detail::full, options.together, seed}),
                      options.together});
  };
  for (const std::string& scene : options.scenes) {
    opened.push_back(open_scene(scene, options.launches, options.assume));
    if (opened.back() == nullptr) return kBadInput;
    if (opened.back()->launches.empty()) {
      print_error(fmt::format("{}: has no launch to report; expected at least one in \"launches\"", scene));
      return kBadInput;
    }
    add(*opened.back(), name_of(scene), std::nullopt);
  }
  if (opened.size() > 1 && opened[0]->scene.flat != opened[1]->scene.flat) {
    print_error("the two scenes: one is flat otherwise than the other; expected two of one kind");
    return kBadInput;
  }
  // Of two files with one name the folders tell.
  if (scenes.size() > 1 && scenes[0].name == scenes[1].name)
    scenes[0].name = options.scenes[0], scenes[1].name = options.scenes[1];
  if (options.seed)
    add(*opened.front(), fmt::format("{}, seed {}", scenes.front().name, *options.seed), options.seed);
  if (!write(scenes, options.output)) return kBadInput;
  fmt::print("{}\n", options.output);
  return kDone;
}

}  // namespace dardo::cli
