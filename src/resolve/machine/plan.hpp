#pragma once
#include <cstdint>
#include <optional>
#include <vector>

#include "dardo/attack/attack.hpp"

namespace dardo::detail {

/// An attack with all attacks within it, each with a number: the attack itself is 0.
class Plan {
 public:
  explicit Plan(Attack attack);
  /// Refers to the attack, which must outlive it.
  struct Borrowed {
    const Attack& attack;
  };
  explicit Plan(const Borrowed& of) { borrow(of); }
  /// The same, made anew.
  void borrow(const Borrowed& of) {
    stages_.clear();
    add_stages(of.attack);
  }
  Plan(const Plan&) = delete;
  Plan& operator=(const Plan&) = delete;

  const Attack& attack(std::uint32_t stage) const { return *stages_[stage].attack; }
  /// How many it follows from, one from the other.
  std::uint32_t depth(std::uint32_t stage) const { return stages_[stage].depth; }
  std::uint32_t size() const { return static_cast<std::uint32_t>(stages_.size()); }
  /// Calls `visit(stage)` for every attack that this moment of a stage leads to, in order.
  template <class Visit>
  void each_then(std::uint32_t stage, Then::When when, Visit&& visit) const {
    std::uint32_t child = stages_[stage].first_child;
    for (const Then& then : attack(stage).then) {
      for (std::size_t i = 0; i < then.attacks.size(); ++i, ++child) {
        if (then.when == when) visit(child);
      }
    }
  }
  /// The distance of a stage's `near`, if it has one.
  std::optional<double> near(std::uint32_t stage) const;
  bool has(std::uint32_t stage, Then::When when) const;

 private:
  struct Stage {
    const Attack* attack;
    std::uint32_t depth, first_child;
  };
  void add_stages(const Attack& root);

  Attack own_;
  std::vector<Stage> stages_;
};

}  // namespace dardo::detail
