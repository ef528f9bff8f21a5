#include "draw/detail/area_outline.hpp"

#include <algorithm>
#include <cmath>

#include "dardo/units.hpp"
#include "draw/detail/palette.hpp"

namespace dardo::draw::detail {
namespace {

using units::kPi;
using Line = std::vector<Vec3>;

/// From `from` to `to` radians about z, seen from the frame.
Line arc(double radius, double from, double to, double z) {
  Line out;
  const int chords = std::max(2, static_cast<int>(std::ceil((to - from) / (kPi / 36))));
  for (int i = 0; i <= chords; ++i) {
    const double a = from + (to - from) * i / chords;
    out.push_back({radius * std::cos(a), radius * std::sin(a), z});
  }
  return out;
}
Line turned_up(Line line) {  // about x, from level to upright
  for (Vec3& p : line) p = {p.x, p.z, p.y};
  return line;
}
void close(Line& line) { line.push_back(line.front()); }

class Outliner {
 public:
  AreaOutline out;

  void operator()(const BallArea& s) { shell(0, s.radius); }
  void operator()(const ShellArea& s) { shell(s.near, s.far); }
  void operator()(const RingArea& s) { band(2 * kPi, s.near, s.far, s.low, s.high); }
  void operator()(const SectorArea& s) { band(s.angle, s.near, s.far, s.low, s.high); }
  void operator()(const ConeArea& s) {
    const double half = s.angle / 2;
    Line level = arc(s.far, -half, half, 0), back = arc(s.near, -half, half, 0);
    level.insert(level.end(), back.rbegin(), back.rend());
    close(level);
    out.faces.push_back(level), out.lines.push_back(level);
    out.lines.push_back(turned_up(level));
    for (const double r : {s.near, s.far}) {
      Line rim = arc(r * std::sin(half), -kPi, kPi, 0);
      for (Vec3& p : rim) p = {r * std::cos(half), p.x, p.y};
      if (r > 0 && half < kPi) out.lines.push_back(rim);
    }
  }
  void operator()(const BoxArea& s) {
    bars({{-s.half.x, -s.half.y, 0},
          {s.half.x, -s.half.y, 0},
          {s.half.x, s.half.y, 0},
          {-s.half.x, s.half.y, 0}},
         -s.half.z, s.half.z);
  }
  void operator()(const PrismArea& s) {
    Line corners;
    for (const planar::Vec2& c : s.polygon) corners.push_back({c.x, c.y, 0});
    bars(corners, s.low, s.high);
  }
  void operator()(const BeamArea& s) { tube({}, {s.length, 0, 0}, s.radius, false); }
  void operator()(const CapsuleArea& s) { tube(s.from, s.to, s.radius, true); }
  /// What it looks like along each axis of its frame.
  void operator()(const HullArea& s) {
    for (int along = 0; along < 3; ++along) {
      Line rim = rim_of(s.points, along);
      if (rim.size() < 2) continue;
      if (along == 0) out.faces.push_back(rim);
      close(rim);
      out.lines.push_back(rim);
    }
  }
  void operator()(const HalfSpaceArea&) {
    const double w = kDrawnHalfSpace, deep = kDrawnHalfSpace / 3;
    out.faces.push_back({{0, -w, 0}, {0, w, 0}, {deep, w, 0}, {deep, -w, 0}});
    out.lines.push_back({{0, -w, 0}, {0, w, 0}});
    out.lines.push_back({{0, 0, -w / 2}, {0, 0, w / 2}});
    for (double y = -w; y <= w; y += w / 4) out.lines.push_back({{0, y, 0}, {deep / 3, y, 0}});
  }

 private:
  /// The convex hull as seen along an axis (0: z), by Andrew's monotone chain (1979).
  static Line rim_of(Line points, int along) {
    const auto u = [along](const Vec3& p) { return along == 2 ? p.y : p.x; };
    const auto v = [along](const Vec3& p) { return along == 0 ? p.y : p.z; };
    std::sort(points.begin(), points.end(),
              [&](const Vec3& a, const Vec3& b) { return std::pair(u(a), v(a)) < std::pair(u(b), v(b)); });
    const auto left = [&](const Vec3& a, const Vec3& b, const Vec3& c) {
      return (u(b) - u(a)) * (v(c) - v(a)) - (v(b) - v(a)) * (u(c) - u(a)) > 0;
    };
    Line rim;
    for (int side = 0; side < 2; ++side) {
      const std::size_t first = rim.size();
      for (const Vec3& p : points) {
        while (rim.size() > first + 1 && !left(rim[rim.size() - 2], rim.back(), p)) rim.pop_back();
        rim.push_back(p);
      }
      if (!rim.empty()) rim.pop_back();
      std::reverse(points.begin(), points.end());
    }
    return rim;
  }
  void shell(double near, double far) {
    Line face = arc(far, -kPi, kPi, 0), inner = arc(near, -kPi, kPi, 0);
    for (const double r : {near, far}) {
      if (!(r > 0)) continue;
      const Line level = arc(r, -kPi, kPi, 0);
      Line across = turned_up(level);
      out.lines.push_back(level), out.lines.push_back(across);
      for (Vec3& p : across) p = {0, p.x, p.z};
      out.lines.push_back(across);
    }
    if (near > 0) face.insert(face.end(), inner.rbegin(), inner.rend());
    out.faces.push_back(face);
  }
  void band(double angle, double near, double far, double low, double high) {
    const double half = angle / 2;
    const bool round = angle >= 2 * kPi - 1e-9;
    for (const double z : {low, high}) {
      Line outer = arc(far, -half, half, z), inner = arc(near, -half, half, z);
      Line face = outer;
      face.insert(face.end(), inner.rbegin(), inner.rend());
      close(face);
      if (z == low) out.faces.push_back(face);
      if (round) {
        out.lines.push_back(outer);
        if (near > 0) out.lines.push_back(inner);
      } else {
        out.lines.push_back(face);
      }
    }
    for (const double a : {-half, half, -half / 2, half / 2}) {
      for (const double r : {near, far})
        out.lines.push_back(
            {{r * std::cos(a), r * std::sin(a), low}, {r * std::cos(a), r * std::sin(a), high}});
    }
  }
  void bars(const Line& corners, double low, double high) {
    for (const double z : {low, high}) {
      Line loop;
      for (const Vec3& p : corners) loop.push_back({p.x, p.y, z});
      if (z == low) out.faces.push_back(loop);
      close(loop);
      out.lines.push_back(loop);
    }
    for (const Vec3& p : corners) out.lines.push_back({{p.x, p.y, low}, {p.x, p.y, high}});
  }
  /// Its outline seen from above and from the side, and its ends.
  void tube(const Vec3& from, const Vec3& to, double radius, bool rounded) {
    const double size = length(to - from);
    const Vec3 x = size > 0 ? (to - from) / size : Vec3{1, 0, 0};
    const Vec3 other = std::fabs(x.z) < 0.9 ? Vec3{0, 0, 1} : Vec3{0, 1, 0};
    const Vec3 y = normalized(cross(other, x)), z = cross(x, y);
    for (const Vec3& side : {y, z}) {
      Line loop;
      const auto half_round = [&](const Vec3& end, double sign) {
        constexpr int kChords = 16;
        for (int i = 0; i <= kChords; ++i) {
          const double a = kPi * i / kChords - kPi / 2;
          const double out_along = rounded ? std::cos(a) * radius : 0;
          loop.push_back(end + (x * out_along + side * (std::sin(a) * radius)) * sign);
        }
      };
      half_round(to, 1), half_round(from, -1);
      if (&side == &y || out.faces.empty()) out.faces.push_back(loop);
      close(loop);
      out.lines.push_back(loop);
    }
  }
};

}  // namespace

AreaOutline outline_of(const AreaMark& mark) {
  Outliner outliner;
  std::visit(outliner, mark.shape);
  // What is round all around has no way of its own to lie: it is drawn upright.
  const bool round =
      std::holds_alternative<BallArea>(mark.shape) || std::holds_alternative<ShellArea>(mark.shape);
  const Pose pose = round ? Pose{mark.pose.at, {}} : mark.pose;
  for (auto* lines : {&outliner.out.faces, &outliner.out.lines}) {
    for (Line& line : *lines) {
      for (Vec3& p : line) p = pose * p;
    }
  }
  return std::move(outliner.out);
}

namespace {

std::vector<std::vector<Spot>> seen(const std::vector<Line>& lines, const Plan& plan) {
  std::vector<std::vector<Spot>> out;
  for (const Line& line : lines) {
    out.emplace_back();
    for (const Vec3& p : line) out.back().push_back(plan(p));
  }
  return out;
}

}  // namespace

void fill_faces(Canvas& canvas, const std::vector<std::vector<Spot>>& faces, Spot origin,
                const std::vector<FalloffPoint>& fades, double alike, const Plan& plan) {
  const Color& color = canvas.colors().reached;
  double most = 0;
  for (const FalloffPoint& p : fades) most = std::max(most, p.factor);
  if (!(most > 0)) {
    for (const std::vector<Spot>& face : faces) canvas.polygon(face, color.faded(alike), color.faded(0), 0);
    return;
  }
  // A picture is smaller than that.
  constexpr double kDarkest = 0.3, kAll = 20000;
  canvas.clip(faces);
  for (std::size_t i = 0; i < fades.size(); ++i) {
    const bool last = i + 1 == fades.size();
    const double factor = last ? fades[i].factor : (fades[i].factor + fades[i + 1].factor) / 2;
    const double from = fades[i].distance * plan.pixels_per_metre;
    const double to = last ? kAll : fades[i + 1].distance * plan.pixels_per_metre;
    if (to > from) canvas.band(origin, from, std::min(to, kAll), color.faded(kDarkest * factor / most));
  }
  canvas.unclip();
}

void draw_area(Canvas& canvas, const AreaMark& mark, const Plan& plan) {
  const AreaOutline outline = outline_of(mark);
  fill_faces(canvas, seen(outline.faces, plan), plan(mark.pose.at), mark.fades, 0.08, plan);
  for (const std::vector<Spot>& line : seen(outline.lines, plan))
    canvas.polyline(line, canvas.colors().reached.faded(0.75), 1.4);
}

void draw_lasting(Canvas& canvas, const LastingMark& mark, const Plan& plan) {
  const Color& color = canvas.colors().reached;
  // So close that a blade's way reads as one sweep.
  double turns = 0;
  for (const Leg& leg : mark.own)
    turns += std::fabs(leg.turn_rate) *
             std::max(0.0, std::min(leg.end, mark.to_s) - std::max(leg.start, mark.from_s));
  const int steps = mark.blade ? std::clamp(static_cast<int>(turns / (kPi / 15)), 6, 60) : 6;
  const double time = mark.to_s - mark.from_s;
  const bool stays =
      mark.blade && length(frame_at(mark, mark.to_s).at - frame_at(mark, mark.from_s).at) < 0.01;
  std::vector<std::vector<Spot>> swept;
  for (int i = 0; i <= steps && time > 0; ++i) {
    const double t = mark.from_s + time * i / steps;
    const AreaOutline outline = outline_of({shape_at(mark, t), frame_at(mark, t)});
    for (const std::vector<Spot>& line : seen(outline.lines, plan))
      canvas.polyline(line, color.faded(mark.blade ? 0.3 : 0.22), 1);
    for (std::vector<Spot>& face : seen(outline.faces, plan)) {
      if (mark.fades.empty() && (mark.blade || i == steps))
        canvas.polygon(face, color.faded(0.06), color.faded(0), 0);
      if (stays) swept.push_back(std::move(face));
    }
  }
  const Pose frame = frame_at(mark, mark.to_s);
  const AreaOutline last = outline_of({shape_at(mark, mark.to_s), frame});
  // By the distance from where it is then: all that it swept only while that stays.
  if (!stays) swept = seen(last.faces, plan);
  if (!mark.fades.empty()) fill_faces(canvas, swept, plan(frame.at), mark.fades, 0, plan);
  for (const std::vector<Spot>& line : seen(last.lines, plan))
    canvas.polyline(line, color.faded(0.75), 1.4, mark.trap ? Stroke::dashed : Stroke::solid);
}

}  // namespace dardo::draw::detail
