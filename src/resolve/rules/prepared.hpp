#pragma once
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/attack.hpp"
#include "dardo/attack/rules.hpp"
#include "geometry/detail/region.hpp"
#include "resolve/carriers/lasting/plan.hpp"
#include "resolve/carriers/shot/path.hpp"
#include "resolve/rules/made.hpp"

// An attack made ready for an arena: what is asked of it again and again stands in a row, words as bits.
namespace dardo::detail {

/// Words that an attack names: those that the arena knows as bits, and the others as they are, which nobody
/// there has.
struct NamedWords {
  WordSet known;
  std::vector<std::string_view> unknown;

  bool empty() const { return known.empty() && unknown.empty(); }
};

/// Materials that an attack names.
struct NamedMaterials {
  bool all = false;  ///< whatever it is
  bool ground = false;
  WordSet known;  ///< by the numbers of the arena's materials

  bool has(MaterialId material) const { return all || known.has(material.index); }
  bool has_ground() const { return all || ground; }
};

/// One of what an attack chooses by.
struct OrderKey {
  enum class By : std::uint8_t { distance, angle, number, tag, chance };
  By by = By::distance;
  bool most = false;
  std::optional<std::uint32_t> word;  ///< of a number or a tag; nothing when nobody has it
  std::string_view name = {};         ///< likewise
};

/// A condition, its numbers by the arena's; nothing where nobody has one of that name.
struct ConditionKey {
  Condition::Of of = Condition::Of::target, other_of = Condition::Of::target;
  std::optional<std::uint32_t> number, other;
};

/// An attack, or one within it.
struct Stage {
  const Attack* attack = nullptr;
  const ShotDelivery* shot = nullptr;         ///< nothing unless it flies, or is a trap that may be struck
  std::shared_ptr<const ShotDelivery> shell;  ///< of such a trap: a shot that stays where it is
  std::optional<LastingPlan> lasting;         ///< of what stays for a time
  const Pierce* pierce = nullptr;             ///< of what goes along a way
  const Ricochet* ricochet = nullptr;
  Law law;                  ///< of its shots
  bool at_once = true;      ///< it is over in the instant in which it begins
  std::uint32_t depth = 0;  ///< how many it follows from, one from the other
  std::uint32_t first_child = 0;
  std::uint32_t leads_on = 0;  ///< a bit for each moment that something follows at
  std::optional<double> near;  ///< the distance of its `near`
  NamedWords needs, forbids, tags;
  bool names_tags = false;  ///< any of these
  /// Whom it strikes goes by tags, numbers, or what the game says.
  bool heeds_states = false;
  NamedMaterials turns_at, pierced;
  std::vector<OrderKey> order;
  std::vector<ConditionKey> conditions;
  std::vector<const Rule*> rules;
  Name name;  ///< of an attack without one, the whole's
  std::vector<EffectMade> effects, at_release;
  std::vector<Name> costs;       ///< the numbers that they are of
  std::optional<Region> region;  ///< of an area that is no ball: what it covers, in its frame

  bool has(Then::When when) const { return (leads_on >> static_cast<unsigned>(when) & 1u) != 0; }
};

/// Rules that an attack lists, or one within it, and that are not known.
Problems unknown_rules(const Attack& attack, const Rules& rules);
/// No rules at all.
const Rules& no_rules();

/// By what an order takes, for an arena.
void name(std::vector<OrderKey>& out, const Arena& arena, const Order& order);

/// What has no end of its reach comes as far as two things can be apart.
inline double far_limit(const Reach& reach) { return std::min(reach.far, 4 * kMaxCoordinate); }
/// And what has no end of its life, as long as anything flies by itself.
inline double life_limit(const ShotDelivery& shot) { return std::min(shot.life_s, 3600.0); }

/// All stages of an attack, each with a number: the attack itself is 0.
class Prepared {
 public:
  Prepared() = default;
  /// The rules must outlive it, and know all that the attack lists.
  Prepared(Attack attack, const Arena& arena, const Rules& rules);
  /// Made anew; refers to the attack, which must outlive it.
  void borrow(const Attack& attack, const Arena& arena, const Rules& rules);
  Prepared(const Prepared&) = delete;
  Prepared& operator=(const Prepared&) = delete;

  /// Whether it was made for what the arena knows by now: words and materials may have been added to it.
  bool is_of(const Arena& arena) const {
    return words_ == arena.words() && numbers_ == arena.numbers() && materials_ == arena.material_count();
  }
  void bind(const Arena& arena);

  const Stage& stage(std::uint32_t number) const { return stages_[number]; }
  const Attack& attack(std::uint32_t stage) const { return *stages_[stage].attack; }
  std::uint32_t size() const { return count_; }
  /// Whether one of them is a dash.
  bool dashes() const { return dashes_; }
  /// Whether one of them may change a body's tags or numbers.
  bool changes_states() const { return changes_states_; }
  /// Whether one of them asks for tags or numbers.
  bool heeds_states() const { return heeds_states_; }
  bool has(std::uint32_t stage, Then::When when) const { return stages_[stage].has(when); }
  /// Calls `visit(stage, delay)` for every attack that this moment of a stage leads to, in order.
  template <class Visit>
  void each_then(std::uint32_t stage, Then::When when, Visit&& visit) const {
    if (!stages_[stage].has(when)) return;
    std::uint32_t child = stages_[stage].first_child;
    for (const Then& then : attack(stage).then) {
      for (std::size_t i = 0; i < then.attacks.size(); ++i, ++child) {
        if (then.when == when) visit(child, then.delay_s);
      }
    }
  }

 private:
  void add_stages(const Attack& root, const Rules& rules);
  Stage& next_stage(const Attack& attack, std::uint32_t depth);

  Attack own_;
  std::vector<Stage> stages_;  ///< there may be more of them than it has now
  std::uint32_t count_ = 0;
  bool dashes_ = false, changes_states_ = false, heeds_states_ = false;
  std::size_t words_ = 0, numbers_ = 0, materials_ = 0;
};

}  // namespace dardo::detail
