#pragma once
#include "resolve/moment/moment.hpp"
#include "resolve/rules/let_through.hpp"

namespace dardo::detail {

/// A ball area: everybody within it in one instant, the nearest first.
class AreaCarrier {
 public:
  /// Finds where it lies. All must outlive it.
  AreaCarrier(const Act& act, const Moment& moment, Outcome& outcome);
  void strike(Outcome& outcome);
  /// How far from its middle a ball that is no body's is, if it is covered and seen.
  std::optional<double> reaches(const Ball& ball) const;
  /// Whatever it reaches touches this.
  Bounds around() const { return bounds(Ball{middle_, radius_}).grown(slack(largest(middle_), radius_)); }
  static constexpr bool kEndsThere = false;

  /// A body, whether any of its hitboxes is within, and those of them that are seen.
  struct Met {
    BodyId body;
    bool inside = false;
    Touches seen;
  };
  Met met(BodyId body) const;
  bool in_reach(const Met& met) const { return placement_ == Reason::none && met.inside; }
  bool in_time(const Met&) const { return true; }
  bool in_sight(const Met& met) const;
  Reading tell_reach(const Met& met) const;
  Reading tell_time(const Met&) const { return {.gate = Gate::time}; }
  Reading tell_sight(const Met& met) const;
  Reading tell_cap(const Met& met, const Outcome& outcome) const;
  void draw(Outcome& outcome) const;

 private:
  /// A body's hitbox that is nearest to the middle.
  Nearest nearest_of(BodyId body) const;
  /// What stands on the line from the eye to a place.
  Reading judge_line(const Vec3& target) const;

  const Act& act_;
  Moment moment_;
  const AreaDelivery& area_;
  Vec3 middle_, eye_;
  double radius_;     ///< as it strikes
  double placed_;     ///< how far from the attacker's centre the middle lies
  Reason placement_;  ///< none when that is within reach
};

}  // namespace dardo::detail
