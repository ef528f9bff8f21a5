#pragma once
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "dardo/attack/sight.hpp"

// When an attack may be used: what is asked of the attacker before a launch.
namespace dardo {

/// So many uses, that come back.
struct Uses {
  enum class Back : std::uint8_t {
    one_by_one,  ///< each so long after the one before it has come back
    together,    ///< all of them so long after the last use
  };

  std::uint32_t count = 1;
  double back_after_s = 1;
  Back back = Back::one_by_one;

  friend bool operator==(const Uses&, const Uses&) = default;
};

/// What a use costs: it is spent as the attack is released.
struct Cost {
  std::string number;  ///< of the attacker
  double amount = 0;
  double leaves = 0;         ///< so much of it must be left
  std::string leaves_share;  ///< or, of this number of the attacker, the share `leaves`

  friend bool operator==(const Cost&, const Cost&) = default;
};

/// Another attack of the same attacker that must have come before, or must not have.
struct Before {
  std::string attack;
  double within_s = 1;  ///< so long before at most
  bool must = true;     ///< false: must not have come

  friend bool operator==(const Before&, const Before&) = default;
};

struct Readiness {
  std::optional<Uses> uses;
  double rest_s = 0;  ///< between two uses by one attacker
  std::vector<Cost> costs;
  std::vector<Before> before;        ///< all of them must hold
  std::vector<std::string> needs;    ///< tags that the attacker must have, by itself or by a status
  std::vector<std::string> forbids;  ///< or must not have
  std::optional<double> facing;      ///< its target lies within this angle of its facing, radians
  double nearest = 0;                ///< metres from the muzzle to the target's nearest point, or to its aim
  std::optional<double> farthest;
  std::optional<Sight> sight;  ///< it sees the body it is aimed at

  friend bool operator==(const Readiness&, const Readiness&) = default;
};

}  // namespace dardo
