#pragma once
#include <algorithm>
#include <cstdint>
#include <span>
#include <vector>

#include "dardo/index/tree.hpp"

namespace dardo {

/// The same questions, answered by looking at every entry: what a tree is checked against. It calls no
/// `ahead`, as it goes through memory in order.
class PlainLoop {
 public:
  void build(std::span<const Entry> entries) {
    entries_.clear();
    for (const Entry& e : entries) insert(e);
  }
  template <class BoundsOf, class Ahead = NoPrefetch>
  void refit(BoundsOf&& bounds_of, const Ahead& = {}) {
    for (Entry& e : entries_) e.bounds = bounds_of(e.item);
  }
  void insert(const Entry& entry) {
    if (!entry.bounds.empty()) entries_.push_back(entry);
  }
  bool remove(std::uint32_t item) {
    return std::erase_if(entries_, [item](const Entry& e) { return e.item == item; }) > 0;
  }
  std::size_t size() const { return entries_.size(); }

  template <class Visit>
  void along(const Ray&, double limit, Visit&& visit, double = 0) const {
    for (const Entry& e : entries_) {
      if (limit < 0) return;
      limit = visit(e.item, limit);
    }
  }
  template <class Visit>
  bool cuts(const Segment&, Visit&& visit) const {
    return std::any_of(entries_.begin(), entries_.end(), [&](const Entry& e) { return visit(e.item); });
  }
  template <class Visit, class Ahead = NoPrefetch>
  void touching(const Bounds& box, Visit&& visit, const Ahead& = {}) const {
    for (const Entry& e : entries_) {
      if (overlaps(e.bounds, box)) visit(e.item);
    }
  }
  template <class Visit, class Ahead = NoPrefetch>
  void touching(const Ball& ball, Visit&& visit, const Ahead& = {}) const {
    touching(bounds(ball), visit);
  }

 private:
  std::vector<Entry> entries_;
};

}  // namespace dardo
