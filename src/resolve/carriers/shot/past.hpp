#pragma once
#include <optional>
#include <span>
#include <vector>

#include "resolve/carriers/shot/flight.hpp"

namespace dardo::detail {

/// The way that one shot has flown.
struct ShotWay {
  LaunchSlot launch;
  std::uint32_t number = 0, stage = 0;
  std::vector<Piece> pieces;
  Flown end;
  /// How it flew: until it stuck in something, if it did, and how many of its pieces are of before.
  std::optional<Flown> stuck;
  std::size_t flown_pieces = 0;
};

/// What the shots of one stage have met, and what they would have had nothing been in their ways: how the
/// gates of geometry read for those that they did not strike.
class ShotsPast {
 public:
  /// All must outlive it; `strikes`: those of this stage.
  ShotsPast(const Act& act, const Motions& motions, std::span<const ShotWay* const> ways,
            const std::vector<Strike>& strikes);

  /// A body; how far from the muzzle it is, where all set off from one and it does not move; and whether that
  /// is surely beyond reach.
  struct Met {
    BodyId body;
    std::optional<double> away = std::nullopt;
    bool beyond = false;
  };
  Met met(BodyId body) const;
  /// When a shot touches a body, or is nearest to it.
  double nearest_time(BodyId body) const { return meet(body).time; }
  bool in_reach(const Met& met) const { return !met.beyond && meet(met.body).touches; }
  bool in_time(const Met& met) const { return tell_time(met).reason == Reason::none; }
  bool in_sight(const Met& met) const { return tell_sight(met).reason == Reason::none; }
  Reading tell_reach(const Met& met) const;
  Reading tell_time(const Met& met) const;
  Reading tell_sight(const Met& met) const;
  Reading tell_cap(const Met& met, const Outcome& outcome) const;

 private:
  /// A shot's way, and how it would have gone on had nothing been in it, nor its lifetime been over: for as
  /// long again.
  struct Ghost {
    std::vector<Piece> pieces;
    Flown end;
    double life_over = 0;
    /// Of each piece: a ball around it, and how long the way is before it.
    struct Extent {
      Vec3 middle;
      double radius = 0, travelled = 0;
    };
    std::vector<Extent> extents = {};
  };
  /// The first contact with a body on any ghost that is not nearer than the near limit, or else how near one
  /// gets before its lifetime is over.
  struct Meeting {
    bool touches = false;
    std::optional<double> too_near;  ///< how far it had flown when it touched it sooner than it may strike it
    double gap = 0, time = 0, travelled = 0;  ///< there
    const Ghost* ghost = nullptr;
  };
  const Meeting& meet(BodyId body) const;
  double away_from(const Vec3& origin, BodyId body) const;
  void meet(BodyId body, const Ghost& ghost, Meeting& best) const;
  void approach(BodyId body, const Ghost& ghost, const Flyer& flyer, const Piece& piece, double travelled,
                Meeting& best) const;
  double at_least_apart(const Flyer& flyer, const Ghost& ghost, std::size_t piece, BodyId body) const;
  double no_nearer_than(const Ghost& ghost, const Flyer& flyer, BodyId body, const Meeting& known) const;

  const Act& act_;
  const Motions& motions_;
  const ShotDelivery& shot_;
  const std::vector<Strike>& strikes_;
  std::vector<Ghost> ghosts_;
  bool one_origin_ = true;  ///< all of them set off there
  mutable BodyId asked_;
  mutable Meeting met_;
};

}  // namespace dardo::detail
