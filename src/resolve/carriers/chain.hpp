#pragma once
#include <optional>
#include <vector>

#include "resolve/moment/moment.hpp"
#include "resolve/rules/choice.hpp"
#include "resolve/rules/let_through.hpp"
#include "resolve/rules/sight.hpp"
#include "resolve/rules/slots.hpp"

namespace dardo::detail {

/// From where a chain goes on.
struct Departure {
  Vec3 place;
  BodyId from;            ///< the body there, if any
  std::uint32_t hop = 0;  ///< the number of the hop; 0: to the first body
  double time = 0;
  Vec3 ahead{1, 0, 0};  ///< the way that it came, one metre long
  BodyId only = {};     ///< nobody else was thought of
};

/// A hop that was decided.
struct HopMade {
  Departure from;
  BodyId to;
  double arrives = 0;
  std::optional<Vec3> landed;  ///< where, once it has arrived
};

/// A chain under way.
struct Chain {
  LaunchSlot launch;
  std::uint32_t stage = 0, number = 0;
  std::uint32_t cause = 0;  ///< the number of the strike that led to it, from 1; 0: none
  std::uint64_t key = 0;
  double began = 0, time = 0;
  Vec3 origin, last;    ///< where it began, and where it was at last
  Vec3 ahead{1, 0, 0};  ///< which way it set off
  std::uint32_t strikes = 0;
  std::uint32_t pending = 0;  ///< hops that have not arrived
  std::vector<BodyId> taken;  ///< bodies that it was at, or goes for, by their index
  // For those who want to know.
  std::vector<Departure> departures;
  std::vector<HopMade> hops;

  bool was_at(BodyId body) const;
  void take(BodyId body);
};

/// How the gates read for who may be next.
class HopCarrier {
 public:
  /// All must outlive it.
  HopCarrier(const Act& act, const Moment& moment, const Chain& chain, const Departure& from);

  struct Met {
    BodyId body;
    Nearest at;           ///< of its hitboxes
    double distance = 0;  ///< as the chain measures it
    std::uint32_t hitbox = 0;
  };
  Met met(BodyId body) const;
  bool in_reach(const Met& met) const { return tell_reach(met).reason == Reason::none; }
  bool in_time(const Met& met) const { return tell_time(met).reason == Reason::none; }
  bool in_sight(const Met& met) const { return tell_sight(met).reason == Reason::none; }
  Reading tell_reach(const Met& met) const;
  Reading tell_time(const Met& met) const;  ///< whether it was there before
  Reading tell_sight(const Met& met) const;
  double reach() const { return far_; }
  const Choice& choice() const { return choice_; }
  Candidate candidate(const Met& met) const { return {met.body, met.distance, met.at.point}; }
  /// Those who are next, the first by the order first, as many as the chain goes for.
  void choose(std::vector<Candidate>& out) const;
  Strike strike(const Met& met) const;

 private:
  bool is_free(BodyId body) const;

  const Act& act_;
  const Moment& moment_;
  const ChainDelivery& delivery_;
  const Chain& chain_;
  const Departure& from_;
  double near_ = 0, far_ = 0;
  std::optional<SightJudge> judge_;
  Choice choice_;
};

}  // namespace dardo::detail
