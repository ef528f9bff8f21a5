#pragma once
#include "dardo/record/outcome.hpp"

namespace dardo::detail {

/// As new, but for the room that its lists have, and for whose it is.
inline void clear(Outcome& out) {
  out.strikes.clear(), out.happenings.clear(), out.downed.clear(), out.verdicts.clear(), out.marks.clear(),
      out.limits_met.clear();
  out.surfaces.clear();
  out.warnings.clear(), out.problems.clear();
  out.ended = Ended::spent, out.stopped_by = {};
  out.origin = out.end = {}, out.end_contact.reset(), out.start_s = out.end_s = 0;
}

}  // namespace dardo::detail
