#include <fmt/format.h>

#include <charconv>

#include "commands.hpp"
#include "dardo/dardo.hpp"
#include "dardo/draw/picture.hpp"
#include "terminal.hpp"

namespace dardo::cli {
namespace {

/// "1280x800"
bool parse_size(const std::string& text, int& width, int& height) {
  const char* const end = text.data() + text.size();
  const auto first = std::from_chars(text.data(), end, width);
  if (first.ec != std::errc() || first.ptr == end || *first.ptr != 'x') return false;
  const auto second = std::from_chars(first.ptr + 1, end, height);
  return second.ec == std::errc() && second.ptr == end;
}

}  // namespace

bool write_picture(const io::Scene& scene, const io::SceneLaunch& launch, const std::string& path, int width,
                   int height, const Rules& rules, const std::string& names) {
  const Outcome outcome = resolve(scene, launch, dardo::ResolveOptions{.rules = &rules});
  Sketch drawn = sketch(scene.arena, outcome);
  if (!scene.unit.empty()) drawn.unit = scene.unit;
  const auto bytes = draw::picture(drawn, {.format = *draw::format_of(path),
                                           .width = width,
                                           .height = height,
                                           .names = names == "none"        ? draw::Names::none
                                                    : names == "concerned" ? draw::Names::concerned
                                                                           : draw::Names::all});
  if (!bytes) {
    print_error("--size: " + bytes.error());
    return false;
  }
  const auto written = io::write_text(path, *bytes);
  if (!written) print_problems(written.error());
  return written.has_value();
}

int run_draw(const DrawOptions& options) {
  int width = 0, height = 0;
  if (!parse_size(options.size, width, height)) {
    print_error(fmt::format("--size {}: is not a size; expected width x height in pixels, such as 1280x800",
                            options.size));
    return kBadInput;
  }
  if (!draw::format_of(options.output)) {
    print_error(fmt::format("-o {}: has no ending that says the format; expected .png, .svg or .pdf",
                            options.output));
    return kBadInput;
  }
  const auto opened = open_scene(options.scene, options.launch, options.assume);
  if (!opened) return kBadInput;
  const io::Scene* scene = &opened->scene;
  const auto* launches = &opened->launches;
  if (launches->empty()) {
    print_error(
        fmt::format("{}: has no launch to draw; expected at least one in \"launches\"", options.scene));
    return kBadInput;
  }
  const io::SceneLaunch& launch = *launches->front();
  if (!write_picture(*scene, launch, options.output, width, height, opened->rules, options.names))
    return kBadInput;
  fmt::print("{}\n", options.output);
  if (launches->size() > 1) {
    fmt::print(stderr, "drew {}, the first of {} launches; --launch picks another\n", launch.launch.id,
               launches->size());
  }
  return kDone;
}

}  // namespace dardo::cli
