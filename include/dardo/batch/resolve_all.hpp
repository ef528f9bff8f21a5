#pragma once
#include <span>
#include <vector>

#include "dardo/resolve/resolve.hpp"

namespace dardo {

/// One of many launches; the attack must outlive the call.
struct BatchLaunch {
  const Attack* attack = nullptr;
  Launch launch;
};

/// `resolve` for each of many launches over one arena, on several threads (0: as many as the machine has).
/// The outcomes are in the order of the launches and, to the bit, those of `resolve`, however many threads
/// there are. Nobody may change the arena meanwhile.
std::vector<Outcome> resolve_all(const Arena& arena, std::span<const BatchLaunch> launches,
                                 Detail detail = Detail::verdicts, int threads = 0);

}  // namespace dardo
