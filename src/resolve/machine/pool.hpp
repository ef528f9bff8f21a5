#pragma once
#include <bit>
#include <cstdint>
#include <vector>

namespace dardo::detail {

/// Places for what comes and goes, asked by a `Slot`. A place that is given back is used again, with whatever
/// was in it: whoever takes it makes it anew, and may keep the room of its lists. In a deque things stay
/// where they are while others come.
template <class T, class Slot, class Places = std::vector<T>>
class Pool {
 public:
  Slot add() {
    std::uint32_t at = count_;
    if (!free_.empty()) {
      at = free_.back();
      free_.pop_back();
    } else if (++count_ > places_.size()) {
      places_.emplace_back();
      used_.push_back(false);
    }
    used_[at] = true;
    return {at};
  }
  void release(Slot slot) {
    used_[slot.at] = false;
    free_.push_back(slot.at);
  }
  /// All places are free again.
  void clear() { count_ = 0, free_.clear(); }

  T& operator[](Slot slot) { return places_[slot.at]; }
  const T& operator[](Slot slot) const { return places_[slot.at]; }
  bool has(Slot slot) const { return slot.at < count_ && used_[slot.at]; }
  /// How many places there are, free ones too: slots lie below.
  std::uint32_t places() const { return count_; }
  std::uint32_t used() const { return count_ - static_cast<std::uint32_t>(free_.size()); }
  /// Calls `visit(slot, thing)` for all in use, in the order of their places.
  template <class Visit>
  void each(Visit&& visit) {
    for (std::uint32_t at = 0; at < count_; ++at) {
      if (used_[at]) visit(Slot{at}, places_[at]);
    }
  }
  template <class Visit>
  void each(Visit&& visit) const {
    for (std::uint32_t at = 0; at < count_; ++at) {
      if (used_[at]) visit(Slot{at}, places_[at]);
    }
  }

  /// As bytes: which places are in use, in which order the free ones come, and of each in use what
  /// `thing(slot, thing)` writes.
  template <class BytesOut, class Thing>
  void write(BytesOut& out, Thing&& thing) const {
    out.count(count_);
    for (std::uint32_t at = 0; at < count_; ++at) {
      bool used = used_[at];
      out.flag(used);
    }
    out.count(free_.size());
    for (std::uint32_t at : free_) out.whole(at);
    each(thing);
  }
  /// From bytes, into one that is empty. They are wrong when each place is not either in use or free once.
  template <class BytesIn, class Thing>
  void read(BytesIn& in, Thing&& thing) {
    const std::uint32_t count = in.count(0);
    std::uint32_t unused = 0;
    for (std::uint32_t at = 0; at < count; ++at) {
      bool used = false;
      in.flag(used);
      used_[add().at] = used;
      unused += used ? 0 : 1;
    }
    free_.resize(in.count(0));
    in.require(free_.size() == unused);
    std::vector<bool> listed(count);
    for (std::uint32_t& at : free_) {
      in.index(at, count);
      if (!in.good()) return;
      in.require(!used_[at] && !listed[at]);
      listed[at] = true;
    }
    for (std::uint32_t at = 0; at < count && in.good(); ++at) {
      if (used_[at]) thing(Slot{at}, places_[at]);
    }
  }

 private:
  Places places_;  ///< there may be more of them than it has now
  std::vector<bool> used_;
  std::uint32_t count_ = 0;
  std::vector<std::uint32_t> free_;
};

/// Some places of a pool.
template <class Slot>
class SomeSlots {
 public:
  void clear() { words_.clear(); }
  void add(Slot slot) {
    if (slot.at / 64 >= words_.size()) words_.resize(slot.at / 64 + 1);
    words_[slot.at / 64] |= std::uint64_t{1} << slot.at % 64;
  }
  void remove(Slot slot) {
    if (slot.at / 64 < words_.size()) words_[slot.at / 64] &= ~(std::uint64_t{1} << slot.at % 64);
  }
  /// In their order; `visit` may add some.
  template <class Visit>
  void each(Visit&& visit) const {
    for (std::size_t i = 0; i < words_.size(); ++i) {
      for (std::uint64_t left = words_[i]; left != 0; left &= left - 1)
        visit(Slot{static_cast<std::uint32_t>(64 * i) + static_cast<std::uint32_t>(std::countr_zero(left))});
    }
  }

 private:
  std::vector<std::uint64_t> words_;
};

}  // namespace dardo::detail
