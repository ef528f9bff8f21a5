#pragma once
#include <span>

#include "resolve/carriers/chain.hpp"

namespace dardo::detail {

/// What the chains of one stage have sought: how the gates read for those whom they did not strike, at the
/// departure that came nearest to it.
class ChainPast {
 public:
  /// All must outlive it.
  ChainPast(const Act& act, const Motions& motions, std::span<const Chain* const> chains)
      : act_(act), motions_(motions), chains_(chains) {}

  struct Met {
    BodyId body;
    const Chain* chain = nullptr;
    const Departure* from = nullptr;
    Reading stopped;  ///< there; none where it was let through
  };
  Met met(BodyId body) const;
  double nearest_time(BodyId body) const;
  bool in_reach(const Met& met) const { return tell_reach(met).reason == Reason::none; }
  bool in_time(const Met& met) const { return tell_time(met).reason == Reason::none; }
  bool in_sight(const Met& met) const { return tell_sight(met).reason == Reason::none; }
  Reading tell_reach(const Met& met) const;
  Reading tell_time(const Met& met) const;
  Reading tell_sight(const Met& met) const;
  Reading tell_cap(const Met& met, const Outcome& outcome) const;

 private:
  template <class Ask>
  Reading ask(const Met& met, Gate gate, Ask&& ask) const;

  const Act& act_;
  const Motions& motions_;
  std::span<const Chain* const> chains_;
};

}  // namespace dardo::detail
