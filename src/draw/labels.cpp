#include "draw/detail/labels.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace dardo::draw::detail {
namespace {

double shared_area(const Rect& a, const Rect& b) {
  const double w = std::min(a.x + a.width, b.x + b.width) - std::max(a.x, b.x);
  const double h = std::min(a.y + a.height, b.y + b.height) - std::max(a.y, b.y);
  return w > 0 && h > 0 ? w * h : 0;
}

/// The label's box when it stands `gap` pixels from the anchor's clearance in a direction.
Rect box_toward(const Label& label, double angle, double gap) {
  const double reach = label.clearance + gap, c = std::cos(angle), s = std::sin(angle);
  const double x = label.anchor.x + c * reach, y = label.anchor.y - s * reach;
  // The box's near side faces the anchor: all of it lies beyond the reach.
  return {x + (c - 1) * 0.5 * label.width, y - (s + 1) * 0.5 * label.height, label.width, label.height};
}

}  // namespace

std::vector<PlacedLabel> place_labels(const std::vector<Label>& labels, std::vector<Rect> taken,
                                      const Rect& page) {
  constexpr int kDirections = 16;
  std::vector<PlacedLabel> out;
  for (const Label& label : labels) {
    PlacedLabel best;
    double least = std::numeric_limits<double>::infinity();
    for (double gap = 3; gap <= label.most_gap && least > 0; gap += gap < 20 ? 5 : 14) {
      for (int k = 0; k < kDirections && least > 0; ++k) {
        // Right first, then left, then around.
        const int order = k == 1 ? kDirections / 2 : k == kDirections / 2 ? 1 : k;
        const Rect box = box_toward(label, 2 * std::numbers::pi * order / kDirections, gap);
        if (!page.holds(box)) continue;
        double cost = 0;
        for (const Rect& t : taken) cost += shared_area(box, t);
        if (cost < least) least = cost, best = {box, cost > 0};
      }
    }
    if (!std::isfinite(least)) best = {box_toward(label, 0, 3), true};
    if (least > 0 && label.may_be_missing) {
      out.push_back({{}, false, true});
      continue;
    }
    taken.push_back(best.box.grown(1));
    out.push_back(best);
  }
  return out;
}

}  // namespace dardo::draw::detail
