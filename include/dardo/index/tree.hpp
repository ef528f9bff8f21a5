#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <limits>
#include <span>
#include <utility>
#include <vector>

#include "dardo/geometry/ball.hpp"
#include "dardo/geometry/bounds.hpp"
#include "dardo/geometry/ray.hpp"
#include "dardo/prefetch.hpp"

namespace dardo {

/// An entry of an index: a box and the caller's number for what is in it.
struct Entry {
  Bounds bounds;
  std::uint32_t item = 0;
};

struct TreeKernels;
namespace detail {
struct Box4;
}

/// A bounding-volume tree, eight boxes a node, held as floats rounded outward: it never loses an entry that
/// touches what is asked, and may name one that does not. The caller's exact test decides.
///
///     Tree tree;
///     tree.build(entries);
///     tree.along(ray, ray.length, [&](std::uint32_t item, double limit) {
///       auto hit = dardo::ray(shapes[item], ray);
///       return hit ? std::min(limit, hit->distance) : limit;   // nothing beyond this is asked again
///     });
///
/// Items are small numbers of the caller's (below 2^29), each there at most once. When things move, `refit`
/// takes their new boxes and keeps the tree good: each call also moves what has jumped to where it belongs,
/// and renews a small part of the tree, the part that has lost most, so that its quality stays near that of a
/// fresh one however far everything travels: within a seventh where all walk, two fifths where all go a metre
/// a tick or one in a hundred jumps.
///
/// A query allocates nothing. Reading from several threads at once is safe while nobody changes the tree. The
/// node tests use what vector unit the machine has; answers do not depend on it. `PlainLoop` answers the same
/// questions by looking at every entry.
class Tree {
 public:
  /// Forgets what was there. Entries with empty bounds are left out.
  void build(std::span<const Entry> entries);

  /// Takes a new box for every entry, `bounds_of(item)` (never empty; asked for once), and renews what has
  /// lost most: a fortieth of the tree, or up to three tenths where it has lost much.
  ///
  /// `ahead(item)` is called a little before an item's box is asked for, so that memory can be fetched
  /// (`prefetch`): worth a fifth (10,000 items) to almost half of the time (100,000).
  template <class BoundsOf, class Ahead = NoPrefetch>
  void refit(BoundsOf&& bounds_of, Ahead&& ahead = {}) {
    Refit r;
    // The boxes of one lot are asked for while those of the next are on their way. What is asked for has been
    // listed before, so that no branch waits for a node, and memory is fetched all along, not in bursts.
    for (bool more = start(r); more; more = next(r)) {
      const RefitLot &now = r.lots[r.now], &then = r.lots[1 - r.now];
      for (std::uint32_t i = now.count; i < then.count; ++i) ahead(then.item[i]);
      for (std::uint32_t i = now.count; i < r.lines; ++i) r.fetch_upcoming(i);
      for (std::uint32_t i = 0; i < now.count; ++i) {
        if (i < then.count) ahead(then.item[i]);
        r.fetch_upcoming(i);
        set_fresh(r.fresh[0].plane[0].data() + now.place[i], bounds_of(now.item[i]));
      }
    }
    finish_refit();
  }
  /// Adds an entry. Requires that its item is not there. Empty bounds are left out.
  void insert(const Entry& entry);
  /// False when there is no such item.
  bool remove(std::uint32_t item);

  bool has(std::uint32_t item) const { return item < where_.size() && where_[item] != 0; }
  std::size_t size() const { return size_; }
  /// The sum of all nodes' areas, m^2: what a query is expected to cost, up to a factor. Compare it with that
  /// of a fresh tree over the same entries.
  double quality_cost() const;
  /// Memory held, bytes.
  std::size_t bytes() const;

  /// Calls `visit(item, limit)` for the entries whose boxes the ray meets within `limit`, nearer boxes first
  /// (roughly); `visit` returns the new limit, a negative one to stop. Boxes are taken as grown by `radius`:
  /// that makes it the query of a moving ball.
  template <class Visit>
  void along(const Ray& ray, double limit, Visit&& visit, double radius = 0) const {
    if (limit < 0) return;
    RayCursor cursor;
    for (bool found = start(cursor, nullptr, ray, radius, limit); found; found = next(cursor, limit)) {
      limit = visit(cursor.found & kIndex, limit);
      if (limit < 0) return;
    }
  }

  /// Goes through two trees at once, nearest first over both: `visit(item, limit)` for this one's entries,
  /// `visit_other(item, limit)` for the other's. As good as one tree over all, though what moves and what
  /// stands can be kept apart.
  template <class Visit, class VisitOther>
  void along_with(const Tree& other, const Ray& ray, double limit, Visit&& visit, VisitOther&& visit_other,
                  double radius = 0) const {
    if (limit < 0) return;
    RayCursor cursor;
    for (bool found = start(cursor, &other, ray, radius, limit); found; found = next(cursor, limit)) {
      const std::uint32_t item = cursor.found & kIndex;
      limit = (cursor.found & kOther) != 0 ? visit_other(item, limit) : visit(item, limit);
      if (limit < 0) return;
    }
  }

  /// Whether something cuts a line: calls `visit(item)` for the entries whose boxes the segment meets, in no
  /// order, until it returns true. Returns whether it did.
  template <class Visit>
  bool cuts(const Segment& segment, Visit&& visit) const {
    SegmentCursor cursor;
    for (std::size_t count = start(cursor, segment); count > 0; count = next(cursor)) {
      for (std::size_t i = 0; i < count; ++i) {
        if (visit(cursor.found[i] & kIndex)) return true;
      }
    }
    return false;
  }

  /// Calls `visit(item)` for the entries whose boxes touch `box`. `ahead(item)` is called before, for several
  /// at a time, so that memory can be fetched (`prefetch`): worth half of the time where many are found among
  /// more than fit into the cache (100,000 items).
  template <class Visit, class Ahead = NoPrefetch>
  void touching(const Bounds& box, Visit&& visit, Ahead&& ahead = {}) const {
    visit_lots<BoxCursor>(box, visit, ahead);
  }
  /// The same for the entries whose boxes touch the ball.
  template <class Visit, class Ahead = NoPrefetch>
  void touching(const Ball& ball, Visit&& visit, Ahead&& ahead = {}) const {
    visit_lots<BallCursor>(ball, visit, ahead);
  }

 private:
  friend struct TreeKernels;
  friend class QueryBatch;

  static constexpr std::size_t kWidth = 8;
  static constexpr std::uint32_t kNothing = 0;          ///< the root is nobody's child
  static constexpr std::uint32_t kItem = 0x80000000u;   ///< the lane holds an item
  static constexpr std::uint32_t kOther = 0x20000000u;  ///< in a query: of the second tree
  static constexpr std::uint32_t kIndex = 0x1fffffffu;
  static constexpr int kDeepest = 32;            ///< below this, parts are halved: at most 29 levels more
  static constexpr std::uint32_t kLot = 8;       ///< nodes whose entries are asked for together in a refit
  static constexpr std::size_t kLine = 64;       ///< of memory, bytes
  static constexpr std::size_t kFound = 56;      ///< an unordered query hands them over in lots
  static constexpr std::uint32_t kTogether = 2;  ///< nodes that it looks at side by side
  static constexpr std::size_t kStack = 7 * (kDeepest + 30);

  /// Eight boxes side by side. Lanes that hold nothing have boxes that nothing meets. Aligned as a whole:
  /// lines of memory come in pairs, and no node lies in two pages.
  struct alignas(256) Node {
    std::array<std::array<float, kWidth>, 6> plane;  ///< low x, y, z, high x, y, z
    std::array<std::uint32_t, kWidth> child;
    std::uint32_t used = 0;  ///< lanes that hold something
    std::uint32_t parent = 0;
    std::uint32_t parent_lane = 0;
    std::array<std::uint32_t, 5> spare{};

    Node() {
      for (std::size_t i = 0; i < kWidth; ++i) clear(i);
    }
    void clear(std::size_t lane) {
      child[lane] = kNothing;
      for (std::size_t axis = 0; axis < 3; ++axis) {
        plane[axis][lane] = std::numeric_limits<float>::infinity();
        plane[axis + 3][lane] = -std::numeric_limits<float>::infinity();
      }
    }
    /// A float below `v` by more than a few rounding steps of it.
    static float down(double v) {
      const float f = static_cast<float>(v);
      return f - (std::fabs(f) * kRoom + kLeast);
    }
    static float up(double v) { return -down(-v); }
    /// The least room is wider than the widest tolerance of the exact tests (7e-8 m, at 1e7 m), so that what
    /// touches at coordinate 0 is named; and divided by the smallest direction longer than any way.
    static constexpr float kRoom = 6e-7f, kLeast = 1e-7f, kSmallestDirection = 1e-18f;
  };

  /// New boxes of a node's items, not yet rounded; only lanes that hold items are set.
  struct alignas(64) FreshLanes {
    std::array<std::array<double, kWidth>, 6> plane;
  };
  /// Sets one lane, whose first plane is at `lane`.
  static void set_fresh(double* lane, const Bounds& b) {
    lane[0 * kWidth] = b.low.x, lane[1 * kWidth] = b.low.y, lane[2 * kWidth] = b.low.z;
    lane[3 * kWidth] = b.high.x, lane[4 * kWidth] = b.high.y, lane[5 * kWidth] = b.high.z;
  }

  /// Some nodes of a section, and their entries: the items, and where their first planes are in the lot's
  /// fresh lanes.
  struct RefitLot {
    std::uint32_t first = 0, last = 0;  ///< nodes
    std::uint32_t section = 0;
    std::uint32_t count = 0;
    std::array<std::uint32_t, (kLot + 1) * kWidth> item, place;  ///< written in whole vectors
  };
  /// Goes through all nodes in lots, the last first, as children come after their parents.
  struct Refit {
    std::array<FreshLanes, kLot> fresh{};  ///< of the lot that is asked for now
    std::array<RefitLot, 2> lots;
    std::size_t now = 0;          ///< which lot that is
    std::uintptr_t upcoming = 0;  ///< where the nodes end that are listed next
    std::uint32_t lines = 0;      ///< of memory that they are in

    /// The last line first: the machine then sees that memory is gone through downward, and fetches ahead by
    /// itself. Beyond the first line there are more nodes, or nothing, which does no harm.
    void fetch_upcoming(std::uint32_t line) const {
      // An address, not a pointer, as it may lie before the first node.
      // NOLINTNEXTLINE(performance-no-int-to-ptr)
      __builtin_prefetch(reinterpret_cast<const void*>(upcoming - (line + 1) * kLine));
    }
  };

  /// A line as the slab test wants it: a plane at x is met after x * inverse + start of the way. The radius
  /// and all rounding are in it, the near planes' and the far planes' apart. The fourth lanes mean nothing.
  struct alignas(16) Line {
    std::array<float, 4> inverse, near_start, inverse_far, far_start;
    std::array<std::uint32_t, 4> near_plane, far_plane;  ///< the place of its first lane in a node
  };
  struct RayCursor {
    Line line;
    std::uint32_t top;                 ///< of the stack
    std::uint32_t found;               ///< the item that was met
    std::array<const Node*, 2> nodes;  ///< of the one or two trees
    bool two;                          ///< trees
    const TreeKernels* kernels;
    /// Nodes and items still to visit, the nearest on top, and where their boxes are entered.
    std::array<std::uint32_t, 2 * kStack + kWidth> stack;
    std::array<float, 2 * kStack + kWidth> enters;
  };
  struct SegmentCursor {
    Line line;
    std::uint32_t top;
    std::array<std::uint32_t, kWidth> found;  ///< the items that were met
    std::array<std::uint32_t, kStack + kWidth> stack;
  };
  struct BoxCursor {
    std::array<float, 3> low, high;
    std::uint32_t top;
    std::array<std::uint32_t, kFound + (kTogether + 1) * kWidth> found;
    std::array<std::uint32_t, kTogether * kStack + kWidth> stack;
  };
  struct BallCursor {
    std::array<float, 3> center;
    float squared;  ///< of the radius, rounded up
    std::uint32_t top;
    std::array<std::uint32_t, kFound + (kTogether + 1) * kWidth> found;
    std::array<std::uint32_t, kTogether * kStack + kWidth> stack;
  };

  /// A part of the tree that is renewed at once: the nodes [first, first + room), of which `used` are in use,
  /// and the region in which the centres of its entries belong. The regions of all sections tile space.
  struct Section {
    std::uint32_t first = 0, room = 0, used = 0;
    std::uint32_t count = 0, planned = 0;  ///< entries, now and when the tree was built
    std::array<float, 6> home{};           ///< twice the centre: low x, y, z, high x, y, z
    float cost = 0, fresh_cost = 0;        ///< sum of its nodes' areas, now and when it was last renewed
    float extent = 0;                      ///< of its box then, along its longest side
  };

  template <class Cursor, class Shape, class Visit, class Ahead>
  void visit_lots(const Shape& shape, Visit& visit, Ahead& ahead) const {
    Cursor cursor;
    for (std::size_t count = start(cursor, shape); count > 0; count = next(cursor)) {
      for (std::size_t i = 0; i < count; ++i) ahead(cursor.found[i] & kIndex);
      for (std::size_t i = 0; i < count; ++i) visit(cursor.found[i] & kIndex);
    }
  }

  struct Primitive;
  class Builder;
  bool start(RayCursor& cursor, const Tree* other, const Ray& ray, double radius, double limit) const;
  std::size_t start(SegmentCursor& cursor, const Segment& segment) const;
  std::size_t start(BoxCursor& cursor, const Bounds& box) const;
  std::size_t start(BallCursor& cursor, const Ball& ball) const;
  bool next(RayCursor& cursor, double limit) const;
  std::size_t next(SegmentCursor& cursor) const;
  std::size_t next(BoxCursor& cursor) const;
  std::size_t next(BallCursor& cursor) const;
  /// False when there is nothing to go through.
  template <class Cursor>
  bool push_root(Cursor& c) const {
    if (size_ > 0) c.stack[c.top++] = 0;
    return size_ > 0;
  }
  /// Lists the first lots; false when there are none.
  bool start(Refit& refit);
  /// Takes the boxes of a lot and goes on to the next; false after the last.
  bool next(Refit& refit);
  void place_below(const RefitLot& above, RefitLot& lot) const;
  void list_below(const RefitLot& above, RefitLot& lot) const;
  void announce_below(const RefitLot& lot, Refit& refit) const;
  void finish_refit();
  void build_from(std::vector<Primitive>& primitives);
  void collect(std::uint32_t first, std::uint32_t last, std::vector<Primitive>& out) const;
  void take_leavers(Section& section, std::vector<Primitive>& leavers);
  std::size_t renewal() const;
  bool renew(Section& section, std::vector<Primitive>& leavers);
  bool rebuild(Section& section, std::vector<Primitive>& list);
  bool add(const Primitive& primitive);
  void grow_above(std::uint32_t node, const detail::Box4& box);
  /// Nodes that a section has room for when it is built with so many.
  static std::uint32_t room_for(std::uint32_t used) { return used + used / 4 + 5; }
  Section* section_of(const Primitive& primitive);
  void put(std::uint32_t node, std::size_t lane, const Primitive& primitive);
  float settle(std::uint32_t first, std::uint32_t last);
  detail::Box4 box_of(std::uint32_t node) const;
  float extent_of(std::uint32_t node) const;

  std::vector<Node> nodes_;  ///< the root first; children always after their parents
  std::vector<Section> sections_;
  std::vector<Section> left_;         ///< places that sections have outgrown
  std::vector<std::uint32_t> where_;  ///< item -> node * kWidth + lane + 1; 0: not there
  std::uint32_t top_ = 0;             ///< the nodes above all sections are the first of nodes_
  std::size_t size_ = 0;
  std::size_t credit_ = 0;                ///< entries that may be renewed by now
  const TreeKernels* kernels_ = nullptr;  ///< of this machine; set when something is built
};

}  // namespace dardo
