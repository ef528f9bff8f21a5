// Chains: who is next, hops that arrive.
#include <algorithm>

#include "resolve/aim_point.hpp"
#include "resolve/carriers/chain.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/work.hpp"

namespace dardo::detail {

void Machine::begin_chain(const Start& start, Listener& listener) {
  if (!may_begin(start, listener)) return;
  const ChainSlot slot = chains_.add();
  Chain& c = chains_[slot];
  c = {};
  Launched& launched = launches_[start.launch];
  c.launch = start.launch, c.stage = start.stage, c.cause = start.cause.strike;
  c.key = chance_key(start.cause.key, 0), c.number = launched.flights++;
  c.began = c.time = start.time;
  ++launched.alive;
  const Moment moment(motions_, start.time);
  c.ahead = start.by_launch ? heading_of(moment, launched.launch) : start.anchor.direction;
  if (start.by_launch) {
    c.origin = c.last = muzzle_point(moment, launched.launch);
    const auto* at = std::get_if<AtBody>(&launched.launch.toward);
    depart(slot, {c.origin, {}, 0, start.time, c.ahead}, at != nullptr ? at->body : BodyId{}, c.cause,
           listener);
  } else if (!start.anchor.target.empty() && arena_->has(start.anchor.target)) {
    // From the body that was struck.
    c.origin = c.last = moment.center(start.anchor.target);
    c.take(start.anchor.target);
    depart(slot, {c.origin, start.anchor.target, 1, start.time, c.ahead}, {}, c.cause, listener);
  } else {
    c.origin = c.last = start.anchor.place;
    depart(slot, {c.origin, {}, 0, start.time, c.ahead}, {}, c.cause, listener);
  }
  over_if_done(slot, listener);
}

/// Decides where it goes from there: to `only`, if that is said.
void Machine::depart(ChainSlot slot, const Departure& from, BodyId only, std::uint32_t cause,
                     Listener& listener) {
  Chain& c = chains_[slot];
  const Launched& launched = launches_[c.launch];
  const Stage& stage = launched.stage(c.stage);
  const auto& delivery = std::get<ChainDelivery>(stage.attack->delivery);
  if (from.hop > delivery.hops) return;
  const Moment moment(motions_, from.time);
  const Act act(motions_, stage, launched.launch, launched.faction, moment.state_time(), nullptr, c.key);
  const HopCarrier carrier(act, moment, c, from);
  if (keep_ways_) c.departures.push_back(from), c.departures.back().only = only;
  if (only.empty()) {
    carrier.choose(next_);
  } else {
    next_.clear();
    const HopCarrier::Met met = carrier.met(only);
    if (eligible(act, only) && from_reach(carrier, met, Quiet{})) next_.push_back(carrier.candidate(met));
  }
  for (const Candidate& next : next_) {
    if (!takes_carrier(c.launch, from.time, listener)) break;
    c.take(next.body), ++c.pending;
    const double way = length(moment.center(next.body) - from.place),
                 time = delivery.delay_s + (delivery.speed > 0 ? way / delivery.speed : 0);
    const Vec3 at = moment.center(next.body);
    const std::uint64_t key = chance_key(c.key, Then::When::hop, arena_->order(next.body), from.hop);
    if (keep_ways_) c.hops.push_back({from, next.body, from.time + time, std::nullopt});
    follow_from(
        {.launch = c.launch,
         .stage = c.stage,
         .time = from.time,
         .anchor = {from.place,
                    length(at - from.place) > kSamePlace ? normalized(at - from.place) : arena_->upright(),
                    {}},
         .target = next.body,
         .aim = at,
         .cause = {cause, key}},
        Then::When::hop);
    Start hop{.launch = c.launch, .stage = c.stage, .time = from.time, .cause = {cause, key}};
    hop.chain = slot, hop.hop_to = next.body, hop.departure = from;
    begin_after(hop, time);
  }
}

/// One arrives, where its body is by then.
void Machine::arrive(const Start& start, Listener& listener) {
  const ChainSlot slot = start.chain;
  Chain& c = chains_[slot];
  Launched& launched = launches_[c.launch];
  const Stage& stage = launched.stage(c.stage);
  --c.pending, c.time = start.time;
  ++work().contacts;
  const bool there = arena_->has(start.hop_to);
  const Moment moment(motions_, start.time);
  const Vec3 place = there ? moment.center(start.hop_to) : c.last, way = place - start.departure.place;
  const Departure here{place, start.hop_to, start.departure.hop + 1, start.time,
                       length(way) > kSamePlace ? normalized(way) : start.departure.ahead};
  c.last = here.place;
  for (HopMade& h : c.hops) {
    if (h.to == start.hop_to && h.from.hop == start.departure.hop && !h.landed) h.landed = here.place;
  }
  const auto stop = [&](Limit limit) {
    meet_limit(c.launch, limit, start.time, listener);
    c.strikes = kNoMore;
  };
  if (c.strikes == kNoMore) return over_if_done(slot, listener);
  if (launched.contacts++ >= limits_.contacts) return stop(Limit::contacts), over_if_done(slot, listener);
  std::uint32_t cause = start.cause.strike;
  const std::uint32_t most = stage.attack->cap.value_or(kNoMore - 1);
  if (there && motions_.stands(start.hop_to)) {
    if (launched.strikes >= limits_.strikes) return stop(Limit::strikes), over_if_done(slot, listener);
    const Act act(motions_, stage, launched.launch, launched.faction, moment.state_time(), nullptr, c.key);
    const HopCarrier carrier(act, moment, c, start.departure);
    Strike s = carrier.strike(carrier.met(start.hop_to));
    s.time_s = s.seen_s = start.time, s.stage = c.stage, s.cause = start.cause.strike;
    s.carrier = c.number;
    ++c.strikes;
    cause = record_strike(s, c.launch, start.cause.key, listener);
    follow_strike(c.launch, s, cause, start.cause.key);
  }
  if (chains_[slot].strikes < most) depart(slot, here, {}, cause, listener);
  if (chains_[slot].strikes >= most) chains_[slot].strikes = kNoMore;
  over_if_done(slot, listener);
}

/// Nothing of it is under way any more.
void Machine::over_if_done(ChainSlot slot, Listener& listener) {
  Chain& c = chains_[slot];
  if (c.pending > 0) return;
  listener.on_chain(c);
  const Vec3 way = c.last - c.origin;
  follow_from({.launch = c.launch,
               .stage = c.stage,
               .time = c.time,
               .anchor = {c.last, length(way) > kSamePlace ? normalized(way) : c.ahead, {}},
               .aim = c.last,
               .cause = {c.cause, chance_key(c.key, Then::When::end, 0, 0)}},
              Then::When::end);
  if (--launches_[c.launch].alive == 0) over_.push_back(c.launch);
  chains_.release(slot);
}

}  // namespace dardo::detail
