#pragma once
#include "resolve/moment/moment.hpp"
#include "resolve/rules/let_through.hpp"

namespace dardo::detail {

/// A ray: in one instant along a line, to the first that it strikes or that stops it.
class RayCarrier {
 public:
  /// Finds where it goes. All must outlive it.
  RayCarrier(const Act& act, const Moment& moment, Outcome& outcome);
  void strike(Outcome& outcome);
  /// How far it goes until it touches a ball that is no body's, if it gets there; it ends in it.
  std::optional<double> reaches(const Ball& ball) const;
  /// Whatever it reaches touches this.
  Bounds around() const {
    Bounds box{ray_.from, ray_.from};
    box.add(ray_.at(std::max(0.0, stop_)));
    return box.grown(slack(largest(box.low), largest(box.high)));
  }
  void end_at(double travel, Outcome& outcome) const { outcome.end = ray_.at(travel); }
  static constexpr bool kEndsThere = true;

  /// A body, and how far along the ray's line, however long, it is touched first.
  struct Met {
    BodyId body;
    std::optional<double> travel;
  };
  Met met(BodyId body) const;
  bool in_reach(const Met& met) const;
  bool in_time(const Met&) const { return true; }
  bool in_sight(const Met& met) const;
  Reading tell_reach(const Met& met) const;
  Reading tell_time(const Met&) const { return {.gate = Gate::time}; }
  Reading tell_sight(const Met& met) const;
  Reading tell_cap(const Met&, const Outcome&) const { return {.gate = Gate::cap}; }
  void draw(Outcome& outcome) const;

 private:
  /// Who ends it, how far along, and whether that one is struck or only stops it.
  struct Ending {
    BodyId body;
    double travel = 0;
    bool strikes = false;
  };
  std::optional<Contact> contact_with(const Moment::Body& then, std::uint32_t hitbox) const;
  Ending first_ending() const;
  Strike strike_at(BodyId body, Outcome& outcome) const;
  double away(BodyId body) const;
  /// How far along it would have to come to a body: where the line does not meet it, by its distance.
  double way_to(const Met& met) const { return met.travel ? *met.travel : away(met.body); }

  const Act& act_;
  Moment moment_;
  Ray ray_;      ///< as long as the attack reaches
  double stop_;  ///< travel to whatever ends it
  Blocker stopper_;
  bool blocked_ = false;    ///< by a wall before the muzzle: nobody is reached
  bool in_ground_ = false;  ///< the ground ends it
  Vec3 stop_point_;
};

}  // namespace dardo::detail
