// What all kernels are made of; included once for each vector instruction set, as Highway does it.
#if defined(DARDO_NODE_TESTS_TOGGLE) == defined(HWY_TARGET_TOGGLE)
#ifdef DARDO_NODE_TESTS_TOGGLE
#undef DARDO_NODE_TESTS_TOGGLE
#else
#define DARDO_NODE_TESTS_TOGGLE
#endif

#include <hwy/highway.h>

#include <array>
#include <cstring>

#include "index/detail/box4.hpp"
#include "index/detail/kernels.hpp"

HWY_BEFORE_NAMESPACE();
namespace dardo {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

using Node = TreeKernels::Node;
using Line = TreeKernels::Line;
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
      detail::absolute(from) * Node::kRoom + (static_cast<float>(radius) * 1.000001f + Node::kLeast);
  const auto back = direction < zero;
  const Quad signed_room = back ? -room : room;
  // A component of zero becomes a tiny one: the slab test then needs no case of its own.
  const Quad size = detail::max(detail::absolute(direction), zero + Node::kSmallestDirection);
  // Divided twice, as the second quotient is there sooner than a product of the first. The far sides are put
  // a little farther: by more than the rounding of all the above.
  const Quad one = back ? zero - 1.0f : zero + 1.0f;
  const Quad inverse = one / size, inverse_far = one * 1.000002f / size;
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

/// Which boxes of lanes [i, i + L) of a node touch a box.
HWY_INLINE hn::Mask<Floats> touch(const Node& node, const std::array<float, 3>& low,
                                  const std::array<float, 3>& high, std::size_t i) {
  const Floats d;
  auto met = hn::Le(hn::Load(d, node.plane[0].data() + i), hn::Set(d, high[0]));
  met = hn::And(met, hn::Le(hn::Set(d, low[0]), hn::Load(d, node.plane[3].data() + i)));
  for (std::size_t axis = 1; axis < 3; ++axis) {
    met = hn::And(met, hn::Le(hn::Load(d, node.plane[axis].data() + i), hn::Set(d, high[axis])));
    met = hn::And(met, hn::Le(hn::Set(d, low[axis]), hn::Load(d, node.plane[axis + 3].data() + i)));
  }
  return met;
}

/// Takes from a stack what is entered beyond the limit: once for each new limit, so that nothing need be
/// asked when it is popped. How much stays.
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

}  // namespace HWY_NAMESPACE
}  // namespace dardo
HWY_AFTER_NAMESPACE();

#endif
