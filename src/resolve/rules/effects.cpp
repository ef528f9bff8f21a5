#include "resolve/rules/effects.hpp"

#include <algorithm>

#include "resolve/rules/tolerances.hpp"

namespace dardo::detail {
namespace {

/// What of a push arrives at a distance.
double falloff(const Push& push, double distance) {
  if (!push.points.empty()) {
    const auto& p = push.points;
    if (distance <= p.front().distance) return p.front().factor;
    for (std::size_t i = 1; i < p.size(); ++i) {
      if (distance > p[i].distance) continue;
      const double share = (distance - p[i - 1].distance) / (p[i].distance - p[i - 1].distance);
      return p[i - 1].factor + (p[i].factor - p[i - 1].factor) * share;
    }
    return p.back().factor;
  }
  const double d = std::clamp(distance / push.range, 0.0, 1.0), left = 1 - d;
  switch (push.falloff) {
    case Push::Falloff::none: return 1;
    case Push::Falloff::linear: return left;
    case Push::Falloff::smooth: return 1 - d * d * (3 - 2 * d);
    case Push::Falloff::square: return left * left;
  }
  return 1;
}

Vec3 way_of(const Push& push, const Moment& moment, const Strike& strike) {
  const Vec3 stated = normalized(push.direction / largest(push.direction));
  switch (push.toward) {
    case Push::Toward::outward: {
      const Vec3 out = moment.pose(strike.body).at - strike.centre;
      return length(out) > kSamePlace ? normalized(out) : stated;
    }
    case Push::Toward::along: return stated;
    case Push::Toward::blow: return length(strike.normal) > 0 ? -normalized(strike.normal) : stated;
  }
  return stated;
}

PushDone done(const Push& push, const Moment& moment, const Strike& strike) {
  PushDone out;
  out.factor = falloff(push, length(strike.point - strike.centre));
  if (push.by_share_seen && strike.seen) out.factor *= strike.seen->share;
  const Vec3 way = way_of(push, moment, strike) * (push.strength * out.factor);
  if (push.as == Push::As::velocity) {
    out.velocity = way;
    return out;
  }
  out.impulse = way;
  const double mass = moment.arena().number(strike.body, push.mass).value_or(0);
  if (mass > 0) out.velocity = way / mass;
  return out;
}

}  // namespace

void effects_of(const Attack& attack, const Moment& moment, const Strike& strike,
                std::vector<EffectDone>& out) {
  out.clear();
  for (const Effect& effect : attack.effects)
    out.push_back(std::visit([&](const auto& e) -> EffectDone { return done(e, moment, strike); }, effect));
}

}  // namespace dardo::detail
