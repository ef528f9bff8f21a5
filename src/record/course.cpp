#include <algorithm>

#include "dardo/record/outcome.hpp"

namespace dardo {
namespace {

template <class Thing>
void by_time(std::vector<Thing>& all) {
  std::stable_sort(all.begin(), all.end(),
                   [](const Thing& a, const Thing& b) { return a.time_s < b.time_s; });
}

/// Whether a verdict tells more of a body than another one.
bool tells_more(const Verdict& a, const Verdict& b) {
  if (a.struck != b.struck) return a.struck;
  return !a.struck && a.deciding.gate > b.deciding.gate;
}

}  // namespace

Outcome course_of(std::span<const Outcome> outcomes, std::string name) {
  Outcome out;
  out.launch = std::move(name);
  if (outcomes.empty()) return out;
  out.start_s = outcomes.front().start_s, out.origin = outcomes.front().origin;
  struct From {
    std::uint32_t outcome, strike;
    double time_s;
  };
  std::vector<From> order;
  for (std::uint32_t i = 0; i < outcomes.size(); ++i) {
    const Outcome& o = outcomes[i];
    out.start_s = std::min(out.start_s, o.start_s), out.end_s = std::max(out.end_s, o.end_s);
    for (std::uint32_t k = 0; k < o.strikes.size(); ++k) order.push_back({i, k, o.strikes[k].time_s});
    out.happenings.insert(out.happenings.end(), o.happenings.begin(), o.happenings.end());
    out.downed.insert(out.downed.end(), o.downed.begin(), o.downed.end());
    out.surfaces.insert(out.surfaces.end(), o.surfaces.begin(), o.surfaces.end());
    out.marks.insert(out.marks.end(), o.marks.begin(), o.marks.end());
    out.limits_met.insert(out.limits_met.end(), o.limits_met.begin(), o.limits_met.end());
    for (const std::string& w : o.warnings) out.warnings.push_back(o.launch + ": " + w);
    for (const Problem& p : o.problems) out.warnings.push_back(o.launch + ": " + p.what);
  }
  by_time(order), by_time(out.happenings), by_time(out.downed), by_time(out.surfaces);
  // Where each strike stands now, for those that follow from it.
  std::vector<std::vector<std::uint32_t>> number(outcomes.size());
  for (std::size_t i = 0; i < outcomes.size(); ++i) number[i].resize(outcomes[i].strikes.size());
  for (std::uint32_t n = 0; n < order.size(); ++n) number[order[n].outcome][order[n].strike] = n + 1;
  for (const From& f : order) {
    Strike s = outcomes[f.outcome].strikes[f.strike];
    if (s.cause > 0) s.cause = number[f.outcome][s.cause - 1];
    out.strikes.push_back(std::move(s));
  }
  for (std::size_t i = 0; i < outcomes.size(); ++i) {
    for (Verdict v : outcomes[i].verdicts) {
      if (v.strike > 0) v.strike = number[i][v.strike - 1];
      const auto same = [&](const Verdict& other) { return other.body == v.body; };
      const auto at = std::find_if(out.verdicts.begin(), out.verdicts.end(), same);
      if (at == out.verdicts.end()) {
        out.verdicts.push_back(std::move(v));
      } else if (v.struck && at->struck) {
        at->strike = std::min(at->strike, v.strike);
      } else if (tells_more(v, *at)) {
        *at = std::move(v);
      }
    }
  }
  return out;
}

}  // namespace dardo
