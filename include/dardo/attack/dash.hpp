#pragma once
#include <cstdint>
#include <optional>

namespace dardo {

/// The attacker itself moves: to where it is aimed, so far that way, or beside a body, without turning. It
/// strikes whomever its hitboxes touch on the way, once each, at the exact time; one that goes at once
/// strikes whom it touches where it lands.
///
/// While it lasts its body is carried along, whatever its track says, and stays where it comes to; a game
/// that moves it meanwhile ends the dash. Where it goes is decided as it begins, by where all are then. From
/// its origin to where that comes to is the attack's reach.
struct DashDelivery {
  enum class Side : std::uint8_t {
    near,   ///< where it comes from
    far,    ///< beyond it
    front,  ///< where it faces
    back,
  };
  /// What becomes of one that cannot come there.
  enum class Blocked : std::uint8_t {
    shortened,  ///< it comes as near as it can
    refused,    ///< it does not begin
  };

  std::optional<double> speed;     ///< m/s along the line to where it lands; nothing: at once
  std::optional<double> distance;  ///< so far toward its aim, metres, instead of to it
  std::optional<double> beside;    ///< beside the body aimed at, with so much room between them, metres
  Side side = Side::near;          ///< of that body; it lands on the level of its origin
  bool level = false;              ///< it stays on the height that it begins on, wherever it is aimed
  double rise = 0;                 ///< how high its way rises over the middle of that line, metres
  /// Walls that block feet, and the ground, do not stop it on the way: only where it lands there must be room
  /// for its hitboxes.
  bool through_walls = false;
  Blocked blocked = Blocked::shortened;

  friend bool operator==(const DashDelivery&, const DashDelivery&) = default;
};

}  // namespace dardo
