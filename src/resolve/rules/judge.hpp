#pragma once
#include <algorithm>

#include "resolve/rules/attempt.hpp"

namespace dardo::detail {

/// How the gates of one attack read for a body: struck when they all let it through.
template <class Run>
Verdict judge(const Attempt& attempt, const Run& run, const Outcome& outcome, BodyId body, Detail wanted,
              std::uint32_t stage = 0) {
  Verdict v{.body = body};
  v.struck = std::any_of(outcome.strikes.begin(), outcome.strikes.end(),
                         [&](const Strike& s) { return s.body == body && s.stage == stage; });
  if (v.struck && wanted != Detail::full) {
    v.deciding = run.reach(body);
    return v;
  }
  bool decided = false;
  const auto note = [&](Reading r) {
    if (!decided && r.reason != Reason::none) v.deciding = r, decided = true;
    if (wanted == Detail::full) v.gates.push_back(std::move(r));
    return !decided || wanted == Detail::full;
  };
  // In the order of the gates; without full detail nothing is asked after the first that stops it.
  (void)(note(stands(attempt, body)) && note(not_self(attempt, body)) && note(related(attempt, body)) &&
         note(tagged(attempt, body)) && note(run.reach(body)) && note(run.time(body)) &&
         note(run.sight(body)) && note(run.cap(body, outcome)));
  if (v.struck) v.deciding = run.reach(body);
  if (!v.struck && !decided && !outcome.limits_met.empty()) {
    v.deciding = {.gate = Gate::cap, .reason = Reason::limit};
    if (!v.gates.empty()) v.gates.back() = v.deciding;
  }
  return v;
}

/// Says of which stage its readings are, and since when that one is under way.
inline void mark_stage(Verdict& verdict, std::uint32_t stage, double since_s) {
  verdict.deciding.stage = stage, verdict.deciding.since_s = since_s;
  for (Reading& r : verdict.gates) r.stage = stage, r.since_s = since_s;
}

}  // namespace dardo::detail
