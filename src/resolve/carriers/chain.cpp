#include "resolve/carriers/chain.hpp"

#include <algorithm>

#include "geometry/detail/tolerance.hpp"
#include "resolve/rules/order.hpp"
#include "resolve/work.hpp"

namespace dardo::detail {

bool Chain::was_at(BodyId body) const {
  const auto before = [](BodyId a, BodyId b) { return a.index < b.index; };
  const auto at = std::lower_bound(taken.begin(), taken.end(), body, before);
  return at != taken.end() && *at == body;
}
void Chain::take(BodyId body) {
  const auto before = [](BodyId a, BodyId b) { return a.index < b.index; };
  const auto at = std::lower_bound(taken.begin(), taken.end(), body, before);
  if (at != taken.end() && at->index == body.index) {
    *at = body;
  } else {
    taken.insert(at, body);
  }
}

HopCarrier::HopCarrier(const Act& act, const Moment& moment, const Chain& chain, const Departure& from)
    : act_(act),
      moment_(moment),
      delivery_(std::get<ChainDelivery>(act.attack.delivery)),
      chain_(chain),
      from_(from),
      choice_(act.motions, act.stage.order, from.place, from.ahead, act.launch.seed, act.key + from.hop) {
  if (from.hop == 0) near_ = act.attack.reach.near;
  far_ = from.hop == 0 ? far_limit(act.attack.reach) : delivery_.reach_of(from.hop);
  if (act.attack.sight) judge_.emplace(act, moment, *act.attack.sight, from.place);
}

bool HopCarrier::is_free(BodyId body) const {
  if (delivery_.again == ChainDelivery::Again::always) return true;
  if (body == from_.from) return false;
  return delivery_.again == ChainDelivery::Again::not_at_once || !chain_.was_at(body);
}

HopCarrier::Met HopCarrier::met(BodyId body) const {
  const Moment::Body then = moment_.body(body);
  Met out{.body = body, .at = {std::numeric_limits<double>::infinity(), {}}};
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    if (!then.has(i)) continue;
    if (const Nearest one = then.nearest(i, from_.place); one.distance < out.at.distance)
      out.at = one, out.hitbox = i;
  }
  out.distance = delivery_.measure == ChainDelivery::Measure::surface
                     ? out.at.distance
                     : length(moment_.center(body) - from_.place);
  return out;
}

Reading HopCarrier::tell_reach(const Met& met) const {
  Reading r{.gate = Gate::reach, .measured = met.distance, .limit = far_};
  const double scale = largest(from_.place);
  r.margin = std::fabs(met.distance - far_);
  if (!at_most(met.distance, far_, scale)) r.reason = Reason::too_far;
  if (near_ > 0) {
    const double over = met.distance - near_;
    if (r.reason == Reason::none) r.margin = std::min(*r.margin, std::fabs(over));
    if (!at_least(met.distance, near_, scale)) r.reason = Reason::too_near, r.limit = near_, r.margin = -over;
  }
  return r;
}
Reading HopCarrier::tell_time(const Met& met) const {
  return {.gate = Gate::time, .reason = is_free(met.body) ? Reason::none : Reason::visited};
}
Reading HopCarrier::tell_sight(const Met& met) const {
  return judge_ ? judge_->see(met.body, met.at.point).reading : Reading{.gate = Gate::sight};
}

void HopCarrier::choose(std::vector<Candidate>& out) const {
  out.clear();
  const auto& order = act_.stage.order;
  // Nobody far away comes first of the near, unless it is not the distance that counts.
  const bool nearest_first = order.empty() || (order[0].by == OrderKey::By::distance && !order[0].most);
  constexpr double kSure = 1e-8;
  const auto before = [&](const Candidate& a, const Candidate& b) { return choice_.before(a, b); };
  // By its middle it may be measured, too.
  const auto reach_of = [&](BodyId body) {
    return delivery_.measure == ChainDelivery::Measure::surface ? act_.arena.reach_around_center(body) : 0;
  };
  const double grown = far_ + slack(largest(from_.place), far_);
  for (double within = nearest_first ? grown / 16 : grown;; within *= 2) {
    within = std::min(within, grown);
    out.clear();
    moment_.bodies_touching(Bounds{from_.place, from_.place}.grown(within), [&](BodyId body) {
      // Behind as many as are gone for, as far as its middle says.
      if (nearest_first && out.size() >= delivery_.next &&
          length(moment_.center(body) - from_.place) - reach_of(body) > out.back().distance + kSure)
        return;
      if (!is_free(body) || !eligible(act_, body)) return;
      ++work().looks;
      const Met here = met(body);
      if (!from_reach(*this, here, Quiet{})) return;
      const bool twice =
          std::any_of(out.begin(), out.end(), [&](const Candidate& c) { return c.body == body; });
      if (twice) return;
      // The first by the order, and no more of them than are gone for.
      const Candidate one = candidate(here);
      out.insert(std::upper_bound(out.begin(), out.end(), one, before), one);
      if (out.size() > delivery_.next) out.pop_back();
    });
    if (!(within < grown)) return;
    if (out.size() == delivery_.next && out.back().distance < within - kSure) return;
  }
}

Strike HopCarrier::strike(const Met& met) const {
  Touches touches;
  const Vec3 way = from_.place - met.at.point;
  const Vec3 normal = length(way) > kSamePlace ? normalized(way) : act_.arena.upright();
  touches.add(act_, met.body, {met.hitbox, {met.distance, met.at.point, normal}});
  Strike out = touches.strike(act_, met.body);
  out.centre = from_.place, out.hop = from_.hop;
  out.power.hop = delivery_.power_of(from_.hop);
  if (act_.attack.sight && act_.attack.sight->scales_power) {
    const Seen seen = judge_->see(met.body, met.at.point);
    out.seen = Share{seen.share, seen.error}, out.power.seen = seen.share;
  }
  return out;
}

}  // namespace dardo::detail
