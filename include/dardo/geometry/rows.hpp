#pragma once
#include "dardo/geometry/mesh.hpp"
#include "dardo/geometry/planar.hpp"
#include "dardo/geometry/shape.hpp"
#include "dardo/units.hpp"

namespace dardo {

template <>
struct Rows<Ball> {
  static constexpr auto all = std::tuple{
      needed(row("at", &Ball::center, units::coordinate, "Its middle.")),
      needed(row("radius", &Ball::radius, units::metres, "Its radius.")),
  };
};
template <>
struct Rows<Capsule> {
  static constexpr auto all = std::tuple{
      needed(row("from", &Capsule::from, units::coordinate, "One end of its axis.")),
      needed(row("to", &Capsule::to, units::coordinate, "The other end.")),
      needed(row("radius", &Capsule::radius, units::metres, "Around the axis and its ends.")),
  };
};
template <>
struct Rows<Box> {
  static constexpr auto all = std::tuple{
      needed(row("at", &Box::center, units::coordinate, "Its middle.")),
      needed(row("size", &Box::half, units::half_extent, "Its whole extent along its own three axes.")),
      row("turn", &Box::turn, units::any_turn, "How it is turned: about z, or [yaw, pitch, roll]."),
  };
};
template <>
struct Rows<Cylinder> {
  static constexpr auto all = std::tuple{
      needed(row("from", &Cylinder::from, units::coordinate, "The middle of one flat end.")),
      needed(row("to", &Cylinder::to, units::coordinate, "The middle of the other.")),
      needed(row("radius", &Cylinder::radius, units::metres, "Its radius.")),
  };
  static Problems across(const Cylinder& cylinder);
};
template <>
struct Rows<Cone> {
  static constexpr auto all = std::tuple{
      needed(row("apex", &Cone::apex, units::coordinate, "Its tip.")),
      needed(row("base", &Cone::base, units::coordinate, "The middle of its flat end.")),
      needed(row("radius", &Cone::radius, units::metres, "Of the flat end.")),
  };
  static Problems across(const Cone& cone);
};
template <>
struct Rows<Triangle> {
  static constexpr auto all = std::tuple{
      needed(row("a", &Triangle::a, units::coordinate, "One corner.")),
      needed(row("b", &Triangle::b, units::coordinate, "Another.")),
      needed(row("c", &Triangle::c, units::coordinate, "The third.")),
  };
  static Problems across(const Triangle& triangle);
};
template <>
struct Rows<MeshTriangle> {
  static constexpr bool as_list = true;
  static constexpr auto all = std::tuple{
      row("a", &MeshTriangle::a, units::count(0, 1e7), "One corner."),
      row("b", &MeshTriangle::b, units::count(0, 1e7), "Another."),
      row("c", &MeshTriangle::c, units::count(0, 1e7), "The third."),
  };
};
template <>
struct Rows<Mesh> {
  static constexpr auto all = std::tuple{
      needed(row("corners", &Mesh::corners, units::coordinate, "The corners of all triangles.")),
      needed(row("triangles", &Mesh::triangles, "Of each the numbers of its three corners, from 0.")),
  };
  static Problems across(const Mesh& mesh);
};
template <>
struct Rows<planar::Vec2> {
  static constexpr bool as_list = true;
  static constexpr auto all = std::tuple{
      row("x", &planar::Vec2::x, units::coordinate, "Ahead."),
      row("y", &planar::Vec2::y, units::coordinate, "To the left."),
  };
};
/// In files a hull is the list of its points; a prism, given by its polygon, becomes one.
template <>
struct Rows<Shape> {
  static constexpr auto all = std::tuple{
      kind<Ball>("ball", "A ball."),
      kind<Capsule>("capsule", "All that is within a radius of a line."),
      kind<Box>("box", "A box, turned as you like."),
      kind<Cylinder>("cylinder", "A cylinder with flat ends."),
      kind<Cone>("cone", "A cone."),
      kind<Hull>("hull", "The convex hull of points."),
      kind<Triangle>("triangle", "A flat triangle, with both sides."),
  };
};

}  // namespace dardo
