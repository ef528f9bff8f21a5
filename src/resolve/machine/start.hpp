#pragma once
#include <memory>

#include "dardo/record/outcome.hpp"
#include "resolve/carriers/chain.hpp"
#include "resolve/machine/queue.hpp"
#include "resolve/rules/act.hpp"
#include "resolve/rules/slots.hpp"

namespace dardo::detail {

/// What a carrier comes from: the strike that led to it (from 1; 0: none), and the key of its chance.
struct Cause {
  std::uint32_t strike = 0;
  std::uint64_t key = 0;
};

/// The setting-off of one stage.
struct Start {
  LaunchSlot launch;
  std::uint32_t stage = 0;
  double time = 0;
  bool by_launch = false;   ///< it is the launch's own, which starts where that says
  bool wound = false;       ///< and its windup is over
  std::uint32_t round = 0;  ///< of a burst
  bool checked = false;     ///< what the launch says is known to mean something then
  Anchor anchor;            ///< else there
  BodyId target;
  Vec3 aim;
  Cause cause;
  std::size_t led_to = 0;  ///< among those of its instant
  // A hop of a chain that arrives.
  ChainSlot chain{Next::kNobody};
  BodyId hop_to;
  Departure departure;
  std::shared_ptr<const Strike> staggered;  ///< a strike that comes later than its instant

  bool hops() const { return chain.at != Next::kNobody; }
  /// It keeps its launch until then.
  bool is_pending() const { return !by_launch || wound || round > 0; }
};

inline bool begins_after(const Start& a, const Start& b) { return a.time > b.time; }

}  // namespace dardo::detail
