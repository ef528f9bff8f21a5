#pragma once
#include <span>
#include <vector>

#include "dardo/resolve/resolve.hpp"

namespace dardo {

/// One launch of a course of events.
struct Launching {
  Attack attack;
  Launch launch;
};

/// All launches as one course of events, each at its own time: numbers go down and bodies fall as in a fight,
/// the fallen attack nobody, shots meet shots, statuses last from one launch to the next, and what asks for
/// it waits until it is ready. An outcome for each, as `resolve` would tell it; the `launch` of a strike, and
/// of a shot that was shot down, is its place in this list. One that means nothing when its time has come
/// ends refused. `options.under_way` and `options.threads` mean nothing here.
std::vector<Outcome> resolve_together(const Arena& arena, std::span<const Launching> launches,
                                      const ResolveOptions& options = {});

}  // namespace dardo
