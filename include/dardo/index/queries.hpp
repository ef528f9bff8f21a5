#pragma once
#include <algorithm>
#include <cstdint>
#include <optional>
#include <utility>
#include <vector>

#include "dardo/geometry/ball.hpp"
#include "dardo/geometry/ray.hpp"
#include "dardo/prefetch.hpp"

// Questions answered with any index: a Tree or a PlainLoop. Results go into the caller's list, so that a list
// that is kept between calls makes them allocate nothing.
namespace dardo {

/// An item of an index and its distance, metres; sorts by distance, then by item.
using Ranked = std::pair<double, std::uint32_t>;

/// The first item that the ray meets, or nothing. `contact_of(item)` is the exact test: the travel to the
/// contact, or nothing.
///
///     auto hit = first_along(tree, ray, [&](std::uint32_t i) -> std::optional<double> {
///       auto contact = dardo::ray(shapes[i], ray);
///       return contact ? std::optional(contact->distance) : std::nullopt;
///     });
template <class Index, class ContactOf>
std::optional<Ranked> first_along(const Index& index, const Ray& ray, ContactOf&& contact_of,
                                  double radius = 0) {
  std::optional<Ranked> best;
  index.along(
      ray, ray.length,
      [&](std::uint32_t item, double limit) {
        const std::optional<double> at = contact_of(item);
        if (at && (!best || Ranked{*at, item} < *best)) best = Ranked{*at, item};
        return best ? std::min(limit, best->first) : limit;
      },
      radius);
  return best;
}

/// All items that the ray meets, in order, into `out`.
template <class Index, class ContactOf>
void all_along(const Index& index, const Ray& ray, ContactOf&& contact_of, std::vector<Ranked>& out,
               double radius = 0) {
  out.clear();
  index.along(
      ray, ray.length,
      [&](std::uint32_t item, double limit) {
        if (const std::optional<double> at = contact_of(item)) out.push_back({*at, item});
        return limit;
      },
      radius);
  std::sort(out.begin(), out.end());
}

/// The `count` items nearest to `place`, in order, into `out`; fewer when there are not so many within
/// `limit`. `distance_of(item)` is exact, and not less than the distance to the item's box. `guess` is a
/// distance within which there may be enough; any will do. `ahead` is that of `Tree::touching`.
template <class Index, class DistanceOf, class Ahead = NoPrefetch>
void nearest_of(const Index& index, const Vec3& place, std::size_t count, double limit,
                DistanceOf&& distance_of, std::vector<Ranked>& out, double guess = 4, Ahead&& ahead = {}) {
  out.clear();
  if (count == 0) return;
  // Whoever lies within the radius is known then: with enough of them nobody beyond it can matter.
  for (double radius = std::min(guess, limit);; radius = std::min(2 * radius, limit)) {
    out.clear();
    index.touching(
        Ball{place, radius},
        [&](std::uint32_t item) {
          const double away = distance_of(item);
          if (away <= radius) out.push_back({away, item});
        },
        ahead);
    if (out.size() >= count || !(radius < limit)) break;
  }
  const std::size_t kept = std::min(count, out.size());
  std::partial_sort(out.begin(), out.begin() + static_cast<std::ptrdiff_t>(kept), out.end());
  out.resize(kept);
}

}  // namespace dardo
