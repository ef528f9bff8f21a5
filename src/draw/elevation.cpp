#include "draw/detail/elevation.hpp"
#include "draw/detail/area_outline.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "draw/detail/palette.hpp"

namespace dardo::draw::detail {
namespace {

std::vector<const FlightMark*> flights(const Sketch& sketch) {
  std::vector<const FlightMark*> out;
  for (const Mark& m : sketch.marks) {
    if (const auto* f = std::get_if<FlightMark>(&m)) out.push_back(f);
  }
  return out;
}

/// The ways of shots, or without any of bodies that dash.
std::vector<std::vector<Vec3>> ways(const Sketch& sketch) {
  std::vector<std::vector<Vec3>> out;
  for (const FlightMark* f : flights(sketch)) out.push_back(f->places);
  if (!out.empty()) return out;
  for (const Mark& m : sketch.marks) {
    const auto* dash = std::get_if<DashMark>(&m);
    if (dash == nullptr || dash->legs.empty()) continue;
    auto& way = out.emplace_back();
    way.push_back(dash->legs.front().from.at);
    for (const Leg& leg : dash->legs) way.push_back(leg.at(leg.end).at);
  }
  return out;
}

/// 1, 2 or 5 times a power of ten, at least `least`.
double round_step(double least) {
  const double power = std::pow(10, std::floor(std::log10(least)));
  for (const double lead : {1.0, 2.0, 5.0}) {
    if (lead * power >= least * (1 - 1e-9)) return lead * power;
  }
  return 10 * power;
}

}  // namespace

bool needs_elevation(const Sketch& sketch) {
  Bounds all;
  for (const auto& way : ways(sketch)) {
    for (const Vec3& p : way) all.add(p);
  }
  return !all.empty() && all.high.z - all.low.z > 0.6;
}

double time_step(const Sketch& sketch) {
  double longest = 0;
  for (const FlightMark* f : flights(sketch)) longest = std::max(longest, f->times.back() - f->times.front());
  return longest > 0 ? round_step(longest / 10) : 1;
}

void draw_downed(Canvas& canvas, const Spot& at) {
  for (const double side : {-1.0, 1.0}) {
    canvas.line({at.x - 7, at.y - 7 * side}, {at.x + 7, at.y + 7 * side}, kPaper, 5.5);
    canvas.line({at.x - 7, at.y - 7 * side}, {at.x + 7, at.y + 7 * side}, kReached, 2.6);
  }
}

void draw_flight(Canvas& canvas, const FlightMark& m, double step, const Plan& plan) {
  // How wide it is.
  const double half = plan.up.z > 0.5 ? m.half_height : m.half_width;
  if (const double wide = 2 * half * plan.pixels_per_metre; wide > 3) {
    std::vector<Spot> way;
    for (const Vec3& p : m.places) way.push_back(plan(p));
    canvas.polyline(way, kWay.faded(0.18), wide);
  }
  for (std::size_t i = 1; i < m.places.size(); ++i)
    canvas.line(plan(m.places[i - 1]), plan(m.places[i]), kWay, 1.8);
  const Spot start = plan(m.places.front());
  canvas.disc(start, 3.5, kWay);
  if (m.places.size() < 2) return;
  Spot last = start;
  for (std::size_t i = 1, k = 1; i < m.times.size(); ++i) {
    for (; m.times.front() + static_cast<double>(k) * step < m.times[i]; ++k) {
      const double t = m.times.front() + static_cast<double>(k) * step;
      const double share = (t - m.times[i - 1]) / (m.times[i] - m.times[i - 1]);
      const Spot s = plan(m.places[i - 1] + (m.places[i] - m.places[i - 1]) * share);
      if (std::hypot(s.x - last.x, s.y - last.y) < 9) continue;
      canvas.disc(s, 2.6, kPaper);
      canvas.circle(s, 2.6, kWay, 1.2);
      last = s;
    }
  }
  if (m.ended == Ended::shot_down) return draw_downed(canvas, plan(m.places.back()));
  // The arrow looks along the last part of the way that can be seen.
  const Spot end = plan(m.places.back());
  Spot before = end;
  for (std::size_t i = m.places.size(); i-- > 0 && std::hypot(end.x - before.x, end.y - before.y) < 8;)
    before = plan(m.places[i]);
  const double size = std::hypot(end.x - before.x, end.y - before.y);
  if (size < 4) return;
  const double ux = (end.x - before.x) / size, uy = (end.y - before.y) / size;
  canvas.polygon({end,
                  {end.x - ux * 10 - uy * 4, end.y - uy * 10 + ux * 4},
                  {end.x - ux * 10 + uy * 4, end.y - uy * 10 - ux * 4}},
                 kWay, kWay, 1);
}

/// Of those whom it concerns, above them; where there is no room, higher.
void draw_names(const Sketch& sketch, Canvas& canvas, const Plan& plan, const Rect& frame) {
  std::vector<Rect> taken;
  for (const SketchBody& b : sketch.bodies) {
    if (!b.attacker && !b.struck) continue;
    Rect whole{};
    for (const Shape& s : b.struck_at.empty() ? b.hitboxes : b.struck_at) {
      const Rect r = box_around(outline(s, plan));
      if (whole.width == 0) whole = r;
      const double right = std::max(whole.x + whole.width, r.x + r.width);
      whole.x = std::min(whole.x, r.x), whole.y = std::min(whole.y, r.y), whole.width = right - whole.x;
    }
    const double width = canvas.text_width(b.id, kSmallText);
    Rect box{whole.x + whole.width / 2 - width / 2, whole.y - 16, width, 13};
    const auto meets = [&](const Rect& r) {
      return box.x < r.x + r.width && r.x < box.x + box.width && box.y < r.y + r.height &&
             r.y < box.y + box.height;
    };
    while (std::any_of(taken.begin(), taken.end(), meets)) box.y -= 14;
    if (box.y < frame.y) continue;
    taken.push_back(box);
    canvas.text({box.x, box.y + 11}, b.id, kSmallText, kFactions[b.faction_number % kFactions.size()]);
  }
}

/// What the elevation has to hold: along the way, and up.
Bounds extent_along(const Sketch& sketch, const std::vector<std::vector<Vec3>>& ways, const Vec3& along) {
  const auto seen = [&](const Vec3& p) { return Vec3{dot(p, along), p.z, 0}; };
  Bounds extent;
  for (const auto& way : ways) {
    for (const Vec3& p : way) extent.add(seen(p));
  }
  for (const SketchContact& c : sketch.contacts) extent.add(seen(c.point));
  for (const SketchBody& b : sketch.bodies) {
    if (!b.attacker && !b.struck) continue;
    for (const Shape& s : b.struck_at.empty() ? b.hitboxes : b.struck_at)
      extent.add(seen(bounds(s).low)), extent.add(seen(bounds(s).high));
  }
  return extent;
}

/// Lines of equal height, around the one in the middle of the frame.
void draw_heights(const Sketch& sketch, Canvas& canvas, const Plan& plan, double middle, const Rect& frame) {
  const double step = round_step(34 / plan.pixels_per_metre);
  const double low = middle - (frame.height / 2) / plan.pixels_per_metre,
               high = low + frame.height / plan.pixels_per_metre;
  for (double z = std::ceil(low / step) * step; z < high; z += step) {
    const double y = plan.page_center.y - (z - middle) * plan.pixels_per_metre;
    canvas.line({frame.x, y}, {frame.x + frame.width, y}, std::fabs(z) < 1e-9 ? kFaint : kGrid, 1);
    if (y > frame.y + 16)
      canvas.text({frame.x + 6, y - 3}, fmt::format("{:g} {}", std::fabs(z) < 1e-9 ? 0.0 : z, sketch.unit),
                  kSmallText, kFaint);
  }
}

void draw_elevation(const Sketch& sketch, Canvas& canvas, const Rect& frame) {
  const auto all = ways(sketch);
  // Along the first one: from its start to the place that is farthest off.
  Vec3 along{1, 0, 0};
  double farthest = 0;
  for (const Vec3& p : all.front()) {
    const Vec3 way{p.x - all.front().front().x, p.y - all.front().front().y, 0};
    if (length(way) > farthest) farthest = length(way), along = way / length(way);
  }
  Plan plan;
  plan.right = along, plan.up = {0, 0, 1};
  const Bounds extent = extent_along(sketch, all, along);
  const Plan fitted = fit(extent.grown(0.5), frame.grown(-26));
  plan.pixels_per_metre = fitted.pixels_per_metre;
  plan.page_center = fitted.page_center;
  plan.world_center = along * fitted.world_center.x + Vec3{0, 0, fitted.world_center.y};

  canvas.clip(frame);
  canvas.rect(frame, {0.963, 0.962, 0.945}, kGrid, 1);
  draw_heights(sketch, canvas, plan, fitted.world_center.y, frame);
  for (const SketchWall& w : sketch.walls)
    for (const Shape& part : w.parts)
      canvas.polygon(outline(part, plan), kFaint.faded(0.10), kFaint.faded(0.5),
                     w.parts.size() > 1 ? 0.4 : 1);
  if (sketch.ground && sketch.ground->normal == Vec3{0, 0, 1}) {
    const double y = plan(sketch.ground->point).y;
    canvas.line({frame.x, y}, {frame.x + frame.width, y}, kInk.faded(0.6), 1.5);
  }
  for (const SketchBody& b : sketch.bodies) {
    const Color color = b.fallen ? kFaint : kFactions[b.faction_number % kFactions.size()];
    const bool matters = b.attacker || b.struck;
    for (const Shape& s : b.struck_at.empty() ? b.hitboxes : b.struck_at)
      canvas.polygon(outline(s, plan), color.faded(matters ? 0.4 : 0.10), color.faded(matters ? 1 : 0.35), 1);
  }
  for (const Mark& m : sketch.marks) {
    if (const auto* ring = std::get_if<RingMark>(&m)) {
      canvas.circle(plan(ring->center), ring->radius * plan.pixels_per_metre, kReached.faded(0.8), 1.6);
    }
    if (const auto* area = std::get_if<AreaMark>(&m)) draw_area(canvas, *area, plan);
    if (const auto* hop = std::get_if<HopMark>(&m)) {
      constexpr int kChords = 16;
      const auto at = [&](int i) {
        const double s = static_cast<double>(i) / kChords;
        return plan(hop->from + (hop->to - hop->from) * s + Vec3{0, 0, 4 * hop->arc * s * (1 - s)});
      };
      for (int i = 1; i <= kChords; ++i) canvas.line(at(i - 1), at(i), kWay, 1.6, Stroke::dashed);
    }
    if (const auto* dash = std::get_if<DashMark>(&m)) draw_dash(canvas, *dash, plan);
    if (const auto* lasted = std::get_if<LastingMark>(&m)) draw_lasting(canvas, *lasted, plan);
  }
  draw_names(sketch, canvas, plan, frame);
  const double time = time_step(sketch);
  const auto shots = flights(sketch);
  for (const FlightMark* f : shots) draw_flight(canvas, *f, time, plan);
  for (const SketchContact& c : sketch.contacts) {
    const Spot s = plan(c.point);
    canvas.disc(s, 3.2, kReached);
    canvas.circle(s, 3.2, {1, 1, 1}, 1);
  }
  const std::string title = shots.empty() ? "from the side, along the dash" : "from the side, along the shot";
  const double width = canvas.text_width(title, kTextSize);
  canvas.rect({frame.x + frame.width - width - 18, frame.y + 6, width + 12, 20}, kPaper.faded(0.85),
              kPaper.faded(0), 0.1);
  canvas.text({frame.x + frame.width - width - 12, frame.y + 20}, title, kTextSize, kFaint);
  canvas.unclip();
}

}  // namespace dardo::draw::detail
