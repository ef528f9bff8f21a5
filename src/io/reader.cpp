#include "io/detail/reader.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

namespace dardo::io::detail {
namespace {

/// How many letters must change to make one word of the other (Levenshtein).
std::size_t edits(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  std::iota(row.begin(), row.end(), std::size_t{0});
  for (std::size_t i = 1; i <= a.size(); ++i) {
    std::size_t diagonal = row[0];
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const std::size_t above = row[j];
      row[j] = std::min({above + 1, row[j - 1] + 1, diagonal + (a[i - 1] == b[j - 1] ? 0 : 1)});
      diagonal = above;
    }
  }
  return row.back();
}

/// " did you mean ...?" or the whole list when it is short.
std::string suggestion(std::string_view word, const std::vector<std::string>& known) {
  const std::string* best = nullptr;
  std::size_t least = std::max<std::size_t>(2, word.size() / 3) + 1;
  for (const std::string& k : known) {
    const std::size_t d = word.size() > 64 ? least : edits(word, k);
    if (d < least) least = d, best = &k;
  }
  if (best != nullptr) return fmt::format("did you mean \"{}\"?", *best);
  if (known.empty()) return "one that is defined in this scene; it has none";
  if (known.size() > 12) return fmt::format("one of the {} that there are", known.size());
  return fmt::format("one of {}", fmt::join(known, ", "));
}

}  // namespace

void Reader::problem(const std::string& pointer, std::string what, std::string fix) {
  found_.push_back({name_, line_of(root_, pointer), pointer, std::move(what), std::move(fix)});
}

void Reader::problems(const std::string& pointer, const Problems& found) {
  for (const Problem& p : found) problem(pointer + p.where, p.what, p.fix);
}

void Reader::unknown_name(const std::string& pointer, std::string_view name, std::string_view kind,
                          const std::vector<std::string>& known) {
  // The nearest of many for each of many would take longer than reading does.
  constexpr std::size_t kMostSuggestions = 50;
  problem(pointer, fmt::format("is not {} of this scene: \"{}\"", kind, excerpt(name)),
          ++unknown_ <= kMostSuggestions ? suggestion(name, known) : std::string("a name that is there"));
}

std::vector<FileProblem> Reader::take() {
  std::stable_sort(found_.begin(), found_.end(),
                   [](const FileProblem& a, const FileProblem& b) { return a.line < b.line; });
  return std::move(found_);
}

std::optional<double> Reader::number(const Place& place) {
  if (place.node->kind == Node::Kind::number) return place.node->number;
  problem(place.pointer, "is " + describe(*place.node), "a number");
  return std::nullopt;
}

namespace {

/// Whether a text begins with a character that is not printed but obeyed: a control character, one that
/// separates lines or paragraphs, or one that turns the direction of what follows. Among the bytes of UTF-8
/// none of these sequences stands for anything else.
bool is_control(std::string_view text) {
  const auto byte = [&](std::size_t i) { return i < text.size() ? static_cast<unsigned char>(text[i]) : 0u; };
  const unsigned first = byte(0), second = byte(1), third = byte(2);
  if (first < 0x20 || first == 0x7f) return true;
  if (first == 0xc2) return second < 0xa0;   // U+0080 to U+009F
  if (first == 0xd8) return second == 0x9c;  // U+061C
  if (first != 0xe2) return false;
  if (second == 0x80)
    return third == 0x8e || third == 0x8f ||
           (third >= 0xa8 && third <= 0xae);                // U+200E, U+200F, U+2028 to U+202E
  return second == 0x81 && third >= 0xa6 && third <= 0xa9;  // U+2066 to U+2069
}

}  // namespace

bool Reader::is_printable(const std::string& pointer, std::string_view text) {
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (!is_control(text.substr(i))) continue;
    problem(pointer, "holds a control character: \"" + excerpt(text) + "\"", "text that can be printed");
    return false;
  }
  return true;
}

std::optional<std::string> Reader::text(const Place& place) {
  if (place.node->kind == Node::Kind::string) {
    if (!is_printable(place.pointer, place.node->text)) return std::nullopt;
    return place.node->text;
  }
  problem(place.pointer, "is " + describe(*place.node), "text in quotes");
  return std::nullopt;
}

std::optional<std::string> Reader::name(const Place& place) {
  auto got = text(place);
  if (got && (got->empty() || got->size() > 64)) {
    problem(place.pointer, fmt::format("is a name of {} characters", got->size()), "1 to 64 characters");
    return std::nullopt;
  }
  return got;
}

std::optional<bool> Reader::boolean(const Place& place) {
  if (place.node->kind == Node::Kind::boolean) return place.node->boolean;
  problem(place.pointer, "is " + describe(*place.node), "true or false");
  return std::nullopt;
}

std::optional<std::vector<double>> Reader::numbers(const Place& place, std::size_t count) {
  const Node& node = *place.node;
  const std::string fix = fmt::format("a list of {} numbers", count);
  if (node.kind != Node::Kind::array || node.items.size() != count) {
    problem(place.pointer, "is " + describe(node), fix);
    return std::nullopt;
  }
  std::vector<double> out;
  for (std::size_t i = 0; i < count; ++i) {
    if (const auto v = number({&node.items[i], fmt::format("{}/{}", place.pointer, i)})) out.push_back(*v);
  }
  if (out.size() != count) return std::nullopt;
  return out;
}

std::optional<Vec3> Reader::vec3(const Place& place) {
  const auto v = numbers(place, 3);
  if (!v) return std::nullopt;
  return Vec3{(*v)[0], (*v)[1], (*v)[2]};
}

std::vector<std::string> Reader::names(const Place& place) {
  std::vector<std::string> out;
  for (const Place& item : items(place)) {
    if (auto n = name(item)) out.push_back(std::move(*n));
  }
  return out;
}

std::optional<std::size_t> Reader::word(const Place& place, const std::vector<std::string>& words) {
  if (place.node->kind == Node::Kind::string) {
    const auto found = std::find(words.begin(), words.end(), place.node->text);
    if (found != words.end()) return static_cast<std::size_t>(found - words.begin());
    problem(place.pointer, "is " + describe(*place.node), suggestion(place.node->text, words));
  } else {
    problem(place.pointer, "is " + describe(*place.node), fmt::format("one of {}", fmt::join(words, ", ")));
  }
  return std::nullopt;
}

std::vector<Place> Reader::items(const Place& place) {
  std::vector<Place> out;
  if (place.node->kind != Node::Kind::array) {
    problem(place.pointer, "is " + describe(*place.node), "a list in brackets");
    return out;
  }
  for (std::size_t i = 0; i < place.node->items.size(); ++i) {
    out.push_back({&place.node->items[i], fmt::format("{}/{}", place.pointer, i)});
  }
  return out;
}

std::vector<std::pair<std::string, Place>> Reader::members(const Place& place) {
  std::vector<std::pair<std::string, Place>> out;
  if (place.node->kind != Node::Kind::object) {
    problem(place.pointer, "is " + describe(*place.node), "an object in braces");
    return out;
  }
  for (const auto& [key, value] : place.node->members) {
    const std::string pointer = place.pointer + step(key);
    if (key.empty() || key.size() > 64) {
      problem(pointer, fmt::format("is a name of {} characters", key.size()), "1 to 64 characters");
    }
    (void)is_printable(pointer, key);
    out.emplace_back(key, Place{&value, pointer});
  }
  return out;
}

Fields::Fields(Reader& reader, const Place& place, std::vector<std::string> known)
    : reader_(reader), place_(place), object_(place.node->kind == Node::Kind::object) {
  if (!object_) {
    reader.problem(place.pointer, "is " + describe(*place.node), "an object in braces");
    return;
  }
  for (const auto& [key, value] : place.node->members) {
    if (std::find(known.begin(), known.end(), key) == known.end()) {
      all_known_ = false;
      reader.problem(place.pointer + step(key), "is not a key that is known here", suggestion(key, known));
    }
  }
}

bool Fields::has(std::string_view key) const { return object_ && place_.node->find(key) != nullptr; }

std::optional<Place> Fields::at(std::string_view key) const {
  if (!has(key)) return std::nullopt;
  return Place{place_.node->find(key), place_.pointer + step(key)};
}

std::optional<Place> Fields::need(std::string_view key, std::string_view what) const {
  if (object_ && !has(key)) {
    reader_.problem(place_.pointer, fmt::format("has no \"{}\"", key), std::string(what));
  }
  return at(key);
}

}  // namespace dardo::io::detail
