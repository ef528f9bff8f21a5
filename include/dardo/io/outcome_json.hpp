#pragma once
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/io/problem.hpp"
#include "dardo/record/outcome.hpp"

namespace dardo::io {

/// The outcomes as one JSON object, whose list "launches" holds them in order; indented, ends with a newline.
/// Numbers are written so that reading gives the same doubles again.
std::string outcomes_json(std::span<const Outcome> outcomes, const Arena& arena, std::string_view title);

/// Reads what `outcomes_json` wrote. `arena` must have the bodies and walls that are named.
FileResult<std::vector<Outcome>> parse_outcomes(std::string_view text, std::string_view name,
                                                const Arena& arena);

/// The JSON Schema (draft 7) of what `outcomes_json` writes.
std::string_view outcome_schema();

}  // namespace dardo::io
