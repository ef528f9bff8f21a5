#pragma once
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "dardo/io/scene.hpp"

namespace dardo::cli {

/// The program's exit codes.
enum Exit : int { kDone = 0, kExpectationFailed = 1, kBadInput = 2 };

struct ResolveOptions {
  std::string scene, why, only, sort;
  std::vector<std::string> launches, assume;
  bool json = false, csv = false, lines = false, together = false;
};
struct DescribeOptions {
  std::string scene, attack, level, messages;
  std::vector<std::string> compare;
  bool json = false;
};
struct DrawOptions {
  std::vector<std::string> scenes, launches, assume, views;
  std::string output, against, focus, size = "1280x800", names = "all";
  std::optional<double> at;
  double span = 12;
  std::size_t frames = 0;
  bool dark = false;
};
struct ReportOptions {
  std::vector<std::string> scenes, launches, assume;
  std::string output;
  std::optional<std::uint64_t> seed;
  bool together = false;
};
struct AimOptions {
  std::string scene;
  std::vector<std::string> launches;
  bool json = false;
};
struct LookOptions {
  std::string scene, from, to, through = "sight";
  double thickness = 0, at = 0;
  bool share = false, json = false;
};
struct DemoOptions {
  std::string folder = "dardo-demo";
};
struct SchemaOptions {
  bool outcome = false, reference = false;
};

int run_resolve(const ResolveOptions& options);
int run_draw(const DrawOptions& options);
int run_report(const ReportOptions& options);
int run_aim(const AimOptions& options);
int run_look(const LookOptions& options);
int run_describe(const DescribeOptions& options);
int run_demo(const DemoOptions& options);
int run_schema(const SchemaOptions& options);

/// The launches that were asked for by their ids, in that order, or all. Prints what is wrong and returns
/// nothing when there is no such launch.
std::optional<std::vector<const io::SceneLaunch*>> pick_launches(const io::Scene& scene,
                                                                 const std::vector<std::string>& ids);

/// A scene and the launches of it that were asked for.
struct Opened {
  io::Scene scene;
  std::vector<const io::SceneLaunch*> launches;
  Rules rules;  ///< as they were assumed
};
/// Reads a scene and picks its launches; prints what is wrong and returns nothing otherwise.
/// `assume`: of each rule of a game's own that the attacks list "NAME=pass" or "NAME=stop"; nothing where
/// rules do not matter.
std::unique_ptr<const Opened> open_scene(const std::string& path, const std::vector<std::string>& launches,
                                         const std::optional<std::vector<std::string>>& assume);

/// How launches are resolved.
struct Resolving {
  const Rules& rules;
  Detail detail = Detail::verdicts;
  bool together = false;
  std::optional<std::uint64_t> seed = {};  ///< instead of their own
};
/// What comes of each.
std::vector<Outcome> outcomes_of(const io::Scene& scene, const std::vector<const io::SceneLaunch*>& launches,
                                 const Resolving& how);
/// Prints all that happens in launches that are told together, by time; of what comes at once in their order.
void print_course(const std::vector<Outcome>& outcomes, const Arena& arena);
/// Prints them as tables, a line for each first when there are several, and together before that all that
/// happens by time; `only` and `sort` as on the command line.
void print_outcomes(const io::Scene& scene, const std::vector<Outcome>& outcomes, bool together,
                    const std::string& only = "", const std::string& sort = "");

/// Whether this build has the page of reports.
bool has_report();
/// Writes the report of launches of a scene; false, with a message printed, when that fails.
bool write_report(const io::Scene& scene, const std::vector<const io::SceneLaunch*>& launches,
                  const Resolving& how, const std::string& name, const std::string& path);

/// Writes a picture of a launch, 1280 x 800; false, with a message printed, when that fails.
bool write_picture(const io::Scene& scene, const io::SceneLaunch& launch, const std::string& path);

}  // namespace dardo::cli
