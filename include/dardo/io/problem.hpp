#pragma once
#include <string>
#include <tl/expected.hpp>
#include <vector>

namespace dardo::io {

/// One thing that is wrong with a file, and where.
struct FileProblem {
  std::string file;
  int line = 0;         ///< from 1; 0 when it concerns no line
  std::string pointer;  ///< JSON pointer: "/bodies/3/build"; empty for the whole file
  std::string what;
  std::string fix;  ///< what would be right; may be empty

  friend bool operator==(const FileProblem&, const FileProblem&) = default;
};

/// "harbour.json:42: /bodies/3/build is not a build of this scene: \"dekhand\"; did you mean \"deckhand\"?"
std::string text(const FileProblem& problem);

/// What was read, or everything that is wrong with the file; never an empty list.
template <class T>
using FileResult = tl::expected<T, std::vector<FileProblem>>;

}  // namespace dardo::io
