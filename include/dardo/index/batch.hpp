#pragma once
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "dardo/index/queries.hpp"

namespace dardo {

/// An order in which many places are looked at so that neighbours come after one another and find what they
/// need in the cache. Keep it between calls: then it allocates nothing once it has seen the largest batch.
class BatchOrder {
 public:
  /// The numbers of the places, neighbours together.
  std::span<const std::uint32_t> of(std::span<const Vec3> places);

  /// Room for the places of a batch.
  std::vector<Vec3>& places() { return places_; }

 private:
  std::vector<Vec3> places_;
  std::vector<std::uint32_t> cells_, starts_, order_;
};

/// `first_along` for each of many rays; `out[i]` is the answer to `rays[i]`, the same as alone.
/// `contact_of(ray number, item)` is the exact test. `out` must be as long as `rays`.
template <class Index, class ContactOf>
void first_along_each(const Index& index, std::span<const Ray> rays, ContactOf&& contact_of,
                      std::span<std::optional<Ranked>> out, BatchOrder& order, double radius = 0) {
  order.places().clear();
  for (const Ray& r : rays) order.places().push_back(r.from);
  for (const std::uint32_t i : order.of(order.places())) {
    out[i] = first_along(
        index, rays[i], [&](std::uint32_t item) { return contact_of(i, item); }, radius);
  }
}

/// For each of many lines of sight whether anything blocks it; `blocks(line number, item)` is the exact test.
template <class Index, class Blocks>
void cuts_each(const Index& index, std::span<const Segment> lines, Blocks&& blocks,
               std::span<std::uint8_t> out, BatchOrder& order) {
  order.places().clear();
  for (const Segment& s : lines) order.places().push_back(s.from);
  for (const std::uint32_t i : order.of(order.places())) {
    out[i] = index.cuts(lines[i], [&](std::uint32_t item) { return blocks(i, item); });
  }
}

}  // namespace dardo
