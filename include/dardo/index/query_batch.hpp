#pragma once
#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>

#include "dardo/index/queries.hpp"
#include "dardo/index/tree.hpp"

namespace dardo {

/// Asks trees about many rays, lines or boxes at once, in 0.45 to 0.85 of the time that they take one by one:
/// many are under way side by side, so that the machine always has another to go on with. Answers are those
/// of one alone.
///
///     QueryBatch batch;
///     batch.first_along(tree, rays, [&](std::uint32_t ray, std::uint32_t item) -> std::optional<double> {
///       auto contact = dardo::ray(shapes[item], rays[ray]);
///       return contact ? std::optional(contact->distance) : std::nullopt;
///     }, out);
///
/// Keep it between calls, one for each thread: it holds 207 kB once it has been used, and then allocates
/// nothing.
class QueryBatch {
 public:
  /// `Tree::along` for each ray, within its length: `visit(ray number, item, limit)`. The calls for one ray
  /// come nearer boxes first, those for different rays mixed. `ahead(item)` is called before, for several at
  /// a time, so that memory can be fetched (`prefetch`): worth a tenth at 100,000 items.
  template <class Visit, class Ahead = NoPrefetch>
  void along(const Tree& tree, std::span<const Ray> rays, Visit&& visit, double radius = 0,
             Ahead&& ahead = {}) {
    start(tree, nullptr, rays, radius);
    run([&](std::uint32_t ray, std::uint32_t child,
            double limit) { return visit(ray, child & Tree::kIndex, limit); },
        [&](std::uint32_t child) { ahead(child & Tree::kIndex); });
  }
  /// `Tree::along_with`: `visit_other` and `ahead_other` for the entries of the other tree.
  template <class Visit, class VisitOther, class Ahead = NoPrefetch, class AheadOther = NoPrefetch>
  void along_with(const Tree& tree, const Tree& other, std::span<const Ray> rays, Visit&& visit,
                  VisitOther&& visit_other, double radius = 0, Ahead&& ahead = {},
                  AheadOther&& ahead_other = {}) {
    start(tree, &other, rays, radius);
    run(
        [&](std::uint32_t ray, std::uint32_t child, double limit) {
          const std::uint32_t item = child & Tree::kIndex;
          return (child & Tree::kOther) != 0 ? visit_other(ray, item, limit) : visit(ray, item, limit);
        },
        [&](std::uint32_t child) {
          const std::uint32_t item = child & Tree::kIndex;
          (child & Tree::kOther) != 0 ? ahead_other(item) : ahead(item);
        });
  }
  /// `first_along`: `out[i]` is the answer to `rays[i]`, `contact_of(ray number, item)` the exact test. `out`
  /// must be as long as `rays`.
  template <class ContactOf, class Ahead = NoPrefetch>
  void first_along(const Tree& tree, std::span<const Ray> rays, ContactOf&& contact_of,
                   std::span<std::optional<Ranked>> out, double radius = 0, Ahead&& ahead = {}) {
    std::fill(out.begin(), out.end(), std::nullopt);
    along(
        tree, rays,
        [&](std::uint32_t ray, std::uint32_t item, double limit) {
          const std::optional<double> at = contact_of(ray, item);
          std::optional<Ranked>& best = out[ray];
          if (at && (!best || Ranked{*at, item} < *best)) best = Ranked{*at, item};
          return best ? std::min(limit, best->first) : limit;
        },
        radius, ahead);
  }

  /// `Tree::cuts`: `out[i]` says whether something cuts `lines[i]`, `cuts(line number, item)` is the exact
  /// test. A line that is cut is not asked about any more. `out` must be as long as `lines`.
  template <class Cuts, class Ahead = NoPrefetch>
  void cuts(const Tree& tree, std::span<const Segment> lines, Cuts&& cuts, std::span<std::uint8_t> out,
            Ahead&& ahead = {}) {
    std::fill(out.begin(), out.end(), std::uint8_t{0});
    for (std::size_t first = 0; first < lines.size(); first += kLot) {
      start_lines(tree, lines.subspan(first, std::min(kLot, lines.size() - first)));
      visit_lots(
          [&](std::uint32_t place, std::uint32_t item) {
            const std::size_t line = first + place;
            if (out[line] != 0 || !cuts(static_cast<std::uint32_t>(line), item)) return;
            out[line] = 1;
            lot_->limit[place] = -1;
          },
          ahead);
    }
  }

  /// `Tree::touching` for each of `count` boxes, `box_of(box number)`: `visit(box number, item)`, in no
  /// order. Also the query of balls that move a short way, by the boxes around their ways, in 0.4 to 0.65 of
  /// the time of `along`:
  ///
  ///     batch.touching(tree, ways.size(), [&](std::uint32_t way) {
  ///       Bounds box{ways[way].from, ways[way].from};
  ///       box.add(ways[way].to);
  ///       return box.grown(radius);
  ///     }, [&](std::uint32_t way, std::uint32_t item) { ... });
  template <class BoxOf, class Visit, class Ahead = NoPrefetch>
  void touching(const Tree& tree, std::size_t count, BoxOf&& box_of, Visit&& visit, Ahead&& ahead = {}) {
    for (std::size_t first = 0; first < count; first += kLot) {
      start_boxes(tree);
      const auto under_way = static_cast<std::uint32_t>(std::min(kLot, count - first));
      for (std::uint32_t i = 0; i < under_way; ++i) push(box_of(static_cast<std::uint32_t>(first + i)), i);
      visit_lots([&](std::uint32_t place,
                     std::uint32_t item) { visit(static_cast<std::uint32_t>(first + place), item); },
                 ahead);
    }
  }

 private:
  friend struct BatchKernels;
  using Node = Tree::Node;
  using Line = Tree::Line;

  static constexpr std::size_t kRays = 16, kLot = 64;  ///< rays, lines or boxes under way at a time
  static constexpr std::uint32_t kTogether = 24;       ///< of a lot's stack that is taken at a time

  /// Rays under way. One that is done makes room for the next.
  struct alignas(64) Rays {
    struct Way {
      Line line;
      double limit;
      float limit_up;        ///< rounded up
      std::uint32_t number;  ///< of the ray
      std::uint32_t top;     ///< how much of the stack is in use
      /// As in Tree::RayCursor, above a first entry that is none.
      static constexpr std::size_t kRoom = 1 + 2 * Tree::kStack + Tree::kWidth;
      std::array<std::uint32_t, kRoom> stack;
      std::array<float, kRoom> enters;

      /// The item, of one that has met one.
      std::uint32_t met() const { return stack[top + 1]; }
    };
    struct Ways {
      std::array<Way*, kRays> way;
      std::size_t count = 0;
    };
    /// What is on top of a way's stack: a node, an item (which is then above the top), nothing, as below the
    /// first entry.
    enum State : std::size_t { kGoing, kMet, kIdle };

    std::array<Way, kRays> ways;
    std::array<Ways, 3> in;  ///< by state
    std::span<const Ray> rays;
    std::size_t next;  ///< the ray that comes next
    double radius;
    bool two;     ///< trees
    bool is_far;  ///< nodes are worth fetching ahead
    std::array<const Node*, 2> nodes;
    std::array<std::uint32_t, 2> roots;
    std::uint32_t roots_count;
  };
  struct Lot;
  using NextOfLot = std::size_t (*)(const Node* nodes, Lot& lot);
  /// Lines or boxes under way, whose nodes are on one stack.
  struct alignas(64) Lot {
    static constexpr std::size_t kRoom = kLot + kTogether * Tree::kStack + Tree::kWidth;
    static constexpr std::size_t kFoundRoom = Tree::kFound + kTogether + Tree::kWidth;

    std::array<Line, kLot> line;
    std::array<float, kLot> limit;  ///< of the way along the line; negative once that is cut
    std::array<std::array<float, 3>, kLot> low, high;  ///< of the box
    const Node* nodes;                                 ///< none if the tree has none
    NextOfLot next;
    std::uint32_t top;
    /// Nodes and items still to visit, and the lines or boxes that they are for.
    std::array<std::uint32_t, kRoom> stack, whose;
    std::array<std::uint32_t, kFoundRoom> found, found_whose;
  };

  void start(const Tree& tree, const Tree* other, std::span<const Ray> rays, double radius);
  /// False when there are no more rays.
  bool next();
  template <class Visit, class Ahead>
  void run(const Visit& visit, const Ahead& ahead) {
    while (next()) {
      Rays::Ways& met = rays_->in[Rays::kMet];
      for (std::size_t i = 0; i < met.count; ++i) ahead(met.way[i]->met());
      for (std::size_t i = 0; i < met.count; ++i) {
        Rays::Way& way = *met.way[i];
        way.limit = visit(way.number, way.met(), way.limit);
      }
    }
  }
  Lot& start_lot(const Tree& tree, NextOfLot next_of_lot);
  void start_lines(const Tree& tree, std::span<const Segment> lines);
  void start_boxes(const Tree& tree);
  void push(const Bounds& box, std::uint32_t place);
  /// How many are found; 0 at the end.
  std::size_t next_lot();
  template <class Visit, class Ahead>
  void visit_lots(const Visit& visit, Ahead& ahead) {
    for (std::size_t count = next_lot(); count > 0; count = next_lot()) {
      const Lot& b = *lot_;
      for (std::size_t i = 0; i < count; ++i) ahead(b.found[i] & Tree::kIndex);
      for (std::size_t i = 0; i < count; ++i) visit(b.found_whose[i], b.found[i] & Tree::kIndex);
    }
  }

  std::unique_ptr<Rays> rays_;
  std::unique_ptr<Lot> lot_;
};

}  // namespace dardo
