#include "dardo/geometry/mesh.hpp"

#include <algorithm>
#include <string>

#include "geometry/detail/check_rows.hpp"
#include "geometry/detail/convex.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo {
namespace {

using Corners = std::array<Vec3, 3>;

Corners corners_of(const Mesh& mesh, std::size_t triangle) {
  const auto& t = mesh.triangles[triangle];
  return {mesh.corners[t.a], mesh.corners[t.b], mesh.corners[t.c]};
}

Bounds bounds_of(const Corners& c) {
  Bounds b;
  for (const Vec3& p : c) b.add(p);
  return b;
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
  for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
    const Corners c = corners_of(mesh, i);
    const auto contact = ray(Triangle{c[0], c[1], c[2]}, line);
    if (contact && (!first || contact->distance < first->distance)) first = contact;
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

Problems Rows<Mesh>::across(const Mesh& mesh) {
  Problems out;
  if (mesh.triangles.empty()) out.push_back({"/triangles", "is empty", "at least one triangle"});
  for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
    const MeshTriangle& t = mesh.triangles[i];
    const std::string where = "/triangles/" + std::to_string(i);
    if (std::max({t.a, t.b, t.c}) >= mesh.corners.size()) {
      out.push_back({where, "names a corner that is not there",
                     "corners 0 to " + std::to_string(mesh.corners.size() - 1)});
    } else if (const Corners c = corners_of(mesh, i); !Rows<Triangle>::across({c[0], c[1], c[2]}).empty()) {
      out.push_back({where, "has no area", "three corners that are not on a line"});
    }
  }
  return out;
}

Problems check(const Mesh& mesh) {
  Problems out;
  detail::check_by_rows(out, {nullptr, "mesh"}, mesh);
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
