#pragma once
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/attack.hpp"
#include "dardo/attack/launch.hpp"
#include "dardo/record/outcome.hpp"

namespace dardo {

/// What attackers have used, and when: as much as readiness asks for, one entry for each attacker and attack.
/// A running game's skirmish keeps its own.
class History {
 public:
  struct Use {
    BodyId by;
    Name attack;
    double last_s = 0;        ///< the last one
    double back_s = 0;        ///< when all of its uses will be back
    std::uint32_t spent = 0;  ///< of uses that come back together: since they last did
    friend bool operator==(const Use&, const Use&) = default;
  };

  /// It was used; times do not fall.
  void note(BodyId by, const Attack& attack, double time_s) { note(by, Name(attack.name), attack, time_s); }
  void note(BodyId by, const Name& name, const Attack& attack, double time_s);
  /// Nothing where it was not.
  const Use* find(BodyId by, std::string_view attack) const;
  const std::vector<Use>& uses() const { return uses_; }
  void put(const Use& use) { uses_.push_back(use); }
  void clear() { uses_.clear(); }

  friend bool operator==(const History&, const History&) = default;

 private:
  std::vector<Use> uses_;
};

/// One thing that an attacker is not ready for.
struct NotReady {
  enum class Why : std::uint8_t {
    fallen,         ///< the attacker does not stand
    uses,           ///< none of its uses is back
    rest,           ///< the last use is too short a time ago
    cost,           ///< too little of a number
    before,         ///< an attack has not come before
    just_before,    ///< an attack has come that must not
    tag_missing,    ///< the attacker lacks a tag
    tag_forbidden,  ///< the attacker has a tag
    facing,         ///< its aim lies too far aside
    too_near,
    too_far,
    sight,  ///< it does not see whom it is aimed at
  };

  Why why = Why::uses;
  Name word;                      ///< the number, the attack or the tag
  std::optional<double> in_s;     ///< so long it takes by itself
  std::optional<double> missing;  ///< so much of a number, so many metres or radians
  Reading seen;                   ///< of sight: what stands between

  friend bool operator==(const NotReady&, const NotReady&) = default;
};

struct Ready {
  std::vector<NotReady> missing;  ///< all of it
  Problems problems;              ///< of the attack or the launch itself: nothing else was asked then

  bool yes() const { return missing.empty() && problems.empty(); }
};

/// Whether a launch may come at its time, `launch.at_s`, as the attack's `ready` says; else each reason, with
/// how much or how long is missing. In a running game: `Skirmish::ready`.
Ready ready(const Arena& arena, const Attack& attack, const Launch& launch, const History& history = {});

/// "ready in 1.20 s", "needs 4 more stamina", "lash has not come before".
std::string explain(const NotReady& reason, const Arena& arena);

}  // namespace dardo
