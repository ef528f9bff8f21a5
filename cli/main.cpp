#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <cstdio>

#include <fcntl.h>

#include "commands.hpp"
#include "dardo/draw/picture.hpp"
#include "terminal.hpp"

namespace {

/// A stream that whoever called has closed stays closed: else the next file that is opened would take its
/// place, and what is printed would go into that.
void hold_closed_streams() {
  for (const int stream : {0, 1, 2}) {
    if (::fcntl(stream, F_GETFD) == -1) (void)::open("/dev/null", stream == 0 ? O_WRONLY : O_RDONLY);
  }
}

/// All of the output must have arrived: a full disk is no success.
int finish(int code) {
  if (std::fflush(stdout) == 0 && std::ferror(stdout) == 0) return code;
  dardo::cli::print_error("the output cannot be written");
  return dardo::cli::kBadInput;
}

using namespace dardo::cli;
namespace draw = dardo::draw;

const char* const kAssumes = "A rule of the game's own that attacks list: NAME=pass or NAME=stop";

const char* const kTogether = "All launches as one course of events: bodies fall, shots meet, statuses last";

CLI::App* add_resolve(CLI::App& app, ResolveOptions& options) {
  auto* command = app.add_subcommand("resolve", "Who is struck by each launch, and why the others are not");
  command->add_option("SCENE", options.scene, "Scene file, or - for standard input")->required();
  command->add_option("--launch", options.launches, "Only the launch with this id; may be said several times")
      ->allow_extra_args(false);
  command->add_option("--assume", options.assume, kAssumes)->allow_extra_args(false);
  auto* why = command->add_option("--why", options.why, "Every gate for this body, with what was measured");
  auto* only = command
                   ->add_option("--only", options.only,
                                "Who was struck, or spared, or spared by little: a metre, half a second, a "
                                "tenth of a share, a cap")
                   ->check(CLI::IsMember({"struck", "spared", "near"}));
  auto* sort = command->add_option("--sort", options.sort, "The rows of each launch; else as they came")
                   ->check(CLI::IsMember({"name", "distance", "power", "margin"}));
  auto* json = command->add_flag("--json", options.json, "For machines: one JSON object, nothing else");
  auto* csv = command->add_flag("--csv", options.csv,
                                "For spreadsheets: a line for each strike, and each body spared");
  auto* lines = command->add_flag("--json-lines", options.lines, "The same lines, each a JSON object");
  command->add_flag("--together", options.together, kTogether);
  json->excludes(csv)->excludes(lines)->excludes(only)->excludes(sort);
  csv->excludes(lines);
  why->excludes(only)->excludes(sort)->excludes(csv)->excludes(lines);
  return command;
}

CLI::App* add_draw(CLI::App& app, DrawOptions& options) {
  auto* command = app.add_subcommand("draw", "A picture of launches, from the geometry that decided");
  command
      ->add_option("SCENE", options.scenes,
                   "Scene file, or - for standard input; a second one is drawn beside the first")
      ->required()
      ->expected(1, 2);
  command
      ->add_option("--launch", options.launches,
                   "The launch with this id, or several in one picture; the scene's first unless given")
      ->allow_extra_args(false);
  command->add_option("-o,--output", options.output, "File to write: .png, .svg or .pdf")->required();
  auto* against =
      command->add_option("--against", options.against, "Another launch beside it, and whose fates differ");
  auto* at = command->add_option("--at", options.at, "One moment, seconds on the clock of the scene");
  auto* frames = command->add_option("--frames", options.frames, "So many moments, evenly from start to end")
                     ->check(CLI::Range(std::size_t{2}, draw::kMostSketches));
  command
      ->add_option("--view", options.views,
                   "plan, side or oblique; may be said several times; side:30 has what lies 30 degrees "
                   "from +x to the right")
      ->allow_extra_args(false);
  auto* focus = command->add_option("--focus", options.focus,
                                    "Around a body or a place x,y,z; an inset shows the whole");
  command->add_option("--span", options.span, "How much of it --focus shows, metres across")
      ->check(CLI::Range(0.02, 1e7))
      ->needs(focus)
      ->capture_default_str();
  command->add_option("--names", options.names, "Whose names stand in it, while there is room for them")
      ->check(CLI::IsMember({"all", "concerned", "none"}))
      ->capture_default_str();
  command->add_flag("--dark", options.dark, "Light on dark");
  command->add_option("--size", options.size, "Width x height in pixels")->capture_default_str();
  command->add_option("--assume", options.assume, kAssumes)->allow_extra_args(false);
  at->excludes(frames);
  frames->excludes(against);
  return command;
}

CLI::App* add_report(CLI::App& app, ReportOptions& options) {
  auto* command = app.add_subcommand(
      "report", "A page to move through launches in time, for any browser, with all gates and numbers");
  command
      ->add_option("SCENE", options.scenes,
                   "Scene file, or - for standard input; a second one stands beside the first, in step")
      ->required()
      ->expected(1, 2);
  command->add_option("-o,--output", options.output, "File to write: .html")->required();
  command->add_option("--launch", options.launches, "Only the launch with this id; may be said several times")
      ->allow_extra_args(false);
  command->add_flag("--together", options.together, kTogether);
  command->add_option("--seed", options.seed, "Beside the scene the same with this seed in all its launches")
      ->check(CLI::NonNegativeNumber);
  command->add_option("--assume", options.assume, kAssumes)->allow_extra_args(false);
  return command;
}

CLI::App* add_describe(CLI::App& app, DescribeOptions& options) {
  auto* command = app.add_subcommand("describe", "An attack in words, all made from its numbers");
  command->add_option("SCENE", options.scene, "Scene file, or - for standard input")->required();
  command->add_option("ATTACK", options.attack, "In full; all attacks with a line each unless given");
  auto* level = command->add_option("--level", options.level, "This level of it, by its number or name");
  auto* compare = command->add_option("--compare", options.compare,
                                      "What differs between two levels; - is the attack itself");
  compare->expected(2)->excludes(level);
  command->add_option("--messages", options.messages,
                      "Other sentences: a file like share/dardo/messages.json");
  command->add_flag("--json", options.json, "For machines: sentences with their keys and places");
  return command;
}

CLI::App* add_aim(CLI::App& app, AimOptions& options) {
  auto* command =
      app.add_subcommand("aim", "How a shot must leave so as to meet its target, and what is in the way");
  command->add_option("SCENE", options.scene, "Scene file, or - for standard input")->required();
  command
      ->add_option("--launch", options.launches,
                   "Only the launch with this id; all shots at a body or a place unless given")
      ->allow_extra_args(false);
  command->add_flag("--json", options.json, "For machines: one JSON object, nothing else");
  return command;
}

CLI::App* add_look(CLI::App& app, LookOptions& options) {
  auto* command =
      app.add_subcommand("look", "Whether a body or a place is seen from another, and what cuts the line");
  command->add_option("SCENE", options.scene, "Scene file, or - for standard input")->required();
  command->add_option("--from", options.from, "A body, from its eyes; or a place: x,y,z")->required();
  command->add_option("--to", options.to, "A body, or a place")->required();
  command->add_option("--through", options.through, "What it takes that walls let through")
      ->check(CLI::IsMember({"sight", "shots", "blasts"}))
      ->capture_default_str();
  command->add_option("--thickness", options.thickness, "Radius of a ball that must pass, metres")
      ->capture_default_str();
  command->add_option("--at", options.at, "When, seconds")->capture_default_str();
  command->add_flag("--share", options.share, "How much of the body is seen");
  command->add_flag("--json", options.json, "For machines: one JSON object, nothing else");
  return command;
}

const char* const kFirstSteps =
    "First steps:\n"
    "  dardo demo                                        a harbour at night: tables and pictures\n"
    "  dardo resolve scenes/harbour.json                 who is struck, and why the others are not\n"
    "  dardo resolve scenes/harbour.json --only near     who was spared by little\n"
    "  dardo resolve scenes/harbour.json --why raider-3  every gate for one body, with its numbers\n"
    "  dardo draw scenes/harbour.json --launch tessa-horn -o horn.png\n"
    "  dardo draw scenes/harbour.json --launch odo-fire-pot --frames 6 -o pot.png   moment by moment\n"
    "  dardo report scenes/harbour.json -o harbour.html   all of it as a page, with a time slider\n"
    "  dardo resolve scenes/harbour.json --together      all of it as one fight\n"
    "  dardo describe scenes/harbour.json fire-pot       an attack in words, made from its numbers\n"
    "  dardo aim scenes/harbour.json --launch tessa-flare   how to meet a moving target\n"
    "  dardo look scenes/harbour.json --from mara --to raider-3   who sees whom\n"
    "  dardo schema > scene.schema.json                  so that your editor completes and checks "
    "scenes\n\n"
    "SCENE is a file, or - for standard input.\n"
    "Exit codes: 0 done, 1 an expectation failed, 2 bad input or usage.";

int run(int argc, char** argv) {
  CLI::App app{"Which targets an attack reaches, and why the others are not."};
  app.name("dardo");
  app.set_version_flag("--version", "dardo " DARDO_VERSION);
  app.require_subcommand(1);
  app.footer(kFirstSteps);

  ResolveOptions resolve;
  auto* resolve_command = add_resolve(app, resolve);

  DrawOptions draw;
  auto* draw_command = add_draw(app, draw);

  ReportOptions report;
  auto* report_command = add_report(app, report);

  DescribeOptions describe;
  auto* describe_command = add_describe(app, describe);

  AimOptions aim;
  auto* aim_command = add_aim(app, aim);

  LookOptions look;
  auto* look_command = add_look(app, look);

  DemoOptions demo;
  auto* demo_command =
      app.add_subcommand("demo", "A raid on Saltmarsh harbour: prints the tables, writes the pictures");
  demo_command->add_option("--out", demo.folder, "Folder for the pictures and the scene")
      ->capture_default_str();

  SchemaOptions schema;
  auto* schema_command = app.add_subcommand("schema", "Prints the JSON Schema of scene files");
  auto* outcome_flag =
      schema_command->add_flag("--outcome", schema.outcome, "That of `resolve --json` instead");
  schema_command
      ->add_flag("--reference", schema.reference, "Every key with its unit, range and default, as Markdown")
      ->excludes(outcome_flag);

  try {
    app.parse(argc, argv);
    if (*resolve_command) return run_resolve(resolve);
    if (*draw_command) return run_draw(draw);
    if (*report_command) return run_report(report);
    if (*describe_command) return run_describe(describe);
    if (*aim_command) return run_aim(aim);
    if (*look_command) return run_look(look);
    if (*demo_command) return run_demo(demo);
    return run_schema(schema);
  } catch (const CLI::ParseError& e) {
    return app.exit(e) == 0 ? kDone : kBadInput;
  } catch (const std::exception& e) {
    print_error(e.what());
    return kBadInput;
  }
}

}  // namespace

int main(int argc, char** argv) {
  hold_closed_streams();
  try {
    return finish(run(argc, argv));
  } catch (const std::exception&) {
    return kBadInput;
  }
}
