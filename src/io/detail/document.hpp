#pragma once
#include <string>
#include <string_view>
#include <unordered_map>
#include <utility>
#include <vector>

#include "dardo/io/problem.hpp"

namespace dardo::io::detail {

struct Member;

/// A JSON value that knows the line it starts on.
struct Node {
  enum class Kind { null, boolean, number, string, array, object };

  Kind kind = Kind::null;
  bool boolean = false;
  double number = 0;
  std::string text;
  std::vector<Node> items;
  std::vector<Member> members;  ///< in the order of the file
  int line = 0;
  /// Of an object with many members: where each key is.
  std::unordered_map<std::string, std::size_t> places;

  const Node* find(std::string_view key) const;
};

struct Member {
  std::string key;
  Node value;
};

/// Adds a member at the end; its key must be new.
Node& add_member(Node& object, const std::string& key);

/// "a list", "the number 3", "nothing (null)": for messages.
std::string describe(const Node& node);

/// Parses JSON with // and /* */ comments. Keys that are there twice are problems, too.
FileResult<Node> parse_document(std::string_view text, std::string_view name);

/// The line of the value that a JSON pointer leads to, or of the last one on the way that exists.
int line_of(const Node& root, std::string_view pointer);

/// `key` as a step of a JSON pointer: "/" and the key, escaped (RFC 6901).
std::string step(std::string_view key);

/// The key that a step says, without its "/" (RFC 6901).
std::string unescaped(std::string_view step);

/// At most 60 characters of text, with what cannot be printed shown as '?'.
std::string excerpt(std::string_view text);

}  // namespace dardo::io::detail
