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

/// Nodes and items alike go onto the stack: most lines end without having met an item.
bool next_segment(const Node* nodes, SegmentCursor& c) {
  const Floats d;
  const hn::CappedTag<std::uint32_t, kWidth> di;
  std::uint32_t top = c.top;
  c.found = TreeKernels::kNothing;
  const auto look = [&](std::uint32_t index) HWY_ATTR {
    const Node& node = nodes[index];
    for (std::size_t i = 0; i < kWidth; i += hn::Lanes(d)) {
      hn::Vec<Floats> enter;
      const auto met = hn::RebindMask(di, meet(node, c.line, 1, i, enter));
      hn::StoreU(packed(di, hn::Load(di, node.child.data() + i), met), di, c.stack.data() + top);
      top += static_cast<std::uint32_t>(hn::CountTrue(di, met));
    }
  };
  while (top > 0) {
    const std::uint32_t child = c.stack[--top];
    if (child & kItem) {
      c.found = child;
      break;
    }
    // The one below, if it is a node, side by side: where it lies does not depend on what this one holds.
    if (top > 0 && (c.stack[top - 1] & kItem) == 0) look(c.stack[--top]);
    look(child);
  }
  c.top = top;
  return c.found != TreeKernels::kNothing;
}

bool start_segment(const Node* nodes, SegmentCursor& c, const Segment& segment) {
  set_line(c.line, segment.from, segment.to - segment.from, 0);
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
    if (top < TreeKernels::kTogether) {
      look(c.stack[--top]);
      continue;
    }
    // Several at a time: where the next lies does not depend on what the one before it holds, so that the
    // machine can go through them side by side.
    top -= TreeKernels::kTogether;
    std::array<std::uint32_t, TreeKernels::kTogether> lot;
    std::memcpy(lot.data(), c.stack.data() + top, sizeof(lot));
    for (const std::uint32_t index : lot) look(index);
  }
  c.top = top;
  return count;
}

std::size_t next_box(const Node* nodes, BoxCursor& c) {
  return next_touching(nodes, c, [&](const Node& node, std::size_t i) HWY_ATTR {
    const Floats d;
    auto met = hn::Le(hn::Load(d, node.plane[0].data() + i), hn::Set(d, c.high[0]));
    met = hn::And(met, hn::Le(hn::Set(d, c.low[0]), hn::Load(d, node.plane[3].data() + i)));
    for (std::size_t axis = 1; axis < 3; ++axis) {
      met = hn::And(met, hn::Le(hn::Load(d, node.plane[axis].data() + i), hn::Set(d, c.high[axis])));
      met = hn::And(met, hn::Le(hn::Set(d, c.low[axis]), hn::Load(d, node.plane[axis + 3].data() + i)));
    }
    return met;
  });
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

/// The box around all lanes; `lanes_of(d, p, i)` are those from the i-th on of the plane p, as many as d has.
template <class D, class LanesOf>
HWY_INLINE void fold(D d, float* box, const LanesOf& lanes_of) {
  for (std::size_t p = 0; p < 6; ++p) {
    auto v = lanes_of(p, 0);
    for (std::size_t i = hn::Lanes(d); i < kWidth; i += hn::Lanes(d)) {
      v = p < 3 ? hn::Min(v, lanes_of(p, i)) : hn::Max(v, lanes_of(p, i));
    }
    box[p] = hn::GetLane(p < 3 ? hn::MinOfLanes(d, v) : hn::MaxOfLanes(d, v));
  }
}

void around(const Node& node, float* box) {
  const Floats d;
  fold(d, box, [&](std::size_t p, std::size_t i) HWY_ATTR { return hn::Load(d, node.plane[p].data() + i); });
}

void take(Node& node, const FreshLanes& fresh, float* box) {
  const hn::CappedTag<double, kWidth> dd;
  const hn::Rebind<float, decltype(dd)> d;
  const hn::RebindToSigned<decltype(d)> di;
  fold(d, box, [&](std::size_t p, std::size_t i) HWY_ATTR {
    // Rounded outward as Node::down does.
    const auto f = hn::DemoteTo(d, hn::Load(dd, fresh.plane[p].data() + i));
    const auto room = hn::Add(hn::Mul(hn::Abs(f), hn::Set(d, Node::kRoom)), hn::Set(d, Node::kLeast));
    const auto child = hn::Load(di, reinterpret_cast<const std::int32_t*>(node.child.data()) + i);
    const auto items = hn::RebindMask(d, hn::Lt(child, hn::Zero(di)));
    float* const lanes = node.plane[p].data() + i;
    const auto all = hn::IfThenElse(items, p < 3 ? hn::Sub(f, room) : hn::Add(f, room), hn::Load(d, lanes));
    hn::Store(all, d, lanes);
    return all;
  });
}

const TreeKernels* kernels() {
  static constexpr TreeKernels kKernels{{start_ray<false>, start_ray<true>},
                                        {next_ray<false>, next_ray<true>},
                                        start_segment,
                                        next_segment,
                                        next_box,
                                        next_ball,
                                        around,
                                        take};
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
