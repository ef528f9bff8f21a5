#pragma once
#include <functional>
#include <initializer_list>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "dardo/geometry/vec.hpp"
#include "dardo/problem.hpp"
#include "io/detail/document.hpp"

namespace dardo::io::detail {

/// A value and the way to it.
struct Place {
  const Node* node;
  std::string pointer;
};

/// Collects all problems of one document.
class Reader {
 public:
  Reader(const Node& root, std::string_view name) : root_(root), name_(name) {}

  void problem(const std::string& pointer, std::string what, std::string fix);
  /// Problems that the core found, with paths relative to `pointer`.
  void problems(const std::string& pointer, const Problems& found);
  /// A name that is not among `known`; says which one may have been meant.
  void unknown_name(const std::string& pointer, std::string_view name, std::string_view kind,
                    const std::vector<std::string>& known);

  bool clean() const { return found_.empty(); }
  std::size_t count() const { return found_.size(); }
  /// In the order of the file.
  std::vector<FileProblem> take();

  std::optional<double> number(const Place& place);
  std::optional<std::string> text(const Place& place);
  /// Whether it holds no control character, which a terminal would obey; with a problem when it does.
  bool is_printable(const std::string& pointer, std::string_view text);
  /// Text that may serve as a name: 1 to 64 characters.
  std::optional<std::string> name(const Place& place);
  std::optional<bool> boolean(const Place& place);
  /// Exactly `count` numbers; the result has `count` elements.
  std::optional<std::vector<double>> numbers(const Place& place, std::size_t count);
  std::optional<Vec3> vec3(const Place& place);
  std::vector<std::string> names(const Place& place);
  /// Which of `words` it is.
  std::optional<std::size_t> word(const Place& place, const std::vector<std::string>& words);
  /// The places in a list; empty, with a problem, when it is none.
  std::vector<Place> items(const Place& place);
  /// Names and values of an object; names are checked.
  std::vector<std::pair<std::string, Place>> members(const Place& place);

 private:
  const Node& root_;
  std::string name_;
  std::vector<FileProblem> found_;
  std::size_t unknown_ = 0;
};

/// An object with known keys. Keys that are not known become problems at once.
class Fields {
 public:
  Fields(Reader& reader, const Place& place, std::vector<std::string> known);

  bool is_object() const { return object_; }
  /// Whether all of its keys are known.
  bool all_known() const { return all_known_; }
  bool has(std::string_view key) const;
  /// The value at `key`, or nothing.
  std::optional<Place> at(std::string_view key) const;
  /// The same, with a problem when it is missing.
  std::optional<Place> need(std::string_view key, std::string_view what) const;

 private:
  Reader& reader_;
  Place place_;
  bool object_;
  bool all_known_ = true;
};

}  // namespace dardo::io::detail
