#pragma once
#include "resolve/carriers/area.hpp"
#include "resolve/carriers/ray.hpp"

// The one list of the kinds of deliveries.
namespace dardo::detail {

/// Whether it is carried by shots; else it comes about in one instant.
inline bool flies(const Attack& attack) { return std::holds_alternative<ShotDelivery>(attack.delivery); }

/// Calls `visit(carrier)` with that of an instant's kind.
template <class Visit>
void with_carrier(const Act& act, const Moment& moment, Outcome& outcome, Visit&& visit) {
  std::visit(
      [&](const auto& delivery) {
        using Kind = std::remove_cvref_t<decltype(delivery)>;
        if constexpr (std::is_same_v<Kind, RayDelivery>) visit(RayCarrier(act, moment, outcome));
        if constexpr (std::is_same_v<Kind, AreaDelivery>) visit(AreaCarrier(act, moment, outcome));
      },
      act.attack.delivery);
}

/// Whether a launch of it has to be aimed along some direction, or at a point.
struct Needs {
  bool direction = false, point = false;
};
inline Needs needs_of(const RayDelivery&) { return {.direction = true}; }
inline Needs needs_of(const ShotDelivery&) { return {.direction = true}; }
inline Needs needs_of(const AreaDelivery& area) {
  return {.point = area.around == AreaDelivery::Around::aim};
}
inline Needs needs_of(const Attack& attack) {
  return std::visit([](const auto& delivery) { return needs_of(delivery); }, attack.delivery);
}

}  // namespace dardo::detail
