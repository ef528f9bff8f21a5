#include "io/detail/levels.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

namespace dardo::io::detail {
namespace {

constexpr int kMostLevels = 1000;

/// How one number grows from level to level.
struct Growth {
  std::string pointer;
  Place place;
  std::optional<double> add, times;
  std::vector<double> list;

  double at(double base, std::size_t steps) const {
    if (!list.empty()) return list[steps];
    const auto n = static_cast<double>(steps);
    if (add) return base + *add * n;
    double out = base;
    for (std::size_t i = 0; i < steps; ++i) out *= *times;
    return out;
  }
};

/// The value that a pointer leads to; nothing when it leads nowhere.
Node* find(Node& root, std::string_view pointer) {
  Node* node = &root;
  while (!pointer.empty() && node != nullptr) {
    if (pointer[0] != '/') return nullptr;
    pointer.remove_prefix(1);
    const auto end = std::min(pointer.find('/'), pointer.size());
    const std::string key = unescaped(pointer.substr(0, end));
    pointer.remove_prefix(end);
    if (node->kind == Node::Kind::array) {
      const bool whole = !key.empty() && key.size() < 9 && key.find_first_not_of("0123456789") == key.npos;
      const std::size_t i = whole ? std::stoul(key) : node->items.size();
      node = i < node->items.size() ? &node->items[i] : nullptr;
    } else {
      node = const_cast<Node*>(std::as_const(*node).find(key));
    }
  }
  return node;
}

nlohmann::ordered_json json_of(const Node& node) {
  using Json = nlohmann::ordered_json;
  switch (node.kind) {
    case Node::Kind::null: return nullptr;
    case Node::Kind::boolean: return node.boolean;
    case Node::Kind::number: return node.number;
    case Node::Kind::string: return node.text;
    case Node::Kind::array: {
      Json out = Json::array();
      for (const Node& item : node.items) out.push_back(json_of(item));
      return out;
    }
    case Node::Kind::object: {
      Json out = Json::object();
      for (const Member& m : node.members) out[m.key] = json_of(m.value);
      return out;
    }
  }
  return nullptr;
}

class LevelsReader {
 public:
  LevelsReader(Reader& reader, const Place& levels, const Node& attack)
      : reader_(reader), levels_(levels), attack_(attack) {}

  std::vector<LevelDraft> read() {
    const Fields f(reader_, levels_, {"from", "to", "grow", "patches", "build_on"});
    if (!f.is_object()) return {};
    const int from = whole(f, "from", 1), to = whole(f, "to", from - 1);
    if (to < from - 1 || to - from >= kMostLevels) {
      reader_.problem(levels_.pointer + "/to", fmt::format("is no level from {} on", from),
                      fmt::format("the last level, {} to {}", from, from + kMostLevels - 1));
      return {};
    }
    const auto count = static_cast<std::size_t>(to - from + 1);
    if (const auto p = f.at("build_on")) build_on_ = reader_.boolean(*p).value_or(false);
    const auto grow = f.at("grow");
    if (grow && count == 0)
      reader_.problem(grow->pointer, "is there, but no levels by number are", "\"from\" and \"to\"");
    if (grow && count > 0) read_growths(*grow, count);
    if (const auto p = f.at("patches")) read_patches(*p, from, to);
    std::vector<LevelDraft> out;
    std::vector<Place> built;
    for (int level = from; level <= to; ++level) out.push_back(numbered(level, from, built));
    built.clear();
    for (const auto& [name, patch] : named_) {
      if (!build_on_) built.clear();
      built.push_back(patch);
      out.push_back(patched(name, attack_, built));
    }
    if (out.empty())
      reader_.problem(levels_.pointer, "makes no level", "\"to\", the last one, or \"patches\" by name");
    return out;
  }

 private:
  int whole(const Fields& f, const char* key, int standard) {
    const auto p = f.at(key);
    const auto v = p ? reader_.number(*p) : std::nullopt;
    if (!v) return standard;
    if (*v >= -1'000'000 && *v <= 1'000'000 && *v == std::floor(*v)) return static_cast<int>(*v);
    reader_.problem(p->pointer, fmt::format("is {}", *v), "a whole number from -1000000 to 1000000");
    return standard;
  }

  void read_growths(const Place& place, std::size_t count) {
    if (place.node->kind != Node::Kind::object) {
      reader_.problem(place.pointer, "is " + describe(*place.node), "an object of pointers");
      return;
    }
    for (const Member& m : place.node->members) {
      const std::string pointer = place.pointer + step(m.key);
      Growth g{.pointer = m.key, .place = {&m.value, pointer}, .add = {}, .times = {}, .list = {}};
      const Fields f(reader_, g.place, {"add", "times", "list"});
      if (!f.is_object()) continue;
      if (const auto p = f.at("add")) g.add = reader_.number(*p);
      if (const auto p = f.at("times")) g.times = reader_.number(*p);
      if (const auto p = f.at("list")) {
        for (const Place& item : reader_.items(*p)) g.list.push_back(reader_.number(item).value_or(0));
        if (g.list.size() != count)
          reader_.problem(p->pointer, fmt::format("is a list of {}", g.list.size()),
                          fmt::format("one number for each of the {} levels", count));
      }
      if (f.has("add") + f.has("times") + f.has("list") != 1)
        reader_.problem(pointer, "says no way to grow, or several", "one of add, times, list");
      Node copy = attack_;
      const Node* base = m.key.starts_with('/') ? find(copy, m.key) : nullptr;
      if (base == nullptr) {
        reader_.problem(pointer, "leads to nothing that the attack says",
                        "the JSON pointer of a number of it");
      } else if (base->kind != Node::Kind::number) {
        reader_.problem(pointer, "leads to " + describe(*base), "the JSON pointer of a number of the attack");
      } else if (g.add || g.times || g.list.size() == count) {
        growths_.push_back(std::move(g));
      }
    }
  }

  void read_patches(const Place& place, int from, int to) {
    for (const auto& [name, patch] : reader_.members(place)) {
      if (patch.node->kind != Node::Kind::object) {
        reader_.problem(patch.pointer, "is " + describe(*patch.node), "an object, a patch of the attack");
        continue;
      }
      const bool number = name.find_first_not_of("-0123456789") == std::string::npos;
      if (!number) {
        named_.emplace_back(name, patch);
        continue;
      }
      const int level = name.size() < 9 ? std::atoi(name.c_str()) : to + 1;
      if (level < from || level > to || std::to_string(level) != name) {
        reader_.problem(patch.pointer, "is of no level that there is",
                        to < from ? "\"from\" and \"to\" beside it, or a name"
                                  : fmt::format("a level from {} to {}, or a name", from, to));
      } else {
        numbered_.emplace_back(level, patch);
      }
    }
  }

  /// What grows first, then the patches of its number, and, if levels build on each other, of those before.
  LevelDraft numbered(int level, int from, std::vector<Place>& built) {
    Node grown = attack_;
    for (const Growth& g : growths_) {
      find(grown, g.pointer)->number =
          g.at(find(grown, g.pointer)->number, static_cast<std::size_t>(level - from));
    }
    if (!build_on_) built.clear();
    for (const auto& [of, patch] : numbered_) {
      if (of == level) built.push_back(patch);
    }
    LevelDraft out = patched(std::to_string(level), grown, built);
    return out;
  }

  LevelDraft patched(const std::string& name, const Node& base, const std::vector<Place>& patches) {
    LevelDraft out{name, base, patches};
    for (const Place& p : patches) merge_patch(out.attack, *p.node);
    return out;
  }

  Reader& reader_;
  Place levels_;
  const Node& attack_;
  bool build_on_ = false;
  std::vector<Growth> growths_;
  std::vector<std::pair<int, Place>> numbered_;
  std::vector<std::pair<std::string, Place>> named_;
};

}  // namespace

Node without(const Node& object, std::string_view key) {
  Node out;
  out.kind = object.kind, out.line = object.line;
  for (const Member& m : object.members) {
    if (m.key != key) add_member(out, m.key) = m.value;
  }
  return out;
}

void merge_patch(Node& target, const Node& patch) {
  if (patch.kind != Node::Kind::object) {
    target = patch;
    return;
  }
  if (target.kind != Node::Kind::object) {
    target = {};
    target.kind = Node::Kind::object, target.line = patch.line;
  }
  for (const Member& m : patch.members) {
    if (m.value.kind == Node::Kind::null) {
      if (target.find(m.key) != nullptr) target = without(target, m.key);
      continue;
    }
    Node* at = const_cast<Node*>(std::as_const(target).find(m.key));
    merge_patch(at != nullptr ? *at : add_member(target, m.key), m.value);
  }
}

std::vector<LevelDraft> draft_levels(Reader& reader, const Place& levels, const Node& attack) {
  return LevelsReader(reader, levels, attack).read();
}

std::string place_in_levels(const LevelDraft& draft, const Place& levels, std::string_view pointer) {
  for (auto patch = draft.patches.rbegin(); patch != draft.patches.rend(); ++patch) {
    // As far into the patch as it goes.
    for (std::string at(pointer); !at.empty(); at.resize(at.rfind('/'))) {
      Node copy = *patch->node;
      if (find(copy, at) != nullptr) return patch->pointer + at;
    }
  }
  const Node* grow = levels.node->find("grow");
  for (std::string at(pointer); grow != nullptr && !at.empty(); at.resize(at.rfind('/'))) {
    if (grow->find(at) != nullptr) return levels.pointer + "/grow" + step(at);
  }
  return draft.patches.empty() ? levels.pointer : draft.patches.back().pointer;
}

std::string node_text(const Node& node) { return json_of(node).dump(); }

}  // namespace dardo::io::detail
