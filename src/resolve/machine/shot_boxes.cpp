#include "resolve/machine/shot_boxes.hpp"

#include <algorithm>

namespace dardo::detail {

void ShotBoxes::finish() {
  std::size_t stay = 0, come = 0;
  for (std::uint32_t at = 0; at < there_.size(); ++at) {
    if (there_[at]) ++(tree_.has(at) ? stay : come);
  }
  // As the arena does it: many arrivals or departures by building anew.
  if ((come + tree_.size() - stay) * 4 > tree_.size()) {
    std::vector<Entry> entries;
    entries.reserve(stay + come);
    for (std::uint32_t at = 0; at < there_.size(); ++at) {
      if (there_[at]) entries.push_back({boxes_[at], at});
    }
    tree_.build(entries);
    return;
  }
  for (std::uint32_t at = 0; at < there_.size(); ++at) {
    if (!there_[at]) tree_.remove(at);
  }
  if (tree_.size() > 0) tree_.refit([&](std::uint32_t at) { return boxes_[at]; });
  for (std::uint32_t at = 0; at < there_.size(); ++at) {
    if (there_[at] && !tree_.has(at)) tree_.insert({boxes_[at], at});
  }
}

void ShotBoxes::set(ShotSlot slot, const Bounds& box) {
  if (slot.at >= boxes_.size()) boxes_.resize(slot.at + 1), there_.resize(slot.at + 1);
  boxes_[slot.at] = box, there_[slot.at] = true;
  tree_.remove(slot.at);
  tree_.insert({box, slot.at});
}

}  // namespace dardo::detail
