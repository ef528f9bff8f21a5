#pragma once
#include <functional>
#include <memory>
#include <span>
#include <vector>

#include "dardo/resolve/resolve.hpp"
#include "resolve/carriers/lasting/extent.hpp"
#include "resolve/carriers/shot/flight.hpp"
#include "resolve/machine/listener.hpp"
#include "resolve/machine/state.hpp"
#include "resolve/rules/order.hpp"
#include "resolve/rules/rebound.hpp"

namespace dardo::detail {

class BytesIn;
class BytesOut;

/// Of what saved bytes rely on: attacks, builds, walls, factions, and which bodies there are; not where they
/// stand.
std::uint64_t fingerprint(const Arena& arena, std::span<const std::shared_ptr<Prepared>> attacks);

/// The discrete-event machine: it keeps what comes next of every flight, decides the earliest, lets
/// follow-ups start at that instant, and asks anew only those flights whose answer that has changed. Whole
/// resolution lets it run to its end, a running game to the end of the tick; nothing else differs.
class Machine : private MachineState {
 public:
  explicit Machine(const Arena& arena) : MachineState(arena) { motions_.know(&facts_); }
  /// As made anew for an arena, but for the room that its lists have.
  void begin(const Arena& arena);
  Machine(const Machine&) = delete;
  Machine& operator=(const Machine&) = delete;

  Motions& motions() { return motions_; }
  const Motions& motions() const { return motions_; }
  /// Whether the listener hears of every way, and of verdicts.
  void keep_ways(Detail wanted) { keep_ways_ = wanted != Detail::strikes, wanted_ = wanted; }
  void set_limits(const Limits& limits) { limits_ = limits; }
  /// Whether it keeps bodies' numbers as strikes change them, and who falls by that.
  void keep_ledger(bool keep) { ledger_ = keep; }
  bool keeps_ledger() const { return ledger_; }
  /// What has been used is kept from now on: attacks ask for it that say when they are ready.
  void keep_history() { keeps_history_ = true; }
  void set_history(const History& history) { history_ = history, keeps_history_ = true; }
  const History& history() const { return history_; }
  const Facts& facts() const { return facts_; }
  /// Who has fallen and what numbers are is in the arena by now.
  void settle_facts() { facts_.settle(); }
  void set_executor(const Executor& executor) { executor_ = executor; }
  void set_bounds(const std::optional<Bounds>& bounds) {
    bounds_ = bounds;
    look_anew();
  }
  /// Something has been put elsewhere, not by the ways of a tick.
  void look_anew();
  /// The same for those alone that may come near these ways in the window that is to be advanced next.
  void look_anew_near(const BoxSet& ways) {
    if (!ways.empty()) looks_.anew_near(ways, until_);
  }

  /// Puts the launch into the table. Its attack sets off with `set_off`.
  LaunchSlot add(std::shared_ptr<const Prepared> attack, const Launch& launch, std::uint32_t number);
  const Launched& launched(LaunchSlot slot) const { return launches_[slot]; }
  /// A launch that sets off when `set_off_waiting` is called, or at the later time that it says.
  void wait(LaunchSlot launch) { waiting_.push_back(launch); }
  void set_off_waiting(double time, Listener& listener);
  /// One sets off at a time, when that comes; if it has not been checked, it is then.
  void set_off_at(LaunchSlot launch, double time, bool checked = true);

  /// Everything up to a time, that included. Tells who is struck, in order.
  void advance(double until, Listener& listener);
  /// What of traps may be struck does not fly.
  std::size_t in_flight() const {
    std::size_t shells = 0;
    lastings_.each([&](LastingSlot, const Stay& s) { shells += s.lasting.shell.has_value(); });
    return shots_.used() - shells;
  }
  /// Whatever has not ended yet, or is to begin.
  std::size_t under_way() const {
    return shots_.used() + lastings_.used() + chains_.used() + afflictions_.used() + later_.size() +
           waiting_.size();
  }
  /// Calls `visit(lasting, guest)` for everybody inside something that lasts.
  template <class Visit>
  void each_inside(Visit&& visit) const {
    lastings_.each([&](LastingSlot, const Stay& s) {
      for (const Guest& g : s.lasting.guests) {
        if (g.inside) visit(s.lasting, g);
      }
    });
  }
  /// Calls `visit(flight, time)` for every shot in flight: its piece says where it is at that time.
  template <class Visit>
  void each_flight(Visit&& visit) const {
    shots_.each([&](ShotSlot, const Shot& s) {
      if (!stage_of(s.flight).lasting) visit(s.flight, std::max(s.flight.course.time, until_));
    });
  }
  /// Calls `visit(affliction, launch, name)` for every status that a body has.
  template <class Visit>
  void each_affliction(Visit&& visit) const {
    afflictions_.each([&](AfflictionSlot, const Affliction& a) {
      const Launched& l = launches_[a.launch];
      visit(a, l.number, a.made(l.stage(a.stage)).name);
    });
  }
  /// Those that are carried, or were in this tick.
  const AllCarried& carried() const { return carried_; }
  void end_dash_of(BodyId body, double time, Listener& listener);
  void settle();
  /// Calls `visit(lasting)` for every dash that is under way.
  template <class Visit>
  void each_dash(Visit&& visit) const {
    lastings_.each([&](LastingSlot, const Stay& s) {
      if (!s.lasting.way.empty()) visit(s.lasting);
    });
  }
  /// A body is gone or fallen, or has been moved by other means than its leg.
  void forget_target(BodyId body, double time);
  /// A body on a track is built otherwise: its middle is elsewhere, for those who go for it.
  void take_steps_anew(BodyId body);
  /// Bodies have been removed: whatever is after one of them has lost it.
  void forget_gone(double time);

  /// The whole state but for the attacks: restoring it into a machine with the same ones continues to the
  /// bit.
  void save(BytesOut& out, std::span<const std::shared_ptr<Prepared>> attacks) const;
  /// False when the bytes mean no state that the machine could be in; nothing has changed then.
  bool restore(BytesIn& in, std::span<const std::shared_ptr<Prepared>> attacks);

 private:
  Surroundings around() const { return {*arena_, motions_, memory_, bounds_, from_, until_}; }
  const Launched& launched_of(const Flight& f) const { return launches_[f.launch]; }
  const Stage& stage_of(const Flight& f) const { return launches_[f.launch].stage(f.stage); }
  /// Those who want every way need more than a look.
  bool looks_first() const { return !keep_ways_; }
  void begin_window(double from, double until);
  void advance_window(double until, Listener& listener);

  void begin_anew();
  void restore_launches(BytesIn& in, std::span<const std::shared_ptr<Prepared>> attacks,
                        Launches& launches) const;
  /// Of each launch so many shots are alive.
  void restore_shots(BytesIn& in, double until, const Launches& launches, Pool<Shot, ShotSlot>& shots,
                     Memory& memory, std::vector<std::uint32_t>& alive) const;
  void restore_afflictions(BytesIn& in, double until, const Launches& launches,
                           Pool<Affliction, AfflictionSlot>& afflictions,
                           std::vector<std::uint32_t>& afflicting) const;
  bool restore_later(BytesIn& in, double until, const Launches& launches,
                     const Pool<Chain, ChainSlot>& chains, std::vector<Start>& later,
                     std::vector<bool>& waits, std::vector<std::uint32_t>& pending) const;
  void restore_chains(BytesIn& in, const Launches& launches, Pool<Chain, ChainSlot>& chains,
                      std::vector<std::uint32_t>& alive) const;
  void restore_lastings(BytesIn& in, double until, const Launches& launches,
                        const Pool<Shot, ShotSlot>& shots, Pool<Stay, LastingSlot>& lastings,
                        std::vector<std::uint32_t>& alive) const;

  // How launches and their carriers begin, and their limits: launches.cpp.
  void lead_to(Start start) {
    start.led_to = starts_.size();
    starts_.push_back(std::move(start));
  }
  /// The same so long after its time.
  void begin_after(Start start, double delay);
  /// Whatever follows at a moment of a stage: from what the start says of where, whom and why.
  void follow_from(const Start& from, Then::When when);
  /// What follows from a strike with a number.
  void follow_strike(LaunchSlot launch, const Strike& strike, std::uint32_t number, std::uint64_t key);
  bool wind_up(const Start& start);
  void release(const Start& start, Listener& listener);
  void begin_rounds(const Start& start, Listener& listener);
  void land(const Start& start, Listener& listener);
  void aim_now(Launched& launched, double time) const;
  void begin(const Start& start, Listener& listener);
  void begin_starts(Listener& listener);
  void begin_launch(const Start& start, Listener& listener);
  bool is_ready(const Start& start, Listener& listener);
  bool choose_target(const Start& start, Listener& listener);
  void begin_shots(Start start, Listener& listener);
  /// Where the shots of a launch set off, and where they are thrown to.
  void aim_shots(Start& start) const;
  /// Into `next_`: those toward whom the shots of a volley go, each toward its own.
  void choose_bodies(const Start& start);
  /// One shot of a volley: its number, where it is thrown, and at whom, if at one of its own.
  void throw_shot(const Start& start, const Thrower& by, std::uint32_t number, const Candidate* at,
                  const std::optional<WallContact>& leaned_on, Listener& listener);
  ShotSlot new_shot();
  void release_over();
  /// Whether the launch may begin one more carrier of a stage.
  bool may_begin(const Start& start, Listener& listener);
  /// One more of its carriers, if its limit leaves room.
  bool takes_carrier(LaunchSlot launch, double time, Listener& listener);
  /// Whether one more of them may be put there for later.
  bool may_wait(LaunchSlot launch, double time, Listener& listener);
  void meet_limit(LaunchSlot launch, Limit limit, double time, Listener& listener);

  // What comes next of shots, instant by instant: machine.cpp.
  void propose(ShotSlot slot, Listener& listener);
  void ask(ShotSlot slot, Listener& listener);
  bool find_next(ShotSlot slot, Listener* listener);
  void push_next(ShotSlot slot);
  void let_go(Shot& shot);
  void ask_due(Listener& listener);
  void ask_with_partners(ShotSlot slot, Listener& listener);
  void look();
  void decide_instant(Listener& listener);
  bool begins_in_window() const;
  void begin_later(double until, Listener& listener);
  void decide(ShotSlot slot, Listener& listener);
  bool still_comes(const Flight& flight, Event& event) const;
  void end(ShotSlot slot, Ended why, const Blocker& by, Listener& listener);
  void forget_shot(ShotSlot slot);
  /// What of a flight matters to what follows from it.
  struct Leaving {
    LaunchSlot launch;
    std::uint32_t stage;
    double time;
    Vec3 direction;
    BodyId target;
    Vec3 aim;
  };
  static Leaving leaving_of(const Flight& flight);
  void follow(const Leaving& from, Then::When when, const Vec3& place, const Cause& cause, BodyId body = {});
  bool pick_anew(Flight& flight);

  // What strikes and releases do, and the ledger: effects.cpp.
  /// Numbers the strike, lets its effects come, and tells of it; the number. The key is that of its chance.
  std::uint32_t record_strike(Strike& strike, LaunchSlot launch, std::uint64_t key, Listener& listener);
  void record_together(const Start& start, Outcome& out, Listener& listener);
  std::uint32_t number_strike(Strike& strike, LaunchSlot launch, std::uint64_t key);
  void come(Strike& strike, LaunchSlot launch, std::uint32_t effect, const Cause& cause, Listener& listener);
  void take_effect(EffectDone& done, double time, const Affliction& given, Listener& listener);
  void mark_felled(Strike& strike) const;
  void tell_strike(Strike& strike, Listener& listener);
  void take_release(const Start& start, Listener& listener);
  void tell(Happening& told, Listener& listener);
  void count(EffectDone& done, double time, Listener& listener);
  void settle_falls(Listener& listener);

  // Statuses: afflictions.cpp.
  const Status& status_of(const Affliction& affliction) const;
  /// The first that a body has of a name, or of any; it holds until one begins or is over.
  const Facts::Span* first_status(BodyId body, std::string_view name) const;
  std::size_t index_of(const Facts::Span& span, BodyId body) const;
  void afflict(StatusDone& done, const Affliction& given, Listener& listener);
  void keep_span(AfflictionSlot slot);
  void push_next(AfflictionSlot slot);
  void decide(AfflictionSlot slot, double time, Listener& listener);
  Happening& begin_happening(const Affliction& affliction, Happening::What what, double time);
  void end_affliction(AfflictionSlot slot, double time, Happening::Over why, Listener& listener);
  void drop_affliction(AfflictionSlot slot, double time);
  void settle_ended(double time, Listener& listener);
  void unsettle(BodyId body, double time, Listener& listener);
  void hold_at(double time, Listener& listener);
  void settle_states(Listener& listener);
  /// Whether what flies must be able to go back within a window.
  bool keeps_undo() const { return dashing_ > 0 || (heeding_ > 0 && unsettling_ > 0); }
  void weigh(const Prepared& attack, bool comes);

  // What a shot does at what it touches: contacts.cpp.
  bool meet(ShotSlot slot, const Touched& first, double sought_from, Listener& listener);
  void strike(Flight& flight, const Touched& touched, Listener& listener);
  /// How a flight ends at the surfaces that it has met, if it does.
  struct Surfaces {
    std::optional<Ended> ended;
    Blocker by;
    bool brushed = false;  ///< those that it did not go through it only touched
  };
  Surfaces meet_surfaces(Flight& flight);
  void note_surface(const Flight& flight, const Course& came, WallId wall, const Contact& at, bool through);
  void tell_surfaces(const Flight& flight, const Surfaces& met, Listener& listener);
  /// So often the speed is turned by the walls of one corner at most, before it is simply reversed.
  Corner corner_at(Flight& flight);
  void remember_sides(Flight& flight, const Corner& corner);
  bool pierces(Flight& flight, WallPartId wall) const;

  // Rays and areas: instants.cpp.
  void begin_instant(const Start& start, Listener& listener);
  void record_instant(const Start& start, Outcome& out, double stagger, Listener& listener);
  void keep_strikes_left(LaunchSlot launch, double time, Outcome& out, Listener& listener);
  /// What follows from a ray or an area whose strikes have the numbers from `first`; `ahead` when it has no
  /// length.
  void follow_instant(const Start& start, const Outcome& out, const Vec3& ahead,
                      const std::optional<Vec3>& heading);

  // From body to body: hops.cpp.
  static constexpr std::uint32_t kNoMore = 0xffffffffu;  ///< so many strikes: none more
  void begin_chain(const Start& start, Listener& listener);
  void depart(ChainSlot slot, const Departure& from, BodyId only, std::uint32_t cause, Listener& listener);
  void arrive(const Start& start, Listener& listener);
  void over_if_done(ChainSlot slot, Listener& listener);

  // What stays for a time: lastings.cpp.
  void begin_lasting(const Start& start, Listener& listener);
  void begin_shell(LastingSlot slot, Listener& listener);
  void end_shell(ShotSlot shot, Ended why, const Blocker& by, Listener& listener);
  void gather(LastingSlot slot);
  void expect(Stay& stay, const Extent& extent, const Act& act, BodyId body, double from);
  void expect_anew(Stay& stay, const Extent& extent, const Act& act, BodyId body);
  void expect_walls(Stay& stay, const Extent& extent, const Bounds& box, double from);
  void expect_to_stop(Stay& stay, const Extent& extent, const Bounds& box, double from);
  void push_next(LastingSlot slot);
  void decide(LastingSlot slot, double time, Listener& listener);
  bool meet(LastingSlot slot, const Extent& extent, Listener& listener);
  bool strike_inside(LastingSlot slot, const Extent& extent, const Act& act, Listener& listener);
  void strike(Lasting& lasting, const Extent& extent, const AreaCarrier& carrier, const Inside& in,
              Listener& listener);
  void touch_by_blade(const Lasting& lasting, const Extent& extent, Strike& strike) const;
  bool go_off(LastingSlot slot, const Extent& extent, Listener& listener);
  void follow(const Lasting& lasting, Then::When when, const Pose& frame, BodyId body, const Vec3& toward,
              const Cause& cause);
  void end(LastingSlot slot, Ended why, const Blocker& by, Listener& listener);
  void tell_over(const Lasting& lasting, Ended why, const Blocker& by, Listener& listener);
  void forget_lasting(LastingSlot slot);
  void tell_lastings(BodyId body, double time);

  // Bodies that are carried: dashes.cpp.
  std::optional<Ended> set_out(const Act& act, const Moment& moment, Lasting& lasting, Blocker& by) const;
  void begin_dash(LastingSlot slot, Listener& listener);
  void carry(const Lasting& lasting, const std::vector<Leg>& way, Listener& listener);
  void stop_carrying(const Lasting& lasting, Listener& listener);
  void keep_undo(ShotSlot slot);
  bool fly_back(ShotSlot slot, double time, Listener& listener);
  void make_room_for_undo();
  void ask_anew(BodyId body, double time, Listener& listener);
  void carry_again();

  // Shots that are shot down: meetings.cpp.
  Roster::May may(const Flight& f) const { return roster_.may(launched_of(f).row, f.stage); }
  void watch();
  void watch_way(ShotSlot slot);
  double vulnerable_radius(ShotSlot slot) const;
  bool may_down(LaunchSlot launch, std::uint32_t stage, ShotSlot victim) const;
  void meet_shots(ShotSlot slot);
  void meet_shot(ShotSlot striker, ShotSlot victim);
  void bring_to(ShotSlot slot, double time, Listener& listener);
  void decide_meeting(const Next& next, Listener& listener);
  void down(ShotSlot victim, const Downed& told, const Blocker& by, Listener& listener);
  /// A shot that an instant strikes.
  struct Reached {
    double distance;
    std::uint32_t launch, number;
    ShotSlot shot;
    Vec3 place;
  };
  /// In their order, of what the instant may shoot down: those that it reaches.
  std::vector<Reached> shots_reached(const Start& start, const Bounds& around, bool first_only,
                                     const std::function<std::optional<double>(const Ball&)>& reaches) const;
  void instant_downs(const Start& start, const std::vector<Reached>& found, Listener& listener);
  BodyId thrower_of(ShotSlot slot) const { return launched_of(shots_[slot].flight).launch.by; }
};

}  // namespace dardo::detail
