#pragma once
#include <string>
#include <tl/expected.hpp>
#include <vector>

namespace dardo {

/// One thing that is wrong with what was handed over.
///
/// `where` is a JSON pointer relative to the checked object ("/hitboxes/0/ball/radius"; empty for the
/// object itself): a reader of files puts the path to the object in front of it.
struct Problem {
  std::string where;
  std::string what;  ///< what is wrong: "is -1"
  std::string fix;   ///< what would be right: "a length in metres, 0 or more"

  friend bool operator==(const Problem&, const Problem&) = default;
};

using Problems = std::vector<Problem>;

/// A value, or everything that was wrong with the input; never an empty list of problems.
template <class T>
using Result = tl::expected<T, Problems>;

}  // namespace dardo
