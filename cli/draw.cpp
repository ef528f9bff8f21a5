#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "commands.hpp"
#include "dardo/dardo.hpp"
#include "dardo/draw/picture.hpp"
#include "dardo/units.hpp"
#include "places.hpp"
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

/// "plan", "side", "oblique:30"
std::optional<draw::Eye> parse_eye(std::string_view text) {
  draw::Eye eye;
  const std::size_t colon = text.find(':');
  const std::string_view from = text.substr(0, colon);
  if (from == "side") {
    eye.from = draw::Eye::From::side;
  } else if (from == "oblique") {
    eye.from = draw::Eye::From::oblique;
  } else if (from != "plan" || colon != std::string_view::npos) {
    return std::nullopt;
  }
  if (colon == std::string_view::npos) return eye;
  const std::string_view degrees = text.substr(colon + 1);
  double value = 0;
  const auto read = std::from_chars(degrees.data(), degrees.data() + degrees.size(), value);
  if (read.ec != std::errc() || read.ptr != degrees.data() + degrees.size() || !(std::fabs(value) <= 3600))
    return std::nullopt;
  eye.right = value * units::kDegree;
  return eye;
}

bool fill_options(const DrawOptions& options, draw::PictureOptions& out) {
  if (!parse_size(options.size, out.width, out.height)) {
    print_error(fmt::format("--size {}: is not a size; expected width x height in pixels, such as 1280x800",
                            options.size));
    return false;
  }
  const auto format = draw::format_of(options.output);
  if (!format) {
    print_error(fmt::format("-o {}: has no ending that says the format; expected .png, .svg or .pdf",
                            options.output));
    return false;
  }
  out.format = *format, out.dark = options.dark;
  out.names = options.names == "none"        ? draw::Names::none
              : options.names == "concerned" ? draw::Names::concerned
                                             : draw::Names::all;
  if (options.at && !(*options.at >= 0 && *options.at <= 1e9)) {
    print_error(fmt::format("--at {}: is no time; expected 0 to 1e9, seconds", *options.at));
    return false;
  }
  for (const std::string& view : options.views) {
    const auto eye = parse_eye(view);
    if (!eye) {
      print_error(
          fmt::format("--view {}: is no view; expected plan, side, oblique, side:DEGREES or "
                      "oblique:DEGREES",
                      view));
      return false;
    }
    out.eyes.push_back(*eye);
  }
  return true;
}

/// A scene and what came of those of its launches that are drawn in one.
struct Drawn {
  const io::Scene* scene = nullptr;
  std::vector<Outcome> outcomes;

  Drawn(const Opened& opened, const std::vector<const io::SceneLaunch*>& launches) : scene(&opened.scene) {
    for (const io::SceneLaunch* l : launches)
      outcomes.push_back(io::resolve(*scene, *l, dardo::ResolveOptions{.rules = &opened.rules}));
  }

  TimeSpan span() const {
    TimeSpan all = span_of(outcomes.front());
    for (const Outcome& o : outcomes) {
      const TimeSpan one = span_of(o);
      all.from_s = std::min(all.from_s, one.from_s), all.to_s = std::max(all.to_s, one.to_s);
    }
    return all;
  }
  /// At one moment, or the whole course.
  Sketch at(std::optional<double> time_s) const {
    std::vector<Sketch> parts;
    for (const Outcome& o : outcomes)
      parts.push_back(time_s ? sketch_at(scene->arena, o, *time_s) : sketch(scene->arena, o));
    Sketch out = together(parts);
    if (!scene->unit.empty()) out.unit = scene->unit;
    return out;
  }
};

/// The moments of a strip.
std::vector<Sketch> strip(const Drawn& drawn, std::size_t frames, std::vector<std::string>& captions,
                          draw::PictureOptions& page) {
  std::vector<Sketch> out;
  const TimeSpan span = drawn.span();
  const Sketch whole = drawn.at(std::nullopt);
  page.title = whole.title, page.summary = whole.summary;
  for (std::size_t i = 0; i < frames; ++i) {
    const double t =
        span.from_s + (span.to_s - span.from_s) * static_cast<double>(i) / static_cast<double>(frames - 1);
    out.push_back(drawn.at(t));
    captions.push_back(fmt::format("{:.2f} s: {}", t, out.back().summary));
  }
  return out;
}

/// Two fates of the same bodies side by side.
std::vector<Sketch> beside(const Drawn& one, const Drawn& other, std::optional<double> at_s,
                           std::vector<std::string>& captions, draw::PictureOptions& page) {
  std::vector<Sketch> out{one.at(at_s), other.at(at_s)};
  const std::size_t differ = mark_differences(out[0], out[1]);
  page.title = out[0].title + " | " + out[1].title;
  page.summary = differ == 0   ? "the same fate for each body"
                 : differ == 1 ? "1 body has another fate"
                               : fmt::format("{} bodies have another fate", differ);
  for (const Sketch& s : out) captions.push_back(s.title + ": " + s.summary.substr(0, s.summary.find(';')));
  return out;
}

bool write_page(const std::vector<Sketch>& sketches, const std::vector<std::string>& captions,
                const draw::PictureOptions& page, const std::string& path) {
  const auto bytes = draw::picture(sketches, captions, page);
  if (!bytes) {
    print_error("the picture: " + bytes.error());
    return false;
  }
  const auto written = io::write_text(path, *bytes);
  if (!written) print_problems(written.error());
  return written.has_value();
}

bool fill_focus(const DrawOptions& options, const Drawn& drawn, draw::PictureOptions& page) {
  if (options.focus.empty()) return true;
  BodyId body;
  std::optional<Vec3> place;
  if (!find_spot(*drawn.scene, "--focus", options.focus, body, place)) return false;
  if (!place) {
    // Where it is first struck, else where it stands at the start or the moment.
    const Sketch seen = drawn.at(options.at);
    for (const SketchBody& b : seen.bodies) {
      if (b.id != drawn.scene->arena.body(body).id) continue;
      Bounds box;
      for (const Shape& s : b.struck_at.empty() ? b.hitboxes : b.struck_at) box.add(bounds(s));
      place = box.empty() ? b.pose.at : box.center();
    }
  }
  page.focus = {place.value_or(Vec3{}), options.span / 2};
  return true;
}

}  // namespace

bool write_picture(const io::Scene& scene, const io::SceneLaunch& launch, const std::string& path) {
  Sketch drawn = sketch(scene.arena, io::resolve(scene, launch));
  if (!scene.unit.empty()) drawn.unit = scene.unit;
  return write_page({drawn}, {}, {.format = *draw::format_of(path)}, path);
}

int run_draw(const DrawOptions& options) {
  draw::PictureOptions page;
  if (!fill_options(options, page) || !spares_inputs("-o", options.output, options.scenes)) return kBadInput;
  std::vector<std::unique_ptr<const Opened>> opened;
  for (const std::string& scene : options.scenes) {
    opened.push_back(open_scene(scene, options.launches, options.assume));
    if (opened.back() == nullptr) return kBadInput;
    if (opened.back()->launches.empty()) {
      print_error(fmt::format("{}: has no launch to draw; expected at least one in \"launches\"", scene));
      return kBadInput;
    }
    for (const draw::Eye& eye : page.eyes) {
      if (!opened.back()->scene.flat || eye.from == draw::Eye::From::above) continue;
      print_error(fmt::format("--view: {} is flat; expected plan", scene));
      return kBadInput;
    }
  }
  const auto drawn_of = [&](const Opened& scene) {
    auto launches = scene.launches;
    if (options.launches.empty()) launches.resize(1);
    return Drawn(scene, launches);
  };
  const Drawn first = drawn_of(*opened.front());
  if (!fill_focus(options, first, page)) return kBadInput;
  std::vector<std::string> captions;
  std::vector<Sketch> sketches;
  if (opened.size() > 1) {
    if (options.frames > 0 || !options.against.empty()) {
      print_error("two scenes stand side by side as they are; expected neither --frames nor --against");
      return kBadInput;
    }
    sketches = beside(first, drawn_of(*opened.back()), options.at, captions, page);
  } else if (!options.against.empty()) {
    const auto other = pick_launches(opened.front()->scene, {options.against});
    if (!other) return kBadInput;
    sketches = beside(first, Drawn(*opened.front(), *other), options.at, captions, page);
  } else if (options.frames > 0) {
    const TimeSpan span = first.span();
    if (!(span.to_s > span.from_s)) {
      print_error(
          fmt::format("--frames: all of it happens in one instant, at {:g} s; expected a launch that "
                      "takes time",
                      span.from_s));
      return kBadInput;
    }
    sketches = strip(first, options.frames, captions, page);
  } else {
    sketches.push_back(first.at(options.at));
    if (options.at) page.title = fmt::format("{}, at {:g} s", sketches.front().title, *options.at);
  }
  if (!write_page(sketches, captions, page, options.output)) return kBadInput;
  fmt::print("{}\n", options.output);
  if (options.launches.empty() && opened.front()->launches.size() > 1) {
    print_note(fmt::format("drew {}, the first of {} launches; --launch picks others",
                           opened.front()->launches.front()->launch.id, opened.front()->launches.size()));
  }
  return kDone;
}

}  // namespace dardo::cli
