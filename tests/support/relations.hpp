#pragma once
#include <string>

#include "support/situation.hpp"

namespace dardo::test {

/// What must not change, or only in one direction, when a situation is changed: mirrored, turned, moved, its
/// bodies in another order, a wall cut in two, an area made larger... Nothing, or the first that does not
/// hold.
std::string relate(const Recipe& recipe, const Situation& s, const Outcome& full);

/// Why bodies were not struck, where that is not the same; by their ids.
std::string differ_in_reasons(const Situation& a, const Outcome& of_a, const Situation& b,
                              const Outcome& of_b);

/// What holds of any outcome by itself.
std::string check_outcome(const Situation& s, const Outcome& out);

}  // namespace dardo::test
