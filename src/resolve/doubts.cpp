#include <set>
#include <string_view>

#include "dardo/resolve/resolve.hpp"
#include "geometry/detail/check_rows.hpp"

namespace dardo {
namespace {

using NameSet = std::set<std::string_view>;

void add(NameSet& words, const std::vector<std::string>& more) { words.insert(more.begin(), more.end()); }

/// What it is called, and what its statuses make of bodies.
void add_tags(NameSet& words, const Attack& attack) {
  add(words, attack.tags);
  for (const auto* effects : {&attack.effects, &attack.at_release}) {
    for (const Effect& e : *effects) {
      if (const auto* status = std::get_if<Status>(&e.what)) add(words, status->gives);
    }
  }
  for (const Then& then : attack.then) {
    for (const Attack& child : then.attacks) add_tags(words, child);
  }
}

class Doubter {
 public:
  Doubter(const Arena& arena, const Attack& attack, std::span<const Attack> others) {
    for (const BodyId body : arena.bodies()) {
      add(tags_, arena.body(body).tags);
      add(tags_, arena.build(arena.body(body).build).tags);
    }
    for (const MaterialId material : arena.materials()) materials_.insert(arena.material(material).name);
    materials_.insert("ground");
    add_tags(tags_, attack);
    for (const Attack& other : others) add_tags(tags_, other);
  }

  void look(const std::string& where, const Attack& attack) {
    look(where + "/needs", attack.needs, tags_, "a tag that nobody here has", "nobody is struck");
    look(where + "/forbids", attack.forbids, tags_, "a tag that nobody here has", "nobody is spared");
    for (std::size_t i = 0; i < attack.effects.size(); ++i) {
      const std::string at = where + "/effects/" + std::to_string(i);
      look(at + "/needs", attack.effects[i].needs, tags_, "a tag that nobody here has", "it comes to nobody");
      look(at + "/forbids", attack.effects[i].forbids, tags_, "a tag that nobody here has",
           "it spares nobody");
    }
    if (const auto* shot = std::get_if<ShotDelivery>(&attack.delivery)) {
      constexpr const char* kNone = "a material that is not here";
      look(where + "/shot/pierce/materials", shot->pierce.materials, materials_, kNone,
           "no wall of it is pierced");
      look(where + "/shot/ricochet/materials", shot->ricochet.materials, materials_, kNone,
           "no wall of it turns the shot");
    }
    for (std::size_t i = 0; i < attack.then.size(); ++i) {
      for (std::size_t k = 0; k < attack.then[i].attacks.size(); ++k)
        look(where + "/then/" + std::to_string(i) + "/attacks/" + std::to_string(k),
             attack.then[i].attacks[k]);
    }
  }

  Problems found;

 private:
  void look(const std::string& where, const std::vector<std::string>& words, const NameSet& known,
            const std::string& what, const std::string& so) {
    for (std::size_t i = 0; i < words.size(); ++i) {
      if (!known.contains(words[i]))
        found.push_back(
            {where + "/" + std::to_string(i), "names \"" + words[i] + "\", " + what + ": " + so, ""});
    }
  }

  NameSet tags_, materials_;
};

/// Those that begin whatever is struck: of a volley all, and at the end of each what follows from that.
double sure_carriers(const Attack& attack) {
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  double each = 1;
  for (const Then& then : attack.then) {
    if (then.when != Then::When::end) continue;
    for (const Attack& child : then.attacks) each += sure_carriers(child);
  }
  return each * (shot != nullptr ? shot->volley.count : 1);
}

}  // namespace

Problems doubts(const Arena& arena) {
  Problems out;
  for (const FactionId from : arena.factions()) {
    for (const FactionId to : arena.factions()) {
      if (from == to || arena.relation(from, to) != Relation::foe ||
          arena.relation(to, from) != Relation::friendly)
        continue;
      out.push_back({"/factions" + detail::pointer_step(arena.faction_name(from)) + "/foe",
                     "names \"" + arena.faction_name(to) +
                         "\", who hold them for friends: attacks on foes strike "
                         "those who do not strike back",
                     ""});
    }
  }
  return out;
}

Problems doubts(const Arena& arena, const Attack& attack, std::span<const Attack> others,
                const Limits& limits) {
  Doubter doubter(arena, attack, others);
  doubter.look("", attack);
  if (const double carriers = sure_carriers(attack); carriers > limits.carriers)
    doubter.found.push_back({"",
                             "begins " + detail::number_text(carriers) +
                                 " shots, rays and areas, more than its limit of " +
                                 std::to_string(limits.carriers) + ": no more begin",
                             ""});
  return std::move(doubter.found);
}

}  // namespace dardo
