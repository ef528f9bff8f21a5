#pragma once
#include <cstdint>

#include "dardo/problem.hpp"

namespace dardo {

/// What one launch may come to, with all that follows from it, so that every launch ends. Only what ticks
/// cannot change is counted. What is met is told: `Outcome::limits_met`, and a running game's `on_limit`.
struct Limits {
  std::uint32_t carriers = 10'000;  ///< shots, rays and areas that it begins; no more begin
  std::uint32_t alive = 10'000;  ///< of its shots, and what lasts or hops, at once; no more begin meanwhile
  std::uint32_t strikes = 100'000;  ///< beyond, nobody is struck: its shots end at whom they would strike
  std::uint32_t contacts = 50'000;  ///< instants in which its shots touch something; they end there
  std::uint32_t depth = 8;          ///< of what follows from what follows: deeper ones do not begin
  double flight_s = 3600;           ///< of each shot; it ends then

  friend bool operator==(const Limits&, const Limits&) = default;
};

/// Everything that is out of its range.
Problems check(const Limits& limits);

/// Which of them.
enum class Limit : std::uint8_t { carriers, alive, strikes, contacts, depth, flight };

/// That a launch has met one, for the first time.
struct LimitMet {
  Limit limit = Limit::carriers;
  double most = 0;           ///< its number
  double time_s = 0;         ///< since the launch; in a running game: since that began
  std::uint32_t launch = 0;  ///< in a running game: which launch

  friend bool operator==(const LimitMet&, const LimitMet&) = default;
};

}  // namespace dardo
