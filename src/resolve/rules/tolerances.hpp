#pragma once
// All that the engine takes for the same, and how well it knows what it finds. How near counts as touching is
// geometry's: geometry/detail/tolerance.hpp.
namespace dardo::detail {

/// What comes no later than this after the earliest is one instant with it, seconds.
inline constexpr double kInstant = 1e-9;

/// What is no faster than this, m/s, stands still: its direction is rounding.
inline constexpr double kStill = 1e-9;

/// Places that differ by no more than this, metres, differ by rounding: no direction leads from the one to
/// the other, and of bodies at such distances the one created first comes first.
inline constexpr double kSamePlace = 0x1p-30;

/// Where a shot is when it touches something is known to this, metres: what starts there reaches that much
/// farther.
inline constexpr double kPlaceKnown = 2e-9;

/// To this, metres, an integrated way is known, or one along a curve: each of its steps, and each cubic that
/// stands for one. What a game could see is a thousand times as much.
inline constexpr double kWayKnown = 1e-7;
/// Where a cubic itself is at a time is known to this, metres.
inline constexpr double kCubicKnown = 1e-9;
/// No step is halved below this, seconds: where a law has a kink, as right at its target, it is cut across.
inline constexpr double kLeastStep = 1e-7;
/// No piece is shorter: its cubic would be nothing but rounding.
inline constexpr double kLeastPiece = 1e-9;

/// How far apart a hull and something else are is known to this, metres; what flies with a shape, to this
/// share of that.
inline constexpr double kHullKnown = 1e-9, kShapeKnown = 2e-9;

/// What flies along a surface flies into it by more than this share of its speed, as far as the normal is
/// known; one found between two shapes is known less well.
inline constexpr double kGraze = 1e-12, kGrazeOfShape = 1e-6;

/// By so much more than the tolerance of geometry, metres, is sought what may be touched.
inline constexpr double kTouchRoom = 2 * kPlaceKnown;

/// What is inside something that lasts is so until it is this far outside, metres: more than how well any two
/// shapes' distance is known. Just before a cone touches a box that has been seen off by 4e-7.
inline constexpr double kStillInside = 1e-6;

/// How near something misses is known to this, metres, and to this share.
inline constexpr double kMissKnown = 1e-7, kMissShare = 1e-4;

/// It is at rest on a surface that it is drawn to when it leaves that more slowly than this (m/s) and would
/// come no higher (m) before it is back.
inline constexpr double kRestSpeed = 1e-3, kRestHeight = 1e-6;

/// Strictly below a speed: less than it by more than rounding.
inline constexpr double below(double speed) { return speed * (1 - 1e-9); }

}  // namespace dardo::detail
