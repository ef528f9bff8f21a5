#pragma once
#include <algorithm>

#include "dardo/resolve/resolve.hpp"
#include "resolve/rules/let_through.hpp"

namespace dardo::detail {

/// Writes down what the gates say of a body: the first that stops it; all of them if that is wanted.
class Recorder {
 public:
  Recorder(Verdict& verdict, Detail wanted) : verdict_(verdict), all_(wanted == Detail::full) {}

  template <class Tell>
  bool operator()(bool passes, Tell&& tell) {
    if (passes && !all_) return true;
    Reading reading = tell();
    if (!passes && !stopped_) verdict_.deciding = reading, stopped_ = true;
    if (all_) verdict_.gates.push_back(std::move(reading));
    return all_;
  }
  bool stopped() const { return stopped_; }

 private:
  Verdict& verdict_;
  bool all_, stopped_ = false;
};

/// How the gates of one act read for a body: struck when they let it through and it was chosen.
template <class Carrier>
Verdict verdict_of(const Act& act, const Carrier& carrier, const Outcome& outcome, BodyId body, Detail wanted,
                   std::uint32_t stage = 0) {
  Verdict v{.body = body};
  v.struck = std::any_of(outcome.strikes.begin(), outcome.strikes.end(),
                         [&](const Strike& s) { return s.body == body && s.stage == stage; });
  Recorder note(v, wanted);
  // Without full detail nothing is asked after the first that stops it.
  if (!v.struck || wanted == Detail::full) {
    if (before_reach(act, body, note)) {
      const auto met = carrier.met(body);
      if (from_reach(carrier, met, note)) {
        const Reading cap = carrier.tell_cap(met, outcome);
        (void)note(cap.reason == Reason::none, [&] { return cap; });
      }
    }
  }
  if (v.struck) v.deciding = carrier.tell_reach(carrier.met(body));
  if (!v.struck && !note.stopped() && !outcome.limits_met.empty()) {
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
