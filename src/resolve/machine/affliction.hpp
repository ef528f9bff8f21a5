#pragma once
#include <optional>

#include "resolve/rules/made.hpp"
#include "resolve/rules/slots.hpp"
#include "resolve/rules/tolerances.hpp"

namespace dardo::detail {

/// A status that a body has, and whose it is. Plain data.
struct Affliction {
  BodyId body, by;
  LaunchSlot launch;
  std::uint32_t stage = 0, effect = 0;  ///< which of that stage's effects, or of those of its release
  bool of_release = false;
  std::uint32_t cause = 0;   ///< the number of the strike that gave it; 0: none
  std::uint32_t ticks = 0;   ///< so many so far
  std::uint32_t serial = 0;  ///< among all
  double power = 1, from = 0, to = 0;
  std::uint64_t key = 0;
  std::uint32_t version = 0;  ///< which of its entries in the queue is meant

  const EffectMade& made(const Stage& of) const { return (of_release ? of.at_release : of.effects)[effect]; }
  /// When it ticks next; nothing when it does not any more.
  std::optional<double> next_tick(const Status& status) const {
    if (!status.ticks) return std::nullopt;
    const bool first = status.ticks->at_start && ticks == 0;
    const double at = from + status.ticks->every_s * (ticks + (status.ticks->at_start ? 0 : 1));
    if (first || at < to - kInstant || (at <= to + kInstant && status.ticks->at_end)) return at;
    return std::nullopt;
  }
};

}  // namespace dardo::detail
