#include "resolve/moment/walls.hpp"

#include <algorithm>
#include <tuple>

#include "geometry/detail/tolerance.hpp"

namespace dardo::detail {

bool WallThen::comes_near(Segment line, double distance) const {
  if (pose_) line = {here(line.from), here(line.to)};
  const auto key = [](const Vec3& v) { return std::tuple(v.x, v.y, v.z); };
  if (key(line.to) < key(line.from)) std::swap(line.from, line.to);
  if (const Box* box = std::get_if<Box>(shape_); box != nullptr && distance == 0) return touches(*box, line);
  const double scale = std::max({largest(line.from), largest(line.to), distance});
  return dardo::distance(*shape_, line) <= distance + slack(scale);
}

std::optional<WallContact> first_wall(const Arena& arena, const Ray& line, Passage passage, double time) {
  std::optional<WallContact> first;
  const WallTable& table = arena.wall_table();
  const auto order = [&](WallId wall) { return table.order(wall); };
  table.along(line, line.length, [&](WallPartId part, double limit) {
    const WallId wall = table.wall_of(part);
    if (!arena.blocks(wall).has(passage) || lets_pass(arena, wall, line.direction, time)) return limit;
    const auto contact = WallThen(arena, part, time).ray(line);
    if (!contact || contact->distance > limit) return limit;
    if (!first || contact->distance < first->contact.distance || order(wall) < order(first->wall))
      first = {wall, *contact};
    return std::min(limit, contact->distance);
  });
  return first;
}

}  // namespace dardo::detail
