#pragma once
#include <cstdint>
#include <vector>

#include "dardo/arena/ids.hpp"
#include "resolve/moment/box_set.hpp"

namespace dardo::detail {

/// The ways of those that are not found near where they are at the end of a tick, as boxes in a tree: of
/// those that go far, and of those that are there all of a sudden.
class FarWays {
 public:
  /// Forgets all; members are told by slot, below `slots`.
  void clear(std::size_t slots) {
    for (const BodyId body : bodies_) member_[body.index] = false;
    member_.resize(slots);
    bodies_.clear(), ways_.clear();
  }
  void add(BodyId body, const Bounds& way) {
    member_[body.index] = true;
    ways_.add(way);
    bodies_.push_back(body);
  }
  /// After the last of them.
  void finish() { ways_.finish(); }

  bool empty() const { return bodies_.empty(); }
  std::size_t size() const { return bodies_.size(); }
  bool has(BodyId body) const { return body.index < member_.size() && member_[body.index]; }
  /// Calls `visit(body)` for those whose ways' boxes touch a box, and perhaps for some others.
  template <class Visit>
  void touching(const Bounds& box, Visit&& visit) const {
    ways_.tree().touching(box, [&](std::uint32_t i) { visit(bodies_[i]); });
  }
  /// The same for a ray: `visit(body, limit)` returns the new limit.
  template <class Visit>
  void along(const Ray& ray, double limit, Visit&& visit, double radius) const {
    ways_.tree().along(
        ray, limit, [&](std::uint32_t i, double now) { return visit(bodies_[i], now); }, radius);
  }
  const BoxSet& boxes() const { return ways_; }

 private:
  std::vector<BodyId> bodies_;
  BoxSet ways_;                       ///< of each of them
  std::vector<std::uint8_t> member_;  ///< by slot
};

}  // namespace dardo::detail
