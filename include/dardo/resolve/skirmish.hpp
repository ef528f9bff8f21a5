#pragma once
#include <exception>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/attack.hpp"
#include "dardo/attack/launch.hpp"
#include "dardo/attack/rules.hpp"
#include "dardo/executor.hpp"
#include "dardo/record/outcome.hpp"
#include "dardo/resolve/presence.hpp"
#include "dardo/resolve/ready.hpp"

namespace dardo {

namespace detail {
class Prepared;

/// Calls the game's callbacks within a tick. What one of them throws is kept until the tick is over: the
/// engine is built without exceptions, and goes on to the tick's end without telling any more.
#if defined(__cpp_exceptions)
class CallbackGuard {
 public:
  template <class Call>
  bool operator()(Call&& call) {
    if (thrown_ != nullptr) return false;
    try {
      return call();
    } catch (...) {
      thrown_ = std::current_exception();
      return false;
    }
  }
  void rethrow() {
    if (thrown_ != nullptr) std::rethrow_exception(std::exchange(thrown_, nullptr));
  }

 private:
  std::exception_ptr thrown_;
};
#else
class UnguardedCalls {
 public:
  template <class Call>
  bool operator()(Call&& call) {
    return call();
  }
  void rethrow() {}
};
using CallbackGuard = UnguardedCalls;
#endif
}  // namespace detail

using AttackId = Id<struct AttackKind>;

/// What became of a shot, or of something that lasted.
struct ShotEnd {
  std::uint32_t launch = 0;
  Ended ended = Ended::life;
  double time_s = 0;  ///< since the skirmish began
  Vec3 place;
  Blocker by;  ///< what ended it
  // Whose it was, as in a strike.
  BodyId attacker = {};
  Name attack = {};
  std::uint32_t stage = 0, carrier = 0;
  std::uint32_t cause = 0;  ///< the number of the strike that led to it, from 1; 0: none
};

/// A shot in flight, for drawing it.
struct ShotView {
  std::uint32_t launch = 0;
  Vec3 place, velocity;
  double radius = 0;
  BodyId stuck_in;  ///< the body that carries it along
};

/// A body that a dash carries, or that came to the end of one in the last tick.
struct DashView {
  std::uint32_t launch = 0;
  BodyId body;
  Pose pose;           ///< as the arena has it, too
  Vec3 velocity;       ///< m/s
  double lands_s = 0;  ///< when it is to land, since the skirmish began
  bool over = false;   ///< it has; from now on the game moves the body
  friend bool operator==(const DashView&, const DashView&) = default;
};

/// A status that a body has.
struct HeldStatus {
  std::uint32_t launch = 0;  ///< whose
  BodyId body, by;
  Name name;
  double since_s = 0, until_s = 0;  ///< since the skirmish began; infinity: until something ends it
  friend bool operator==(const HeldStatus&, const HeldStatus&) = default;
};

/// A shot in flight and a body that it touches.
struct Touching {
  std::uint32_t launch = 0, shot = 0;
  BodyId body;
  std::uint64_t order = 0;  ///< the body's, in the arena

  friend bool operator==(const Touching&, const Touching&) = default;
};

/// The engine of `resolve`, tick by tick inside a game.
///
///     Skirmish live(arena);
///     AttackId flare = *live.add_attack(flare_sling);
///     live.start(flare, {.by = mara, .toward = raider, .seed = 7});
///     each tick:
///       live.move(raider, pose);                     // where it is at the end of the tick
///       live.advance(1.0 / 60, [&](const Strike& s) { return apply(s); });  // true: it fell
///
/// Between two ticks bodies move straight and turn steadily; what is moved through `Arena::move` instead
/// jumps. Bodies with a track follow it. Strikes come in order of time within the tick, and are the same for
/// any length of ticks. Walls move as bodies do. Once it has seen its largest tick, `advance` allocates
/// nothing for shots in flight.
class Skirmish {
 public:
  /// Keeps a reference: the arena must outlive it, and is brought up to date by `advance`.
  explicit Skirmish(Arena& arena);
  ~Skirmish();
  Skirmish(const Skirmish&) = delete;
  Skirmish& operator=(const Skirmish&) = delete;

  /// All problems with it, or its id.
  Result<AttackId> add_attack(Attack attack);
  /// The same of one that lists rules of the game's own, which must outlive the skirmish.
  Result<AttackId> add_attack(Attack attack, const Rules& rules);
  /// Starts now: sets off with the next tick, from where everybody is at its start, knowing how they move
  /// then; or at the later time that it says, and is judged then. The number of the launch, which its strikes
  /// carry; or all problems. From within a callback it may be called, too, and then sets off with the tick
  /// after.
  Result<std::uint32_t> start(AttackId attack, const Launch& launch);
  /// Whether the attacker is ready to launch it now, with the statuses that it has and what it has used in
  /// this skirmish; else each reason. `start` refuses what is not, with the same words; what sets off later
  /// is asked then, and ends with `Ended::not_ready`.
  Ready ready(AttackId attack, const Launch& launch) const;
  /// What has been used since the first attack was added that asks for it.
  const History& history() const;
  /// Where a body will be at the end of the next tick; the last word counts. Problems when it is gone or the
  /// pose is not finite. From within a callback it means the tick after.
  Problems move(BodyId body, const Pose& pose);
  /// The same of a wall that is on no track: where its frame will be.
  Problems move(WallId wall, const Pose& pose);
  /// Shots that leave this box end. Problems from within a callback, and for what is not a number.
  Problems set_bounds(const std::optional<Bounds>& bounds);
  /// What each launch may come to: also those under way. Problems from within a callback, and with what is
  /// out of its range.
  Problems set_limits(const Limits& limits);

  /// Whether it keeps bodies' numbers in the arena, as damage, heals, changes and costs tell: who comes to 0
  /// by a damage falls at that instant. Off unless said: then the game applies what it is told. Within a tick
  /// what is asked of numbers sees them as they are by then; the arena has them when the tick is over.
  /// Problems from within a callback.
  Problems keep_ledger(bool keep);

  /// Who shares the work of `advance`: what it tells, and when, is the same to the bit for any. Callbacks
  /// come from the calling thread. It must outlive its use here.
  void set_executor(const Executor& executor);

  /// On to `time() + dt_s`. Problems, and nothing done, when that is not finite, goes back, or comes beyond
  /// 1e9 s, or from within a callback. Within callbacks the arena is held: it refuses to be changed.
  /// `on_strike(const Strike&)` may return true when the struck body fell by it: from that instant it is not
  /// struck, stops nothing, and guided shots lose it. A strike's time is since the skirmish began.
  /// `on_end(const ShotEnd&)` hears of everything that is over, in the same order; `on_limit(const
  /// LimitMet&)` when a launch meets one of its limits; `on_presence(const Presence&)` of every body that
  /// comes into something that lasts, or is out of it again, at its exact time; `on_happening(const
  /// Happening&)` of releases that do something to the attacker, and of statuses that tick or are over: it
  /// may return true as `on_strike` does.
  /// What a callback throws comes out of `advance` when the tick is over; nothing more of the tick is told
  /// then, and nobody falls by it. Skirmish and arena are usable afterwards.
  template <class OnStrike, class OnEnd, class OnLimit, class OnPresence, class OnHappening>
  Problems advance(double dt_s, OnStrike&& on_strike, OnEnd&& on_end, OnLimit&& on_limit,
                   OnPresence&& on_presence, OnHappening&& on_happening) {
    detail::CallbackGuard guard;
    Guarded<OnStrike> strike{on_strike, guard};
    Guarded<OnEnd> end{on_end, guard};
    Guarded<OnLimit> limit{on_limit, guard};
    Guarded<OnPresence> presence{on_presence, guard};
    Guarded<OnHappening> happening{on_happening, guard};
    Problems problems =
        run(dt_s, {ask<Strike, OnStrike>, &strike, tell<ShotEnd, OnEnd>, &end, tell<LimitMet, OnLimit>,
                   &limit, tell<Presence, OnPresence>, &presence, ask<Happening, OnHappening>, &happening});
    guard.rethrow();
    return problems;
  }
  template <class OnStrike, class OnEnd, class OnLimit, class OnPresence>
  Problems advance(double dt_s, OnStrike&& on_strike, OnEnd&& on_end, OnLimit&& on_limit,
                   OnPresence&& on_presence) {
    return advance(dt_s, std::forward<OnStrike>(on_strike), std::forward<OnEnd>(on_end),
                   std::forward<OnLimit>(on_limit), std::forward<OnPresence>(on_presence),
                   [](const Happening&) {});
  }
  template <class OnStrike, class OnEnd, class OnLimit>
  Problems advance(double dt_s, OnStrike&& on_strike, OnEnd&& on_end, OnLimit&& on_limit) {
    return advance(dt_s, std::forward<OnStrike>(on_strike), std::forward<OnEnd>(on_end),
                   std::forward<OnLimit>(on_limit), [](const Presence&) {});
  }
  template <class OnStrike, class OnEnd>
  Problems advance(double dt_s, OnStrike&& on_strike, OnEnd&& on_end) {
    return advance(dt_s, std::forward<OnStrike>(on_strike), std::forward<OnEnd>(on_end),
                   [](const LimitMet&) {});
  }
  template <class OnStrike>
  Problems advance(double dt_s, OnStrike&& on_strike) {
    return advance(dt_s, std::forward<OnStrike>(on_strike), [](const ShotEnd&) {});
  }

  double time() const { return time_s_; }
  /// How many shots are in flight.
  std::size_t in_flight() const;
  /// How much has not ended yet, or is still to begin: shots, what lasts, launches and follow-ups that wait.
  std::size_t under_way() const;
  /// Who is inside what lasts at this moment, of those that it may strike, and since when: into `out`, in no
  /// particular order.
  void inside(std::vector<Presence>& out) const;
  /// Which statuses bodies have: into `out`, in no particular order.
  void statuses(std::vector<HeldStatus>& out) const;
  /// Which shots touch which bodies at this moment, of those that they may strike, whether they have struck
  /// them or not: into `out`, by launch, shot and order of the bodies. Nothing is kept of it: see
  /// TouchWatch.
  void touching(std::vector<Touching>& out) const;
  /// Into `out`, in no particular order.
  void shots(std::vector<ShotView>& out) const;
  /// Whom a dash carries. Meanwhile the arena has them where that brings them at the end of each tick,
  /// whatever their tracks said: these are theirs no more. To `move` one ends its dash when the next tick
  /// begins.
  void dashes(std::vector<DashView>& out) const;

  /// Everything that is under way, as bytes that start with their version. They mean something only to a
  /// skirmish with the same attacks, over an arena in the same state: bodies and walls are the game's to
  /// save. From within a callback: nothing.
  std::string save() const;
  /// False when the bytes are damaged, of another version, or of a skirmish with other attacks or over
  /// another arena, and from within a callback; nothing has changed then. Nothing in them is trusted.
  bool restore(std::string_view bytes);

 private:
  struct State;
  struct Sinks {
    bool (*strike)(void*, const Strike&);
    void* strike_context;
    void (*end)(void*, const ShotEnd&);
    void* end_context;
    void (*limit)(void*, const LimitMet&);
    void* limit_context;
    void (*presence)(void*, const Presence&);
    void* presence_context;
    bool (*happening)(void*, const Happening&);
    void* happening_context;
  };
  template <class Sink>
  struct Guarded {
    std::remove_reference_t<Sink>& sink;
    detail::CallbackGuard& guard;
  };
  template <class Told, class Sink>
  static bool ask(void* guarded, const Told& told) {
    auto& g = *static_cast<Guarded<Sink>*>(guarded);
    return g.guard([&] {
      if constexpr (std::is_void_v<decltype(g.sink(told))>) {
        g.sink(told);
        return false;
      } else {
        return static_cast<bool>(g.sink(told));
      }
    });
  }
  template <class Told, class Sink>
  static void tell(void* guarded, const Told& told) {
    auto& g = *static_cast<Guarded<Sink>*>(guarded);
    g.guard([&] {
      g.sink(told);
      return false;
    });
  }
  class ToGame;
  Problems aim_now(const detail::Prepared& attack, Launch& launch) const;
  Problems run(double dt_s, const Sinks& sinks);

  std::unique_ptr<State> state_;
  double time_s_ = 0;
};

}  // namespace dardo
