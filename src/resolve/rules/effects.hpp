#pragma once
#include "resolve/moment/moment.hpp"
#include "resolve/rules/act.hpp"

namespace dardo::detail {

/// What a strike does to its body by the attack's effects, into `out`, in their order.
void effects_of(const Attack& attack, const Moment& moment, const Strike& strike,
                std::vector<EffectDone>& out);

}  // namespace dardo::detail
