#include "io/detail/to_rows.hpp"

namespace dardo::io::detail {

void RowWriter::put(OrderedJson& out, std::string_view name, OrderedJson value) {
  out[std::string(name)] = std::move(value);
}

double RowWriter::number(double v, const Range& range) {
  if (range.per_file == 1) return v;
  const double file = v / range.per_file, round = std::round(file * 1e9) / 1e9;
  if (round * range.per_file == v) return round;
  double near = file;
  for (int i = 0; i < 4; ++i) near = std::nextafter(near, -1e300);
  for (int i = 0; i < 9; ++i, near = std::nextafter(near, 1e300)) {
    if (near * range.per_file == v) return near;
  }
  return file;
}

OrderedJson RowWriter::rotation(const Rotation& turn) {
  double yaw = number(dardo::detail::arc_tangent(turn.x.y, turn.x.x), units::any_turn);
  const double round = std::round(yaw * 1e9) / 1e9;
  if (Rotation::about_z(round * units::kDegree) == turn) return round;
  for (int i = 0; i < 4; ++i) yaw = std::nextafter(yaw, -1e300);
  for (int i = 0; i < 9; ++i, yaw = std::nextafter(yaw, 1e300)) {
    if (Rotation::about_z(yaw * units::kDegree) == turn) return yaw;
  }
  const auto axis = [](const Vec3& v) { return OrderedJson{v.x, v.y, v.z}; };
  return {axis(turn.x), axis(turn.y), axis(turn.z)};
}

}  // namespace dardo::io::detail
