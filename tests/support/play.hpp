#pragma once
#include <algorithm>
#include <string>
#include <vector>

#include "support/situation.hpp"

// Situations played in a running game, in one way or another, and what of two plays is not the same.
namespace dardo::test {

/// What came of a play: enough to hold two of them against each other. Times are since the launch.
struct Played {
  std::vector<Strike> strikes;
  std::vector<ShotEnd> ends;
  std::vector<LimitMet> limits_met;
  std::vector<Happening> happenings;
  bool restored = true;  ///< what was saved was read again
};

struct Way {
  const char* name;
  double hertz;  ///< 0: irregular
  bool by_moves = false, saved = false, beside_another = false;
  double later = 0;      ///< seconds of play before the launch, and before everything else that happens
  bool winking = false;  ///< everybody falls and stands up again between every two ticks
};

Played play(const Recipe& recipe, const Way& way, const Carry& carry = {});
/// A situation that has been made for this way: with its tracks apart, if bodies are moved along them.
Played play(Situation s, const Way& way);

/// Strikes that are not the same, in words: nothing when all are. Bodies are the same by their ids.
std::string differ(const Situation& a, const std::vector<Strike>& of_a, const Situation& b,
                   const std::vector<Strike>& of_b, double same_time = 1e-6, double same_place = 1e-4);
std::string differ(const Situation& s, const std::vector<ShotEnd>& a, const std::vector<ShotEnd>& b);
std::string differ(const std::vector<LimitMet>& a, const std::vector<LimitMet>& b);
/// What releases and statuses do.
std::string differ(const Situation& a, const std::vector<Happening>& of_a, const Situation& b,
                   const std::vector<Happening>& of_b, double same_time = 1e-6);

std::string say(const Situation& s, const Strike& k);

/// Whether it holds of the attack, or of one within it.
template <class Holds>
bool any_attack(const Attack& a, const Holds& holds) {
  if (holds(a)) return true;
  for (const Then& t : a.then) {
    if (std::any_of(t.attacks.begin(), t.attacks.end(),
                    [&](const Attack& child) { return any_attack(child, holds); }))
      return true;
  }
  return false;
}
/// Whether it holds of a shot of the attack, or of one within it.
template <class Holds>
bool any_shot(const Attack& a, const Holds& holds) {
  return any_attack(a, [&](const Attack& one) {
    const auto* shot = std::get_if<ShotDelivery>(&one.delivery);
    return shot != nullptr && holds(*shot);
  });
}
/// It stays for a time.
inline bool lasts(const Attack& a) {
  const auto* area = std::get_if<AreaDelivery>(&a.delivery);
  return area != nullptr ? area->lasts.has_value()
                         : std::holds_alternative<SwingDelivery>(a.delivery) ||
                               std::holds_alternative<TrapDelivery>(a.delivery) ||
                               std::holds_alternative<DashDelivery>(a.delivery);
}
inline bool dashes(const Attack& a) { return std::holds_alternative<DashDelivery>(a.delivery); }
inline bool swings(const Attack& a) { return std::holds_alternative<SwingDelivery>(a.delivery) || dashes(a); }
inline bool foresees(const ShotDelivery& shot) { return shot.foreseen; }
inline bool has_shape(const ShotDelivery& shot) { return shot.shape.has_value(); }
inline bool homes(const ShotDelivery& shot) { return std::holds_alternative<GuidedPath>(shot.path); }
/// Its way is integrated, or followed, in steps.
inline bool bends(const ShotDelivery& shot) {
  const auto* falling = std::get_if<FallingPath>(&shot.path);
  return homes(shot) || std::holds_alternative<CurvePath>(shot.path) ||
         (falling != nullptr && falling->drag > 0);
}
inline bool draws(const ShotDelivery& shot) {
  return shot.volley.spread != Volley::Spread::none || shot.volley.speed_variation > 0 ||
         shot.ricochet.jitter > 0;
}
/// Its effects come by chance, or by rolls.
inline bool rolls(const Attack& a) {
  const auto rolled = [](const auto& what) {
    if constexpr (requires { what.up_to; }) return what.up_to.has_value();
    return false;
  };
  const auto by_chance = [&](const Effect& e) {
    const auto* status = std::get_if<Status>(&e.what);
    const bool ticks = status != nullptr && status->ticks &&
                       std::any_of(status->ticks->effects.begin(), status->ticks->effects.end(),
                                   [&](const TickEffect& t) { return std::visit(rolled, t); });
    return e.chance < 1 || ticks || std::visit(rolled, e.what);
  };
  return a.critical.has_value() || std::any_of(a.effects.begin(), a.effects.end(), by_chance) ||
         std::any_of(a.at_release.begin(), a.at_release.end(), by_chance);
}
inline bool draws_anything(const Attack& attack) {
  return any_attack(attack, [](const Attack& a) {
    if (rolls(a)) return true;
    const auto* ray = std::get_if<RayDelivery>(&a.delivery);
    const auto* shot = std::get_if<ShotDelivery>(&a.delivery);
    return ray != nullptr ? ray->ricochet.jitter > 0 : shot != nullptr && draws(*shot);
  });
}

}  // namespace dardo::test
