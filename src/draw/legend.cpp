#include "draw/detail/legend.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "dardo/record/explain.hpp"
#include "draw/detail/marks.hpp"
#include "draw/detail/palette.hpp"
#include "draw/detail/view.hpp"

namespace dardo::draw::detail {
namespace {

/// "stops sight, feet", or "passes sight" where that is shorter.
std::string what_it_blocks(const Passages& blocks) {
  std::string stopped, passed;
  for (const Passage p : {Passage::sight, Passage::shots, Passage::blasts, Passage::feet}) {
    std::string& list = blocks.has(p) ? stopped : passed;
    list += (list.empty() ? "" : ", ") + std::string(name(p));
  }
  if (passed.empty()) return "stops all";
  if (stopped.empty()) return "passes all";
  return stopped.size() < passed.size() ? "stops " + stopped : "passes " + passed;
}

class Legend {
 public:
  Legend(const Sketch& sketch, Canvas& canvas, const Rect& frame)
      : sketch_(sketch),
        canvas_(canvas),
        colors_(canvas.colors()),
        frame_(frame),
        y_(frame.y + 26),
        sign_(frame.x + 24),
        words_(frame.x + 46) {}

  void draw() {
    canvas_.rect(frame_, colors_.panel, colors_.grid, 1);
    factions();
    bodies();
    marks();
    walls();
  }

 private:
  /// It is drawn with the first entry: without any it says nothing.
  void heading(const char* text) { heading_ = text; }
  void entry(const std::string& text) {
    canvas_.text({words_, y_}, text.size() <= 80 ? text : text.substr(0, 80), kTextSize, colors_.ink);
    y_ += 21;
  }
  void open() {
    if (heading_ == nullptr) return;
    if (y_ > frame_.y + 30) y_ += 10;
    canvas_.text({frame_.x + 14, y_}, heading_, kTextSize, colors_.ink, Weight::bold);
    y_ += 22, heading_ = nullptr;
  }
  void line(const Color& color, double width, Stroke stroke = Stroke::solid) {
    canvas_.line({sign_ - 10, y_ - 4}, {sign_ + 10, y_ - 4}, color, width, stroke);
  }
  std::vector<Spot> box() const {
    return {{sign_ - 10, y_ - 11}, {sign_ + 10, y_ - 11}, {sign_ + 10, y_ + 3}, {sign_ - 10, y_ + 3}};
  }
  template <class Is>
  bool any_body(const Is& is) const {
    return std::any_of(sketch_.bodies.begin(), sketch_.bodies.end(), is);
  }
  template <class Kind, class Is>
  bool any_mark(const Is& is) const {
    return std::any_of(sketch_.marks.begin(), sketch_.marks.end(), [&](const Mark& m) {
      const auto* kind = std::get_if<Kind>(&m);
      return kind != nullptr && is(*kind);
    });
  }
  template <class Kind>
  bool any_mark() const {
    return any_mark<Kind>([](const Kind&) { return true; });
  }

  void factions() {
    heading("Factions");
    std::vector<std::uint32_t> seen;
    for (const SketchBody& b : sketch_.bodies) {
      if (std::find(seen.begin(), seen.end(), b.faction_number) != seen.end()) continue;
      // On a page of any height others have to be told, too.
      constexpr std::size_t kMost = 8;
      seen.push_back(b.faction_number);
      if (seen.size() > kMost) continue;
      open();
      const Color& color = colors_.faction(b.faction_number);
      canvas_.disc({sign_, y_ - 4}, 9, color.faded(0.4));
      draw_sign(canvas_, {sign_, y_ - 4}, b.faction_number, 5, color);
      entry(b.faction);
      if (seen.size() == kMost) entry("and others");
    }
  }

  void bodies() {
    heading("Bodies");
    if (any_body([](const SketchBody& b) { return b.struck; }))
      open(), canvas_.circle({sign_, y_ - 4}, 8, colors_.reached, 2.5), entry("struck");
    if (!sketch_.contacts.empty()) {
      open(), canvas_.disc({sign_, y_ - 4}, 8, colors_.reached);
      canvas_.text({sign_ - 4, y_}, "1", kTextSize, colors_.sign, Weight::bold), entry("contact, in order");
    }
    if (any_body([](const SketchBody& b) { return b.attacker; })) {
      open(), canvas_.circle({sign_, y_ - 4}, 6, colors_.ink, 1.5);
      canvas_.circle({sign_, y_ - 4}, 9, colors_.ink, 1), entry("attacker");
    }
    if (any_body([](const SketchBody& b) { return b.fallen; })) {
      open();
      for (const double side : {-6.0, 6.0})
        canvas_.line({sign_ - 6, y_ - 4 - side}, {sign_ + 6, y_ - 4 + side}, colors_.faint, 1.5);
      entry("fallen");
    }
    if (any_body([](const SketchBody& b) { return !b.statuses.empty(); }))
      open(), draw_status(canvas_, {sign_, y_ - 4}), entry("has a status");
    if (any_body([](const SketchBody& b) { return !b.way.empty(); })) {
      open(), line(colors_.faint, 1.2, Stroke::dashed);
      entry(sketch_.at_s ? "its way until then" : "its way meanwhile");
    }
    if (any_body([](const SketchBody& b) { return b.differs; })) {
      open(), canvas_.polygon(box(), colors_.ink.faded(0), colors_.ink, 2, Hatch::none, Stroke::dashed);
      entry("another fate here");
    }
  }

  void marks() {
    heading("Attack");
    if (any_mark<PathMark>()) open(), line(colors_.way, 2), entry("way of the ray");
    if (any_mark<FlightMark>()) {
      open(), line(colors_.way, 2);
      canvas_.disc({sign_, y_ - 4}, 3, colors_.paper), canvas_.circle({sign_, y_ - 4}, 3, colors_.way, 1.2);
      entry(fmt::format("shot; a ring each {:g} s", time_step(sketch_)));
    }
    if (any_mark<FlightMark>([](const FlightMark& m) { return m.ended == Ended::shot_down; }))
      open(), draw_downed(canvas_, {sign_, y_ - 4}), entry("shot down");
    if (any_mark<RingMark>() || any_mark<AreaMark>())
      open(), canvas_.circle({sign_, y_ - 4}, 8, colors_.reached.faded(0.8), 1.8), entry("area");
    const auto fades = [](const auto& m) { return !m.fades.empty(); };
    if (any_mark<RingMark>(fades) || any_mark<AreaMark>(fades) || any_mark<LastingMark>(fades)) {
      open();
      for (const double radius : {8.0, 5.5, 3.0})
        canvas_.disc({sign_, y_ - 4}, radius, colors_.reached.faded(0.14));
      entry("darker: more power");
    }
    const auto lasted = [&](bool blade, bool trap, const char* says) {
      if (!any_mark<LastingMark>([&](const LastingMark& m) { return m.blade == blade && m.trap == trap; }))
        return;
      open(), canvas_.circle({sign_, y_ - 4}, 8, colors_.reached.faded(0.8), 1.8,
                             trap ? Stroke::dashed : Stroke::solid);
      canvas_.circle({sign_, y_ - 4}, 4, colors_.reached.faded(0.3), 1);
      entry(says);
    };
    if (any_mark<HopMark>()) open(), line(colors_.way, 2, Stroke::dashed), entry("hop of a chain");
    if (any_mark<DashMark>()) open(), line(colors_.way, 3), entry("dash, and where it ends");
    lasted(false, false, "area that lasts");
    lasted(true, false, "blade on its way");
    lasted(false, true, "trap");
    if (any_mark<ReachMark>()) open(), line(colors_.reach, 1, Stroke::dashed), entry("limits of reach");
    if (any_mark<SightMark>()) open(), line(colors_.sight, 1.2), entry("line of sight");
    if (any_mark<SightMark>([](const SightMark& m) { return m.cut.has_value(); })) {
      open(), canvas_.line({sign_ - 10, y_ - 4}, {sign_, y_ - 4}, colors_.sight, 1.2);
      canvas_.line({sign_, y_ - 4}, {sign_ + 10, y_ - 4}, colors_.sight, 1, Stroke::dotted);
      draw_cut(canvas_, {sign_, y_ - 4});
      entry("cut by a wall");
    }
  }

  void walls() {
    heading("Walls");
    const double right = frame_.x + frame_.width - 10;
    const auto materials = materials_of(sketch_);
    for (std::size_t i = 0; i < materials.size() && y_ < frame_.y + frame_.height - 10; ++i) {
      const auto wall = std::find_if(sketch_.walls.begin(), sketch_.walls.end(),
                                     [&](const SketchWall& w) { return w.material == materials[i]; });
      open(), fill_wall(canvas_, box(), i, wall->blocks, 1.5);
      const std::string called = materials[i].empty() ? "no material" : materials[i];
      canvas_.text({words_, y_}, called, kTextSize, colors_.ink);
      const std::string blocks = what_it_blocks(wall->blocks);
      const double beside = words_ + canvas_.text_width(called, kTextSize) + 8;
      const bool fits = beside + canvas_.text_width(blocks, kSmallText) < right;
      if (!fits) y_ += 15;
      canvas_.text({fits ? beside : words_, y_}, blocks, kSmallText, colors_.faint);
      y_ += 21;
    }
    if (std::any_of(sketch_.walls.begin(), sketch_.walls.end(),
                    [](const SketchWall& w) { return !w.at_end.empty(); })) {
      open(), canvas_.polygon(box(), colors_.faint.faded(0.18), colors_.ink.faded(0.8), 1.2, Hatch::none,
                              Stroke::dashed);
      entry("where it is at the end");
    }
  }

  const Sketch& sketch_;
  Canvas& canvas_;
  const Palette& colors_;
  Rect frame_;
  double y_, sign_, words_;
  const char* heading_ = nullptr;
};

}  // namespace

void draw_legend(const Sketch& sketch, Canvas& canvas, const Rect& frame) {
  Legend(sketch, canvas, frame).draw();
}

}  // namespace dardo::draw::detail
