#include "dardo/draw/picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

#include "dardo/units.hpp"
#include "draw/detail/legend.hpp"
#include "draw/detail/page.hpp"
#include "draw/detail/palette.hpp"

namespace dardo::draw {
namespace detail {
namespace {

constexpr double kHead = 56, kLegendWidth = 216, kCaptionHeight = 24;
/// On a narrower page the legend would leave no room for the scene.
constexpr double kNarrow = 700;

/// As much of a text as fits.
std::string fitted(const Canvas& canvas, const std::string& text, double size, Weight weight, double width) {
  if (text.size() <= 1000 && canvas.text_width(text, size, weight) <= width) return text;
  // No letter is so narrow that more of them fit.
  std::size_t fits = 0, too_long = std::min(text.size(), static_cast<std::size_t>(std::max(width, 0.0)));
  while (fits < too_long) {
    const std::size_t middle = (fits + too_long + 1) / 2;
    const bool fit = canvas.text_width(text.substr(0, middle) + "…", size, weight) <= width;
    fit ? fits = middle : too_long = middle - 1;
  }
  // Whole letters.
  while (fits > 0 && fits < text.size() && (static_cast<unsigned char>(text[fits]) & 0xc0) == 0x80) --fits;
  return text.substr(0, fits) + "…";
}

/// "from the side, 30° to the right"
std::string caption_of(const Plan& plan) {
  const long degrees = std::lround(std::atan2(plan.right.y, plan.right.x) / units::kDegree);
  return fmt::format("{}, {} to the right", plan.oblique() ? "oblique" : "from the side",
                     degrees == 0 ? "+x" : fmt::format("{}°", degrees));
}

/// The whole scene, small, with the part that is shown.
void draw_inset(const Sketch& sketch, Canvas& canvas, const View& view, const Framed& framed) {
  const Rect& f = framed.frame;
  const double width = std::min(200.0, 0.3 * f.width), height = 0.66 * width;
  if (width < 70) return;
  const Rect frame{f.x + f.width - width - 10, f.y + 10, width, height};
  const Extent whole = extent_of(sketch, framed.plan);
  const Rect room = frame.grown(-8);
  View(sketch, canvas, placed_on(framed.plan, whole, room, scale_to_fit(whole, room)), frame, Names::none)
      .draw_inset(view);
}

void draw_head(const std::vector<Sketch>& sketches, const PictureOptions& options, Canvas& canvas,
               double room) {
  const Palette& colors = canvas.colors();
  const std::string title = options.title.empty() ? sketches.front().title : options.title;
  const std::string summary = options.summary.empty() ? sketches.front().summary : options.summary;
  canvas.text({16, 25}, fitted(canvas, title, 18, Weight::bold, canvas.width() - 32), 18, colors.ink,
              Weight::bold);
  canvas.text({16, 45}, fitted(canvas, summary, 13, Weight::plain, room), 13, colors.faint);
  canvas.line({0, kHead}, {canvas.width(), kHead}, colors.grid, 1);
}

}  // namespace

LeftOut draw_page(const std::vector<Sketch>& sketches, const std::vector<std::string>& captions,
                  const PictureOptions& options, Canvas& canvas) {
  const Palette& colors = canvas.colors();
  const bool narrow = canvas.width() < kNarrow;
  const double legend = narrow ? 0 : kLegendWidth;
  const Rect room{0, kHead, canvas.width() - legend, canvas.height() - kHead};
  canvas.fill_page(colors.paper);
  LeftOut left_out;
  const std::vector<Framed> all = arrange(sketches, options, room, kCaptionHeight);
  for (std::size_t i = 0; i < all.size(); ++i) {
    const Framed& framed = all[i];
    const bool first = i == 0 || all[i - 1].sketch != framed.sketch;
    // Names stand once, and in small views only where they matter.
    const bool few = !first || framed.frame.width < 0.6 * room.width || framed.plan.from_the_side();
    const Names names = few && options.names == Names::all ? Names::concerned : options.names;
    View view(sketches[framed.sketch], canvas, framed.plan, framed.frame, names);
    view.draw(framed.plan.from_above() ? std::string() : caption_of(framed.plan));
    if (options.focus && first) draw_inset(sketches[framed.sketch], canvas, view, framed);
    canvas.rect(framed.frame, colors.grid.faded(0), colors.grid, 1);
    if (first) left_out.names += view.left_out();
    left_out.crowded += view.crowded();
    if (first && sketches.size() > 1 && framed.sketch < captions.size())
      canvas.text({framed.frame.x + 12, framed.frame.y - 7},
                  fitted(canvas, captions[framed.sketch], 13, Weight::bold, framed.frame.width - 24), 13,
                  colors.ink, Weight::bold);
  }
  std::string says;
  if (left_out.names > 0 && sketches.size() == 1)
    says = fmt::format("and {} more without a name", left_out.names);
  if (narrow) says += std::string(says.empty() ? "" : "; ") + "the legend needs 700 pixels";
  const double width = canvas.text_width(says, kTextSize);
  // Beside the summary, or where that needs the room, at the foot.
  const double y = narrow ? canvas.height() - 8 : 45;
  if (narrow)
    canvas.rect({canvas.width() - width - 12, y - 13, width + 8, 18}, colors.paper.faded(0.85),
                colors.paper.faded(0), 0.1);
  canvas.text({canvas.width() - width - (narrow ? 8 : 16), y}, says, kTextSize, colors.faint);
  draw_head(sketches, options, canvas, canvas.width() - 32 - (narrow ? 0 : width + 20));
  if (!narrow) draw_legend(together(sketches), canvas, {room.width, kHead, legend, room.height});
  return left_out;
}

}  // namespace detail

std::optional<Format> format_of(std::string_view path) {
  const auto dot = path.rfind('.');
  if (dot == std::string_view::npos) return std::nullopt;
  std::string ending(path.substr(dot + 1));
  for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  if (ending == "png") return Format::png;
  if (ending == "svg") return Format::svg;
  if (ending == "pdf") return Format::pdf;
  return std::nullopt;
}

tl::expected<std::string, std::string> picture(const std::vector<Sketch>& sketches,
                                               const std::vector<std::string>& captions,
                                               const PictureOptions& options) {
  for (const int side : {options.width, options.height}) {
    if (side < kSmallest || side > kLargest)
      return tl::unexpected(fmt::format("a side of {} pixels; expected {} to {}", side, kSmallest, kLargest));
  }
  if (sketches.empty() || sketches.size() > kMostSketches)
    return tl::unexpected(fmt::format("{} sketches; expected 1 to {}", sketches.size(), kMostSketches));
  if (options.eyes.size() > kMostEyes)
    return tl::unexpected(fmt::format("{} views; expected {} at most", options.eyes.size(), kMostEyes));
  const auto& focus = options.focus;
  if (focus && !(length(focus->center) <= 1e8 && focus->radius >= 0.01 && focus->radius <= 1e7))
    return tl::unexpected(fmt::format("a focus of {:g} m; expected 0.01 to 1e7", focus->radius));
  detail::Canvas canvas(options);
  if (canvas.good()) detail::draw_page(sketches, captions, options, canvas);
  if (!canvas.good()) return tl::unexpected(std::string("no memory for a picture of this size"));
  return canvas.finish();
}

tl::expected<std::string, std::string> picture(const Sketch& sketch, const PictureOptions& options) {
  return picture(std::vector<Sketch>{sketch}, {}, options);
}

}  // namespace dardo::draw
