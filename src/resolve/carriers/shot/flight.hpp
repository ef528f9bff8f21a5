#pragma once
#include <algorithm>
#include <memory>
#include <optional>
#include <type_traits>
#include <vector>

#include "dardo/record/outcome.hpp"
#include "resolve/carriers/shot/memory.hpp"
#include "resolve/carriers/shot/touch.hpp"
#include "resolve/rules/let_through.hpp"
#include "resolve/rules/prepared.hpp"
#include "resolve/rules/slots.hpp"

// One shot in flight: what it meets next.
namespace dardo::detail {

/// One use of an attack.
struct Launched {
  std::shared_ptr<const Prepared> prepared;
  Launch launch;
  FactionId faction;
  std::uint32_t number = 0;   ///< among all launches
  std::uint32_t flights = 0;  ///< so far; numbers its shots
  std::uint32_t strikes = 0;
  std::uint32_t alive = 0;                   ///< what has not ended yet
  std::uint32_t afflicting = 0;              ///< statuses that it has given
  std::uint32_t pending = 0;                 ///< of what follows and begins later
  std::uint32_t serial = 0;                  ///< so many of these so far
  std::uint32_t carriers = 0, contacts = 0;  ///< so far, held against the limits
  std::uint32_t limits_met = 0;              ///< a bit for each
  std::uint32_t row = 0;                     ///< in the roster

  const Stage& stage(std::uint32_t of) const { return prepared->stage(of); }
  /// It keeps its place in the table for so many.
  std::uint32_t under_way() const { return alive + pending + afflicting; }
};

/// Plain data.
struct Flight {
  LaunchSlot launch;
  std::uint32_t stage = 0;
  std::uint32_t number = 0;  ///< among the shots of its launch
  std::uint32_t cause = 0;   ///< the number of the strike that led to it, from 1; 0: none
  Course course;
  std::uint32_t strikes = 0, turns = 0;
  double through = 1;  ///< share of the power that walls have left
  double ends = 0;     ///< its lifetime's end
  /// Where it sticks: at a place in the frame of that body, or of that wall if it moves; else in the world.
  struct Stuck {
    bool yes = false;
    Blocker in;
    Vec3 at;
    bool carried = false;  ///< by what it sticks in
  };
  Stuck stuck;
  bool apex_passed = false, near_passed = false;
  std::uint64_t key = 0;      ///< of all chance that it draws
  double lately = 0;          ///< when it last set off or got on: what comes within an instant of that
  std::uint32_t at_once = 0;  ///< is so many events by now
  Memory::List met;
};
static_assert(std::is_trivially_copyable_v<Flight>);

/// What became of one shot, for those who want to know.
struct Flown {
  LaunchSlot launch;
  std::uint32_t stage = 0, number = 0, cause = 0;
  Ended ended = Ended::life;
  double time = 0;
  double travelled = 0;
  Vec3 place;
  Blocker by;
  Course course;  ///< at its end
  bool over = false;
};

/// One thing that a flight touches at a moment.
struct Touched {
  enum class As : std::uint8_t {
    struck,   ///< a body that it strikes
    stopper,  ///< a body that only stops it
    surface,  ///< a wall, or without one the ground
    passed,   ///< a body too near to be struck, or a wall that lets it through: it is passed until let go
  };

  As as = As::surface;
  double time = 0;
  BodyId body;
  std::uint32_t hitbox = 0;
  WallPartId wall;
};

/// What comes next of a flight.
struct Event {
  /// In the order in which they come in one instant.
  enum class Kind : std::uint8_t {
    none,
    contact,  ///< with what, `touching` says
    apex,
    near,
    turned,
    returned,
    arrived,
    stopped,
    lost,
    slow,
    length,
    out,
    life
  };

  Kind kind = Kind::none;
  double time = 0;
  Course course;           ///< of the flight, at that time
  Touched touched;         ///< of a contact: what is touched first
  double sought_from = 0;  ///< of a contact: when the stretch began in which it was found
};

/// What a flight flies among.
struct Surroundings {
  const Arena& arena;
  const Motions& motions;
  const Memory& memory;
  const std::optional<Bounds>& bounds;
  double from = 0, until = 0;  ///< the window; nothing before it is asked any more
};

Flyer flyer_of(const ShotDelivery& shot, const Course& course, const Vec3& up);

/// When it is slower than it may be on its piece, up to a time.
std::optional<double> becomes_slow(const Course& course, const Stage& stage, double stop);

/// Where a flight that sticks is at a time.
Vec3 stuck_place(const Flight& flight, const Surroundings& around, double time);

/// From now on it stays in what it has come to, and goes where that goes.
void stick(Flight& flight, const Blocker& in, const Surroundings& around);

/// Along its piece to a time, if that is later.
void catch_up(Course& course, double time);

/// The next event of a flight up to a time and `past` seconds past it, which is none when nothing happens
/// before that: then the event's course is that of the flight at that time. `trace`, if given, gets the
/// pieces of the way there, each as long as it was flown.
Event next_event(const Flight& flight, const Launched& launched, const Surroundings& around, double until,
                 std::vector<Piece>* trace = nullptr, double past = kInstant);

/// The flight has gone this way: what it has let go of on it, it does not pass any more.
void let_go_on(const Flight& flight, const Launched& launched, const Surroundings& around,
               const std::vector<Piece>& way, Memory& memory);

/// Something that a flight touches in the instant of its time, if anything. As `touching`, it is sought from
/// where the search for the contact began: from the rounded place of the contact itself, what has no
/// thickness may already lie behind.
std::optional<Touched> touched_now(const Flight& flight, const Launched& launched, const Surroundings& around,
                                   double sought_from);
/// Into `out`: all that the flight touches in the instant in which it touches `first`; bodies in order of
/// creation, each with the first of its hitboxes, then walls, then the ground.
void touching(const Flight& flight, const Launched& launched, const Surroundings& around,
              const Touched& first, double sought_from, std::vector<Touched>& out);

/// Where what flies touches a wall, or of none the ground, as `contact_at` says it.
Contact surface_contact(const Flyer& flyer, const Course& course, const Arena& arena, WallPartId wall);

}  // namespace dardo::detail
