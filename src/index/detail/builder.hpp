#pragma once
#include <algorithm>
#include <array>
#include <bit>
#include <cstring>

#include "dardo/index/tree.hpp"
#include "index/detail/box4.hpp"

namespace dardo {
/// An entry while a tree is built: its rounded box, and its item in a lane that boxes don't use.
struct Tree::Primitive {
  detail::Box4 box;

  Primitive() = default;
  Primitive(const detail::Box4& b, std::uint32_t item) : box(b) { box.low[3] = std::bit_cast<float>(item); }
  std::uint32_t item() const { return std::bit_cast<std::uint32_t>(box.low[3]); }
  /// Twice the centre. The item is kept out of the sum: as a float it may be anything.
  detail::Quad middle() const { return detail::xyz(box.low) + box.high; }
};

/// Plans nodes over primitives, then makes them: a binary tree is cut top down where the binned surface-area
/// heuristic says (Wald, "On fast Construction of SAH-based Bounding Volume Hierarchies", 2007), down to a
/// few entries; then its branches are gathered into nodes of eight so that the sum of the nodes' areas is
/// least (the collapse of Ylitie, Karras and Laine, "Efficient Incoherent Ray Traversal on GPUs Through
/// Compressed Wide BVHs", 2017).
class Tree::Builder {
  using Quad = detail::Quad;
  using Whole = detail::Whole;
  using Box4 = detail::Box4;
  static constexpr float kInfinite = detail::kInfinite;

 public:
  using List = std::vector<Primitive>;

  /// Plans; the list, which must not be empty, is put into another order.
  Builder(Tree& tree, List& list) : tree_(tree), list_(list) {
    branches_.reserve(list.size() / 2 + 8);
    plan_.reserve(list.size() / 4 + 8);
    Part all;
    for (const Primitive& p : list) all.add(p);
    divide(0, static_cast<std::uint32_t>(list.size()), all, 0);
    gather();
  }

  /// Plans a section over the whole list; its nodes.
  std::uint32_t plan_section() { return plan({0, static_cast<std::uint32_t>(list_.size()), 0}); }

  /// Makes the nodes of the whole tree, in sections; what was there is forgotten.
  void make_all() {
    const std::size_t count = list_.size();
    // Small enough that renewing one costs little of a tick, large enough that few entries cross over.
    const std::size_t most = std::max<std::size_t>(256, count / 24);
    struct Task {
      Child child;
      std::array<float, 6> home;
      std::uint32_t parent = 0;
      std::size_t lane = 0;
    };
    std::vector<Task> above, below;
    (count > most ? above : below)
        .push_back({{0, static_cast<std::uint32_t>(count), 0}, detail::kEverywhere});
    // Nodes above the sections come first: they are made breadth first, the sections after them.
    for (std::size_t t = 0; t < above.size(); ++t) {
      const Task task = above[t];
      const auto index = static_cast<std::uint32_t>(t);
      tree_.nodes_.emplace_back();
      hang(index, task.parent, task.lane);
      const Children children = children_of(task.child);
      tree_.nodes_[index].used = static_cast<std::uint32_t>(children.count);
      for (std::size_t i = 0; i < children.count; ++i) {
        const Child& c = children.lane[i];
        set_box(index, i, box_of(c));
        (c.size() > most ? above : below).push_back({c, home_of(c, task.child.branch, task.home), index, i});
      }
    }
    tree_.top_ = static_cast<std::uint32_t>(above.size());
    std::uint32_t end = tree_.top_;
    for (const Task& t : below) {
      Section s;
      s.first = end;
      s.room = room_for(plan(t.child));
      s.planned = t.child.size();
      s.home = t.home;
      end += s.room;
      tree_.sections_.push_back(s);
    }
    tree_.nodes_.reserve(end);
    tree_.nodes_.resize(end);
    for (std::size_t i = 0; i < below.size(); ++i) {
      make(tree_.sections_[i], below[i].child, below[i].parent, below[i].lane);
    }
  }

  /// Makes the planned section, from `section.first` on, where there must be room.
  void make_section(Section& section, std::uint32_t parent, std::size_t lane) {
    make(section, {0, static_cast<std::uint32_t>(list_.size()), 0}, parent, lane);
  }

 private:
  /// Up to so many entries are cut between any two of them, not between bins.
  static constexpr std::uint32_t kSmall = 64;
  /// Up to so many stay together: in a node of their own, or in lanes of the one above.
  static constexpr std::uint32_t kFew = kWidth;

  /// The box around some entries, and the box around (twice) their centres.
  struct Part {
    Box4 box, middles;

    void add(const Primitive& p) {
      box.add(p.box);
      add_middle(p.middle());
    }
    void add_middle(const Quad& m) {
      middles.low = detail::min(middles.low, m), middles.high = detail::max(middles.high, m);
    }
  };
  /// A node of the binary tree, over the entries [first, last) of the list: those before `middle` to the
  /// left, whose own branch follows this one, the others to the right. Not cut where `middle` is `last`.
  struct Branch {
    Box4 box;
    std::uint32_t first = 0, middle = 0, last = 0;
    std::uint32_t right = 0;    ///< branch of the right side, if that has more than one entry
    std::uint32_t choices = 0;  ///< how many places go to the left of k, three bits for each k from 1 on
    int axis = -1;              ///< of the plane, if there is one
    float plane = 0;            ///< twice the centres to the left are below it

    std::uint32_t size() const { return last - first; }
    bool is_cut() const { return middle != last; }
    std::uint32_t to_left(std::size_t places) const { return choices >> (3 * (places - 1)) & 7; }
  };
  /// What a lane of a node holds: entries [first, last) of the list, and their branch if they are several.
  struct Child {
    std::uint32_t first = 0, last = 0, branch = 0;
    std::uint32_t size() const { return last - first; }
  };
  struct Children {
    std::array<Child, kWidth> lane;
    std::size_t count = 0;

    void add(const Child& c) { lane[count++] = c; }
  };

  /// Makes the branch over the entries [first, last) and all below it; its place.
  std::uint32_t divide(std::uint32_t first, std::uint32_t last, const Part& part, int depth) {
    if (last - first <= kSmall) return divide_few(first, last, part, -1);
    const auto index = static_cast<std::uint32_t>(branches_.size());
    branches_.emplace_back();
    Branch branch{part.box, first, 0, last};
    Part left, right;
    if (depth >= kDeepest || !cut(branch, part, left, right)) {
      // All in one spot, or too deep.
      left = right = Part();
      branch.middle = first + (last - first) / 2;
      for (std::uint32_t i = first; i < branch.middle; ++i) left.add(list_[i]);
      for (std::uint32_t i = branch.middle; i < last; ++i) right.add(list_[i]);
    }
    if (branch.middle - first > 1) divide(first, branch.middle, left, depth + 1);
    if (last - branch.middle > 1) branch.right = divide(branch.middle, last, right, depth + 1);
    branches_[index] = branch;
    return index;
  }

  /// Cuts where the areas of the halves times their counts are least. False when nothing can be cut.
  bool cut(Branch& branch, const Part& part, Part& left, Part& right) {
    constexpr int kBins = 16;
    struct Bin {
      Box4 box;
      std::uint32_t count = 0;
    };
    const Quad low = part.middles.low, extent = part.middles.high - low;
    const float longest = std::max({extent[0], extent[1], extent[2]});
    if (!(longest > 0)) return false;
    std::array<std::array<Bin, kBins>, 3> bins;
    // Short directions hardly ever win: they are not binned.
    std::array<std::size_t, 3> axes;
    std::size_t axes_count = 0;
    Quad scale{};
    for (int k = 0; k < 3; ++k) {
      if (extent[k] <= longest * 0.6f) continue;
      scale[k] = (kBins - 0.01f) / extent[k];
      axes[axes_count++] = static_cast<std::size_t>(k);
    }
    const auto bin_of = [&](const Quad& middle) {
      return __builtin_convertvector((middle - low) * scale, Whole);
    };
    for (std::uint32_t i = branch.first; i < branch.last; ++i) {
      const Primitive& p = list_[i];
      const auto b = bin_of(p.middle());
      for (std::size_t a = 0; a < axes_count; ++a) {
        Bin& bin = bins[axes[a]][static_cast<std::size_t>(b[axes[a]])];
        bin.box.add(p.box);
        ++bin.count;
      }
    }
    float best = kInfinite;
    int best_bin = 0;
    for (std::size_t a = 0; a < axes_count; ++a) {
      const auto& row = bins[axes[a]];
      std::array<Bin, kBins> rest;  // from a bin on
      Bin sum;
      for (std::size_t b = kBins - 1; b > 0; --b) {
        sum.box.add(row[b].box), sum.count += row[b].count;
        rest[b] = sum;
      }
      sum = {};
      for (std::size_t b = 1; b < kBins; ++b) {
        sum.box.add(row[b - 1].box), sum.count += row[b - 1].count;
        if (sum.count == 0 || rest[b].count == 0) continue;
        const float cost = sum.box.half_area() * static_cast<float>(sum.count) +
                           rest[b].box.half_area() * static_cast<float>(rest[b].count);
        if (cost < best) {
          best = cost, branch.axis = static_cast<int>(axes[a]), best_bin = static_cast<int>(b);
          branch.middle = branch.first + sum.count;
          left.box = sum.box, right.box = rest[b].box;
        }
      }
    }
    if (branch.axis < 0) return false;
    // Parted without a branch on the data (Lomuto's scheme); where the centres of both sides are is found on
    // the way.
    std::uint32_t middle = branch.first;
    std::array<Part, 2> sides;
    for (std::uint32_t i = branch.first; i < branch.last; ++i) {
      const Primitive p = list_[i];
      const Quad m = p.middle();
      const bool to_left = bin_of(m)[branch.axis] < best_bin;
      sides[to_left].add_middle(m);
      list_[i] = list_[middle];
      list_[middle] = p;
      middle += to_left;
    }
    left.middles = sides[1].middles, right.middles = sides[0].middles;
    branch.plane = low[branch.axis] + static_cast<float>(best_bin) / scale[branch.axis];
    return true;
  }

  /// What is paid for so many entries: half for the nodes of their own that they need, half for each. Counted
  /// by entries alone, nodes are emptier: a ninth more of them, for no faster rays.
  static float price_of(std::uint32_t entries) {
    const auto nodes = (entries + std::uint32_t{kWidth} - 1) / std::uint32_t{kWidth};
    return static_cast<float>(nodes * std::uint32_t{kWidth} + entries);
  }

  /// The same for few entries, in order along the axis `sorted` (or none): cut between any two of them.
  std::uint32_t divide_few(std::uint32_t first, std::uint32_t last, const Part& part, int sorted) {
    const auto index = static_cast<std::uint32_t>(branches_.size());
    const std::uint32_t size = last - first;
    branches_.push_back({part.box, first, last, last});
    if (size <= kFew) {
      few_area_ += part.box.half_area(), ++few_count_;
      return index;
    }
    const Quad extent = part.middles.high - part.middles.low;
    const int axis = extent[0] >= extent[1] && extent[0] >= extent[2] ? 0 : extent[1] >= extent[2] ? 1 : 2;
    if (axis != sorted) sort(first, last, axis);
    // Where there are many, only where one side fills its nodes: it is hardly ever better elsewhere.
    const auto is_tried = [size](std::uint32_t left) {
      return size <= 2 * kFew || left % kWidth == 0 || (size - left) % kWidth == 0;
    };
    std::array<float, kSmall> rest;
    Box4 sum;
    for (std::uint32_t i = size - 1; i > 0; --i) {
      sum.add(list_[first + i].box);
      if (is_tried(i)) rest[i] = sum.half_area() * price_of(size - i);
    }
    sum = Box4();
    float best = kInfinite;
    std::uint32_t left_size = size / 2;
    for (std::uint32_t i = 1; i < size; ++i) {
      sum.add(list_[first + i - 1].box);
      if (!is_tried(i)) continue;
      const float cost = sum.half_area() * price_of(i) + rest[i];
      if (cost < best) best = cost, left_size = i;
    }
    const std::uint32_t middle = first + left_size;
    const auto half = [&](std::uint32_t from, std::uint32_t to) {
      Part p;
      for (std::uint32_t i = from; i < to; ++i) p.add(list_[i]);
      return divide_few(from, to, p, axis);
    };
    if (left_size > 1) half(first, middle);
    const std::uint32_t right = size - left_size > 1 ? half(middle, last) : 0;
    branches_[index].middle = middle;
    branches_[index].right = right;
    return index;
  }

  /// Puts a few entries in order along the axis.
  void sort(std::uint32_t first, std::uint32_t last, int axis) {
    const std::size_t size = last - first;
    // Each counts how many are lower: no branch depends on data, and several are compared at once. The place
    // in the list, in the key's last bits, makes all keys differ.
    std::array<std::int32_t, kSmall> keys;
    const auto from = list_.begin() + first;
    for (std::size_t i = 0; i < size; ++i) {
      const auto bits = std::bit_cast<std::int32_t>(from[static_cast<std::ptrdiff_t>(i)].middle()[axis]);
      keys[i] = ((bits ^ ((bits >> 31) & 0x7fffffff)) & ~63) | static_cast<std::int32_t>(i);
    }
    std::copy(from, from + static_cast<std::ptrdiff_t>(size), moved_.begin());
    for (std::size_t i = 0; i < size; ++i) {
      std::int32_t lower = 0;
      for (std::size_t j = 0; j < size; ++j) lower += static_cast<std::int32_t>(keys[j] < keys[i]);
      from[lower] = moved_[i];
    }
  }

  /// Chooses for each branch how many of k places in a node its left side gets, for all k: so that the sum of
  /// the areas of all nodes below, and a price for each so that nodes are well filled, is least.
  void gather() {
    using Eight = float __attribute__((vector_size(4 * kWidth)));
    using EightWhole = std::int32_t __attribute__((vector_size(4 * kWidth)));
    const float price = few_area_ / static_cast<float>(std::max(few_count_, 1u));
    // What it costs to put a branch into k places at most, at [k - 1]; a choice is kept in the last bits.
    std::vector<std::array<float, kWidth>> costs(branches_.size());
    for (auto i = static_cast<std::uint32_t>(branches_.size()); i-- > 0;) {
      Branch& b = branches_[i];
      std::array<float, kWidth>& cost = costs[i];
      const float own = b.box.half_area() + price;
      const std::uint32_t size = b.size();
      if (!b.is_cut()) {
        for (std::uint32_t k = 1; k <= kWidth; ++k) cost[k - 1] = k < size ? own : 0;
        continue;
      }
      static constexpr std::array<float, kWidth> kFree{};
      const auto& left = b.middle - b.first > 1 ? costs[i + 1] : kFree;
      const auto& right = b.last - b.middle > 1 ? costs[b.right] : kFree;
      // The right side in k - l places, for all k at once; endlessly dear where there are none.
      std::array<float, 2 * kWidth> shifted;
      std::fill_n(shifted.begin(), kWidth, kInfinite);
      std::copy(right.begin(), right.end(), shifted.begin() + kWidth);
      Eight shared = Eight{} + kInfinite;
      for (std::size_t l = 1; l < kWidth; ++l) {
        Eight c;
        std::memcpy(&c, shifted.data() + kWidth - l, sizeof(c));
        c += left[l - 1];
        c = reinterpret_cast<Eight>((reinterpret_cast<EightWhole>(c) & ~7) | static_cast<std::int32_t>(l));
        shared = c < shared ? c : shared;
      }
      // In one place: a node, whose eight places are shared.
      cost[0] = own + shared[kWidth - 1];
      // Areas beyond all floats choose nothing: one place to the left is as good as any.
      b.choices = std::max(std::bit_cast<std::uint32_t>(float{shared[kWidth - 1]}) & 7, 1u);
      for (std::size_t k = 1; k < kWidth; ++k) {
        const bool apart = shared[k] < cost[k - 1];
        cost[k] = apart ? shared[k] : cost[k - 1];
        // 0: as well off with one place less.
        b.choices |= (apart ? std::bit_cast<std::uint32_t>(float{shared[k]}) & 7 : 0) << (3 * k);
      }
    }
  }

  Child side(std::uint32_t branch, bool right) const {
    const Branch& b = branches_[branch];
    return right ? Child{b.middle, b.last, b.right} : Child{b.first, b.middle, branch + 1};
  }
  const Box4& box_of(const Child& c) const {
    return c.size() > 1 ? branches_[c.branch].box : list_[c.first].box;
  }

  /// The lanes of the node over a child.
  Children children_of(const Child& c) const {
    Children out;
    if (c.size() == 1) {
      out.add(c);
    } else if (const Branch& b = branches_[c.branch]; b.is_cut()) {
      const std::uint32_t left = b.to_left(1);
      place(side(c.branch, false), left, out);
      place(side(c.branch, true), kWidth - left, out);
    } else {
      place(c, kWidth, out);
    }
    return out;
  }
  /// Puts a part into so many places at most.
  void place(const Child& c, std::size_t places, Children& out) const {
    if (c.size() == 1) {
      out.add(c);
      return;
    }
    const Branch& b = branches_[c.branch];
    if (!b.is_cut()) {
      if (c.size() <= places) {
        for (std::uint32_t i = c.first; i < c.last; ++i) out.add({i, i + 1, 0});
      } else {
        out.add(c);
      }
      return;
    }
    while (places > 1 && b.to_left(places) == 0) --places;
    if (places == 1) {
      out.add(c);
      return;
    }
    const std::uint32_t left = b.to_left(places);
    place(side(c.branch, false), left, out);
    place(side(c.branch, true), places - left, out);
  }

  /// The region of a child of a node: that of the node's branch, cut at all planes on the way.
  std::array<float, 6> home_of(const Child& child, std::uint32_t branch, std::array<float, 6> home) const {
    for (;;) {
      const Branch& b = branches_[branch];
      if (!b.is_cut() || (b.first == child.first && b.last == child.last)) return home;
      const bool right = child.first >= b.middle;
      if (b.axis >= 0) home[static_cast<std::size_t>(b.axis) + (right ? 0 : 3)] = b.plane;
      const Child next = side(branch, right);
      if (next.size() == 1) return home;
      branch = next.branch;
    }
  }

  /// Plans the node over a child and all below it, in the order in which they are made; how many.
  std::uint32_t plan(const Child& child) {
    const std::size_t index = plan_.size();
    plan_.push_back(children_of(child));
    std::uint32_t sum = 1;
    for (std::size_t i = 0; i < plan_[index].count; ++i) {
      const Child c = plan_[index].lane[i];
      if (c.size() > 1) sum += plan(c);
    }
    return sum;
  }

  void set_box(std::uint32_t index, std::size_t lane, const Box4& b) {
    Node& n = tree_.nodes_[index];
    for (int axis = 0; axis < 3; ++axis) {
      n.plane[static_cast<std::size_t>(axis)][lane] = b.low[axis];
      n.plane[static_cast<std::size_t>(axis) + 3][lane] = b.high[axis];
    }
  }

  /// Hangs a node under its parent, whose lane has its box already.
  void hang(std::uint32_t index, std::uint32_t parent, std::size_t lane) {
    Node& n = tree_.nodes_[index];
    n.parent = parent;
    n.parent_lane = static_cast<std::uint32_t>(lane);
    if (index != 0) tree_.nodes_[parent].child[lane] = index;
  }

  void make(Section& section, const Child& child, std::uint32_t parent, std::size_t lane) {
    next_ = section.first;
    cost_ = 0;
    make_node(child, parent, lane);
    section.used = next_ - section.first;
    section.count = child.size();
    section.fresh_cost = section.cost = cost_;
    section.extent = tree_.extent_of(section.first);
  }

  /// Makes the next node of the plan, which is over the child, and all below it.
  void make_node(const Child& child, std::uint32_t parent, std::size_t lane) {
    const std::uint32_t index = next_++;
    tree_.nodes_[index] = Node();
    cost_ += box_of(child).half_area();
    hang(index, parent, lane);
    const Children& children = plan_[made_++];
    for (std::size_t i = 0; i < children.count; ++i) {
      const Child& c = children.lane[i];
      if (c.size() == 1) {
        tree_.put(index, i, list_[c.first]);
        continue;
      }
      set_box(index, i, box_of(c));
      ++tree_.nodes_[index].used;
      make_node(c, index, i);
    }
  }

  Tree& tree_;
  List& list_;
  std::vector<Branch> branches_;
  std::vector<Children> plan_;
  std::size_t made_ = 0;  ///< nodes of the plan
  std::array<Primitive, kSmall> moved_;
  float few_area_ = 0;  ///< of the branches that are not cut
  std::uint32_t few_count_ = 0;
  std::uint32_t next_ = 0;
  float cost_ = 0;
};

}  // namespace dardo
