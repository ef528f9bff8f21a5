#pragma once
#include "resolve/moment/moment.hpp"
#include "resolve/rules/few.hpp"
#include "resolve/rules/let_through.hpp"
#include "resolve/rules/rebound.hpp"

namespace dardo::detail {

/// Up to what the coordinates along a line go, as tolerances count it.
inline double scale_of(const Ray& line) { return largest(line.from); }

/// A ray: in one instant along a line, which may turn at walls, to those that it strikes first and to what
/// stops it.
class RayCarrier {
 public:
  /// Finds where it goes. All must outlive it.
  RayCarrier(const Act& act, const Moment& moment, Outcome& outcome);
  void strike(Outcome& outcome);
  /// How far it goes until it touches a ball that is no body's, if it gets there; it ends in it.
  std::optional<double> reaches(const Ball& ball) const;
  /// Whatever it reaches touches this.
  Bounds around() const;
  void end_at(double travel, Outcome& outcome) const { outcome.end = place_at(travel); }
  static constexpr bool kEndsThere = true;
  /// Where it goes as it ends, when it has turned.
  std::optional<Vec3> heading() const {
    const RayLeg& leg = leg_at(stop_);
    return leg.start > 0 ? std::optional(leg.line.direction) : std::nullopt;
  }

  /// A body, and how far along the ray's line, its last leg however long, it is touched first.
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
  /// The walls and the ground that it met, as far as it came.
  void tell_surfaces(Outcome& outcome) const;

 private:
  /// A straight stretch, and how far along the ray it begins.
  struct RayLeg {
    Ray line;
    double start = 0;
  };
  /// A wall that it went through: from there on so much of the power is left.
  struct Loss {
    double travel = 0, left = 1;
  };
  /// A surface that it has met, and where its middle was then.
  struct Passed {
    WallId wall;
    SurfaceMet::Did did = SurfaceMet::Did::turned;
    double travel = 0;
    Contact contact;
    Vec3 centre, direction;
  };
  /// A surface that it meets on a leg.
  struct Surface {
    WallPartId part;  ///< empty: the ground
    Contact contact;
  };
  /// Who ends it, how far along, and whether that one is struck or only stops it.
  struct Ending {
    BodyId body;
    double travel = 0;
    bool strikes = false;
  };
  void find_way(const Vec3& from, const Vec3& direction, Outcome& outcome);
  void surfaces_on(const RayLeg& leg, const Few<WallPartId, 8>& passed, bool leaves_ground,
                   Few<Surface, 8>& out) const;
  bool goes_through(const Surface& surface, const RayLeg& leg);
  std::optional<Contact> contact_with(const Moment::Body& then, std::uint32_t hitbox,
                                      const RayLeg& leg) const;
  std::optional<double> travel_to(BodyId body, const RayLeg& leg) const;
  /// The first on a leg that it may strike or that stops it, and that is not among those it has struck.
  Ending first_on(const RayLeg& leg, const std::vector<Strike>& struck) const;
  Strike strike_at(BodyId body, const RayLeg& leg, std::size_t order, Outcome& outcome) const;
  const RayLeg& leg_at(double travel) const;
  Vec3 place_at(double travel) const;
  double through_at(double travel) const;
  double away(BodyId body) const;
  /// How far along it would have to come to a body: where the line does not meet it, by its distance.
  double way_to(const Met& met) const { return met.travel ? *met.travel : away(met.body); }
  bool by_wall() const { return !stopper_.wall.empty() || in_ground_; }

  const Act& act_;
  Moment moment_;
  const RayDelivery& ray_;
  Few<RayLeg, 4> legs_;
  Few<Loss, 4> losses_;
  Few<Passed, 2> surfaces_;
  double stop_;  ///< travel to whatever ends it
  Blocker stopper_;
  bool blocked_ = false;         ///< by a wall before the muzzle: nobody is reached
  bool in_ground_ = false;       ///< the ground ends it
  Vec3 stop_point_;              ///< of its centre
  std::optional<Vec3> contact_;  ///< where it touches what ends it
};

}  // namespace dardo::detail
