#pragma once
#include <vector>

#include "dardo/index/tree.hpp"

namespace dardo::detail {

/// Boxes made anew each tick, with their numbers in the order in which they were added.
class BoxSet {
 public:
  void clear() { entries_.clear(); }
  void add(const Bounds& box) { entries_.push_back({box, static_cast<std::uint32_t>(entries_.size())}); }
  /// After the last of them.
  void finish() { tree_.build(entries_); }
  bool empty() const { return entries_.empty(); }
  const Tree& tree() const { return tree_; }
  bool touches(const Bounds& box) const {
    bool found = false;
    tree_.touching(box, [&](std::uint32_t i) { found = found || overlaps(entries_[i].bounds, box); });
    return found;
  }

 private:
  std::vector<Entry> entries_;
  Tree tree_;
};

}  // namespace dardo::detail
