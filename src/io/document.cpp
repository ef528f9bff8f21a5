#include "io/detail/document.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "geometry/detail/check_rows.hpp"

namespace dardo::io::detail {
namespace {

constexpr std::size_t kDeepest = 64;

/// Reads characters and knows the line of the last one read. The parser reports a value right after its last
/// character, or one character later, which still belongs to the same line.
class CountingIterator {
 public:
  using difference_type = std::ptrdiff_t;
  using value_type = char;
  using pointer = const char*;
  using reference = const char&;
  using iterator_category = std::input_iterator_tag;

  CountingIterator(const char* at, int* line) : at_(at), line_(line) {}
  reference operator*() const { return *at_; }
  CountingIterator& operator++() {
    // The line feed itself belongs to the line it ends: count it when the next character is taken.
    *line_ += pending_ ? 1 : 0;
    pending_ = *at_ == '\n';
    ++at_;
    return *this;
  }
  CountingIterator operator++(int) {
    CountingIterator old = *this;
    ++*this;
    return old;
  }
  friend bool operator==(const CountingIterator& a, const CountingIterator& b) { return a.at_ == b.at_; }

 private:
  const char* at_;
  int* line_;
  bool pending_ = false;
};

class Builder : public nlohmann::json_sax<nlohmann::json> {
 public:
  Builder(std::string_view text, std::string_view name, const int& line)
      : text_(text), name_(name), line_(line) {}

  Node root;
  std::vector<FileProblem> problems;

  bool null() override {
    return add(Node::Kind::null, [](Node&) {});
  }
  bool boolean(bool v) override {
    return add(Node::Kind::boolean, [&](Node& n) { n.boolean = v; });
  }
  bool number_integer(number_integer_t v) override { return number(static_cast<double>(v)); }
  bool number_unsigned(number_unsigned_t v) override { return number(static_cast<double>(v)); }
  bool number_float(number_float_t v, const string_t&) override { return number(v); }
  bool string(string_t& v) override {
    return add(Node::Kind::string, [&](Node& n) { n.text = std::move(v); });
  }
  bool binary(binary_t&) override { return false; }
  bool start_object(std::size_t) override { return open(Node::Kind::object); }
  bool key(string_t& v) override {
    keys_.back() = v;
    if (open_.back()->find(v) != nullptr) {
      problems.push_back({std::string(name_), line_, pointer(),
                          fmt::format("is there twice: \"{}\"", excerpt(v)), "each key once"});
    }
    return true;
  }
  bool end_object() override { return close(); }
  bool start_array(std::size_t) override { return open(Node::Kind::array); }
  bool end_array() override { return close(); }

  bool parse_error(std::size_t position, const std::string&, const nlohmann::json::exception& e) override {
    const std::size_t at = std::min(position, text_.size());
    const auto line = 1 + std::count(text_.begin(), text_.begin() + static_cast<std::ptrdiff_t>(at), '\n');
    // The parser's message is "[id] parse error at line 1, column 2: what; last read: 'x'".
    std::string what = e.what();
    if (const auto colon = what.find(": "); colon != std::string::npos) what.erase(0, colon + 2);
    if (const auto tail = what.find("; last read"); tail != std::string::npos) what.resize(tail);
    problems.push_back({std::string(name_), static_cast<int>(line), "",
                        "is not JSON: " + excerpt(what) + ", near \"" + excerpt(near(at)) + "\"",
                        "JSON (// and /* */ comments are allowed)"});
    return false;
  }

 private:
  std::string_view near(std::size_t at) const {
    const std::size_t from = at > 12 ? at - 12 : 0;
    return text_.substr(from, std::min<std::size_t>(24, text_.size() - from));
  }

  std::string pointer() const {
    std::string out;
    for (std::size_t i = 0; i < open_.size(); ++i) {
      out +=
          open_[i]->kind == Node::Kind::object ? step(keys_[i]) : fmt::format("/{}", open_[i]->items.size());
    }
    return out;
  }

  template <class Fill>
  bool add(Node::Kind kind, Fill fill) {
    Node* node = &root;
    if (!open_.empty()) {
      Node& parent = *open_.back();
      if (parent.kind == Node::Kind::object) {
        node = &add_member(parent, keys_.back());
      } else {
        node = &parent.items.emplace_back();
      }
    }
    node->kind = kind;
    node->line = line_;
    fill(*node);
    last_ = node;
    return true;
  }
  bool number(double v) {
    return add(Node::Kind::number, [&](Node& n) { n.number = v; });
  }
  bool open(Node::Kind kind) {
    if (open_.size() >= kDeepest) {
      problems.push_back({std::string(name_), line_, "",
                          fmt::format("is nested deeper than {} levels", kDeepest),
                          "a scene, which needs far fewer"});
      return false;
    }
    add(kind, [](Node&) {});
    open_.push_back(last_);
    keys_.emplace_back();
    return true;
  }
  bool close() {
    open_.pop_back();
    keys_.pop_back();
    return true;
  }

  std::string_view text_, name_;
  const int& line_;
  std::vector<Node*> open_;  // a parent's list does not grow while a child is open, so the pointers stay good
  std::vector<std::string> keys_;
  Node* last_ = nullptr;
};

}  // namespace

const Node* Node::find(std::string_view key) const {
  if (!places.empty()) {
    const auto found = places.find(std::string(key));
    return found == places.end() ? nullptr : &members[found->second].value;
  }
  for (const auto& [name, value] : members) {
    if (name == key) return &value;
  }
  return nullptr;
}

Node& add_member(Node& object, const std::string& key) {
  constexpr std::size_t kFew = 16;
  object.members.push_back(Member{key, Node{}});
  if (object.members.size() == kFew) {
    for (std::size_t i = 0; i < kFew; ++i) object.places.emplace(object.members[i].key, i);
  } else if (object.members.size() > kFew) {
    object.places.emplace(key, object.members.size() - 1);
  }
  return object.members.back().value;
}

std::string describe(const Node& node) {
  switch (node.kind) {
    case Node::Kind::null: return "nothing (null)";
    case Node::Kind::boolean: return node.boolean ? "true" : "false";
    case Node::Kind::number: return fmt::format("the number {}", node.number);
    case Node::Kind::string: return fmt::format("the text \"{}\"", excerpt(node.text));
    case Node::Kind::array: return fmt::format("a list of {}", node.items.size());
    case Node::Kind::object: return "an object";
  }
  return {};
}

FileResult<Node> parse_document(std::string_view text, std::string_view name) {
  if (text.find_first_not_of(" \t\r\n") == std::string_view::npos) {
    return tl::unexpected(std::vector<FileProblem>{{std::string(name), 0, "", "is empty", "a JSON object"}});
  }
  int line = 1;
  Builder builder(text, name, line);
  const CountingIterator first(text.data(), &line), last(text.data() + text.size(), &line);
  const bool read =
      nlohmann::json::sax_parse(first, last, &builder, nlohmann::json::input_format_t::json, true, true);
  if (!read && builder.problems.empty()) {
    builder.problems.push_back({std::string(name), 0, "", "is not JSON", "a JSON object"});
  }
  if (!builder.problems.empty()) return tl::unexpected(std::move(builder.problems));
  return std::move(builder.root);
}

std::string unescaped(std::string_view step) {
  std::string out;
  for (std::size_t i = 0; i < step.size(); ++i) {
    const bool escape = step[i] == '~' && i + 1 < step.size();
    out += !escape ? step[i] : step[i + 1] == '1' ? '/' : '~';
    i += escape;
  }
  return out;
}

int line_of(const Node& root, std::string_view pointer) {
  const Node* node = &root;
  while (!pointer.empty()) {
    pointer.remove_prefix(1);
    const auto end = std::min(pointer.find('/'), pointer.size());
    const std::string_view key = pointer.substr(0, end);
    pointer.remove_prefix(end);
    const Node* next = nullptr;
    if (node->kind == Node::Kind::array) {
      std::size_t index = 0;
      for (const char c : key) index = index * 10 + static_cast<std::size_t>(c - '0');
      if (index < node->items.size()) next = &node->items[index];
    } else {
      next = node->find(unescaped(key));
    }
    if (next == nullptr) break;
    node = next;
  }
  return node->line;
}

std::string step(std::string_view key) { return dardo::detail::pointer_step(key); }

std::string excerpt(std::string_view text) {
  std::string out;
  for (const char c : text.substr(0, 60)) out += c >= ' ' && c <= '~' ? c : '?';
  if (text.size() > 60) out += "...";
  return out;
}

}  // namespace dardo::io::detail
