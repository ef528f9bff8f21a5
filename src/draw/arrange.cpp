#include <algorithm>
#include <cmath>
#include <optional>

#include "draw/detail/page.hpp"

namespace dardo::draw::detail {
namespace {

constexpr double kLookDown = 0.61;  // radians, of an oblique view: 35 degrees

/// The ways of shots and of bodies that dash.
std::vector<std::vector<Vec3>> rising_ways(const Sketch& sketch) {
  std::vector<std::vector<Vec3>> out;
  for (const Mark& m : sketch.marks) {
    if (const auto* flight = std::get_if<FlightMark>(&m)) out.push_back(flight->places);
    const auto* dash = std::get_if<DashMark>(&m);
    if (dash == nullptr || dash->legs.empty()) continue;
    auto& way = out.emplace_back();
    way.push_back(dash->legs.front().from.at);
    for (const Leg& leg : dash->legs) way.push_back(leg.at(leg.end).at);
  }
  return out;
}

bool needs_elevation(const Sketch& sketch) {
  if (sketch.flat) return false;
  Bounds all;
  for (const auto& way : rising_ways(sketch)) {
    for (const Vec3& p : way) all.add(p);
  }
  return !all.empty() && all.high.z - all.low.z > 0.6;
}

/// From the start of its first way to the place that is farthest off, or along its first ray.
std::optional<double> main_direction(const Sketch& sketch) {
  auto ways = rising_ways(sketch);
  for (const Mark& m : sketch.marks) {
    if (const auto* path = std::get_if<PathMark>(&m)) ways.push_back({path->from, path->to});
  }
  for (const auto& way : ways) {
    Vec3 along;
    for (const Vec3& p : way) {
      const Vec3 off{p.x - way.front().x, p.y - way.front().y, 0};
      if (length(off) > length(along)) along = off;
    }
    if (length(along) > 1e-6) return std::atan2(along.y, along.x);
  }
  return std::nullopt;
}

Plan plan_of(const Eye& eye, const std::vector<Sketch>& sketches) {
  Plan plan;
  if (eye.from == Eye::From::above) return plan;
  double right = eye.right.value_or(0.5);
  if (!eye.right && eye.from == Eye::From::side) right = main_direction(sketches.front()).value_or(0);
  const Vec3 ahead{-std::sin(right), std::cos(right), 0};
  plan.right = {std::cos(right), std::sin(right), 0}, plan.up = {0, 0, 1};
  if (eye.from == Eye::From::oblique) plan.up = ahead * std::sin(kLookDown) + Vec3{0, 0, std::cos(kLookDown)};
  return plan;
}

/// One view's part of a cell, and what it has to show.
struct Slot {
  Plan plan;
  Extent extent;
  Rect frame{};
  double scale = 0;
};

Rect inside(const Rect& frame) {
  return frame.grown(-std::clamp(0.05 * std::min(frame.width, frame.height), 8.0, 30.0));
}

/// Gives each view its part of a cell: plans and oblique views in a row, elevations below them. The scale of
/// the first is returned.
double share_out(std::vector<Slot>& slots, const Rect& cell) {
  const auto is_side = [](const Slot& s) { return s.plan.from_the_side(); };
  const auto sides = static_cast<double>(std::count_if(slots.begin(), slots.end(), is_side));
  const double tops = static_cast<double>(slots.size()) - sides;
  const auto place = [&](double strip) {
    double x = cell.x, y = cell.y + (tops > 0 ? cell.height - sides * strip : 0), shared = 1e300;
    for (Slot& s : slots) {
      if (is_side(s)) {
        s.frame = {cell.x, y, cell.width, strip}, y += strip;
      } else {
        s.frame = {x, cell.y, cell.width / tops, cell.height - sides * strip}, x += s.frame.width;
      }
      s.scale = scale_to_fit(s.extent, inside(s.frame));
      if (!s.plan.oblique()) shared = std::min(shared, s.scale);
    }
    for (Slot& s : slots) {
      if (!s.plan.oblique()) s.scale = shared;
    }
    return slots.front().scale;
  };
  if (sides == 0) return place(0);
  if (tops == 0) return place(cell.height / sides);
  double best = 0, strip = 0;
  for (const double part : {0.14, 0.18, 0.22, 0.27, 0.33, 0.4, 0.48}) {
    const double tried = part * cell.height / std::max(1.0, 0.7 * sides);
    if (const double scale = place(tried); scale > best * 1.001) best = scale, strip = tried;
  }
  return place(strip);
}

}  // namespace

std::vector<Framed> arrange(const std::vector<Sketch>& sketches, const PictureOptions& options,
                            const Rect& room, double caption_height) {
  std::vector<Eye> eyes = options.eyes;
  if (eyes.empty()) {
    eyes = {Eye{}};
    if (std::any_of(sketches.begin(), sketches.end(), needs_elevation))
      eyes.push_back({.from = Eye::From::side});
  }
  std::vector<Slot> slots;
  for (const Eye& eye : eyes) {
    const Plan plan = plan_of(eye, sketches);
    Extent all(plan);
    if (options.focus) {
      const Vec3 r{options.focus->radius, options.focus->radius, options.focus->radius};
      all.add(Bounds{options.focus->center - r, options.focus->center + r});
    } else {
      for (const Sketch& s : sketches) all.add(extent_of(s, plan));
    }
    slots.push_back({plan, all});
  }
  const std::size_t count = sketches.size();
  const double caption = count > 1 ? caption_height : 0;
  const auto cell_of = [&](std::size_t i, std::size_t columns) {
    const std::size_t rows = (count + columns - 1) / columns;
    const double width = room.width / static_cast<double>(columns),
                 height = room.height / static_cast<double>(rows);
    return Rect{room.x + width * static_cast<double>(i % columns),
                room.y + height * static_cast<double>(i / columns) + caption, width, height - caption};
  };
  std::size_t columns = 1;
  double best = 0;
  for (std::size_t c = 1; c <= count; ++c) {
    if (const double scale = share_out(slots, cell_of(0, c)); scale > best * 1.001) best = scale, columns = c;
  }
  std::vector<Framed> out;
  for (std::size_t i = 0; i < count; ++i) {
    share_out(slots, cell_of(i, columns));
    for (const Slot& s : slots)
      out.push_back({i, placed_on(s.plan, s.extent, inside(s.frame), s.scale), s.frame});
  }
  return out;
}

}  // namespace dardo::draw::detail
