#pragma once
#include <algorithm>
#include <limits>
#include <optional>
#include <span>

#include "geometry/detail/region.hpp"
#include "resolve/carriers/area.hpp"
#include "resolve/carriers/lasting/lasting.hpp"
#include "resolve/carriers/shot/touch.hpp"
#include "resolve/moment/motions.hpp"

namespace dardo::detail {

/// Where what lasts is over time, and when it meets what moves.
///
/// How far a hitbox is from it changes no faster than both move, turn and grow, and bends no more than they
/// turn: so stretches of time are ruled out by the gaps at their ends (see `nearest_approach`), and the rest
/// is cut in two, the earlier half first. Where nothing turns and all is convex the gap is a convex function
/// of time: then its least is sought by thirds, and the contact by halving. No contact is missed, but for
/// those whose gap is known no better: 4,000 cuts at most. When a body is out again is sought likewise, in
/// steps so short that no way out and back by more than a micrometre lies between two of them.
class Extent {
 public:
  /// All must outlive it.
  Extent(const LastingPlan& plan, const Lasting& lasting, const Motions& motions)
      : plan_(plan), lasting_(lasting), motions_(motions) {}

  double begins() const { return lasting_.began + plan_.from_s; }
  double ends() const {
    return lasting_.way.empty() ? lasting_.began + plan_.to_s : lasting_.way.back().start;
  }
  Pose frame(double time) const;
  /// What it covers at a time, in its frame.
  struct Covered {
    const Region* fixed = nullptr;  ///< of what does not grow
    std::optional<Region> grown;
    double radius = 0;  ///< of a ball

    /// Nothing of a ball.
    const Region* region() const { return grown ? &*grown : fixed; }
  };
  Covered covered(double time) const;
  /// The same for a body: of hitboxes the one that is nearest to that.
  Covered covered(double time, BodyId body) const;
  /// The same as an area is asked; refers to it.
  Cover cover(const Covered& covered) const;
  /// How fast a place of its frame moves in the world.
  Vec3 velocity_at(const Vec3& place, double time) const;
  /// Around all of it between two times.
  Bounds bounds(double from, double to) const;
  /// Up to when it is looked through at once: about until it has gone as far as it is large.
  double some_time(double from, double to) const;

  struct Touch {
    double time = 0;
    std::uint32_t hitbox = 0;
  };
  /// The first contact with a body in [from, to].
  std::optional<Touch> enters(BodyId body, double from, double to) const;
  /// When a body that it touches at `from` is not touched any more; nothing when it is up to `to`.
  std::optional<double> leaves(BodyId body, double from, double to) const;
  /// How near it comes to a body, if nearer than `known`.
  Approach nearest(BodyId body, double from, double to, double known) const;
  /// The first contact with a part of a wall.
  std::optional<double> meets(WallPartId part, double from, double to) const;
  /// When that, or the ground, stops the hitboxes, given less their skin (see dash.hpp).
  std::optional<double> stopped(std::span<const Shape> cores, WallPartId part, double from, double to) const;
  std::optional<double> grounded(std::span<const Shape> cores, double from, double to) const;

 private:
  /// Of time, in which what carries it, its own way and its growth go steadily.
  struct Stretch {
    double from = 0, to = 0;
    Leg carrier;                 ///< of the frame that it hangs on
    Leg own;                     ///< of its frame in its base; times are the world's
    std::optional<Pose> stands;  ///< while what carries it does: its base in the world, or all of its frame
    const LastingPlan::Size *size = nullptr, *next = nullptr;  ///< between which it is; the same: it stays so
    double reach = 0;                                          ///< of all of it, from its origin
    double growth = 0;                                         ///< m/s
  };
  template <class Visit>
  void each_stretch(double from, double to, Visit&& visit) const {
    for (double t = from;;) {
      const Stretch s = stretch_at(t, std::max(t, to));
      if (!visit(s) || !(s.to < to)) return;
      t = s.to;
    }
  }
  Stretch stretch_at(double time, double to) const;
  Pose frame(const Stretch& s, double time) const;
  Covered covered(const Stretch& s, double time) const;
  /// How far they are apart; more than `beyond` is told as soon as that is sure, as something between.
  double gap(const Stretch& s, double time, const Shape& shape, const Leg& leg,
             double beyond = std::numeric_limits<double>::infinity()) const;
  /// Calls `visit(shape)` for each hitbox of the body whose hitboxes it is made of.
  template <class Visit>
  void each_own(double time, Visit&& visit) const {
    const Arena& arena = motions_.arena();
    const auto& hitboxes = arena.build(arena.body(lasting_.on).build).hitboxes;
    for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
      if (arena.has_hitbox(lasting_.on, i, motions_.state_time(time))) visit(hitboxes[i].shape);
    }
  }
  /// What it covers and where that and a body are at a time.
  struct Border {
    Covered covered;
    Pose frame, body;
    /// How far a place of the body is outside; within, below 0, no deeper than it lies.
    double from(const Vec3& own) const;
  };
  Border border(const Stretch& s, double time, const Leg& leg) const;
  /// No nearer than this, by the middle of the shape alone: soon told.
  double at_least(const Stretch& s, double time, const Shape& shape, const Leg& leg) const;
  /// So far apart the two may move at least before they let go, if no more than `enough`; 0 when that is not
  /// so easily said.
  double hold_of(const Stretch& s, double time, const Shape& shape, const Leg& leg, double enough) const;
  double touching(const Stretch& s, double time) const;
  struct Rates {
    double speed, bend;
  };
  Rates rates(const Stretch& s, const Shape& shape, const Leg& leg, double from, double to) const;
  bool is_convex(const Stretch& s, const Leg& leg) const;
  std::optional<double> first_touch(const Stretch& s, const Shape& shape, const Leg& leg, double from,
                                    double to) const;
  std::optional<double> lets_go(const Shape& shape, BodyId body, double from, double to) const;
  std::optional<double> lets_go(const Stretch& s, const Shape& shape, const Leg& leg, double from, double to,
                                double apart) const;

  const LastingPlan& plan_;
  const Lasting& lasting_;
  const Motions& motions_;
};

/// The place of a shape that is nearest to a region; within it any.
Vec3 point_nearest_to(const Region& region, const Shape& shape);

}  // namespace dardo::detail
