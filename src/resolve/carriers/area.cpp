#include "resolve/carriers/area.hpp"

#include <algorithm>
#include <array>
#include <limits>
#include <utility>

#include "geometry/detail/kernels.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/carriers/shot/path.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {
namespace {

/// Whether it stands along up, whichever way it points.
bool is_upright(const AreaShape& shape) {
  return std::holds_alternative<RingArea>(shape) || std::holds_alternative<SectorArea>(shape) ||
         std::holds_alternative<BoxArea>(shape) || std::holds_alternative<PrismArea>(shape) ||
         std::holds_alternative<HullArea>(shape);
}

/// Nothing when the attacker is gone.
std::optional<Vec3> attacker_facing(const Act& act, const Moment& moment) {
  if (!has_attacker(act.arena, act.launch)) return std::nullopt;
  return attacker_pose(moment, act.launch).turn.x;
}

/// From where an area points when it points at its aim.
Vec3 way_to_aim(const Act& act, const Moment& moment, const Vec3& center) {
  if (act.anchor != nullptr) return act.anchor->direction;
  const Vec3 way = aim_direction(moment, act.launch, center);
  return way == Vec3{} ? attacker_pose(moment, act.launch).turn.x : way;
}

Vec3 direction_of(const Act& act, const Moment& moment, AreaDelivery::Along along, const Vec3& center) {
  const Vec3 aim = way_to_aim(act, moment, center);
  BodyId target = act.anchor != nullptr ? act.anchor->target : BodyId{};
  if (const auto* at = std::get_if<AtBody>(&act.launch.toward); at != nullptr && act.anchor == nullptr)
    target = at->body;
  const auto facing = [&](BodyId body) { return act.arena.has(body) ? moment.pose(body).turn.x : aim; };
  switch (along) {
    case AreaDelivery::Along::aim: return aim;
    case AreaDelivery::Along::attacker: return attacker_facing(act, moment).value_or(aim);
    case AreaDelivery::Along::target: return facing(target);
    case AreaDelivery::Along::world: return {1, 0, 0};
  }
  return aim;
}

}  // namespace

Placing place(const Act& act, const Moment& moment, const AreaDelivery& area) {
  Placing out;
  const bool follows = act.anchor != nullptr;
  out.from = has_attacker(act.arena, act.launch) ? attacker_center(moment, act.launch) : act.anchor->place;
  const bool at_attacker = !follows && area.around == AreaDelivery::Around::attacker;
  out.middle = follows ? act.anchor->place : at_attacker ? out.from : *aim_point(moment, act.launch);
  out.away = length(out.middle - out.from);
  const double scale = std::max(largest(out.middle), largest(out.from));
  const Reach& reach = act.attack.reach;
  if (!at_attacker && !follows) {
    if (!at_least(out.away, reach.near, scale)) out.reason = Reason::too_near;
    if (!at_most(out.away, reach.far, scale)) out.reason = Reason::too_far;
  }
  out.ahead = direction_of(act, moment, area.along, out.from);
  const Vec3& up = act.arena.upright();
  const Vec3 level = out.ahead - up * dot(out.ahead, up);
  // Straight up or down what is upright points where its attacker looks, or anywhere.
  Vec3 x = is_upright(area.shape) ? level : out.ahead;
  const auto looks = attacker_facing(act, moment);
  if (!(length(x) > kSamePlace) && looks) x = *looks - up * dot(*looks, up);
  x = length(x) > kSamePlace ? normalized(x) : any_perpendicular(up);
  const Vec3 y = left_of_throw(up, attacker_side(moment, act.launch), x);
  out.frame.turn = {x, y, cross(x, y)};
  out.frame.at = out.middle + (area.offset != Vec3{} ? out.frame.turn * area.offset : Vec3{});
  return out;
}

AreaCarrier::AreaCarrier(const Act& act, const Moment& moment, Outcome& outcome)
    : act_(act), moment_(moment), choice_(act.motions, act.stage.order, {}, {}, 0, 0) {
  const auto& area = std::get<AreaDelivery>(act.attack.delivery);
  const Placing where = place(act, moment, area);
  const bool follows = act.anchor != nullptr;
  placement_ = where.reason, placed_ = where.away;
  cover_.inside = area.inside, cover_.share = area.share;
  if (act.stage.region) cover_.region = &*act.stage.region;
  if (is_ball()) cover_.radius = std::get<BallArea>(area.shape).radius;
  cover_.loose = follows ? kPlaceKnown : 0;
  lie_at(where.frame);
  choice_ = Choice(act.motions, act.stage.order, middle_, where.ahead, act.launch.seed, act.key);
  const bool at_middle = follows || area.around == AreaDelivery::Around::attacker;
  outcome.origin = at_middle ? middle_ : where.from;
  outcome.end = middle_;
  outcome.ended = placement_ == Reason::none ? Ended::spent : Ended::out_of_reach;
}

AreaCarrier::AreaCarrier(const Act& act, const Moment& moment, const Cover& cover, const Pose& frame)
    : act_(act), moment_(moment), cover_(cover), choice_(act.motions, act.stage.order, {}, {}, 0, 0) {
  lie_at(frame);
  choice_ = Choice(act.motions, act.stage.order, middle_, frame.turn.x, act.launch.seed, act.key);
}

void AreaCarrier::lie_at(const Pose& frame) {
  middle_ = frame.at, frame_ = frame;
  to_frame_ = inverse(frame_);
  // How far two shapes are apart is known as well as of a hull.
  radius_ = (is_ball() ? cover_.radius : kHullKnown) + cover_.loose;
  const double scale = std::max(largest(middle_), radius_);
  around_ = is_ball() ? bounds(Ball{middle_, radius_}) : bounds(*cover_.region, frame_).grown(radius_);
  around_ = around_.grown(slack(scale));
  if (act_.attack.sight) judge_.emplace(act_, moment_, *act_.attack.sight, middle_);
}

void AreaCarrier::strike(Outcome& outcome) {
  if (placement_ != Reason::none) return;
  // Some at a time, so that what they are is fetched while others are asked.
  std::array<BodyId, 64> near;
  std::size_t count = 0;
  const auto ask = [&] {
    for (std::size_t i = 0; i < count; ++i) {
      if (i + 4 < count) act_.arena.fetch_hitboxes(near[i + 4]);
      const Met found = met(near[i]);
      if (from_reach(*this, found, Quiet{})) outcome.strikes.push_back(strike_at(found));
    }
    count = 0;
  };
  moment_.bodies_touching(around_, [&](BodyId body) {
    if (!eligible(act_, body)) return;
    act_.arena.fetch_place(body);
    near[count++] = body;
    if (count == near.size()) ask();
  });
  ask();
  const auto candidate = [](const Strike& s) { return Candidate{s.body, s.distance, s.point}; };
  std::sort(outcome.strikes.begin(), outcome.strikes.end(),
            [&](const Strike& a, const Strike& b) { return choice_.before(candidate(a), candidate(b)); });
  outcome.strikes.erase(std::unique(outcome.strikes.begin(), outcome.strikes.end(),
                                    [](const Strike& a, const Strike& b) { return a.body == b.body; }),
                        outcome.strikes.end());
  if (act_.attack.cap && outcome.strikes.size() > *act_.attack.cap) {
    outcome.strikes.resize(*act_.attack.cap);
  }
}

Strike AreaCarrier::strike_at(const Met& met) const {
  Strike out = met.seen.strike(act_, met.body);
  out.centre = middle_;
  if (met.covered) out.covered = Share{met.covered->share, met.covered->error};
  if (met.sight) {
    out.seen = Share{met.sight->share, met.sight->error};
    if (act_.attack.sight->scales_power) out.power.seen = met.sight->share;
  }
  return out;
}

bool AreaCarrier::holds(const Moment::Body& then, std::uint32_t hitbox) const {
  const bool centre = cover_.inside == AreaDelivery::Inside::centre && !cover_.share;
  if (is_ball()) {
    if (cover_.inside == AreaDelivery::Inside::whole && !cover_.share)
      return covers(Region(Shape(Ball{{}, radius_})), in_area(then, hitbox), scale_of(then));
    if (!centre) return then.overlaps(hitbox, {middle_, radius_});
    const Vec3 place = then.center(hitbox);
    return at_most(length(place - middle_), radius_, std::max(largest(place), largest(middle_)));
  }
  const Region& region = *cover_.region;
  if (centre) {
    const Vec3 place = to_frame_ * then.center(hitbox);
    return distance(region, place) <= radius_ + slack(std::max(largest(place), largest(middle_)));
  }
  const Shape there = in_area(then, hitbox);
  if (cover_.inside == AreaDelivery::Inside::whole && !cover_.share)
    return covers(region, there, scale_of(then));
  return comes_within(region, there, radius_);
}

double AreaCarrier::gap(const Moment::Body& then, std::uint32_t hitbox) const {
  const bool centre = cover_.inside == AreaDelivery::Inside::centre;
  if (is_ball()) {
    const double away =
        centre ? length(then.center(hitbox) - middle_) : then.nearest(hitbox, middle_).distance;
    return std::max(0.0, away - radius_);
  }
  return centre ? distance(*cover_.region, to_frame_ * then.center(hitbox))
                : distance(*cover_.region, in_area(then, hitbox));
}

std::optional<CountedShare> AreaCarrier::covered(const Moment::Body& then) const {
  const Region ball{Shape(Ball{{}, radius_})};
  const Pose pose = to_frame_ * then.pose();
  ShareWithin count(is_ball() ? ball : *cover_.region, pose, act_.arena.flat(), scale_of(then));
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    if (then.has(i)) count.add(then.own(i));
  }
  return count.share();
}

AreaCarrier::Met AreaCarrier::met(BodyId body) const {
  Met out{.body = body, .inside = false, .covered = {}, .seen = {}, .sight = {}, .hidden = {}};
  const Moment::Body then = moment_.body(body);
  const bool whole = cover_.inside == AreaDelivery::Inside::whole && !cover_.share;
  std::uint32_t within = 0;
  if (!is_ball()) {
    // Far from it nothing has to be looked at closely.
    const Vec3 center = to_frame_ * moment_.center(body);
    const double reach = act_.arena.reach_around_center(body) + radius_ + slack(8 * largest(center));
    if (distance(*cover_.region, center) > reach) return out;
  }
  if (cover_.share) {
    out.covered = covered(then);
    if (!out.covered || out.covered->share < *cover_.share - 1e-12) return out;
  }
  if (judge_ && !sees_hitboxes()) out.sight = judge_->see(body, {});
  const bool seen = !out.sight || out.sight->reading.reason == Reason::none;
  std::uint32_t there = 0;
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    there += then.has(i);
    if (!then.has(i) || !holds(then, i)) continue;
    ++within;
    const Nearest at = then.nearest(i, middle_);
    const Reading hidden = sight_of(then, i, at.point);
    if (hidden.reason != Reason::none && !out.hidden) out.hidden = hidden;
    if (!seen || hidden.reason != Reason::none) continue;
    const Vec3 point = within_it(then, i, at.point);
    const Vec3 way = middle_ - point;
    // Rounding is no direction.
    const Vec3 normal = length(way) > kSamePlace ? normalized(way)
                        : act_.arena.flat()      ? frame_.turn.x
                                                 : act_.arena.up();
    out.seen.add(act_, body, {i, {at.distance, point, normal}});
  }
  out.inside = whole ? within == there : within > 0;
  if (!out.inside) out.seen = {};
  return out;
}

Reading AreaCarrier::sight_of(const Moment::Body& then, std::uint32_t hitbox, const Vec3& nearest) const {
  if (sees_hitboxes()) return judge_->line(nearest, then.id());
  // Where zones are seen or not, one that is not is not struck.
  if (judge_ && act_.attack.sight->to == Sight::To::zones)
    return judge_->line(then.center(hitbox), then.id());
  return {.gate = Gate::sight};
}

Vec3 AreaCarrier::within_it(const Moment::Body& then, std::uint32_t hitbox, const Vec3& nearest) const {
  const auto* sector = is_ball() ? nullptr : std::get_if<Sector>(cover_.region);
  if (sector == nullptr || !(sector->near > 0) || distance(*cover_.region, to_frame_ * nearest) <= radius_)
    return nearest;
  const Closest common = closest(in_area(then, hitbox), *sector);
  return common.distance > 0 ? nearest : frame_ * common.on_b;
}

Nearest AreaCarrier::nearest_of(BodyId body) const {
  const Moment::Body then = moment_.body(body);
  return then.nearest(middle_);
}

/// The body counts when any hitbox within the area is seen; if none is within, the nearest one's line tells.
bool AreaCarrier::in_sight(const Met& met) const {
  if (!judge_) return true;
  return met.inside ? !met.seen.empty() : tell_sight(met).reason == Reason::none;
}

std::optional<double> AreaCarrier::reaches(const Ball& ball) const {
  if (placement_ != Reason::none) return std::nullopt;
  const double away = std::max(0.0, length(ball.center - middle_) - ball.radius);
  const bool inside =
      is_ball() ? at_least(radius_, away, largest(ball.center))
                : distance(*cover_.region, Shape(Ball{to_frame_ * ball.center, ball.radius})) <= radius_;
  if (!inside || (judge_ && judge_->line(ball.center, {}).reason != Reason::none)) return std::nullopt;
  return away;
}

Reading AreaCarrier::tell_reach(const Met& met) const {
  Reading r{.gate = Gate::reach, .reason = placement_, .measured = placed_};
  if (placement_ != Reason::none) {
    r.limit = placement_ == Reason::too_far ? far_limit(act_.attack.reach) : act_.attack.reach.near;
    r.margin = std::fabs(placed_ - *r.limit);
    return r;
  }
  const Moment::Body then = moment_.body(met.body);
  if (cover_.share) {
    const auto share = covered(then);
    r.measured = share ? share->share : 0, r.limit = *cover_.share, r.of_share = true;
    r.margin = std::fabs(*r.measured - *r.limit);
    if (!met.inside)
      r.reason = !share ? Reason::no_volume : share->share > 0 ? Reason::partly : Reason::outside;
    if (r.reason != Reason::outside) return r;
    r.of_share = false;
  }
  double least = std::numeric_limits<double>::infinity();
  bool any = false;
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    if (!then.has(i)) continue;
    least = std::min(least, gap(then, i));
    any = any || gap(then, i) <= radius_;
  }
  const bool touches = cover_.inside == AreaDelivery::Inside::touches && !cover_.share;
  if (is_ball() && touches) {
    r.measured = nearest_of(met.body).distance;
    r.limit = cover_.radius;
    r.margin = std::fabs(*r.measured - *r.limit);
  } else {
    r.measured = least, r.limit = 0, r.margin = met.inside ? std::nullopt : std::optional(least);
  }
  if (!met.inside)
    r.reason = cover_.inside == AreaDelivery::Inside::whole && any ? Reason::partly : Reason::outside;
  if (r.reason == Reason::partly) r.margin.reset();
  return r;
}

Reading AreaCarrier::tell_sight(const Met& met) const {
  if (!judge_) return {.gate = Gate::sight};
  if (!sees_hitboxes()) {
    const Reading whole = met.sight ? met.sight->reading : judge_->see(met.body, {}).reading;
    // Zones of it are seen, but none of those that lie within.
    return whole.reason == Reason::none && met.inside && met.seen.empty() && met.hidden ? *met.hidden : whole;
  }
  if (met.inside && !met.seen.empty()) {
    // The line to the first that is seen.
    Reading r{.gate = Gate::sight};
    const Moment::Body then = moment_.body(met.body);
    for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
      if (!then.has(i) || !holds(then, i)) continue;
      r = judge_->line(then.nearest(i, middle_).point, met.body);
      if (r.reason == Reason::none) break;
    }
    return r;
  }
  return judge_->line(nearest_of(met.body).point, met.body);
}

Candidate AreaCarrier::candidate(const Met& met) const {
  if (met.seen.empty()) {
    const Nearest at = nearest_of(met.body);
    return {met.body, at.distance, at.point};
  }
  const Strike s = met.seen.strike(act_, met.body);
  return {met.body, s.distance, s.point};
}

Reading AreaCarrier::tell_cap(const Met& met, const Outcome& outcome) const {
  Reading r{.gate = Gate::cap};
  if (!act_.attack.cap) return r;
  const auto& strikes = outcome.strikes;
  const bool struck =
      std::any_of(strikes.begin(), strikes.end(), [&](const Strike& s) { return s.body == met.body; });
  if (struck || strikes.size() < *act_.attack.cap) return r;
  const Candidate mine = candidate(met);
  const Strike& last = strikes.back();
  const Candidate taken{last.body, last.distance, last.point};
  const Choice::Difference by = choice_.difference(mine, taken);
  const bool in_metres = by.key == nullptr || by.key->by == OrderKey::By::distance;
  r.measured = mine.distance, r.limit = taken.distance;
  // By what is no distance they are told apart, but not by how much.
  if (in_metres) r.margin = std::fabs(mine.distance - taken.distance);
  if (by.key != nullptr ? by.a < by.b : in_steps(mine.distance) < in_steps(taken.distance)) return r;
  r.reason = Reason::cap;
  return r;
}

void AreaCarrier::draw(Outcome& outcome) const {
  const auto& area = std::get<AreaDelivery>(act_.attack.delivery);
  if (area.around == AreaDelivery::Around::aim && act_.anchor == nullptr) {
    draw_reach(act_.attack.reach, outcome.origin, outcome);
  }
  if (is_ball()) {
    outcome.marks.emplace_back(RingMark{middle_, cover_.radius});
  } else {
    outcome.marks.emplace_back(AreaMark{area.shape, frame_});
  }
  if (!judge_ || placement_ != Reason::none) return;
  for (const BodyId body : act_.arena.bodies()) {
    if (!eligible(act_, body)) continue;
    const Met found = met(body);
    if (!in_reach(found)) continue;
    const Reading r = tell_sight(found);
    const Vec3 target = found.sight          ? found.sight->target
                        : found.seen.empty() ? nearest_of(body).point
                                             : found.seen.strike(act_, body).point;
    outcome.marks.emplace_back(SightMark{
        judge_->eye(), target, r.reason == Reason::none ? std::nullopt : std::optional<Vec3>{r.at}});
  }
}

}  // namespace dardo::detail
