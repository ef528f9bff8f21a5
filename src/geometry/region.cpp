#include "geometry/detail/region.hpp"

#include "dardo/units.hpp"
#include "geometry/detail/shadow.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/elementary.hpp"
#include "geometry/detail/kernels.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo::detail {
namespace {

using units::kPi;

/// The largest value of a convex function over a shape's core.
template <class F>
double most_on_rim(const Vec3& center, const Vec3& axis, double radius, F&& f) {
  constexpr int kSteps = 48;
  const Vec3 u = any_perpendicular(axis) * radius, v = cross(axis, u);
  const auto at = [&](double a) { return f(center + u * cosine(a) + v * sine(a)); };
  double best = at(0), around = 0;
  for (int i = 1; i < kSteps; ++i) {
    const double a = 2 * kPi * i / kSteps, value = at(a);
    if (value > best) best = value, around = a;
  }
  constexpr double kGolden = 0.6180339887498949;
  double low = around - 2 * kPi / kSteps, high = around + 2 * kPi / kSteps;
  for (int round = 0; round < 60; ++round) {
    const double one = high - kGolden * (high - low), two = low + kGolden * (high - low);
    at(one) > at(two) ? high = two : low = one;
  }
  return std::max(best, at(0.5 * (low + high)));
}
template <class F>
double most_over(const Shape& shape, F&& f) {
  double most = -std::numeric_limits<double>::infinity(), margin = 0;
  const auto point = [&](const Vec3& p) { most = std::max(most, f(p)); };
  if (const auto* s = std::get_if<Ball>(&shape)) point(s->center), margin = s->radius;
  if (const auto* s = std::get_if<Capsule>(&shape)) point(s->from), point(s->to), margin = s->radius;
  if (const auto* s = std::get_if<Triangle>(&shape)) point(s->a), point(s->b), point(s->c);
  if (const auto* s = std::get_if<Hull>(&shape)) std::for_each(s->points.begin(), s->points.end(), point);
  if (const auto* s = std::get_if<Box>(&shape)) {
    for (int i = 0; i < 8; ++i)
      point(s->center + s->turn * Vec3{i & 1 ? s->half.x : -s->half.x, i & 2 ? s->half.y : -s->half.y,
                                       i & 4 ? s->half.z : -s->half.z});
  }
  if (const auto* s = std::get_if<Cylinder>(&shape)) {
    for (const Vec3& end : {s->from, s->to})
      most = std::max(most, most_on_rim(end, normalized(s->to - s->from), s->radius, f));
  }
  if (const auto* s = std::get_if<Cone>(&shape)) {
    point(s->apex);
    most = std::max(most, most_on_rim(s->base, normalized(s->base - s->apex), s->radius, f));
  }
  return most + margin;
}

double scale_of(const Shape& shape) {
  const Bounds b = dardo::bounds(shape);
  return std::max(largest(b.low), largest(b.high));
}

bool below(const Shape& shape, const HalfSpace& space, double slack) {
  return most_over(shape, [&](const Vec3& p) { return height_over(space, p); }) <= slack;
}

bool covers_shape(const Shape& region, const Shape& shape, double scale) {
  const double slack = 8 * detail::slack(std::max({scale, scale_of(shape), scale_of(region)}));
  const auto within = [&](auto&& f) { return most_over(shape, f) <= slack; };
  if (const auto* s = std::get_if<Ball>(&region))
    return within([&](const Vec3& p) { return length(p - s->center) - s->radius; });
  if (const auto* s = std::get_if<Capsule>(&region)) {
    return within([&](const Vec3& p) {
      const Vec3 on = s->from + (s->to - s->from) * nearest_parameter({s->from, s->to}, p);
      return length(p - on) - s->radius;
    });
  }
  if (const auto* s = std::get_if<Box>(&region)) {
    return within([&](const Vec3& p) {
      const Vec3 q = abs(into(s->turn, p - s->center)) - s->half;
      return std::max({q.x, q.y, q.z});
    });
  }
  if (const auto* s = std::get_if<Cylinder>(&region)) {
    const Vec3 axis = normalized(s->to - s->from);
    return within([&](const Vec3& p) {
      const double along = dot(p - s->from, axis);
      return std::max(
          {length(p - s->from - axis * along) - s->radius, -along, along - length(s->to - s->from)});
    });
  }
  // Of other shapes the distance tells: exact for what has corners alone.
  return within([&](const Vec3& p) { return nearest(region, p).distance; });
}

bool covers_sector(const Sector& s, const Shape& shape, double scale) {
  const double slack = 8 * detail::slack(std::max({scale, scale_of(shape), largest(s.apex) + s.far})),
               half = s.angle / 2;
  const Vec3 left = cross(s.up, s.axis);
  const auto within = [&](auto&& f) { return most_over(shape, f) <= slack; };
  const auto flat = [&](const Vec3& p) {
    const Vec3 out = p - s.apex;
    return s.band ? out - s.up * dot(out, s.up) : out;
  };
  if (!within([&](const Vec3& p) { return length(flat(p)) - s.far; })) return false;
  if (s.band && !within([&](const Vec3& p) {
        const double height = dot(p - s.apex, s.up);
        return std::max(s.band->low - height, height - s.band->high);
      }))
    return false;
  if (s.near > 0) {
    const double most = s.far + scale_of(shape) + 1;
    const double away = s.band ? dardo::distance(shape, Segment{s.apex - s.up * most, s.apex + s.up * most})
                               : nearest(shape, s.apex).distance;
    if (away < s.near - slack) return false;
  }
  if (half >= kPi) return true;
  if (half > kPi / 2) {
    Sector rest = s;
    rest.axis = -s.axis, rest.angle = 2 * kPi - s.angle, rest.near = 0;
    return closest(shape, rest).distance > 0;
  }
  const double sine_of = sine(half), cosine_of = cosine(half);
  if (s.band) {
    return within([&](const Vec3& p) {
      const Vec3 out = flat(p);
      return std::fabs(dot(out, left)) * cosine_of - dot(out, s.axis) * sine_of;
    });
  }
  return within([&](const Vec3& p) {
    const Vec3 out = p - s.apex;
    const double along = dot(out, s.axis);
    return length(out - s.axis * along) * cosine_of - along * sine_of;
  });
}

/// By the nearest of the polygon's edges, and the height.
double distance(const UprightPrism& prism, const Vec3& place) {
  const std::size_t count = prism.hull.points.size() / 2;
  const auto inside = [&](const HalfSpace& side) { return height_over(side, place) <= 0; };
  // The last two are its top and its underside.
  const bool over = std::all_of(prism.sides.begin(), prism.sides.end() - 2, inside);
  double aside = over ? 0 : std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < count && !over; ++i) {
    const Vec3 &a = prism.hull.points[i], &b = prism.hull.points[(i + 1) % count];
    const Vec3 way{b.x - a.x, b.y - a.y, 0}, from{place.x - a.x, place.y - a.y, 0};
    const double along = std::clamp(dot(from, way) / dot(way, way), 0.0, 1.0);
    aside = std::min(aside, length(from - way * along));
  }
  const double above = std::max({0.0, prism.low - place.z, place.z - prism.high});
  return above > 0 ? std::sqrt(aside * aside + above * above) : aside;
}

/// A place of a shape: the middle of a hull's or a triangle's box may lie outside it.
Vec3 place_in(const Shape& shape) {
  if (const auto* t = std::get_if<Triangle>(&shape)) return (t->a + t->b + t->c) / 3;
  const auto* hull = std::get_if<Hull>(&shape);
  if (hull == nullptr) return center(shape);
  Vec3 sum;
  for (const Vec3& p : hull->points) sum = sum + p;
  return sum / static_cast<double>(hull->points.size());
}

/// How far a shape reaches from any place in it, at most; of a ball or a capsule from its middle.
double reach_of(const Shape& shape) {
  if (const auto* s = std::get_if<Ball>(&shape)) return s->radius;
  if (const auto* s = std::get_if<Capsule>(&shape)) return 0.5 * length(s->to - s->from) + s->radius;
  const Bounds b = dardo::bounds(shape);
  return length(b.high - b.low);
}

/// Whether a stretch of a segment comes within a distance of a region, told by how far places of it are: no
/// place is nearer than the middle is by more than half the stretch. Nothing after too many places.
std::optional<bool> stretch_comes(const Region& region, const Vec3& a, const Vec3& b, double within,
                                  int& places) {
  if (--places < 0) return std::nullopt;
  const Vec3 middle = (a + b) * 0.5;
  const double away = distance(region, middle), half = 0.5 * length(b - a);
  if (away <= within) return true;
  if (away - half * (1 + 1e-12) > within) return false;
  const auto first = stretch_comes(region, a, middle, within, places);
  if (!first || *first) return first;
  return stretch_comes(region, middle, b, within, places);
}

}  // namespace

bool comes_within(const Region& region, const Shape& shape, double within) {
  const double away = distance(region, place_in(shape));
  if (away <= within) return true;
  const double reach = reach_of(shape);
  if (away > within + reach + slack(scale_of(shape), away)) return false;
  if (const auto* capsule = std::get_if<Capsule>(&shape)) {
    int places = 48;
    if (const auto told = stretch_comes(region, capsule->from, capsule->to, within + capsule->radius, places))
      return *told;
  }
  return distance(region, shape) <= within;
}

double distance(const Region& region, const Vec3& place) {
  if (const auto* s = std::get_if<Shape>(&region)) return nearest(*s, place).distance;
  if (const auto* s = std::get_if<Sector>(&region)) return nearest(*s, place).distance;
  if (const auto* s = std::get_if<UprightPrism>(&region)) return distance(*s, place);
  return std::max(0.0, height_over(std::get<HalfSpace>(region), place));
}

double distance(const Region& region, const Shape& shape) {
  if (const auto* s = std::get_if<Shape>(&region)) {
    if (const auto* ball = std::get_if<Ball>(&shape)) return dardo::distance(*ball, *s);
    return closest(shape, *s).distance;
  }
  if (const auto* s = std::get_if<Sector>(&region)) {
    if (const auto* ball = std::get_if<Ball>(&shape)) {
      const double gap = nearest(*s, ball->center).distance - ball->radius;
      return gap <= slack(std::max({largest(ball->center), ball->radius, largest(s->apex) + s->far})) ? 0
                                                                                                      : gap;
    }
    return closest(shape, *s).distance;
  }
  if (const auto* s = std::get_if<UprightPrism>(&region)) return closest(shape, Shape(s->hull)).distance;
  return closest(shape, std::get<HalfSpace>(region)).distance;
}

namespace {

/// How far a place lies within a sector's heights and its opening; outside, below 0 or 0.
double depth_between_sides(const Sector& s, const Vec3& out, const Vec3& flat, double away) {
  double least = std::numeric_limits<double>::infinity();
  if (s.band) {
    const double height = dot(out, s.up);
    least = std::min(s.band->high - height, height - s.band->low);
  }
  const double half = s.angle / 2;
  if (half >= kPi || !(least > 0)) return least;
  const double along = dot(flat, s.axis), aside = length(flat - s.axis * along);
  const double off = half - arc_tangent(aside, along);
  return std::min(least, off < kPi / 2 ? away * sine(off) : away);
}

/// Calls `visit(place)` for places of a shape, among them those about farthest from and nearest to an axis:
/// `out(p)` points away from that, as long as `p` is far from it.
template <class Out, class Visit>
void each_outermost(const Shape& shape, Out&& out, Visit&& visit) {
  const auto ball = [&](const Vec3& middle, double radius) {
    visit(middle);
    const Vec3 way = out(middle);
    const double away = length(way);
    if (!(radius > 0) || !(away > 0)) return;
    visit(middle + way * (radius / away)), visit(middle - way * (std::min(radius, away) / away));
  };
  const auto rim = [&](const Vec3& middle, const Vec3& axis, double radius) {
    visit(middle);
    Vec3 way = out(middle);
    way = way - axis * dot(way, axis);
    const double size = length(way);
    if (!(size > 0)) return;
    visit(middle + way * (radius / size)), visit(middle - way * (std::min(radius, size) / size));
  };
  if (const auto* s = std::get_if<Ball>(&shape)) ball(s->center, s->radius);
  if (const auto* s = std::get_if<Capsule>(&shape)) {
    for (const Vec3& p : {s->from, (s->from + s->to) * 0.5, s->to}) ball(p, s->radius);
  }
  if (const auto* s = std::get_if<Box>(&shape)) {
    visit(s->center);
    for (int i = 0; i < 8; ++i)
      visit(s->center + s->turn * Vec3{i & 1 ? s->half.x : -s->half.x, i & 2 ? s->half.y : -s->half.y,
                                       i & 4 ? s->half.z : -s->half.z});
  }
  if (const auto* s = std::get_if<Cylinder>(&shape)) {
    const Vec3 axis = normalized(s->to - s->from);
    for (const Vec3& p : {s->from, (s->from + s->to) * 0.5, s->to}) rim(p, axis, s->radius);
  }
  if (const auto* s = std::get_if<Cone>(&shape)) {
    const Vec3 axis = normalized(s->base - s->apex);
    visit(s->apex), rim((s->apex + s->base) * 0.5, axis, 0.5 * s->radius), rim(s->base, axis, s->radius);
  }
  if (const auto* s = std::get_if<Triangle>(&shape)) visit(s->a), visit(s->b), visit(s->c);
  if (const auto* s = std::get_if<Hull>(&shape)) std::for_each(s->points.begin(), s->points.end(), visit);
}

}  // namespace

double hold_of(const Sector& s, const Shape& shape) {
  // Between two places of an opening of more than half a turn may lie some outside it.
  const bool convex_sides = s.angle >= 2 * kPi || s.angle <= kPi;
  const auto flat = [&](const Vec3& p) {
    const Vec3 out = p - s.apex;
    return s.band ? out - s.up * dot(out, s.up) : out;
  };
  double within = 0, beyond = 0, both = 0;
  const auto weigh = [&](const Vec3& p) {
    const Vec3 aside = flat(p);
    const double away = length(aside), sides = depth_between_sides(s, p - s.apex, aside, away);
    if (!(sides > 0)) return;
    const double in = std::min(s.far - away, sides),
                 out = s.near > 0 ? std::min(away - s.near, sides) : sides;
    within = std::max(within, in), beyond = std::max(beyond, out), both = std::max(both, std::min(in, out));
  };
  // What lies on its rim may lie on a side, too: deeper within it is free of that.
  constexpr double kInward = 0.25;
  const Vec3 middle = place_in(shape);
  each_outermost(shape, flat, [&](const Vec3& p) { weigh(p), weigh(p + (middle - p) * kInward); });
  if (convex_sides && s.near > 0) both = std::max(both, std::min({within, beyond, 0.5 * (s.far - s.near)}));
  return both * (1 - 1e-9);
}

namespace {

double depth_in(const Sector& s, const Vec3& place) {
  const Vec3 out = place - s.apex;
  const double height = dot(out, s.up);
  const Vec3 flat = s.band ? out - s.up * height : out;
  const double away = length(flat), half = s.angle / 2;
  double least = s.far - away;
  if (s.near > 0) least = std::min(least, away - s.near);
  if (s.band) least = std::min({least, s.band->high - height, height - s.band->low});
  if (half >= kPi || !(least > 0)) return least;
  const double along = dot(flat, s.axis), aside = length(flat - s.axis * along);
  const double off = half - arc_tangent(aside, along);
  return std::min(least, off < kPi / 2 ? away * sine(off) : away);
}

double depth_in(const Shape& shape, const Vec3& place) {
  if (const auto* s = std::get_if<Ball>(&shape)) return s->radius - length(place - s->center);
  if (const auto* s = std::get_if<Capsule>(&shape))
    return s->radius -
           length(place - (s->from + (s->to - s->from) * nearest_parameter({s->from, s->to}, place)));
  if (const auto* s = std::get_if<Box>(&shape)) {
    const Vec3 q = s->half - abs(into(s->turn, place - s->center));
    return std::min({q.x, q.y, q.z});
  }
  if (const auto* s = std::get_if<Cylinder>(&shape)) {
    const Vec3 axis = normalized(s->to - s->from);
    const double along = dot(place - s->from, axis);
    return std::min(
        {s->radius - length(place - s->from - axis * along), along, length(s->to - s->from) - along});
  }
  return 0;
}

}  // namespace

double depth(const Region& region, const Vec3& place) {
  double out = 0;
  if (const auto* s = std::get_if<Shape>(&region)) out = depth_in(*s, place);
  if (const auto* s = std::get_if<Sector>(&region)) out = depth_in(*s, place);
  if (const auto* s = std::get_if<HalfSpace>(&region)) out = -height_over(*s, place);
  if (const auto* s = std::get_if<UprightPrism>(&region)) {
    out = std::numeric_limits<double>::infinity();
    for (const HalfSpace& side : s->sides) out = std::min(out, -height_over(side, place));
  }
  return std::max(0.0, out);
}

bool covers(const Region& region, const Shape& shape, double scale) {
  if (const auto* s = std::get_if<Shape>(&region)) return covers_shape(*s, shape, scale);
  if (const auto* s = std::get_if<Sector>(&region)) return covers_sector(*s, shape, scale);
  const double slack = 8 * detail::slack(std::max(scale, scale_of(shape)));
  if (const auto* s = std::get_if<UprightPrism>(&region)) {
    return std::all_of(s->sides.begin(), s->sides.end(),
                       [&](const HalfSpace& side) { return below(shape, side, slack); });
  }
  return below(shape, std::get<HalfSpace>(region), slack);
}

Bounds bounds(const Region& region, const Pose& pose) {
  if (const auto* s = std::get_if<Shape>(&region)) return dardo::bounds(placed(*s, pose));
  if (const auto* s = std::get_if<Sector>(&region)) return dardo::bounds(placed(*s, pose));
  if (const auto* s = std::get_if<UprightPrism>(&region)) {
    Bounds out;
    for (const Vec3& p : s->hull.points) out.add(pose * p);
    return out;
  }
  constexpr double kAll = 4 * kMaxCoordinate;
  return {{-kAll, -kAll, -kAll}, {kAll, kAll, kAll}};
}

UprightPrism upright_prism(std::span<const Vec3> polygon, double low, double high) {
  UprightPrism out;
  out.low = low, out.high = high;
  double round = 0;
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Vec3 &a = polygon[i], &b = polygon[(i + 1) % polygon.size()];
    round += a.x * b.y - a.y * b.x;
  }
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Vec3 &a = polygon[i], &b = polygon[(i + 1) % polygon.size()];
    const Vec3 along = Vec3{b.x - a.x, b.y - a.y, 0} * (round < 0 ? -1 : 1);
    if (length(along) > 0) out.sides.push_back({a, normalized(Vec3{along.y, -along.x, 0})});
  }
  out.sides.push_back({{0, 0, high}, {0, 0, 1}});
  out.sides.push_back({{0, 0, low}, {0, 0, -1}});
  for (const double z : {low, high}) {
    for (const Vec3& p : polygon) out.hull.points.push_back({p.x, p.y, z});
  }
  return out;
}

VolumeBox volume_box(const Shape& shape, bool flat) {
  if (flat) {
    VolumeBox out{.frame = {}, .half = {}, .flat = true};
    if (const auto* s = std::get_if<Box>(&shape)) {
      out.frame = {s->center, s->turn}, out.half = s->half;
    } else {
      const Bounds b = dardo::bounds(shape);
      out.frame.at = b.center(), out.half = (b.high - b.low) * 0.5;
    }
    out.frame.at.z = 0, out.half.z = 0;
    return out;
  }
  const auto along = [](const Vec3& from, const Vec3& to, double radius, double beyond) {
    const Vec3 x = length(to - from) > 0 ? normalized(to - from) : Vec3{1, 0, 0}, y = any_perpendicular(x);
    return VolumeBox{{(from + to) * 0.5, {x, y, cross(x, y)}},
                     {0.5 * length(to - from) + beyond, radius, radius}};
  };
  if (const auto* s = std::get_if<Box>(&shape)) return {{s->center, s->turn}, s->half};
  if (const auto* s = std::get_if<Capsule>(&shape)) return along(s->from, s->to, s->radius, s->radius);
  if (const auto* s = std::get_if<Cylinder>(&shape)) return along(s->from, s->to, s->radius, 0);
  if (const auto* s = std::get_if<Cone>(&shape)) return along(s->apex, s->base, s->radius, 0);
  const Bounds b = dardo::bounds(shape);
  return {{b.center(), {}}, (b.high - b.low) * 0.5};
}

Vec3 point_of(const VolumeBox& box, int number) {
  const auto part = [&](double step) {
    const double v = 0.5 + (number + 1) * step;
    return 2 * (v - std::floor(v)) - 1;
  };
  if (box.flat) {
    constexpr double kRoot = 1.32471795724474602596, kX = 1 / kRoot, kY = kX / kRoot;
    return box.frame * Vec3{box.half.x * part(kX), box.half.y * part(kY), 0};
  }
  constexpr double kRoot = 1.22074408460575947536, kX = 1 / kRoot, kY = kX / kRoot, kZ = kY / kRoot;
  return box.frame * Vec3{box.half.x * part(kX), box.half.y * part(kY), box.half.z * part(kZ)};
}

void ShareWithin::add(const Shape& shape) {
  if (const auto* space = std::get_if<HalfSpace>(&region_)) {
    const Shape there = placed(shape, pose_);
    const auto volume = volume_of(shape, flat_), share = share_in(*space, there, flat_, scale_);
    if (volume && *volume > 0 && share) {
      all_ += *volume, inside_ += *volume * *share;
      return;
    }
  }
  int of_region = 0;
  const Counted counted = each_volume_point(
      shape, kVolumePoints, flat_, [&](const Vec3& p) { of_region += distance(region_, pose_ * p) == 0; });
  const double volume = counted.volume_each * counted.places;
  all_ += volume, inside_ += counted.volume_each * of_region;
  // What lies wholly inside or outside is known.
  if (of_region != 0 && of_region != counted.places) error_ += volume * count_known(counted.places);
}

std::optional<CountedShare> ShareWithin::share() const {
  if (!(all_ > 0)) return std::nullopt;
  return CountedShare{inside_ / all_, error_ / all_};
}

}  // namespace dardo::detail
