#pragma once
#include <map>
#include <string>

#include "support/situation.hpp"

namespace dardo::test {

/// What a run of trials has seen.
struct Tally {
  std::size_t situations = 0, striking = 0, degenerate = 0, generic = 0, costly = 0;
  std::map<std::string, std::size_t> seen;  ///< deliveries, paths, follow-ups, motions, and their pairs
};

/// What a situation has in it.
void count(Tally& tally, const Situation& s);

/// Runs a situation in all ways and holds the answers against each other: nothing, or the first thing that
/// does not hold, in words.
std::string try_all(const Recipe& recipe, Tally& tally);

/// The same recipe with as little in it as still has a complaint that starts with the same words.
Recipe shrunk(Recipe recipe, const std::string& complaint);

}  // namespace dardo::test
