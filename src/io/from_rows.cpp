#include "io/detail/from_rows.hpp"

namespace dardo::io::detail {
namespace {

std::string lower(std::string_view says) {
  std::string out(says.substr(0, says.size() - 1));
  out[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(out[0])));
  return out;
}

}  // namespace

Place RowReader::item_of(const Place& place, std::size_t i) {
  return {&place.node->items[i], fmt::format("{}/{}", place.pointer, i)};
}
void RowReader::miss(const Place& place, std::string_view key, std::string_view says) {
  reader_.problem(place.pointer, fmt::format("has no \"{}\"", key), lower(says));
}
void RowReader::miss_kind(const Place& place, int found, const std::vector<std::string>& kinds) {
  reader_.problem(place.pointer, fmt::format("has {} of {}", found, fmt::join(kinds, ", ")),
                  "exactly one of them");
}
void RowReader::miss_list(const Place& place, std::size_t count) {
  reader_.problem(place.pointer, "is " + describe(*place.node), fmt::format("a list of {} numbers", count));
}

bool RowReader::read_number(const Place& place, double& out, const Range& range) {
  if (range.endless && place.node->kind == Node::Kind::string) {
    if (place.node->text == "endless") return out = std::numeric_limits<double>::infinity(), true;
    reader_.problem(place.pointer, "is " + describe(*place.node), dardo::detail::range_text(range));
    return false;
  }
  const auto v = reader_.number(place);
  if (!v) return false;
  const double inside = *v * range.per_file;
  if (!range.holds(inside) || !std::isfinite(inside) || (range.unit == Unit::count && std::floor(*v) != *v)) {
    reader_.problem(place.pointer, "is " + dardo::detail::number_text(*v), dardo::detail::range_text(range));
    return false;
  }
  out = inside;
  return true;
}
void RowReader::read_vec3(const Place& place, Vec3& out, const Range& range) {
  const std::size_t count = plane_.flat ? 2 : 3;
  const auto v = reader_.numbers(place, count);
  if (!v) return;
  constexpr Range kAny{Unit::plain, -1e100, 1e100};  // a direction: only where it points matters
  const Range& each = range.most == 0 ? kAny : range;
  Vec3 read;
  bool good = true;
  double* const parts[] = {&read.x, &read.y, &read.z};
  for (std::size_t i = 0; i < count; ++i) {
    const Place item = item_of(place, i);
    good = read_number(item, *parts[i], each) && good;
  }
  // An extent has no side.
  if (range.least < 0 || range.most == 0) read.y = plane_.y(read.y);
  if (good) out = read;
}
void RowReader::read_rotation(const Place& place, Rotation& out) {
  const Node& node = *place.node;
  const auto angle = [&](const Place& at, double& v) { return read_number(at, v, units::any_turn); };
  if (node.kind == Node::Kind::number) {
    double yaw = 0;
    if (angle(place, yaw)) out = Rotation::about_z(plane_.y(yaw));
  } else if (plane_.flat) {
    reader_.problem(place.pointer, "is " + describe(node), "degrees, in a flat scene");
  } else if (node.kind == Node::Kind::object) {
    TurnEntry turn;
    const std::size_t before = reader_.count();
    read(place, turn);
    if (reader_.count() != before) return;
    if (turn.axis == Vec3{}) {
      reader_.problem(place.pointer + "/axis", "has no direction", "three numbers, not all 0");
    } else {
      out = Rotation::about(normalized(turn.axis / largest(turn.axis)), turn.angle);
    }
  } else if (node.kind == Node::Kind::array && node.items.size() == 3 &&
             node.items[0].kind == Node::Kind::array) {
    constexpr Range kPart{Unit::plain, -1, 1};
    Rotation read;
    const std::size_t before = reader_.count();
    Vec3* const axes[] = {&read.x, &read.y, &read.z};
    for (std::size_t i = 0; i < 3; ++i) read_vec3(item_of(place, i), *axes[i], kPart);
    if (reader_.count() == before) out = read;
  } else if (node.kind == Node::Kind::array && node.items.size() == 3) {
    std::array<double, 3> angles{};
    bool good = true;
    for (std::size_t i = 0; i < 3; ++i) good = angle(item_of(place, i), angles[i]) && good;
    if (good) out = Rotation::yaw_pitch_roll(angles[0], angles[1], angles[2]);
  } else {
    reader_.problem(place.pointer, "is " + describe(node),
                    "degrees about z, [yaw, pitch, roll], or {axis, angle}");
  }
}

Hull RowReader::prism_of(const Place& place, const PrismEntry& entry) {
  std::vector<Vec3> corners;
  for (const planar::Vec2& c : entry.polygon) corners.push_back({c.x, c.y, 0});
  auto hull = prism(corners, entry.low, entry.high);
  if (hull) {
    for (Vec3& p : hull->points) p = Pose{entry.at, entry.turn} * p;
    return std::move(*hull);
  }
  reader_.problems(place.pointer, hull.error());
  return {};
}

void RowReader::read_hull(const Place& place, Hull& out) {
  if (place.node->kind != Node::Kind::object) return read(place, out.points, units::coordinate);
  HullEntry entry;
  const std::size_t before = reader_.count();
  read(place, entry);
  if (reader_.count() != before) return;
  out.points = entry.points;
  for (Vec3& p : out.points) p = Pose{entry.at, entry.turn} * p;
}

}  // namespace dardo::io::detail
