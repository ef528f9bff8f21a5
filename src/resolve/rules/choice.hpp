#pragma once
#include <algorithm>
#include <optional>
#include <span>

#include "resolve/rules/act.hpp"
#include "resolve/rules/order.hpp"

// Which of some come first: one mechanism for all that takes some of many.
namespace dardo::detail {

/// One that may be taken.
struct Candidate {
  BodyId body;
  double distance = 0;
  Vec3 point;  ///< where it is, as seen in the attack's direction
};

class Choice {
 public:
  /// `keys` must outlive it. Angles are those seen from `from`, away from `direction`.
  Choice(const Motions& motions, std::span<const OrderKey> keys, const Vec3& from, const Vec3& direction,
         std::uint64_t seed, std::uint64_t key)
      : motions_(&motions), keys_(keys), from_(from), direction_(direction), seed_(seed), key_(key) {}

  bool before(const Candidate& a, const Candidate& b) const {
    if (!keys_.empty()) {
      if (const Difference d = difference(a, b); d.key != nullptr) return d.a < d.b;
    }
    return place_at(a.distance, motions_->arena(), a.body) < place_at(b.distance, motions_->arena(), b.body);
  }
  /// Which of the keys tells two apart, and what they are by it; nothing when only distance or creation does.
  struct Difference {
    const OrderKey* key = nullptr;
    double a = 0, b = 0;
  };
  Difference difference(const Candidate& a, const Candidate& b) const;

 private:
  /// The smaller comes first.
  double rank(const OrderKey& key, const Candidate& c) const;

  const Motions* motions_;
  std::span<const OrderKey> keys_;
  Vec3 from_, direction_;
  std::uint64_t seed_, key_;
};

}  // namespace dardo::detail
