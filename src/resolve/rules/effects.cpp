#include "resolve/rules/effects.hpp"

#include <algorithm>
#include <cmath>

#include "resolve/rules/chance.hpp"
#include "resolve/rules/tolerances.hpp"

namespace dardo::detail {
namespace {

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

/// The first number drawn for an effect is of its chance, the second of its roll.
double drawn(const EffectNames& names, const EffectOf& of, std::uint32_t which) {
  return chance(of.seed, chance_key(of.key, names.key), Draw::effect, which);
}
double rolled(double from, const std::optional<double>& up_to, const EffectNames& names, const EffectOf& of) {
  return up_to ? from + (*up_to - from) * drawn(names, of, 1) : from;
}
double rounded(double v, Rounding how) {
  switch (how) {
    case Rounding::none: return v;
    case Rounding::nearest: return std::round(v);
    case Rounding::down: return std::floor(v);
    case Rounding::up: return std::ceil(v);
  }
  return v;
}

PushDone done(const Push& push, const EffectNames&, const EffectOf& of) {
  PushDone out;
  const Strike& strike = *of.strike;
  out.factor = push.falloff.at(length(strike.point - strike.centre));
  if (push.by_share_seen && strike.seen) out.factor *= strike.seen->share;
  const Vec3 way = way_of(push, of.moment, strike) * (push.strength * out.factor);
  if (push.as == Push::As::velocity) {
    out.velocity = way;
    return out;
  }
  out.impulse = way;
  const double mass = of.moment.motions().number(strike.body, push.mass, of.moment.state_time()).value_or(0);
  if (mass > 0) out.velocity = way / mass;
  return out;
}
DamageDone done(const Damage& d, const EffectNames& names, const EffectOf& of) {
  DamageDone out{.kind = names.name, .from = names.other};
  out.rolled = rolled(d.amount, d.up_to, names, of);
  out.power = d.by_power ? of.power : 1;
  const Resistance against = of.moment.arena().resistance(of.on, names.kind);
  out.armour = against.armour, out.factor = against.factor, out.floor = against.floor;
  // A power below 0 deals nothing: what gives is a heal.
  const double dealt = std::max(0.0, out.rolled * out.power);
  out.amount = std::max(0.0, dealt - out.armour) * out.factor;
  if (dealt > 0 && out.factor > 0) out.amount = std::max(out.amount, out.floor);
  out.amount = rounded(out.amount, d.round);
  return out;
}
HealDone done(const Heal& h, const EffectNames& names, const EffectOf& of) {
  HealDone out{.to = names.name, .at_most = names.other};
  out.rolled = rolled(h.amount, h.up_to, names, of);
  out.power = h.by_power ? of.power : 1;
  out.amount = rounded(std::max(0.0, out.rolled * out.power), h.round);
  return out;
}
ChangeDone done(const Change& c, const EffectNames& names, const EffectOf& of) {
  return {.number = names.name,
          .sets = c.set_to.has_value(),
          .amount = c.set_to ? *c.set_to : rolled(c.by, c.up_to, names, of)};
}
StatusDone done(const Status& s, const EffectNames& names, const EffectOf& of) {
  return {.name = names.name, .until_s = of.moment.time() + s.lasts_s};
}
CustomDone done(const Custom&, const EffectNames& names, const EffectOf&) {
  return {names.name, names.other};
}

}  // namespace

bool comes(const EffectMade& made, std::uint32_t number, const EffectOf& of,
           std::vector<EffectSpared>* spared) {
  const Effect& e = *made.effect;
  const Motions& motions = of.moment.motions();
  const double time = of.moment.state_time();
  const auto not_for = [&](EffectSpared::Why why, const std::string* tag, double rolled) {
    if (spared == nullptr) return false;
    spared->push_back({.effect = number, .on = of.on, .why = why});
    if (tag != nullptr) spared->back().tag = Name(*tag);
    if (why == EffectSpared::Why::chance) spared->back().chance = e.chance, spared->back().rolled = rolled;
    return false;
  };
  // Whom the very strike fells is still there for what it does.
  if (!motions.arena().has(of.on) || (e.on == Effect::On::attacker && !motions.stands(of.on)))
    return not_for(EffectSpared::Why::nobody, nullptr, 0);
  for (const std::string& tag : e.needs) {
    if (!motions.has_tag(of.on, tag, time)) return not_for(EffectSpared::Why::tag_missing, &tag, 0);
  }
  for (const std::string& tag : e.forbids) {
    if (motions.has_tag(of.on, tag, time)) return not_for(EffectSpared::Why::tag_forbidden, &tag, 0);
  }
  if (e.chance >= 1) return true;
  const double rolled = drawn(made, of, 0);
  return rolled < e.chance || not_for(EffectSpared::Why::chance, nullptr, rolled);
}

void do_effect(EffectDone& out, const EffectMade& made, std::uint32_t number, const EffectOf& of) {
  out.effect = number, out.on = of.on;
  std::visit([&](const auto& what) { out.what = done(what, made, of); }, made.effect->what);
}

void do_tick(EffectDone& out, const TickEffect& effect, const EffectNames& names, std::uint32_t number,
             const EffectOf& of) {
  out.effect = number, out.on = of.on;
  std::visit([&](const auto& what) { out.what = done(what, names, of); }, effect);
}

}  // namespace dardo::detail
