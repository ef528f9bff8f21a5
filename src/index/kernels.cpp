// Compiled once for each vector instruction set; `TreeKernels::best` picks one when the program runs.
#include "index/detail/kernels.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "index/kernels.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "index/detail/node_tests.hpp"

HWY_BEFORE_NAMESPACE();
namespace dardo {
namespace HWY_NAMESPACE {
using FreshLanes = TreeKernels::FreshLanes;
using RefitLot = TreeKernels::RefitLot;
using detail::Quad;
using RayCursor = TreeKernels::RayCursor;
using SegmentCursor = TreeKernels::SegmentCursor;
using BoxCursor = TreeKernels::BoxCursor;
using BallCursor = TreeKernels::BallCursor;

/// Pops the nearest box until it is an item's; the lanes of a node that the ray meets within the limit are
/// pushed, sorted.
///
/// Hardly a branch in it depends on what is met: nodes with no lane, one lane, items or nodes all go the same
/// way. For one tree or two: to ask of each node whose it is would lengthen the way from one to the next.
template <bool two>
HWY_INLINE void go_on(RayCursor& c, float limit, std::uint32_t top) {
  c.found = TreeKernels::kNothing;
  while (top > 0) {
    const std::uint32_t child = c.stack[--top];
    if (child & kItem) {
      c.found = child;
      break;
    }
    const std::uint32_t tree = two ? child & kOther : 0;
    const Node& node = tree != 0 ? c.nodes[1][child & kIndex] : c.nodes[0][child];
    const std::uint32_t base = top;
    top = push_met<two>(node, c.line, limit, tree, c.stack.data(), c.enters.data(), top);
    sort_pushed(c.stack.data(), c.enters.data(), base, top);
  }
  c.top = top;
}

template <bool two>
void next_ray(RayCursor& c, float limit) {
  go_on<two>(c, limit, shorten(c.stack.data(), c.enters.data(), c.top, limit));
}

template <bool two>
void start_ray(RayCursor& c, const Ray& ray, double radius, float limit) {
  set_line(c.line, ray.from, ray.direction, radius);
  go_on<two>(c, limit, c.top);
}

/// Goes on until a node has items that are met; how many.
///
/// Items are packed apart: to push them with the nodes means a branch at each pop that is often mispredicted.
/// One node after the other, as most lines meet one lane of a node or none.
std::size_t next_segment(const Node* nodes, SegmentCursor& c) {
  const Floats d;
  const hn::CappedTag<std::uint32_t, kWidth> di;
  const hn::RebindToSigned<decltype(di)> ds;
  std::uint32_t top = c.top;
  std::size_t count = 0;
  while (top > 0 && count == 0) {
    const Node& node = nodes[c.stack[--top]];
    for (std::size_t i = 0; i < kWidth; i += hn::Lanes(d)) {
      hn::Vec<Floats> enter;
      const auto met = hn::RebindMask(di, meet(node, c.line, 1, i, enter));
      const auto lanes = hn::Load(di, node.child.data() + i);
      const auto items = hn::RebindMask(di, hn::Lt(hn::BitCast(ds, lanes), hn::Zero(ds)));
      const auto met_items = hn::And(met, items), met_nodes = hn::AndNot(items, met);
      hn::StoreU(packed(di, lanes, met_items), di, c.found.data() + count);
      hn::StoreU(packed(di, lanes, met_nodes), di, c.stack.data() + top);
      count += hn::CountTrue(di, met_items);
      top += static_cast<std::uint32_t>(hn::CountTrue(di, met_nodes));
    }
  }
  c.top = top;
  return count;
}

std::size_t start_segment(const Node* nodes, SegmentCursor& c, const Segment& segment) {
  set_line(c.line, segment.from, segment.to - segment.from, 0);
  c.stack[0] = 0;
  c.top = 1;
  return next_segment(nodes, c);
}

/// Goes on until the lot of items is full or all is seen; `meet_node` says which lanes count.
template <class Cursor, class Meet>
HWY_INLINE std::size_t next_touching(const Node* nodes, Cursor& c, const Meet& meet_node) {
  const hn::CappedTag<std::uint32_t, kWidth> d;
  const hn::RebindToSigned<decltype(d)> di;
  std::uint32_t top = c.top;
  std::size_t count = 0;
  const auto look = [&](std::uint32_t index) HWY_ATTR {
    const Node& node = nodes[index];
    for (std::size_t i = 0; i < kWidth; i += hn::Lanes(d)) {
      // Items and nodes are packed apart, without a branch for either. Whole vectors are stored: faster than
      // a store of the taken lanes alone, and there is room.
      const auto lanes = hn::Load(d, node.child.data() + i);
      const auto items = hn::RebindMask(d, hn::Lt(hn::BitCast(di, lanes), hn::Zero(di)));
      const auto met = hn::RebindMask(d, meet_node(node, i));
      const auto met_items = hn::And(met, items), met_nodes = hn::AndNot(items, met);
      hn::StoreU(packed(d, lanes, met_items), d, c.found.data() + count);
      hn::StoreU(packed(d, hn::IfThenElseZero(met_nodes, lanes), met_nodes), d, c.stack.data() + top);
      // Two whose turn comes later, or the root.
      prefetch(nodes[c.stack[top]]), prefetch(nodes[c.stack[top + 1]]);
      count += hn::CountTrue(d, met_items);
      top += static_cast<std::uint32_t>(hn::CountTrue(d, met_nodes));
    }
  };
  while (top > 0 && count < TreeKernels::kFound) {
    // Two at a time, if there are two: where the second lies does not depend on what the first one holds, so
    // that the machine can go through them side by side. Each is read alone: read as one piece, what was
    // written in two would be waited for.
    const std::uint32_t first = c.stack[--top];
    if (top == 0) {
      look(first);
      continue;
    }
    const std::uint32_t second = c.stack[--top];
    look(first), look(second);
  }
  c.top = top;
  return count;
}

std::size_t next_box(const Node* nodes, BoxCursor& c) {
  return next_touching(
      nodes, c, [&](const Node& node, std::size_t i) HWY_ATTR { return touch(node, c.low, c.high, i); });
}

std::size_t next_ball(const Node* nodes, BallCursor& c) {
  return next_touching(nodes, c, [&](const Node& node, std::size_t i) HWY_ATTR {
    const Floats d;
    auto squared = hn::Zero(d);
    for (std::size_t axis = 0; axis < 3; ++axis) {
      const auto center = hn::Set(d, c.center[axis]);
      const auto below = hn::Sub(hn::Load(d, node.plane[axis].data() + i), center);
      const auto above = hn::Sub(center, hn::Load(d, node.plane[axis + 3].data() + i));
      const auto out = hn::Max(hn::Max(below, above), hn::Zero(d));
      squared = hn::Add(squared, hn::Mul(out, out));
    }
    return hn::Le(squared, hn::Set(d, c.squared));
  });
}

void list(const Node* nodes, RefitLot& lot) {
  const hn::CappedTag<std::uint32_t, kWidth> d;
  const hn::RebindToSigned<decltype(d)> di;
  const auto lanes = static_cast<std::uint32_t>(hn::Lanes(d));
  constexpr std::uint32_t kNodeOfFresh = sizeof(FreshLanes) / sizeof(double);
  std::uint32_t count = 0;
  auto places = hn::Iota(d, 0);  // of the node's first lanes
  for (std::uint32_t n = lot.first; n < lot.last; ++n) {
    for (std::uint32_t i = 0; i < kWidth; i += lanes) {
      const auto child = hn::Load(d, nodes[n].child.data() + i);
      const auto items = hn::RebindMask(d, hn::Lt(hn::BitCast(di, child), hn::Zero(di)));
      hn::StoreU(packed(d, hn::And(child, hn::Set(d, kIndex)), items), d, lot.item.data() + count);
      hn::StoreU(packed(d, hn::Add(places, hn::Set(d, i)), items), d, lot.place.data() + count);
      count += static_cast<std::uint32_t>(hn::CountTrue(d, items));
    }
    places = hn::Add(places, hn::Set(d, kNodeOfFresh));
  }
  lot.count = count;
}

/// The box around all lanes of a node, the high sides negated; its fourth lanes mean nothing.
struct Around {
  Quad low, negated_high;

  explicit HWY_INLINE Around(const Node& node) {
    const auto four = [&](std::size_t p) HWY_ATTR {
      std::array<Quad, 2> half;
      std::memcpy(half.data(), node.plane[p].data(), sizeof(half));
      return p < 3 ? detail::min(half[0], half[1]) : -detail::max(half[0], half[1]);
    };
    // Two planes side by side, then four: all are reduced at once.
    const auto two = [](Quad a, Quad b) HWY_ATTR {
      return detail::min(__builtin_shufflevector(a, b, 0, 4, 1, 5),
                         __builtin_shufflevector(a, b, 2, 6, 3, 7));
    };
    const auto one = [](Quad a, Quad b) HWY_ATTR {
      return detail::min(__builtin_shufflevector(a, b, 0, 1, 4, 5),
                         __builtin_shufflevector(a, b, 2, 3, 6, 7));
    };
    const Quad z = two(four(2), four(5));
    const auto swapped = __builtin_shufflevector(z, z, 1, 0, 3, 2);
    low = one(two(four(0), four(1)), z);
    negated_high = one(two(four(3), four(4)), swapped);
  }
  /// Its first three lanes are what the area is the sum of.
  HWY_INLINE Quad areas() const {
    const Quad extent = low + negated_high;  // negated; a product of two is not
    return extent * __builtin_shufflevector(extent, extent, 1, 2, 0, 3);
  }
};

float area(const Node& node) {
  const Quad a = Around(node).areas();
  return a[0] + a[1] + a[2];
}

/// Puts the fresh boxes, rounded outward as Node::down does, into those lanes that hold items.
HWY_INLINE void take(Node& node, const FreshLanes& fresh) {
  const hn::CappedTag<double, kWidth> dd;
  const hn::Rebind<float, decltype(dd)> d;
  const hn::RebindToSigned<decltype(d)> di;
  for (std::size_t i = 0; i < kWidth; i += hn::Lanes(dd)) {
    const auto child = hn::Load(di, reinterpret_cast<const std::int32_t*>(node.child.data()) + i);
    const auto items = hn::RebindMask(d, hn::Lt(child, hn::Zero(di)));
    for (std::size_t p = 0; p < 6; ++p) {
      const auto f = hn::DemoteTo(d, hn::Load(dd, fresh.plane[p].data() + i));
      const auto room = hn::Add(hn::Mul(hn::Abs(f), hn::Set(d, Node::kRoom)), hn::Set(d, Node::kLeast));
      float* const lanes = node.plane[p].data() + i;
      hn::Store(hn::IfThenElse(items, p < 3 ? hn::Sub(f, room) : hn::Add(f, room), hn::Load(d, lanes)), d,
                lanes);
    }
  }
}

float settle(Node* nodes, std::uint32_t first, std::uint32_t last, const FreshLanes* fresh) {
  Quad sum{};
  // On its own and the first node first: a vector read right after smaller writes waits for them, and the
  // last node's boxes were written just now.
  if (fresh != nullptr) {
    for (std::uint32_t n = first; n < last; ++n) {
      if (nodes[n].used != 0) take(nodes[n], fresh[n - first]);
    }
  }
  for (std::uint32_t n = last; n-- > first;) {
    Node& node = nodes[n];
    if (node.used == 0) continue;
    const Around around(node);
    sum += around.areas();
    if (n == 0) continue;
    float* const lane = nodes[node.parent].plane[0].data() + node.parent_lane;
    const Quad high = -around.negated_high;
    lane[0 * kWidth] = around.low[0], lane[1 * kWidth] = around.low[1], lane[2 * kWidth] = around.low[2];
    lane[3 * kWidth] = high[0], lane[4 * kWidth] = high[1], lane[5 * kWidth] = high[2];
  }
  return sum[0] + sum[1] + sum[2];
}

const TreeKernels* kernels() {
  static constexpr TreeKernels kKernels{{start_ray<false>, start_ray<true>},
                                        {next_ray<false>, next_ray<true>},
                                        start_segment,
                                        next_segment,
                                        next_box,
                                        next_ball,
                                        list,
                                        settle,
                                        area};
  return &kKernels;
}

}  // namespace HWY_NAMESPACE
}  // namespace dardo
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace dardo {

HWY_EXPORT(kernels);

const TreeKernels& TreeKernels::best() { return *HWY_DYNAMIC_DISPATCH(kernels)(); }

}  // namespace dardo
#endif
