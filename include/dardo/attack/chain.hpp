#pragma once
#include <cstdint>
#include <vector>

namespace dardo {

/// From body to body: each next one is chosen by the attack's order from those within a hop.
///
/// The first is the body aimed at, or else the first by the order within the attack's reach; as what follows
/// from a strike it goes on from the body struck. Whom it goes for, whether that is seen, and that no other
/// takes it, is decided as it departs, by where all are then; it arrives where that body is by then. One that
/// has fallen meanwhile is not struck; the next is sought from there.
struct ChainDelivery {
  enum class Measure : std::uint8_t { surface, centre };
  enum class Again : std::uint8_t {
    never,        ///< each body once
    not_at_once,  ///< not the one that it comes from
    always,       ///< even that
  };

  double hop = 5;        ///< metres, from the centre of the last one; touching that limit counts
  double hop_ratio = 1;  ///< each hop is as long as the one before times this
  Measure measure = Measure::surface;
  std::uint32_t hops = 3;  ///< one after the other, after the first body
  std::uint32_t next = 1;  ///< how many are gone for from each
  Again again = Again::never;
  double delay_s = 0;         ///< each hop takes so long
  double speed = 0;           ///< and as long as its way at this speed takes, m/s; 0: no more
  std::vector<double> power;  ///< factor for the first, second, ... body
  double power_ratio = 1;     ///< after the list each body gets this share of what the one before got
  double power_step = 0;      ///< and so much less, never below 0
  double arc = 0;             ///< how high a leg is drawn over its middle, metres

  /// The factor of the body after so many hops.
  double power_of(std::uint32_t after) const;
  /// How far the hop with this number, from 1, reaches.
  double reach_of(std::uint32_t number) const;
  friend bool operator==(const ChainDelivery&, const ChainDelivery&) = default;
};

}  // namespace dardo
