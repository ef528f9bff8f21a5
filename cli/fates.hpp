#pragma once
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/record/outcome.hpp"

namespace dardo::cli {

/// What came of a launch for a body: a strike, or why there was none. Refers to the outcome.
struct Fate {
  const Outcome* outcome;
  const Verdict* verdict;  ///< of a body that was not struck
  const Strike* strike;
  std::size_t number = 0;  ///< of the strike, from 1

  BodyId body() const { return strike != nullptr ? strike->body : verdict->body; }
  double power() const { return strike != nullptr ? strike->power.arriving() : 0; }
  std::optional<double> distance() const;
};

/// Which fates are shown; `near`: of those who were nearly struck.
enum class Only { all, struck, spared, near };
/// In which order; `fate`: struck first as they were struck, the others as the scene has them.
enum class SortBy { fate, name, distance, power, margin };

/// From the words of the command line: "" or "struck", "spared", "near".
Only only_of(const std::string& word);
/// "" or "name", "distance", "power", "margin".
SortBy sort_of(const std::string& word);

/// Every strike, and everybody who was not struck.
std::vector<Fate> fates_of(const Outcome& outcome, const Arena& arena, Only only, SortBy by);

/// For machines, one line for each fate: values separated by commas (RFC 4180, with a line of names first),
/// or one JSON object each. What is not known of a fate is left empty, or out.
std::string fates_csv(std::span<const Fate> fates, const Arena& arena);
std::string fates_json_lines(std::span<const Fate> fates, const Arena& arena);

}  // namespace dardo::cli
