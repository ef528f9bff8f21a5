#include "dardo/draw/picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>

#include "dardo/record/explain.hpp"
#include "draw/detail/area_outline.hpp"
#include "draw/detail/canvas.hpp"
#include "draw/detail/elevation.hpp"
#include "draw/detail/labels.hpp"
#include "draw/detail/palette.hpp"
#include "draw/detail/plan.hpp"

namespace dardo::draw {
namespace {

Bounds bounds_of(const SketchWall& wall) {
  Bounds all;
  for (const Shape& part : wall.parts) all.add(bounds(part));
  return all;
}

using namespace detail;

class Picture {
 public:
  Picture(const Sketch& sketch, Canvas& canvas, Names names)
      : sketch_(sketch), canvas_(canvas), names_(names) {
    for (const SketchWall& w : sketch.walls) {
      if (std::find(materials_.begin(), materials_.end(), w.material) == materials_.end()) {
        materials_.push_back(w.material);
      }
    }
    // On a small page the legend would leave no room for the scene.
    legend_width_ = canvas.width() >= 700 ? 216 : 0;
    frame_ = {0, 56, canvas.width() - legend_width_, canvas.height() - 56};
    if (needs_elevation(sketch)) {
      // What rises and falls is seen from the side, too, below the plan.
      side_ = {0, frame_.y + frame_.height * 0.66, frame_.width, frame_.height * 0.34};
      frame_.height -= side_.height;
    }
    plan_ = fit(extent(), frame_.grown(-30));
  }

  void draw() {
    canvas_.fill_page(kPaper);
    canvas_.clip(frame_);
    draw_grid();
    draw_ground();
    for (const SketchWall& w : sketch_.walls) draw_wall(w);
    for (const Mark& m : sketch_.marks) std::visit([&](const auto& k) { draw_mark(k); }, m);
    for (const SketchBody& b : sketch_.bodies) draw_body(b);
    for (const SketchContact& c : sketch_.contacts) draw_contact(c);
    draw_labels();
    draw_scale_bar();
    canvas_.unclip();
    if (side_.height > 0) draw_elevation(sketch_, canvas_, side_);
    draw_title();
    draw_left_out();
    if (legend_width_ > 0) draw_legend();
  }

  /// Labels for which there was no free place.
  std::size_t crowded() const { return crowded_; }
  /// Bodies and walls without a name.
  std::size_t left_out() const { return left_out_; }

 private:
  Bounds extent() const {
    Bounds all;
    for (const SketchBody& b : sketch_.bodies) {
      for (const Shape& s : b.hitboxes) all.add(bounds(s));
    }
    for (const SketchWall& w : sketch_.walls) {
      all.add(bounds_of(w));
      for (const Shape& part : w.at_end) all.add(bounds(part));
    }
    // What leads far away from all of it is cut off at the page's edge.
    const Bounds near = all.empty() ? all : all.grown(length(all.high - all.low) + 20);
    const auto add = [&](const Vec3& p) {
      if (near.empty() || overlaps(near, Bounds{p, p})) all.add(p);
    };
    for (const Mark& m : sketch_.marks) {
      if (const auto* path = std::get_if<PathMark>(&m)) add(path->from), add(path->to);
      if (const auto* ring = std::get_if<RingMark>(&m)) all.add(bounds(Ball{ring->center, ring->radius}));
      if (const auto* area = std::get_if<AreaMark>(&m)) {
        for (const auto& line : outline_of(*area).lines) {
          for (const Vec3& p : line) add(p);
        }
      }
      if (const auto* hop = std::get_if<HopMark>(&m)) add(hop->from), add(hop->to);
      if (const auto* dash = std::get_if<DashMark>(&m)) {
        for (const Shape& s : dash->hitboxes) all.add(bounds(s));
        for (const Leg& leg : dash->legs) add(leg.at(leg.end).at);
      }
      if (const auto* lasted = std::get_if<LastingMark>(&m)) {
        for (int i = 0; i <= 6; ++i) {
          const double t = lasted->from_s + (lasted->to_s - lasted->from_s) * i / 6;
          for (const auto& line : outline_of({shape_at(*lasted, t), frame_at(*lasted, t)}).lines) {
            for (const Vec3& p : line) add(p);
          }
        }
      }
      if (const auto* flight = std::get_if<FlightMark>(&m)) {
        for (const Vec3& place : flight->places) add(place);
      }
    }
    if (all.empty()) all.add(Vec3{});
    return all.grown(0.5);
  }

  double pixels(double metres) const { return metres * plan_.pixels_per_metre; }
  const Color& faction(const SketchBody& b) const { return kFactions[b.faction_number % kFactions.size()]; }

  /// A length of 1, 2 or 5 times a power of ten that takes about `wanted` pixels.
  double round_length(double wanted) const {
    const double metres = wanted / plan_.pixels_per_metre;
    const double power = std::pow(10, std::floor(std::log10(metres)));
    const double lead = metres / power;
    return power * (lead >= 5 ? 5 : lead >= 2 ? 2 : 1);
  }

  void draw_grid() {
    const double step = round_length(140);
    const double left = plan_.world_center.x - (plan_.page_center.x - frame_.x) / plan_.pixels_per_metre;
    const double bottom =
        plan_.world_center.y - (frame_.y + frame_.height - plan_.page_center.y) / plan_.pixels_per_metre;
    for (double x = std::ceil(left / step) * step; pixels(x - left) < frame_.width; x += step) {
      const Spot s = plan_({x, 0, 0});
      canvas_.line({s.x, frame_.y}, {s.x, frame_.y + frame_.height}, kGrid, 1);
    }
    for (double y = std::ceil(bottom / step) * step; pixels(y - bottom) < frame_.height; y += step) {
      const Spot s = plan_({0, y, 0});
      canvas_.line({frame_.x, s.y}, {frame_.x + frame_.width, s.y}, kGrid, 1);
    }
  }

  /// In a plane seen from the side the ground is a line.
  void draw_ground() {
    if (!sketch_.flat || !sketch_.ground) return;
    const HalfSpace& g = *sketch_.ground;
    const Vec3 along{-g.normal.y, g.normal.x, 0};
    const double far = 2 * (frame_.width + frame_.height) / plan_.pixels_per_metre;
    const Vec3 middle = plan_.world_center - g.normal * dot(plan_.world_center - g.point, g.normal);
    const auto at = [&](double aside, double down) {
      return plan_(middle + along * aside - g.normal * down);
    };
    canvas_.polygon({at(-far, 0), at(far, 0), at(far, far), at(-far, far)}, kFaint.faded(0.16),
                    kInk.faded(0.6), 1.5);
  }

  void fill_wall(const std::vector<Spot>& shape, const std::string& material, const Passages& blocks,
                 double width) {
    const auto at = std::find(materials_.begin(), materials_.end(), material) - materials_.begin();
    const auto k = static_cast<std::size_t>(at) % kMaterials.size();
    const Color& c = kMaterials[k];
    const Color edge{c.red * 0.6, c.green * 0.6, c.blue * 0.6};
    // What shots pass is dashed.
    const Stroke stroke = blocks.has(Passage::shots) ? Stroke::solid : Stroke::dashed;
    canvas_.polygon(shape, c.faded(0.45), edge, width, kHatches[k], stroke);
  }

  void draw_wall(const SketchWall& w) {
    // The lines between the triangles of a mesh say nothing of what it stops.
    for (const Shape& part : w.parts)
      fill_wall(outline(part, plan_), w.material, w.blocks, w.parts.size() > 1 ? 0.3 : 1.5);
    for (const Shape& part : w.at_end)
      canvas_.polygon(outline(part, plan_), kFaint.faded(0.18), kInk.faded(0.8), 1.2, Hatch::none,
                      Stroke::dashed);
    if (w.way.empty()) return;
    for (std::size_t i = 1; i < w.way.size(); ++i)
      canvas_.line(plan_(w.way[i - 1]), plan_(w.way[i]), kFaint, 1, Stroke::dashed);
  }

  void draw_mark(const PathMark& m) {
    // No page is so wide.
    constexpr double kFarthest = 20000;
    const double long_is = pixels(length(m.to - m.from));
    const Vec3 to = long_is > kFarthest ? m.from + (m.to - m.from) * (kFarthest / long_is) : m.to;
    const Spot a = plan_(m.from), b = plan_(to);
    // How wide a thick one is.
    if (pixels(m.radius) > 1) canvas_.line(a, b, kWay.faded(0.25), 2 * pixels(m.radius));
    canvas_.line(a, b, kWay, 2);
    canvas_.disc(a, 3.5, kWay);
    const double dx = b.x - a.x, dy = b.y - a.y, size = std::hypot(dx, dy);
    if (size < 12) return;
    const double ux = dx / size, uy = dy / size;
    canvas_.polygon({b,
                     {b.x - ux * 10 - uy * 4, b.y - uy * 10 + ux * 4},
                     {b.x - ux * 10 + uy * 4, b.y - uy * 10 - ux * 4}},
                    kWay, kWay, 1);
  }
  void draw_mark(const MotionMark&) {}  // bodies are drawn with their ways
  void draw_mark(const FlightMark& m) {
    draw_flight(canvas_, m, time_step(sketch_), plan_);
    if (m.radius > 0 && pixels(m.radius) > 3)
      canvas_.circle(plan_(m.places.back()), pixels(m.radius), kWay, 1);
  }
  void draw_mark(const RingMark& m) {
    canvas_.disc(plan_(m.center), pixels(m.radius), kReached.faded(0.07));
    canvas_.circle(plan_(m.center), pixels(m.radius), kReached.faded(0.8), 1.8);
    const Spot s = plan_(m.center);
    canvas_.line({s.x - 6, s.y}, {s.x + 6, s.y}, kReached, 1.5);
    canvas_.line({s.x, s.y - 6}, {s.x, s.y + 6}, kReached, 1.5);
  }
  void draw_mark(const AreaMark& m) {
    draw_area(canvas_, m, plan_);
    const Spot s = plan_(m.pose.at);
    canvas_.line({s.x - 6, s.y}, {s.x + 6, s.y}, kReached, 1.5);
    canvas_.line({s.x, s.y - 6}, {s.x, s.y + 6}, kReached, 1.5);
  }
  void draw_mark(const HopMark& m) {
    canvas_.line(plan_(m.from), plan_(m.to), kWay, 2, Stroke::dashed);
    const Spot a = plan_(m.from), b = plan_(m.to), middle{0.5 * (a.x + b.x), 0.5 * (a.y + b.y)};
    if (m.number == 0) return;
    canvas_.disc(middle, 8, kPaper), canvas_.circle(middle, 8, kWay, 1.2);
    const std::string number = std::to_string(m.number);
    canvas_.text({middle.x - 0.5 * canvas_.text_width(number, kTextSize - 2), middle.y + 4}, number,
                 kTextSize - 2, kInk);
  }
  void draw_mark(const DashMark& m) { draw_dash(canvas_, m, plan_); }
  void draw_mark(const LastingMark& m) { draw_lasting(canvas_, m, plan_); }
  void draw_mark(const SightMark& m) {
    const Spot a = plan_(m.from), b = plan_(m.to);
    if (!m.cut) {
      canvas_.line(a, b, kSight.faded(0.8), 1.2);
      return;
    }
    const Spot c = plan_(*m.cut);
    canvas_.line(a, c, kSight.faded(0.8), 1.2);
    canvas_.line(c, b, kSight.faded(0.6), 1, Stroke::dotted);
    draw_cut(c);
  }
  void draw_cut(Spot c) {
    canvas_.line({c.x - 4, c.y - 4}, {c.x + 4, c.y + 4}, kInk, 1.8);
    canvas_.line({c.x - 4, c.y + 4}, {c.x + 4, c.y - 4}, kInk, 1.8);
  }
  void draw_mark(const ReachMark& m) {
    if (m.near > 0) canvas_.circle(plan_(m.center), pixels(m.near), kReach, 1, Stroke::dashed);
    canvas_.circle(plan_(m.center), pixels(m.far), kReach, 1, Stroke::dashed);
  }

  /// The sign of a faction: shape says what colour says.
  void draw_sign(Spot at, std::uint32_t number, double size, const Color& color) {
    const Color white{1, 1, 1};
    switch (number % 4) {
      case 0: canvas_.disc(at, size, white), canvas_.circle(at, size, color, 1.6); break;
      case 1:
        canvas_.polygon({{at.x - size, at.y - size},
                         {at.x + size, at.y - size},
                         {at.x + size, at.y + size},
                         {at.x - size, at.y + size}},
                        white, color, 1.6);
        break;
      case 2:
        canvas_.polygon({{at.x, at.y - size * 1.2},
                         {at.x + size * 1.15, at.y + size * 0.9},
                         {at.x - size * 1.15, at.y + size * 0.9}},
                        white, color, 1.6);
        break;
      default:
        canvas_.polygon({{at.x, at.y - size * 1.3},
                         {at.x + size * 1.3, at.y},
                         {at.x, at.y + size * 1.3},
                         {at.x - size * 1.3, at.y}},
                        white, color, 1.6);
    }
  }

  void draw_body(const SketchBody& b) {
    const Color color = b.fallen ? kFaint : faction(b);
    Rect around = body_box(b);
    const Spot at = plan_(b.pose.at);
    for (const Shape& s : b.hitboxes) {
      canvas_.polygon(outline(s, plan_), color.faded(b.fallen ? 0.12 : 0.40), color, 1.2);
    }
    const double reach = std::max(around.width, around.height) / 2;
    const Spot middle{around.x + around.width / 2, around.y + around.height / 2};
    const Vec3 ahead = b.pose.turn.x;
    if (!b.fallen) {
      canvas_.line(at, {at.x + ahead.x * (reach + 7), at.y - ahead.y * (reach + 7)}, color, 2.2);
    }
    draw_sign(at, b.faction_number, std::clamp(reach * 0.45, 3.0, 6.0), color);
    if (b.attacker) canvas_.circle(middle, reach + 4, kInk, 1.5), canvas_.circle(middle, reach + 7, kInk, 1);
    for (std::size_t i = 1; i < b.way.size(); ++i) {
      if (i % 2 == 1) canvas_.line(plan_(b.way[i - 1]), plan_(b.way[i]), color.faded(0.7), 1.2);
    }
    for (const Shape& s : b.struck_at) canvas_.polygon(outline(s, plan_), color.faded(0.25), color, 1.2);
    if (b.struck) {
      Bounds there;
      for (const Shape& s : b.struck_at) there.add(bounds(s));
      canvas_.circle(there.empty() ? middle : plan_(there.center()), reach + 4, kReached, 2.5);
    }
    if (b.fallen) {
      canvas_.line({at.x - reach, at.y - reach}, {at.x + reach, at.y + reach}, kFaint, 1.5);
      canvas_.line({at.x - reach, at.y + reach}, {at.x + reach, at.y - reach}, kFaint, 1.5);
    }
  }

  Rect body_box(const SketchBody& b) const {
    std::vector<Spot> all{plan_(b.pose.at)};
    for (const Shape& s : b.hitboxes) {
      const auto part = outline(s, plan_);
      all.insert(all.end(), part.begin(), part.end());
    }
    return box_around(all);
  }

  void draw_contact(const SketchContact& c) {
    const Spot at = plan_(c.point);
    canvas_.disc(at, 3.2, kReached);
    canvas_.circle(at, 3.2, {1, 1, 1}, 1);
  }

  /// The boxes that labels keep clear of: bodies, contact points, lines, edges of walls.
  std::vector<Rect> taken() const {
    std::vector<Rect> out;
    for (const SketchBody& b : sketch_.bodies)
      out.push_back(body_box(b).grown(b.attacker || b.struck ? 7 : 2));
    for (const SketchContact& c : sketch_.contacts) {
      const Spot s = plan_(c.point);
      out.push_back({s.x - 5, s.y - 5, 10, 10});
    }
    const auto between = [&](const Spot& a, const Spot& b) {
      const int steps = static_cast<int>(std::hypot(b.x - a.x, b.y - a.y) / 6);
      for (int i = 0; i <= steps; ++i) {
        const double t = steps > 0 ? static_cast<double>(i) / steps : 0;
        out.push_back({a.x + (b.x - a.x) * t - 2, a.y + (b.y - a.y) * t - 2, 4, 4});
      }
    };
    for (const Mark& m : sketch_.marks) {
      if (const auto* path = std::get_if<PathMark>(&m)) between(plan_(path->from), plan_(path->to));
      if (const auto* sight = std::get_if<SightMark>(&m)) between(plan_(sight->from), plan_(sight->to));
      if (const auto* flight = std::get_if<FlightMark>(&m)) {
        for (std::size_t i = 1; i < flight->places.size(); ++i)
          between(plan_(flight->places[i - 1]), plan_(flight->places[i]));
      }
    }
    for (const SketchWall& w : sketch_.walls) {
      if (w.parts.size() > 1) continue;
      const auto edge = outline(w.parts[0], plan_);
      for (std::size_t i = 0; i < edge.size(); ++i) between(edge[i], edge[(i + 1) % edge.size()]);
    }
    out.push_back(scale_bar_box());
    return out;
  }

  /// In the order in which they choose their places: those that the attack concerns first.
  template <class OfBody, class OfWall>
  void add_names(const OfBody& of_body, const OfWall& of_wall) {
    // In a crowd the names of those whom it does not concern tell nothing.
    constexpr std::size_t kCrowd = 200, kMost = 400;
    const bool crowd = sketch_.bodies.size() + sketch_.walls.size() > kCrowd;
    std::size_t count = 0;
    for (const bool concerned : {true, false}) {
      const bool wanted = concerned ? names_ != Names::none : names_ == Names::all && !crowd;
      for (const SketchBody& b : sketch_.bodies) {
        if (b.concerned != concerned) continue;
        wanted && ++count <= kMost ? of_body(b) : void(++left_out_);
      }
      for (const SketchWall& w : sketch_.walls) {
        if (w.concerned != concerned) continue;
        wanted && ++count <= kMost ? of_wall(w) : void(++left_out_);
      }
    }
  }

  struct Text {
    std::string head, note;
    Color color;
    Spot anchor;
    enum { contact, body, wall } kind;
  };
  void draw_label(const Text& t, double clearance, const Rect& r) {
    const double x = std::clamp(t.anchor.x, r.x, r.x + r.width),
                 y = std::clamp(t.anchor.y, r.y, r.y + r.height);
    // A label that had to move away says whose it is.
    const double away = std::hypot(x - t.anchor.x, y - t.anchor.y);
    if (away > clearance + 14) {
      const double k = clearance / away;
      canvas_.line({t.anchor.x + (x - t.anchor.x) * k, t.anchor.y + (y - t.anchor.y) * k}, {x, y},
                   t.color.faded(0.6), 0.8);
    }
    if (t.kind == Text::contact) {
      canvas_.disc({r.x + r.width / 2, r.y + r.height / 2}, 8, kReached);
      canvas_.text({r.x + r.width / 2 - canvas_.text_width(t.head, kTextSize, Weight::bold) / 2,
                    r.y + r.height / 2 + 4.4},
                   t.head, kTextSize, {1, 1, 1}, Weight::bold);
      return;
    }
    canvas_.rect(r, kPaper.faded(0.75), kPaper.faded(0), 0.1);
    const bool wall = t.kind == Text::wall;
    const Color dark{t.color.red * 0.8, t.color.green * 0.8, t.color.blue * 0.8};
    canvas_.text({r.x + 2, r.y + 11.5}, t.head, wall ? kSmallText : kTextSize, dark,
                 wall ? Weight::plain : Weight::bold);
    if (!t.note.empty()) canvas_.text({r.x + 2, r.y + 11.5 + kLineHeight}, t.note, kSmallText, kInk);
  }

  void draw_labels() {
    constexpr double kNear = 40;  // pixels: no leader runs across the page to who is not concerned
    std::vector<Text> texts;
    std::vector<Label> labels;
    const auto add = [&](Text t, double clearance) {
      const bool wall = t.kind == Text::wall;
      const double width = std::max(
          canvas_.text_width(t.head, wall ? kSmallText : kTextSize, wall ? Weight::plain : Weight::bold),
          t.note.empty() ? 0 : canvas_.text_width(t.note, kSmallText));
      labels.push_back({t.anchor, clearance, width + 4, (t.note.empty() ? 1 : 2) * kLineHeight + 2});
      texts.push_back(std::move(t));
    };
    for (const SketchContact& c : sketch_.contacts) {
      add({std::to_string(c.number), "", kReached, plan_(c.point), Text::contact}, 4);
    }
    add_names(
        [&](const SketchBody& b) {
          const Rect box = body_box(b);
          const double clearance = std::max(box.width, box.height) / 2 + (b.attacker || b.struck ? 7 : 2);
          add({b.id, b.attacker && b.note == "the attacker" ? "attacker" : b.note,
               b.fallen ? kFaint : faction(b), plan_(b.pose.at), Text::body},
              clearance);
          if (!b.concerned) labels.back().most_gap = kNear, labels.back().may_be_missing = true;
        },
        [&](const SketchWall& w) {
          add({w.id, "", kFaint, plan_(bounds_of(w).center()), Text::wall}, 0);
          if (!w.concerned) labels.back().may_be_missing = true;
        });
    const auto places = place_labels(labels, taken(), frame_.grown(-6));
    for (const PlacedLabel& p : places) crowded_ += p.crowded;
    for (std::size_t i = 0; i < labels.size(); ++i) {
      if (places[i].missing) {
        ++left_out_;
        continue;
      }
      draw_label(texts[i], labels[i].clearance, places[i].box);
    }
  }

  /// What the picture does not say.
  void draw_left_out() {
    if (left_out_ == 0) return;
    const std::string says = fmt::format("and {} more without a name", left_out_);
    canvas_.text({canvas_.width() - 16 - canvas_.text_width(says, kTextSize), 45}, says, kTextSize, kFaint);
  }

  Rect scale_bar_box() const {
    return {frame_.x + 10, frame_.y + frame_.height - 36, pixels(round_length(140)) + 40, 30};
  }

  void draw_scale_bar() {
    const double metres = round_length(140), width = pixels(metres);
    const Rect box = scale_bar_box();
    canvas_.rect(box, kPaper.faded(0.85), kPaper.faded(0), 0.1);
    const double y = box.y + 22, x = box.x + 8;
    canvas_.line({x, y}, {x + width, y}, kInk, 2);
    canvas_.line({x, y - 5}, {x, y + 5}, kInk, 2);
    canvas_.line({x + width, y - 5}, {x + width, y + 5}, kInk, 2);
    canvas_.text({x + 6, y - 6}, fmt::format("{} {}", metres, sketch_.unit), kTextSize, kInk);
  }

  void draw_title() {
    canvas_.text({16, 25}, sketch_.title, 18, kInk, Weight::bold);
    canvas_.text({16, 45}, sketch_.summary, 13, kFaint);
    canvas_.line({0, frame_.y}, {canvas_.width(), frame_.y}, kGrid, 1);
  }

  void draw_legend() {
    const double left = canvas_.width() - legend_width_;
    canvas_.rect({left, frame_.y, legend_width_, frame_.height + side_.height}, {0.955, 0.945, 0.915}, kGrid,
                 1);
    double y = frame_.y + 26;
    const double sign = left + 24, words = left + 46;
    const auto heading = [&](const char* text) {
      canvas_.text({left + 14, y}, text, kTextSize, kInk, Weight::bold);
      y += 22;
    };
    const auto entry = [&](const std::string& text) {
      canvas_.text({words, y}, text, kTextSize, kInk);
      y += 21;
    };
    const double right = left + legend_width_ - 10;

    heading("Factions");
    std::vector<std::uint32_t> seen;
    for (const SketchBody& b : sketch_.bodies) {
      if (std::find(seen.begin(), seen.end(), b.faction_number) != seen.end()) continue;
      seen.push_back(b.faction_number);
      canvas_.disc({sign, y - 4}, 9, faction(b).faded(0.4));
      draw_sign({sign, y - 4}, b.faction_number, 5, faction(b));
      entry(b.faction);
    }
    y += 10;
    heading("Bodies");
    canvas_.circle({sign, y - 4}, 8, kReached, 2.5), entry("struck");
    canvas_.disc({sign, y - 4}, 8, kReached);
    canvas_.text({sign - 4, y}, "1", kTextSize, {1, 1, 1}, Weight::bold), entry("contact, in order");
    canvas_.circle({sign, y - 4}, 6, kInk, 1.5), canvas_.circle({sign, y - 4}, 9, kInk, 1), entry("attacker");
    canvas_.line({sign - 6, y - 10}, {sign + 6, y + 2}, kFaint, 1.5),
        canvas_.line({sign - 6, y + 2}, {sign + 6, y - 10}, kFaint, 1.5);
    entry("fallen");
    const bool runs = std::any_of(sketch_.bodies.begin(), sketch_.bodies.end(),
                                  [](const SketchBody& b) { return !b.way.empty(); });
    if (runs)
      canvas_.line({sign - 10, y - 4}, {sign + 10, y - 4}, kFaint, 1.2, Stroke::dashed),
          entry("its way meanwhile");
    y += 10;
    draw_legend_marks(heading, entry, y, sign);
    if (materials_.empty()) return;
    y += 10;
    heading("Walls");
    draw_legend_walls(y, sign, words, right);
  }

  void draw_legend_walls(double y, double sign, double words, double right) {
    for (const std::string& m : materials_) {
      const auto wall = std::find_if(sketch_.walls.begin(), sketch_.walls.end(),
                                     [&](const SketchWall& w) { return w.material == m; });
      fill_wall({{sign - 10, y - 11}, {sign + 10, y - 11}, {sign + 10, y + 3}, {sign - 10, y + 3}}, m,
                wall->blocks, 1.5);
      const std::string called = m.empty() ? "no material" : m;
      canvas_.text({words, y}, called, kTextSize, kInk);
      const std::string blocks = what_it_blocks(wall->blocks);
      const double beside = words + canvas_.text_width(called, kTextSize) + 8;
      const bool fits = beside + canvas_.text_width(blocks, kSmallText) < right;
      if (!fits) y += 15;
      canvas_.text({fits ? beside : words, y}, blocks, kSmallText, kFaint);
      y += 21;
    }
    const bool moves = std::any_of(sketch_.walls.begin(), sketch_.walls.end(),
                                   [](const SketchWall& w) { return !w.at_end.empty(); });
    if (moves) {
      canvas_.polygon({{sign - 10, y - 11}, {sign + 10, y - 11}, {sign + 10, y + 3}, {sign - 10, y + 3}},
                      kFaint.faded(0.18), kInk.faded(0.8), 1.2, Hatch::none, Stroke::dashed);
      canvas_.text({words, y}, "where it is at the end", kTextSize, kInk);
    }
  }

  /// "stops sight, feet", or "passes sight" where that is shorter.
  static std::string what_it_blocks(const Passages& blocks) {
    std::string stopped, passed;
    for (const Passage p : {Passage::sight, Passage::shots, Passage::blasts, Passage::feet}) {
      std::string& list = blocks.has(p) ? stopped : passed;
      list += (list.empty() ? "" : ", ") + std::string(name(p));
    }
    if (passed.empty()) return "stops all";
    if (stopped.empty()) return "passes all";
    return stopped.size() < passed.size() ? "stops " + stopped : "passes " + passed;
  }

  template <class Heading, class Entry>
  void draw_legend_marks(Heading heading, Entry entry, double& y, double sign) {
    const auto any = [&](auto kind) {
      return std::any_of(sketch_.marks.begin(), sketch_.marks.end(),
                         [](const Mark& m) { return std::holds_alternative<decltype(kind)>(m); });
    };
    heading("Attack");
    if (any(PathMark{}))
      canvas_.line({sign - 10, y - 4}, {sign + 10, y - 4}, kWay, 2), entry("way of the ray");
    if (any(FlightMark{})) {
      canvas_.line({sign - 10, y - 4}, {sign + 10, y - 4}, kWay, 2);
      canvas_.disc({sign, y - 4}, 3, kPaper), canvas_.circle({sign, y - 4}, 3, kWay, 1.2);
      entry(fmt::format("shot; a ring each {:g} s", time_step(sketch_)));
    }
    const auto downed = [](const Mark& m) {
      const auto* flight = std::get_if<FlightMark>(&m);
      return flight != nullptr && flight->ended == Ended::shot_down;
    };
    if (std::any_of(sketch_.marks.begin(), sketch_.marks.end(), downed))
      draw_downed(canvas_, {sign, y - 4}), entry("shot down");
    if (any(RingMark{}) || any(AreaMark{}))
      canvas_.circle({sign, y - 4}, 8, kReached.faded(0.8), 1.8), entry("area");
    const auto lasted = [&](bool blade, bool trap, const char* says) {
      const auto is = [&](const Mark& m) {
        const auto* l = std::get_if<LastingMark>(&m);
        return l != nullptr && l->blade == blade && l->trap == trap;
      };
      if (!std::any_of(sketch_.marks.begin(), sketch_.marks.end(), is)) return;
      canvas_.circle({sign, y - 4}, 8, kReached.faded(0.8), 1.8, trap ? Stroke::dashed : Stroke::solid);
      canvas_.circle({sign, y - 4}, 4, kReached.faded(0.3), 1);
      entry(says);
    };
    if (any(HopMark{}))
      canvas_.line({sign - 10, y - 4}, {sign + 10, y - 4}, kWay, 2, Stroke::dashed), entry("hop of a chain");
    if (any(DashMark{})) {
      canvas_.line({sign - 10, y - 4}, {sign + 10, y - 4}, kWay, 3), entry("dash, and where it ends");
    }
    lasted(false, false, "area that lasts");
    lasted(true, false, "blade on its way");
    lasted(false, true, "trap");
    if (any(ReachMark{})) {
      canvas_.line({sign - 10, y - 4}, {sign + 10, y - 4}, kReach, 1, Stroke::dashed);
      entry("limits of reach");
    }
    if (any(SightMark{})) {
      canvas_.line({sign - 10, y - 4}, {sign + 10, y - 4}, kSight, 1.2), entry("line of sight");
      canvas_.line({sign - 10, y - 4}, {sign, y - 4}, kSight, 1.2);
      canvas_.line({sign, y - 4}, {sign + 10, y - 4}, kSight, 1, Stroke::dotted);
      draw_cut({sign, y - 4});
      entry("cut by a wall");
    }
  }

  const Sketch& sketch_;
  Canvas& canvas_;
  std::vector<std::string> materials_;
  double legend_width_ = 0;
  Names names_;
  std::size_t crowded_ = 0, left_out_ = 0;
  Rect frame_;
  Rect side_{};
  Plan plan_;
};

}  // namespace

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

std::size_t detail::crowded_labels(const Sketch& sketch, const PictureOptions& options) {
  Canvas canvas(options);
  Picture picture(sketch, canvas, options.names);
  picture.draw();
  return picture.crowded();
}

std::size_t detail::names_left_out(const Sketch& sketch, const PictureOptions& options) {
  Canvas canvas(options);
  Picture picture(sketch, canvas, options.names);
  picture.draw();
  return picture.left_out();
}

tl::expected<std::string, std::string> picture(const Sketch& sketch, const PictureOptions& options) {
  for (const int side : {options.width, options.height}) {
    if (side < kSmallest || side > kLargest) {
      return tl::unexpected(fmt::format("a side of {} pixels; expected {} to {}", side, kSmallest, kLargest));
    }
  }
  Canvas canvas(options);
  if (canvas.good()) Picture(sketch, canvas, options.names).draw();
  if (!canvas.good()) return tl::unexpected(std::string("no memory for a picture of this size"));
  return canvas.finish();
}

}  // namespace dardo::draw
