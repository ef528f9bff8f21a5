#include "resolve/rules/sight.hpp"

#include <algorithm>

namespace dardo::detail {

Reading judge_line(const Moment& moment, Passage passage, const Vec3& eye, const Vec3& target,
                   double thickness) {
  Reading r{.gate = Gate::sight};
  const Arena& arena = moment.arena();
  const WallTable& walls = arena.wall_table();
  const Vec3 way = target - eye;
  const double size = length(way);
  r.measured = size;
  const Ray line{eye, size > 0 ? way / size : Vec3{1, 0, 0}, size};
  const auto blocks = [&](WallId wall) {
    return arena.blocks(wall).has(passage) && !lets_pass(arena, wall, way, moment.time());
  };
  const auto earlier = [&](WallId a, WallId b) { return walls.order(a) < walls.order(b); };
  walls.along(
      line, size,
      [&](WallPartId part, double limit) {
        const WallId wall = walls.wall_of(part);
        const WallThen then(arena, part, moment.time());
        // Judged by a test that gives the same answer from both ends; the ray only says where.
        if (!blocks(wall) || !then.comes_near({eye, target}, thickness)) return limit;
        const auto contact = then.sweep(thickness, line);
        const double at = contact ? contact->distance : size;
        if (r.reason != Reason::none && !(at < *r.limit) && !(at == *r.limit && earlier(wall, r.by.wall)))
          return limit;
        r.reason = then.contains(eye) ? Reason::inside_wall : Reason::wall;
        r.limit = at;
        r.margin = size - at;
        r.by.wall = wall;
        r.at = line.at(at);
        return at;
      },
      thickness);
  if (r.reason == Reason::wall) {
    walls.touching({target, target}, [&](WallPartId part) {
      const WallId wall = walls.wall_of(part);
      if (!blocks(wall) || !WallThen(arena, part, moment.time()).contains(target)) return;
      if (r.reason == Reason::inside_wall && !earlier(wall, r.by.wall)) return;
      r.reason = Reason::inside_wall;
      r.by.wall = wall;
    });
  }
  if (r.reason == Reason::inside_wall) r.margin.reset();
  return r;
}

}  // namespace dardo::detail
