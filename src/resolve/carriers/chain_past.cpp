#include "resolve/carriers/chain_past.hpp"

#include <algorithm>

namespace dardo::detail {

ChainPast::Met ChainPast::met(BodyId body) const {
  Met best{.body = body};
  for (const Chain* chain : chains_) {
    for (const Departure& from : chain->departures) {
      if (!from.only.empty() && from.only != body) continue;
      const Moment moment(motions_, from.time);
      const HopCarrier carrier(act_, moment, *chain, from);
      const HopCarrier::Met here = carrier.met(body);
      Reading r = carrier.tell_reach(here);
      if (r.reason == Reason::none) r = carrier.tell_time(here);
      if (r.reason == Reason::none) r = carrier.tell_sight(here);
      const bool through = r.reason == Reason::none;
      const auto rank = [](const Reading& reading) {
        return reading.reason == Reason::none ? 100 : static_cast<int>(reading.gate);
      };
      constexpr double kUnknown = std::numeric_limits<double>::infinity();
      const bool nearer = best.from == nullptr || rank(r) > rank(best.stopped) ||
                          (rank(r) == rank(best.stopped) && !through &&
                           r.margin.value_or(kUnknown) < best.stopped.margin.value_or(kUnknown));
      if (nearer) best = {body, chain, &from, r};
    }
  }
  return best;
}

double ChainPast::nearest_time(BodyId body) const {
  const Met here = met(body);
  return here.from != nullptr ? here.from->time : 0;
}

template <class Ask>
Reading ChainPast::ask(const Met& met, Gate gate, Ask&& ask) const {
  if (met.from == nullptr) return {.gate = gate};
  const Moment moment(motions_, met.from->time);
  const HopCarrier carrier(act_, moment, *met.chain, *met.from);
  return ask(carrier, carrier.met(met.body));
}

Reading ChainPast::tell_reach(const Met& met) const {
  return ask(met, Gate::reach, [](const auto& c, const auto& m) { return c.tell_reach(m); });
}
Reading ChainPast::tell_time(const Met& met) const {
  return ask(met, Gate::time, [](const auto& c, const auto& m) { return c.tell_time(m); });
}
Reading ChainPast::tell_sight(const Met& met) const {
  return ask(met, Gate::sight, [](const auto& c, const auto& m) { return c.tell_sight(m); });
}

/// Those who were let through and not gone for come after those who were, by so much.
Reading ChainPast::tell_cap(const Met& met, const Outcome&) const {
  Reading r{.gate = Gate::cap};
  if (met.stopped.reason != Reason::none) return r;
  // It was not thought of, or others came first.
  r.reason = Reason::cap;
  if (met.from == nullptr) return r;
  const Moment moment(motions_, met.from->time);
  const HopCarrier carrier(act_, moment, *met.chain, *met.from);
  r.measured = carrier.met(met.body).distance;
  for (const HopMade& hop : met.chain->hops) {
    if (hop.from.hop != met.from->hop || hop.from.from != met.from->from || hop.from.time != met.from->time)
      continue;
    // It was gone for: by then the cap was spent.
    if (hop.to == met.body) return r;
    const double distance = carrier.met(hop.to).distance;
    r.limit = std::max(r.limit.value_or(0), distance);
  }
  const bool by_distance = act_.stage.order.empty();
  if (r.limit && by_distance) r.margin = std::fabs(*r.measured - *r.limit);
  return r;
}

}  // namespace dardo::detail
