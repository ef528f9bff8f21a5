#include <algorithm>
#include <array>

#include "geometry/detail/tolerance.hpp"
#include "record/detail/text.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/carriers/ray.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {
namespace {

/// Longer than any way between two places allowed.
constexpr double kUnlimited = 8 * kMaxCoordinate;

double scale_of(const Ray& line) { return largest(line.from); }

/// How far along the line the ground is met; what touches it and leaves it does not meet it.
std::optional<double> to_ground(const Arena& arena, const Ray& line) {
  if (!arena.ground()) return std::nullopt;
  const double height = dot(line.from, arena.ground_normal()) - *arena.ground(),
               rise = dot(line.direction, arena.ground_normal());
  const double touching = slack(scale_of(line), std::fabs(*arena.ground()));
  if (height < -touching || (height <= touching && rise <= 0)) return 0;
  if (rise >= 0 || !at_most(height, -rise * line.length, scale_of(line))) return std::nullopt;
  return std::min(line.length, -height / rise);
}

}  // namespace

RayCarrier::RayCarrier(const Act& act, const Moment& moment, Outcome& outcome)
    : act_(act), moment_(moment), stop_(act.attack.reach.far) {
  const Arena& arena = act.arena;
  const Vec3 muzzle = act.anchor != nullptr ? act.anchor->place : muzzle_point(moment, act.launch);
  const Vec3 direction =
      act.anchor != nullptr ? act.anchor->direction : aim_direction(moment, act.launch, muzzle);
  ray_ = {muzzle, direction, act.attack.reach.far};
  stop_point_ = ray_.at(stop_);
  outcome.origin = muzzle;
  outcome.ended = Ended::reach;

  // Nobody shoots through a wall by leaning on it.
  const Vec3 center = moment.center(act.launch.by), arm = muzzle - center;
  if (const double size = length(arm); size > 0 && act.anchor == nullptr) {
    if (const auto wall = first_wall(arena, {center, arm / size, size}, Passage::shots, moment.time())) {
      stop_ = wall->contact.distance - size;
      stopper_.wall = wall->wall;
      stop_point_ = outcome.origin = wall->contact.point;
      outcome.ended = Ended::muzzle_blocked;
      blocked_ = true;
      return;
    }
  }
  if (const auto wall = first_wall(arena, ray_, Passage::shots, moment.time())) {
    stop_ = wall->contact.distance;
    stopper_.wall = wall->wall;
    stop_point_ = wall->contact.point;
    outcome.ended = Ended::wall;
  }
  if (const auto ground = to_ground(arena, ray_); ground && *ground < stop_) {
    stop_ = *ground;
    stopper_ = {};
    stop_point_ = ray_.at(stop_);
    outcome.ended = Ended::ground;
    in_ground_ = true;
  }
}

/// Along the ray's line, however far. As a follow-up it touches at once what it starts at.
std::optional<Contact> RayCarrier::contact_with(const Moment::Body& then, std::uint32_t hitbox) const {
  if (act_.anchor != nullptr && then.nearest(hitbox, ray_.from).distance <= kPlaceKnown)
    return Contact{0, ray_.from, -ray_.direction};
  return then.ray(hitbox, {ray_.from, ray_.direction, kUnlimited});
}

RayCarrier::Met RayCarrier::met(BodyId body) const {
  Met out{body, {}};
  if (!moment_.may_meet(ray_, kUnlimited, body)) return out;
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    const auto contact = contact_with(then, i);
    if (contact && (!out.travel || contact->distance < *out.travel)) out.travel = contact->distance;
  }
  return out;
}

bool RayCarrier::in_reach(const Met& met) const {
  const double scale = scale_of(ray_);
  return met.travel && far_enough(act_, *met.travel, scale) && at_most(*met.travel, ray_.length, scale);
}

/// Whether the ray gets as far as the body. Of a body that the line does not meet it says that nothing stands
/// between when the ray gets as far as the body's distance.
bool RayCarrier::in_sight(const Met& met) const {
  const bool by_wall = !stopper_.wall.empty() || in_ground_;
  if (met.body == stopper_.body || (!by_wall && stopper_.body.empty())) return true;
  // At the same distance as a wall a body is still struck; at the same as another body, the earlier one is.
  const double way = way_to(met);
  return by_wall ? !blocked_ && at_most(way, stop_, scale_of(ray_)) : way < stop_ - kSamePlace;
}

/// Of those met first, at one place, the one added first.
RayCarrier::Ending RayCarrier::first_ending() const {
  Ending out;
  if (blocked_) return out;
  double travel = stop_ + slack(scale_of(ray_), stop_);  // touching what stands at the very end counts
  std::array<Ending, 16> met;
  std::size_t count = 0;
  moment_.bodies_along(ray_, travel, [&](BodyId body, double limit) {
    const Relation relation = act_.relation_to(body);
    const bool stops =
        act_.attack.stopped_by.has(relation) && relation != Relation::self && !act_.arena.is_fallen(body);
    const bool may_strike = eligible(act_, body);
    if (!stops && !may_strike) return limit;
    const Met found = this->met(body);
    if (!found.travel || *found.travel > std::min(travel + kSamePlace, limit)) return limit;
    const bool struck = may_strike && from_reach(*this, found, Quiet{});
    if (!struck && !stops) return limit;
    if (*found.travel < travel) {
      travel = *found.travel;
      count = static_cast<std::size_t>(
          std::remove_if(met.begin(), met.begin() + static_cast<std::ptrdiff_t>(count),
                         [&](const Ending& m) { return m.travel > travel + kSamePlace; }) -
          met.begin());
    }
    const auto earlier = [&](const Ending& a, const Ending& b) {
      return act_.arena.order(a.body) < act_.arena.order(b.body);
    };
    // Of a crowd in one place those added first are enough.
    const Ending here{body, *found.travel, struck};
    if (count < met.size()) {
      met[count++] = here;
    } else if (Ending& last = *std::max_element(met.begin(), met.end(), earlier); earlier(here, last)) {
      last = here;
    }
    return std::min(limit, travel + kSamePlace);
  });
  for (std::size_t i = 0; i < count; ++i) {
    if (out.body.empty() || act_.arena.order(met[i].body) < act_.arena.order(out.body)) out = met[i];
  }
  return out;
}

/// The strike at a body that it meets.
Strike RayCarrier::strike_at(BodyId body, Outcome& outcome) const {
  Touches touches;
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    const auto contact = contact_with(then, i);
    if (!contact || !at_most(contact->distance, stop_, scale_of(ray_))) continue;
    // Along the line to its rounding, across it to that of the place: what follows touches the body there.
    Contact at = *contact;
    at.point = then.nearest(i, contact->point).point;
    if (at.distance > 0) at.normal = then.normal_along(i, at, ray_.direction);
    touches.add(act_, body, {i, at});
  }
  Strike strike = touches.strike(act_, body);
  const auto& delivery = std::get<RayDelivery>(act_.attack.delivery);
  if (delivery.tracer_speed > 0) strike.seen_s = strike.distance / delivery.tracer_speed;
  if (strike.seen_s > delivery.most_delay_s) {
    outcome.warnings.push_back("what is seen of it arrives " + seconds(strike.seen_s) +
                               " after the strike, more than " + seconds(delivery.most_delay_s));
  }
  return strike;
}

void RayCarrier::strike(Outcome& outcome) {
  const Ending first = first_ending();
  if (!first.body.empty()) {
    if (first.strikes) outcome.strikes.push_back(strike_at(first.body, outcome));
    stop_ = first.travel;
    stopper_ = {.wall = {}, .body = first.body};
    in_ground_ = false;
    stop_point_ = first.strikes ? outcome.strikes.back().point : ray_.at(first.travel);
    outcome.ended = first.strikes ? Ended::strike : Ended::body;
  }
  outcome.end = stop_point_;
  outcome.stopped_by = stopper_;
}

std::optional<double> RayCarrier::reaches(const Ball& ball) const {
  if (blocked_) return std::nullopt;
  const auto met = ray(ball, {ray_.from, ray_.direction, stop_});
  if (!met || !far_enough(act_, met->distance, scale_of(ray_))) return std::nullopt;
  return met->distance;
}

double RayCarrier::away(BodyId body) const {
  double least = kUnlimited;
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i)
    least = std::min(least, then.nearest(i, ray_.from).distance);
  return least;
}

Reading RayCarrier::tell_reach(const Met& met) const {
  Reading r{.gate = Gate::reach};
  const double near = act_.attack.reach.near, far = ray_.length;
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
  if (from_muzzle > far) return say(Reason::too_far, from_muzzle, far, from_muzzle - far);
  double gap = kUnlimited;
  const Moment::Body then = moment_.body(met.body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i)
    gap = std::min(gap, then.distance(i, {ray_.from, ray_.at(far)}));
  return say(Reason::missed, gap, 0, gap);
}

Reading RayCarrier::tell_sight(const Met& met) const {
  Reading r{.gate = Gate::sight};
  const bool by_wall = !stopper_.wall.empty() || in_ground_;
  if (met.body == stopper_.body || (!by_wall && stopper_.body.empty())) return r;
  const double way = way_to(met);
  r.measured = way;
  r.limit = stop_;
  r.margin = std::fabs(way - stop_);
  if (in_sight(met)) return r;
  r.reason = in_ground_ ? Reason::ground : by_wall ? Reason::wall : Reason::shielded;
  r.by = stopper_;
  r.at = stop_point_;
  return r;
}

void RayCarrier::draw(Outcome& outcome) const {
  outcome.marks.emplace_back(ReachMark{ray_.from, act_.attack.reach.near, ray_.length});
  outcome.marks.emplace_back(PathMark{outcome.origin, outcome.end});
}

}  // namespace dardo::detail
