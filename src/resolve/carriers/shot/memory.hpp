#pragma once
#include <cstdint>
#include <type_traits>
#include <vector>

#include "dardo/arena/ids.hpp"
#include "dardo/geometry/vec.hpp"

// Whom and what flights have met.
namespace dardo::detail {

/// What a flight has met: a body, a wall or, with neither, the ground.
struct Met {
  BodyId body;
  WallId wall;
  std::uint32_t times = 0;  ///< how often it has struck the body or met the surface
  double time = 0;          ///< the last time
  Vec3 normal;              ///< of a surface, then
  bool struck = false;      ///< a body that it does not strike anew, but by `again_after`
  bool passing = false;     ///< goes through it, and does not meet it until it has let go of it

  bool is(BodyId b) const { return body == b && wall.empty(); }
  bool is(WallId w) const { return wall == w && body.empty(); }
};

/// What all flights have met, in blocks of one store: a flight keeps no list of its own, and is plain data.
class Memory {
 public:
  static constexpr std::uint32_t kNone = 0xffffffffu;
  /// One flight's, in the order in which it met them.
  struct List {
    std::uint32_t first = kNone, last = kNone;
  };

  template <class IdType>
  const Met* known(const List& list, IdType what) const {
    for (std::uint32_t at = list.first; at != kNone; at = blocks_[at].next) {
      if (blocks_[at].met.is(what)) return &blocks_[at].met;
    }
    return nullptr;
  }
  /// What is known of it, or new. Holds until the next call.
  template <class IdType>
  Met& meet(List& list, IdType what) {
    for (std::uint32_t at = list.first; at != kNone; at = blocks_[at].next) {
      if (blocks_[at].met.is(what)) return blocks_[at].met;
    }
    Met& met = add(list);
    if constexpr (std::is_same_v<IdType, BodyId>) {
      met.body = what;
    } else {
      met.wall = what;
    }
    return met;
  }
  const Met* last(const List& list) const { return list.last == kNone ? nullptr : &blocks_[list.last].met; }
  Met& add(List& list) {
    std::uint32_t at = free_;
    if (at != kNone) {
      free_ = blocks_[at].next;
      blocks_[at] = {};
    } else {
      at = static_cast<std::uint32_t>(blocks_.size());
      blocks_.emplace_back();
    }
    (list.last == kNone ? list.first : blocks_[list.last].next) = at;
    list.last = at;
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
    if (list.last != kNone) blocks_[list.last].next = free_, free_ = list.first;
    list = {};
  }
  void clear() { blocks_.clear(), free_ = kNone; }

 private:
  struct Block {
    Met met;
    std::uint32_t next = kNone;
  };
  std::vector<Block> blocks_;
  std::uint32_t free_ = kNone;
};

}  // namespace dardo::detail
