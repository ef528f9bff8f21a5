#pragma once
#include <vector>

#include "dardo/geometry/shape.hpp"
#include "draw/detail/canvas.hpp"

namespace dardo::draw::detail {

/// From the world to the page, without perspective: seen from above, or from wherever `right` and `up` say.
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
  /// Towards who looks at the page.
  Vec3 toward() const { return cross(right, up); }
  bool from_above() const { return up.z == 0; }
  bool from_the_side() const { return up.z == 1; }
  bool oblique() const { return !from_above() && !from_the_side(); }
};

/// What of the page some part of the world takes, in metres to the right and up as a plan looks at it.
class Extent {
 public:
  explicit Extent(const Plan& plan) : right_(plan.right), up_(plan.up) {}

  void add(const Vec3& p);
  void add(const Bounds& box);
  void add(const Extent& other);
  bool empty() const { return left_ > east_; }
  double width() const { return empty() ? 0 : east_ - left_; }
  double height() const { return empty() ? 0 : top_ - low_; }
  void grow(double by) { left_ -= by, east_ += by, low_ -= by, top_ += by; }
  /// In the world, in the plane of the page.
  Vec3 center() const;

 private:
  Vec3 right_, up_;
  double left_ = 1, east_ = -1, low_ = 1, top_ = -1;
};

/// How many pixels a metre may take at most for all of it to fit into `page`.
double scale_to_fit(const Extent& extent, const Rect& page);

/// `plan` so that `extent` stands in the middle of `page`, at a scale.
Plan placed_on(Plan plan, const Extent& extent, const Rect& page, double pixels_per_metre);

/// The outline of a shape as a plan sees it, as a convex polygon; round parts as chords far shorter than a
/// pixel is wide.
std::vector<Spot> outline(const Shape& shape, const Plan& plan);
/// A circle that lies level, as a closed line.
std::vector<Spot> level_circle(const Vec3& center, double radius, const Plan& plan);

/// The box around spots.
Rect box_around(const std::vector<Spot>& spots);

}  // namespace dardo::draw::detail
