#include "dardo/io/describe.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "dardo/attack/rows.hpp"
#include "geometry/detail/check_rows.hpp"
#include "io/detail/document.hpp"
#include "io/detail/to_rows.hpp"

extern const std::string_view dardo_embedded_messages;

namespace dardo::io {
namespace {

/// What stands in a place: a text, and whether it says more than what is so anyhow.
struct Filling {
  std::string text;
  bool tells = true;
};
using Fillings = std::vector<std::pair<std::string, Filling>>;

const Filling* find(const Fillings& all, std::string_view name) {
  const auto is_it = [&](const auto& f) { return f.first == name; };
  // What is within goes before what it stands in.
  const auto at = std::find_if(all.rbegin(), all.rend(), is_it);
  return at != all.rend() ? &at->second : nullptr;
}

/// A sentence with its places filled; parts in brackets only where all their places tell something.
std::string filled(std::string_view sentence, const Fillings& places, bool& tells) {
  std::string out;
  for (std::size_t i = 0; i < sentence.size(); ++i) {
    const char c = sentence[i];
    if (c == '[') {
      const std::size_t end = sentence.find(']', i);
      bool all = true;
      const std::string part = filled(sentence.substr(i + 1, end - i - 1), places, all);
      if (all) out += part;
      i = end;
    } else if (c == '{') {
      const std::size_t end = sentence.find('}', i);
      const Filling* f = find(places, sentence.substr(i + 1, end - i - 1));
      if (f != nullptr) out += f->text;
      tells = tells && f != nullptr && f->tells;
      i = end;
    } else {
      out += c;
    }
  }
  return out;
}

/// Walks through an attack's rows and tells what it finds: each value that the data says goes into the
/// numbers, and into the sentences of what it belongs to.
class Teller {
 public:
  Teller(const Scene& scene, const Messages& messages)
      : messages_(messages), rows_(scene.arena, {scene.flat.has_value(), scene.y_down}), unit_(scene.unit) {}

  Description tell(const Attack& attack) {
    attack_name_ = attack.name;
    tell_attack(attack, "", 0);
    Fillings places{{"name", {attack.name, !attack.name.empty()}},
                    {"parts", {fmt::format("{}", fmt::join(short_, ", ")), !short_.empty()}}};
    const std::string* line = messages_.find("line");
    bool tells = true;
    out_.line = filled(line != nullptr ? *line : "{name}: {parts}", places, tells);
    return std::move(out_);
  }

 private:
  void tell_attack(const Attack& attack, const std::string& pointer, int depth) {
    const int before = depth_;
    depth_ = depth;
    tell_struct(attack, "attack", pointer);
    depth_ = before;
  }

  std::string word(std::string_view w) const {
    const std::string* said = messages_.find("words." + std::string(w));
    return said != nullptr ? *said : std::string(w);
  }

  std::string with_unit(double v, const Range& range) const {
    if (std::isinf(v)) return word("endless");
    const std::string n = dardo::detail::number_text(dardo::detail::in_files(v, range));
    switch (range.unit) {
      case Unit::metres: return n + " " + (unit_.empty() ? "m" : unit_);
      case Unit::seconds: return n + " s";
      case Unit::speed: return n + " m/s";
      case Unit::acceleration: return n + " m/s²";
      case Unit::angle: return n + "°";
      case Unit::turn_rate: return n + "°/s";
      case Unit::share: return dardo::detail::number_text(std::round(v * 1e4) / 100) + " %";
      case Unit::per_metre: return n + " /m";
      default: return n;
    }
  }

  template <class T>
  static constexpr bool kIsScalar =
      std::is_arithmetic_v<T> || std::is_same_v<T, std::string> || HasWords<T> ||
      detail::IsFlagSet<T>::value || std::is_same_v<T, std::vector<std::string>> ||
      std::is_same_v<T, std::vector<double>> || std::is_same_v<T, Vec3> || std::is_same_v<T, Rotation> ||
      std::is_same_v<T, Hull> || std::is_same_v<T, std::vector<Vec3>> ||
      std::is_same_v<T, std::vector<planar::Vec2>>;

  template <class T>
  std::string text_of(const T& v, const Range& range) const {
    if constexpr (std::is_same_v<T, bool>) {
      return word(v ? "yes" : "no");
    } else if constexpr (std::is_arithmetic_v<T>) {
      return with_unit(static_cast<double>(v), range);
    } else if constexpr (std::is_same_v<T, std::string>) {
      return v;
    } else if constexpr (HasWords<T>) {
      return word(word_of(v));
    } else if constexpr (detail::IsFlagSet<T>::value || std::is_same_v<T, std::vector<std::string>>) {
      std::vector<std::string> words;
      for (const auto& w : rows_.write(v, range)) words.push_back(word(w.template get<std::string>()));
      return fmt::format("{}", fmt::join(words, ", "));
    } else if constexpr (std::is_same_v<T, std::vector<double>>) {
      std::vector<std::string> numbers;
      for (const double n : v) numbers.push_back(with_unit(n, range));
      return fmt::format("{}", fmt::join(numbers, ", "));
    } else {
      return rows_.write(v, range).dump();
    }
  }

  template <class T>
  static bool is_standard(const T& v, const T& standard) {
    if constexpr (requires { v == standard; }) return v == standard;
    if constexpr (requires { v.empty(); }) return v.empty();
    return false;
  }

  /// What a struct's own scalars say, by their rows' names.
  template <class T>
  void fill(const T& v, Fillings& out) const {
    const T standard{};
    each_row<T>([&](const auto& r) {
      using Part = std::remove_cvref_t<decltype(v.*r.member)>;
      if constexpr (kIsInline<decltype(r)>) {
        if constexpr (!kIsVariant<Part>) fill(v.*r.member, out);
      } else if constexpr (kIsScalar<Part>) {
        const bool tells = r.needed || !is_standard(v.*r.member, standard.*r.member);
        const std::string text = text_of(v.*r.member, r.range);
        out.push_back({std::string(r.name), {text, tells && !text.empty()}});
      } else if constexpr (kIsOptional<Part>) {
        if constexpr (kIsScalar<typename Part::value_type>) {
          if (v.*r.member) out.push_back({std::string(r.name), {text_of(*(v.*r.member), r.range)}});
        }
      }
    });
  }

  void say(const std::string& key, const Fillings& places) {
    const auto told = [&](const std::string& k) -> std::optional<Told> {
      const std::string* sentence = messages_.find(k);
      if (sentence == nullptr) return std::nullopt;
      bool tells = true;
      Told t{.key = k, .places = {}, .text = filled(*sentence, places, tells), .depth = depth_};
      for (const auto& [name, f] : places) t.places.emplace_back(name, f.text);
      return t;
    };
    if (auto t = told(key)) out_.text.push_back(std::move(*t));
    if (auto t = told(key + ".weak")) out_.bad_at.push_back(std::move(*t));
    if (auto t = told(key + ".short"); t && !t->text.empty()) short_.push_back(t->text);
  }

  template <class T>
  void tell_value(const T& v, const std::string& key, const std::string& pointer, const Range& range,
                  std::string_view says) {
    if constexpr (kIsScalar<T>) {
      const std::string text = text_of(v, range);
      say(key, {{"value", {text}}});
      out_.numbers.push_back({pointer, text, std::string(says)});
    } else if constexpr (kIsOptional<T>) {
      if (v) tell_value(*v, key, pointer, range, says);
    } else if constexpr (kIsVariant<T>) {
      tell_kind(v, key, pointer);
    } else if constexpr (std::is_same_v<T, std::vector<Attack>>) {
      for (std::size_t i = 0; i < v.size(); ++i)
        tell_attack(v[i], pointer + "/" + std::to_string(i), depth_ + 1);
    } else if constexpr (dardo::detail::IsList<T>::value) {
      for (std::size_t i = 0; i < v.size(); ++i)
        tell_value(v[i], key, pointer + "/" + std::to_string(i), range, says);
    } else {
      tell_struct(v, key, pointer);
    }
  }

  template <class V>
  void tell_kind(const V& v, const std::string& key, const std::string& pointer) {
    each_row<V>([&](const auto& k) {
      using Kind = typename std::remove_cvref_t<decltype(k)>::type;
      if (const auto* kind = std::get_if<Kind>(&v)) {
        const std::string at = pointer + "/" + std::string(k.name);
        out_.numbers.push_back({at, word("yes"), std::string(k.says)});
        if constexpr (HasRows<Kind>) {
          tell_struct(*kind, key + "." + std::string(k.name), at);
        } else {
          tell_value(*kind, key + "." + std::string(k.name), at, Range{}, k.says);
        }
      }
    });
  }

  template <class T>
  void tell_struct(const T& v, const std::string& key, const std::string& pointer) {
    Fillings places = outer_;
    fill(v, places);
    say(key, places);
    tell_rows(v, key, pointer);
  }

  template <class T>
  void tell_rows(const T& v, const std::string& key, const std::string& pointer) {
    const T standard{};
    std::size_t number = 0;
    each_row<T>([&](const auto& r) {
      const auto& member = v.*r.member;
      using Part = std::remove_cvref_t<decltype(member)>;
      if constexpr (kIsInline<decltype(r)>) {
        if constexpr (kIsVariant<Part>) {
          const Fillings before = outer_;
          fill(v, outer_);
          tell_kind(member, key, pointer);
          outer_ = before;
        } else {
          tell_rows(member, key, pointer);
        }
      } else {
        std::string step = "/" + std::string(r.name);
        if constexpr (requires { Rows<T>::as_list; }) step = "/" + std::to_string(number++);
        const std::string of = key + "." + std::string(r.name);
        if (r.needed || !is_standard(member, standard.*r.member)) {
          tell_value(member, of, pointer + step, r.range, r.says);
        } else {
          tell_standard(member, of, r.range);
        }
      }
    });
  }

  /// What is so anyhow is told where a sentence says so.
  template <class T>
  void tell_standard(const T& v, const std::string& key, const Range& range) {
    if (messages_.find(key + ".always") == nullptr) return;
    Fillings places = outer_;
    if constexpr (kIsScalar<T>) {
      places.push_back({"value", {text_of(v, range)}});
    } else if constexpr (HasRows<T> && !kIsVariant<T>) {
      fill(v, places);
    }
    say(key + ".always", places);
  }

  const Messages& messages_;
  detail::RowWriter rows_;
  std::string unit_, attack_name_;
  Description out_;
  std::vector<std::string> short_;
  Fillings outer_;  ///< of what a kind stands in: of an effect its chance
  int depth_ = 0;
};

/// Whether brackets and braces stand in pairs, and none within one of their own kind.
bool is_balanced(std::string_view sentence) {
  char open = 0;
  bool within = false;
  for (const char c : sentence) {
    if (c == '{' || (c == '[' && !within && open == 0)) {
      if (open == '{') return false;
      if (c == '[') within = true;
      if (c == '{') open = '{';
    } else if (c == '[') {
      return false;
    } else if (c == '}') {
      if (open != '{') return false;
      open = 0;
    } else if (c == ']') {
      if (!within || open != 0) return false;
      within = false;
    }
  }
  return open == 0 && !within;
}

}  // namespace

const Messages& Messages::standard() {
  static const Messages messages = [] {
    auto read = parse(dardo_embedded_messages, "messages.json");
    return read ? std::move(*read) : Messages{};
  }();
  return messages;
}

FileResult<Messages> Messages::parse(std::string_view text, std::string_view name) {
  const auto root = detail::parse_document(text, name);
  if (!root) return tl::unexpected(root.error());
  detail::Reader reader(*root, name);
  Messages out;
  if (root->kind != detail::Node::Kind::object)
    reader.problem("", "is " + detail::describe(*root), "an object of sentences");
  for (const detail::Member& m : root->members) {
    const std::string pointer = detail::step(m.key);
    if (const auto sentence = reader.text({&m.value, pointer})) {
      if (!is_balanced(*sentence))
        reader.problem(pointer, "has brackets that do not match",
                       "{places}, and [parts] that may be left out");
      out.sentences_.emplace(m.key, *sentence);
    }
  }
  if (!reader.clean()) return tl::unexpected(reader.take());
  return out;
}

const std::string* Messages::find(std::string_view key) const {
  const auto at = sentences_.find(key);
  return at != sentences_.end() ? &at->second : nullptr;
}

Description describe(const Scene& scene, const Attack& attack, const Messages& messages) {
  return Teller(scene, messages).tell(attack);
}

std::vector<ToldDifference> compare(const Description& one, const Description& other) {
  std::vector<ToldDifference> out;
  const auto find = [](const Description& in, const std::string& pointer) -> const ToldNumber* {
    const auto is_it = [&](const ToldNumber& n) { return n.pointer == pointer; };
    const auto at = std::find_if(in.numbers.begin(), in.numbers.end(), is_it);
    return at != in.numbers.end() ? &*at : nullptr;
  };
  for (const ToldNumber& n : one.numbers) {
    const ToldNumber* there = find(other, n.pointer);
    if (there == nullptr || there->value != n.value)
      out.push_back({n.pointer, n.says, n.value, there != nullptr ? there->value : ""});
  }
  for (const ToldNumber& n : other.numbers) {
    if (find(one, n.pointer) == nullptr) out.push_back({n.pointer, n.says, "", n.value});
  }
  return out;
}

}  // namespace dardo::io
