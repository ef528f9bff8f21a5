#include "io/detail/parts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace dardo::io::detail {

double radians(double degrees) { return degrees * std::numbers::pi / 180; }

Passages Parts::read_passages(const Place& place) {
  return read_set<Passages, Passage>(place, {"sight", "shots", "blasts", "feet"});
}

Rotation Parts::read_turn(const Place& place) {
  if (place.node->kind == Node::Kind::number) return Rotation::about_z(radians(place.node->number));
  const auto angles = reader_.numbers(place, 3);
  if (!angles) return {};
  return Rotation::yaw_pitch_roll(radians((*angles)[0]), radians((*angles)[1]), radians((*angles)[2]));
}

double Parts::read_number(const Fields& f, std::string_view key, double otherwise) {
  const auto p = f.at(key);
  return p ? reader_.number(*p).value_or(otherwise) : otherwise;
}
double Parts::need_number(const Fields& f, std::string_view key, std::string_view what) {
  const auto p = f.need(key, what);
  return p ? reader_.number(*p).value_or(0) : 0;
}
Vec3 Parts::need_vec3(const Fields& f, std::string_view key) {
  const auto p = f.need(key, "a place: [x, y, z] in metres");
  return p ? reader_.vec3(*p).value_or(Vec3{}) : Vec3{};
}

Box Parts::read_box(const Place& place) {
  const Fields f(reader_, place, {"at", "size", "turn"});
  Box box{.center = need_vec3(f, "at"), .half = {}, .turn = {}};
  if (const auto p = f.need("size", "the whole extent: [x, y, z] in metres")) {
    box.half = reader_.vec3(*p).value_or(Vec3{}) * 0.5;
  }
  if (const auto p = f.at("turn")) box.turn = read_turn(*p);
  return box;
}

/// The one shape among the fields.
std::optional<Shape> Parts::read_shape(const Place& place, const Fields& f) {
  std::optional<Shape> out;
  int found = 0;
  if (const auto p = f.at("ball")) {
    ++found;
    const Fields b(reader_, *p, {"at", "radius"});
    out = Ball{need_vec3(b, "at"), need_number(b, "radius", "a radius in metres")};
  }
  if (const auto p = f.at("capsule")) {
    ++found;
    const Fields c(reader_, *p, {"from", "to", "radius"});
    out = Capsule{need_vec3(c, "from"), need_vec3(c, "to"), need_number(c, "radius", "a radius in metres")};
  }
  if (const auto p = f.at("box")) {
    ++found;
    out = read_box(*p);
  }
  if (const auto p = f.at("cylinder")) {
    ++found;
    const Fields c(reader_, *p, {"from", "to", "radius"});
    out = Cylinder{need_vec3(c, "from"), need_vec3(c, "to"), need_number(c, "radius", "a radius in metres")};
  }
  if (const auto p = f.at("cone")) {
    ++found;
    const Fields c(reader_, *p, {"apex", "base", "radius"});
    out = Cone{need_vec3(c, "apex"), need_vec3(c, "base"), need_number(c, "radius", "a radius in metres")};
  }
  if (const auto p = f.at("hull")) {
    ++found;
    Hull hull;
    for (const Place& item : reader_.items(*p)) hull.points.push_back(reader_.vec3(item).value_or(Vec3{}));
    out = std::move(hull);
  }
  if (const auto p = f.at("prism")) {
    ++found;
    out = read_prism(*p);
  }
  if (found == 1) return out;
  // A shape whose name is misspelt has had its message.
  if (f.is_object() && (found > 1 || f.all_known())) {
    reader_.problem(place.pointer, fmt::format("has {} shapes", found),
                    "exactly one of ball, capsule, box, cylinder, cone, hull, prism");
  }
  return std::nullopt;
}

Hull Parts::read_prism(const Place& place) {
  const Fields f(reader_, place, {"polygon", "low", "high"});
  const std::size_t before = reader_.count();
  std::vector<Vec3> polygon;
  if (const auto p = f.need("polygon", "its corners in order: [[x, y], ...]")) {
    for (const Place& item : reader_.items(*p)) {
      const auto corner = reader_.numbers(item, 2);
      if (!corner) continue;
      const Vec3 at{(*corner)[0], (*corner)[1], 0};
      if (largest(at) > kMaxCoordinate) {
        reader_.problem(item.pointer, "lies beyond 10,000,000 m", "coordinates of at most 1e7 in size");
      }
      polygon.push_back(at);
    }
  }
  const double low = need_number(f, "low", "the height of its underside, metres");
  const double high = need_number(f, "high", "the height of its top, metres");
  if (std::max(std::fabs(low), std::fabs(high)) > kMaxCoordinate) {
    reader_.problem(place.pointer, "reaches beyond 10,000,000 m", "heights of at most 1e7 in size");
  }
  if (reader_.count() != before) return {};
  auto hull = prism(polygon, low, high);
  if (!hull) {
    reader_.problems(place.pointer, hull.error());
    return {};
  }
  return std::move(*hull);
}

}  // namespace dardo::io::detail
