#pragma once
#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "dardo/arena/faction.hpp"
#include "dardo/arena/ids.hpp"
#include "dardo/arena/track.hpp"
#include "dardo/attack/area.hpp"
#include "dardo/attack/falloff.hpp"
#include "dardo/geometry/vec.hpp"
#include "dardo/problem.hpp"
#include "dardo/record/effect_done.hpp"
#include "dardo/record/limits.hpp"

namespace dardo {

/// What a body has to pass in order to be struck, in this order.
enum class Gate : std::uint8_t { stands, self, relation, tags, conditions, rules, reach, time, sight, cap };

/// Why a body was not struck: what the first gate that stopped it says.
enum class Reason : std::uint8_t {
  none,           ///< nothing stopped it
  fallen,         ///< it does not stand any more
  self,           ///< it is the attacker, who is not listed
  relation,       ///< its relation to the attacker is not listed
  tag_missing,    ///< it lacks a tag that the attack needs
  tag_forbidden,  ///< it has a tag that the attack forbids
  immune,         ///< it is immune to one of the attack's tags
  condition,      ///< a number is not what the attack asks for
  no_number,      ///< it, or the attacker, has no number that the attack asks for
  rule,           ///< one of the game's own rules
  too_near,       ///< nearer than the near limit
  too_far,        ///< beyond the far limit
  missed,         ///< the ray passes it by
  outside,        ///< it lies outside the area
  partly,         ///< too little of it lies within the area
  wall,           ///< a wall stands between
  inside_wall,    ///< the line to it starts or ends inside a wall
  shielded,       ///< another body stands before it
  partly_seen,    ///< too little of it is seen
  ground,         ///< the ground stands between
  over,           ///< the attack's time was over before it came there
  cap,            ///< as many as allowed were struck before it
  limit,          ///< one of the launch's limits was met before: see `limits_met`
  early,          ///< the attack's time had not come when it was there
  waiting,        ///< it was inside, but as many as count at once were before it
  visited,        ///< a chain was there before
  set_off,        ///< it set the trap off, which strikes nobody itself
  no_way,       ///< the dash did not begin: walls stand in its way, there is no room, or its body had fallen
  no_volume,    ///< a share of its volume was asked for, and it has none
  not_set_off,  ///< it never came so near that it would have set the trap off
};

/// What stands in the way: a wall, a body, a shot of that body, or nothing.
struct Blocker {
  WallId wall;
  BodyId body;
  bool shot = false;

  bool empty() const { return wall.empty() && body.empty() && !shot; }
  friend bool operator==(const Blocker&, const Blocker&) = default;
};

/// What one gate found for one body.
struct Reading {
  Gate gate = Gate::stands;
  Reason reason = Reason::none;  ///< none: passed
  /// What was compared with the limit, metres; at the gate of time seconds; of a condition its numbers; or a
  /// share, then `of_share`.
  std::optional<double> measured;
  std::optional<double> limit;
  std::optional<double> margin;  ///< how far the test was from turning out otherwise, likewise; 0 or more
  Blocker by;                    ///< what stands between, if anything
  Vec3 at;                       ///< where it does
  Relation relation = Relation::neutral;  ///< gate relation: what the body is to the attacker
  bool of_share = false;                  ///< the three numbers are shares, from 0 to 1
  std::string tag;                        ///< the tag, the number or the rule that decided, by name
  std::uint32_t stage = 0;  ///< whose gate: 0 the attack's itself, else that of one within it, as in a strike
  double since_s = 0;       ///< when that one set off, on the clock of tracks

  friend bool operator==(const Reading&, const Reading&) = default;
};

/// Whether a body was struck, and if not, why.
struct Verdict {
  BodyId body;
  bool struck = false;
  std::uint32_t strike = 0;  ///< the number of the first strike at it, from 1; 0 when it is not struck
  /// Of the gate that stopped it; its reason is `none` when struck. Where attacks followed from this one: of
  /// that which came nearest to striking the body, by the gate that it came to, then by the margin.
  Reading deciding;
  /// Every gate in order, with Detail::full only: the attack's, then of each that followed.
  std::vector<Reading> gates;

  friend bool operator==(const Verdict&, const Verdict&) = default;
};

/// The power that arrives, and each factor in it.
struct Power {
  double base = 1;
  double zone = 1;      ///< the struck hitbox's factor
  double order = 1;     ///< of a shot that pierces: for the first, second, ... body
  double through = 1;   ///< what walls on the way have left of it
  double hop = 1;       ///< of a chain: for the first, second, ... body
  double seen = 1;      ///< the share that is seen, where the attack goes by it
  double distance = 1;  ///< what its falloff leaves of it
  double level = 1;     ///< what its level makes of it
  double critical = 1;  ///< what chance has given to it

  struct Factor {
    std::string_view name;
    double factor;
  };
  /// All of them, by name, in the order in which they are multiplied.
  std::array<Factor, 9> factors() const {
    return {{{"base", base},
             {"zone", zone},
             {"order", order},
             {"through", through},
             {"hop", hop},
             {"seen", seen},
             {"distance", distance},
             {"level", level},
             {"critical", critical}}};
  }
  /// Their product.
  double arriving() const {
    double out = 1;
    for (const Factor& f : factors()) out *= f.factor;
    return out;
  }
  friend bool operator==(const Power&, const Power&) = default;
};

/// A share that was counted, and how far it may be off.
struct Share {
  double share = 0, error = 0;

  friend bool operator==(const Share&, const Share&) = default;
};

/// One body struck.
struct Strike {
  BodyId body;
  std::uint32_t hitbox = 0;  ///< which of its build's: the one whose factor counts
  double time_s = 0;         ///< on the clock of tracks, on which the launch has its own time
  double distance = 0;       ///< from the attack's origin, metres; of a shot: flown
  Vec3 point;                ///< of contact
  Vec3 normal;               ///< of the surface there
  Power power;
  double seen_s = 0;         ///< when what is seen of it arrives: later than `time_s` for a ray with a tracer
  std::uint32_t stage = 0;   ///< 0: the attack itself; else which of the attacks within it, in their order
  std::uint32_t cause = 0;   ///< the number of the strike that led to this one, from 1; 0: none
  std::uint32_t launch = 0;  ///< in a running game: which launch
  std::optional<Share> covered;      ///< how much of it lies within an area that asks for a share
  std::optional<Share> seen;         ///< how much of it was seen, where an area goes by that
  double speed = 0;                  ///< of a shot, m/s; 0 of what strikes in an instant
  Vec3 centre;                       ///< where the centre of what struck was: of a shot, of a ray, of an area
  std::uint32_t hop = 0;             ///< of a chain: after so many hops
  BodyId by;                         ///< the attacker; empty of one from a place
  Name attack;                       ///< which of the attacks within it; of one without a name the whole's
  std::uint32_t carrier = 0;         ///< which of what the launch has set off: shots, what lasts, chains
  bool felled = false;               ///< the body fell by it, as the ledger has it
  std::vector<EffectDone> effects;   ///< what it does, in the order of the attack's
  std::vector<EffectSpared> spared;  ///< what it would have done; not with Detail::strikes

  friend bool operator==(const Strike&, const Strike&) = default;
};

/// A wall or the ground that a shot or a ray met on its way.
struct SurfaceMet {
  enum class Did : std::uint8_t {
    turned,   ///< at it
    pierced,  ///< it went through
    ended,    ///< there
  };

  WallId wall;  ///< empty: the ground
  Did did = Did::turned;
  std::uint32_t stage = 0;  ///< of what met it, as in a strike
  std::uint32_t shot = 0;   ///< which of the launch's shots; 0 of a ray
  double time_s = 0;
  double distance = 0;  ///< flown, metres
  Vec3 point;           ///< of contact
  Vec3 normal;          ///< of the surface there
  Vec3 centre;          ///< of what met it
  Vec3 direction;       ///< which way it came, one metre long
  double speed = 0;     ///< as it came, m/s; 0 of a ray
  double leaves = 0;    ///< as it went on

  friend bool operator==(const SurfaceMet&, const SurfaceMet&) = default;
};

/// One shot in flight that was shot down: it ended there.
struct Downed {
  std::uint32_t launch = 0;  ///< whose shot it was: among the launches under way, or of the running game
  std::uint32_t shot = 0;    ///< which of that launch's shots
  BodyId by;                 ///< who had sent it off
  double time_s = 0;         ///< as in a strike
  Vec3 point;                ///< where its centre was
  std::uint32_t stage = 0;   ///< what struck it, as in a strike
  std::uint32_t cause = 0;
  std::uint32_t by_launch = 0;  ///< in a running game: which launch struck it

  friend bool operator==(const Downed&, const Downed&) = default;
};

/// How a launch ended.
enum class Ended : std::uint8_t {
  strike,          ///< a ray, in a body
  body,            ///< a ray, in a body that stops it without being struck
  wall,            ///< a ray, in a wall
  reach,           ///< a ray, in the open at its far limit
  muzzle_blocked,  ///< at a wall between the attacker's centre and its muzzle
  spent,           ///< an area, after its one instant
  out_of_reach,    ///< an area whose middle lies nearer or farther than the attack reaches
  refused,         ///< the launch itself was wrong: see `problems`
  life,            ///< a shot, in the air when its lifetime was over
  slow,            ///< a shot, below its least speed
  bounds,          ///< a shot, beyond the arena's bounds
  rest,            ///< a shot, rebounding ever faster: it came to rest
  returned,        ///< a shot, back at its thrower
  arrived,         ///< a shot, at the point where its path ends; a dash, where it lands
  lost,            ///< a guided shot, without a target
  ground,          ///< a ray or a shot, on the ground
  shot_down,       ///< a shot, struck by another attack
  stuck,           ///< a shot in a wall, the ground or a body, its lifetime over
  limit,           ///< a shot, by one of its launch's limits: see `limits_met`
  over,            ///< what lasts, when its time was over
  carrier_fell,    ///< what lasts, when the body fell that it hung on
  no_target,       ///< before it began: there was nobody to choose
  no_way,     ///< a dash that did not begin: walls stand in its way, no room to land, its body had fallen
  moved,      ///< a dash, when the game moved its body meanwhile, or that dashed anew
  not_ready,  ///< before it began: the attacker was not ready for it
};

/// The geometry that decided, for drawing. Nothing in a picture comes from elsewhere.
struct PathMark {  ///< a straight stretch of the way of a ray
  Vec3 from, to;
  double radius = 0;  ///< of a thick one
  double time_s = 0;  ///< when; all times of marks are on the clock of tracks
  friend bool operator==(const PathMark&, const PathMark&) = default;
};
struct RingMark {  ///< the ball of an area
  Vec3 center;
  double radius = 0;
  double time_s = 0;
  /// How much of its power arrives by the distance from its origin, where that differs; beyond the last as
  /// there.
  std::vector<FalloffPoint> fades;
  friend bool operator==(const RingMark&, const RingMark&) = default;
};
struct SightMark {  ///< a line of sight that was judged; `cut` where it was blocked
  Vec3 from, to;
  std::optional<Vec3> cut;
  double time_s = 0;
  friend bool operator==(const SightMark&, const SightMark&) = default;
};
struct ReachMark {  ///< the near and far limits around an origin
  Vec3 center;
  double near = 0, far = 0;
  double time_s = 0;
  friend bool operator==(const ReachMark&, const ReachMark&) = default;
};
struct AreaMark {  ///< an area that is no ball
  AreaShape shape;
  Pose pose;  ///< of its frame
  double time_s = 0;
  std::vector<FalloffPoint> fades;  ///< as of a ring
  friend bool operator==(const AreaMark&, const AreaMark&) = default;
};
/// A stretch of a way, cubic in time: as exact as the way itself is known.
struct WayPiece {
  double start_s = 0, end_s = 0;
  Vec3 at, velocity, acceleration, jerk;  ///< at its start
  friend bool operator==(const WayPiece&, const WayPiece&) = default;
};
/// Where it is at a time: at + v s + a s^2 / 2 + j s^3 / 6, with s from its start.
Vec3 place_at(const WayPiece& piece, double time_s);

/// The way of a shot: its pieces, and places so close that no chord between them is off by more than a
/// centimetre.
struct FlightMark {
  std::vector<WayPiece> pieces;
  std::vector<Vec3> places;
  std::vector<double> times;  ///< seconds, one for each place
  double radius = 0;
  double half_width = 0;   ///< how far it reaches to each side of its way: the radius, or of its shape
  double half_height = 0;  ///< and above and below it
  Ended ended = Ended::reach;
  friend bool operator==(const FlightMark&, const FlightMark&) = default;
};
/// The way of a body that moves, while the launch lasts: its stretches, exact, each with a steady motion and
/// a steady turn. Two of them that do not join are a jump.
struct MotionMark {
  BodyId body;
  std::vector<Leg> legs;
  friend bool operator==(const MotionMark&, const MotionMark&) = default;
};
/// Something that lasted: where its frame was at any time (`frame_at`), and what it covered (`shape_at`).
struct LastingMark {
  double from_s = 0, to_s = 0;   ///< while it was there
  std::vector<Leg> carrier;      ///< the way of what it hung on; of nothing one leg that stands still
  Pose base;                     ///< in the frame of that
  std::vector<Leg> own;          ///< its own way in that
  std::vector<GrownArea> sizes;  ///< evenly between them
  bool blade = false, trap = false;
  Ended ended = Ended::over;
  std::vector<FalloffPoint> fades;  ///< as of a ring
  friend bool operator==(const LastingMark&, const LastingMark&) = default;
};
Pose frame_at(const LastingMark& mark, double time_s);
AreaShape shape_at(const LastingMark& mark, double time_s);

/// A leg of a chain, from the last body to the next.
struct HopMark {
  Vec3 from, to;
  double arc = 0;            ///< how high it rises over its middle
  std::uint32_t number = 0;  ///< which hop, from 1; 0: to the first body
  double from_s = 0, to_s = 0;
  friend bool operator==(const HopMark&, const HopMark&) = default;
};

/// The way of a body that dashes, and its hitboxes where it came to.
struct DashMark {
  BodyId body;
  std::vector<Leg> legs;
  std::vector<Shape> hitboxes;  ///< in the world
  Ended ended = Ended::arrived;
  friend bool operator==(const DashMark&, const DashMark&) = default;
};
using Mark = std::variant<PathMark, RingMark, SightMark, ReachMark, FlightMark, MotionMark, AreaMark,
                          LastingMark, HopMark, DashMark>;

/// What came of a launch.
struct Outcome {
  std::string launch;  ///< its id
  std::string attack;  ///< its name
  BodyId by;
  Ended ended = Ended::spent;
  Vec3 origin;                        ///< where it started
  double start_s = 0;                 ///< when it was launched, on the clock of tracks
  double end_s = 0;                   ///< when it ended, likewise
  Vec3 end;                           ///< where the centre of a ray or a shot ended, or an area's middle
  std::optional<Vec3> end_contact;    ///< of a ray: where it touches what ended it, if anything did
  Blocker stopped_by;                 ///< what ended a ray, if anything did
  std::vector<Strike> strikes;        ///< by time; what an instant leads to, after it
  std::vector<Happening> happenings;  ///< releases, and what statuses do, by time
  std::vector<Downed> downed;         ///< shots of others that it shot down, by time
  std::vector<SurfaceMet> surfaces;   ///< walls and ground that it met, by time; not with Detail::strikes
  std::vector<Verdict> verdicts;      ///< one for every body, in their order; not with Detail::strikes
  std::vector<Mark> marks;            ///< likewise
  std::vector<LimitMet> limits_met;   ///< by time: something of it did not happen, or ended there
  std::vector<std::string> warnings;  ///< what was carried out, but looks wrong
  Problems problems;                  ///< with Ended::refused or not_ready: all that was wrong

  friend bool operator==(const Outcome&, const Outcome&) = default;
};

/// Launches that were told together as one outcome: what they did by time, and of each body the verdict of
/// the launch that struck it first, or else came nearest by its gate. Its strikes' causes are numbered anew.
Outcome course_of(std::span<const Outcome> outcomes, std::string name);

}  // namespace dardo
