#pragma once
#include "resolve/moment/moment.hpp"
#include "resolve/rules/choice.hpp"
#include "resolve/rules/let_through.hpp"
#include "resolve/rules/sight.hpp"

namespace dardo::detail {

/// Where what covers a space is put.
struct Placing {
  Vec3 middle;  ///< before its offset
  Pose frame;
  Vec3 ahead;                    ///< where it points
  Vec3 from;                     ///< the attacker's centre; without one: its middle
  double away = 0;               ///< how far its middle is from there
  Reason reason = Reason::none;  ///< none when that is within reach
};
/// Of a shape that is put around the attacker or its aim; as a follow-up around the place that it starts
/// from.
Placing place(const Act& act, const Moment& moment, const AreaDelivery& area);

/// What covers a space, as it is at one time.
struct Cover {
  const Region* region = nullptr;  ///< in its frame; nothing of a ball around its middle
  double radius = 0;               ///< of that
  AreaDelivery::Inside inside = AreaDelivery::Inside::touches;
  std::optional<double> share = {};
  double loose = 0;  ///< so much farther it reaches
};

/// An area: everybody within it in one instant, the nearest first unless the attack chooses otherwise.
class AreaCarrier {
 public:
  /// Finds where it lies. All must outlive it.
  AreaCarrier(const Act& act, const Moment& moment, Outcome& outcome);
  /// What lasts, as it is at this time.
  AreaCarrier(const Act& act, const Moment& moment, const Cover& cover, const Pose& frame);
  AreaCarrier(const AreaCarrier&) = delete;
  AreaCarrier& operator=(const AreaCarrier&) = delete;
  void strike(Outcome& outcome);
  /// How far from its middle a ball that is no body's is, if it is covered and seen.
  std::optional<double> reaches(const Ball& ball) const;
  /// Whatever it reaches touches this.
  const Bounds& around() const { return around_; }
  static constexpr bool kEndsThere = false;

  /// A body, whether enough of it is within, and those of its hitboxes that are within and seen.
  struct Met {
    BodyId body;
    bool inside = false;
    std::optional<CountedShare> covered;  ///< where a share is asked for, and it has a volume
    Touches seen;
    std::optional<Seen> sight;      ///< where the body is judged as a whole
    std::optional<Reading> hidden;  ///< what hides the first of its hitboxes that is within and not seen
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
  Strike strike_at(const Met& met) const;
  Candidate candidate(const Met& met) const;
  const Choice& choice() const { return choice_; }

 private:
  void lie_at(const Pose& frame);
  /// Whether a hitbox is seen, where each is judged by itself; `nearest` is its point nearest to the middle.
  Reading sight_of(const Moment::Body& then, std::uint32_t hitbox, const Vec3& nearest) const;
  /// Where a hitbox that is within is touched: at its nearest point, or, where that may lie in a hole, at a
  /// place that both have.
  Vec3 within_it(const Moment::Body& then, std::uint32_t hitbox, const Vec3& nearest) const;
  /// A body's hitbox that is nearest to the middle.
  Nearest nearest_of(BodyId body) const;
  bool is_ball() const { return cover_.region == nullptr; }
  Shape in_area(const Moment::Body& then, std::uint32_t hitbox) const {
    return then.in_frame(hitbox, to_frame_);
  }
  /// Of the coordinates in the world that its frame and the body's are known by.
  double scale_of(const Moment::Body& then) const {
    return std::max(largest(frame_.at), largest(then.pose().at));
  }
  /// Whether a hitbox is within, by the attack's rule.
  bool holds(const Moment::Body& then, std::uint32_t hitbox) const;
  /// How far a hitbox is from being within, as far as that can be told in metres.
  double gap(const Moment::Body& then, std::uint32_t hitbox) const;
  std::optional<CountedShare> covered(const Moment::Body& then) const;
  /// Whether lines to the nearest points of single hitboxes decide what is seen.
  bool sees_hitboxes() const { return act_.attack.sight && act_.attack.sight->to == Sight::To::nearest; }

  const Act& act_;
  Moment moment_;
  Cover cover_;
  Vec3 middle_;
  Pose frame_;     ///< of what it covers
  Pose to_frame_;  ///< from the world
  Bounds around_;
  double radius_ = 0;  ///< of a ball, as it strikes; of all others by how much they reach farther
  double placed_ = 0;  ///< how far from the attacker's centre it is put
  Reason placement_ = Reason::none;  ///< none when that is within reach
  std::optional<SightJudge> judge_;
  Choice choice_;
};

}  // namespace dardo::detail
