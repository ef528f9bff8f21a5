#include "dardo/index/tree.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace dardo {
namespace {

constexpr float kInfinite = std::numeric_limits<float>::infinity();

/// Room for the rounding of a float slab test: a few steps of the coordinate on top of rounding outward.
float rounded_down(double v) {
  const float f = static_cast<float>(v);
  return std::nextafter(f - std::fabs(f) * 4e-7f, -kInfinite);
}
float rounded_up(double v) { return -rounded_down(-v); }

double coordinate(const Vec3& v, int axis) { return axis == 0 ? v.x : axis == 1 ? v.y : v.z; }

double half_area(const Bounds& b) {
  if (b.empty()) return 0;
  const Vec3 e = b.high - b.low;
  return e.x * e.y + e.y * e.z + e.z * e.x;
}

}  // namespace

struct Tree::Work {
  std::vector<Entry> entries;

  Bounds bounds(std::size_t first, std::size_t last) const {
    Bounds b;
    for (std::size_t i = first; i < last; ++i) b.add(entries[i].bounds);
    return b;
  }

  /// Where to cut [first, last) so that the two halves' areas times their counts are least: binned
  /// surface-area heuristic (Wald, "On fast Construction of SAH-based Bounding Volume Hierarchies", 2007).
  std::size_t cut(std::size_t first, std::size_t last) {
    constexpr int kBins = 16;
    Bounds centers;
    for (std::size_t i = first; i < last; ++i) centers.add(entries[i].bounds.center());
    double best_cost = std::numeric_limits<double>::infinity(), best_at = 0, best_scale = 0, best_low = 0;
    int best_axis = -1;
    for (int axis = 0; axis < 3; ++axis) {
      const double low = coordinate(centers.low, axis), extent = coordinate(centers.high, axis) - low;
      if (!(extent > 0)) continue;
      const double scale = kBins / extent;
      std::array<Bounds, kBins> boxes;
      std::array<std::size_t, kBins> counts{};
      for (std::size_t i = first; i < last; ++i) {
        const auto bin = bin_of(entries[i], axis, low, scale, kBins);
        boxes[bin].add(entries[i].bounds);
        ++counts[bin];
      }
      std::array<double, kBins> right_cost{};
      Bounds right;
      std::size_t right_count = 0;
      for (std::size_t b = kBins - 1; b > 0; --b) {
        right.add(boxes[b]);
        right_count += counts[b];
        right_cost[b] = half_area(right) * static_cast<double>(right_count);
      }
      Bounds left;
      std::size_t left_count = 0;
      for (std::size_t b = 1; b < kBins; ++b) {
        left.add(boxes[b - 1]);
        left_count += counts[b - 1];
        if (left_count == 0 || left_count == last - first) continue;
        const double cost = half_area(left) * static_cast<double>(left_count) + right_cost[b];
        if (cost < best_cost) {
          best_cost = cost, best_axis = axis, best_at = static_cast<double>(b);
          best_scale = scale, best_low = low;
        }
      }
    }
    const std::size_t middle = first + (last - first) / 2;
    if (best_axis < 0) return middle;  // all centres coincide
    const auto split = std::stable_partition(
        entries.begin() + static_cast<std::ptrdiff_t>(first),
        entries.begin() + static_cast<std::ptrdiff_t>(last), [&](const Entry& e) {
          return static_cast<double>(bin_of(e, best_axis, best_low, best_scale, kBins)) < best_at;
        });
    const auto at = static_cast<std::size_t>(split - entries.begin());
    return at == first || at == last ? middle : at;
  }

  static std::size_t bin_of(const Entry& e, int axis, double low, double scale, int bins) {
    const double b = (coordinate(e.bounds.center(), axis) - low) * scale;
    return static_cast<std::size_t>(std::clamp(static_cast<int>(b), 0, bins - 1));
  }
};

void Tree::build(std::span<const Entry> entries) {
  nodes_.clear();
  items_.clear();
  Work work;
  for (const Entry& e : entries) {
    if (!e.bounds.empty()) work.entries.push_back(e);
  }
  if (work.entries.empty()) return;
  items_.reserve(work.entries.size());
  split(work, 0, work.entries.size(), 0);
}

std::uint32_t Tree::split(Work& work, std::size_t first, std::size_t last, int depth) {
  struct Part {
    std::size_t first, last;
    double area;
  };
  // Cut the largest part again until there are eight. Deep down, where cuts by area might degenerate, cut by
  // count: that bounds the depth, and with it the stack of a query.
  std::array<Part, kWidth> parts;
  parts[0] = {first, last, 0};
  std::size_t count = 1;
  while (count < kWidth) {
    std::size_t widest = kWidth;
    for (std::size_t i = 0; i < count; ++i) {
      if (parts[i].last - parts[i].first > 1 && (widest == kWidth || parts[i].area > parts[widest].area))
        widest = i;
    }
    if (widest == kWidth) break;
    const Part part = parts[widest];
    const std::size_t at =
        depth < 20 ? work.cut(part.first, part.last) : part.first + (part.last - part.first) / 2;
    parts[widest] = {part.first, at, half_area(work.bounds(part.first, at))};
    parts[count++] = {at, part.last, half_area(work.bounds(at, part.last))};
  }

  const auto index = static_cast<std::uint32_t>(nodes_.size());
  nodes_.emplace_back();
  for (std::size_t i = 0; i < kWidth; ++i) {
    std::uint32_t child = kNothing;
    Bounds box;
    if (i < count) {
      box = work.bounds(parts[i].first, parts[i].last);
      if (parts[i].last - parts[i].first == 1) {
        child = kLeaf | static_cast<std::uint32_t>(items_.size());
        items_.push_back(work.entries[parts[i].first].item);
      } else {
        child = split(work, parts[i].first, parts[i].last, depth + 1);
      }
    }
    Node& node = nodes_[index];  // split() may have moved it
    node.child[i] = child;
    const bool used = child != kNothing;
    node.low_x[i] = used ? rounded_down(box.low.x) : kInfinite;
    node.low_y[i] = used ? rounded_down(box.low.y) : kInfinite;
    node.low_z[i] = used ? rounded_down(box.low.z) : kInfinite;
    node.high_x[i] = used ? rounded_up(box.high.x) : -kInfinite;
    node.high_y[i] = used ? rounded_up(box.high.y) : -kInfinite;
    node.high_z[i] = used ? rounded_up(box.high.z) : -kInfinite;
  }
  return index;
}

Tree::RayWalk Tree::start(const Ray& ray, double radius) const {
  RayWalk walk;
  const std::array<double, 3> from{ray.from.x, ray.from.y, ray.from.z},
      direction{ray.direction.x, ray.direction.y, ray.direction.z};
  float error = 0;
  for (std::size_t i = 0; i < 3; ++i) {
    walk.from[i] = static_cast<float>(from[i]);
    // A component of zero becomes a tiny one: the slab test then needs no case of its own.
    const double d = std::fabs(direction[i]) < 1e-18 ? std::copysign(1e-18, direction[i]) : direction[i];
    walk.inverse[i] = static_cast<float>(1 / d);
    error = std::max(error, std::fabs(walk.from[i]) * 4e-7f);
  }
  walk.radius = rounded_up(radius) + error;
  walk.count = 0;
  if (!nodes_.empty()) walk.stack[walk.count++] = {0, 0};
  return walk;
}

bool Tree::next(RayWalk& walk, double limit, std::uint32_t& item) const {
  const float far = rounded_up(limit);
  while (walk.count > 0) {
    const Pending top = walk.stack[--walk.count];
    if (top.enter > far) continue;
    if (top.child & kLeaf) {
      item = items_[top.child & ~kLeaf];
      return true;
    }
    const Node& node = nodes_[top.child];
    std::array<float, kWidth> enter, leave;
    for (std::size_t i = 0; i < kWidth; ++i) {
      const float x0 = (node.low_x[i] - walk.radius - walk.from[0]) * walk.inverse[0];
      const float x1 = (node.high_x[i] + walk.radius - walk.from[0]) * walk.inverse[0];
      const float y0 = (node.low_y[i] - walk.radius - walk.from[1]) * walk.inverse[1];
      const float y1 = (node.high_y[i] + walk.radius - walk.from[1]) * walk.inverse[1];
      const float z0 = (node.low_z[i] - walk.radius - walk.from[2]) * walk.inverse[2];
      const float z1 = (node.high_z[i] + walk.radius - walk.from[2]) * walk.inverse[2];
      const float in = std::max(std::max(std::min(x0, x1), std::min(y0, y1)), std::min(z0, z1));
      const float out = std::min(std::min(std::max(x0, x1), std::max(y0, y1)), std::max(z0, z1));
      // Widened by the rounding of the division and products above.
      enter[i] = in - std::fabs(in) * 1e-6f;
      leave[i] = out + std::fabs(out) * 1e-6f;
    }
    const std::size_t base = walk.count;
    for (std::size_t i = 0; i < kWidth; ++i) {
      if (node.child[i] == kNothing || enter[i] > leave[i] || leave[i] < 0 || enter[i] > far) continue;
      // Kept sorted, nearest on top.
      std::size_t at = walk.count++;
      for (; at > base && walk.stack[at - 1].enter < enter[i]; --at) walk.stack[at] = walk.stack[at - 1];
      walk.stack[at] = {node.child[i], enter[i]};
    }
  }
  return false;
}

Tree::BoxWalk Tree::start(const Bounds& box) const {
  BoxWalk walk;
  walk.low = {rounded_down(box.low.x), rounded_down(box.low.y), rounded_down(box.low.z)};
  walk.high = {rounded_up(box.high.x), rounded_up(box.high.y), rounded_up(box.high.z)};
  walk.count = 0;
  if (!nodes_.empty() && !box.empty()) walk.stack[walk.count++] = 0;
  return walk;
}

bool Tree::next(BoxWalk& walk, std::uint32_t& item) const {
  while (walk.count > 0) {
    const std::uint32_t top = walk.stack[--walk.count];
    if (top & kLeaf) {
      item = items_[top & ~kLeaf];
      return true;
    }
    const Node& node = nodes_[top];
    for (std::size_t i = 0; i < kWidth; ++i) {
      if (node.low_x[i] <= walk.high[0] && walk.low[0] <= node.high_x[i] && node.low_y[i] <= walk.high[1] &&
          walk.low[1] <= node.high_y[i] && node.low_z[i] <= walk.high[2] && walk.low[2] <= node.high_z[i]) {
        walk.stack[walk.count++] = node.child[i];
      }
    }
  }
  return false;
}

}  // namespace dardo
