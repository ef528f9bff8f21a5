#pragma once
#include <optional>
#include <span>
#include <vector>

#include "dardo/arena/wall.hpp"
#include "dardo/index/tree.hpp"

namespace dardo {

/// The walls of an arena, and their index. A wall is made of convex parts: a mesh of its triangles, any other
/// shape of itself. A wall that moves, on a track or in a tick of a running game, is found anywhere along its
/// way: its parts are then asked with the leg of a time.
class WallTable {
 public:
  WallId add(Wall wall);
  void put(WallId wall, const Pose& pose);
  /// It goes along a leg until that ends, and stays there.
  void go(WallId wall, const Leg& leg);
  void remove(WallId wall);
  /// Brings the index up to date; until then what has changed is looked at one by one.
  void update();

  bool has(WallId id) const {
    return id.index < slots_.size() && slots_[id.index].alive && slots_[id.index].generation == id.generation;
  }
  /// The following require walls and parts that are there.
  const Wall& wall(WallId id) const { return slots_[id.index].wall; }
  /// In order of creation.
  std::vector<WallId> walls() const;
  std::uint64_t order(WallId id) const { return slots_[id.index].order; }
  std::span<const WallPartId> parts_of(WallId id) const { return slots_[id.index].parts; }
  /// How many places for walls, and for parts, there are: ids have an index below it.
  std::size_t slots() const { return slots_.size(); }
  std::size_t part_slots() const { return parts_.size(); }

  bool has(WallPartId id) const {
    return id.index < parts_.size() && parts_[id.index].alive && parts_[id.index].generation == id.generation;
  }
  WallId wall_of(WallPartId id) const { return parts_[id.index].wall; }
  /// Its number among those of its wall.
  std::uint32_t number(WallPartId id) const { return parts_[id.index].number; }
  /// What it is like in the frame that `leg` carries: of a wall that never moves, in the world.
  const Shape& shape(WallPartId id) const { return parts_[id.index].shape; }
  /// All that it covers, at any time.
  const Bounds& bounds(WallPartId id) const { return parts_[id.index].bounds; }
  /// Whether it may be elsewhere at another time.
  bool moves(WallId id) const { return slots_[id.index].moves; }
  /// The leg that goes with its `shape` and holds a time: of its frame, or of a wall that never moves the
  /// world's.
  Leg leg(WallId id, double time) const;
  /// The same that comes right before a time.
  Leg leg_before(WallId id, double time) const;
  /// Of its frame, whether it moves or not.
  Leg frame_leg(WallId id, double time) const;
  /// Calls `visit(leg, from, to)` for each leg between two times, in their order, until it returns false.
  template <class Visit>
  void each_leg(WallId id, double from, double to, Visit&& visit) const {
    for (double t = from;;) {
      const Leg l = leg(id, t);
      const double until = l.end > t ? std::min(l.end, to) : std::max(t, to);
      if (!visit(l, t, until)) return;
      if (!(until < to) && !(l.end == to && t < to)) return;
      t = until;
    }
  }

  /// Calls `visit(part)` for the parts whose boxes touch `box`, and perhaps for some others.
  template <class Visit>
  void touching(const Bounds& box, Visit&& visit) const {
    for (const std::uint32_t i : unindexed_) {
      if (parts_[i].alive && !parts_[i].indexed) visit(id_of(i));
    }
    tree_.touching(box, [&](std::uint32_t i) { visit(id_of(i)); });
  }
  /// Calls `visit(part, limit)` for the parts that the ray may meet within `limit`; `visit` returns the new
  /// limit, a negative one to stop. With a radius: those that a ball along the ray may meet.
  template <class Visit>
  void along(const Ray& ray, double limit, Visit&& visit, double radius = 0) const {
    for (const std::uint32_t i : unindexed_) {
      if (limit < 0) return;
      if (parts_[i].alive && !parts_[i].indexed) limit = visit(id_of(i), limit);
    }
    tree_.along(
        ray, limit, [&](std::uint32_t i, double now) { return visit(id_of(i), now); }, radius);
  }

 private:
  struct Slot {
    Wall wall;
    std::vector<WallPartId> parts;
    std::vector<Leg> legs;     ///< of its track, with its rest before and after
    std::optional<Leg> going;  ///< in a tick
    Leg before;                ///< how it came to where that begins
    std::uint64_t order = 0;
    std::uint32_t generation = 0;
    bool alive = false;
    bool moves = false;
  };
  struct Part {
    Shape shape;
    Bounds bounds;
    WallId wall;
    std::uint32_t number = 0, generation = 0;
    bool alive = false;
    bool indexed = false;
    bool listed = false;  ///< in unindexed_
  };
  WallPartId id_of(std::uint32_t part) const { return {part, parts_[part].generation}; }
  WallPartId new_part(WallId wall, std::uint32_t number);
  /// Puts the parts where the wall is, or along its way.
  void place(WallId wall);
  void unindex(std::uint32_t part);

  std::vector<Slot> slots_;
  std::vector<Part> parts_;
  std::vector<std::uint32_t> free_slots_, free_parts_, unindexed_;
  std::uint64_t next_order_ = 0;
  Tree tree_;
};

}  // namespace dardo
