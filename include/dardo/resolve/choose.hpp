#pragma once
#include <vector>

#include "dardo/resolve/resolve.hpp"

namespace dardo {

/// Whom a launch `toward` a choice is aimed at, and why not the others.
struct Chosen {
  BodyId body;  ///< empty when there is nobody
  /// One for every body, in their order: `struck` is the chosen one; else the gate that stopped it, or the
  /// cap, when others come first.
  std::vector<Verdict> verdicts;
};
/// Requires a launch whose `toward` is an `AtChoice`, and that `check` finds nothing wrong with. `rules`, if
/// there are some, must outlive the call.
Chosen choose(const Arena& arena, const Attack& attack, const Launch& launch, const Rules* rules = nullptr);

}  // namespace dardo
