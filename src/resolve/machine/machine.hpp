#pragma once
#include <array>
#include <functional>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "dardo/prefetch.hpp"
#include "dardo/resolve/resolve.hpp"
#include "resolve/carriers/shot/flight.hpp"

namespace dardo::detail {

class BytesIn;
class BytesOut;

/// Of what saved bytes rely on: attacks, builds, walls, factions, and which bodies there are; not where they
/// stand.
std::uint64_t fingerprint(const Arena& arena, std::span<const std::shared_ptr<Prepared>> attacks);

/// What a carrier comes from: the strike that led to it (from 1; 0: none), and the key of its chance.
struct Cause {
  std::uint32_t strike = 0;
  std::uint64_t key = 0;
};

/// The setting-off of one stage.
struct Start {
  std::uint32_t launch = 0, stage = 0;
  double time = 0;
  bool by_launch = false;  ///< it is the launch's own, which starts where that says
  Anchor anchor;           ///< else there
  BodyId target;
  Vec3 aim;
  Cause cause;
  std::size_t led_to = 0;  ///< among those of its instant
};

/// Told of everything as it happens, in order of time.
class Listener {
 public:
  /// Whether the struck body fell by it, from this moment on.
  virtual bool on_strike(const Strike& strike) = 0;
  virtual void on_end(const Flown&) {}
  /// A shot sticks in what would have ended it so; its end comes later.
  virtual void on_stuck(const Flown&) {}
  virtual void on_down(const Downed&) {}
  virtual void on_limit(const LimitMet&) {}
  /// A stretch that a shot has flown, with no contact but perhaps at its end.
  virtual void on_way(const Flight&, const std::vector<Piece>&) {}
  /// The instant of an area or a ray: its launch and stage, with its marks, and verdicts if wanted.
  virtual void on_instant(std::uint32_t, std::uint32_t, Outcome&) {}

 protected:
  ~Listener() = default;
};

/// The discrete-event machine: it keeps what comes next of every flight, decides the earliest, lets
/// follow-ups start at that instant, and asks anew only those flights whose answer that has changed. Whole
/// resolution lets it run to its end, a running game to the end of the tick; nothing else differs.
class Machine {
 public:
  explicit Machine(const Arena& arena) : arena_(&arena), motions_(arena) {}
  /// As made anew for an arena, but for the room that its lists have.
  void begin(const Arena& arena);
  Machine(const Machine&) = delete;
  Machine& operator=(const Machine&) = delete;

  Motions& motions() { return motions_; }
  const Motions& motions() const { return motions_; }
  /// Whether the listener hears of every way, and of verdicts.
  void keep_ways(Detail wanted) { keep_ways_ = wanted != Detail::strikes, wanted_ = wanted; }
  void set_limits(const Limits& limits) { limits_ = limits; }
  void set_bounds(const std::optional<Bounds>& bounds) {
    bounds_ = bounds;
    look_anew();
  }
  /// What was seen ahead does not hold any more: something has been put elsewhere, not by the ways of a tick.
  void look_anew();

  /// Puts the launch into the table. Its attack sets off with `set_off`.
  std::uint32_t add(std::shared_ptr<const Prepared> attack, const Launch& launch, std::uint32_t number);
  Launched& launched(std::uint32_t slot) { return launches_[slot]; }
  const Launched& launched(std::uint32_t slot) const { return launches_[slot]; }
  /// A launch that sets off when `set_off_waiting` is called.
  void wait(std::uint32_t launch) { waiting_.push_back(launch); }
  void set_off_waiting(double time, Listener& listener);
  /// Sets a shot's flights off from the attacker at this time, or carries an instant out; and all that
  /// follows from that at once.
  void set_off(std::uint32_t launch, double time, Listener& listener);
  /// Everything up to a time, that included. Tells who is struck, in order.
  void advance(double until, Listener& listener);
  bool idle() const { return alive_ == 0; }
  std::size_t in_flight() const { return alive_; }
  /// Calls `visit(flight, time)` for every shot in flight: its piece says where it is at that time.
  template <class Visit>
  void each_flight(Visit&& visit) const {
    for (const Flight& f : flights_) {
      if (f.alive) visit(f, std::max(f.course.time, until_));
    }
  }
  /// A body is gone or fallen, or has been moved by other means than its leg.
  void forget_target(BodyId body, double time);
  /// Bodies have been removed: whatever is after one of them has lost it.
  void forget_gone(double time);

  /// The whole state but for the attacks: restoring it into a machine with the same ones continues to the
  /// bit.
  void save(BytesOut& out, std::span<const std::shared_ptr<Prepared>> attacks) const;
  /// False when the bytes mean no state that the machine could be in; nothing has changed then.
  bool restore(BytesIn& in, std::span<const std::shared_ptr<Prepared>> attacks);

 private:
  static constexpr std::uint32_t kNobody = 0xffffffffu;
  struct Next {
    double time;
    std::uint32_t launch, number, slot, version;
    std::uint32_t victim = kNobody, victim_version = 0;  ///< a shot that it meets
    bool operator<(const Next& o) const {
      if (time != o.time) return time > o.time;
      if (launch != o.launch) return launch > o.launch;
      return number > o.number;
    }
  };

  /// What a first look at a flight needs, in a list of its own: most flights meet nothing in a tick, and then
  /// nothing else of them is fetched, or written. Their course stays at an earlier time and is brought up to
  /// date when something comes near.
  struct alignas(64) FirstLook {
    double quiet_until = 0;  ///< nothing but a contact can come before; 0: no first look at this one
    double time = 0;
    Vec3 at, velocity, acceleration;
    double reach = 0;  ///< of its shape
    BodyId passed;     ///< is no concern of it any more
    int ticks = 4;     ///< that the next look covers

    Vec3 place(double t) const {
      const double s = t - time;
      return at + (velocity + acceleration * (0.5 * s)) * s;
    }
  };

  /// What the last look at a flight has seen: nothing in its way before a time, while bodies have gone no
  /// farther than this, on the scale of `drift_`. Of one that is over: for ever.
  struct Clear {
    double until = 0, drift = 0;
  };
  static constexpr Clear kOver{std::numeric_limits<double>::infinity(),
                               std::numeric_limits<double>::infinity()};

  const Stage& stage_of(const Flight& f) const { return launches_[f.launch].stage(f.stage); }
  Surroundings around() const { return {*arena_, motions_, bounds_, from_}; }
  void lead_to(Start start) {
    start.led_to = starts_.size();
    starts_.push_back(start);
  }
  void begin(const Start& start, Listener& listener);
  void begin_starts(Listener& listener);
  void begin_shots(Start start, Listener& listener);
  void begin_instant(const Start& start, Listener& listener);
  /// Where the shots of a launch set off, and where they are thrown to.
  void aim_shots(Start& start) const;
  void release_over();
  /// Whether the launch may begin one more carrier of a stage.
  bool may_begin(std::uint32_t launch, std::uint32_t stage, double time, Listener& listener);
  void keep_strikes_left(std::uint32_t launch, double time, Outcome& out, Listener& listener);
  void meet_limit(std::uint32_t launch, Limit limit, double time, Listener& listener);
  Flight& new_flight();
  void propose(std::uint32_t slot, Listener& listener);
  void ask(std::uint32_t slot, Listener& listener);
  FirstLook first_look_at(const Flight& flight) const;
  /// Those who want every way, and shots that may meet shots, need more than a look.
  bool looks() const { return !keep_ways_ && !watches_shots_; }
  bool may_look(const FirstLook& look) const { return looks() && until_ < look.quiet_until; }
  bool is_clear(const Clear& clear) const { return until_ <= clear.until && drift_ <= clear.drift; }
  void look();
  void begin_anew();
  bool is_quiet(std::uint32_t slot);
  bool may_leave(const Bounds& box, const Vec3& from, const Vec3& to) const;
  void decide_instant(Listener& listener);
  void decide(std::uint32_t slot, Listener& listener);
  bool meet(std::uint32_t slot, const Touched& first, Listener& listener);
  void strike(Flight& flight, const Touched& touched, Listener& listener);
  /// How a flight ends at the surfaces that it has met, if it does.
  struct Surfaces {
    std::optional<Ended> ended;
    Blocker by;
  };
  Surfaces meet_surfaces(Flight& flight);
  /// So often the speed is turned by the walls of one corner at most, before it is simply reversed.
  static constexpr int kCornerTurns = 32;
  /// The surfaces met in one instant that a flight does not go through.
  struct Corner {
    std::array<Vec3, kCornerTurns> normals;
    std::size_t count = 0;
    bool turns = false;            ///< it may turn at all of them
    std::optional<Blocker> first;  ///< of them

    std::span<const Vec3> sides() const { return {normals.data(), count}; }
    Vec3 turned(const Vec3& velocity, const Ricochet& ricochet) const;
    const Vec3* into_any(const Vec3& velocity) const;
  };
  Corner corner_at(Flight& flight);
  bool pierces(Flight& flight, WallId wall) const;
  void end(std::uint32_t slot, Ended why, const Blocker& by, Listener& listener);
  /// What of a flight matters to what follows from it.
  struct Departure {
    std::uint32_t launch, stage;
    double time;
    Vec3 direction;
    BodyId target;
    Vec3 aim;
  };
  static Departure departure_of(const Flight& flight);
  void follow(const Departure& from, Then::When when, const Vec3& place, const Cause& cause);
  /// What follows from a ray or an area whose strikes have the numbers from `first`; `ahead` when it has no
  /// length.
  void follow_instant(const Start& start, const Outcome& out, const Vec3& ahead, std::uint32_t first);
  /// A shot that an instant strikes.
  struct Reached {
    double distance;
    std::uint32_t launch, number, slot;
    Vec3 place;
  };
  /// In their order, of what the instant may shoot down: those that it reaches.
  std::vector<Reached> shots_reached(std::uint32_t launch, std::uint32_t stage, double time, bool first_only,
                                     const std::function<std::optional<double>(const Ball&)>& reaches) const;
  void instant_downs(std::uint32_t launch, std::uint32_t stage, double time, std::uint32_t cause,
                     const std::vector<Reached>& found, Listener& listener);
  BodyId thrower_of(std::uint32_t slot) const { return launches_[flights_[slot].launch].launch.by; }
  bool pick_anew(Flight& flight);
  void watch(const Prepared& attack);
  double vulnerable_radius(std::uint32_t slot) const;
  bool may_down(std::uint32_t launch, std::uint32_t stage, std::uint32_t victim) const;
  void meet_shots(std::uint32_t slot);
  void meet_shot(std::uint32_t striker, std::uint32_t victim);
  void bring_to(std::uint32_t slot, double time, Listener& listener);
  void decide_meeting(const Next& next, Listener& listener);
  void down(std::uint32_t victim, const Downed& told, const Blocker& by, Listener& listener);
  std::uint32_t record_strike(Strike& strike, Launched& launched, Listener& listener);

  const Arena* arena_;
  Motions motions_;
  std::optional<Bounds> bounds_;
  Limits limits_;
  std::vector<Launched> launches_;
  std::vector<std::uint32_t> free_launches_, waiting_;
  std::vector<Flight> flights_;
  std::vector<FirstLook> first_looks_;   ///< at each flight
  std::vector<Clear> clear_;             ///< of each flight
  std::vector<std::uint32_t> due_;       ///< flights that are not clear in this window
  std::vector<Event> events_;            ///< of each flight
  std::vector<std::uint32_t> versions_;  ///< of each flight: which of its events in the queue is meant
  std::vector<std::vector<Piece>> ways_;
  std::vector<Course> befores_;  ///< of each flight, before its last proposal; kept while shots are watched,
                                 ///< and of what has a target
  std::vector<std::uint32_t> free_;
  std::vector<Next> queue_, at_once_;
  std::vector<Touched> touched_;  ///< by the flight that is being decided
  /// What follows from it, once all of its instant is decided.
  struct Following {
    Then::When when;
    Vec3 place;
    Cause cause;
  };
  std::vector<Following> follows_;
  std::vector<Start> starts_;        ///< what the instant that is being decided has led to
  std::vector<std::uint32_t> over_;  ///< launches of which nothing may be under way any more
  Outcome instant_;                  ///< of a ray or an area
  std::size_t alive_ = 0;
  double from_ = 0, until_ = 0;  ///< the window that is being decided
  double drift_ = 0;             ///< how far a body can have gone in all windows so far
  bool keep_ways_ = false;
  Detail wanted_ = Detail::strikes;
  bool watches_shots_ = false;  ///< some attack's shots can be shot down
};

}  // namespace dardo::detail
