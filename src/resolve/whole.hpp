#pragma once
#include <map>
#include <vector>

#include "resolve/carriers/chain_past.hpp"
#include "resolve/carriers/lasting/past.hpp"
#include "resolve/carriers/shot/past.hpp"
#include "resolve/machine/machine.hpp"

namespace dardo::detail {

/// Warns of an attacker that faces away from its aim.
void warn_of_facing(const Moment& moment, const Attack& attack, const Launch& launch, Outcome& out);

/// A whole launch of an attack, from its start to the end of everything that follows from it, as a listener
/// of the machine.
class WholeRun final : public Listener {
 public:
  /// Of the launch that has this place in the machine's table; the others are under way, or are told
  /// together with it.
  WholeRun(Outcome& outcome, const Arena& arena, Detail wanted, LaunchSlot itself = {}, bool together = false)
      : outcome_(outcome), arena_(&arena), wanted_(wanted), itself_(itself), together_(together) {}

  bool on_strike(const Strike& strike) override;
  bool on_happening(const Happening& happening) override;
  void on_not_ready(LaunchSlot launch, const std::vector<NotReady>& missing) override;
  void on_refused(LaunchSlot launch, const Problems& problems, double time) override;
  void on_end(const Flown& flown) override;
  void on_stuck(const Flown& flown) override;
  void on_back(const detail::Flight& flight, double time) override;
  void on_way(const Flight& flight, const std::vector<Piece>& pieces) override;
  void on_instant(LaunchSlot launch, std::uint32_t stage, Outcome& outcome) override;
  void on_over(const LastingOver& over) override;
  void on_chain(const Chain& chain) override;
  void on_down(const Downed& downed) override;
  void on_limit(const LimitMet& met) override;
  void on_surface(LaunchSlot launch, const SurfaceMet& met) override;

  /// When all is over: what is drawn, and a verdict for every body, if that is wanted.
  void tell(const Machine& machine);

 private:
  /// Of a stage that it came to, its shots and what they have struck.
  struct OfStage {
    std::vector<const ShotWay*> ways;
    std::vector<const Lasted*> lasted;
    std::vector<const Chain*> chains;
    Outcome struck;  ///< its strikes alone
  };
  std::map<std::uint32_t, OfStage> stages() const;
  void draw(const Machine& machine) const;
  void draw_motions(const Motions& motions) const;
  void number_strikes(const Arena& arena);
  void judge(const Machine& machine);
  template <class Past>
  void judge_stage(const Past& past, Act& act, const OfStage& stage, std::uint32_t number, double since_s);
  /// Adds what followed to the verdict of the body with this number among the arena's.
  void add_what_followed(std::size_t number, Verdict& verdict) const;
  ShotWay& way(LaunchSlot launch, std::uint32_t number);
  void take_verdict(std::size_t number, const Verdict& verdict);

  Outcome& outcome_;
  const Arena* arena_;
  Detail wanted_;
  LaunchSlot itself_;
  bool together_;
  std::vector<ShotWay> ways_;  ///< of the launch itself
  std::vector<Chain> chains_;
  std::vector<Lasted> lasted_;   ///< of the launch itself, then of those under way
  std::vector<ShotWay> others_;  ///< of those under way
  std::vector<std::optional<Verdict>>
      followed_;  ///< by the number of the body: what followed, at its nearest
};

}  // namespace dardo::detail
