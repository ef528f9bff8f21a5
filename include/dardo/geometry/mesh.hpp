#pragma once
#include <cstdint>
#include <optional>
#include <vector>

#include "dardo/geometry/shape.hpp"

namespace dardo {

/// Which corners of a mesh a triangle has, either way round.
struct MeshTriangle {
  std::uint32_t a = 0, b = 0, c = 0;

  friend bool operator==(const MeshTriangle&, const MeshTriangle&) = default;
};

/// A surface of triangles, for what stands: hulls of ships, rocks, roofs. It has no inside, and needs not be
/// closed; both sides stop. Every query looks at all triangles whose boxes allow it: large meshes belong into
/// an index triangle by triangle.
struct Mesh {
  std::vector<Vec3> corners;
  std::vector<MeshTriangle> triangles;

  friend bool operator==(const Mesh&, const Mesh&) = default;
};

/// First contact of a ray; the normal is turned against it. Closed form (Möller and Trumbore, 1997), with the
/// edges belonging to the triangles.
std::optional<Contact> ray(const Mesh& mesh, const Ray& ray);
Nearest nearest(const Mesh& mesh, const Vec3& place);
Bounds bounds(const Mesh& mesh);
Mesh placed(const Mesh& mesh, const Pose& pose);
/// Everything that is wrong with it: corners that are not finite, triangles of corners that are not there or
/// without an area.
Problems check(const Mesh& mesh);

/// As for two convex shapes, to the nearest of the triangles.
Closest closest(const Shape& shape, const Mesh& mesh);
bool overlaps(const Shape& shape, const Mesh& mesh);
std::optional<Contact> sweep(const Shape& moving, const Vec3& travel, const Mesh& rest);

}  // namespace dardo
