#pragma once
#include <span>
#include <vector>

#include "dardo/resolve/resolve.hpp"

namespace dardo {

/// One of many launches; the attack must outlive the call.
struct BatchLaunch {
  const Attack* attack = nullptr;
  Launch launch;
  std::span<const UnderWay> under_way;  ///< beside those of all; must outlive the call, too
};

/// `resolve` for each of many launches over one arena, on several threads. The outcomes are in the order of
/// the launches and, to the bit, those of `resolve`, however many threads there are. Each attack is prepared
/// once, for all threads: launches of one attack should point to one. Nobody may change the arena meanwhile.
std::vector<Outcome> resolve_all(const Arena& arena, std::span<const BatchLaunch> launches,
                                 const ResolveOptions& options = {});

}  // namespace dardo
