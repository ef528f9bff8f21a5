#pragma once
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <string_view>

#include "dardo/arena/ids.hpp"

namespace dardo {

class Arena;

/// What a rule of the game's own is asked: whether an attack of the one may strike the other.
struct RuleQuestion {
  const Arena& arena;
  BodyId attacker, target;
};
struct RuleAnswer {
  bool passes = true;
  std::optional<double> margin;  ///< how far it was from the other answer, if that can be told
};
/// Asked of each body that comes near, maybe more than once, and from several threads: the same question must
/// get the same answer for as long as the arena stays as it is, and nothing may be changed.
using Rule = std::function<RuleAnswer(const RuleQuestion&)>;

/// The game's own rules, by the names that attacks list.
///
///     Rules rules;
///     rules.add("on-deck", [&](const RuleQuestion& q) { return RuleAnswer{deck.holds(q.target)}; });
class Rules {
 public:
  /// The last word counts.
  void add(std::string name, Rule rule) { rules_.insert_or_assign(std::move(name), std::move(rule)); }
  const Rule* find(std::string_view name) const {
    const auto found = rules_.find(name);
    return found == rules_.end() ? nullptr : &found->second;
  }

 private:
  std::map<std::string, Rule, std::less<>> rules_;
};

}  // namespace dardo
