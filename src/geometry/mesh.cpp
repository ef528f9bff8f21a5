#include "dardo/geometry/mesh.hpp"

#include <algorithm>
#include <string>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo {
namespace {

using Corners = std::array<Vec3, 3>;

Corners corners_of(const Mesh& mesh, std::size_t triangle) {
  const auto& t = mesh.triangles[triangle];
  return {mesh.corners[t[0]], mesh.corners[t[1]], mesh.corners[t[2]]};
}

Bounds bounds_of(const Corners& c) {
  Bounds b;
  for (const Vec3& p : c) b.add(p);
  return b;
}

/// Travel to the triangle, or nothing.
std::optional<double> ray_triangle(const Corners& c, const Ray& line, double slack) {
  const Vec3 ab = c[1] - c[0], ac = c[2] - c[0], across = cross(line.direction, ac);
  const double facing = dot(ab, across), size = std::max(length(ab), length(ac));
  if (std::fabs(facing) <= 1e-12 * size * size) return std::nullopt;  // edge on: its neighbours are met
  const Vec3 from_a = line.from - c[0], q = cross(from_a, ab);
  const double u = dot(from_a, across) / facing, v = dot(line.direction, q) / facing, t = dot(ac, q) / facing;
  const double loose = slack / size;
  if (u < -loose || v < -loose || u + v > 1 + loose || t < -slack || t > line.length + slack)
    return std::nullopt;
  return std::clamp(t, 0.0, line.length);
}

/// Calls `look(corners)` for every triangle whose box comes within `limit()` of `around`.
template <class Limit, class Look>
void each_near(const Mesh& mesh, const Bounds& around, Limit&& limit, Look&& look) {
  for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
    const Corners c = corners_of(mesh, i);
    if (overlaps(bounds_of(c).grown(limit()), around)) look(c);
  }
}

constexpr double kAnyway = 4 * kMaxCoordinate;

}  // namespace

std::optional<Contact> ray(const Mesh& mesh, const Ray& line) {
  std::optional<Contact> first;
  const double slack = detail::slack(largest(line.from));
  for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
    const Corners c = corners_of(mesh, i);
    const auto t = ray_triangle(c, line, slack);
    if (!t || (first && *t >= first->distance)) continue;
    const Vec3 normal = normalized(cross(c[1] - c[0], c[2] - c[0]));
    first = Contact{*t, line.at(*t),
                    *t > 0 ? (dot(normal, line.direction) > 0 ? -normal : normal) : -line.direction};
  }
  return first;
}

Nearest nearest(const Mesh& mesh, const Vec3& place) {
  const Closest found = closest(Ball{place, 0}, mesh);
  return {found.distance, found.on_b};
}

Bounds bounds(const Mesh& mesh) {
  Bounds b;
  for (const Vec3& p : mesh.corners) b.add(p);
  return b;
}

Mesh placed(const Mesh& mesh, const Pose& pose) {
  Mesh out = mesh;
  for (Vec3& p : out.corners) p = pose * p;
  return out;
}

Problems check(const Mesh& mesh) {
  Problems out;
  for (std::size_t i = 0; i < mesh.corners.size(); ++i) {
    if (!is_finite(mesh.corners[i]) || largest(mesh.corners[i]) > kMaxCoordinate) {
      out.push_back({"/mesh/corners/" + std::to_string(i), "is not finite, or lies beyond 10,000,000 m",
                     "three finite coordinates of at most 1e7 in size"});
    }
  }
  if (mesh.triangles.empty()) out.push_back({"/mesh/triangles", "is empty", "at least one triangle"});
  for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
    const auto& t = mesh.triangles[i];
    const std::string where = "/mesh/triangles/" + std::to_string(i);
    if (std::any_of(t.begin(), t.end(), [&](std::uint32_t k) { return k >= mesh.corners.size(); })) {
      out.push_back({where, "names a corner that is not there",
                     "corners 0 to " + std::to_string(mesh.corners.size() - 1)});
    } else if (const Corners c = corners_of(mesh, i);
               out.empty() && !(length(cross(c[1] - c[0], c[2] - c[0])) > 0)) {
      out.push_back({where, "has no area", "three corners that are not on a line"});
    }
  }
  return out;
}

Closest closest(const Shape& shape, const Mesh& mesh) {
  const detail::Convex convex(shape);
  Closest best{kAnyway, {}, {}};
  each_near(
      mesh, bounds(shape), [&] { return best.distance; },
      [&](const Corners& c) {
        const auto apart = detail::nearest_points(convex, detail::Convex(std::span<const Vec3>(c)));
        if (apart.distance < best.distance) best = {apart.distance, apart.on_a, apart.on_b};
      });
  return best;
}

bool overlaps(const Shape& shape, const Mesh& mesh) { return closest(shape, mesh).distance == 0; }

std::optional<Contact> sweep(const Shape& moving, const Vec3& travel, const Mesh& rest) {
  const detail::Convex convex(moving);
  Bounds way = bounds(moving);
  way.add(Bounds{way.low + travel, way.high + travel});
  const double slack = detail::slack(std::max(largest(way.low), largest(way.high)));
  std::optional<Contact> first;
  each_near(
      rest, way, [&] { return slack; },
      [&](const Corners& c) {
        const auto contact = detail::first_contact(convex, travel, detail::Convex(std::span<const Vec3>(c)));
        if (contact && (!first || contact->distance < first->distance)) first = contact;
      });
  return first;
}

}  // namespace dardo
