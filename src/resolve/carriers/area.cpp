#include <algorithm>
#include <array>
#include <limits>
#include <utility>

#include "geometry/detail/tolerance.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/carriers/area.hpp"
#include "resolve/rules/order.hpp"
#include "resolve/rules/sight.hpp"

namespace dardo::detail {

AreaCarrier::AreaCarrier(const Act& act, const Moment& moment, Outcome& outcome)
    : act_(act),
      moment_(moment),
      area_(std::get<AreaDelivery>(act.attack.delivery)),
      placement_(Reason::none) {
  const Arena& arena = act.arena;
  const Vec3 center = moment.center(act.launch.by);
  // As a follow-up it lies around the place that it starts from.
  const bool follows = act.anchor != nullptr;
  const bool at_attacker = !follows && area_.around == AreaDelivery::Around::attacker;
  radius_ = area_.radius + (follows ? kPlaceKnown : 0);
  middle_ = follows ? act.anchor->place : at_attacker ? center : *aim_point(moment, act.launch);
  eye_ = area_.sight_from == AreaDelivery::SightFrom::eyes && arena.has(act.launch.by)
             ? moment.eyes(act.launch.by)
             : middle_;
  placed_ = length(middle_ - center);
  const double scale = std::max(largest(middle_), largest(center));
  const Reach& reach = act.attack.reach;
  if (!at_attacker && !follows) {
    if (!at_least(placed_, reach.near, scale)) placement_ = Reason::too_near;
    if (!at_most(placed_, reach.far, scale)) placement_ = Reason::too_far;
  }
  outcome.origin = at_attacker || follows ? middle_ : center;
  outcome.end = middle_;
  outcome.ended = placement_ == Reason::none ? Ended::spent : Ended::out_of_reach;
}

void AreaCarrier::strike(Outcome& outcome) {
  if (placement_ != Reason::none) return;
  const Ball ball{middle_, radius_};
  const double slack = detail::slack(largest(middle_), radius_);
  // Some at a time, so that what they are is fetched while others are asked.
  std::array<BodyId, 64> near;
  std::size_t count = 0;
  const auto ask = [&] {
    for (std::size_t i = 0; i < count; ++i) {
      if (i + 4 < count) act_.arena.fetch_hitboxes(near[i + 4]);
      const Met found = met(near[i]);
      if (from_reach(*this, found, Quiet{})) outcome.strikes.push_back(found.seen.strike(act_, near[i]));
    }
    count = 0;
  };
  moment_.bodies_touching(bounds(ball).grown(slack), [&](BodyId body) {
    if (!eligible(act_, body)) return;
    act_.arena.fetch_place(body);
    near[count++] = body;
    if (count == near.size()) ask();
  });
  ask();
  const auto place = [&](const Strike& s) { return place_at(s.distance, act_.arena, s.body); };
  std::sort(outcome.strikes.begin(), outcome.strikes.end(),
            [&](const Strike& a, const Strike& b) { return place(a) < place(b); });
  outcome.strikes.erase(std::unique(outcome.strikes.begin(), outcome.strikes.end(),
                                    [](const Strike& a, const Strike& b) { return a.body == b.body; }),
                        outcome.strikes.end());
  if (act_.attack.cap && outcome.strikes.size() > *act_.attack.cap) {
    outcome.strikes.resize(*act_.attack.cap);
  }
}

AreaCarrier::Met AreaCarrier::met(BodyId body) const {
  Met out{.body = body};
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    if (!then.overlaps(i, {middle_, radius_})) continue;
    out.inside = true;
    const Nearest at = then.nearest(i, middle_);
    if (act_.attack.sight && judge_line(at.point).reason != Reason::none) continue;
    const Vec3 way = middle_ - at.point;
    // Rounding is no direction.
    const Vec3 normal = length(way) > kSamePlace ? normalized(way) : act_.arena.up();
    out.seen.add(act_, body, {i, {at.distance, at.point, normal}});
  }
  return out;
}

Nearest AreaCarrier::nearest_of(BodyId body) const {
  const Moment::Body then = moment_.body(body);
  Nearest least = then.nearest(0, middle_);
  for (std::uint32_t i = 1; i < then.hitboxes(); ++i) {
    const Nearest at = then.nearest(i, middle_);
    if (at.distance < least.distance) least = at;
  }
  return least;
}

/// The body counts when any hitbox within the area is seen; if none is within, the nearest one's line tells.
bool AreaCarrier::in_sight(const Met& met) const {
  return met.inside ? !met.seen.empty() : judge_line(nearest_of(met.body).point).reason == Reason::none;
}

std::optional<double> AreaCarrier::reaches(const Ball& ball) const {
  if (placement_ != Reason::none) return std::nullopt;
  const double away = std::max(0.0, length(ball.center - middle_) - ball.radius);
  if (!at_least(radius_, away, largest(ball.center)) || judge_line(ball.center).reason != Reason::none)
    return std::nullopt;
  return away;
}

Reading AreaCarrier::tell_reach(const Met& met) const {
  Reading r{.gate = Gate::reach, .reason = placement_, .measured = placed_};
  if (placement_ != Reason::none) {
    r.limit = placement_ == Reason::too_far ? act_.attack.reach.far : act_.attack.reach.near;
    r.margin = std::fabs(placed_ - *r.limit);
    return r;
  }
  r.measured = nearest_of(met.body).distance;
  r.limit = area_.radius;
  r.margin = std::fabs(*r.measured - area_.radius);
  if (!met.inside) r.reason = Reason::outside;
  return r;
}

/// Whether a wall cuts the line from the eye to the target.
Reading AreaCarrier::judge_line(const Vec3& target) const {
  if (!act_.attack.sight) return {.gate = Gate::sight};
  return detail::judge_line(moment_, *act_.attack.sight, eye_, target);
}

Reading AreaCarrier::tell_sight(const Met& met) const {
  if (met.inside && !met.seen.empty()) {
    // The line to the first that is seen.
    Reading r{.gate = Gate::sight};
    const Moment::Body then = moment_.body(met.body);
    for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
      if (!then.overlaps(i, {middle_, radius_})) continue;
      r = judge_line(then.nearest(i, middle_).point);
      if (r.reason == Reason::none) break;
    }
    return r;
  }
  return judge_line(nearest_of(met.body).point);
}

Reading AreaCarrier::tell_cap(const Met& met, const Outcome& outcome) const {
  Reading r{.gate = Gate::cap};
  if (!act_.attack.cap) return r;
  const auto& strikes = outcome.strikes;
  const bool struck =
      std::any_of(strikes.begin(), strikes.end(), [&](const Strike& s) { return s.body == met.body; });
  if (struck || strikes.size() < *act_.attack.cap) return r;
  const double away = met.seen.empty() ? nearest_of(met.body).distance : met.seen.distance();
  const Strike& last = strikes.back();
  r.measured = away;
  r.limit = last.distance;
  r.margin = std::fabs(away - last.distance);
  if (in_steps(away) < in_steps(last.distance)) return r;
  r.reason = Reason::cap;
  return r;
}

void AreaCarrier::draw(Outcome& outcome) const {
  if (area_.around == AreaDelivery::Around::aim && act_.anchor == nullptr) {
    outcome.marks.emplace_back(ReachMark{outcome.origin, act_.attack.reach.near, act_.attack.reach.far});
  }
  outcome.marks.emplace_back(RingMark{middle_, area_.radius});
  if (!act_.attack.sight || placement_ != Reason::none) return;
  for (const BodyId body : act_.arena.bodies()) {
    if (!eligible(act_, body)) continue;
    const Met found = met(body);
    if (!in_reach(found)) continue;
    const Reading r = tell_sight(found);
    const Vec3 target = found.seen.empty() ? nearest_of(body).point : found.seen.strike(act_, body).point;
    outcome.marks.emplace_back(
        SightMark{eye_, target, r.reason == Reason::none ? std::nullopt : std::optional<Vec3>{r.at}});
  }
}

}  // namespace dardo::detail
