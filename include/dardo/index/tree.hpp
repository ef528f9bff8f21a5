#pragma once
#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "dardo/geometry/bounds.hpp"
#include "dardo/geometry/ray.hpp"

namespace dardo {

/// An entry of an index: a box and the caller's number for what is in it.
struct Entry {
  Bounds bounds;
  std::uint32_t item = 0;
};

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
/// A query allocates nothing. Reading from several threads at once is safe while nobody builds.
/// `PlainLoop` answers the same questions by looking at every entry.
class Tree {
 public:
  /// Forgets what was there. Entries with empty bounds are left out.
  void build(std::span<const Entry> entries);

  std::size_t size() const { return items_.size(); }
  /// Memory held, bytes.
  std::size_t bytes() const {
    return nodes_.capacity() * sizeof(Node) + items_.capacity() * sizeof(std::uint32_t);
  }

  /// Calls `visit(item, limit)` for the entries whose boxes the ray meets within `limit`, nearer boxes first
  /// (roughly); `visit` returns the new limit, a negative one to stop. Boxes are taken as grown by `radius`.
  template <class Visit>
  void along(const Ray& ray, double limit, Visit&& visit, double radius = 0) const {
    RayWalk walk = start(ray, radius);
    for (std::uint32_t item = 0; limit >= 0 && next(walk, limit, item);) limit = visit(item, limit);
  }

  /// Calls `visit(item)` for the entries whose boxes touch `box`.
  template <class Visit>
  void touching(const Bounds& box, Visit&& visit) const {
    BoxWalk walk = start(box);
    for (std::uint32_t item = 0; next(walk, item);) visit(item);
  }

 private:
  static constexpr std::size_t kWidth = 8;
  static constexpr std::uint32_t kNothing = 0xffffffffu, kLeaf = 0x80000000u;
  /// Seven pushes a level at most; a tree of 2^31 entries split at least 8 to 1 (see build) is far below
  /// this.
  static constexpr std::size_t kStack = 7 * 40;

  struct Node {
    std::array<float, kWidth> low_x, low_y, low_z, high_x, high_y, high_z;
    std::array<std::uint32_t, kWidth> child;  ///< a node, or kLeaf | a place in items_, or kNothing
  };
  struct Pending {
    std::uint32_t child;
    float enter;
  };
  struct RayWalk {
    std::array<float, 3> from, inverse;
    float radius;
    std::size_t count;
    std::array<Pending, kStack> stack;
  };
  struct BoxWalk {
    std::array<float, 3> low, high;
    std::size_t count;
    std::array<std::uint32_t, kStack> stack;
  };

  struct Work;
  std::uint32_t split(Work& work, std::size_t first, std::size_t last, int depth);
  RayWalk start(const Ray& ray, double radius) const;
  BoxWalk start(const Bounds& box) const;
  bool next(RayWalk& walk, double limit, std::uint32_t& item) const;
  bool next(BoxWalk& walk, std::uint32_t& item) const;

  std::vector<Node> nodes_;
  std::vector<std::uint32_t> items_;
};

/// The same questions, answered by looking at every entry: what a tree is checked against.
class PlainLoop {
 public:
  void build(std::span<const Entry> entries) { entries_.assign(entries.begin(), entries.end()); }
  std::size_t size() const { return entries_.size(); }

  template <class Visit>
  void along(const Ray&, double limit, Visit&& visit, double = 0) const {
    for (const Entry& e : entries_) {
      if (limit < 0) return;
      limit = visit(e.item, limit);
    }
  }
  template <class Visit>
  void touching(const Bounds& box, Visit&& visit) const {
    for (const Entry& e : entries_) {
      if (overlaps(e.bounds, box)) visit(e.item);
    }
  }

 private:
  std::vector<Entry> entries_;
};

}  // namespace dardo
