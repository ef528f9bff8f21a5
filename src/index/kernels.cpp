// Compiled once for each vector instruction set; `TreeKernels::best` picks one when the program runs.
#include "index/detail/kernels.hpp"

#include <cstring>

#include "index/detail/box4.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "index/kernels.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace dardo {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

using Node = TreeKernels::Node;
using FreshLanes = TreeKernels::FreshLanes;
using Line = TreeKernels::Line;
using RayCursor = TreeKernels::RayCursor;
using SegmentCursor = TreeKernels::SegmentCursor;
using BoxCursor = TreeKernels::BoxCursor;
using BallCursor = TreeKernels::BallCursor;
using RayBatch = TreeKernels::RayBatch;
using SegmentBatch = TreeKernels::SegmentBatch;
constexpr std::size_t kWidth = TreeKernels::kWidth;
constexpr std::uint32_t kItem = TreeKernels::kItem, kOther = TreeKernels::kOther,
                        kIndex = TreeKernels::kIndex;

using Floats = hn::CappedTag<float, kWidth>;

#if HWY_TARGET > HWY_AVX3
/// For each set of lanes, as bits, their numbers in order, then those of the others.
template <std::size_t kLanes>
constexpr auto numbers_of_lanes() {
  std::array<std::uint8_t, (std::size_t{1} << kLanes) * kLanes> numbers{};
  for (std::size_t set = 0; set < std::size_t{1} << kLanes; ++set) {
    std::size_t at = set * kLanes;
    for (const bool taken : {true, false}) {
      for (std::size_t lane = 0; lane < kLanes; ++lane) {
        if ((set >> lane & 1) == taken) numbers[at++] = static_cast<std::uint8_t>(lane);
      }
    }
  }
  return numbers;
}
template <std::size_t kLanes>
constexpr auto kNumbersOfLanes = numbers_of_lanes<kLanes>();
#endif

/// The lanes of the mask come first, in their order.
template <class D>
HWY_INLINE hn::Vec<D> packed([[maybe_unused]] D d, hn::Vec<D> v, hn::Mask<D> mask) {
#if HWY_TARGET > HWY_AVX3
  // Not hn::Compress: that of Highway 1.0 copies its table onto the stack each time.
  constexpr std::size_t kLanes = hn::MaxLanes(d);
  std::array<std::uint8_t, 8> bits{};
  hn::StoreMaskBits(d, mask, bits.data());
  const hn::Rebind<std::uint8_t, D> bytes;
  const hn::RebindToSigned<D> numbers;
  const auto lanes =
      hn::PromoteTo(numbers, hn::LoadU(bytes, kNumbersOfLanes<kLanes>.data() + bits[0] * kLanes));
  return hn::TableLookupLanes(v, hn::IndicesFromVec(d, lanes));
#else
  return hn::Compress(v, mask);
#endif
}

/// Sets the line up for the slab test.
HWY_INLINE void set_line(Line& line, const Vec3& start, const Vec3& way, double radius) {
  using detail::Quad;
  const Quad zero{};
  const Quad from{static_cast<float>(start.x), static_cast<float>(start.y), static_cast<float>(start.z), 1};
  const Quad direction{static_cast<float>(way.x), static_cast<float>(way.y), static_cast<float>(way.z), 1};
  // Boxes grow by the radius, and by more than the rounding of the start and of the products.
  const Quad room =
      detail::max(from, -from) * Node::kRoom + (static_cast<float>(radius) * 1.000001f + Node::kLeast);
  const auto back = direction < zero;
  const Quad signed_room = back ? -room : room;
  // A component of zero becomes a tiny one: the slab test then needs no case of its own.
  const Quad size = detail::max(detail::max(direction, -direction), zero + 1e-18f);
  const Quad inverse = (back ? zero - 1.0f : zero + 1.0f) / size;
  // The far sides are put a little farther: by more than the rounding of all the above.
  const Quad inverse_far = inverse * 1.000002f;
  const auto store = [](const auto& v, auto& out) HWY_ATTR { std::memcpy(out.data(), &v, sizeof(v)); };
  store(inverse, line.inverse);
  store(inverse_far, line.inverse_far);
  store(-(from + signed_room) * inverse, line.near_start);
  store((signed_room - from) * inverse_far, line.far_start);
  using Places = decltype(back);
  constexpr int kPlanes = kWidth;
  const Places low{0, kPlanes, 2 * kPlanes, 0};
  store(low + (back & (3 * kPlanes)), line.near_plane);
  store(low + (~back & (3 * kPlanes)), line.far_plane);
}

/// The slab test: where the line enters the boxes of lanes [i, i + L) of a node, and which of them it meets
/// within `limit` of its way.
HWY_INLINE hn::Mask<Floats> meet(const Node& node, const Line& line, float limit, std::size_t i,
                                 hn::Vec<Floats>& enter) {
  const Floats d;
  const auto near = [&](std::size_t axis) HWY_ATTR {
    return hn::MulAdd(hn::Load(d, node.plane[0].data() + line.near_plane[axis] + i),
                      hn::Set(d, line.inverse[axis]), hn::Set(d, line.near_start[axis]));
  };
  const auto far = [&](std::size_t axis) HWY_ATTR {
    return hn::MulAdd(hn::Load(d, node.plane[0].data() + line.far_plane[axis] + i),
                      hn::Set(d, line.inverse_far[axis]), hn::Set(d, line.far_start[axis]));
  };
  enter = hn::Max(hn::Max(near(0), near(1)), hn::Max(near(2), hn::Zero(d)));
  return hn::Le(enter, hn::Min(hn::Min(far(0), far(1)), hn::Min(far(2), hn::Set(d, limit))));
}

/// Takes from a stack what is entered beyond the limit: once for each new limit, so that nothing need be asked
/// when it is popped. How much stays.
HWY_INLINE std::uint32_t shorten(std::uint32_t* stack, float* enters, std::uint32_t top, float limit) {
  const Floats d;
  const hn::CappedTag<std::uint32_t, kWidth> di;
  std::uint32_t kept = 0;
  for (std::uint32_t i = 0; i < top; i += static_cast<std::uint32_t>(hn::Lanes(d))) {
    const auto enter = hn::LoadU(d, enters + i);
    const auto child = hn::LoadU(di, stack + i);
    const auto stays = hn::And(hn::Le(enter, hn::Set(d, limit)), hn::FirstN(d, top - i));
    hn::StoreU(packed(d, enter, stays), d, enters + kept);
    hn::StoreU(packed(di, child, hn::RebindMask(di, stays)), di, stack + kept);
    kept += static_cast<std::uint32_t>(hn::CountTrue(d, stays));
  }
  return kept;
}

/// Pushes the lanes of a node that the line meets within the limit; the new top. `tree` is kOther or 0.
template <bool two>
HWY_INLINE std::uint32_t push_met(const Node& node, const Line& line, float limit, std::uint32_t tree,
                                  std::uint32_t* stack, float* enters, std::uint32_t top) {
  const Floats d;
  const hn::CappedTag<std::uint32_t, kWidth> di;
  for (std::size_t i = 0; i < kWidth; i += hn::Lanes(d)) {
    hn::Vec<Floats> enter;
    const auto met = meet(node, line, limit, i, enter);
    auto lanes = hn::Load(di, node.child.data() + i);
    if (two) lanes = hn::Or(lanes, hn::Set(di, tree));
    // Whole vectors are stored: faster than storing the met lanes alone, and there is room.
    hn::StoreU(packed(d, enter, met), d, enters + top);
    hn::StoreU(packed(di, lanes, hn::RebindMask(di, met)), di, stack + top);
    top += static_cast<std::uint32_t>(hn::CountTrue(d, met));
  }
  return top;
}

/// Sorts what was pushed, the nearest on top.
HWY_INLINE void sort_pushed(std::uint32_t* stack, float* enters, std::uint32_t base, std::uint32_t top) {
  for (std::uint32_t i = base + 1; i < top; ++i) {
    const float e = enters[i];
    const std::uint32_t l = stack[i];
    std::uint32_t at = i;
    for (; at > base && enters[at - 1] < e; --at) enters[at] = enters[at - 1], stack[at] = stack[at - 1];
    enters[at] = e, stack[at] = l;
  }
}

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
  const auto at = [&](int a, int b) HWY_ATTR {
    return hn::Or(hn::Eq(lane, hn::Set(di, a)), hn::Eq(lane, hn::Set(di, b)));
  };
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
bool next_rays(RayBatch& b) {
  // Where a ray goes on depends on what is on top of its stack, below the first entry of which is nothing.
  auto& going = b.going;
  RayBatch::List met, idle = b.idle;
  met.count = 0;
  std::uint32_t going_count = 0;
  const auto put = [&](std::uint32_t place, std::uint32_t top) HWY_ATTR {
    const std::uint32_t child = b.stack[place][top];
    const bool is_item = (child & kItem) != 0, is_empty = top == 0;
    going.place[going_count] = place;
    met.place[met.count] = place;
    idle.place[idle.count] = place;
    const bool is_node = !is_item && !is_empty;
    // Its turn comes after all others'.
    if (b.is_far) prefetch(b.nodes[two && (child & kOther) != 0][is_node ? child & kIndex : 0]);
    going_count += is_node;
    met.count += is_item;
    idle.count += is_empty;
    // What is met is as good as popped.
    b.top[place] = top - is_item;
  };
  const std::uint32_t old_count = going.count;
  for (std::uint32_t i = 0; i < old_count; ++i) {
    const std::uint32_t place = going.place[i];
    const std::uint32_t top = b.top[place];
    const std::uint32_t child = b.stack[place][top];
    const std::uint32_t tree = two ? child & kOther : 0;
    const Node& node = b.nodes[two && tree != 0][child & kIndex];
    put(place, push_met_sorted<two>(node, b.line[place], b.limit_up[place], tree, b.stack[place].data() + 1,
                                    b.enters[place].data() + 1, top - 1));
  }
  for (std::uint32_t i = 0; i < b.met.count; ++i) {
    const std::uint32_t place = b.met.place[i];
    const float limit = Node::up(b.limit[place]);
    b.limit_up[place] = limit;
    put(place, shorten(b.stack[place].data() + 1, b.enters[place].data() + 1, b.top[place], limit));
  }
  while (idle.count > 0 && b.next < b.rays.size()) {
    const std::uint32_t place = idle.place[--idle.count];
    const Ray& ray = b.rays[b.next];
    b.ray[place] = static_cast<std::uint32_t>(b.next++);
    set_line(b.line[place], ray.from, ray.direction, b.radius);
    b.limit[place] = ray.length;
    b.limit_up[place] = Node::up(ray.length);
    for (std::uint32_t r = 0; r < b.roots_count; ++r) {
      b.stack[place][1 + r] = b.roots[r];
      b.enters[place][1 + r] = 0;
    }
    b.top[place] = b.roots_count;
    going.place[going_count++] = place;
  }
  going.count = going_count;
  b.met = met, b.idle = idle;
  return going_count + met.count > 0;
}

void start_segments(SegmentBatch& b, std::span<const Segment> segments) {
  for (std::size_t i = 0; i < segments.size(); ++i) {
    set_line(b.line[i], segments[i].from, segments[i].to - segments[i].from, 0);
    b.limit[i] = 1;
    b.stack[i] = 0;
    b.line_of[i] = static_cast<std::uint32_t>(i);
  }
  b.top = static_cast<std::uint32_t>(segments.size());
}

std::size_t next_segments(const Node* nodes, SegmentBatch& b) {
  const Floats d;
  const hn::CappedTag<std::uint32_t, kWidth> di;
  const hn::RebindToSigned<decltype(di)> ds;
  std::uint32_t top = b.top;
  std::size_t count = 0;
  std::array<std::uint32_t, SegmentBatch::kTogether> lot, lines;
  while (top > 0 && count < TreeKernels::kFound) {
    // Several at a time, as their ways through the machine don't depend on one another.
    const std::uint32_t together = std::min(top, SegmentBatch::kTogether);
    top -= together;
    std::memcpy(lot.data(), b.stack.data() + top, sizeof(lot));
    std::memcpy(lines.data(), b.line_of.data() + top, sizeof(lines));
    for (std::uint32_t k = 0; k < together; ++k) {
      const Node& node = nodes[lot[k]];
      const auto line = hn::Set(di, lines[k]);
      for (std::size_t i = 0; i < kWidth; i += hn::Lanes(d)) {
        hn::Vec<Floats> enter;
        const auto met = hn::RebindMask(di, meet(node, b.line[lines[k]], b.limit[lines[k]], i, enter));
        const auto lanes = hn::Load(di, node.child.data() + i);
        const auto items = hn::RebindMask(di, hn::Lt(hn::BitCast(ds, lanes), hn::Zero(ds)));
        const auto met_items = hn::And(met, items), met_nodes = hn::AndNot(items, met);
        hn::StoreU(packed(di, lanes, met_items), di, b.found.data() + count);
        hn::StoreU(line, di, b.found_line_of.data() + count);
        hn::StoreU(packed(di, lanes, met_nodes), di, b.stack.data() + top);
        hn::StoreU(line, di, b.line_of.data() + top);
        count += hn::CountTrue(di, met_items);
        top += static_cast<std::uint32_t>(hn::CountTrue(di, met_nodes));
      }
    }
  }
  b.top = top;
  return count;
}

/// Nodes and items alike go onto the stack: most lines end without having met an item.
bool next_segment(const Node* nodes, SegmentCursor& c) {
  const Floats d;
  const hn::CappedTag<std::uint32_t, kWidth> di;
  std::uint32_t top = c.top;
  c.found = TreeKernels::kNothing;
  while (top > 0) {
    const std::uint32_t child = c.stack[--top];
    if (child & kItem) {
      c.found = child;
      break;
    }
    const Node& node = nodes[child];
    for (std::size_t i = 0; i < kWidth; i += hn::Lanes(d)) {
      hn::Vec<Floats> enter;
      const auto met = hn::RebindMask(di, meet(node, c.line, 1, i, enter));
      hn::StoreU(packed(di, hn::Load(di, node.child.data() + i), met), di, c.stack.data() + top);
      top += static_cast<std::uint32_t>(hn::CountTrue(di, met));
    }
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
      hn::StoreU(packed(d, lanes, met_nodes), d, c.stack.data() + top);
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
                                        {next_rays<false>, next_rays<true>},
                                        start_segments,
                                        next_segments,
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
