#pragma once
#include "resolve/carriers/area.hpp"
#include "resolve/carriers/area_region.hpp"
#include "resolve/carriers/ray.hpp"

// The one list of the kinds of deliveries: what carries each, and what a launch of it needs. A delivery that
// is missing here does not compile.
namespace dardo::detail {

/// Whether a launch has to be aimed along some direction, at a point, or at a body.
struct Needs {
  bool direction = false, point = false, body = false;
  bool attacker = false;  ///< it is done by a body, not from a place
};

/// How what carries it goes: it comes about in one instant; as a flight; it stays for a time; or from body to
/// body.
enum class Goes : std::uint8_t { at_once, flies, lasts, hops };

template <class Delivery>
struct Kind;

template <>
struct Kind<RayDelivery> {
  static constexpr Goes goes(const RayDelivery&) { return Goes::at_once; }
  using Carrier = RayCarrier;
  static Needs needs(const RayDelivery&) { return {.direction = true}; }
};

template <>
struct Kind<AreaDelivery> {
  static Goes goes(const AreaDelivery& area) { return area.lasts ? Goes::lasts : Goes::at_once; }
  using Carrier = AreaCarrier;
  static std::optional<Region> region(const AreaDelivery& area) { return region_of(area.shape); }
  static Needs needs(const AreaDelivery& area) {
    return {.point = area.around == AreaDelivery::Around::aim,
            .body = area.lasts && area.lasts->on == Hangs::target};
  }
};

template <>
struct Kind<ShotDelivery> {
  static constexpr Goes goes(const ShotDelivery&) { return Goes::flies; }
  static Needs needs(const ShotDelivery&) { return {.direction = true}; }
};

template <>
struct Kind<SwingDelivery> {
  static constexpr Goes goes(const SwingDelivery&) { return Goes::lasts; }
  static Needs needs(const SwingDelivery& swing) { return {.body = swing.on == Hangs::target}; }
};

template <>
struct Kind<TrapDelivery> {
  static constexpr Goes goes(const TrapDelivery&) { return Goes::lasts; }
  static Needs needs(const TrapDelivery& trap) { return {.point = true, .body = trap.on == Hangs::target}; }
};

template <>
struct Kind<ChainDelivery> {
  static constexpr Goes goes(const ChainDelivery&) { return Goes::hops; }
  static Needs needs(const ChainDelivery&) { return {}; }
};

template <>
struct Kind<DashDelivery> {
  static constexpr Goes goes(const DashDelivery&) { return Goes::lasts; }
  static Needs needs(const DashDelivery& dash) { return {.body = dash.beside.has_value(), .attacker = true}; }
};

/// Calls `visit(kind, delivery)` with those of an attack.
template <class Visit>
decltype(auto) with_kind(const Attack& attack, Visit&& visit) {
  return std::visit(
      [&](const auto& delivery) -> decltype(auto) {
        return visit(Kind<std::remove_cvref_t<decltype(delivery)>>{}, delivery);
      },
      attack.delivery);
}

inline Goes goes(const Attack& attack) {
  return with_kind(attack, [](auto kind, const auto& delivery) { return kind.goes(delivery); });
}
/// What an attack covers at once, if it covers something that is no ball.
inline std::optional<Region> region_of(const Attack& attack) {
  return with_kind(attack, [](auto kind, const auto& delivery) -> std::optional<Region> {
    if constexpr (requires { kind.region(delivery); }) return kind.region(delivery);
    return std::nullopt;
  });
}
/// What it goes through and what it turns at, if it goes along a way.
inline std::pair<const Pierce*, const Ricochet*> what_it_meets(const Attack& attack) {
  return with_kind(attack, [](auto, const auto& delivery) -> std::pair<const Pierce*, const Ricochet*> {
    if constexpr (requires { delivery.pierce; }) return {&delivery.pierce, &delivery.ricochet};
    return {nullptr, nullptr};
  });
}
inline Needs needs_of(const Attack& attack) {
  return with_kind(attack, [](auto kind, const auto& delivery) { return kind.needs(delivery); });
}

/// Calls `visit(carrier)` with that of what comes about in one instant.
template <class Visit>
void with_carrier(const Act& act, const Moment& moment, Outcome& outcome, Visit&& visit) {
  with_kind(act.attack, [&](auto kind, const auto&) {
    if constexpr (requires { typename decltype(kind)::Carrier; }) {
      typename decltype(kind)::Carrier carrier(act, moment, outcome);
      visit(carrier);
    }
  });
}

}  // namespace dardo::detail
