#include <algorithm>
#include <array>

#include "geometry/detail/tolerance.hpp"
#include "record/detail/text.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/rules/attempt.hpp"

namespace dardo::detail {
namespace {

/// Longer than any way between two places allowed.
constexpr double kUnlimited = 8 * kMaxCoordinate;

double scale_of(const Ray& line) { return largest(line.from); }

/// How far along the line the ground is met; what touches it and leaves it does not meet it.
std::optional<double> to_ground(const Arena& arena, const Ray& line) {
  if (!arena.ground()) return std::nullopt;
  const double height = dot(line.from, arena.up()) - *arena.ground(), rise = dot(line.direction, arena.up());
  const double touching = slack(scale_of(line), std::fabs(*arena.ground()));
  if (height < -touching || (height <= touching && rise <= 0)) return 0;
  if (rise >= 0 || !at_most(height, -rise * line.length, scale_of(line))) return std::nullopt;
  return std::min(line.length, -height / rise);
}

}  // namespace

RayRun::RayRun(const Attempt& attempt, const Moment& moment, Outcome& outcome)
    : attempt_(attempt), moment_(moment), near_(attempt.attack.reach.near), stop_(attempt.attack.reach.far) {
  const Arena& arena = attempt.arena;
  const Vec3 muzzle = attempt.from != nullptr ? attempt.from->place : muzzle_point(moment, attempt.launch);
  const Vec3 direction =
      attempt.from != nullptr ? attempt.from->direction : aim_direction(moment, attempt.launch, muzzle);
  ray_ = {muzzle, direction, attempt.attack.reach.far};
  stop_point_ = ray_.at(stop_);
  outcome.origin = muzzle;
  outcome.ended = Ended::reach;

  // Nobody shoots through a wall by leaning on it.
  const Vec3 center = moment.center(attempt.launch.by), arm = muzzle - center;
  if (const double size = length(arm); size > 0 && attempt.from == nullptr) {
    if (const auto wall = first_wall(arena, {center, arm / size, size}, Passage::shots)) {
      stop_ = wall->contact.distance - size;
      stopper_.wall = wall->wall;
      stop_point_ = outcome.origin = wall->contact.point;
      outcome.ended = Ended::muzzle_blocked;
      blocked_ = true;
      return;
    }
  }
  if (const auto wall = first_wall(arena, ray_, Passage::shots)) {
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
std::optional<Contact> RayRun::contact_with(const Moment::Body& then, std::uint32_t hitbox) const {
  if (attempt_.from != nullptr && then.nearest(hitbox, ray_.from).distance <= kPlaceKnown)
    return Contact{0, ray_.from, -ray_.direction};
  return then.ray(hitbox, {ray_.from, ray_.direction, kUnlimited});
}

/// Travel along the ray's line, however far, to the first contact with a hitbox.
std::optional<double> RayRun::travel_to(BodyId body) const {
  std::optional<double> first;
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    const auto contact = contact_with(then, i);
    if (contact && (!first || contact->distance < *first)) first = contact->distance;
  }
  return first;
}

/// Of those met first, at one place, the one added first.
RayRun::Met RayRun::first_met() const {
  Met out;
  if (blocked_) return out;
  double travel = stop_ + slack(scale_of(ray_), stop_);  // touching what stands at the very end counts
  std::array<Met, 16> met;
  std::size_t count = 0;
  moment_.bodies_along(ray_, travel, [&](BodyId body, double limit) {
    const Relation relation = attempt_.relation_to(body);
    const bool stops = attempt_.attack.stopped_by.has(relation) && relation != Relation::self &&
                       stands(attempt_, body).reason == Reason::none;
    const bool may_strike = eligible(attempt_, body);
    if (!stops && !may_strike) return limit;
    const auto t = travel_to(body);
    if (!t || *t > std::min(travel + kSamePlace, limit)) return limit;
    // As `reach` reads it.
    const bool struck =
        may_strike && at_least(*t, near_, scale_of(ray_)) && at_most(*t, ray_.length, scale_of(ray_));
    if (!struck && !stops) return limit;
    if (*t < travel) {
      travel = *t;
      count = static_cast<std::size_t>(
          std::remove_if(met.begin(), met.begin() + static_cast<std::ptrdiff_t>(count),
                         [&](const Met& m) { return m.travel > travel + kSamePlace; }) -
          met.begin());
    }
    const auto earlier = [&](const Met& a, const Met& b) {
      return attempt_.arena.order(a.body) < attempt_.arena.order(b.body);
    };
    // Of a crowd in one place those added first are enough.
    const Met here{body, *t, struck};
    if (count < met.size()) {
      met[count++] = here;
    } else if (Met& last = *std::max_element(met.begin(), met.end(), earlier); earlier(here, last)) {
      last = here;
    }
    return std::min(limit, travel + kSamePlace);
  });
  for (std::size_t i = 0; i < count; ++i) {
    if (out.body.empty() || attempt_.arena.order(met[i].body) < attempt_.arena.order(out.body)) out = met[i];
  }
  return out;
}

/// The strike at a body that it meets.
Strike RayRun::strike_at(BodyId body, Outcome& outcome) const {
  std::vector<Touch> touches;
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    const auto contact = contact_with(then, i);
    if (!contact || !at_most(contact->distance, stop_, scale_of(ray_))) continue;
    touches.push_back({i, *contact});
    // Along the line to its rounding, across it to that of the place: what follows touches the body there.
    Contact& at = touches.back().contact;
    at.point = then.nearest(i, contact->point).point;
    if (at.distance > 0) at.normal = then.normal_along(i, at, ray_.direction);
  }
  Strike strike = strike_from(attempt_, body, touches);
  const auto& delivery = std::get<RayDelivery>(attempt_.attack.delivery);
  if (delivery.tracer_speed > 0) strike.seen_s = strike.distance / delivery.tracer_speed;
  if (strike.seen_s > delivery.most_delay_s) {
    outcome.warnings.push_back("what is seen of it arrives " + seconds(strike.seen_s) +
                               " after the strike, more than " + seconds(delivery.most_delay_s));
  }
  return strike;
}

void RayRun::strike(Outcome& outcome) {
  const Met first = first_met();
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

std::optional<double> RayRun::reaches(const Ball& ball) const {
  if (blocked_) return std::nullopt;
  const auto met = ray(ball, {ray_.from, ray_.direction, stop_});
  if (!met || !at_least(met->distance, near_, scale_of(ray_))) return std::nullopt;
  return met->distance;
}

Reading RayRun::reach(BodyId body) const {
  Reading r{.gate = Gate::reach};
  const double far = ray_.length, scale = scale_of(ray_);
  const auto miss = [&](Reason reason, double measured, double limit, double margin) {
    r.reason = reason, r.measured = measured, r.limit = limit, r.margin = std::max(0.0, margin);
    return r;
  };
  if (const auto t = travel_to(body)) {
    if (!at_least(*t, near_, scale)) return miss(Reason::too_near, *t, near_, near_ - *t);
    if (!at_most(*t, far, scale)) return miss(Reason::too_far, *t, far, *t - far);
    r.measured = *t, r.limit = far;
    r.margin = std::max(0.0, near_ > 0 ? std::min(far - *t, *t - near_) : far - *t);
    return r;
  }
  double away = kUnlimited, gap = kUnlimited;
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i)
    away = std::min(away, then.nearest(i, ray_.from).distance);
  if (away > far) return miss(Reason::too_far, away, far, away - far);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i)
    gap = std::min(gap, then.distance(i, {ray_.from, ray_.at(far)}));
  return miss(Reason::missed, gap, 0, gap);
}

/// Whether the ray gets as far as the body. Of a body that the line does not meet it says that nothing stands
/// between when the ray gets as far as the body's distance.
Reading RayRun::sight(BodyId body) const {
  Reading r{.gate = Gate::sight};
  if (body == stopper_.body || (stopper_.wall.empty() && stopper_.body.empty() && !in_ground_)) return r;
  double t = kUnlimited;
  if (const auto travel = travel_to(body)) {
    t = *travel;
  } else {
    const Moment::Body then = moment_.body(body);
    for (std::uint32_t i = 0; i < then.hitboxes(); ++i) t = std::min(t, then.nearest(i, ray_.from).distance);
  }
  const bool by_wall = !stopper_.wall.empty() || in_ground_;
  r.measured = t;
  r.limit = stop_;
  r.margin = std::fabs(t - stop_);
  // At the same distance as a wall a body is still struck; at the same as another body, the earlier one is.
  if (by_wall && !blocked_ && at_most(t, stop_, scale_of(ray_))) return r;
  if (!by_wall && t < stop_ - kSamePlace) return r;
  r.reason = in_ground_ ? Reason::ground : by_wall ? Reason::wall : Reason::shielded;
  r.by = stopper_;
  r.at = stop_point_;
  return r;
}

Reading RayRun::cap(BodyId, const Outcome&) const { return {.gate = Gate::cap}; }

void RayRun::draw(Outcome& outcome) const {
  outcome.marks.emplace_back(ReachMark{ray_.from, near_, ray_.length});
  outcome.marks.emplace_back(PathMark{outcome.origin, outcome.end});
}

}  // namespace dardo::detail
