#include "dardo/geometry/sector.hpp"

#include <algorithm>
#include <limits>

#include "dardo/units.hpp"
#include "geometry/detail/convex.hpp"
#include "geometry/detail/elementary.hpp"
#include "geometry/detail/kernels.hpp"
#include "geometry/detail/region.hpp"
#include "geometry/detail/sector_part.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo {
namespace {

using detail::AngleRange;
using detail::SectorPart;
using units::kPi;

/// x along the sector's axis, z along its up.
Rotation frame_of(const Sector& s) {
  if (s.band) return {s.axis, cross(s.up, s.axis), s.up};
  const Vec3 y = detail::any_perpendicular(s.axis);
  return {s.axis, y, cross(s.axis, y)};
}

/// The angles of all of it: about its upright, or from its axis; and around that.
struct Angles {
  std::array<double, 2> about, around{-kPi, kPi};
};
Angles angles_of(const Sector& s) {
  const double half = s.angle / 2;
  return {{s.band ? -half : 0, half}};
}

SectorPart whole(const Sector& s) {
  SectorPart p{.apex = s.apex, .frame = frame_of(s), .near = s.near, .far = s.far};
  p.upright = s.band.has_value();
  p.band = s.band.value_or(Band{});
  const Angles all = angles_of(s);
  p.about = AngleRange(all.about), p.around = AngleRange(all.around);
  return p;
}

/// Of a whole shell: outside it the nearest point of the shape counts, in its hole the farthest.
Closest closest_of_shell(const Shape& shape, const Sector& s, double touching) {
  const Nearest inner = nearest(shape, s.apex);
  const Vec3 outer = detail::farthest_from(shape, s.apex);
  const double least = inner.distance, most = length(outer - s.apex);
  const auto at = [&](const Vec3& p, double away, double radius) {
    return s.apex + (away > 0 ? (p - s.apex) / away : s.axis) * radius;
  };
  if (least > s.far + touching) return {least - s.far, inner.point, at(inner.point, least, s.far)};
  if (most < s.near - touching) return {s.near - most, outer, at(outer, most, s.near)};
  // In it: one of the two, or where the way between them comes out of the hole.
  if (least >= s.near || most <= s.near) {
    const Vec3 p = least >= s.near ? inner.point : outer;
    return {0, p, p};
  }
  const Vec3 from = inner.point - s.apex, way = outer - inner.point;
  const double a = dot(way, way), b = dot(from, way), c = dot(from, from) - s.near * s.near;
  const Vec3 p = inner.point + way * ((std::sqrt(std::max(0.0, b * b - a * c)) - b) / a);
  return {0, p, p};
}

/// What is nearest to a sector filled up to its axis or its apex, and all round: the sector lies in that, so
/// this is the answer wherever it finds a place of the sector.
Closest closest_of_filled(const Shape& shape, const Sector& s, double touching) {
  if (s.band && s.band->high - s.band->low > touching) {
    const Cylinder filled{s.apex + s.up * s.band->low, s.apex + s.up * s.band->high, s.far};
    return closest(shape, Shape(filled));
  }
  const Nearest near = s.band ? nearest(shape, s.apex + s.up * s.band->low) : nearest(shape, s.apex);
  if (s.band) return {0, near.point, near.point};  // a disc: nothing is told
  if (near.distance <= s.far) return {0, near.point, near.point};
  return {near.distance - s.far, near.point, s.apex + (near.point - s.apex) * (s.far / near.distance)};
}

/// In the hole of a sector: no place of the shape is farther from the axis or the apex than this one, and
/// none of the sector nearer than its near side. Nothing of what no closed form tells.
std::optional<Vec3> farthest_out(const Shape& shape, const Sector& s) {
  if (!s.band) return detail::farthest_from(shape, s.apex);
  return detail::farthest_from_line(shape, s.apex, s.up);
}

/// What closed forms and the filled sector tell, if they do: see `closest_within`.
std::optional<Closest> closest_by_form(const Shape& shape, const Sector& s, double beyond, double touching) {
  if (const auto* ball = std::get_if<Ball>(&shape)) {
    const Nearest n = nearest(s, ball->center);
    const double gap = n.distance - ball->radius;
    if (gap <= touching) return Closest{0, n.point, n.point};
    return Closest{gap, n.point + (ball->center - n.point) * (gap / n.distance), n.point};
  }
  if (beyond < std::numeric_limits<double>::infinity()) {
    // Far from all of it nothing has to be looked at closely.
    const Vec3 middle = center(shape);
    const Nearest n = nearest(s, middle);
    if (const double sure = n.distance - detail::reach_from(shape, middle); sure > beyond)
      return Closest{sure, middle, n.point};
  }
  if (s.angle >= 2 * kPi && !s.band) return closest_of_shell(shape, s, touching);
  const auto lies_in_it = [&](const Vec3& place) { return nearest(s, place).distance <= touching; };
  const Closest filled = closest_of_filled(shape, s, touching);
  if (filled.distance > beyond || lies_in_it(filled.on_b)) return filled;
  if (const auto outer = s.near > 0 ? farthest_out(shape, s) : std::nullopt) {
    const Vec3 out = *outer - s.apex;
    const double height = dot(out, s.up), least = s.near - length(s.band ? out - s.up * height : out);
    // As far out it may be at other heights, too.
    const Vec3 place =
        s.band
            ? nearest(shape, *outer + s.up * (std::clamp(height, s.band->low, s.band->high) - height)).point
            : *outer;
    const Nearest n = nearest(s, place);
    if (least > beyond || (least > touching && n.distance <= least + touching))
      return Closest{least > beyond ? least : n.distance, place, n.point};
  }
  return std::nullopt;
}

double scale_of(const Sector& s) { return std::max(largest(s.apex), s.far); }

/// The roots of a t² + 2 b t + c, in order, found without cancellation.
void add_roots(double a, double b, double c, std::array<double, 12>& out, std::size_t& count) {
  const double below = b * b - a * c;
  if (a == 0) {
    if (b != 0) out[count++] = -c / (2 * b);
    return;
  }
  // A double root that rounding has pushed out of sight is still looked at: whoever asks tests the place.
  if (below < -1e-12 * std::max(b * b, std::fabs(a * c))) return;
  const double root = std::sqrt(std::max(0.0, below)), q = -(b + std::copysign(root, b));
  if (q != 0) out[count++] = c / q;
  out[count++] = q / a;
}

}  // namespace

Sector ring(const Vec3& center, double near, double far, double low, double high) {
  return {.apex = center, .near = near, .far = far, .band = Band{low, high}};
}
Sector shell(const Vec3& center, double near, double far) {
  return {.apex = center, .near = near, .far = far, .band = std::nullopt};
}

Nearest nearest(const Sector& s, const Vec3& place) {
  const Vec3 out = place - s.apex;
  const double half = s.angle / 2;
  // In the half-plane of the axis and the place (upright: in the plane across up) it is a piece of a disc:
  // u along the axis, w away from it.
  const double height = s.band ? dot(out, s.up) : 0;
  const Vec3 flat = s.band ? out - s.up * height : out;
  const double u = dot(flat, s.axis);
  Vec3 off = flat - s.axis * u;
  off = off - s.axis * dot(off, s.axis);  // once more: close to the axis little else is left than rounding
  const double w = length(off), away = std::sqrt(u * u + w * w);
  // On the axis, as far as can be told, one side is as near as another.
  const Vec3 across = w > 1e-14 * away ? off / w : frame_of(s).y;
  double radius = 0, angle = detail::arc_tangent(w, u);
  if (angle <= half) {
    radius = std::clamp(away, s.near, s.far);
  } else {
    radius = std::clamp(away * detail::cosine(angle - half), s.near, s.far);
    angle = half;
  }
  const bool within = angle != half && radius == away;
  const Vec3 point_flat =
      within ? flat : s.axis * (radius * detail::cosine(angle)) + across * (radius * detail::sine(angle));
  const double level = s.band ? std::clamp(height, s.band->low, s.band->high) : 0;
  if (within && level == height) return {0, place};
  const Vec3 point = s.apex + point_flat + (s.band ? s.up * level : Vec3{});
  return {length(place - point), point};
}

bool contains(const Sector& s, const Vec3& place) {
  return nearest(s, place).distance <= detail::slack(std::max(largest(place), scale_of(s)));
}

Bounds bounds(const Sector& s) {
  const SectorPart part = whole(s);
  Bounds b;
  for (const Vec3& d : {Vec3{1, 0, 0}, Vec3{0, 1, 0}, Vec3{0, 0, 1}})
    b.add(part.farthest(d)), b.add(part.farthest(-d));
  return b;
}

Sector placed(const Sector& s, const Pose& pose) {
  Sector out = s;
  out.apex = pose * s.apex;
  out.axis = pose.turn * s.axis;
  out.up = pose.turn * s.up;
  return out;
}

Problems check(const Sector& s) {
  Problems out;
  const auto unit = [](const Vec3& v) { return is_finite(v) && std::fabs(length(v) - 1) <= 1e-9; };
  if (!is_finite(s.apex) || largest(s.apex) > kMaxCoordinate) {
    out.push_back(
        {"/sector/apex", "is not finite, or lies beyond 10,000,000 m", "three coordinates of at most 1e7"});
  }
  if (!unit(s.axis)) out.push_back({"/sector/axis", "is not a direction", "a vector one metre long"});
  if (!(s.angle >= 0 && s.angle <= 2 * kPi))
    out.push_back({"/sector/angle", "is not an opening", "from 0 to a whole turn"});
  if (!(s.near >= 0 && s.near <= s.far && s.far <= kMaxCoordinate)) {
    out.push_back({"/sector/far", "is no reach from \"near\"", "0 <= near <= far <= 1e7, metres"});
  }
  if (s.band) {
    const auto in_range = [](double v) { return std::fabs(v) <= kMaxCoordinate; };
    if (!(s.band->low <= s.band->high) || !in_range(s.band->low) || !in_range(s.band->high)) {
      out.push_back({"/sector/band", "is no band of heights", "low <= high, each at most 1e7 in size"});
    }
    if (!unit(s.up) || (unit(s.axis) && std::fabs(dot(s.up, s.axis)) > 1e-9)) {
      out.push_back(
          {"/sector/up", "is not at a right angle to the axis", "a vector one metre long across the axis"});
    }
  }
  return out;
}

Crossings crossings(const Sector& s, const Ray& line) {
  // Where the ray's line meets any surface that bounds the sector; between two such places it is in or out.
  std::array<double, 12> at{};
  std::size_t count = 0;
  const auto wide = [&](double t) { return t > 0 && t < line.length; };
  const Vec3 o = line.from - s.apex, d = line.direction;
  const Vec3 of = s.band ? o - s.up * dot(o, s.up) : o, df = s.band ? d - s.up * dot(d, s.up) : d;
  at[count++] = 0, at[count++] = line.length;
  for (const double r : {s.near, s.far}) {
    if (r > 0) add_roots(dot(df, df), dot(df, of), dot(of, of) - r * r, at, count);
  }
  const double c = detail::cosine(s.angle / 2), c2 = c * c;
  const double ou = dot(of, s.axis), du = dot(df, s.axis);
  if (s.angle < 2 * kPi)
    add_roots(du * du - c2 * dot(df, df), ou * du - c2 * dot(of, df), ou * ou - c2 * dot(of, of), at, count);
  if (s.band) {
    const double climb = dot(d, s.up);
    for (const double h : {s.band->low, s.band->high}) {
      if (climb != 0) at[count++] = (h - dot(o, s.up)) / climb;
    }
  }
  if (dot(df, df) > 0) at[count++] = -dot(of, df) / dot(df, df);  // past the apex
  const auto last = std::remove_if(at.begin() + 2, at.begin() + static_cast<std::ptrdiff_t>(count),
                                   [&](double t) { return !wide(t); });
  std::sort(at.begin(), last);
  const auto inside = [&](double t) { return contains(s, line.at(t)); };
  Crossings out;
  const auto add = [&](double from, double to) {
    if (out.count > 0 && out.stretch[out.count - 1].leave >= from) {
      out.stretch[out.count - 1].leave = std::max(out.stretch[out.count - 1].leave, to);
    } else if (out.count < out.stretch.size()) {
      out.stretch[out.count++] = {from, to};
    }
  };
  for (auto t = at.begin(); t != last; ++t) {
    if (inside(*t)) add(*t, *t);
    if (t + 1 != last && t[1] > t[0] && inside(0.5 * (t[0] + t[1]))) add(t[0], t[1]);
  }
  return out;
}

std::optional<Contact> ray(const Sector& s, const Ray& line) {
  const Crossings all = crossings(s, line);
  if (all.count == 0) return std::nullopt;
  const double t = all.begin()->enter;
  const Vec3 point = line.at(t);
  if (t == 0) return Contact{0, point, -line.direction};
  // Just before the contact the way to the nearest point is the normal turned about.
  const Vec3 before = line.at(t - std::max(1e-6 * s.far, 1e-9 * largest(point)));
  const Nearest n = nearest(s, before);
  return Contact{t, point, n.distance > 0 ? (before - n.point) / n.distance : -line.direction};
}

Closest closest(const Shape& shape, const Sector& s) {
  return detail::closest_within(shape, s, std::numeric_limits<double>::infinity());
}

Closest detail::closest_within(const Shape& shape, const Sector& s, double beyond) {
  const double scale = std::max({scale_of(s), largest(center(shape))});
  const double touching = detail::slack(scale), enough = 1e-8 * std::max(1.0, scale);
  if (const auto told = closest_by_form(shape, s, beyond, touching)) return *told;
  // Best first: the part whose hull is nearest is cut in two until none can be nearer than what was found.
  struct Part {
    double low;
    std::array<double, 2> about, around;
    bool operator<(const Part& other) const { return low > other.low; }
  };
  constexpr std::size_t kMostParts = 600;
  std::array<Part, kMostParts + 2> heap;
  std::size_t count = 0, looked_at = 0;
  const detail::Convex convex(shape);
  SectorPart part = whole(s);
  Closest best{std::numeric_limits<double>::infinity(), {}, {}};
  double least_beyond = std::numeric_limits<double>::infinity();  // of parts that are farther than is asked
  const auto look = [&](const std::array<double, 2>& about, const std::array<double, 2>& around) {
    part.about = AngleRange(about), part.around = AngleRange(around);
    const auto apart = detail::nearest_points_within(convex, detail::Convex(part), beyond);
    ++looked_at;
    if (apart.clear > beyond) {
      least_beyond = std::min(least_beyond, apart.clear);
      return;
    }
    const Nearest n = nearest(s, apart.on_a);
    if (n.distance < best.distance) best = {n.distance <= touching ? 0 : n.distance, apart.on_a, n.point};
    // Of the apex side of the hull the sector may have nothing: ask from the nearest point of the sector,
    // too.
    const Nearest back = nearest(shape, n.point);
    if (back.distance < best.distance)
      best = {back.distance <= touching ? 0 : back.distance, back.point, n.point};
    // Where the two may have a place in common, projecting to and fro finds it (von Neumann), the sooner when
    // each step goes a little farther: the hull of a part with a hole says little of it.
    constexpr int kMostProjections = 40;
    constexpr double kFarther = 1.8;
    Vec3 on_shape = back.point;
    double last = back.distance;
    for (int i = 0; i < kMostProjections && apart.distance == 0 && best.distance > 0; ++i) {
      const Vec3 to = nearest(s, on_shape).point;
      const Vec3 within = nearest(s, on_shape + (to - on_shape) * kFarther).point;
      const Nearest fro = nearest(shape, within);
      if (fro.distance < best.distance)
        best = {fro.distance <= touching ? 0 : fro.distance, fro.point, within};
      if (!(fro.distance < last * (1 - 1e-3))) break;
      on_shape = fro.point, last = fro.distance;
    }
    if (best.distance > 0 && apart.clear < best.distance) {
      heap[count++] = {std::min(apart.distance, apart.clear + enough), about, around};
      std::push_heap(heap.begin(), heap.begin() + static_cast<std::ptrdiff_t>(count));
    }
  };
  const auto halves = [](const std::array<double, 2>& r) {
    const double m = 0.5 * (r[0] + r[1]);
    return std::array{std::array{r[0], m}, std::array{m, r[1]}};
  };
  const Angles all = angles_of(s);
  look(all.about, all.around);
  while (count > 0 && best.distance > 0 && looked_at < kMostParts) {
    std::pop_heap(heap.begin(), heap.begin() + static_cast<std::ptrdiff_t>(count));
    const Part p = heap[--count];
    // What is nearly nothing may be nothing.
    if (p.low >= best.distance - std::min(enough, best.distance / 2)) break;
    if (p.low > beyond) {
      best.distance = std::min(p.low, least_beyond);
      return best;
    }
    const bool cut_around =
        !part.upright &&
        (p.around[1] - p.around[0]) * detail::sine(std::min(p.about[1], kPi / 2)) > p.about[1] - p.about[0];
    if (cut_around) {
      for (const auto& h : halves(p.around)) look(p.about, h);
    } else {
      for (const auto& h : halves(p.about)) look(h, p.around);
    }
  }
  if (best.distance == 0) best.on_a = best.on_b;
  best.distance = std::min(best.distance, least_beyond);
  return best;
}

bool overlaps(const Shape& shape, const Sector& s) { return closest(shape, s).distance == 0; }

std::optional<Contact> sweep(const Shape& moving, const Vec3& travel, const Sector& s) {
  const double size = length(travel);
  const auto gap = [&](double part) { return closest(placed(moving, {travel * part, {}}), s).distance; };
  const auto contact = [&](double part) {
    const Closest at = closest(placed(moving, {travel * part, {}}), s);
    const Vec3 out = at.on_a - at.on_b;
    const Vec3 against = size > 0 ? -travel / size : Vec3{0, 0, 1};
    return Contact{part * size, at.on_b, part > 0 && length(out) > 0 ? normalized(out) : against};
  };
  if (gap(0) == 0) return contact(0);
  // The distance changes no faster than the shape moves, and its square is bent upward by no more than a
  // parabola: a stretch whose ends are far enough holds no contact, any other is cut in two.
  const double fine = 1e-8 * std::max(1.0, std::max(scale_of(s), largest(center(moving))));
  struct Stretch {
    double from, to, gap_from, gap_to;
  };
  std::array<Stretch, 64> open;
  std::size_t count = 0;
  open[count++] = {0, 1, gap(0), gap(1)};
  while (count > 0) {
    const Stretch w = open[--count];
    const double way = (w.to - w.from) * size, least = std::min(w.gap_from, w.gap_to);
    if (w.gap_from + w.gap_to > way + 2 * fine || least * least > way * way / 4 + fine * fine) continue;
    if (way <= fine || count + 2 > open.size()) return contact(w.from);
    const double middle = 0.5 * (w.from + w.to), between = gap(middle);
    if (between == 0) {
      open[count++] = {w.from, middle, w.gap_from, 0};
    } else {
      open[count++] = {middle, w.to, between, w.gap_to};
      open[count++] = {w.from, middle, w.gap_from, between};
    }
  }
  return std::nullopt;
}

}  // namespace dardo
