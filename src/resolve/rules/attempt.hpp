#pragma once
#include <optional>
#include <vector>

#include "dardo/resolve/resolve.hpp"
#include "resolve/moment/moment.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {

/// Where a follow-up starts, instead of at the attacker.
struct Start {
  Vec3 place;
  Vec3 direction;  ///< one metre long
};

/// A launch of an attack in an arena, with what follows from the three before anybody is looked at.
struct Attempt {
  const Arena& arena;
  const Attack& attack;
  const Launch& launch;
  FactionId faction;  ///< the attacker's
  const Start* from = nullptr;

  Relation relation_to(BodyId body) const;
};

/// The gates that need no geometry. Each says what it found; a reason of `none` is a pass.
Reading stands(const Attempt& attempt, BodyId body);
Reading not_self(const Attempt& attempt, BodyId body);
Reading related(const Attempt& attempt, BodyId body);
Reading tagged(const Attempt& attempt, BodyId body);
/// Whether all four let the body through.
bool eligible(const Attempt& attempt, BodyId body);

/// A hitbox that was touched.
struct Touch {
  std::uint32_t hitbox = 0;
  Contact contact;
};

/// The strike that these touches make, by the attack's rule for zones. Requires at least one.
Strike strike_from(const Attempt& attempt, BodyId body, const std::vector<Touch>& touches);

/// First wall along the ray that blocks `passage`, within its length. `touching_counts`: a wall met exactly
/// at the end of the ray, too.
struct WallContact {
  WallId wall;
  Contact contact;
};
std::optional<WallContact> first_wall(const Arena& arena, const Ray& ray, Passage passage);

/// What a delivery adds to the machine: how the two gates of geometry read, and who is struck. One is made
/// for each launch; its constructor finds where the attack goes.
class RayRun {
 public:
  RayRun(const Attempt& attempt, const Moment& moment, Outcome& outcome);
  void strike(Outcome& outcome);
  /// How far it goes until it touches a ball that is no body's, if it gets there; it ends in it.
  std::optional<double> reaches(const Ball& ball) const;
  void end_at(double travel, Outcome& outcome) const { outcome.end = ray_.at(travel); }
  static constexpr bool kEndsThere = true;
  Reading reach(BodyId body) const;
  Reading time(BodyId) const { return {.gate = Gate::time}; }
  Reading sight(BodyId body) const;
  Reading cap(BodyId body, const Outcome& outcome) const;
  void draw(Outcome& outcome) const;

 private:
  /// A body on its way, how far along, and whether it is struck or only stops the ray.
  struct Met {
    BodyId body;
    double travel = 0;
    bool strikes = false;
  };
  std::optional<Contact> contact_with(const Moment::Body& then, std::uint32_t hitbox) const;
  std::optional<double> travel_to(BodyId body) const;
  Met first_met() const;
  Strike strike_at(BodyId body, Outcome& outcome) const;

  const Attempt& attempt_;
  Moment moment_;
  Ray ray_;  ///< as long as the attack reaches
  double near_;
  double stop_;  ///< travel to whatever ends it
  Blocker stopper_;
  bool blocked_ = false;    ///< by a wall before the muzzle: nobody is reached
  bool in_ground_ = false;  ///< the ground ends it
  Vec3 stop_point_;
};

class AreaRun {
 public:
  AreaRun(const Attempt& attempt, const Moment& moment, Outcome& outcome);
  void strike(Outcome& outcome);
  /// How far from its middle a ball that is no body's is, if it is covered and seen.
  std::optional<double> reaches(const Ball& ball) const;
  static constexpr bool kEndsThere = false;
  Reading reach(BodyId body) const;
  Reading time(BodyId) const { return {.gate = Gate::time}; }
  Reading sight(BodyId body) const;
  Reading cap(BodyId body, const Outcome& outcome) const;
  void draw(Outcome& outcome) const;

 private:
  Reading judge_line(const Vec3& target) const;
  std::vector<Touch> seen_touches(BodyId body) const;

  const Attempt& attempt_;
  Moment moment_;
  const AreaDelivery& area_;
  Vec3 middle_, eye_;
  double radius_;     ///< as it strikes
  double placed_;     ///< how far from the attacker's centre the middle lies
  Reason placement_;  ///< none when that is within reach
};

}  // namespace dardo::detail
