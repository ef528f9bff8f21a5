#pragma once
#include "dardo/geometry/vec.hpp"
#include "dardo/rows.hpp"

// The ranges that rows have in common.
namespace dardo::units {

inline constexpr double kPi = 3.14159265358979323846, kDegree = kPi / 180;

inline constexpr Range metres{Unit::metres, 0, kMaxCoordinate};
inline constexpr Range some_metres{Unit::metres, 0, kMaxCoordinate, true};
inline constexpr Range half_extent{Unit::metres, 0, kMaxCoordinate, false, false, 0.5};
inline constexpr Range coordinate{Unit::metres, -kMaxCoordinate, kMaxCoordinate};
inline constexpr Range seconds{Unit::seconds, 0, 1e6};
inline constexpr Range some_seconds{Unit::seconds, 1e-6, 1e6};
inline constexpr Range moment{Unit::seconds, -1e9, 1e9};
inline constexpr Range speed{Unit::speed, 1e-6, 1e6};
inline constexpr Range speed_or_none{Unit::speed, 0, 1e6};
inline constexpr Range acceleration{Unit::acceleration, -1e6, 1e6};
inline constexpr Range factor{Unit::factor, 0, 1e9};
inline constexpr Range amount{Unit::plain, 0, 1e12};
inline constexpr Range any_amount{Unit::plain, -1e12, 1e12};
inline constexpr Range power{Unit::factor, -1e9, 1e9};
inline constexpr Range share{Unit::share, 0, 1};
inline constexpr Range gravity_share{Unit::share, -1000, 1000};
inline constexpr Range part{Unit::share, 0, 0.99};
inline constexpr Range drag{Unit::per_metre, 0, 1000};
inline constexpr Range half_turn{Unit::angle, 0, kPi, false, false, kDegree};
inline constexpr Range whole_turn{Unit::angle, 0, 2 * kPi, false, false, kDegree};
inline constexpr Range any_turn{Unit::angle, -1e6, 1e6, false, false, kDegree};
inline constexpr Range turn_rate{Unit::turn_rate, 1e-6 * kDegree, 1e6 * kDegree, false, false, kDegree};
inline constexpr Range free_text{Unit::text};
constexpr Range count(double least, double most) { return {Unit::count, least, most}; }
constexpr Range endless(Range r) {
  r.endless = true;
  return r;
}

}  // namespace dardo::units
