#pragma once
#include <vector>

#include "dardo/geometry/shape.hpp"
#include "draw/detail/canvas.hpp"

namespace dardo::draw::detail {

/// From the world to the page: seen from above, or from wherever `right` and `up` say.
struct Plan {
  double pixels_per_metre = 1;
  Vec3 world_center;
  Spot page_center;
  Vec3 right{1, 0, 0}, up{0, 1, 0};

  Spot operator()(const Vec3& p) const {
    const Vec3 off = p - world_center;
    return {page_center.x + dot(off, right) * pixels_per_metre,
            page_center.y - dot(off, up) * pixels_per_metre};
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
