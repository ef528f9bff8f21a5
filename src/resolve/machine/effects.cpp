// What strikes and releases do, the statuses that they give, and the ledger.
#include "resolve/rules/effects.hpp"

#include <algorithm>
#include <cmath>

#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"

namespace dardo::detail {

/// A strike is told with a number, whose it is, and how strong it arrives.
std::uint32_t Machine::number_strike(Strike& strike, LaunchSlot launch, std::uint64_t key) {
  Launched& l = launches_[launch];
  const Stage& stage = l.stage(strike.stage);
  const Attack& attack = *stage.attack;
  strike.launch = l.number, strike.by = l.launch.by, strike.attack = stage.name;
  strike.seen_s = std::max(strike.seen_s, strike.time_s);
  strike.felled = false;
  if (attack.by_distance) strike.power.distance = attack.by_distance->at(strike.distance);
  strike.power.level = attack.level_factor;
  if (attack.critical && chance(l.launch.seed, key, Draw::critical, 0) < attack.critical->chance)
    strike.power.critical = attack.critical->factor;
  return ++l.strikes;
}

/// One effect of a strike, if it comes.
void Machine::come(Strike& strike, LaunchSlot launch, std::uint32_t effect, const Cause& cause,
                   Listener& listener) {
  const Launched& l = launches_[launch];
  const EffectMade& made = l.stage(strike.stage).effects[effect];
  const Moment moment(motions_, strike.time_s);
  const BodyId on = made.effect->on == Effect::On::attacker ? l.launch.by : strike.body;
  const EffectOf of{moment, on, l.launch.seed, cause.key, strike.power.arriving(), &strike};
  if (!comes(made, effect, of, keep_ways_ ? &strike.spared : nullptr)) return;
  do_effect(strike.effects.emplace_back(), made, effect, of);
  const Affliction given{.body = on,
                         .by = l.launch.by,
                         .launch = launch,
                         .stage = strike.stage,
                         .effect = effect,
                         .cause = cause.strike,
                         .power = of.power,
                         .from = strike.time_s,
                         .key = chance_key(cause.key, made.key)};
  take_effect(strike.effects.back(), strike.time_s, given, listener);
}

/// What has been done comes into force: the ledger counts it, and a status begins.
void Machine::take_effect(EffectDone& done, double time, const Affliction& given, Listener& listener) {
  if (auto* status = std::get_if<StatusDone>(&done.what)) {
    afflict(*status, given, listener);
  } else if (ledger_) {
    count(done, time, listener);
  }
}

/// Whether the ledger has it that its body falls by it.
void Machine::mark_felled(Strike& strike) const {
  for (const Fall& fall : falls_) strike.felled = strike.felled || fall.body == strike.body;
}

void Machine::tell_strike(Strike& strike, Listener& listener) {
  mark_felled(strike);
  const bool fell = listener.on_strike(strike);
  if (fell && !strike.felled) falls_.push_back({strike.body, strike.time_s});
  settle_falls(listener);
}

std::uint32_t Machine::record_strike(Strike& strike, LaunchSlot launch, std::uint64_t key,
                                     Listener& listener) {
  const std::uint32_t number = number_strike(strike, launch, key);
  const auto& effects = launches_[launch].stage(strike.stage).effects;
  if (effects.empty()) return tell_strike(strike, listener), number;
  std::swap(strike.effects, effects_);  // which has room
  strike.effects.clear();
  for (std::uint32_t i = 0; i < effects.size(); ++i) come(strike, launch, i, {number, key}, listener);
  tell_strike(strike, listener);
  std::swap(strike.effects, effects_);
  return number;
}

/// The same of all strikes of one instant, the first effect on all of them before the next.
void Machine::record_together(const Start& start, Outcome& out, Listener& listener) {
  const auto key = [&](const Strike& s) {
    return chance_key(start.cause.key, Then::When::strike, arena_->order(s.body), 0);
  };
  std::uint32_t first = 0;
  for (Strike& s : out.strikes) {
    const std::uint32_t number = number_strike(s, start.launch, key(s));
    if (first == 0) first = number;
  }
  const auto count = static_cast<std::uint32_t>(launches_[start.launch].stage(start.stage).effects.size());
  for (std::uint32_t e = 0; e < count; ++e) {
    for (std::uint32_t i = 0; i < out.strikes.size(); ++i)
      come(out.strikes[i], start.launch, e, {first + i, key(out.strikes[i])}, listener);
  }
  for (Strike& s : out.strikes) mark_felled(s);  // before the first is told, and the falls are in force
  for (Strike& s : out.strikes) tell_strike(s, listener);
  for (std::uint32_t i = 0; i < out.strikes.size(); ++i)
    follow_strike(start.launch, out.strikes[i], first + i, key(out.strikes[i]));
}

/// What a release costs the attacker, and does to it.
void Machine::take_release(const Start& start, Listener& listener) {
  Launched& l = launches_[start.launch];
  const Stage& stage = l.stage(start.stage);
  const auto& ready = stage.attack->ready;
  const bool pays = ready && !ready->costs.empty() && start.by_launch && start.round == 0;
  // Who has fallen meanwhile feels nothing of it.
  if (!motions_.stands(l.launch.by) || (!pays && stage.at_release.empty())) return;
  Happening& told = happening_;
  told = {.what = Happening::What::released,
          .on = l.launch.by,
          .time_s = start.time,
          .launch = l.number,
          .stage = start.stage,
          .cause = start.cause.strike,
          .by = l.launch.by,
          .attack = stage.name,
          .status = {},
          .effects = std::move(told.effects)};
  told.effects.clear();
  if (pays) {
    for (std::uint32_t i = 0; i < stage.costs.size(); ++i) {
      told.effects.push_back({i, told.on, ChangeDone{stage.costs[i], false, -ready->costs[i].amount, {}}});
      if (ledger_) count(told.effects.back(), start.time, listener);
    }
  }
  const Moment moment(motions_, start.time);
  const std::uint64_t key = chance_key(start.cause.key, Then::When::release, WallPartId::kNone, start.round);
  const EffectOf of{moment, told.on, l.launch.seed, key, stage.attack->power * stage.attack->level_factor};
  for (std::uint32_t i = 0; i < stage.at_release.size(); ++i) {
    const EffectMade& made = stage.at_release[i];
    if (!comes(made, i, of, nullptr)) continue;
    do_effect(told.effects.emplace_back(), made, i, of);
    const Affliction given{.body = told.on,
                           .by = told.on,
                           .launch = start.launch,
                           .stage = start.stage,
                           .effect = i,
                           .of_release = true,
                           .power = of.power,
                           .from = start.time,
                           .key = chance_key(key, made.key)};
    take_effect(told.effects.back(), start.time, given, listener);
  }
  if (!told.effects.empty()) tell(told, listener);
}

void Machine::tell(Happening& told, Listener& listener) {
  for (const Fall& fall : falls_) told.felled = told.felled || fall.body == told.on;
  const bool fell = listener.on_happening(told);
  if (fell && !told.felled) falls_.push_back({told.on, told.time_s});
  settle_falls(listener);
}

/// Whoever has fallen is not struck any more, and has no statuses.
void Machine::settle_falls(Listener& listener) {
  while (!falls_.empty()) {
    const Fall fall = falls_.back();
    falls_.pop_back();
    Facts::Of& of = facts_.of(fall.body);
    if (of.fell < kEver) continue;
    of.fell = fall.time;
    listener.on_fell(fall.body, fall.time);
    while (const Facts::Span* span = first_status(fall.body, {}))
      end_affliction(span->slot, fall.time, Happening::Over::fell, listener);
    forget_target(fall.body, fall.time);
  }
}

const Facts::Span* Machine::first_status(BodyId body, std::string_view name) const {
  const Facts::Of* of = facts_.find(body);
  if (of == nullptr) return nullptr;
  const auto is_it = [&](const Facts::Span& s) {
    return !s.over && (name.empty() || s.status->name == name);
  };
  const auto at = std::find_if(of->spans.begin(), of->spans.end(), is_it);
  return at != of->spans.end() ? &*at : nullptr;
}

/// The ledger: what a number has come to; who has none of the name loses nothing.
void Machine::count(EffectDone& done, double time, Listener& listener) {
  constexpr double kMost = 1e15;
  const auto now = [&](const Name& name) { return motions_.number(done.on, name.view(), time); };
  const auto keep = [&](const Name& name, double value) {
    value = std::clamp(value, -kMost, kMost);
    unsettle(done.on, time, listener);
    auto& numbers = facts_.of(done.on).numbers;
    const auto same = [&](const Facts::Number& n) { return n.name == name; };
    const auto at = std::find_if(numbers.begin(), numbers.end(), same);
    // Verdicts ask what it was at their time.
    if (at != numbers.end() && !keep_ways_) {
      at->value = value;
    } else {
      numbers.push_back({name, value, time});
    }
    return value;
  };
  if (auto* d = std::get_if<DamageDone>(&done.what)) {
    const auto has = now(d->from);
    if (!has) return;
    d->left = d->amount > 0 ? keep(d->from, std::max(0.0, *has - d->amount)) : *has;
    if (d->amount > 0 && *d->left == 0) falls_.push_back({done.on, time});
  } else if (auto* h = std::get_if<HealDone>(&done.what)) {
    const auto has = now(h->to);
    if (!has) return;
    const auto most = h->at_most.empty() ? std::nullopt : now(h->at_most);
    h->left = keep(h->to, most ? std::max(*has, std::min(*has + h->amount, *most)) : *has + h->amount);
    h->given = *h->left - *has;
  } else if (auto* c = std::get_if<ChangeDone>(&done.what)) {
    c->left = keep(c->number, c->sets ? c->amount : now(c->number).value_or(0) + c->amount);
  }
}

}  // namespace dardo::detail
