// Compiled with the flags that let GCC make vectors of these loops (see CMakeLists.txt): nothing here may be
// NaN or infinite.
#include "index/vector_loop.hpp"

#include <algorithm>

// The widest vectors of the machine, as the trees use them.
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__)
#define DARDO_EACH_TARGET __attribute__((target_clones("arch=x86-64-v4", "arch=x86-64-v3", "default")))
#else
#define DARDO_EACH_TARGET
#endif

namespace dardo::bench {
namespace {

constexpr std::size_t kBlock = 512;  // of bodies whose distances are kept, then searched
constexpr double kNever = kNoHit.first;

// Where some of each array begin.
struct Bodies {
  const double *x, *y, *z, *axis_x, *axis_y, *axis_z, *half, *radius;
};
struct Walls {
  const double *low_x, *low_y, *low_z, *high_x, *high_y, *high_z;
};

/// Where a ray meets each capsule, grown, or kNever; the least of them.
DARDO_EACH_TARGET double meet(const Bodies& b, std::size_t count, const Ray& ray, double grown,
                              double* __restrict at) {
  const double fx = ray.from.x, fy = ray.from.y, fz = ray.from.z, length = ray.length;
  const double dx = ray.direction.x, dy = ray.direction.y, dz = ray.direction.z;
  double least = kNever;
  for (std::size_t i = 0; i < count; ++i) {
    const double r = b.radius[i] + grown, half = b.half[i];
    const double mx = fx - b.x[i], my = fy - b.y[i], mz = fz - b.z[i];
    const double m_axis = mx * b.axis_x[i] + my * b.axis_y[i] + mz * b.axis_z[i];
    const double d_axis = dx * b.axis_x[i] + dy * b.axis_y[i] + dz * b.axis_z[i];
    const double m_d = mx * dx + my * dy + mz * dz, m_m = mx * mx + my * my + mz * mz;
    // The endless cylinder, then, beyond an end, that end's ball.
    const double a = std::max(1 - d_axis * d_axis, 1e-12);
    const double half_b = m_d - m_axis * d_axis, c = m_m - m_axis * m_axis - r * r;
    const double round = half_b * half_b - a * c;
    const double side = (-half_b - std::sqrt(std::max(round, 0.0))) / a;
    const double height = m_axis + side * d_axis;
    const double end = std::min(std::max(height, -half), half);
    const double end_b = m_d - end * d_axis, end_c = m_m - 2 * end * m_axis + end * end - r * r;
    const double ball = end_b * end_b - end_c;
    const double cap = -end_b - std::sqrt(std::max(ball, 0.0));
    const bool on_side = end == height;
    const double t = on_side ? side : cap;
    const double near = std::min(std::max(m_axis, -half), half);
    const bool inside = m_m - 2 * near * m_axis + near * near <= r * r;
    const bool met = (round >= 0) & (on_side | (ball >= 0)) & (t >= 0) & (t <= length);
    at[i] = inside ? 0 : met ? t : kNever;
    least = std::min(least, at[i]);
  }
  return least;
}

/// Where a line meets each wall, or kNever; the least of them. `inverse` is that of its direction.
DARDO_EACH_TARGET double meet(const Walls& w, std::size_t count, const Vec3& from, const Vec3& inverse,
                              double length, double* __restrict at) {
  const double fx = from.x, fy = from.y, fz = from.z, ix = inverse.x, iy = inverse.y, iz = inverse.z;
  double least = kNever;
  for (std::size_t i = 0; i < count; ++i) {
    const double x0 = (w.low_x[i] - fx) * ix, x1 = (w.high_x[i] - fx) * ix;
    const double y0 = (w.low_y[i] - fy) * iy, y1 = (w.high_y[i] - fy) * iy;
    const double z0 = (w.low_z[i] - fz) * iz, z1 = (w.high_z[i] - fz) * iz;
    const double enter =
        std::max(std::max(std::min(x0, x1), std::min(y0, y1)), std::max(std::min(z0, z1), 0.0));
    const double leave =
        std::min(std::min(std::max(x0, x1), std::max(y0, y1)), std::min(std::max(z0, z1), length));
    at[i] = enter <= leave ? enter : kNever;
    least = std::min(least, at[i]);
  }
  return least;
}

DARDO_EACH_TARGET std::size_t touch(const Bodies& b, std::size_t count, const Vec3& center, double radius) {
  const double cx = center.x, cy = center.y, cz = center.z;
  std::size_t touched = 0;
  for (std::size_t i = 0; i < count; ++i) {
    const double mx = cx - b.x[i], my = cy - b.y[i], mz = cz - b.z[i], reach = radius + b.radius[i];
    const double m_axis = mx * b.axis_x[i] + my * b.axis_y[i] + mz * b.axis_z[i];
    const double near = std::min(std::max(m_axis, -b.half[i]), b.half[i]);
    touched += mx * mx + my * my + mz * mz - 2 * near * m_axis + near * near <= reach * reach;
  }
  return touched;
}

Bodies from(const std::array<std::vector<double>, 8>& a, std::size_t i) {
  return {&a[0][i], &a[1][i], &a[2][i], &a[3][i], &a[4][i], &a[5][i], &a[6][i], &a[7][i]};
}
Walls from(const std::array<std::vector<double>, 6>& a, std::size_t i) {
  return {&a[0][i], &a[1][i], &a[2][i], &a[3][i], &a[4][i], &a[5][i]};
}

/// A direction component of zero becomes a tiny one.
Vec3 inverse_of(const Vec3& direction) {
  const auto one = [](double d) { return 1 / (std::fabs(d) < 1e-30 ? 1e-30 : d); };
  return {one(direction.x), one(direction.y), one(direction.z)};
}

/// `meet_block(first, count, at)` for one block after the other; the least and its number into `best`.
template <class MeetBlock>
void search(std::size_t count, std::uint32_t base, Hit& best, const MeetBlock& meet_block) {
  std::array<double, kBlock> at;
  for (std::size_t first = 0; first < count; first += kBlock) {
    const std::size_t some = std::min(kBlock, count - first);
    const double least = meet_block(first, some, at.data());
    if (!(least < best.first)) continue;
    const auto place = std::find(at.begin(), at.begin() + static_cast<std::ptrdiff_t>(some), least);
    best = {least, base + static_cast<std::uint32_t>(first + static_cast<std::size_t>(place - at.begin()))};
  }
}

}  // namespace

VectorLoop::VectorLoop(const Scene& scene) {
  for (const Capsule& c : scene.bodies) {
    const Vec3 middle = (c.from + c.to) * 0.5, way = c.to - c.from;
    const double length = std::sqrt(way.x * way.x + way.y * way.y + way.z * way.z);
    const std::array<double, 8> row{middle.x,       middle.y,       middle.z,     way.x / length,
                                    way.y / length, way.z / length, length * 0.5, c.radius};
    for (std::size_t k = 0; k < row.size(); ++k) body_[k].push_back(row[k]);
  }
  for (const Box& wall : scene.walls) {
    const Bounds b = bounds(wall);
    const std::array<double, 6> row{b.low.x, b.low.y, b.low.z, b.high.x, b.high.y, b.high.z};
    for (std::size_t k = 0; k < row.size(); ++k) wall_[k].push_back(row[k]);
  }
}

void VectorLoop::upkeep(const std::vector<Capsule>& bodies) {
  for (std::size_t i = 0; i < bodies.size(); ++i) {
    const Vec3 middle = (bodies[i].from + bodies[i].to) * 0.5;
    body_[0][i] = middle.x, body_[1][i] = middle.y, body_[2][i] = middle.z;
  }
}

void VectorLoop::first_body(const Ray& ray, double grown, Hit& best) const {
  search(count(), 0, best, [&](std::size_t first, std::size_t some, double* at) {
    return meet(from(body_, first), some, ray, grown, at);
  });
}

Hit VectorLoop::first(const Ray& ray) const {
  Hit best = kNoHit;
  first_body(ray, 0, best);
  const Vec3 inverse = inverse_of(ray.direction);
  search(wall_[0].size(), static_cast<std::uint32_t>(count()), best,
         [&](std::size_t first, std::size_t some, double* at) {
           return meet(from(wall_, first), some, ray.from, inverse, ray.length, at);
         });
  return best;
}

Hit VectorLoop::sweep(const Ray& way) const {
  Hit best = kNoHit;
  first_body(way, Scene::kSweepRadius, best);
  return best;
}

std::size_t VectorLoop::touched(const Vec3& center, double radius) const {
  return touch(from(body_, 0), count(), center, radius);
}

bool VectorLoop::sees(const Segment& line) const {
  const Vec3 inverse = inverse_of(line.to - line.from);
  std::array<double, kBlock> at;
  for (std::size_t first = 0; first < wall_[0].size(); first += kBlock) {
    const std::size_t some = std::min(kBlock, wall_[0].size() - first);
    if (meet(from(wall_, first), some, line.from, inverse, 1, at.data()) <= 1) return false;
  }
  return true;
}

}  // namespace dardo::bench
