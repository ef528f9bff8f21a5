#pragma once
#include <algorithm>
#include <cstdint>
#include <type_traits>
#include <vector>

#include "dardo/arena/ids.hpp"
#include "dardo/geometry/vec.hpp"

// Whom and what flights have met.
namespace dardo::detail {

/// What a flight has met: a body, a part of a wall or, with neither, the ground.
struct Met {
  BodyId body;
  WallPartId wall;
  std::uint32_t times = 0;  ///< how often it has struck the body or met the surface
  double time = 0;          ///< the last time
  Vec3 normal;              ///< of a surface, then
  bool struck = false;      ///< a body that it does not strike anew, but by `again_after`
  bool passing = false;     ///< goes through it, and does not meet it until it has let go of it

  bool is(BodyId b) const { return body == b && wall.empty(); }
  bool is(WallPartId w) const { return wall == w && body.empty(); }
};

/// What all flights have met, in blocks of one store: a flight keeps no list of its own, and is plain data.
/// Short lists are looked through; the blocks of long ones are found by a table.
class Memory {
 public:
  static constexpr std::uint32_t kNone = 0xffffffffu;
  /// One flight's, in the order in which it met them.
  struct List {
    std::uint32_t first = kNone, last = kNone, count = 0;
  };

  template <class IdType>
  const Met* known(const List& list, IdType what) const {
    const std::uint32_t at = find(list, what);
    return at == kNone ? nullptr : &blocks_[at].met;
  }
  /// What is known of it, or new. Holds until the next call.
  template <class IdType>
  Met& meet(List& list, IdType what) {
    if (const std::uint32_t at = find(list, what); at != kNone) return blocks_[at].met;
    Met met;
    if constexpr (std::is_same_v<IdType, BodyId>) {
      met.body = what;
    } else {
      met.wall = what;
    }
    return add(list, met);
  }
  const Met* last(const List& list) const { return list.last == kNone ? nullptr : &blocks_[list.last].met; }
  Met& add(List& list, const Met& met) {
    std::uint32_t at = free_;
    if (at != kNone) {
      free_ = blocks_[at].next;
    } else {
      at = static_cast<std::uint32_t>(blocks_.size());
      blocks_.emplace_back();
    }
    if (list.last == kNone) list.first = at;
    blocks_[at] = {met, kNone, list.first};
    if (list.last != kNone) blocks_[list.last].next = at;
    list.last = at;
    if (++list.count > kShort) {
      if (list.count == kShort + 1) {
        for (std::uint32_t b = list.first; b != kNone; b = blocks_[b].next) put_into_table(b);
      } else {
        put_into_table(at);
      }
    }
    return blocks_[at].met;
  }
  template <class Visit>
  void each(const List& list, Visit&& visit) {
    for (std::uint32_t at = list.first; at != kNone; at = blocks_[at].next) visit(blocks_[at].met);
  }
  template <class Visit>
  void each(const List& list, Visit&& visit) const {
    for (std::uint32_t at = list.first; at != kNone; at = blocks_[at].next) visit(blocks_[at].met);
  }
  bool passes_any(const List& list) const {
    bool any = false;
    each(list, [&](const Met& m) { any = any || m.passing; });
    return any;
  }
  /// Its blocks are free again.
  void forget(List& list) {
    if (list.count > kShort) {
      for (std::uint32_t b = list.first; b != kNone; b = blocks_[b].next) take_out_of_table(b);
    }
    if (list.last != kNone) blocks_[list.last].next = free_, free_ = list.first;
    list = {};
  }
  void clear() {
    blocks_.clear(), free_ = kNone;
    table_.clear(), in_table_ = 0;
  }

 private:
  static constexpr std::uint32_t kShort = 16, kTaken = kNone - 1;
  struct Block {
    Met met;
    std::uint32_t next = kNone;
    std::uint32_t list = kNone;  ///< the first block of its list
  };

  static std::size_t place_of(std::uint32_t list, const BodyId& body, const WallPartId& wall) {
    std::uint64_t key =
        std::uint64_t{list} << 32 ^ body.index ^ (wall.empty() ? 0 : ~std::uint64_t{wall.index});
    key *= 0x9e3779b97f4a7c15u;  // spread by the golden ratio (Knuth, 6.4)
    return static_cast<std::size_t>(key >> 32);
  }
  static std::size_t place_of(std::uint32_t list, BodyId what) { return place_of(list, what, {}); }
  static std::size_t place_of(std::uint32_t list, WallPartId what) { return place_of(list, {}, what); }
  std::size_t place_of(std::uint32_t block) const {
    return place_of(blocks_[block].list, blocks_[block].met.body, blocks_[block].met.wall);
  }

  template <class IdType>
  std::uint32_t find(const List& list, IdType what) const {
    if (list.count <= kShort) {
      for (std::uint32_t at = list.first; at != kNone; at = blocks_[at].next) {
        if (blocks_[at].met.is(what)) return at;
      }
      return kNone;
    }
    for (std::size_t i = place_of(list.first, what);; ++i) {
      const std::uint32_t at = table_[i & (table_.size() - 1)];
      if (at == kNone) return kNone;
      if (at != kTaken && blocks_[at].list == list.first && blocks_[at].met.is(what)) return at;
    }
  }
  /// Open addressing; what was taken out leaves a mark until the table is made anew, half full at most.
  void put_into_table(std::uint32_t block) {
    if (2 * (in_table_ + 1) > table_.size()) {
      std::vector<std::uint32_t> old;
      std::swap(old, table_);
      const auto live = static_cast<std::size_t>(
          std::count_if(old.begin(), old.end(), [](std::uint32_t b) { return b != kNone && b != kTaken; }));
      std::size_t size = 64;
      while (size < 4 * (live + 1)) size *= 2;
      table_.assign(size, kNone), in_table_ = 0;
      for (const std::uint32_t b : old) {
        if (b != kNone && b != kTaken) put_into_table(b);
      }
    }
    std::size_t i = place_of(block);
    while (table_[i & (table_.size() - 1)] != kNone) ++i;
    table_[i & (table_.size() - 1)] = block;
    ++in_table_;
  }
  void take_out_of_table(std::uint32_t block) {
    std::size_t i = place_of(block);
    while (table_[i & (table_.size() - 1)] != block) ++i;
    table_[i & (table_.size() - 1)] = kTaken;
  }

  std::vector<Block> blocks_;
  std::uint32_t free_ = kNone;
  std::vector<std::uint32_t> table_;
  std::size_t in_table_ = 0;  ///< places that are not empty, marks too
};

}  // namespace dardo::detail
