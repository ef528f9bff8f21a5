#pragma once
#include <vector>

#include "dardo/geometry/shape.hpp"
#include "draw/detail/canvas.hpp"

namespace dardo::draw::detail {

/// From the world, seen from above, to the page.
struct Plan {
  double pixels_per_metre = 1;
  Vec3 world_center;
  Spot page_center;

  Spot operator()(const Vec3& p) const {
    return {page_center.x + (p.x - world_center.x) * pixels_per_metre,
            page_center.y - (p.y - world_center.y) * pixels_per_metre};
  }
};

/// The plan that shows `what` as large as it fits into `page`.
Plan fit(const Bounds& what, const Rect& page);

/// The outline of a shape seen from above, as a convex polygon; round parts as chords far shorter than a
/// pixel is wide.
std::vector<Spot> outline(const Shape& shape, const Plan& plan);

/// The box around spots.
Rect box_around(const std::vector<Spot>& spots);

}  // namespace dardo::draw::detail
