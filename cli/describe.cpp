#include "dardo/io/describe.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "commands.hpp"
#include "terminal.hpp"

namespace dardo::cli {
namespace {

using Json = nlohmann::ordered_json;

/// An attack or one of its levels, and what it is called.
struct Described {
  std::string name, level;
  io::Description words;
};

std::string title(const Described& d) {
  return d.level.empty() ? d.name : fmt::format("{}, level {}", d.name, d.level);
}

void print_words(const Described& d) {
  fmt::print("{}\n  {}\n\n", toned(shown(title(d)), Tone::strong), shown(d.words.line));
  for (const io::Told& t : d.words.text)
    fmt::print("  {}{}\n", std::string(static_cast<std::size_t>(2 * t.depth), ' '), shown(t.text));
  if (!d.words.bad_at.empty()) fmt::print("\n  what keeps it from striking:\n");
  for (const io::Told& t : d.words.bad_at)
    fmt::print("  {}- {}\n", std::string(static_cast<std::size_t>(2 * t.depth), ' '), shown(t.text));
  fmt::print("\n  its data:\n");
  Table numbers({Tone::plain, Tone::strong, Tone::quiet});
  for (const io::ToldNumber& n : d.words.numbers) numbers.add({"  " + n.pointer, n.value, n.says});
  numbers.print("  ");
  fmt::print("\n");
}

void print_difference(const Described& one, const Described& other) {
  fmt::print("{}: {} and {}\n", toned(shown(one.name), Tone::strong),
             one.level.empty() ? "itself" : "level " + shown(one.level),
             other.level.empty() ? "itself" : "level " + shown(other.level));
  Table rows({Tone::plain, Tone::strong, Tone::strong, Tone::quiet});
  for (const io::ToldDifference& d : io::compare(one.words, other.words))
    rows.add({"  " + d.pointer, d.one.empty() ? "-" : d.one, d.other.empty() ? "-" : d.other, d.says});
  if (rows.empty()) {
    fmt::print("  nothing differs\n");
  } else {
    rows.print("  ");
  }
  fmt::print("\n");
}

Json told(const std::vector<io::Told>& all) {
  Json out = Json::array();
  for (const io::Told& t : all) {
    Json places = Json::object();
    for (const auto& [name, text] : t.places) places[name] = text;
    out.push_back({{"key", t.key}, {"depth", t.depth}, {"text", t.text}, {"places", std::move(places)}});
  }
  return out;
}

Json json_of(const Described& d) {
  Json out{{"attack", d.name}, {"level", d.level}, {"line", d.words.line}};
  out["text"] = told(d.words.text), out["bad_at"] = told(d.words.bad_at);
  Json& numbers = out["numbers"] = Json::array();
  for (const io::ToldNumber& n : d.words.numbers)
    numbers.push_back({{"pointer", n.pointer}, {"value", n.value}, {"says", n.says}});
  return out;
}

class Describer {
 public:
  Describer(const DescribeOptions& options, const io::Scene& scene, const io::Messages& messages)
      : options_(options), scene_(scene), messages_(messages) {}

  int run() {
    if (!options_.attack.empty() && io::find_attack(scene_, options_.attack) == nullptr) {
      print_error(fmt::format("ATTACK: \"{}\" is not an attack of this scene; one of {}",
                              shown(options_.attack), names()));
      return kBadInput;
    }
    if (options_.attack.empty() && (!options_.level.empty() || !options_.compare.empty())) {
      print_error("--level, --compare: of which attack? Name it after SCENE");
      return kBadInput;
    }
    if (!options_.compare.empty()) {
      const auto one = find(options_.attack, options_.compare[0], "--compare"),
                 other = find(options_.attack, options_.compare[1], "--compare");
      if (!one || !other) return kBadInput;
      if (!options_.json) return print_difference(*one, *other), kDone;
      Json rows = Json::array();
      for (const io::ToldDifference& d : io::compare(one->words, other->words))
        rows.push_back({{"pointer", d.pointer}, {"one", d.one}, {"other", d.other}, {"says", d.says}});
      fmt::print("{}\n", Json{{"dardo", 1},
                              {"attack", one->name},
                              {"one", one->level},
                              {"other", other->level},
                              {"differences", std::move(rows)}}
                             .dump(2));
      return kDone;
    }
    std::vector<Described> all;
    for (const Attack& a : scene_.attacks) {
      if (!options_.attack.empty() && a.name != options_.attack) continue;
      auto d = find(a.name, options_.level, "--level");
      if (!d) return kBadInput;
      all.push_back(std::move(*d));
    }
    if (options_.json) {
      Json out{{"dardo", 1}, {"attacks", Json::array()}};
      for (const Described& d : all) out["attacks"].push_back(json_of(d));
      fmt::print("{}\n", out.dump(2));
      return kDone;
    }
    for (const Described& d : all) {
      // All of them: a line each.
      if (options_.attack.empty()) {
        fmt::print("{}\n", shown(d.words.line));
        continue;
      }
      print_words(d);
      if (options_.level.empty()) print_levels(d);
    }
    return kDone;
  }

 private:
  std::string names() const {
    std::vector<std::string> all;
    for (const Attack& a : scene_.attacks) all.push_back(shown(a.name));
    return fmt::format("{}", fmt::join(all, ", "));
  }

  /// The attack itself where the level is empty or "-".
  std::optional<Described> find(const std::string& attack, const std::string& level, const char* option) {
    const std::string named = level == "-" ? "" : level;
    const Attack* a = io::find_attack(scene_, attack, named);
    if (a == nullptr) {
      std::vector<std::string> known;
      for (const io::Levels& l : scene_.levels) {
        for (const io::Level& one : l.all) {
          if (l.attack == attack) known.push_back(one.name);
        }
      }
      print_error(
          fmt::format("{}: \"{}\" is not a level of {}; {}", option, shown(level), shown(attack),
                      known.empty() ? "it has none" : fmt::format("one of {}", fmt::join(known, ", "))));
      return std::nullopt;
    }
    return Described{attack, named, io::describe(scene_, *a, messages_)};
  }

  void print_levels(const Described& base) {
    for (const io::Levels& levels : scene_.levels) {
      if (levels.attack != base.name) continue;
      for (const io::Level& level : levels.all) {
        const auto d = find(base.name, level.name, "--level");
        if (d) print_difference(base, *d);
      }
    }
  }

  const DescribeOptions& options_;
  const io::Scene& scene_;
  const io::Messages& messages_;
};

}  // namespace

int run_describe(const DescribeOptions& options) {
  const auto scene = io::read_scene(options.scene);
  if (!scene) {
    print_problems(scene.error());
    return kBadInput;
  }
  io::Messages messages = io::Messages::standard();
  if (!options.messages.empty()) {
    const auto text = io::read_text(options.messages);
    auto read = text ? io::Messages::parse(*text, options.messages)
                     : io::FileResult<io::Messages>(tl::unexpected(text.error()));
    if (!read) {
      print_problems(read.error());
      return kBadInput;
    }
    messages = std::move(*read);
  }
  return Describer(options, *scene, messages).run();
}

}  // namespace dardo::cli
