#pragma once
#include <algorithm>
#include <bit>
#include <cassert>

#include "dardo/index/tree.hpp"
#include "index/detail/box4.hpp"

namespace dardo {
/// An entry while a tree is built: its rounded box and its item. Not aligned, so that lists of it stay dense.
struct Tree::Primitive {
  detail::Box4 box;
  std::uint32_t item = 0;

  /// Twice the centre.
  detail::Quad middle() const { return box.low + box.high; }
};

/// Builds nodes over primitives, top down.
class Tree::Builder {
  using Quad = detail::Quad;
  using Whole = detail::Whole;
  using Box4 = detail::Box4;
  static constexpr float kInfinite = detail::kInfinite;

 public:
  using List = std::vector<Primitive>;

  Builder(Tree& tree, List& list) : tree_(tree), list_(list) {}

  /// The whole tree: nodes above, sections below.
  void build_all() {
    const std::size_t count = list_.size();
    // Small enough that renewing one costs little of a tick, large enough that few entries cross over.
    section_limit_ = std::max<std::size_t>(256, count / 24);
    Part all{0, count};
    measure(all);
    if (count <= section_limit_) {
      start_section(all);
      tree_.root_is_leaf_ = node(all, 0, 0, 0);
      end_section();
      tree_.top_ = 0;
      return;
    }
    // Nodes above the sections come first: they are made breadth first, the sections after them.
    struct Task {
      Part part;
      std::uint32_t parent = 0;
      std::size_t lane = 0;
    };
    std::vector<Task> above{{all}}, below;
    for (std::size_t t = 0; t < above.size(); ++t) {
      const Task task = above[t];
      const std::uint32_t index = allocate();
      hang(index, task.parent, task.lane, false);
      std::array<Part, kWidth> parts;
      const std::size_t parts_count = partition(task.part, 0, parts);
      for (std::size_t i = 0; i < parts_count; ++i) {
        const Part& p = parts[i];
        set_box(index, i, p.box);
        ++tree_.nodes_[index].used;
        (p.size() <= section_limit_ ? below : above).push_back({p, index, i});
      }
    }
    tree_.top_ = static_cast<std::uint32_t>(tree_.nodes_.size());
    for (const Task& t : below) {
      start_section(t.part);
      node(t.part, t.parent, t.lane, 1);
      end_section();
    }
  }

  /// One section again, into the room that it has; false when that is too little.
  bool build_section(Section& section, std::uint32_t parent, std::size_t lane) {
    limit_ = section.first + section.room;
    next_ = section.first;
    fixed_ = true;
    Part all{0, list_.size()};
    measure(all);
    const bool leaf = node(all, parent, lane, 1);
    if (section.first == 0) tree_.root_is_leaf_ = leaf;
    section.used = next_ - section.first;
    section.count = static_cast<std::uint32_t>(list_.size());
    return !overflow_;
  }

 private:
  static constexpr std::size_t kTwoLevels = 448;

  /// A range of the list: the box around it, and the box around (twice) the centres in it.
  struct Part {
    std::size_t first = 0, last = 0;
    Box4 box, middles;
    float area = 0;
    std::array<float, 6> home = detail::kEverywhere;

    std::size_t size() const { return last - first; }
  };

  /// Measures the part's range.
  void measure(Part& part) const {
    part.box = part.middles = Box4();
    for (std::size_t i = part.first; i < part.last; ++i) add(part, list_[i]);
    part.area = part.box.half_area();
  }
  static void add(Part& part, const Primitive& p) {
    const Quad m = p.middle();
    part.box.add(p.box);
    part.middles.low = detail::min(part.middles.low, m),
    part.middles.high = detail::max(part.middles.high, m);
  }

  std::uint32_t allocate() {
    if (fixed_) {
      if (next_ == limit_) {
        overflow_ = true;
        return limit_ - 1;  // anything valid: the result is thrown away
      }
      tree_.nodes_[next_] = Node();
      return next_++;
    }
    tree_.nodes_.emplace_back();
    return static_cast<std::uint32_t>(tree_.nodes_.size() - 1);
  }

  void start_section(const Part& part) {
    Section s;
    s.first = static_cast<std::uint32_t>(tree_.nodes_.size());
    s.count = s.planned = static_cast<std::uint32_t>(part.size());
    s.home = part.home;
    tree_.sections_.push_back(s);
  }
  void end_section() {
    Section& s = tree_.sections_.back();
    s.used = static_cast<std::uint32_t>(tree_.nodes_.size()) - s.first;
    s.room = room_for(s.used);
    tree_.nodes_.resize(s.first + s.room);
  }

  void set_box(std::uint32_t index, std::size_t lane, const Box4& b) {
    Node& n = tree_.nodes_[index];
    for (int axis = 0; axis < 3; ++axis) {
      n.plane[static_cast<std::size_t>(axis)][lane] = b.low[axis];
      n.plane[static_cast<std::size_t>(axis) + 3][lane] = b.high[axis];
    }
  }

  /// Hangs a node under its parent, whose lane has its box already.
  void hang(std::uint32_t index, std::uint32_t parent, std::size_t lane, bool leaf) {
    Node& n = tree_.nodes_[index];
    n.parent = parent;
    n.parent_lane = static_cast<std::uint32_t>(lane);
    if (index != 0) tree_.nodes_[parent].child[lane] = index | (leaf ? kLeafNode : 0);
  }

  /// Makes the node over a part and all below it; whether it holds items only.
  bool node(const Part& part, std::uint32_t parent, std::size_t lane, int depth) {
    const std::uint32_t index = allocate();
    const bool leaf = part.size() <= kWidth;
    hang(index, parent, lane, leaf);
    if (overflow_) return leaf;
    if (leaf) {
      for (std::size_t i = part.first; i < part.last; ++i) tree_.put(index, i - part.first, list_[i]);
      return true;
    }
    std::array<Part, kWidth> parts;
    const std::size_t count = partition(part, depth, parts);
    for (std::size_t i = 0; i < count && !overflow_; ++i) {
      const Part& p = parts[i];
      if (p.size() == 1) {
        tree_.put(index, i, list_[p.first]);
        continue;
      }
      set_box(index, i, p.box);
      ++tree_.nodes_[index].used;
      node(p, index, i, depth + 1);
    }
    return false;
  }

  /// Cuts a part into up to eight, always the one with the largest box.
  std::size_t partition(const Part& all, int depth, std::array<Part, kWidth>& parts) {
    const std::size_t total = all.size();
    const std::size_t whole = total <= kWidth * kWidth ? kWidth : total <= kTwoLevels ? kWidth * kWidth : 1;
    parts[0] = all;
    std::size_t count = 1;
    while (count < kWidth) {
      std::size_t widest = kWidth;
      for (std::size_t i = 0; i < count; ++i) {
        // At the last two levels a part that fits into one level less is left whole: nodes of items stay
        // full.
        if (parts[i].size() <= whole) continue;
        if (widest == kWidth || parts[i].area > parts[widest].area) widest = i;
      }
      if (widest == kWidth) break;
      cut(total, depth, parts[widest], parts[count++]);
    }
    return count;
  }

  /// Cuts `left`, the rest goes to `right`, where the areas of the halves times their counts are least:
  /// binned surface-area heuristic (Wald, "On fast Construction of SAH-based Bounding Volume Hierarchies",
  /// 2007).
  void cut(std::size_t total, int depth, Part& left, Part& right) {
    constexpr int kBins = 16;
    const std::size_t first = left.first, last = left.last, size = left.size();
    const Quad low = left.middles.low, extent = left.middles.high - low;
    const float longest = std::max({extent[0], extent[1], extent[2]});
    std::size_t at = first + size / 2;
    int axis = -1, best_bin = 0;
    Quad scale{};
    if (total <= kWidth * kWidth) {
      // At the last level: across the longest way, into whole nodes of seven or eight.
      axis = extent[0] == longest ? 0 : extent[1] == longest ? 1 : 2;
      const std::size_t unit = total <= 56 ? 7 : 8;
      at = first +
           std::clamp<std::size_t>((size / 2 + unit / 2) / unit * unit, unit, (size - 1) / unit * unit);
    } else if (longest > 0 && depth < kDeepest) {
      struct Bin {
        Box4 box;
        std::size_t count = 0;
      };
      std::array<std::array<Bin, kBins>, 3> bins;
      // Short directions hardly ever win: they are not binned.
      std::array<std::size_t, 3> axes;
      std::size_t axes_count = 0;
      for (int k = 0; k < 3; ++k) {
        if (extent[k] <= longest * 0.6f) continue;
        scale[k] = (kBins - 0.01f) / extent[k];
        axes[axes_count++] = static_cast<std::size_t>(k);
      }
      for (std::size_t i = first; i < last; ++i) {
        const Primitive& p = list_[i];
        const auto b = __builtin_convertvector((p.middle() - low) * scale, Whole);
        for (std::size_t a = 0; a < axes_count; ++a) {
          Bin& bin = bins[axes[a]][static_cast<std::size_t>(b[axes[a]])];
          bin.box.add(p.box);
          ++bin.count;
        }
      }
      float best = kInfinite;
      for (std::size_t a = 0; a < axes_count; ++a) {
        const auto& row = bins[axes[a]];
        std::array<float, kBins> right_cost{};
        Bin sum;
        for (std::size_t b = kBins - 1; b > 0; --b) {
          sum.box.add(row[b].box), sum.count += row[b].count;
          right_cost[b] = sum.box.half_area() * static_cast<float>(sum.count);
        }
        sum = {};
        for (std::size_t b = 1; b < kBins; ++b) {
          sum.box.add(row[b - 1].box), sum.count += row[b - 1].count;
          if (sum.count == 0 || sum.count == size) continue;
          const float cost = sum.box.half_area() * static_cast<float>(sum.count) + right_cost[b];
          if (cost < best) {
            best = cost, axis = static_cast<int>(axes[a]), best_bin = static_cast<int>(b),
            at = first + sum.count;
          }
        }
      }
    }
    right = Part{first, last};
    right.home = left.home;
    if (axis >= 0 && total > kWidth * kWidth) {
      // Both halves are measured while they are parted.
      left.box = left.middles = Box4();
      std::size_t i = first, end = last;
      while (i < end) {
        const Primitive p = list_[i];
        if (__builtin_convertvector((p.middle() - low) * scale, Whole)[axis] < best_bin) {
          add(left, p);
          ++i;
        } else {
          add(right, p);
          std::swap(list_[i], list_[--end]);
        }
      }
      left.home[static_cast<std::size_t>(axis) + 3] = right.home[static_cast<std::size_t>(axis)] =
          low[axis] + static_cast<float>(best_bin) / scale[axis];
      left.last = right.first = i;
      left.area = left.box.half_area(), right.area = right.box.half_area();
      return;
    }
    // By count: at the last level, when all is in one spot, or too deep. Sections are never cut like this but
    // in one spot.
    select(first, at, last, std::max(axis, 0));
    left.last = right.first = at;
    measure(left), measure(right);
  }

  /// The `at` - `first` lowest along the axis come first.
  void select(std::size_t first, std::size_t at, std::size_t last, int axis) {
    const std::size_t size = last - first;
    moved_.resize(std::max(moved_.size(), size));
    if (size <= kWidth * kWidth) {
      // Each counts how many are lower: no branch depends on data, and eight are compared at once. The place
      // in the list, in the key's last bits, makes all keys differ.
      std::array<std::int32_t, kWidth * kWidth> keys;
      for (std::size_t i = 0; i < size; ++i) {
        keys[i] = (rising(list_[first + i].middle()[axis]) & ~63) | static_cast<std::int32_t>(i);
      }
      for (std::size_t i = 0; i < size; ++i) {
        std::int32_t lower = 0;
        for (std::size_t j = 0; j < size; ++j) lower += static_cast<std::int32_t>(keys[j] < keys[i]);
        moved_[static_cast<std::size_t>(lower)] = list_[first + i];
      }
    } else {
      keys_.clear();
      for (std::size_t i = first; i < last; ++i) keys_.push_back({rising(list_[i].middle()[axis]), i});
      std::nth_element(keys_.begin(), keys_.begin() + static_cast<std::ptrdiff_t>(at - first), keys_.end());
      for (std::size_t i = 0; i < size; ++i) moved_[i] = list_[keys_[i].second];
    }
    std::copy_n(moved_.begin(), size, begin(first));
  }
  /// An integer that grows with the number.
  static std::int32_t rising(float value) {
    const auto bits = std::bit_cast<std::int32_t>(value);
    return bits ^ ((bits >> 31) & 0x7fffffff);
  }
  List::iterator begin(std::size_t i) { return list_.begin() + static_cast<std::ptrdiff_t>(i); }

  Tree& tree_;
  List& list_;
  std::vector<std::pair<std::int32_t, std::size_t>> keys_;
  List moved_;
  std::size_t section_limit_ = 0;
  bool fixed_ = false, overflow_ = false;
  std::uint32_t next_ = 0, limit_ = 0;
};

}  // namespace dardo
