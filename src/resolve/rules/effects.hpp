#pragma once
#include "dardo/record/outcome.hpp"
#include "resolve/moment/moment.hpp"
#include "resolve/rules/made.hpp"

// What effects come to: whether they come at all, and how much. Nothing is changed by it.
namespace dardo::detail {

/// What an effect comes from, and whom it is on.
struct EffectOf {
  const Moment& moment;
  BodyId on;
  std::uint64_t seed, key;         ///< of the chance of the strike, the release or the tick
  double power = 1;                ///< that arrives
  const Strike* strike = nullptr;  ///< if it is one
};

/// Whether it comes; else, if somebody wants to know, why not.
bool comes(const EffectMade& made, std::uint32_t number, const EffectOf& of,
           std::vector<EffectSpared>* spared);
/// What it comes to. Of a status as if the body had none of it.
void do_effect(EffectDone& out, const EffectMade& made, std::uint32_t number, const EffectOf& of);
/// One of those that a status does as it ticks.
void do_tick(EffectDone& out, const TickEffect& effect, const EffectNames& names, std::uint32_t number,
             const EffectOf& of);

}  // namespace dardo::detail
