#include "resolve/rules/sight.hpp"

#include <algorithm>
#include <cmath>

#include "geometry/detail/region.hpp"
#include "geometry/detail/shadow.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/rules/order.hpp"
#include "resolve/rules/tolerances.hpp"

namespace dardo::detail {

namespace {

/// What stands in the way of seeing a place from an eye, at the time of the moment: the nearest wall that
/// blocks `passage`; with a thickness, of a ball of that radius that would have to pass. The same from both
/// sides. What lies in a wall is seen from nowhere.
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
        r.reason = Reason::wall;
        r.limit = at;
        r.margin = size - at;
        r.by.wall = wall;
        r.at = line.at(at);
        return at;
      },
      thickness);
  // What lies in a wall sees nothing, and is seen from nowhere.
  for (const Vec3& end : {eye, target}) {
    if (r.reason != Reason::wall) break;
    walls.touching({end, end}, [&](WallPartId part) {
      const WallId wall = walls.wall_of(part);
      if (!blocks(wall) || !WallThen(arena, part, moment.time()).contains(end)) return;
      if (r.reason == Reason::inside_wall && !earlier(wall, r.by.wall)) return;
      r.reason = Reason::inside_wall;
      r.by.wall = wall;
    });
  }
  if (r.reason == Reason::inside_wall) r.margin.reset();
  return r;
}

}  // namespace

SightJudge::SightJudge(const Act& act, const Moment& moment, const Sight& sight, const Vec3& middle)
    : act_(act), moment_(moment), sight_(sight), eye_(middle) {
  if (sight.place) {
    eye_ = *sight.place;
  } else if (act.launch.from) {
    if (sight.from != Sight::From::middle) eye_ = act.launch.from->pose.at;
  } else if (moment.arena().has(act.launch.by)) {
    if (sight.from == Sight::From::eyes) eye_ = moment.eyes(act.launch.by);
    if (sight.from == Sight::From::muzzle) eye_ = muzzle_point(moment, act.launch);
  }
}

Reading SightJudge::line(const Vec3& target, BodyId body) const {
  Reading walls = judge_line(moment_, sight_.through, eye_, target, sight_.thickness);
  if (sight_.blocked_by == Relations{} || walls.reason == Reason::inside_wall) return walls;
  const Reading bodies = first_body(target, body, walls.limit.value_or(length(target - eye_)));
  return bodies.reason == Reason::none ? walls : bodies;
}

/// The nearest body that stands in the way, of those at one distance the one created first.
Reading SightJudge::first_body(const Vec3& target, BodyId body, double within) const {
  Reading r{.gate = Gate::sight};
  const Vec3 way = target - eye_;
  const double size = length(way);
  if (!(size > 0)) return r;
  r.measured = size;
  const Ray line{eye_, way / size, within};
  Bounds around{eye_, eye_};
  around.add(line.at(within));
  moment_.bodies_touching(around.grown(sight_.thickness + kSamePlace), [&](BodyId other) {
    const Relation relation = act_.relation_to(other);
    if (other == body || relation == Relation::self || !sight_.blocked_by.has(relation) ||
        act_.is_fallen(other))
      return;
    const Moment::Body then = moment_.body(other);
    // Whom the eye touches hides nobody: it is where that is.
    for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
      if (then.has(i) && then.nearest(i, eye_).distance <= kTouchRoom) return;
    }
    for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
      const double scale = std::max(largest(eye_), largest(target));
      if (!then.has(i) ||
          !(then.distance(i, {line.from, line.at(within)}) <= sight_.thickness + slack(scale)))
        continue;
      const auto met = then.ray(i, line);
      const double at = met ? met->distance : std::min(within, length(then.nearest(i, eye_).point - eye_));
      const bool first = r.reason == Reason::none ||
                         place_at(at, act_.arena, other) < place_at(*r.limit, act_.arena, r.by.body);
      if (!first) continue;
      r.reason = Reason::shielded, r.limit = at, r.margin = size - at, r.by.body = other, r.at = line.at(at);
    }
  });
  return r;
}

/// Of all places that `each` names, each with a weight, how many are seen.
template <class Each>
Seen SightJudge::count(BodyId body, const double& error, Each&& each) const {
  Seen out;
  double all = 0, seen = 0;
  Reading blocked{.gate = Gate::sight};
  // Of what a place stands for, all or nothing is seen, unless that is known.
  each([&](const Vec3& place, double weight = 1, std::optional<double> known = {}) {
    const Reading r = line(place, body);
    const double part = known.value_or(r.reason == Reason::none ? 1 : 0);
    if (all == 0 || (part > 0 && seen == 0)) out.target = place;
    seen += weight * part;
    if (r.reason != Reason::none && blocked.reason == Reason::none) blocked = r;
    all += weight;
  });
  if (all == 0) {
    out.share = 0;
    out.reading = {.gate = Gate::sight, .reason = Reason::no_volume};
    return out;
  }
  out.share = seen / all;
  out.error = seen == 0 || seen == all ? 0 : error;
  out.reading = blocked;
  if (sight_.least > 0) {
    out.reading.measured = out.share, out.reading.limit = sight_.least;
    out.reading.margin = std::fabs(out.share - sight_.least), out.reading.of_share = true;
  }
  const bool enough = seen > 0 && out.share >= sight_.least - 1e-12;
  if (enough) out.reading.reason = Reason::none;
  if (!enough && seen > 0) out.reading.reason = Reason::partly_seen;
  return out;
}

Seen SightJudge::see(BodyId body, const Vec3& nearest) const {
  const Moment::Body then = moment_.body(body);
  switch (sight_.to) {
    case Sight::To::nearest: return count(body, 0, [&](auto&& look) { look(nearest); });
    case Sight::To::centre: return count(body, 0, [&](auto&& look) { look(moment_.center(body)); });
    case Sight::To::zones:
      return count(body, 0, [&](auto&& look) {
        for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
          if (then.has(i)) look(then.center(i));
        }
      });
    case Sight::To::points: break;
  }
  const Pose there = then.pose();
  const bool flat = act_.arena.flat();
  double worst = 0;
  return count(body, worst, [&](auto&& look) {
    for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
      if (!then.has(i)) continue;
      const auto volume = volume_of(then.own(i), flat);
      const auto known = volume && *volume > 0 ? share_seen(placed(then.own(i), there)) : std::nullopt;
      if (known) {
        look(then.center(i), *volume, known);
        continue;
      }
      const Counted all = each_volume_point(then.own(i), kSightPoints, flat, [](const Vec3&) {});
      worst = std::max(worst, count_known(all.places));
      each_volume_point(then.own(i), kSightPoints, flat,
                        [&](const Vec3& p) { look(there * p, all.volume_each); });
    }
  });
}

std::optional<double> SightJudge::share_seen(const Shape& hitbox) const {
  if (sight_.thickness > 0 || sight_.blocked_by != Relations{}) return std::nullopt;
  const Arena& arena = moment_.arena();
  const WallTable& walls = arena.wall_table();
  Bounds between = bounds(hitbox);
  between.add(eye_);
  bool told = true, hidden = false;
  std::optional<HalfSpace> dark;
  walls.touching(between.grown(slack(std::max(largest(between.low), largest(between.high)))),
                 [&](WallPartId part) {
                   const WallId wall = walls.wall_of(part);
                   if (!told || !arena.blocks(wall).has(sight_.through)) return;
                   const Pose pose = walls.leg(wall, moment_.time()).at(moment_.time());
                   const Shadow s = shadow_on(placed(walls.shape(part), pose), eye_, hitbox, arena.flat());
                   if (s.kind == Shadow::Kind::none) return;
                   // What passes a one-way wall, and two shadows, make no single plane.
                   const bool another = dark && !(length(dark->normal - s.dark.normal) <= 1e-12);
                   told = s.kind != Shadow::Kind::unknown && !arena.wall(wall).one_way &&
                          (s.kind == Shadow::Kind::whole || !another);
                   if (s.kind == Shadow::Kind::whole) hidden = true;
                   if (s.kind == Shadow::Kind::cut) dark = s.dark;
                 });
  if (!told) return std::nullopt;
  if (hidden) return 0;
  if (!dark) return 1;
  const auto share = share_in(*dark, hitbox, arena.flat());
  return share ? std::optional(1 - *share) : std::nullopt;
}

}  // namespace dardo::detail
