#include "resolve/rules/made.hpp"

#include <algorithm>

#include "resolve/rules/chance.hpp"
#include "resolve/rules/hash.hpp"

namespace dardo::detail {
namespace {

void name(EffectNames&, const Push&) {}
void name(EffectNames& n, const Damage& d) { n.name = Name(d.kind), n.other = Name(d.from); }
void name(EffectNames& n, const Heal& h) { n.name = Name(h.to), n.other = Name(h.at_most); }
void name(EffectNames& n, const Change& c) { n.name = Name(c.number); }
void name(EffectNames& n, const Status& s) { n.name = Name(s.name); }
void name(EffectNames& n, const Custom& c) { n.name = Name(c.name), n.other = Name(c.text); }

/// Of effects of one identity the second, third, ... have keys of their own.
template <class Names>
void key(Names& n, std::string_view own, std::size_t kind, const std::vector<Names>& before) {
  constexpr std::string_view kEnd("\0", 1);
  Hash hash(kind);
  hash.add(own), hash.add(kEnd), hash.add(n.name.view()), hash.add(kEnd);
  const std::uint64_t identity = hash.value();
  n.key = identity;
  const auto taken = [&](const Names& other) { return other.key == n.key; };
  for (std::uint64_t i = 0; std::any_of(before.begin(), before.end(), taken); ++i)
    n.key = chance_key(identity, i);
}

}  // namespace

void make(std::vector<EffectMade>& out, const std::vector<Effect>& effects) {
  out.clear();
  for (const Effect& e : effects) {
    EffectMade made;
    made.effect = &e;
    std::visit([&](const auto& what) { name(made, what); }, e.what);
    key(made, e.name, e.what.index(), out);
    if (const auto* status = std::get_if<Status>(&e.what); status != nullptr && status->ticks) {
      for (const TickEffect& t : status->ticks->effects) {
        EffectNames tick;
        std::visit([&](const auto& what) { name(tick, what); }, t);
        key(tick, {}, t.index(), made.ticks);
        made.ticks.push_back(std::move(tick));
      }
    }
    out.push_back(std::move(made));
  }
}

void bind_kinds(std::vector<EffectMade>& effects, const Arena& arena) {
  for (EffectMade& e : effects) {
    e.kind = arena.find_word(e.name.view());
    for (EffectNames& t : e.ticks) t.kind = arena.find_word(t.name.view());
  }
}

bool changes_states(const Attack& attack) {
  const auto any = [](const std::vector<Effect>& effects) {
    return std::any_of(effects.begin(), effects.end(), [](const Effect& e) {
      return !std::holds_alternative<Push>(e.what) && !std::holds_alternative<Custom>(e.what);
    });
  };
  return any(attack.effects) || any(attack.at_release) || (attack.ready && !attack.ready->costs.empty());
}

}  // namespace dardo::detail
