#include "draw/detail/view.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "draw/detail/area_outline.hpp"
#include "draw/detail/marks.hpp"
#include "draw/detail/palette.hpp"

namespace dardo::draw::detail {
namespace {

Bounds bounds_of(const std::vector<Shape>& shapes) {
  Bounds all;
  for (const Shape& s : shapes) all.add(bounds(s));
  return all;
}

/// Gives every place that a mark leads to.
template <class Visit>
struct EachPlace {
  const Visit& visit;

  void operator()(const PathMark& m) const { visit(m.from), visit(m.to); }
  void operator()(const RingMark& m) const {
    const Bounds box = bounds(Ball{m.center, m.radius});
    visit(box.low), visit(box.high);
  }
  void operator()(const SightMark&) const {}
  void operator()(const ReachMark&) const {}
  void operator()(const MotionMark&) const {}
  void operator()(const FlightMark& m) const {
    for (const Vec3& p : m.places) visit(p);
  }
  void operator()(const AreaMark& m) const {
    for (const auto& line : outline_of(m).lines) {
      for (const Vec3& p : line) visit(p);
    }
  }
  void operator()(const LastingMark& m) const {
    for (int i = 0; i <= 6; ++i) {
      const double t = m.from_s + (m.to_s - m.from_s) * i / 6;
      (*this)(AreaMark{shape_at(m, t), frame_at(m, t)});
    }
  }
  void operator()(const HopMark& m) const {
    visit(m.from), visit(m.to), visit((m.from + m.to) * 0.5 + Vec3{0, 0, m.arc});
  }
  void operator()(const DashMark& m) const {
    for (const Shape& s : m.hitboxes) {
      const Bounds box = bounds(s);
      visit(box.low), visit(box.high);
    }
    for (const Leg& leg : m.legs) visit(leg.at(leg.end).at);
  }
};

}  // namespace

Extent extent_of(const Sketch& sketch, const Plan& plan) {
  Extent all(plan);
  Bounds stands;
  // From the side only those matter whom it concerns.
  const bool all_matter = !plan.from_the_side();
  const auto add_shapes = [&](const std::vector<Shape>& shapes, bool matters) {
    for (const Shape& s : shapes) {
      stands.add(bounds(s));
      if (matters) all.add(bounds(s));
    }
  };
  for (const SketchBody& b : sketch.bodies)
    add_shapes(b.hitboxes, all_matter || b.concerned), add_shapes(b.struck_at, true);
  for (const SketchWall& w : sketch.walls)
    add_shapes(w.parts, all_matter || w.concerned), add_shapes(w.at_end, all_matter || w.concerned);
  // What leads far away from all of it is cut off at the page's edge.
  const Bounds near = stands.empty() ? stands : stands.grown(length(stands.high - stands.low) + 20);
  const auto add = [&](const Vec3& p) {
    if (near.empty() || overlaps(near, Bounds{p, p})) all.add(p);
  };
  for (const Mark& m : sketch.marks) std::visit(EachPlace<decltype(add)>{add}, m);
  if (all.empty()) all.add(Vec3{});
  all.grow(0.5);
  return all;
}

std::vector<std::string> materials_of(const Sketch& sketch) {
  std::vector<std::string> out;
  for (const SketchWall& w : sketch.walls) {
    if (std::find(out.begin(), out.end(), w.material) == out.end()) out.push_back(w.material);
  }
  return out;
}

void fill_wall(Canvas& canvas, const std::vector<Spot>& shape, std::size_t material, const Passages& blocks,
               double width, double strength) {
  const Palette& colors = canvas.colors();
  const std::size_t k = material % colors.materials.size();
  const Color& c = colors.materials[k];
  // What shots pass is dashed.
  const Stroke stroke = blocks.has(Passage::shots) ? Stroke::solid : Stroke::dashed;
  canvas.polygon(shape, c.faded(0.45 * strength), colors.edge(c).faded(strength), width,
                 strength < 1 ? Hatch::none : kHatches[k], stroke);
}

void draw_sign(Canvas& canvas, Spot at, std::uint32_t faction, double size, const Color& color) {
  const Color inside = canvas.colors().sign;
  const auto corners = [&](std::initializer_list<Spot> spots) {
    std::vector<Spot> out;
    for (const Spot& s : spots) out.push_back({at.x + s.x * size, at.y + s.y * size});
    canvas.polygon(out, inside, color, 1.6);
  };
  switch (faction % 4) {
    case 0: canvas.disc(at, size, inside), canvas.circle(at, size, color, 1.6); break;
    case 1: corners({{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}); break;
    case 2: corners({{0, -1.2}, {1.15, 0.9}, {-1.15, 0.9}}); break;
    default: corners({{0, -1.3}, {1.3, 0}, {0, 1.3}, {-1.3, 0}});
  }
}

View::View(const Sketch& sketch, Canvas& canvas, const Plan& plan, const Rect& frame, Names names)
    : sketch_(sketch),
      canvas_(canvas),
      colors_(canvas.colors()),
      plan_(plan),
      frame_(frame),
      names_(names),
      materials_(materials_of(sketch)) {}

void View::draw(std::string caption) {
  caption_ = std::move(caption);
  canvas_.clip(frame_);
  if (plan_.from_above()) draw_grid();
  if (plan_.from_the_side()) draw_heights();
  draw_ground();
  const Rect corner = caption_box();
  canvas_.text({corner.x, corner.y + 14}, caption_, kTextSize, colors_.faint);
  draw_things();
  const double step = time_step(sketch_);
  for (const Mark& m : sketch_.marks) draw_mark(canvas_, m, step, plan_);
  if (plan_.from_above()) {
    for (const SketchBody& b : sketch_.bodies) draw_body(b);
  }
  for (const SketchContact& c : sketch_.contacts) draw_contact(c);
  draw_labels();
  draw_scale_bar();
  canvas_.unclip();
}

Rect View::caption_box() const {
  const double width = canvas_.text_width(caption_, kTextSize);
  return {frame_.x + frame_.width - width - 12, frame_.y + 6, width, 20};
}

void View::draw_inset(const View& part) {
  canvas_.clip(frame_);
  canvas_.rect(frame_, colors_.panel, colors_.faint, 1);
  for (const SketchWall& w : sketch_.walls) {
    for (const Shape& s : w.parts)
      canvas_.polygon(outline(s, plan_), colors_.faint.faded(0.25), colors_.faint.faded(0.5), 0.5);
  }
  for (const SketchBody& b : sketch_.bodies)
    canvas_.disc(plan_(b.pose.at), b.attacker || b.struck ? 2.6 : 1.6, color_of(b));
  const double half_width = part.frame_.width / part.plan_.pixels_per_metre / 2,
               half_height = part.frame_.height / part.plan_.pixels_per_metre / 2;
  const Spot middle = plan_(part.plan_.world_center);
  canvas_.rect({middle.x - pixels(half_width), middle.y - pixels(half_height), pixels(2 * half_width),
                pixels(2 * half_height)},
               colors_.ink.faded(0.06), colors_.ink, 1.4);
  canvas_.unclip();
}

/// A length of 1, 2 or 5 times a power of ten that takes about so many pixels, or less.
double View::round_length(double wanted_pixels) const {
  const double metres = wanted_pixels / plan_.pixels_per_metre;
  const double power = std::pow(10, std::floor(std::log10(metres)));
  const double lead = metres / power;
  return power * (lead >= 5 ? 5 : lead >= 2 ? 2 : 1);
}

Color View::color_of(const SketchBody& body) const {
  return body.fallen ? colors_.faint : colors_.faction(body.faction_number);
}

void View::draw_grid() {
  const double step = round_length(140);
  const double left = plan_.world_center.x - (plan_.page_center.x - frame_.x) / plan_.pixels_per_metre;
  const double bottom =
      plan_.world_center.y - (frame_.y + frame_.height - plan_.page_center.y) / plan_.pixels_per_metre;
  for (double x = std::ceil(left / step) * step; pixels(x - left) < frame_.width; x += step) {
    const Spot s = plan_({x, 0, 0});
    canvas_.line({s.x, frame_.y}, {s.x, frame_.y + frame_.height}, colors_.grid, 1);
  }
  for (double y = std::ceil(bottom / step) * step; pixels(y - bottom) < frame_.height; y += step) {
    const Spot s = plan_({0, y, 0});
    canvas_.line({frame_.x, s.y}, {frame_.x + frame_.width, s.y}, colors_.grid, 1);
  }
}

/// Lines of equal height.
void View::draw_heights() {
  canvas_.rect(frame_, colors_.panel, colors_.grid, 1);
  const double step = round_length(60), middle = plan_.world_center.z;
  const double low = middle - (frame_.y + frame_.height - plan_.page_center.y) / plan_.pixels_per_metre;
  for (double z = std::ceil(low / step) * step; pixels(z - low) < frame_.height; z += step) {
    const double y = plan_.page_center.y - pixels(z - middle);
    const bool zero = std::fabs(z) < step / 1e6;
    canvas_.line({frame_.x, y}, {frame_.x + frame_.width, y}, zero ? colors_.faint : colors_.grid, 1);
    if (y > frame_.y + 16)
      canvas_.text({frame_.x + 6, y - 3}, fmt::format("{:g} {}", zero ? 0.0 : z, sketch_.unit), kSmallText,
                   colors_.faint);
  }
}

/// In a plane seen from the side, and in an elevation, the ground is a line.
void View::draw_ground() {
  if (!sketch_.ground) return;
  const HalfSpace& g = *sketch_.ground;
  const Vec3 across = plan_.toward(), along = cross(g.normal, across);
  if (std::fabs(dot(g.normal, across)) > 1e-9) return;
  const double far = 2 * (frame_.width + frame_.height) / plan_.pixels_per_metre;
  const Vec3 middle = plan_.world_center - g.normal * dot(plan_.world_center - g.point, g.normal);
  const auto at = [&](double aside, double down) { return plan_(middle + along * aside - g.normal * down); };
  canvas_.polygon({at(-far, 0), at(far, 0), at(far, far), at(-far, far)}, colors_.faint.faded(0.16),
                  colors_.ink.faded(0.6), 1.5);
}

/// Walls, and seen from the side or at a slant bodies, the farthest first.
void View::draw_things() {
  if (plan_.from_above()) {
    for (const SketchWall& w : sketch_.walls) draw_wall(w);
    return;
  }
  struct Thing {
    double depth;
    const SketchWall* wall;
    const SketchBody* body;
  };
  std::vector<Thing> things;
  const Vec3 toward = plan_.toward();
  for (const SketchWall& w : sketch_.walls)
    things.push_back({dot(bounds_of(w.parts).center(), toward), &w, nullptr});
  for (const SketchBody& b : sketch_.bodies)
    things.push_back({dot(bounds_of(b.hitboxes).center(), toward), nullptr, &b});
  std::stable_sort(things.begin(), things.end(),
                   [](const Thing& a, const Thing& b) { return a.depth < b.depth; });
  for (const Thing& t : things) t.wall != nullptr ? draw_wall(*t.wall) : draw_body(*t.body);
}

void View::draw_wall(const SketchWall& w) {
  const auto material = static_cast<std::size_t>(std::find(materials_.begin(), materials_.end(), w.material) -
                                                 materials_.begin());
  // What stands one behind the other is told apart by what matters.
  const double strength = plan_.from_above() ? 1 : plan_.oblique() ? 0.8 : w.concerned ? 0.9 : 0.35;
  // The lines between the triangles of a mesh say nothing of what it stops.
  for (const Shape& part : w.parts)
    fill_wall(canvas_, outline(part, plan_), material, w.blocks, w.parts.size() > 1 ? 0.3 : 1.5, strength);
  for (const Shape& part : w.at_end)
    canvas_.polygon(outline(part, plan_), colors_.faint.faded(0.18), colors_.ink.faded(0.8), 1.2, Hatch::none,
                    Stroke::dashed);
  std::vector<Spot> way;
  for (const Vec3& p : w.way) way.push_back(plan_(p));
  canvas_.polyline(way, colors_.faint, 1, Stroke::dashed);
}

void View::draw_body(const SketchBody& b) {
  const Color color = color_of(b);
  // From the side all others would hide those whom it concerns; elsewhere they stand back.
  const bool faint = plan_.from_the_side() && !b.concerned;
  const double strength = faint ? 0.3 : b.concerned ? 1 : 0.7;
  for (const Shape& s : b.hitboxes)
    canvas_.polygon(outline(s, plan_), color.faded((b.fallen ? 0.12 : 0.40) * strength * strength),
                    color.faded(strength), 1.2);
  const Rect around = body_box(b);
  const Spot middle{around.x + around.width / 2, around.y + around.height / 2};
  const Spot at = plan_.from_above() ? plan_(b.pose.at) : middle;
  const double reach = std::max(around.width, around.height) / 2;
  if (!b.fallen && !faint && !plan_.from_the_side()) {
    const Spot foot = plan_(b.pose.at),
               tip = plan_(b.pose.at + b.pose.turn.x * ((reach + 7) / plan_.pixels_per_metre));
    canvas_.line(foot, tip, color.faded(strength), 2.2);
  }
  if (!faint)
    draw_sign(canvas_, at, b.faction_number, std::clamp(reach * 0.45, 3.0, 6.0), color.faded(strength));
  std::vector<Spot> way;
  for (const Vec3& p : b.way) way.push_back(plan_(p));
  canvas_.polyline(way, color.faded(0.7), 1.2, Stroke::dashed);
  if (b.concerned) draw_time_rings(canvas_, b.way, b.way_times, time_step(sketch_), color, plan_);
  if (b.attacker) {
    canvas_.circle(middle, reach + 4, colors_.ink, 1.5), canvas_.circle(middle, reach + 7, colors_.ink, 1);
  }
  for (const Shape& s : b.struck_at) canvas_.polygon(outline(s, plan_), color.faded(0.25), color, 1.2);
  if (b.struck) {
    const Bounds there = bounds_of(b.struck_at);
    canvas_.circle(there.empty() ? middle : plan_(there.center()), reach + 4, colors_.reached, 2.5);
  }
  // As many as it has statuses, side by side below it: above it are contacts.
  const std::size_t statuses = std::min<std::size_t>(b.statuses.size(), 4);
  for (std::size_t i = 0; i < statuses; ++i)
    draw_status(canvas_, {middle.x + 9 * (static_cast<double>(i) - 0.5 * static_cast<double>(statuses - 1)),
                          middle.y + reach + 11});
  if (b.differs) {
    const Rect box = around.grown(10);
    canvas_.polygon({{box.x, box.y},
                     {box.x + box.width, box.y},
                     {box.x + box.width, box.y + box.height},
                     {box.x, box.y + box.height}},
                    colors_.ink.faded(0), colors_.ink, 2.2, Hatch::none, Stroke::dashed);
  }
  if (b.fallen) {
    for (const double side : {-reach, reach})
      canvas_.line({at.x - reach, at.y - side}, {at.x + reach, at.y + side}, colors_.faint, 1.5);
  }
}

Rect View::body_box(const SketchBody& b) const {
  std::vector<Spot> all;
  if (plan_.from_above() || b.hitboxes.empty()) all.push_back(plan_(b.pose.at));
  for (const Shape& s : b.hitboxes) {
    const auto part = outline(s, plan_);
    all.insert(all.end(), part.begin(), part.end());
  }
  return box_around(all);
}

void View::draw_contact(const SketchContact& c) {
  const Spot at = plan_(c.point);
  canvas_.disc(at, 3.2, colors_.reached);
  canvas_.circle(at, 3.2, colors_.sign, 1);
}

Rect View::scale_bar_box() const {
  const double width = pixels(round_length(140)) + 40, height = 30;
  const double left = frame_.x + 10, right = frame_.x + frame_.width - width - 10, top = frame_.y + 6,
               bottom = frame_.y + frame_.height - 36;
  const Rect corners[] = {
      {left, bottom, width, height}, {right, bottom, width, height}, {left, top, width, height}};
  const auto meets = [&](const std::vector<Shape>& shapes, const Rect& corner) {
    return std::any_of(shapes.begin(), shapes.end(), [&](const Shape& shape) {
      return box_around(outline(shape, plan_)).overlaps(corner);
    });
  };
  for (const bool walls_too : {true, false}) {
    for (const Rect& corner : corners) {
      const bool taken =
          std::any_of(sketch_.bodies.begin(), sketch_.bodies.end(),
                      [&](const SketchBody& b) { return body_box(b).overlaps(corner); }) ||
          (walls_too && std::any_of(sketch_.walls.begin(), sketch_.walls.end(),
                                    [&](const SketchWall& w) { return meets(w.parts, corner); }));
      if (!taken) return corner;
    }
  }
  return corners[0];
}

void View::draw_scale_bar() {
  // Heights say the scale already.
  if (plan_.from_the_side() || frame_.width < 240) return;
  const double metres = round_length(140), width = pixels(metres);
  const Rect box = scale_bar_box();
  canvas_.rect(box, colors_.paper.faded(0.7), colors_.paper.faded(0), 0.1);
  const double y = box.y + 22, x = box.x + 8;
  canvas_.line({x, y}, {x + width, y}, colors_.ink, 2);
  for (const double end : {x, x + width}) canvas_.line({end, y - 5}, {end, y + 5}, colors_.ink, 2);
  canvas_.text({x + 6, y - 6}, fmt::format("{} {}", metres, sketch_.unit), kTextSize, colors_.ink);
}

}  // namespace dardo::draw::detail
