#pragma once
#include <map>
#include <span>
#include <vector>

#include "resolve/machine/machine.hpp"

namespace dardo::detail {

/// A whole launch of an attack, from its start to the end of everything that follows from it, as a listener
/// of the machine; and, for a shot, how the gates of geometry read for each body.
class WholeRun final : public Listener {
 public:
  explicit WholeRun(Outcome& outcome) : outcome_(outcome) {}

  bool on_strike(const Strike& strike) override;
  void on_end(const Flown& flown) override;
  void on_stuck(const Flown& flown) override;
  void on_way(const Flight& flight, const std::vector<Piece>& pieces) override;
  void on_instant(std::uint32_t launch, std::uint32_t stage, Outcome& outcome) override;
  void on_down(const Downed& downed) override;
  void on_limit(const LimitMet& met) override;

  struct Way {
    std::uint32_t launch = 0, number = 0, stage = 0;
    std::vector<Piece> pieces;
    Flown end;
    /// How it flew: until it stuck in something, if it did, and how many of its pieces are of before.
    std::optional<Flown> stuck;
    std::size_t flown_pieces = 0;
  };
  /// By the number of the shot.
  const std::vector<Way>& ways() const { return ways_; }
  /// Of a stage that it came to, its shots and what they have struck.
  struct OfStage {
    std::vector<const Way*> ways;
    Outcome struck;  ///< its strikes alone
  };
  std::map<std::uint32_t, OfStage> stages() const;
  /// `plans` by place in the machine's table.
  void draw(std::span<const std::shared_ptr<Plan>> plans) const;
  /// A verdict for every body: of the shots of all stages, and what followed.
  void judge(const Attempt& attempt, const Plan& plan, const Motions& motions, Detail wanted);

 private:
  /// Adds what followed to the verdict of the body with this number among the arena's.
  void add_what_followed(std::size_t number, Verdict& verdict) const;
  Way& way(std::uint32_t launch, std::uint32_t number);
  void take_verdict(std::size_t number, const Verdict& verdict);

  Outcome& outcome_;
  std::vector<Way> ways_;    ///< of the launch itself, which is the first in the machine's table
  std::vector<Way> others_;  ///< of those under way
  std::vector<std::optional<Verdict>>
      followed_;  ///< by the number of the body: what followed, at its nearest
};

/// How the gates of geometry read for the shots that one stage of the attack sends off.
class ShotJudge {
 public:
  /// Both must outlive it.
  ShotJudge(const Attempt& attempt, const Motions& motions, const WholeRun::OfStage& stage);
  Reading reach(BodyId body) const;
  Reading time(BodyId body) const;
  Reading sight(BodyId body) const;
  Reading cap(BodyId body, const Outcome& outcome) const;

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
  void meet(BodyId body, const Ghost& ghost, Meeting& best) const;
  void approach(BodyId body, const Ghost& ghost, const Flyer& flyer, const Piece& piece, double travelled,
                Meeting& best) const;
  double at_least_apart(const Flyer& flyer, const Ghost& ghost, std::size_t piece, BodyId body) const;
  double no_nearer_than(const Ghost& ghost, const Flyer& flyer, BodyId body, const Meeting& known) const;

  const Attempt& attempt_;
  const Motions& motions_;
  const ShotDelivery& shot_;
  const std::vector<Strike>& strikes_;
  std::vector<Ghost> ghosts_;
  bool one_origin_ = true;  ///< all of them set off there
  mutable BodyId asked_;
  mutable Meeting met_;
};

}  // namespace dardo::detail
