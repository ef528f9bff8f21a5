#include "dardo/index/batch.hpp"

#include <algorithm>

#include "dardo/geometry/bounds.hpp"

namespace dardo {
namespace {

constexpr int kBits = 6;
constexpr std::uint32_t kSide = 1u << kBits;

/// The bits of a number below 64, each with a free place after it.
std::uint32_t spread(std::uint32_t v) {
  v = (v | v << 4) & 0x0f0fu;
  v = (v | v << 2) & 0x3333u;
  return (v | v << 1) & 0x5555u;
}

}  // namespace

std::span<const std::uint32_t> BatchOrder::of(std::span<const Vec3> places) {
  // A grid of 64 by 64 over the two widest extents, gone through along a Z-curve (Morton 1966); places are
  // dealt out to its cells by counting.
  Bounds around;
  for (const Vec3& p : places) around.add(p);
  const Vec3 size = places.empty() ? Vec3{} : around.high - around.low;
  const bool flat_x = size.x < size.y && size.x < size.z, flat_y = !flat_x && size.y < size.z;
  const auto first = [&](const Vec3& v) { return flat_x ? v.y : v.x; };
  const auto second = [&](const Vec3& v) { return flat_x || flat_y ? v.z : v.y; };
  const auto cells_per_metre = [](double extent) { return extent > 0 ? kSide / extent : 0; };
  const double per_u = cells_per_metre(first(size)), per_v = cells_per_metre(second(size));
  const auto cell_of = [](double offset, double per_metre) {
    return std::min(kSide - 1, static_cast<std::uint32_t>(offset * per_metre));
  };
  starts_.assign(kSide * kSide + 1, 0);
  cells_.resize(places.size());
  order_.resize(places.size());
  for (std::size_t i = 0; i < places.size(); ++i) {
    const Vec3 offset = places[i] - around.low;
    cells_[i] = spread(cell_of(first(offset), per_u)) | spread(cell_of(second(offset), per_v)) << 1;
    ++starts_[cells_[i] + 1];
  }
  for (std::size_t c = 1; c < starts_.size(); ++c) starts_[c] += starts_[c - 1];
  for (std::size_t i = 0; i < places.size(); ++i)
    order_[starts_[cells_[i]]++] = static_cast<std::uint32_t>(i);
  return order_;
}

}  // namespace dardo
