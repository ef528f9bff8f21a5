#include "resolve/carriers/ray.hpp"

#include <algorithm>
#include <array>

#include "geometry/detail/tolerance.hpp"
#include "record/detail/text.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {
namespace {

/// Longer than any way between two places allowed.
constexpr double kUnlimited = 8 * kMaxCoordinate;

}  // namespace

RayCarrier::RayCarrier(const Act& act, const Moment& moment, Outcome& outcome)
    : act_(act),
      moment_(moment),
      ray_(std::get<RayDelivery>(act.attack.delivery)),
      stop_(far_limit(act.attack.reach)) {
  const Vec3 muzzle = act.anchor != nullptr ? act.anchor->place : muzzle_point(moment, act.launch);
  const Vec3 direction =
      act.anchor != nullptr ? act.anchor->direction : aim_direction(moment, act.launch, muzzle);
  outcome.origin = muzzle;
  outcome.ended = Ended::reach;
  // Nobody shoots through a wall by leaning on it.
  const Vec3 center = act.anchor != nullptr ? muzzle : attacker_center(moment, act.launch),
             arm = muzzle - center;
  if (const double size = length(arm); size > 0) {
    if (const auto wall = first_wall(act.arena, {center, arm / size, size}, Passage::shots, moment.time())) {
      legs_.push_back({{muzzle, direction, far_limit(act.attack.reach)}, 0});
      stop_ = wall->contact.distance - size;
      stopper_.wall = wall->wall;
      stop_point_ = outcome.origin = wall->contact.point;
      contact_ = stop_point_;
      outcome.ended = Ended::muzzle_blocked;
      blocked_ = true;
      return;
    }
  }
  find_way(muzzle, direction, outcome);
}

const RayCarrier::RayLeg& RayCarrier::leg_at(double travel) const {
  const auto after = [](double t, const RayLeg& leg) { return t < leg.start; };
  const auto next = std::upper_bound(legs_.begin(), legs_.end(), travel, after);
  return next == legs_.begin() ? legs_.front() : *(next - 1);
}

Vec3 RayCarrier::place_at(double travel) const {
  const RayLeg& leg = leg_at(travel);
  return leg.line.at(travel - leg.start);
}

Bounds RayCarrier::around() const {
  Bounds box;
  for (const RayLeg& leg : legs_) {
    box.add(leg.line.from);
    box.add(leg.line.at(std::max(0.0, std::min(leg.line.length, stop_ - leg.start))));
  }
  return box.grown(ray_.radius + slack(largest(box.low), largest(box.high)));
}

/// Along a leg's line, however far when it is not thick. As a follow-up it touches at once what it starts at.
std::optional<Contact> RayCarrier::contact_with(const Moment::Body& then, std::uint32_t hitbox,
                                                const RayLeg& leg) const {
  if (!then.has(hitbox)) return std::nullopt;
  if (act_.anchor != nullptr && leg.start == 0 &&
      then.nearest(hitbox, leg.line.from).distance <= kPlaceKnown + ray_.radius)
    return Contact{0, leg.line.from, -leg.line.direction};
  if (ray_.radius > 0) return then.sweep(hitbox, ray_.radius, leg.line);
  return then.ray(hitbox, {leg.line.from, leg.line.direction, kUnlimited});
}

std::optional<double> RayCarrier::travel_to(BodyId body, const RayLeg& leg) const {
  std::optional<double> out;
  const double far = ray_.radius > 0 ? leg.line.length : kUnlimited;
  if (!moment_.may_meet(leg.line, far, body, ray_.radius + kTouchRoom)) return out;
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    const auto contact = contact_with(then, i, leg);
    if (contact && (!out || contact->distance < *out)) out = contact->distance;
  }
  return out;
}

RayCarrier::Met RayCarrier::met(BodyId body) const {
  Met out{body, {}};
  for (const RayLeg& leg : legs_) {
    const bool last = &leg == &legs_.back();
    // A thick one is not asked how it would have gone on for ever.
    const double far = ray_.radius > 0 ? 2 * far_limit(act_.attack.reach) + 1 : kUnlimited;
    const RayLeg whole{{leg.line.from, leg.line.direction, last ? far : leg.line.length}, leg.start};
    const auto travel = travel_to(body, whole);
    if (!travel || (!last && *travel > leg.line.length)) continue;
    const double way = leg.start + *travel;
    // One that it touches too near it passes; touched anew beyond, it counts.
    const bool counts = far_enough(act_, way, scale_of(leg.line));
    if (counts || !out.travel) out.travel = way;
    if (counts) break;
  }
  return out;
}

bool RayCarrier::in_reach(const Met& met) const {
  const double scale = scale_of(legs_.front().line);
  return met.travel && far_enough(act_, *met.travel, scale) &&
         at_most(*met.travel, far_limit(act_.attack.reach), scale);
}

/// Whether the ray gets as far as the body. Of a body that the line does not meet it says that nothing stands
/// between when the ray gets as far as the body's distance.
bool RayCarrier::in_sight(const Met& met) const {
  if (met.body == stopper_.body || (!by_wall() && stopper_.body.empty())) return true;
  // At the same distance as a wall a body is still struck; at the same as another body, the earlier one is.
  const double way = way_to(met);
  return by_wall() ? !blocked_ && at_most(way, stop_, scale_of(legs_.front().line))
                   : way < stop_ - kSamePlace;
}

/// Of those met first, at one place, the one added first.
RayCarrier::Ending RayCarrier::first_on(const RayLeg& leg, const std::vector<Strike>& struck) const {
  Ending out;
  const double scale = scale_of(leg.line);
  // Touching what stands at the very end counts.
  double travel = std::min(stop_ - leg.start, leg.line.length);
  travel += slack(scale, travel);
  std::array<Ending, 16> met;
  std::size_t count = 0;
  const auto ask = [&](BodyId body, double limit) {
    const Relation relation = act_.relation_to(body);
    const bool stops =
        act_.attack.stopped_by.has(relation) && relation != Relation::self && !act_.is_fallen(body);
    const bool before =
        std::any_of(struck.begin(), struck.end(), [&](const Strike& k) { return k.body == body; });
    const bool may_strike = !before && eligible(act_, body);
    if (before || (!stops && !may_strike)) return limit;
    const auto found = travel_to(body, leg);
    if (!found || *found > std::min(travel + kSamePlace, limit)) return limit;
    const bool strikes = may_strike && from_reach(*this, Met{body, leg.start + *found}, Quiet{});
    if (!strikes && !stops) return limit;
    if (*found < travel) {
      travel = *found;
      count = static_cast<std::size_t>(
          std::remove_if(met.begin(), met.begin() + static_cast<std::ptrdiff_t>(count),
                         [&](const Ending& m) { return m.travel > travel + kSamePlace; }) -
          met.begin());
    }
    const auto earlier = [&](const Ending& a, const Ending& b) {
      return act_.arena.order(a.body) < act_.arena.order(b.body);
    };
    // Of a crowd in one place those added first are enough.
    const Ending here{body, *found, strikes};
    if (count < met.size()) {
      met[count++] = here;
    } else if (Ending& last = *std::max_element(met.begin(), met.end(), earlier); earlier(here, last)) {
      last = here;
    }
    return std::min(limit, travel + kSamePlace);
  };
  if (ray_.radius > 0) {
    moment_.bodies_along(leg.line, travel + kSamePlace, ask, ray_.radius + slack(scale, travel) + kTouchRoom);
  } else {
    moment_.bodies_along(leg.line, travel, ask);
  }
  for (std::size_t i = 0; i < count; ++i) {
    if (out.body.empty() || act_.arena.order(met[i].body) < act_.arena.order(out.body)) out = met[i];
  }
  out.travel += leg.start;
  return out;
}

/// The strike at a body that it meets on a leg.
Strike RayCarrier::strike_at(BodyId body, const RayLeg& leg, std::size_t order, Outcome& outcome) const {
  Touches touches;
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    const auto contact = contact_with(then, i, leg);
    if (!contact || !at_most(leg.start + contact->distance, stop_, scale_of(leg.line))) continue;
    // Along the line to its rounding, across it to that of the place: what follows touches the body there.
    Contact at = *contact;
    at.point = then.nearest(i, leg.line.at(contact->distance)).point;
    if (at.distance > 0 && ray_.radius == 0) at.normal = then.normal_along(i, at, leg.line.direction);
    at.distance += leg.start;
    touches.add(act_, body, {i, at});
  }
  Strike strike = touches.strike(act_, body);
  strike.power.order = ray_.pierce.power_of(static_cast<std::uint32_t>(order));
  strike.power.through = through_at(strike.distance);
  strike.centre = leg.line.at(strike.distance - leg.start);
  if (ray_.tracer_speed > 0) strike.seen_s = strike.distance / ray_.tracer_speed;
  if (strike.seen_s > ray_.most_delay_s) {
    outcome.warnings.push_back("what is seen of it arrives " + seconds(strike.seen_s) +
                               " after the strike, more than " + seconds(ray_.most_delay_s));
  }
  return strike;
}

void RayCarrier::strike(Outcome& outcome) {
  for (std::size_t i = 0; i < legs_.size() && !blocked_; ++i) {
    const RayLeg& leg = legs_[i];
    for (;;) {
      const Ending next = first_on(leg, outcome.strikes);
      if (next.body.empty()) break;
      if (next.strikes) outcome.strikes.push_back(strike_at(next.body, leg, outcome.strikes.size(), outcome));
      if (next.strikes && outcome.strikes.size() < ray_.pierce.bodies) continue;
      stop_ = next.travel;
      stopper_ = {.wall = {}, .body = next.body};
      in_ground_ = false;
      contact_ = next.strikes ? outcome.strikes.back().point
                              : moment_.body(next.body).nearest(place_at(next.travel)).point;
      // Of a thin one the two are the same; that on the surface is where what follows finds the body.
      stop_point_ = next.strikes && ray_.radius == 0 ? *contact_ : place_at(next.travel);
      outcome.ended = next.strikes ? Ended::strike : Ended::body;
      break;
    }
    if (!stopper_.body.empty()) break;
  }
  outcome.end = stop_point_, outcome.end_contact = contact_;
  outcome.stopped_by = stopper_;
}

std::optional<double> RayCarrier::reaches(const Ball& ball) const {
  if (blocked_) return std::nullopt;
  const Ball grown{ball.center, ball.radius + ray_.radius};
  for (const RayLeg& leg : legs_) {
    const double left = std::min(leg.line.length, stop_ - leg.start);
    if (!(left >= 0)) break;
    const auto met = ray(grown, {leg.line.from, leg.line.direction, left});
    if (!met) continue;
    const double travel = leg.start + met->distance;
    if (far_enough(act_, travel, scale_of(leg.line))) return travel;
  }
  return std::nullopt;
}

double RayCarrier::away(BodyId body) const {
  return moment_.body(body).nearest(legs_.front().line.from).distance;
}

Reading RayCarrier::tell_reach(const Met& met) const {
  Reading r{.gate = Gate::reach};
  const double near = act_.attack.reach.near, far = far_limit(act_.attack.reach);
  const auto say = [&](Reason reason, double measured, double limit, double margin) {
    r.reason = reason, r.measured = measured, r.limit = limit, r.margin = std::max(0.0, margin);
    return r;
  };
  if (met.travel) {
    const double t = *met.travel;
    if (in_reach(met)) return say(Reason::none, t, far, near > 0 ? std::min(far - t, t - near) : far - t);
    return t < near ? say(Reason::too_near, t, near, near - t) : say(Reason::too_far, t, far, t - far);
  }
  const double from_muzzle = away(met.body);
  // A thick one touches so much farther than its middle comes.
  const double touches = far + ray_.radius;
  if (from_muzzle > touches && legs_.size() == 1)
    return say(Reason::too_far, from_muzzle, touches, from_muzzle - touches);
  double gap = kUnlimited;
  const Moment::Body then = moment_.body(met.body);
  for (const RayLeg& leg : legs_) {
    const double size = &leg == &legs_.back() ? far - leg.start : leg.line.length;
    for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
      if (then.has(i))
        gap = std::min(gap, then.distance(i, {leg.line.from, leg.line.at(size)}) - ray_.radius);
    }
  }
  gap = std::max(0.0, gap);
  return say(Reason::missed, gap, 0, gap);
}

Reading RayCarrier::tell_sight(const Met& met) const {
  Reading r{.gate = Gate::sight};
  if (met.body == stopper_.body || (!by_wall() && stopper_.body.empty())) return r;
  const double way = way_to(met);
  r.measured = way;
  r.limit = stop_;
  r.margin = std::fabs(way - stop_);
  if (in_sight(met)) return r;
  r.reason = in_ground_ ? Reason::ground : by_wall() ? Reason::wall : Reason::shielded;
  r.by = stopper_;
  r.at = stop_point_;
  return r;
}

void RayCarrier::tell_surfaces(Outcome& outcome) const {
  if (blocked_) return;
  for (const Passed& s : surfaces_) {
    // What struck or stopped it before kept it from there.
    if (s.travel > stop_ + kSamePlace) break;
    if (!stopper_.body.empty() && s.travel >= stop_ - kSamePlace) break;
    outcome.surfaces.push_back({.wall = s.wall,
                                .did = s.did,
                                .distance = s.travel,
                                .point = s.contact.point,
                                .normal = s.contact.normal,
                                .centre = s.centre,
                                .direction = s.direction});
  }
}

void RayCarrier::draw(Outcome& outcome) const {
  draw_reach(act_.attack.reach, legs_.front().line.from, outcome);
  for (const RayLeg& leg : legs_) {
    const bool first = &leg == &legs_.front();
    if (!first && leg.start > stop_) break;
    const bool last = leg.start + leg.line.length >= stop_;
    outcome.marks.emplace_back(PathMark{first ? outcome.origin : leg.line.from,
                                        last ? outcome.end : leg.line.at(leg.line.length), ray_.radius});
    if (last) break;
  }
}

}  // namespace dardo::detail
