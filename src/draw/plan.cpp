#include "draw/detail/plan.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace dardo::draw::detail {
namespace {

/// Convex hull, anticlockwise (Andrew's monotone chain, 1979).
std::vector<Spot> hull(std::vector<Spot> points) {
  std::sort(points.begin(), points.end(),
            [](const Spot& a, const Spot& b) { return a.x != b.x ? a.x < b.x : a.y < b.y; });
  const auto turn = [](const Spot& a, const Spot& b, const Spot& c) {
    return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
  };
  std::vector<Spot> out;
  for (int pass = 0; pass < 2; ++pass) {
    const std::size_t base = out.size();
    for (const Spot& p : points) {
      while (out.size() >= base + 2 && turn(out[out.size() - 2], out.back(), p) <= 0) out.pop_back();
      out.push_back(p);
    }
    out.pop_back();
    std::reverse(points.begin(), points.end());
  }
  return out.empty() ? points : out;
}

void add_circle(std::vector<Spot>& out, Spot center, double radius) {
  constexpr int kChords = 48;
  for (int i = 0; i < kChords; ++i) {
    const double a = 2 * std::numbers::pi * i / kChords;
    out.push_back({center.x + radius * std::cos(a), center.y + radius * std::sin(a)});
  }
}

void add_points(std::vector<Spot>& out, const Ball& b, const Plan& plan) {
  add_circle(out, plan(b.center), b.radius * plan.pixels_per_metre);
}
void add_points(std::vector<Spot>& out, const Capsule& c, const Plan& plan) {
  add_circle(out, plan(c.from), c.radius * plan.pixels_per_metre);
  add_circle(out, plan(c.to), c.radius * plan.pixels_per_metre);
}
void add_points(std::vector<Spot>& out, const Box& b, const Plan& plan) {
  for (int i = 0; i < 8; ++i) {
    const Vec3 corner{i & 1 ? b.half.x : -b.half.x, i & 2 ? b.half.y : -b.half.y,
                      i & 4 ? b.half.z : -b.half.z};
    out.push_back(plan(b.center + b.turn * corner));
  }
}

void add_disc(std::vector<Spot>& out, const Vec3& center, const Vec3& axis, double radius, const Plan& plan) {
  constexpr int kChords = 48;
  // Two directions across the axis; the disc is seen at a slant.
  const Vec3 other = std::fabs(axis.z) < 0.9 ? Vec3{0, 0, 1} : Vec3{1, 0, 0};
  const Vec3 u = normalized(cross(axis, other)), v = cross(axis, u);
  for (int i = 0; i < kChords; ++i) {
    const double a = 2 * std::numbers::pi * i / kChords;
    out.push_back(plan(center + (u * std::cos(a) + v * std::sin(a)) * radius));
  }
}

void add_points(std::vector<Spot>& out, const Cylinder& c, const Plan& plan) {
  const Vec3 axis = normalized(c.to - c.from);
  add_disc(out, c.from, axis, c.radius, plan);
  add_disc(out, c.to, axis, c.radius, plan);
}
void add_points(std::vector<Spot>& out, const Cone& c, const Plan& plan) {
  out.push_back(plan(c.apex));
  add_disc(out, c.base, normalized(c.base - c.apex), c.radius, plan);
}
void add_points(std::vector<Spot>& out, const Hull& h, const Plan& plan) {
  for (const Vec3& p : h.points) out.push_back(plan(p));
}
void add_points(std::vector<Spot>& out, const Triangle& t, const Plan& plan) {
  for (const Vec3& p : {t.a, t.b, t.c}) out.push_back(plan(p));
}

}  // namespace

void Extent::add(const Vec3& p) {
  const double x = dot(p, right_), y = dot(p, up_);
  if (empty()) {
    left_ = east_ = x, low_ = top_ = y;
    return;
  }
  left_ = std::min(left_, x), east_ = std::max(east_, x);
  low_ = std::min(low_, y), top_ = std::max(top_, y);
}

void Extent::add(const Bounds& box) {
  for (int i = 0; i < 8; ++i) {
    add(Vec3{i & 1 ? box.high.x : box.low.x, i & 2 ? box.high.y : box.low.y, i & 4 ? box.high.z : box.low.z});
  }
}

void Extent::add(const Extent& other) {
  if (other.empty()) return;
  add(other.right_ * other.left_ + other.up_ * other.low_);
  add(other.right_ * other.east_ + other.up_ * other.top_);
}

Vec3 Extent::center() const { return right_ * ((left_ + east_) / 2) + up_ * ((low_ + top_) / 2); }

double scale_to_fit(const Extent& extent, const Rect& page) {
  return std::min(page.width / std::max(extent.width(), 1.0), page.height / std::max(extent.height(), 1.0));
}

Plan placed_on(Plan plan, const Extent& extent, const Rect& page, double pixels_per_metre) {
  plan.pixels_per_metre = pixels_per_metre;
  plan.world_center = extent.center();
  plan.page_center = {page.x + page.width / 2, page.y + page.height / 2};
  return plan;
}

std::vector<Spot> outline(const Shape& shape, const Plan& plan) {
  std::vector<Spot> points;
  std::visit([&](const auto& s) { add_points(points, s, plan); }, shape);
  return hull(std::move(points));
}

std::vector<Spot> level_circle(const Vec3& center, double radius, const Plan& plan) {
  constexpr int kChords = 96;
  std::vector<Spot> out;
  for (int i = 0; i <= kChords; ++i) {
    const double a = 2 * std::numbers::pi * i / kChords;
    out.push_back(plan(center + Vec3{radius * std::cos(a), radius * std::sin(a), 0}));
  }
  return out;
}

Rect box_around(const std::vector<Spot>& spots) {
  Rect r{spots[0].x, spots[0].y, 0, 0};
  for (const Spot& s : spots) {
    const double right = std::max(r.x + r.width, s.x), bottom = std::max(r.y + r.height, s.y);
    r.x = std::min(r.x, s.x), r.y = std::min(r.y, s.y);
    r.width = right - r.x, r.height = bottom - r.y;
  }
  return r;
}

}  // namespace dardo::draw::detail
