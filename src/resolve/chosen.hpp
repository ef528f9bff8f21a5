#pragma once
#include "dardo/resolve/choose.hpp"
#include "resolve/moment/moment.hpp"
#include "resolve/rules/prepared.hpp"

namespace dardo::detail {

/// Whom a launch of an attack is aimed at, at the time of the moment; `verdicts`, if given, gets one for
/// every body.
BodyId choose(const Moment& moment, const Stage& stage, const Launch& launch, FactionId faction,
              std::vector<Verdict>* verdicts);

}  // namespace dardo::detail
