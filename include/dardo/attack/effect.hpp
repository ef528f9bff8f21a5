#pragma once
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <type_traits>
#include <utility>
#include <variant>
#include <vector>

#include "dardo/attack/falloff.hpp"
#include "dardo/geometry/vec.hpp"

// What a strike does besides reaching a body. Dardo says what, when and how much; the game applies it, or the
// ledger does.
namespace dardo {

/// A strike pushes the body, once however many hitboxes it touches.
struct Push {
  enum class Toward : std::uint8_t {
    outward,  ///< from the centre of what strikes to the body's origin
    along,    ///< `direction`, in the world
    blow,     ///< against the normal where it is touched
  };
  enum class As : std::uint8_t { velocity, impulse };

  double strength = 1;  ///< m/s, or N s; below 0 it pulls
  As as = As::velocity;
  Falloff falloff;  ///< by the distance from the centre of what strikes to the point that it touches
  Toward toward = Toward::outward;
  Vec3 direction{0, 0, 1};     ///< with `along`; else of a body whose origin is the very centre
  std::string mass = "mass";   ///< the number of a body that an impulse is divided by
  bool by_share_seen = false;  ///< less by the share of it that is seen

  friend bool operator==(const Push&, const Push&) = default;
};

/// How an amount becomes a whole number, as the last step of all; halves go away from 0.
enum class Rounding : std::uint8_t { none, nearest, down, up };

/// Takes so much of a number. What arrives is, in this order: the amount, or one rolled evenly from `amount`
/// to `up_to`; times the strike's power; less the armour of the body against the kind, never below 0; times
/// its factors against the kind; at least its floor against it, where anything was dealt and no factor is 0;
/// rounded.
struct Damage {
  double amount = 1;
  std::optional<double> up_to;
  std::string kind;             ///< that bodies resist, or are weak to; empty: none
  std::string from = "health";  ///< of which number of the body it is taken; at 0 the body falls
  bool by_power = true;         ///< times the strike's power
  Rounding round = Rounding::none;

  friend bool operator==(const Damage&, const Damage&) = default;
};

/// Gives so much to a number.
struct Heal {
  double amount = 1;
  std::optional<double> up_to;  ///< rolled evenly up to that
  std::string to = "health";
  std::string at_most;    ///< a number of the body that it does not rise beyond; empty: none
  bool by_power = false;  ///< times the strike's power
  Rounding round = Rounding::none;

  friend bool operator==(const Heal&, const Heal&) = default;
};

/// Changes a number by so much, or sets it.
struct Change {
  std::string number;
  double by = 0;
  std::optional<double> up_to;   ///< rolled evenly up to that
  std::optional<double> set_to;  ///< instead

  friend bool operator==(const Change&, const Change&) = default;
};

/// What the game knows by name, with a text that is handed through.
struct Custom {
  std::string name, text;

  friend bool operator==(const Custom&, const Custom&) = default;
};

/// What a status does each time that it ticks.
using TickEffect = std::variant<Damage, Heal, Change, Custom>;

/// When a status ticks: at its start, or only after an interval; at its very end, if that is a tick's time,
/// or not.
struct Ticks {
  double every_s = 1;
  bool at_start = false, at_end = true;
  std::vector<TickEffect> effects;

  friend bool operator==(const Ticks&, const Ticks&) = default;
};

/// A state that a body is in for a time. Its ticks go on at their exact times, with the power of the strike
/// that gave it; it is over when its body falls.
struct Status {
  /// What becomes of one that the body has already.
  enum class Again : std::uint8_t {
    renew,  ///< it lasts at least as long from now; its ticks go on as they were
    keep,   ///< it stays as it is
    add,    ///< another one beside it, up to `most`
  };

  std::string name;
  double lasts_s = 1;  ///< infinity, without ticks: until something ends it
  Again again = Again::renew;
  std::uint32_t most = 1;           ///< with `add`: so many at once; of more the oldest is renewed
  std::vector<std::string> gives;   ///< tags that the body has meanwhile
  std::vector<std::string> takes;   ///< tags that it has not
  std::vector<std::string> immune;  ///< attacks with one of these tags do not strike it meanwhile
  std::vector<std::string> ends;    ///< statuses of the body that it ends as it begins
  std::optional<Ticks> ticks;

  friend bool operator==(const Status&, const Status&) = default;
};

using EffectKind = std::variant<Push, Damage, Heal, Change, Status, Custom>;

/// One effect of a strike, or of a release.
struct Effect {
  enum class On : std::uint8_t { struck, attacker };

  Effect() = default;
  template <class Kind>
  requires std::is_constructible_v<EffectKind, Kind> Effect(Kind kind) : what(std::move(kind)) {}

  EffectKind what;
  On on = On::struck;
  double chance = 1;                 ///< that it comes, for each strike anew
  std::vector<std::string> needs;    ///< tags that whom it is on must have, all of them
  std::vector<std::string> forbids;  ///< or must not have
  /// Keys its chance and rolls; those of one name, kind and number come one after the other. Other effects
  /// may come and go without changing them.
  std::string name;

  friend bool operator==(const Effect&, const Effect&) = default;
};

/// A factor of a strike's power that comes with a chance.
struct Critical {
  double chance = 0.1, factor = 2;

  friend bool operator==(const Critical&, const Critical&) = default;
};

/// In which order the effects of strikes at one instant come.
enum class EffectOrder : std::uint8_t {
  by_target,  ///< all on the first who is struck, then on the next
  by_effect,  ///< the first effect on all of them, then the next
};

}  // namespace dardo
