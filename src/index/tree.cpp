#include "dardo/index/tree.hpp"

#include <bit>
#include <cassert>

#include "index/detail/kernels.hpp"

namespace dardo {
namespace {

/// Four floats in a register of any x86-64 or ARM machine; `a < b ? a : b` is one instruction.
using Quad = float __attribute__((vector_size(16)));
using Whole = int __attribute__((vector_size(16)));

Quad min(Quad a, Quad b) { return a < b ? a : b; }
Quad max(Quad a, Quad b) { return a > b ? a : b; }

constexpr float kInfinite = std::numeric_limits<float>::infinity();

/// A box of floats.
struct Box4 {
  Quad low{kInfinite, kInfinite, kInfinite, 0}, high{-kInfinite, -kInfinite, -kInfinite, 0};

  void add(const Box4& b) { low = min(low, b.low), high = max(high, b.high); }
  float half_area() const {
    const Quad e = high - low;
    return e[0] < 0 ? 0 : e[0] * e[1] + e[1] * e[2] + e[2] * e[0];
  }
};

Box4 box4(float x0, float y0, float z0, float x1, float y1, float z1) {
  Box4 b;
  b.low = Quad{x0, y0, z0, 0};
  b.high = Quad{x1, y1, z1, 0};
  return b;
}

/// One part in this many is renewed in each refit.
constexpr std::size_t kRenewal = 48;

constexpr std::array<float, 6> kEverywhere{-kInfinite, -kInfinite, -kInfinite,
                                           kInfinite,  kInfinite,  kInfinite};

}  // namespace

/// An entry while a tree is built: its rounded box and its item. Not aligned, so that lists of it stay dense.
struct Tree::Primitive {
  Box4 box;
  std::uint32_t item = 0;

  /// Twice the centre.
  Quad middle() const { return box.low + box.high; }
};

/// Builds nodes over primitives, top down.
class Tree::Builder {
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
    std::array<float, 6> home = kEverywhere;

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
    part.middles.low = min(part.middles.low, m), part.middles.high = max(part.middles.high, m);
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
    s.room = s.used + s.used / 5 + 3;
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

  /// The `at` - `first` lowest along the axis come first; ties go by item, so that the result is always the
  /// same.
  void select(std::size_t first, std::size_t at, std::size_t last, int axis) {
    // Keys and places are sorted, then the primitives moved once: cheaper than moving them while sorting.
    keys_.clear();
    for (std::size_t i = first; i < last; ++i) {
      const auto bits = std::bit_cast<std::uint32_t>(list_[i].middle()[axis]);
      const std::uint32_t rising = bits ^ ((bits >> 31) != 0 ? 0xffffffffu : 0x80000000u);
      keys_.push_back({static_cast<std::uint64_t>(rising) << 32 | list_[i].item, i});
    }
    std::nth_element(keys_.begin(), keys_.begin() + static_cast<std::ptrdiff_t>(at - first), keys_.end());
    moved_.clear();
    for (const auto& [key, place] : keys_) moved_.push_back(list_[place]);
    std::copy(moved_.begin(), moved_.end(), begin(first));
  }
  List::iterator begin(std::size_t i) { return list_.begin() + static_cast<std::ptrdiff_t>(i); }

  Tree& tree_;
  List& list_;
  std::vector<std::pair<std::uint64_t, std::size_t>> keys_;
  List moved_;
  std::size_t section_limit_ = 0;
  bool fixed_ = false, overflow_ = false;
  std::uint32_t next_ = 0, limit_ = 0;
};

namespace {

Box4 rounded(const Bounds& b, float (*down)(double)) {
  return box4(down(b.low.x), down(b.low.y), down(b.low.z), -down(-b.high.x), -down(-b.high.y),
              -down(-b.high.z));
}

}  // namespace

void Tree::build(std::span<const Entry> entries) {
  std::vector<Primitive> primitives;
  primitives.reserve(entries.size());
  for (const Entry& e : entries) {
    if (!e.bounds.empty()) primitives.push_back({rounded(e.bounds, Node::down), e.item});
  }
  build_from(primitives);
}

void Tree::build_from(std::vector<Primitive>& primitives) {
  nodes_.clear();
  sections_.clear();
  kernels_ = &TreeKernels::best();
  std::uint32_t most = 0;
  for (const Primitive& p : primitives) most = std::max(most, p.item + 1);
  where_.assign(most, 0);
  size_ = primitives.size();
  if (primitives.empty()) return;
  nodes_.reserve(primitives.size() / 4 + 64);
  Builder(*this, primitives).build_all();
  nodes_.shrink_to_fit();
  for (Section& s : sections_) s.fresh_cost = s.cost = settle(s.first, s.first + s.used);
}

void Tree::put(std::uint32_t node, std::size_t lane, const Primitive& p) {
  Node& n = nodes_[node];
  for (int axis = 0; axis < 3; ++axis) {
    n.plane[static_cast<std::size_t>(axis)][lane] = p.box.low[axis];
    n.plane[static_cast<std::size_t>(axis) + 3][lane] = p.box.high[axis];
  }
  n.child[lane] = p.item | kItem;
  ++n.used;
  where_[p.item] = node * static_cast<std::uint32_t>(kWidth) + static_cast<std::uint32_t>(lane) + 1;
}

/// Makes the boxes of the nodes [first, last) right from the bottom up, those of their own lanes in their
/// parents included; the sum of their areas.
float Tree::settle(std::uint32_t first, std::uint32_t last) {
  float cost = 0;
  for (std::uint32_t i = last; i-- > first;) {
    const Node& n = nodes_[i];
    if (n.used == 0) continue;
    alignas(16) std::array<float, 6> box;
    kernels_->around(n, box.data());
    const float x = box[3] - box[0], y = box[4] - box[1], z = box[5] - box[2];
    cost += x * y + y * z + z * x;
    if (i == 0) break;
    Node& parent = nodes_[n.parent];
    for (std::size_t p = 0; p < 6; ++p) parent.plane[p][n.parent_lane] = box[p];
  }
  return cost;
}

void Tree::collect(std::uint32_t first, std::uint32_t last, std::vector<Primitive>& out) const {
  for (std::uint32_t i = first; i < last; ++i) {
    const Node& n = nodes_[i];
    if (n.used == 0) continue;
    for (std::size_t lane = 0; lane < kWidth; ++lane) {
      if ((n.child[lane] & kItem) == 0) continue;
      const auto& p = n.plane;
      out.push_back({box4(p[0][lane], p[1][lane], p[2][lane], p[3][lane], p[4][lane], p[5][lane]),
                     n.child[lane] & ~kItem});
    }
  }
}

void Tree::finish_refit() {
  if (nodes_.empty()) return;
  for (Section& s : sections_) s.cost = settle(s.first, s.first + s.used);
  settle(0, top_);

  // Renew the sections that have lost most, a small part of the tree.
  std::vector<Section*> worn;
  for (Section& s : sections_) {
    if (s.cost > s.fresh_cost * 1.01f) worn.push_back(&s);
  }
  const auto loss = [](const Section* s) { return s->fresh_cost > 0 ? s->cost / s->fresh_cost : kInfinite; };
  std::sort(worn.begin(), worn.end(), [&](const Section* a, const Section* b) {
    const float x = loss(a), y = loss(b);
    return x != y ? x > y : a->first < b->first;
  });
  credit_ = worn.empty() ? 0 : std::min(credit_ + size_ / kRenewal + 1, size_);
  std::vector<Primitive> leavers;
  bool fits = true;
  for (Section* s : worn) {
    if (s->count > credit_ || !fits) break;
    credit_ -= s->count;
    fits = renew(*s, leavers);
  }
  for (std::size_t i = 0; i < leavers.size() && fits; ++i) {
    fits = add(leavers[i]);
    if (!fits) leavers.erase(leavers.begin(), leavers.begin() + static_cast<std::ptrdiff_t>(i));
  }
  if (!fits) {
    std::vector<Primitive> all = std::move(leavers);
    collect(0, static_cast<std::uint32_t>(nodes_.size()), all);
    build_from(all);
    return;
  }
  settle(0, top_);
}

/// Builds a section again from the entries that belong to its home; the others go to `leavers`. False when
/// its room does not do: then nothing has changed.
bool Tree::renew(Section& section, std::vector<Primitive>& leavers) {
  std::vector<Primitive> list;
  list.reserve(section.count);
  collect(section.first, section.first + section.used, list);
  const auto stays = [&](const Primitive& p) {
    const Quad m = p.middle();
    const auto& h = section.home;
    return m[0] >= h[0] && m[1] >= h[1] && m[2] >= h[2] && m[0] < h[3] && m[1] < h[4] && m[2] < h[5];
  };
  const auto end = std::partition(list.begin(), list.end(), stays);
  if (end == list.begin()) return true;  // nobody would stay: the section is left as it is
  const std::size_t old_leavers = leavers.size();
  leavers.insert(leavers.end(), end, list.end());
  list.erase(end, list.end());
  const Node root = nodes_[section.first];
  const std::vector<Node> before(nodes_.begin() + section.first,
                                 nodes_.begin() + section.first + section.used);
  const std::uint32_t used = section.used, count = section.count;
  // What is not built over must not look as if it held something.
  std::fill(nodes_.begin() + section.first, nodes_.begin() + section.first + used, Node());
  if (!Builder(*this, list).build_section(section, root.parent, root.parent_lane)) {
    std::fill(nodes_.begin() + section.first, nodes_.begin() + section.first + section.room, Node());
    std::copy(before.begin(), before.end(), nodes_.begin() + section.first);
    section.used = used, section.count = count;
    leavers.resize(old_leavers);
    return false;
  }
  section.fresh_cost = section.cost = settle(section.first, section.first + section.used);
  return true;
}

Tree::Section* Tree::section_of(const Primitive& p) {
  const Quad m = p.middle();
  for (Section& s : sections_) {
    const auto& h = s.home;
    if (m[0] >= h[0] && m[1] >= h[1] && m[2] >= h[2] && m[0] < h[3] && m[1] < h[4] && m[2] < h[5]) return &s;
  }
  return sections_.empty() ? nullptr : &sections_.front();
}

/// Makes the parent's lane of a node say what the node holds.
void Tree::link(std::uint32_t node, bool leaf) {
  if (node == 0) {
    root_is_leaf_ = leaf;
  } else {
    nodes_[nodes_[node].parent].child[nodes_[node].parent_lane] = node | (leaf ? kLeafNode : 0);
  }
}

/// Adds to the section that the primitive belongs to; false when that has no room left.
bool Tree::add(const Primitive& p) {
  Section* const section = section_of(p);
  if (section == nullptr || section->count > 2 * section->planned + 64) return false;
  // Down to a node of items, always where the box grows least.
  std::uint32_t node = section->first;
  bool leaf = node == 0 ? root_is_leaf_
                        : (nodes_[nodes_[node].parent].child[nodes_[node].parent_lane] & kLeafNode) != 0;
  for (int depth = 0; !leaf; ++depth) {
    if (depth > kDeepest) return false;
    Node& n = nodes_[node];
    std::size_t best = kWidth;
    float least = kInfinite;
    for (std::size_t lane = 0; lane < kWidth; ++lane) {
      if (n.child[lane] == kNothing || (n.child[lane] & kItem) != 0) continue;
      const auto& q = n.plane;
      const Box4 box = box4(q[0][lane], q[1][lane], q[2][lane], q[3][lane], q[4][lane], q[5][lane]);
      Box4 grown = box;
      grown.add(p.box);
      const float growth = grown.half_area() - box.half_area();
      if (growth < least) least = growth, best = lane;
    }
    if (best == kWidth) {
      // Only items here, though it is not a node of items alone: room in it will do.
      break;
    }
    leaf = (n.child[best] & kLeafNode) != 0;
    node = n.child[best] & kIndex;
  }
  if (nodes_[node].used == kWidth) {
    // Full: it becomes a node over two, which share its entries along the longer way.
    if (section->used + 2 > section->room) return false;
    std::vector<Primitive> list;
    collect(node, node + 1, list);
    if (list.size() < kWidth) return false;
    Quad low{kInfinite, kInfinite, kInfinite, 0}, high = -low;
    for (const Primitive& e : list) low = min(low, e.middle()), high = max(high, e.middle());
    const Quad extent = high - low;
    const int axis = extent[0] >= extent[1] && extent[0] >= extent[2] ? 0 : extent[1] >= extent[2] ? 1 : 2;
    std::sort(list.begin(), list.end(), [axis](const Primitive& a, const Primitive& b) {
      const float x = a.middle()[axis], y = b.middle()[axis];
      return x != y ? x < y : a.item < b.item;
    });
    Node& n = nodes_[node];
    for (std::size_t lane = 0; lane < kWidth; ++lane) n.clear(lane);
    n.used = 2;
    link(node, false);
    const std::uint32_t made = section->first + section->used;
    section->used += 2;
    for (std::uint32_t half = 0; half < 2; ++half) {
      Node& m = nodes_[made + half];
      m = Node();
      m.parent = node, m.parent_lane = half;
      for (std::size_t i = 0; i < kWidth / 2; ++i) put(made + half, i, list[half * (kWidth / 2) + i]);
      link(made + half, true);
    }
    settle(made, made + 2);
    node = made + (p.middle()[axis] < list[kWidth / 2].middle()[axis] ? 0 : 1);
  }
  std::size_t lane = 0;
  while (nodes_[node].child[lane] != kNothing) ++lane;
  put(node, lane, p);
  ++section->count;
  for (; node != 0; node = nodes_[node].parent) {
    Node& parent = nodes_[nodes_[node].parent];
    const std::uint32_t l = nodes_[node].parent_lane;
    for (std::size_t axis = 0; axis < 3; ++axis) {
      parent.plane[axis][l] = std::min(parent.plane[axis][l], p.box.low[static_cast<int>(axis)]);
      parent.plane[axis + 3][l] = std::max(parent.plane[axis + 3][l], p.box.high[static_cast<int>(axis)]);
    }
  }
  return true;
}

void Tree::insert(const Entry& entry) {
  if (entry.bounds.empty()) return;
  const Primitive p{rounded(entry.bounds, Node::down), entry.item};
  if (entry.item >= where_.size()) where_.resize(entry.item + 1, 0);
  assert(where_[entry.item] == 0 && "an item is there at most once");
  if (size_ == 0 || !add(p)) {
    std::vector<Primitive> all{p};
    collect(0, static_cast<std::uint32_t>(nodes_.size()), all);
    build_from(all);
    return;
  }
  ++size_;
}

bool Tree::remove(std::uint32_t item) {
  if (item >= where_.size() || where_[item] == 0) return false;
  const std::uint32_t place = where_[item] - 1;
  std::uint32_t node = place / static_cast<std::uint32_t>(kWidth);
  std::size_t lane = place % kWidth;
  where_[item] = 0;
  --size_;
  std::uint32_t section_root = 0;
  for (Section& s : sections_) {
    if (node >= s.first && node < s.first + s.room) --s.count, section_root = s.first;
  }
  // A node that becomes empty is taken from its parent, and so on up to the first of its section, which
  // stays.
  for (;;) {
    Node& n = nodes_[node];
    n.clear(lane);
    if (--n.used > 0 || node == section_root) break;
    lane = n.parent_lane;
    node = n.parent;
  }
  if (size_ == 0) build({});
  return true;
}

double Tree::quality_cost() const {
  double sum = 0;
  for (const Node& n : nodes_) {
    if (n.used == 0) continue;
    std::array<float, 6> b;
    kernels_->around(n, b.data());
    const double x = b[3] - b[0], y = b[4] - b[1], z = b[5] - b[2];
    sum += x * y + y * z + z * x;
  }
  return sum;
}

std::size_t Tree::bytes() const {
  return nodes_.capacity() * sizeof(Node) + sections_.capacity() * sizeof(Section) +
         where_.capacity() * sizeof(std::uint32_t);
}

namespace {

Quad quad(const Vec3& v) {
  return Quad{static_cast<float>(v.x), static_cast<float>(v.y), static_cast<float>(v.z), 1};
}
Quad absolute(Quad v) { return max(v, -v); }

}  // namespace

void Tree::set_line(LineLanes& line, const Vec3& start, const Vec3& way, double radius) {
  const Quad from = quad(start), direction = quad(way), zero{};
  // Boxes grow by the radius, and by more than the rounding of the start.
  const Quad room = absolute(from) * 6e-7f + (static_cast<float>(radius) * 1.000001f + 1e-30f);
  const auto back = direction < zero;
  const Quad near = back ? from - room : from + room, far = back ? from + room : from - room;
  // A component of zero becomes a tiny one: the slab test then needs no case of its own.
  const Quad least = zero + 1e-18f;
  const Quad inverse = (back ? zero - 1.0f : zero + 1.0f) / max(absolute(direction), least);
  // The far sides are put a little farther: by more than the rounding of all the above.
  const Quad inverse_far = inverse * 1.000002f;
  for (int i = 0; i < 3; ++i) {
    const auto k = static_cast<std::size_t>(i);
    line.from_near[k].fill(near[i]);
    line.from_far[k].fill(far[i]);
    line.inverse[k].fill(inverse[i]);
    line.inverse_far[k].fill(inverse_far[i]);
    line.near_plane[k] = static_cast<std::uint32_t>(back[i] != 0 ? i + 3 : i);
    line.far_plane[k] = static_cast<std::uint32_t>(back[i] != 0 ? i : i + 3);
  }
}

void Tree::start(RayCursor& c, const Ray& ray, double radius) const {
  set_line(c.line, ray.from, ray.direction, radius);
  c.top = 0;
}

void Tree::start(SegmentCursor& c, const Segment& segment) const {
  set_line(c.line, segment.from, segment.to - segment.from, 0);
  c.top = 0;
  if (size_ > 0) c.stack[c.top++] = root_is_leaf_ ? kLeafNode : 0;
}

std::size_t Tree::next(SegmentCursor& c) const {
  return c.top == 0 ? 0 : kernels_->next_segment(nodes_.data(), c);
}

void Tree::push_root(RayCursor& c, std::uint32_t tree) const {
  c.nodes[tree] = nodes_.data();
  if (size_ == 0) return;
  c.enters[c.top] = 0;
  c.stack[c.top++] = tree != 0 ? kOther : 0u;
}

bool Tree::next(RayCursor& c, double limit) const {
  if (c.top == 0) return false;
  // A tree that was never built may be asked together with another one.
  (kernels_ != nullptr ? *kernels_ : TreeKernels::best()).next_ray(c, -Node::down(-limit));
  return c.found != kNothing;
}

void Tree::start(BoxCursor& c, const Bounds& box) const {
  c.low = {Node::down(box.low.x), Node::down(box.low.y), Node::down(box.low.z)};
  c.high = {-Node::down(-box.high.x), -Node::down(-box.high.y), -Node::down(-box.high.z)};
  c.top = 0;
  if (size_ > 0 && !box.empty()) c.stack[c.top++] = root_is_leaf_ ? kLeafNode : 0;
}

std::size_t Tree::next(BoxCursor& c) const { return c.top == 0 ? 0 : kernels_->next_box(nodes_.data(), c); }

void Tree::start(BallCursor& c, const Ball& ball) const {
  c.center = {static_cast<float>(ball.center.x), static_cast<float>(ball.center.y),
              static_cast<float>(ball.center.z)};
  // Room for the rounding of the centre and of the sum of squares.
  const double reach = ball.radius + largest(ball.center) * 4e-7;
  c.squared = static_cast<float>(reach * reach * (1 + 2e-6)) + 1e-30f;
  c.top = 0;
  if (size_ > 0) c.stack[c.top++] = root_is_leaf_ ? kLeafNode : 0;
}

std::size_t Tree::next(BallCursor& c) const { return c.top == 0 ? 0 : kernels_->next_ball(nodes_.data(), c); }

}  // namespace dardo
