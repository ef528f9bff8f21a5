#pragma once
#include <cstdint>
#include <vector>

#include "dardo/index/tree.hpp"
#include "resolve/rules/slots.hpp"

namespace dardo::detail {

/// Where shots are on their ways in a window, as boxes in a tree.
class ShotBoxes {
 public:
  void clear() { boxes_.clear(), there_.clear(), tree_.build({}); }
  /// A window begins: nothing is there until it is put.
  void begin(std::uint32_t places) {
    boxes_.resize(places);
    there_.assign(places, false);
  }
  /// Many, before `finish`.
  void put(ShotSlot slot, const Bounds& box) { boxes_[slot.at] = box, there_[slot.at] = true; }
  void finish();
  /// One, after it; anew if it is there.
  void set(ShotSlot slot, const Bounds& box);
  void forget(ShotSlot slot) {
    if (slot.at < there_.size()) there_[slot.at] = false, tree_.remove(slot.at);
  }
  const Bounds& box(ShotSlot slot) const { return boxes_[slot.at]; }

  /// Calls `visit(slot)` for those whose boxes touch a box, and perhaps for some others.
  template <class Visit>
  void touching(const Bounds& box, Visit&& visit) const {
    tree_.touching(box, [&](std::uint32_t at) { visit(ShotSlot{at}); });
  }

 private:
  std::vector<Bounds> boxes_;
  std::vector<std::uint8_t> there_;
  Tree tree_;
};

}  // namespace dardo::detail
