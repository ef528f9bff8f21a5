#include <algorithm>
#include <limits>
#include <utility>

#include "geometry/detail/tolerance.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/rules/attempt.hpp"

namespace dardo::detail {

AreaRun::AreaRun(const Attempt& attempt, const Moment& moment, Outcome& outcome)
    : attempt_(attempt),
      moment_(moment),
      area_(std::get<AreaDelivery>(attempt.attack.delivery)),
      placement_(Reason::none) {
  const Arena& arena = attempt.arena;
  const Vec3 center = moment.center(attempt.launch.by);
  // As a follow-up it lies around the place that it starts from.
  const bool follows = attempt.from != nullptr;
  const bool at_attacker = !follows && area_.around == AreaDelivery::Around::attacker;
  radius_ = area_.radius + (follows ? kPlaceKnown : 0);
  middle_ = follows ? attempt.from->place : at_attacker ? center : *aim_point(moment, attempt.launch);
  eye_ = area_.sight_from == AreaDelivery::SightFrom::eyes && arena.has(attempt.launch.by)
             ? moment.eyes(attempt.launch.by)
             : middle_;
  placed_ = length(middle_ - center);
  const double scale = std::max(largest(middle_), largest(center));
  const Reach& reach = attempt.attack.reach;
  if (!at_attacker && !follows) {
    if (!at_least(placed_, reach.near, scale)) placement_ = Reason::too_near;
    if (!at_most(placed_, reach.far, scale)) placement_ = Reason::too_far;
  }
  outcome.origin = at_attacker || follows ? middle_ : center;
  outcome.end = middle_;
  outcome.ended = placement_ == Reason::none ? Ended::spent : Ended::out_of_reach;
}

void AreaRun::strike(Outcome& outcome) {
  if (placement_ != Reason::none) return;
  const Ball ball{middle_, radius_};
  const double slack = detail::slack(largest(middle_), radius_);
  moment_.bodies_touching(bounds(ball).grown(slack), [&](BodyId body) {
    if (!eligible(attempt_, body)) return;
    const std::vector<Touch> touches = seen_touches(body);
    if (!touches.empty()) outcome.strikes.push_back(strike_from(attempt_, body, touches));
  });
  const auto place = [&](const Strike& s) { return place_at(s.distance, attempt_.arena, s.body); };
  std::sort(outcome.strikes.begin(), outcome.strikes.end(),
            [&](const Strike& a, const Strike& b) { return place(a) < place(b); });
  outcome.strikes.erase(std::unique(outcome.strikes.begin(), outcome.strikes.end(),
                                    [](const Strike& a, const Strike& b) { return a.body == b.body; }),
                        outcome.strikes.end());
  if (attempt_.attack.cap && outcome.strikes.size() > *attempt_.attack.cap) {
    outcome.strikes.resize(*attempt_.attack.cap);
  }
}

/// The hitboxes within the area that can be seen; all of them when sight does not matter.
std::vector<Touch> AreaRun::seen_touches(BodyId body) const {
  std::vector<Touch> touches;
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    if (!then.overlaps(i, {middle_, radius_})) continue;
    const Nearest at = then.nearest(i, middle_);
    if (judge_line(at.point).reason != Reason::none) continue;
    const Vec3 out = middle_ - at.point;
    // Rounding is no direction.
    const Vec3 normal = length(out) > kSamePlace ? normalized(out) : attempt_.arena.up();
    touches.push_back({i, {at.distance, at.point, normal}});
  }
  return touches;
}

std::optional<double> AreaRun::reaches(const Ball& ball) const {
  if (placement_ != Reason::none) return std::nullopt;
  const double away = std::max(0.0, length(ball.center - middle_) - ball.radius);
  if (!at_least(radius_, away, largest(ball.center)) || judge_line(ball.center).reason != Reason::none)
    return std::nullopt;
  return away;
}

Reading AreaRun::reach(BodyId body) const {
  Reading r{.gate = Gate::reach, .reason = placement_, .measured = placed_};
  if (placement_ != Reason::none) {
    r.limit = placement_ == Reason::too_far ? attempt_.attack.reach.far : attempt_.attack.reach.near;
    r.margin = std::fabs(placed_ - *r.limit);
    return r;
  }
  double away = std::numeric_limits<double>::infinity();
  bool inside = false;
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    away = std::min(away, then.nearest(i, middle_).distance);
    inside = inside || then.overlaps(i, {middle_, radius_});
  }
  r.measured = away;
  r.limit = area_.radius;
  r.margin = std::fabs(away - area_.radius);
  if (!inside) r.reason = Reason::outside;
  return r;
}

/// Whether a wall cuts the line from the eye to the target.
Reading AreaRun::judge_line(const Vec3& target) const {
  Reading r{.gate = Gate::sight};
  if (!attempt_.attack.sight) return r;
  const Passage passage = *attempt_.attack.sight;
  const Arena& arena = attempt_.arena;
  const Vec3 way = target - eye_;
  const double size = length(way);
  r.measured = size;
  const Ray line{eye_, size > 0 ? way / size : Vec3{1, 0, 0}, size};
  arena.walls_along(line, size, [&](WallId wall, double limit) {
    const Box& box = arena.wall(wall).box;
    // Judged by a test that gives the same answer from both ends; the ray only says where.
    if (!arena.blocks(wall).has(passage) || arena.wall(wall).lets_pass(way) || !touches(box, {eye_, target}))
      return limit;
    const auto contact = ray(box, line);
    const double at = contact ? contact->distance : size;
    if (r.reason != Reason::none && !(at < *r.limit) && !(at == *r.limit && wall < r.by.wall)) return limit;
    r.reason = contains(box, eye_) ? Reason::inside_wall : Reason::wall;
    r.limit = at;
    r.margin = size - at;
    r.by.wall = wall;
    r.at = line.at(at);
    return at;
  });
  // Whatever stands before it, what lies in a wall is seen from nowhere.
  if (r.reason == Reason::wall) {
    arena.walls_touching({target, target}, [&](WallId wall) {
      const bool blocks = arena.blocks(wall).has(passage) && !arena.wall(wall).lets_pass(way);
      if (!blocks || !contains(arena.wall(wall).box, target)) return;
      if (r.reason == Reason::inside_wall && !(wall < r.by.wall)) return;
      r.reason = Reason::inside_wall;
      r.by.wall = wall;
    });
  }
  if (r.reason == Reason::inside_wall) r.margin.reset();
  return r;
}

Reading AreaRun::sight(BodyId body) const {
  // The body counts when any hitbox within the area is seen; if none is, the nearest one's line tells why.
  Reading nearest_reading{.gate = Gate::sight};
  double least = std::numeric_limits<double>::infinity();
  const Moment::Body then = moment_.body(body);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    const Nearest at = then.nearest(i, middle_);
    const bool within = then.overlaps(i, {middle_, radius_});
    if (!within && at.distance >= least) continue;
    Reading r = judge_line(at.point);
    if (within && r.reason == Reason::none) return r;
    if (at.distance < least) nearest_reading = std::move(r), least = at.distance;
  }
  return nearest_reading;
}

Reading AreaRun::cap(BodyId body, const Outcome& outcome) const {
  Reading r{.gate = Gate::cap};
  if (!attempt_.attack.cap) return r;
  const auto& strikes = outcome.strikes;
  const bool struck =
      std::any_of(strikes.begin(), strikes.end(), [&](const Strike& s) { return s.body == body; });
  if (struck || strikes.size() < *attempt_.attack.cap) return r;
  double away = std::numeric_limits<double>::infinity();
  for (const Touch& t : seen_touches(body)) away = std::min(away, t.contact.distance);
  if (!std::isfinite(away)) {
    const Moment::Body then = moment_.body(body);
    for (std::uint32_t i = 0; i < then.hitboxes(); ++i)
      away = std::min(away, then.nearest(i, middle_).distance);
  }
  const Strike& last = strikes.back();
  r.measured = away;
  r.limit = last.distance;
  r.margin = std::fabs(away - last.distance);
  if (in_steps(away) < in_steps(last.distance)) return r;
  r.reason = Reason::cap;
  return r;
}

void AreaRun::draw(Outcome& outcome) const {
  if (area_.around == AreaDelivery::Around::aim && attempt_.from == nullptr) {
    outcome.marks.emplace_back(
        ReachMark{outcome.origin, attempt_.attack.reach.near, attempt_.attack.reach.far});
  }
  outcome.marks.emplace_back(RingMark{middle_, area_.radius});
  if (!attempt_.attack.sight || placement_ != Reason::none) return;
  for (const BodyId body : attempt_.arena.bodies()) {
    if (!eligible(attempt_, body) || reach(body).reason != Reason::none) continue;
    const Reading r = sight(body);
    Vec3 target = middle_;
    double least = std::numeric_limits<double>::infinity();
    std::vector<Touch> seen = seen_touches(body);
    for (const Touch& t : seen) {
      if (t.contact.distance < least) target = t.contact.point, least = t.contact.distance;
    }
    if (seen.empty()) {
      const Moment::Body then = moment_.body(body);
      for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
        const Nearest at = then.nearest(i, middle_);
        if (at.distance < least) target = at.point, least = at.distance;
      }
    }
    outcome.marks.emplace_back(
        SightMark{eye_, target, r.reason == Reason::none ? std::nullopt : std::optional<Vec3>{r.at}});
  }
}

}  // namespace dardo::detail
