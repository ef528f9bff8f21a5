#include "resolve/carriers/lasting/plan.hpp"

#include <algorithm>
#include <cmath>

#include "dardo/attack/rows.hpp"
#include "geometry/detail/ever.hpp"
#include "resolve/carriers/area_region.hpp"

namespace dardo::detail {
namespace {

template <class T>
double apart(const T& a, const T& b) {
  if constexpr (std::is_same_v<T, double>) {
    return std::fabs(b - a);
  } else if constexpr (std::is_same_v<T, Vec3>) {
    return length(b - a);
  } else if constexpr (std::is_same_v<T, planar::Vec2>) {
    return length({b.x - a.x, b.y - a.y, 0});
  } else if constexpr (requires { a.size(); }) {
    double most = 0;
    for (std::size_t i = 0; i < a.size(); ++i) most = std::max(most, apart(a[i], b[i]));
    return most;
  } else {
    // The sides of an opening go as far as its ends do.
    double sum = 0;
    each_row<T>([&](const auto& r) {
      double part = apart(a.*r.member, b.*r.member);
      if constexpr (requires { a.far; }) {
        if (r.range.unit == Unit::angle) part *= 0.5 * std::max(a.far, b.far);
      }
      sum += part;
    });
    return sum;
  }
}

double hole_of(const AreaShape& shape) {
  return std::visit(
      [](const auto& s) {
        if constexpr (requires { s.near; }) return s.near;
        return 0.0;
      },
      shape);
}

bool is_convex(const AreaShape& shape) {
  if (hole_of(shape) > 0) return false;
  constexpr double kHalf = units::kPi, kRound = 2 * units::kPi;
  if (const auto* s = std::get_if<SectorArea>(&shape)) return s->angle <= kHalf || s->angle >= kRound;
  if (const auto* s = std::get_if<ConeArea>(&shape)) return s->angle <= kHalf || s->angle >= kRound;
  return true;
}

/// What reaches outward, farther out by so much; an inner edge goes along.
AreaShape grown(AreaShape shape, double by) {
  std::visit(
      [by](auto& s) {
        if constexpr (requires { s.near; }) s.near = s.near > 0 ? s.near + by : 0;
        if constexpr (requires { s.far; }) {
          s.far += by;
        } else if constexpr (requires { s.length; }) {
          s.length += by;
        } else if constexpr (requires { s.radius; }) {
          s.radius += by;
        } else if constexpr (requires { s.half; }) {
          s.half = s.half + Vec3{by, by, by};
        }
      },
      shape);
  return shape;
}

void add_size(LastingPlan& plan, double time_s, AreaShape shape) {
  const double reach = reach_of(shape);
  plan.sizes.push_back({time_s, std::move(shape), reach});
}

/// What is known of all its sizes.
void finish(LastingPlan& plan) {
  plan.grows = plan.sizes.size() > 1;
  if (!plan.grows) plan.region = region_of(plan.sizes.front().shape);
  const auto* ball = std::get_if<BallArea>(&plan.sizes.front().shape);
  if (!plan.grows && ball != nullptr) plan.ball = ball->radius;
  plan.convex = true;
  for (const LastingPlan::Size& size : plan.sizes) {
    // A sector that grows is none that its ends are mixed to.
    const bool round = hole_of(size.shape) > 0 || std::holds_alternative<SectorArea>(size.shape) ||
                       std::holds_alternative<ConeArea>(size.shape);
    plan.convex = plan.convex && is_convex(size.shape) && !(plan.grows && round);
    const double hole = hole_of(size.shape);
    if (hole > 0) plan.hole = plan.hole > 0 ? std::min(plan.hole, hole) : hole;
  }
}

LastingPlan plan_of(const AreaDelivery& area) {
  LastingPlan out;
  const Lasts& l = *area.lasts;
  out.to_s = l.for_s, out.every_s = l.every_s, out.on = l.on, out.inside = area.inside;
  out.most = l.strikes.value_or(LastingPlan::kAny);
  out.way = {Leg{0, kEver, {}, l.velocity}};
  add_size(out, 0, area.shape);
  for (const GrownArea& g : l.grows) add_size(out, g.time_s, g.shape);
  if (l.growth > 0) add_size(out, l.for_s, grown(area.shape, l.growth * l.for_s));
  finish(out);
  return out;
}

LastingPlan plan_of(const SwingDelivery& swing) {
  LastingPlan out;
  out.does = LastingPlan::Does::swings;
  out.from_s = std::max(swing.from_s, swing.keys.front().time_s);
  out.to_s = std::min(swing.to_s, swing.keys.back().time_s);
  out.every_s = swing.again_after_s.value_or(out.every_s);
  out.stopped_by_walls = swing.stopped_by_walls, out.on = swing.on;
  const Vec3 axis = normalized(swing.axis / largest(swing.axis));
  for (std::size_t i = 0; i < swing.keys.size(); ++i) {
    const SwingKey &a = swing.keys[i], &b = swing.keys[std::min(i + 1, swing.keys.size() - 1)];
    const double time = b.time_s - a.time_s;
    Leg leg{a.time_s, b.time_s, {a.at, Rotation::about(axis, a.angle)}, {}, axis, 0};
    if (time > 0) leg.velocity = (b.at - a.at) / time, leg.turn_rate = (b.angle - a.angle) / time;
    // At the last key it stands.
    if (time > 0 || swing.keys.size() == 1) out.way.push_back(leg);
  }
  add_size(out, 0, swing.blade);
  finish(out);
  return out;
}

LastingPlan plan_of(const TrapDelivery& trap) {
  LastingPlan out;
  out.does = LastingPlan::Does::sets_off;
  out.from_s = trap.armed_after_s, out.to_s = trap.for_s;
  out.most = trap.times, out.rest_s = trap.rest_s, out.on = trap.on;
  out.vulnerable = trap.vulnerable, out.struck_sets_off = trap.struck_sets_off;
  out.way = {Leg{0, kEver, {}, {}}};
  add_size(out, 0, trap.shape);
  finish(out);
  return out;
}

/// How long it lasts is known as it begins.
LastingPlan plan_of(const DashDelivery& dash) {
  LastingPlan out;
  out.does = LastingPlan::Does::dashes;
  out.to_s = kEver, out.on = Hangs::attacker, out.stopped_by_walls = !dash.through_walls;
  out.way = {Leg{0, kEver, {}, {}}};
  add_size(out, 0, BallArea{0});
  out.convex = true;
  return out;
}

}  // namespace

std::optional<LastingPlan> lasting_plan(const Attack& attack) {
  if (const auto* area = std::get_if<AreaDelivery>(&attack.delivery)) {
    if (!area->lasts) return std::nullopt;
    LastingPlan out = plan_of(*area);
    out.at_once = attack.cap.value_or(LastingPlan::kAny);
    return out;
  }
  if (const auto* swing = std::get_if<SwingDelivery>(&attack.delivery)) {
    LastingPlan out = plan_of(*swing);
    out.most = attack.cap.value_or(LastingPlan::kAny);
    return out;
  }
  if (const auto* dash = std::get_if<DashDelivery>(&attack.delivery)) {
    LastingPlan out = plan_of(*dash);
    out.most = attack.cap.value_or(LastingPlan::kAny);
    return out;
  }
  if (const auto* trap = std::get_if<TrapDelivery>(&attack.delivery)) return plan_of(*trap);
  return std::nullopt;
}

double farthest_apart(const AreaShape& a, const AreaShape& b) {
  return std::visit(
      [&](const auto& from) { return apart(from, std::get<std::remove_cvref_t<decltype(from)>>(b)); }, a);
}

}  // namespace dardo::detail
