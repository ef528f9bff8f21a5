#pragma once
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "dardo/arena/faction.hpp"
#include "dardo/arena/wall.hpp"
#include "dardo/attack/area.hpp"
#include "dardo/attack/chain.hpp"
#include "dardo/attack/dash.hpp"
#include "dardo/attack/effect.hpp"
#include "dardo/attack/lasts.hpp"
#include "dardo/attack/order.hpp"
#include "dardo/attack/readiness.hpp"
#include "dardo/attack/shot.hpp"
#include "dardo/attack/sight.hpp"
#include "dardo/attack/timing.hpp"
#include "dardo/problem.hpp"

namespace dardo {

/// Which hitbox of a struck body counts.
enum class ZoneRule : std::uint8_t {
  first,  ///< the first that is touched
  best,   ///< the touched one with the highest factor; the contact point is still that of the first contact
};

/// An instant straight line from the muzzle: it strikes the nearest eligible bodies, and stops at walls that
/// block shots, goes through them or turns at them.
struct RayDelivery {
  double radius = 0;  ///< of the ball that goes along it, metres; 0: a line
  Pierce pierce;      ///< a ray has no speed to lose
  Ricochet ricochet;  ///< restitution and friction tilt where it goes on
  /// What is seen of it flies so fast, m/s; 0: as instant as it is. The strike is decided at once all the
  /// same.
  double tracer_speed = 0;
  /// A warning when what is seen arrives later than this, seconds.
  double most_delay_s = std::numeric_limits<double>::infinity();

  friend bool operator==(const RayDelivery&, const RayDelivery&) = default;
};

using Delivery = std::variant<RayDelivery, AreaDelivery, ShotDelivery, SwingDelivery, TrapDelivery,
                              ChainDelivery, DashDelivery>;

struct Attack;

/// What a contact, or the way itself, leads to: more attacks, from that place and at that time.
struct Then {
  enum class When : std::uint8_t {
    strike,    ///< on each body struck
    surface,   ///< on each wall met
    end,       ///< where it ends, however it does
    apex,      ///< where a falling shot is highest
    near,      ///< as soon as it is within `distance` of its target
    comes_in,  ///< as a body comes into what lasts, whether it is struck or not
    goes_out,  ///< as it is out of it again
    interval,  ///< each `every` of what lasts, at its middle
    release,   ///< as it is released, at its muzzle
    hop,       ///< as a chain goes on from a body to another
    trigger,   ///< as a trap goes off, toward the body that has set it off
    landing,   ///< as a dash comes to its end by itself, or at a wall
  };

  When when = When::end;
  double distance = 0;  ///< metres, for `near`
  double delay_s = 0;   ///< so long after it, from the same place
  std::vector<Attack> attacks;

  friend bool operator==(const Then&, const Then&);
};

/// What a number of the attacker or of the target must be like. Who has no such number fails it.
struct Condition {
  enum class Of : std::uint8_t { target, attacker };
  enum class Is : std::uint8_t { below, at_most, equal, at_least, above };
  struct Other {
    Of of = Of::attacker;
    std::string number;
    friend bool operator==(const Other&, const Other&) = default;
  };

  Of of = Of::target;
  std::string number;
  Is is = Is::at_least;
  double value = 0;
  std::optional<Other> than;  ///< instead of the value: another number

  friend bool operator==(const Condition&, const Condition&) = default;
};

/// Attacks within attacks: so deep at most.
inline constexpr int kMostNesting = 8;

/// How far an attack reaches, metres from its origin; both limits belong to it. For a ray or a shot: the
/// travel to the contact. For an area: how far from the attacker's centre its middle may lie.
struct Reach {
  double near = 0;
  double far = 100;  ///< infinity: no end, but for a shot's life

  friend bool operator==(const Reach&, const Reach&) = default;
};

/// What an attack is: data, and nothing else.
struct Attack {
  std::string name;
  Delivery delivery;
  Reach reach;
  Relations who{Relation::foe};       ///< whom it strikes, seen from the attacker
  Relations stopped_by;               ///< bodies of these relations stop a ray without being struck
  std::vector<std::string> tags;      ///< what the attack is: bodies immune to one of them are passed
  std::vector<std::string> needs;     ///< tags that a target must have, all of them
  std::vector<std::string> forbids;   ///< tags that a target must not have, none of them
  std::vector<Condition> conditions;  ///< on numbers; all of them must hold
  std::vector<std::string> rules;     ///< the game's own, by name: all of them must let it through
  std::optional<Sight> sight;         ///< an area: whom it must see; a guided shot: what it loses sight by
  /// An area: how many bodies at most; one that lasts: at once; a swing or a dash: in all.
  std::optional<std::uint32_t> cap;
  Order order;  ///< whom a cap takes first, or a guided shot that picks anew; the nearest unless said
  ZoneRule zone = ZoneRule::first;
  double power = 1;         ///< before any factor
  double level_factor = 1;  ///< of its power: what a level makes of it
  /// Of its power, by the distance from its origin; of a shot: flown.
  std::optional<Falloff> by_distance;
  std::optional<Critical> critical;  ///< of its power, each strike anew
  std::optional<double>
      facing_within;               ///< a warning when the attacker faces farther away from its aim, radians
  std::vector<Effect> effects;     ///< of each strike
  std::vector<Effect> at_release;  ///< on the attacker, each time that it is released
  EffectOrder effect_order = EffectOrder::by_target;
  std::optional<Readiness> ready;  ///< when a launch may come at all
  std::optional<Windup> windup;    ///< of a launch: between its start and its release
  std::optional<Burst> burst;      ///< several rounds
  double stagger_s = 0;  ///< an area in one instant: its strikes come one after the other, so long apart
  std::vector<Then> then;

  friend bool operator==(const Attack&, const Attack&) = default;
};

inline bool operator==(const Then& a, const Then& b) {
  return a.when == b.when && a.distance == b.distance && a.delay_s == b.delay_s && a.attacks == b.attacks;
}

/// Everything that is wrong with the attack by itself.
Problems check(const Attack& attack);

}  // namespace dardo
