#pragma once
#include "dardo/attack/sight.hpp"
#include "dardo/record/outcome.hpp"
#include "resolve/moment/moment.hpp"
#include "resolve/rules/act.hpp"

// The one judge of sight: for areas, for shots that are guided, for whom a launch is aimed at.
namespace dardo::detail {

/// What of a body is seen, and what decided that.
struct Seen {
  Reading reading;   ///< passed when enough of it is seen
  double share = 1;  ///< of what was looked at
  double error = 0;  ///< how far that may be off
  Vec3 target;       ///< what was looked at, or the first of it that is seen
};

class SightJudge {
 public:
  /// All must outlive it. Looks from `middle` unless the attack says otherwise.
  SightJudge(const Act& act, const Moment& moment, const Sight& sight, const Vec3& middle);

  const Vec3& eye() const { return eye_; }
  /// What stands on the line to a place that belongs to a body: the nearest wall or body in the way.
  Reading line(const Vec3& target, BodyId body) const;
  /// A body, whose nearest point is `nearest`.
  Seen see(BodyId body, const Vec3& nearest) const;

 private:
  /// The share of a hitbox, where it is, that is seen: where closed forms tell it.
  std::optional<double> share_seen(const Shape& hitbox) const;
  Reading first_body(const Vec3& target, BodyId body, double within) const;
  template <class Each>
  /// `error` is how far the share may be off once all has been looked at.
  Seen count(BodyId body, const double& error, Each&& each) const;

  const Act& act_;
  const Moment& moment_;
  const Sight& sight_;
  Vec3 eye_;
};

}  // namespace dardo::detail
