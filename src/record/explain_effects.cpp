#include <algorithm>
#include <cmath>

#include "dardo/record/explain.hpp"
#include "record/detail/text.hpp"

namespace dardo {
namespace {

using detail::short_number;

/// What a number is by now, where somebody keeps it.
std::string left(const Name& number, const std::optional<double>& of) {
  return of ? ", " + number.str() + " " + short_number(*of) + (*of == 0 ? ": it falls" : " left") : "";
}
std::string now(const Name& number, const std::optional<double>& of) {
  return of ? ", " + number.str() + " is " + short_number(*of) : "";
}

std::string told(const PushDone& push) {
  const bool by_velocity = push.velocity != Vec3{} || push.impulse == Vec3{};
  return "pushed by " + detail::place(by_velocity ? push.velocity : push.impulse) +
         (by_velocity ? " m/s" : " N s");
}
std::string told(const DamageDone& d) {
  std::string out = short_number(d.amount) + (d.kind.empty() ? "" : " " + d.kind.str()) + " damage";
  std::string steps = short_number(d.rolled);
  if (d.power != 1) steps += " x " + short_number(d.power);
  if (d.armour > 0) steps += " - " + short_number(d.armour) + " armour";
  if (d.armour < 0) steps += " + " + short_number(-d.armour) + " unarmoured";
  if (d.factor != 1) steps = (d.armour != 0 ? "(" + steps + ")" : steps) + " x " + short_number(d.factor);
  if (d.floor > 0) steps += ", at least " + short_number(d.floor);
  const double dealt = std::max(0.0, d.rolled * d.power - d.armour) * d.factor;
  if (steps != short_number(d.amount)) out += " = " + steps;
  if (d.amount == std::round(d.amount) && dealt != std::round(dealt)) out += ", rounded";
  if (d.factor == 0) out += " (immune)";
  return out + left(d.from, d.left);
}
std::string told(const HealDone& h) {
  return "healed by " + short_number(h.amount) +
         (h.power != 1 ? " = " + short_number(h.rolled) + " x " + short_number(h.power) : "") +
         (h.given && *h.given != h.amount ? ", of which " + short_number(*h.given) + " counted" : "") +
         now(h.to, h.left);
}
std::string told(const ChangeDone& c) {
  const std::string number = c.number.str();
  if (c.sets) return number + " set to " + short_number(c.amount);
  return number + (c.amount < 0 ? " down by " : " up by ") + short_number(std::fabs(c.amount)) +
         (c.left ? " to " + short_number(*c.left) : "");
}
std::string told(const StatusDone& s) {
  std::string out = s.name.str();
  if (s.did == StatusDone::Did::kept) out += " already";
  if (s.did == StatusDone::Did::renewed) out += " anew";
  if (s.at_once > 1) out += " x " + std::to_string(s.at_once);
  return out + (std::isinf(s.until_s) ? " until it is ended" : " until " + detail::seconds(s.until_s));
}
std::string told(const CustomDone& c) { return c.name.str() + (c.text.empty() ? "" : ": " + c.text.str()); }

}  // namespace

std::string explain(const Power& power) {
  std::string out = short_number(power.base);
  for (const Power::Factor& f : power.factors()) {
    if (f.name != "base" && f.factor != 1) out += " x " + std::string(f.name) + " " + short_number(f.factor);
  }
  const std::string arriving = short_number(power.arriving());
  return "power " + arriving + (out != arriving ? " = " + out : "");
}

std::string explain(const EffectDone& effect) {
  return std::visit([](const auto& what) { return told(what); }, effect.what);
}

std::string explain(const EffectSpared& spared) {
  switch (spared.why) {
    case EffectSpared::Why::chance:
      return "chance of " + short_number(spared.chance) + " not met: " + short_number(spared.rolled) +
             " rolled";
    case EffectSpared::Why::tag_missing: return "lacks the tag " + spared.tag.str();
    case EffectSpared::Why::tag_forbidden: return "has the tag " + spared.tag.str();
    case EffectSpared::Why::nobody: return "nobody is there for it";
  }
  return {};
}

std::string explain(const Happening& h, const Arena& arena) {
  const auto name = [&](BodyId body) {
    return arena.has(body) ? arena.body(body).id : std::string("somebody who is gone");
  };
  std::string out;
  switch (h.what) {
    case Happening::What::released: out = name(h.on) + " releases " + h.attack.str(); break;
    case Happening::What::ticked: out = h.status.str() + " ticks on " + name(h.on); break;
    case Happening::What::over:
      out = h.status.str() + " is over on " + name(h.on);
      if (h.why == Happening::Over::fell) out += ", who has fallen";
      if (h.why == Happening::Over::ended) out += ": ended by another";
      break;
  }
  for (std::size_t i = 0; i < h.effects.size(); ++i) out += (i == 0 ? ": " : "; ") + explain(h.effects[i]);
  return out;
}

}  // namespace dardo
