// Compiled once for each vector instruction set; `BatchKernels::best` picks one when the program runs.
#include "index/detail/kernels.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "index/batch_kernels.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "index/detail/node_tests.hpp"

HWY_BEFORE_NAMESPACE();
namespace dardo {
namespace HWY_NAMESPACE {

using Rays = BatchKernels::Rays;
using Lot = BatchKernels::Lot;

/// Pushes them sorted, the nearest on top, with hardly a branch that depends on what is met: in a batch there
/// is always another ray to go on with, so that what counts is not how long a step takes but what it stops.
template <bool two>
HWY_INLINE std::uint32_t push_met_sorted(const Node& node, const Line& line, float limit, std::uint32_t tree,
                                         std::uint32_t* stack, float* enters, std::uint32_t top) {
#if HWY_MAX_BYTES >= 32
  const Floats d;
  const hn::Rebind<std::int32_t, Floats> di;
  hn::Vec<Floats> enter;
  const auto met = meet(node, line, limit, 0, enter);
  const auto count = static_cast<std::uint32_t>(hn::CountTrue(d, met));
  // Where a box is entered, rounded down to make room for the lane's number; 0 where none is.
  const auto seven = hn::Set(di, 7);
  const auto key = hn::Or(hn::And(hn::BitCast(di, enter), hn::Set(di, 0x7ffffff8)), hn::Iota(di, 0));
  const auto is_met = hn::RebindMask(di, met);
  auto keys = packed(di, hn::IfThenElseZero(is_met, key), is_met);
  // The first four in falling order, in whatever order the others, which are rarely there (Batcher, "Sorting
  // networks and their applications", 1968).
  const auto compare = [&](auto other, auto larger) HWY_ATTR {
    keys = hn::IfThenElse(larger, hn::Max(keys, other), hn::Min(keys, other));
  };
  const auto lane = hn::And(hn::Iota(di, 0), hn::Set(di, 3));
  const auto at = [&](int a, int b)
                      HWY_ATTR { return hn::Or(hn::Eq(lane, hn::Set(di, a)), hn::Eq(lane, hn::Set(di, b))); };
  compare(hn::Shuffle2301(keys), at(0, 3));
  compare(hn::Shuffle1032(keys), at(0, 1));
  compare(hn::Shuffle2301(keys), at(0, 2));
  auto lanes = hn::Load(di, reinterpret_cast<const std::int32_t*>(node.child.data()));
  if (two) lanes = hn::Or(lanes, hn::Set(di, static_cast<std::int32_t>(tree)));
  lanes = hn::TableLookupLanes(lanes, hn::IndicesFromVec(di, hn::And(keys, seven)));
  hn::StoreU(lanes, di, reinterpret_cast<std::int32_t*>(stack + top));
  hn::StoreU(hn::BitCast(d, hn::AndNot(seven, keys)), d, enters + top);
  if (HWY_UNLIKELY(count > 4)) sort_pushed(stack, enters, top, top + count);
  return top + count;
#else
  const std::uint32_t now = push_met<two>(node, line, limit, tree, stack, enters, top);
  sort_pushed(stack, enters, top, now);
  return now;
#endif
}

template <bool two>
bool next_rays(Rays& b) {
  // Each list is gone through and filled again in place.
  const bool is_far = b.is_far;
  const auto put = [&](Rays::Way& way, std::uint32_t top) HWY_ATTR {
    const std::uint32_t child = way.stack[top];
    const std::uint32_t is_item = child / kItem, is_empty = top == 0;  // not both
    Rays::Ways& list = b.in[is_item * Rays::kMet + is_empty * Rays::kIdle];
    list.way[list.count++] = &way;
    // Its turn comes after all others'.
    if (is_far) prefetch(b.nodes[two && (child & kOther) != 0][is_item != 0 ? 0 : child & kIndex]);
    // What is met is as good as popped.
    way.top = top - is_item;
  };
  Rays::Ways &going = b.in[Rays::kGoing], &idle = b.in[Rays::kIdle], &met = b.in[Rays::kMet];
  const std::size_t met_count = std::exchange(met.count, 0);
  for (std::size_t i = 0; i < met_count; ++i) {
    Rays::Way& way = *met.way[i];
    way.limit_up = Node::up(way.limit);
    put(way, shorten(way.stack.data() + 1, way.enters.data() + 1, way.top, way.limit_up));
  }
  while (idle.count > 0 && b.next < b.rays.size()) {
    Rays::Way& way = *idle.way[--idle.count];
    const Ray& ray = b.rays[b.next];
    way.number = static_cast<std::uint32_t>(b.next++);
    set_line(way.line, ray.from, ray.direction, b.radius);
    way.limit = ray.length;
    way.limit_up = Node::up(ray.length);
    for (std::uint32_t r = 0; r < b.roots_count; ++r) way.stack[1 + r] = b.roots[r], way.enters[1 + r] = 0;
    way.top = b.roots_count;
    going.way[going.count++] = &way;
  }
  const std::size_t going_count = std::exchange(going.count, 0);
  for (std::size_t i = 0; i < going_count; ++i) {
    Rays::Way& way = *going.way[i];
    const std::uint32_t child = way.stack[way.top];
    const std::uint32_t tree = two ? child & kOther : 0;
    const Node& node = b.nodes[tree != 0][child & kIndex];
    put(way, push_met_sorted<two>(node, way.line, way.limit_up, tree, way.stack.data() + 1,
                                  way.enters.data() + 1, way.top - 1));
  }
  return going.count + met.count > 0;
}

void start_lines(Lot& b, std::span<const Segment> segments) {
  for (std::size_t i = 0; i < segments.size(); ++i) {
    set_line(b.line[i], segments[i].from, segments[i].to - segments[i].from, 0);
    b.limit[i] = 1;
    b.stack[i] = 0;
    b.whose[i] = static_cast<std::uint32_t>(i);
  }
  b.top = static_cast<std::uint32_t>(segments.size());
}

/// Goes on until enough items are found or all is seen; `meet_node` says which lanes count.
template <class Meet>
HWY_INLINE std::size_t next_of_lot(const Node* nodes, Lot& b, const Meet& meet_node) {
  const hn::CappedTag<std::uint32_t, kWidth> di;
  const hn::RebindToSigned<decltype(di)> ds;
  const auto lanes = static_cast<std::uint32_t>(hn::Lanes(di));
  std::uint32_t top = b.top;
  std::size_t count = 0;
  std::array<std::uint32_t, BatchKernels::kTogether + kWidth> inner_nodes, inner_whose;
  while (top > 0 && count < TreeKernels::kFound) {
    // Several at a time, as their ways through the machine don't depend on one another. Items are sorted out
    // here, many at once.
    const std::uint32_t taken = std::min(top, BatchKernels::kTogether);
    top -= taken;
    std::size_t inner_count = 0;
    for (std::uint32_t i = 0; i < taken; i += lanes) {
      const auto child = hn::LoadU(di, b.stack.data() + top + i);
      const auto whose = hn::LoadU(di, b.whose.data() + top + i);
      const auto is_item = hn::RebindMask(di, hn::Lt(hn::BitCast(ds, child), hn::Zero(ds)));
      const auto is_taken = hn::FirstN(di, taken - i);
      const auto items = hn::And(is_item, is_taken), inner = hn::AndNot(is_item, is_taken);
      hn::StoreU(packed(di, child, items), di, b.found.data() + count);
      hn::StoreU(packed(di, whose, items), di, b.found_whose.data() + count);
      count += hn::CountTrue(di, items);
      hn::StoreU(packed(di, child, inner), di, inner_nodes.data() + inner_count);
      hn::StoreU(packed(di, whose, inner), di, inner_whose.data() + inner_count);
      inner_count += hn::CountTrue(di, inner);
    }
    for (std::size_t k = 0; k < inner_count; ++k) {
      const Node& node = nodes[inner_nodes[k]];
      const auto whose = hn::Set(di, inner_whose[k]);
      for (std::size_t i = 0; i < kWidth; i += lanes) {
        const auto met = hn::RebindMask(di, meet_node(node, inner_whose[k], i));
        hn::StoreU(packed(di, hn::Load(di, node.child.data() + i), met), di, b.stack.data() + top);
        hn::StoreU(whose, di, b.whose.data() + top);
        top += static_cast<std::uint32_t>(hn::CountTrue(di, met));
      }
    }
  }
  b.top = top;
  return count;
}

std::size_t next_lines(const Node* nodes, Lot& b) {
  return next_of_lot(nodes, b, [&](const Node& node, std::uint32_t line, std::size_t i) HWY_ATTR {
    hn::Vec<Floats> enter;
    return meet(node, b.line[line], b.limit[line], i, enter);
  });
}

std::size_t next_boxes(const Node* nodes, Lot& b) {
  return next_of_lot(nodes, b, [&](const Node& node, std::uint32_t box, std::size_t i) HWY_ATTR {
    return touch(node, b.low[box], b.high[box], i);
  });
}

const BatchKernels* batch_kernels() {
  static constexpr BatchKernels kKernels{
      {next_rays<false>, next_rays<true>}, start_lines, next_lines, next_boxes};
  return &kKernels;
}

}  // namespace HWY_NAMESPACE
}  // namespace dardo
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace dardo {

HWY_EXPORT(batch_kernels);

const BatchKernels& BatchKernels::best() { return *HWY_DYNAMIC_DISPATCH(batch_kernels)(); }

}  // namespace dardo
#endif
