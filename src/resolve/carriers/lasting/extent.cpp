#include "resolve/carriers/lasting/extent.hpp"

#include <algorithm>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/ever.hpp"
#include "geometry/detail/kernels.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/carriers/area.hpp"
#include "resolve/carriers/area_region.hpp"
#include "resolve/work.hpp"

namespace dardo::detail {
namespace {}  // namespace

Extent::Stretch Extent::stretch_at(double time, double to) const {
  Stretch s;
  s.from = time, s.to = to;
  const auto until = [&](double end) {
    if (end > time) s.to = std::min(s.to, end);
  };
  if (lasting_.on.empty() || !motions_.arena().has(lasting_.on)) {
    s.carrier = {-kEver, kEver, lasting_.on.empty() ? Pose{} : lasting_.stood, {}, {0, 0, 1}, 0};
  } else {
    s.carrier = motions_.leg(lasting_.on, time);
    until(s.carrier.end);
  }
  const auto& way = plan_.way;
  std::size_t at = 0;
  // By the same sums as where a stretch ends: else one might be looked for beyond its end.
  while (at + 1 < way.size() && !(time < way[at].end + lasting_.began)) ++at;
  s.own = way[at];
  s.own.start += lasting_.began, s.own.end += lasting_.began;
  if (at + 1 < way.size()) until(s.own.end);
  if (s.carrier.still()) {
    s.stands = s.carrier.from * lasting_.base;
    if (s.own.still()) s.stands = *s.stands * s.own.from;
  }
  const auto& sizes = plan_.sizes;
  std::size_t size = 0;
  while (size + 1 < sizes.size() && !(time < lasting_.began + sizes[size + 1].time_s)) ++size;
  s.size = s.next = &sizes[size];
  s.reach = s.size->reach;
  if (plan_.by_hitboxes()) {
    const Arena& arena = motions_.arena();
    s.reach = arena.reach_around_center(lasting_.on) + length(arena.center_in_frame(lasting_.on));
  }
  if (size + 1 < sizes.size()) {
    s.next = &sizes[size + 1];
    until(lasting_.began + s.next->time_s);
    s.reach = std::max(s.reach, s.next->reach);
    s.growth = farthest_apart(s.size->shape, s.next->shape) / (s.next->time_s - s.size->time_s);
  }
  return s;
}

Pose Extent::frame(const Stretch& s, double time) const {
  if (!s.stands) return s.carrier.at(time) * lasting_.base * s.own.at(time);
  return s.own.still() ? *s.stands : *s.stands * s.own.at(time);
}
Pose Extent::frame(double time) const { return frame(stretch_at(time, time), time); }

Extent::Covered Extent::covered(const Stretch& s, double time) const {
  Covered out;
  // All its hitboxes lie within that.
  if (plan_.by_hitboxes()) return out.radius = s.reach, out;
  out.radius = plan_.ball.value_or(0);
  if (plan_.region || plan_.ball) return out.fixed = plan_.region ? &*plan_.region : nullptr, out;
  const double since = time - lasting_.began - s.size->time_s;
  const AreaShape now = s.size == s.next
                            ? s.size->shape
                            : between(s.size->shape, s.next->shape,
                                      std::clamp(since / (s.next->time_s - s.size->time_s), 0.0, 1.0));
  if (const auto* ball = std::get_if<BallArea>(&now)) out.radius = ball->radius;
  out.grown = region_of(now);
  return out;
}
Extent::Covered Extent::covered(double time) const { return covered(stretch_at(time, time), time); }
Extent::Covered Extent::covered(double time, BodyId body) const {
  Covered out = covered(time);
  if (!plan_.by_hitboxes()) return out;
  const Moment::Body then = Moment(motions_, time).body(body);
  const Pose from_world = inverse(frame(time));
  double nearest = kEver;
  each_own(time, [&](const Shape& own) {
    for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
      if (!then.has(i)) continue;
      const double gap = gap_between(own, {}, then.in_frame(i, from_world));
      if (gap < nearest - kHullKnown) nearest = gap, out.grown = Region(own);
    }
  });
  return out;
}

Cover Extent::cover(const Covered& covered) const {
  return {.region = covered.region(),
          .radius = covered.radius,
          .inside = plan_.inside,
          .share = {},
          .loose = kStillInside};
}

Vec3 Extent::velocity_at(const Vec3& place, double time) const {
  const Stretch s = stretch_at(time, time);
  const Vec3 in_base = s.own.at(time) * place;
  const Pose carrier = s.carrier.at(time) * lasting_.base;
  return s.carrier.velocity_of(lasting_.base * in_base, time) + carrier.turn * s.own.velocity_of(place, time);
}

Vec3 point_nearest_to(const Region& region, const Shape& shape) {
  if (const auto* solid = std::get_if<Shape>(&region)) return closest(shape, *solid).on_a;
  if (const auto* sector = std::get_if<Sector>(&region)) return closest(shape, *sector).on_a;
  if (const auto* prism = std::get_if<UprightPrism>(&region))
    return nearest_points(Convex(shape), Convex(prism->hull)).on_a;
  return closest(shape, std::get<HalfSpace>(region)).on_a;
}

Bounds Extent::bounds(double from, double to) const {
  Bounds out;
  each_stretch(from, to, [&](const Stretch& s) {
    const Pose at = frame(s, s.from);
    const double time = s.to - s.from;
    if (std::isinf(s.reach)) {
      out.add(detail::bounds(*plan_.region, at));
      return true;
    }
    // Its origin goes about that of what carries it.
    const double arm = length(at.at - s.carrier.at(s.from).at),
                 turning = std::min(s.carrier.turn_rate * time, 2.0) * arm;
    Bounds way{at.at, at.at};
    const Pose end = frame(s, s.to);
    way.add(end.at);
    const bool straight = s.carrier.turn_rate == 0;
    // One that turns goes along with its own way, too.
    const double aside = straight ? 0 : 2 * turning + length(s.own.velocity) * time;
    out.add(way.grown(s.reach + aside));
    return true;
  });
  const double scale = std::max(largest(out.low), largest(out.high));
  return out.grown(slack(scale) + kTouchRoom);
}

double Extent::some_time(double from, double to) const {
  constexpr int kMostParts = 1000;
  const Stretch s = stretch_at(from, to);
  const double arm = length(lasting_.base.at) + length(s.own.at(from).at);
  const double speed =
      length(s.carrier.velocity) + length(s.own.velocity) + s.growth + s.carrier.turn_rate * arm;
  if (!(speed > 0)) return to;
  const double least = (ends() - begins()) / kMostParts;
  return std::min(to, from + std::max(least, std::max(1.0, std::min(s.reach, 1e9)) / speed));
}

double Extent::gap(const Stretch& s, double time, const Shape& shape, const Leg& leg, double beyond) const {
  ++work().looks;
  const Pose in_body = into(leg.at(time), frame(s, time));
  if (plan_.by_hitboxes()) {
    double least = kEver;
    each_own(time,
             [&](const Shape& own) { least = std::min(least, gap_between(own, in_body, shape, beyond)); });
    return least;
  }
  const bool centre = plan_.inside == AreaDelivery::Inside::centre;
  const Covered covered = this->covered(s, time);
  const Region* region = covered.region();
  if (region == nullptr) {
    const double away =
        centre ? length(dardo::center(shape) - in_body.at) : dardo::nearest(shape, in_body.at).distance;
    return away - covered.radius;
  }
  if (centre) return distance(*region, inverse(in_body) * dardo::center(shape));
  if (const auto* solid = std::get_if<Shape>(region)) return gap_between(*solid, in_body, shape, beyond);
  if (const auto* prism = std::get_if<UprightPrism>(region))
    return nearest_points(Convex(prism->hull), in_body, Convex(shape), beyond).measured;
  if (const auto* sector = std::get_if<Sector>(region)) {
    if (const auto* ball = std::get_if<Ball>(&shape))
      return dardo::nearest(*sector, inverse(in_body) * ball->center).distance - ball->radius;
    return closest_within(shape, dardo::placed(*sector, in_body), beyond).distance;
  }
  const HalfSpace& space = std::get<HalfSpace>(*region);
  return closest(shape, HalfSpace{in_body * space.point, in_body.turn * space.normal}).distance;
}

Extent::Border Extent::border(const Stretch& s, double time, const Leg& leg) const {
  return {covered(s, time), frame(s, time), leg.at(time)};
}

double Extent::Border::from(const Vec3& own) const {
  const Region* region = covered.region();
  const Vec3 place = body * own;
  if (region == nullptr) return length(place - frame.at) - covered.radius;
  const Vec3 here = into(frame.turn, place - frame.at);
  const double away = distance(*region, here);
  return away > 0 ? away : -depth(*region, here);
}

double Extent::at_least(const Stretch& s, double time, const Shape& shape, const Leg& leg) const {
  const Vec3 middle = dardo::center(shape);
  return border(s, time, leg).from(middle) - reach_from(shape, middle);
}

/// By balls that lie in the shape; of what is entered by its middle by that.
double Extent::hold_of(const Stretch& s, double time, const Shape& shape, const Leg& leg,
                       double enough) const {
  double hold = 0;
  if (plan_.by_hitboxes()) return hold;
  const Border border = this->border(s, time, leg);
  const auto ball = [&](const Vec3& middle, double radius) {
    if (hold <= enough) hold = std::max(hold, radius - border.from(middle));
  };
  if (plan_.inside == AreaDelivery::Inside::centre) return ball(dardo::center(shape), 0), hold;
  const Region* region = border.covered.region();
  if (const auto* sector = region != nullptr ? std::get_if<Sector>(region) : nullptr)
    hold = std::max(0.0, detail::hold_of(dardo::placed(*sector, into(border.body, border.frame)), shape));
  if (const auto* b = std::get_if<Ball>(&shape)) ball(b->center, b->radius);
  if (const auto* b = std::get_if<Box>(&shape)) ball(b->center, std::min({b->half.x, b->half.y, b->half.z}));
  if (const auto* c = std::get_if<Cylinder>(&shape))
    ball((c->from + c->to) * 0.5, std::min(c->radius, 0.5 * length(c->to - c->from)));
  if (const auto* c = std::get_if<Capsule>(&shape)) {
    for (const Vec3& p : {(c->from + c->to) * 0.5, c->from, c->to}) ball(p, c->radius);
  }
  if (const auto* c = std::get_if<Cone>(&shape)) {
    // The largest ball that it holds touches its base and its side.
    const double height = length(c->base - c->apex);
    const double radius =
        c->radius * height / (c->radius + std::sqrt(c->radius * c->radius + height * height));
    ball(c->base + (c->apex - c->base) * (radius / height), radius);
  }
  if (const auto* h = std::get_if<Hull>(&shape)) {
    for (const Vec3& p : h->points) ball(p, 0);
  }
  return hold;
}

/// What is no farther apart touches.
double Extent::touching(const Stretch& s, double time) const {
  return contact_gap(largest(frame(s, time).at)) + kHullKnown;
}

Extent::Rates Extent::rates(const Stretch& s, const Shape& shape, const Leg& leg, double from,
                            double to) const {
  const double time = to - from, body = leg.turn_rate != 0 ? reach_from(shape, {}) : 0;
  const bool turns = s.carrier.turn_rate != 0 || leg.turn_rate != 0;
  const auto together = [&] {
    if (s.own.velocity == Vec3{}) return length(s.carrier.velocity - leg.velocity);
    const Rotation base = s.carrier.at(from).turn * lasting_.base.turn;
    return length(s.carrier.velocity + base * s.own.velocity - leg.velocity);
  };
  const double steady =
      turns ? length(s.carrier.velocity - leg.velocity) + length(s.own.velocity) : together();
  double reach = s.reach;
  if (std::isinf(reach)) {
    // Only what is near the body matters of it.
    reach = 2 * (length(frame(s, from).at - leg.at(from).at) + reach_from(shape, {}) + steady * time);
  }
  const double turn = std::fabs(s.own.turn_rate), own = length(s.own.velocity) + turn * reach;
  const double arm =
      length(lasting_.base.at) + length(s.own.at(from).at) + length(s.own.velocity) * time + reach;
  const double carried = s.carrier.turn_rate;
  return {steady + carried * arm + turn * reach + s.growth + leg.turn_rate * body,
          carried * (carried * arm + 2 * (own + s.growth)) + turn * (turn * reach + 2 * s.growth) +
              leg.turn_rate * leg.turn_rate * body};
}

Guest* Lasting::find(BodyId body) {
  const auto at = std::lower_bound(guests.begin(), guests.end(), body,
                                   [](const Guest& g, BodyId b) { return g.body.index < b.index; });
  return at != guests.end() && at->body == body ? &*at : nullptr;
}

Guest& Lasting::meet(BodyId body) {
  const auto at = std::lower_bound(guests.begin(), guests.end(), body,
                                   [](const Guest& g, BodyId b) { return g.body.index < b.index; });
  if (at != guests.end() && at->body == body) return *at;
  // One that is gone may have had its place.
  if (at != guests.end() && at->body.index == body.index) return *at = Guest{.body = body};
  return *guests.insert(at, Guest{.body = body});
}

}  // namespace dardo::detail
