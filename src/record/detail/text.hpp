#pragma once
#include <string>

#include "dardo/geometry/vec.hpp"

namespace dardo::detail {

/// A length for reading: two decimals, and two digits that count when it is shorter than a centimetre.
std::string metres(double length);
/// A number in as few digits as it takes, six at most: "9.5".
std::string short_number(double value);
/// A time: "1.25 s".
std::string seconds(double time);
/// A share: "25 %", "12.5 %".
std::string share(double part);
/// A place: "(4.20, 7.00, 1.10)".
std::string place(const Vec3& point);

}  // namespace dardo::detail
