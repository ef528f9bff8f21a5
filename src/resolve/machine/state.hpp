#pragma once
#include <array>
#include <deque>
#include <memory>
#include <vector>

#include "dardo/executor.hpp"
#include "dardo/resolve/ready.hpp"
#include "dardo/resolve/resolve.hpp"
#include "resolve/carriers/area.hpp"
#include "resolve/carriers/chain.hpp"
#include "resolve/carriers/shot/flight.hpp"
#include "resolve/machine/affliction.hpp"
#include "resolve/machine/looks.hpp"
#include "resolve/machine/pool.hpp"
#include "resolve/machine/queue.hpp"
#include "resolve/machine/roster.hpp"
#include "resolve/machine/shot_boxes.hpp"
#include "resolve/machine/start.hpp"
#include "resolve/machine/stay.hpp"

namespace dardo::detail {

/// A game may start launches while it is told of a strike of another: that one stays where it is.
using Launches = Pool<Launched, LaunchSlot, std::deque<Launched>>;

/// A shot in the machine: its flight, and what has been found out about it in this window.
struct Shot {
  Flight flight;
  Event next;
  std::uint32_t version = 0;  ///< which of its entries in the queue is meant
  std::vector<Piece> way;     ///< to what comes next, where somebody wants to know
  Course before;              ///< of its last proposal; kept while it is watched, and of what has a target
  std::vector<std::pair<BodyId, WallPartId>> let_go;  ///< what it has passed and let go of since then
  std::uint64_t asked = 0;                            ///< in which window, while it is watched
};

/// Whose time has come, and what is met of it.
struct Inside {
  BodyId body;
  Candidate candidate;
  AreaCarrier::Met met;
};

/// All that the machine keeps.
struct MachineState {
 protected:
  explicit MachineState(const Arena& arena) : arena_(&arena), motions_(arena) {}

  // Where everything is, and what is asked.
  const Arena* arena_;
  Motions motions_;
  std::optional<Bounds> bounds_;
  Limits limits_;
  Executor executor_;
  bool keep_ways_ = false;
  Detail wanted_ = Detail::strikes;
  double from_ = 0, until_ = 0;  ///< the window that is being decided

  // What is under way.
  Launches launches_;
  std::vector<LaunchSlot> waiting_;
  std::vector<Start> later_;  ///< what begins at a later time: a heap, the earliest first
  Pool<Shot, ShotSlot> shots_;
  Pool<Chain, ChainSlot> chains_;
  Pool<Stay, LastingSlot> lastings_;
  SomeSlots<ShotSlot> seekers_;  ///< of shots that have a target, or had one
  Memory memory_;
  AllCarried carried_;
  Pool<Affliction, AfflictionSlot> afflictions_;
  std::uint32_t afflicted_ = 0;  ///< so many so far
  Facts facts_;
  bool ledger_ = false, keeps_history_ = false;
  History history_;
  std::uint32_t dashing_ = 0;     ///< launches that may lead to a dash
  std::uint32_t unsettling_ = 0;  ///< or that may change tags or numbers of bodies
  std::uint32_t heeding_ = 0;     ///< or that ask for these
  /// A shot where it was asked the last time, of a window in which somebody may dash.
  struct Undo {
    std::uint64_t window = 0;
    Course course;
    std::vector<std::pair<BodyId, WallPartId>> passing;
  };
  std::vector<Undo> undo_;  ///< by slot
  Looks looks_;
  Queue queue_;

  // Shots that may be shot down, and those that may do it.
  Roster roster_;
  ShotBoxes boxes_;
  std::uint64_t window_ = 0;
  std::vector<ShotSlot> watched_;   ///< asked in this window, with their ways
  std::vector<ShotSlot> partners_;  ///< to be asked, as they come near one of those

  // Of the instant that is being decided.
  std::vector<ShotSlot> due_;        ///< shots that must be asked in this window
  std::vector<std::uint8_t> found_;  ///< of each: what a job has found
  std::vector<Candidate> next_;      ///< in a chain, or of a volley
  std::vector<EffectDone> effects_;  ///< of a strike
  Happening happening_;              ///< that is told of
  struct Fall {
    BodyId body;
    double time;
  };
  std::vector<Fall> falls_;            ///< that are not in force yet
  std::vector<Fall> unsettled_;        ///< bodies whose tags or numbers have changed, and when
  std::vector<AfflictionSlot> ended_;  ///< by other statuses
  std::vector<Coming> came_;           ///< to what lasts
  std::vector<Inside> inside_;         ///< of that
  std::vector<Touched> touched_;       ///< by the flight that is being decided
  std::vector<SurfaceMet> surfaces_;   ///< of these the walls and the ground, where somebody wants to know
  /// What follows from it, once all of its instant is decided.
  struct Following {
    Then::When when;
    Vec3 place;
    Cause cause;
    BodyId body = {};  ///< that was struck
  };
  std::vector<Following> follows_;
  std::vector<Start> starts_;     ///< what it has led to
  std::vector<LaunchSlot> over_;  ///< launches of which nothing may be under way any more
  Outcome instant_;               ///< of a ray or an area
};

}  // namespace dardo::detail
