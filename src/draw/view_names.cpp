// Names, numbers of contacts, and what is said of ways that leave the view.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "draw/detail/palette.hpp"
#include "draw/detail/view.hpp"

namespace dardo::draw::detail {
namespace {

/// Names may be of any length.
std::string shortened(const std::string& name) {
  constexpr std::size_t kMost = 32;
  std::size_t letters = 0;
  for (std::size_t i = 0; i < name.size(); ++i) {
    // What continues a letter of UTF-8 is none.
    if ((static_cast<unsigned char>(name[i]) & 0xc0) != 0x80 && ++letters > kMost)
      return name.substr(0, i) + "…";
  }
  return name;
}

std::string told(double metres, const std::string& unit) {
  return metres < 1000 || unit != "m" ? fmt::format("{:.4g} {}", metres, unit)
                                      : fmt::format("{:.3g} km", metres / 1000);
}

}  // namespace

/// The boxes that labels keep clear of: bodies, contact points, lines, edges of walls.
std::vector<Rect> View::taken() const {
  std::vector<Rect> out;
  for (const SketchBody& b : sketch_.bodies) out.push_back(body_box(b).grown(b.attacker || b.struck ? 7 : 2));
  for (const SketchContact& c : sketch_.contacts) {
    const Spot s = plan_(c.point);
    out.push_back({s.x - 5, s.y - 5, 10, 10});
  }
  const Rect page = frame_.grown(20);
  const auto between = [&](const Spot& a, const Spot& b) {
    const double far = std::hypot(b.x - a.x, b.y - a.y);
    const int steps = static_cast<int>(std::min(far / 6, 2000.0));
    for (int i = 0; i <= steps; ++i) {
      const double t = steps > 0 ? static_cast<double>(i) / steps : 0;
      const Rect box{a.x + (b.x - a.x) * t - 2, a.y + (b.y - a.y) * t - 2, 4, 4};
      if (page.holds(box)) out.push_back(box);
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
  if (plan_.from_above()) {
    for (const SketchWall& w : sketch_.walls) {
      if (w.parts.size() > 1) continue;
      const auto edge = outline(w.parts[0], plan_);
      for (std::size_t i = 0; i < edge.size(); ++i) between(edge[i], edge[(i + 1) % edge.size()]);
    }
  }
  out.push_back(scale_bar_box());
  if (!caption_.empty()) out.push_back(caption_box());
  return out;
}

/// In the order in which they choose their places: those that the attack concerns first.
template <class OfBody, class OfWall>
void View::add_names(const OfBody& of_body, const OfWall& of_wall) {
  // In a crowd the names of those whom it does not concern tell nothing.
  constexpr std::size_t kCrowd = 200, kMost = 400;
  const bool crowd = sketch_.bodies.size() + sketch_.walls.size() > kCrowd;
  std::size_t count = 0;
  const auto inside = [&](const Vec3& place) {
    const Spot s = plan_(place);
    return frame_.holds({s.x, s.y, 0, 0});
  };
  for (const bool concerned : {true, false}) {
    const bool wanted = concerned ? names_ != Names::none : names_ == Names::all && !crowd;
    for (const SketchBody& b : sketch_.bodies) {
      if (b.concerned != concerned || !inside(b.pose.at)) continue;
      wanted && ++count <= kMost ? of_body(b) : void(++left_out_);
    }
    for (const SketchWall& w : sketch_.walls) {
      if (w.concerned != concerned) continue;
      Bounds all;
      for (const Shape& part : w.parts) all.add(bounds(part));
      if (!inside(all.center())) continue;
      wanted && ++count <= kMost ? of_wall(w, all.center()) : void(++left_out_);
    }
  }
}

/// A way that leads out of the view says there how far it goes on.
void View::add_far_ends(std::vector<Text>& texts, std::vector<Label>& labels) const {
  const auto shown = [&](const Vec3& p) {
    const Spot s = plan_(p);
    return frame_.holds({s.x, s.y, 0, 0});
  };
  const auto leaves = [&](const Vec3& inside, const Vec3& outside, const Vec3& end) {
    double in = 0, out = 1;
    for (int i = 0; i < 40; ++i) {
      const double middle = (in + out) / 2;
      (shown(inside + (outside - inside) * middle) ? in : out) = middle;
    }
    const Vec3 edge = inside + (outside - inside) * in;
    const std::string says = "ends " + told(length(end - edge), sketch_.unit) + " from here";
    const Spot at = plan_(edge);
    labels.push_back({at, 2, canvas_.text_width(says, kSmallText) + 4, kLineHeight + 2});
    texts.push_back({says, "", colors_.way, at, Text::far});
  };
  std::size_t told_of = 0;
  for (const Mark& m : sketch_.marks) {
    constexpr std::size_t kMost = 8;
    if (told_of >= kMost) return;
    if (const auto* path = std::get_if<PathMark>(&m)) {
      if (shown(path->from) && !shown(path->to)) ++told_of, leaves(path->from, path->to, path->to);
    }
    if (const auto* flight = std::get_if<FlightMark>(&m)) {
      const auto& places = flight->places;
      if (shown(places.back())) continue;
      for (std::size_t i = places.size() - 1; i > 0; --i) {
        if (!shown(places[i - 1])) continue;
        ++told_of, leaves(places[i - 1], places[i], places.back());
        break;
      }
    }
  }
}

void View::draw_label(const Text& t, double clearance, const Rect& r) {
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
    canvas_.disc({r.x + r.width / 2, r.y + r.height / 2}, 8, colors_.reached);
    canvas_.text({r.x + r.width / 2 - canvas_.text_width(t.head, kTextSize, Weight::bold) / 2,
                  r.y + r.height / 2 + 4.4},
                 t.head, kTextSize, colors_.sign, Weight::bold);
    return;
  }
  canvas_.rect(r, colors_.paper.faded(0.75), colors_.paper.faded(0), 0.1);
  const bool small = t.kind != Text::body;
  canvas_.text({r.x + 2, r.y + 11.5}, t.head, small ? kSmallText : kTextSize, colors_.words(t.color),
               small ? Weight::plain : Weight::bold);
  if (!t.note.empty()) canvas_.text({r.x + 2, r.y + 11.5 + kLineHeight}, t.note, kSmallText, colors_.ink);
}

void View::draw_labels() {
  constexpr double kNear = 40;  // pixels: no leader runs across the page to who is not concerned
  const double most_gap = std::min(Label{}.most_gap, 0.25 * frame_.width);
  std::vector<Text> texts;
  std::vector<Label> labels;
  const auto add = [&](Text t, double clearance) {
    const bool wall = t.kind == Text::wall;
    const double width = std::max(
        canvas_.text_width(t.head, wall ? kSmallText : kTextSize, wall ? Weight::plain : Weight::bold),
        t.note.empty() ? 0 : canvas_.text_width(t.note, kSmallText));
    labels.push_back({t.anchor, clearance, width + 4, (t.note.empty() ? 1 : 2) * kLineHeight + 2, most_gap});
    texts.push_back(std::move(t));
  };
  for (const SketchContact& c : sketch_.contacts) {
    const Spot at = plan_(c.point);
    if (frame_.holds({at.x, at.y, 0, 0}))
      add({std::to_string(c.number), "", colors_.reached, at, Text::contact}, 4);
  }
  add_far_ends(texts, labels);
  add_names(
      [&](const SketchBody& b) {
        const Rect box = body_box(b);
        const double clearance = std::max(box.width, box.height) / 2 + (b.attacker || b.struck ? 7 : 2);
        const Spot anchor =
            plan_.from_above() ? plan_(b.pose.at) : Spot{box.x + box.width / 2, box.y + box.height / 2};
        add({shortened(b.id),
             plan_.from_the_side()                    ? std::string()
             : b.attacker && b.note == "the attacker" ? "attacker"
                                                      : b.note,
             color_of(b), anchor, Text::body},
            clearance);
        if (!b.concerned) labels.back().most_gap = kNear, labels.back().may_be_missing = true;
      },
      [&](const SketchWall& w, const Vec3& middle) {
        add({shortened(w.id), "", colors_.faint, plan_(middle), Text::wall}, 0);
        if (!w.concerned) labels.back().most_gap = kNear, labels.back().may_be_missing = true;
      });
  // From the side they are said again, where there is room.
  if (plan_.from_the_side()) {
    for (Label& l : labels) l.may_be_missing = true;
  }
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

}  // namespace dardo::draw::detail
