#include "draw/detail/marks.hpp"

#include <algorithm>
#include <cmath>
#include <string>

#include "dardo/units.hpp"
#include "draw/detail/area_outline.hpp"
#include "draw/detail/palette.hpp"

namespace dardo::draw::detail {
namespace {

/// 1, 2 or 5 times a power of ten, at least `least`.
double round_step(double least) {
  const double power = std::pow(10, std::floor(std::log10(least)));
  for (const double lead : {1.0, 2.0, 5.0}) {
    if (lead * power >= least * (1 - 1e-9)) return lead * power;
  }
  return 10 * power;
}

double distance(const Spot& a, const Spot& b) { return std::hypot(b.x - a.x, b.y - a.y); }

class Marker {
 public:
  Marker(Canvas& canvas, double step, const Plan& plan)
      : canvas_(canvas), colors_(canvas.colors()), step_(step), plan_(plan) {}

  void operator()(const PathMark& m) const {
    // No page is so wide.
    constexpr double kFarthest = 20000;
    const double long_is = pixels(length(m.to - m.from));
    const Vec3 to = long_is > kFarthest ? m.from + (m.to - m.from) * (kFarthest / long_is) : m.to;
    const Spot a = plan_(m.from), b = plan_(to);
    // How wide a thick one is.
    if (pixels(m.radius) > 1) canvas_.line(a, b, colors_.way.faded(0.25), 2 * pixels(m.radius));
    canvas_.line(a, b, colors_.way, 2);
    canvas_.disc(a, 3.5, colors_.way);
    if (distance(a, b) >= 12) draw_arrowhead(canvas_, a, b);
  }
  void operator()(const MotionMark&) const {}  // bodies are drawn with their ways

  /// The way of a shot with a ring at each full step of time, and arrows along it.
  void operator()(const FlightMark& m) const {
    std::vector<Spot> way;
    for (const Vec3& p : m.places) way.push_back(plan_(p));
    // How wide it is, seen from here.
    const double half = std::fabs(plan_.up.z) > 0.5 ? m.half_height : m.half_width;
    if (const double wide = 2 * half * plan_.pixels_per_metre; wide > 3)
      canvas_.polyline(way, colors_.way.faded(0.18), wide);
    canvas_.polyline(way, colors_.way, 1.8);
    canvas_.disc(way.front(), 3.5, colors_.way);
    if (way.size() < 2) return;
    draw_time_rings(canvas_, m.places, m.times, step_, colors_.way, plan_);
    arrows_along(way);
    if (m.ended == Ended::shot_down) return draw_downed(canvas_, way.back());
    // The last arrow looks along the last part of the way that can be seen.
    Spot before = way.back();
    for (std::size_t i = way.size(); i-- > 0 && distance(way.back(), before) < 8;) before = way[i];
    if (distance(way.back(), before) >= 4) draw_arrowhead(canvas_, before, way.back());
    if (m.radius > 0 && pixels(m.radius) > 3) canvas_.circle(way.back(), pixels(m.radius), colors_.way, 1);
  }
  void operator()(const RingMark& m) const {
    const Spot middle = plan_(m.center);
    std::vector<Spot> disc;
    constexpr int kCorners = 180;
    for (int i = 0; i < kCorners; ++i) {
      const double angle = 2 * units::kPi * i / kCorners;
      disc.push_back(
          {middle.x + pixels(m.radius) * std::cos(angle), middle.y + pixels(m.radius) * std::sin(angle)});
    }
    fill_faces(canvas_, {disc}, middle, m.fades, 0.07, plan_);
    canvas_.circle(middle, pixels(m.radius), colors_.reached.faded(0.8), 1.8);
    // At a slant a circle alone could lie or stand.
    if (plan_.oblique())
      canvas_.polyline(level_circle(m.center, m.radius, plan_), colors_.reached.faded(0.5), 1.2);
    cross_hair(middle);
  }
  void operator()(const AreaMark& m) const {
    draw_area(canvas_, m, plan_);
    cross_hair(plan_(m.pose.at));
  }
  void operator()(const HopMark& m) const {
    constexpr int kChords = 16;
    const auto at = [&](int i) {
      const double s = static_cast<double>(i) / kChords;
      return plan_(m.from + (m.to - m.from) * s + Vec3{0, 0, 4 * m.arc * s * (1 - s)});
    };
    std::vector<Spot> way;
    for (int i = 0; i <= kChords; ++i) way.push_back(at(i));
    canvas_.polyline(way, colors_.way, 2, Stroke::dashed);
    if (m.number == 0) return;
    const Spot middle = way[kChords / 2];
    canvas_.disc(middle, 8, colors_.paper), canvas_.circle(middle, 8, colors_.way, 1.2);
    const std::string number = std::to_string(m.number);
    canvas_.text({middle.x - 0.5 * canvas_.text_width(number, kTextSize - 2), middle.y + 4}, number,
                 kTextSize - 2, colors_.ink);
  }
  void operator()(const DashMark& m) const {
    for (const Shape& s : m.hitboxes)
      canvas_.polygon(outline(s, plan_), colors_.way.faded(0.12), colors_.way.faded(0.8), 1.4);
    for (const Leg& leg : m.legs) canvas_.line(plan_(leg.from.at), plan_(leg.at(leg.end).at), colors_.way, 3);
    if (m.legs.empty()) return;
    const Spot from = plan_(m.legs.back().from.at), to = plan_(m.legs.back().at(m.legs.back().end).at);
    if (distance(from, to) >= 12) draw_arrowhead(canvas_, from, to, 13);
  }
  void operator()(const LastingMark& m) const { draw_lasting(canvas_, m, plan_); }
  void operator()(const SightMark& m) const {
    const Spot a = plan_(m.from), b = plan_(m.to);
    const Spot c = m.cut ? plan_(*m.cut) : b;
    canvas_.line(a, c, colors_.sight.faded(0.8), 1.2);
    if (!m.cut) return;
    canvas_.line(c, b, colors_.sight.faded(0.6), 1, Stroke::dotted);
    draw_cut(canvas_, c);
  }
  /// Around the origin, at its height; from the side as far as it reaches up.
  void operator()(const ReachMark& m) const {
    for (const double radius : {m.near, m.far}) {
      if (!(radius > 0)) continue;
      if (plan_.oblique()) {
        canvas_.polyline(level_circle(m.center, radius, plan_), colors_.reach, 1, Stroke::dashed);
      } else {
        canvas_.circle(plan_(m.center), pixels(radius), colors_.reach, 1, Stroke::dashed);
      }
    }
  }

 private:
  double pixels(double metres) const { return metres * plan_.pixels_per_metre; }
  void cross_hair(Spot s) const {
    canvas_.line({s.x - 6, s.y}, {s.x + 6, s.y}, colors_.reached, 1.5);
    canvas_.line({s.x, s.y - 6}, {s.x, s.y + 6}, colors_.reached, 1.5);
  }
  /// On a long way and on loops the last arrow does not say which way it went.
  void arrows_along(const std::vector<Spot>& way) const {
    constexpr double kEvery = 150, kFromEnd = 40;
    double whole = 0;
    for (std::size_t i = 1; i < way.size(); ++i) whole += distance(way[i - 1], way[i]);
    double along = 0, next = kEvery;
    for (std::size_t i = 1; i < way.size() && next < whole - kFromEnd && next < 40 * kEvery; ++i) {
      const double step = distance(way[i - 1], way[i]);
      for (; along + step >= next && next < whole - kFromEnd && next < 40 * kEvery; next += kEvery) {
        const double share = (next - along) / step;
        draw_arrowhead(canvas_, way[i - 1],
                       {way[i - 1].x + (way[i].x - way[i - 1].x) * share,
                        way[i - 1].y + (way[i].y - way[i - 1].y) * share},
                       8);
      }
      along += step;
    }
  }

  Canvas& canvas_;
  const Palette& colors_;
  double step_;
  const Plan& plan_;
};

}  // namespace

double time_step(const Sketch& sketch) {
  double longest = 0;
  for (const Mark& m : sketch.marks) {
    if (const auto* f = std::get_if<FlightMark>(&m))
      longest = std::max(longest, f->times.back() - f->times.front());
  }
  // At a moment the same as of the whole course.
  if (sketch.at_s || !(longest > 0)) longest = sketch.span.to_s - sketch.span.from_s;
  return longest > 0 ? round_step(longest / 10) : 1;
}

void draw_arrowhead(Canvas& canvas, Spot before, Spot tip, double size) {
  const double away = distance(before, tip);
  if (!(away > 0)) return;
  const double ux = (tip.x - before.x) / away, uy = (tip.y - before.y) / away, half = 0.4 * size;
  canvas.polygon({tip,
                  {tip.x - ux * size - uy * half, tip.y - uy * size + ux * half},
                  {tip.x - ux * size + uy * half, tip.y - uy * size - ux * half}},
                 canvas.colors().way, canvas.colors().way, 1);
}

void draw_cut(Canvas& canvas, Spot at) {
  for (const double side : {-4.0, 4.0})
    canvas.line({at.x - 4, at.y - side}, {at.x + 4, at.y + side}, canvas.colors().ink, 1.8);
}

void draw_downed(Canvas& canvas, const Spot& at) {
  for (const double side : {-7.0, 7.0}) {
    canvas.line({at.x - 7, at.y - side}, {at.x + 7, at.y + side}, canvas.colors().paper, 5.5);
    canvas.line({at.x - 7, at.y - side}, {at.x + 7, at.y + side}, canvas.colors().reached, 2.6);
  }
}

void draw_status(Canvas& canvas, const Spot& at) {
  constexpr double kHalf = 4.2;
  const std::vector<Spot> corners{
      {at.x, at.y - kHalf}, {at.x + kHalf, at.y}, {at.x, at.y + kHalf}, {at.x - kHalf, at.y}};
  canvas.polygon(corners, canvas.colors().reached, canvas.colors().paper, 1.2);
}

void draw_time_rings(Canvas& canvas, const std::vector<Vec3>& places, const std::vector<double>& times,
                     double step, const Color& color, const Plan& plan) {
  if (places.size() < 2 || !(times.back() - times.front() < 1e4 * step)) return;
  Spot last = plan(places.front());
  for (std::size_t i = 1, k = 1; i < times.size(); ++i) {
    for (; times.front() + static_cast<double>(k) * step < times[i]; ++k) {
      const double t = times.front() + static_cast<double>(k) * step;
      const double share = (t - times[i - 1]) / (times[i] - times[i - 1]);
      const Spot s = plan(places[i - 1] + (places[i] - places[i - 1]) * share);
      if (distance(s, last) < 9) continue;
      canvas.disc(s, 2.6, canvas.colors().paper);
      canvas.circle(s, 2.6, color, 1.2);
      last = s;
    }
  }
}

void draw_mark(Canvas& canvas, const Mark& mark, double step, const Plan& plan) {
  std::visit(Marker(canvas, step, plan), mark);
}

}  // namespace dardo::draw::detail
