#include "support/reference.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include "support/play.hpp"

namespace dardo::test {
namespace {

/// Deeper than this something is inside for certain, whatever counts as contact.
constexpr double kDeep = 1e-5;

// Whether a point is inside, by so much.
bool inside(const Ball& s, const Vec3& p) { return length(p - s.center) < s.radius - kDeep; }
bool inside(const Capsule& s, const Vec3& p) {
  for (int i = 0; i <= 400; ++i) {
    if (length(p - (s.from + (s.to - s.from) * (i / 400.0))) < s.radius - kDeep) return true;
  }
  return false;
}
bool inside(const Box& s, const Vec3& p) {
  const Vec3 d = p - s.center;
  return std::fabs(dot(d, s.turn.x)) < s.half.x - kDeep && std::fabs(dot(d, s.turn.y)) < s.half.y - kDeep &&
         std::fabs(dot(d, s.turn.z)) < s.half.z - kDeep;
}
/// Between two discs on an axis, within a radius that the height along it says.
template <class RadiusAt>
bool inside_round(const Vec3& from, const Vec3& to, const Vec3& p, RadiusAt&& radius_at) {
  const double size = length(to - from);
  const Vec3 axis = (to - from) / size, out = p - from;
  const double height = dot(out, axis);
  return height > kDeep && height < size - kDeep &&
         length(out - axis * height) < radius_at(height / size) - kDeep;
}
bool inside(const Cylinder& s, const Vec3& p) {
  return inside_round(s.from, s.to, p, [&](double) { return s.radius; });
}
bool inside(const Cone& s, const Vec3& p) {
  return inside_round(s.apex, s.base, p, [&](double share) { return s.radius * share; });
}
/// Behind every plane through three of its points that has all others on one side.
bool inside(const Hull& s, const Vec3& p) {
  const auto& q = s.points;
  for (std::size_t i = 0; i < q.size(); ++i) {
    for (std::size_t k = i + 1; k < q.size(); ++k) {
      for (std::size_t m = k + 1; m < q.size(); ++m) {
        Vec3 n = cross(q[k] - q[i], q[m] - q[i]);
        if (length(n) < 1e-9) continue;
        n = n / length(n);
        double most = -1e9, least = 1e9;
        for (const Vec3& v : q)
          most = std::max(most, dot(n, v - q[i])), least = std::min(least, dot(n, v - q[i]));
        if (least < -1e-9 && most > 1e-9) continue;
        const double height = dot(n, p - q[i]) * (most > 1e-9 ? -1 : 1);
        if (height > -kDeep) return false;
      }
    }
  }
  return true;
}
/// Nothing lies inside what is flat.
bool inside(const Triangle&, const Vec3&) { return false; }
bool inside(const Shape& shape, const Vec3& p) {
  return std::visit([&](const auto& s) { return inside(s, p); }, shape);
}

// The point that is farthest that way, one metre long.
Vec3 farthest(const Ball& s, const Vec3& way) { return s.center + way * s.radius; }
Vec3 farthest(const Capsule& s, const Vec3& way) {
  return (dot(s.from, way) > dot(s.to, way) ? s.from : s.to) + way * s.radius;
}
Vec3 farthest(const Box& s, const Vec3& way) {
  const auto side = [&](const Vec3& axis, double half) { return axis * (dot(axis, way) > 0 ? half : -half); };
  return s.center + side(s.turn.x, s.half.x) + side(s.turn.y, s.half.y) + side(s.turn.z, s.half.z);
}
Vec3 on_rim(const Vec3& middle, const Vec3& axis, double radius, const Vec3& way) {
  const Vec3 flat = way - axis * dot(way, axis);
  return length(flat) > 1e-9 ? middle + flat * (radius / length(flat)) : middle;
}
Vec3 farthest(const Cylinder& s, const Vec3& way) {
  const Vec3 axis = normalized(s.to - s.from);
  return on_rim(dot(axis, way) > 0 ? s.to : s.from, axis, s.radius, way);
}
Vec3 farthest(const Cone& s, const Vec3& way) {
  const Vec3 rim = on_rim(s.base, normalized(s.base - s.apex), s.radius, way);
  return dot(rim, way) > dot(s.apex, way) ? rim : s.apex;
}
Vec3 farthest(const Hull& s, const Vec3& way) {
  return *std::max_element(s.points.begin(), s.points.end(),
                           [&](const Vec3& a, const Vec3& b) { return dot(a, way) < dot(b, way); });
}
Vec3 farthest(const Triangle& s, const Vec3& way) {
  const Vec3& one = dot(s.a, way) > dot(s.b, way) ? s.a : s.b;
  return dot(one, way) > dot(s.c, way) ? one : s.c;
}
Vec3 farthest(const Shape& shape, const Vec3& way) {
  return std::visit([&](const auto& s) { return farthest(s, way); }, shape);
}

/// Those of its points that are farthest in 26 directions.
std::vector<Vec3> corners(const Shape& shape) {
  std::vector<Vec3> out;
  for (int x = -1; x <= 1; ++x) {
    for (int y = -1; y <= 1; ++y) {
      for (int z = -1; z <= 1; ++z) {
        if (x == 0 && y == 0 && z == 0) continue;
        out.push_back(farthest(shape, normalized(Vec3{double(x), double(y), double(z)})));
      }
    }
  }
  return out;
}
Vec3 middle_of(const std::vector<Vec3>& points) {
  Vec3 sum;
  for (const Vec3& p : points) sum = sum + p;
  return sum / static_cast<double>(points.size());
}

FactionId faction_at(const Body& body, double time) {
  FactionId out = body.faction;
  for (const BodyChange& c : body.changes) {
    if (c.time_s <= time && !c.faction.empty()) out = c.faction;
  }
  return out;
}
bool is_there(const Body& body, const std::string& zone, double time) {
  const auto names = [&](const std::vector<std::string>& zones) {
    return std::find(zones.begin(), zones.end(), zone) != zones.end();
  };
  bool out = true;
  for (const BodyChange& c : body.changes) {
    if (c.time_s <= time && (names(c.on) || names(c.off))) out = names(c.on);
  }
  return out;
}

/// Who stands where at a time, and what may be struck or stops.
class Scenery {
 public:
  Scenery(const Situation& s, const Attack& attack) : s_(s), attack_(attack) {}

  bool matters(BodyId id, double time) const {
    const Body& body = s_.arena.body(id);
    if (id == s_.bodies[0] || body.fallen) return false;
    const Relation r =
        s_.arena.relation(faction_at(s_.arena.body(s_.bodies[0]), s_.launch.at_s), faction_at(body, time));
    if (attack_.stopped_by.has(r)) return true;
    // What numbers and rules say is not told anew here.
    if (!attack_.conditions.empty() || !attack_.rules.empty()) return false;
    const auto has = [&](const std::string& tag) { return s_.arena.has_tag(id, tag); };
    return attack_.who.has(r) && std::all_of(attack_.needs.begin(), attack_.needs.end(), has) &&
           std::none_of(attack_.forbids.begin(), attack_.forbids.end(), has) &&
           std::none_of(attack_.tags.begin(), attack_.tags.end(),
                        [&](const std::string& tag) { return s_.arena.is_immune(id, tag); });
  }
  bool holds(BodyId id, double time, const Vec3& place) const {
    const Body& body = s_.arena.body(id);
    const Pose pose = body.track.empty() ? body.pose : leg_at(body.track, time).at(time);
    const Vec3 seen = into(pose.turn, place - pose.at);
    const auto& hitboxes = s_.arena.build(body.build).hitboxes;
    return std::any_of(hitboxes.begin(), hitboxes.end(), [&](const Hitbox& h) {
      return is_there(body, h.zone, time) && inside(h.shape, seen);
    });
  }
  bool holds(WallId id, double time, const Vec3& place) const {
    const WallTable& table = s_.arena.wall_table();
    const Pose pose = table.leg(id, time).at(time);
    const Vec3 seen = into(pose.turn, place - pose.at);
    const auto parts = table.parts_of(id);
    return std::any_of(parts.begin(), parts.end(),
                       [&](WallPartId part) { return inside(table.shape(part), seen); });
  }
  std::optional<std::string> wall_at(const Vec3& place, double time) const {
    for (const WallId id : s_.arena.walls()) {
      const Wall& wall = s_.arena.wall(id);
      if (!wall.one_way && s_.arena.blocks(id).has(Passage::shots) && holds(id, time, place)) return wall.id;
    }
    return std::nullopt;
  }

 private:
  const Situation& s_;
  const Attack& attack_;
};

std::string check_ray(const Situation& s, const Attack& attack) {
  const auto& ray = std::get<RayDelivery>(attack.delivery);
  // The straight line from its origin to its end is its way.
  if (ray.pierce.bodies > 1 || ray.pierce.thickness > 0 || ray.ricochet.count > 0) return {};
  const Outcome out = resolve_ruled(s.arena, attack, s.launch, Detail::strikes);
  if (out.ended == Ended::muzzle_blocked) return {};
  const Scenery scenery(s, attack);
  // A thick one touches beside its way.
  const bool strikes = out.ended == Ended::strike && !out.strikes.empty();
  const Vec3 way = (strikes ? out.strikes[0].centre : out.end) - out.origin;
  const double time = s.launch.at_s, size = length(way);
  for (double at = 0.003; at < size - kDeep; at += 0.005) {
    const Vec3 place = out.origin + way * (at / size);
    if (const auto wall = scenery.wall_at(place, time)) return "through " + *wall;
    for (const BodyId id : s.bodies) {
      // A body that it meets too near is passed.
      if (attack.reach.near == 0 && scenery.matters(id, time) && scenery.holds(id, time, place))
        return "through " + s.arena.body(id).id;
    }
  }
  return {};
}

std::string check_shot(const Situation& s, const Attack& attack) {
  const auto& shot = std::get<ShotDelivery>(attack.delivery);
  const Scenery scenery(s, attack);
  std::vector<Vec3> points = corners(shot.shape ? *shot.shape : Ball{{}, shot.radius});
  points.push_back(middle_of(points));
  Arena arena = s.arena;
  Skirmish live(arena);
  const AttackId id = *live.add_attack(attack, rules());
  (void)live.start(id, s.launch);
  std::vector<BodyId> struck;
  std::vector<ShotView> flying;
  std::string bad;
  for (int tick = 1; tick <= 1500 && bad.empty(); ++tick) {
    (void)live.advance(0.002, [&](const Strike& k) { struck.push_back(k.body); });
    live.shots(flying);
    if (flying.empty()) break;
    const Vec3 x = length(flying[0].velocity) > 0 ? normalized(flying[0].velocity) : Vec3{1, 0, 0};
    const Vec3 level = cross(arena.up(), x);
    // Which way round it flies straight up or down is not its business here.
    if (shot.shape && length(level) < 1e-3) continue;
    const Vec3 y = length(level) > 0 ? normalized(level) : Vec3{0, 1, 0};
    const Rotation turn{x, y, cross(x, y)};
    for (const Vec3& p : points) {
      const Vec3 place = flying[0].place + turn * p;
      if (const auto wall = scenery.wall_at(place, live.time())) bad = "through " + *wall;
      for (const BodyId body : s.bodies) {
        if (scenery.matters(body, live.time()) &&
            std::find(struck.begin(), struck.end(), body) == struck.end() &&
            scenery.holds(body, live.time(), place))
          bad = "through " + s.arena.body(body).id + " at " + std::to_string(live.time());
      }
    }
  }
  return bad;
}

/// Each strike's point belongs to its hitbox, where that is then.
std::string check_touch(const Situation& s, const Attack& attack) {
  for (const Strike& k : resolve_ruled(s.arena, attack, s.launch, Detail::strikes).strikes) {
    const Body& body = s.arena.body(k.body);
    const Pose pose = body.track.empty() ? body.pose : leg_at(body.track, k.time_s).at(k.time_s);
    const Shape& shape = s.arena.build(body.build).hitboxes[k.hitbox].shape;
    if (attack.zone == ZoneRule::best) continue;  // counts another than it has touched
    const Vec3 point = into(pose.turn, k.point - pose.at), middle = middle_of(corners(shape));
    // A little nearer to its middle it is inside.
    const Vec3 in = point + (middle - point) * std::min(1.0, 0.01 / std::max(1e-9, length(middle - point)));
    if (length(middle - point) > 0.02 && !inside(shape, in))
      return say(s, k) + " is no point of what was struck";
  }
  return {};
}

}  // namespace

std::string check_densely(const Situation& s) {
  // The reference knows one round, at once.
  if (s.attack.burst || s.attack.windup) return {};
  Attack attack = s.attack;
  attack.then.clear();
  if (!check(s.arena, attack, s.launch).empty()) return {};
  if (auto bad = check_touch(s, attack); !bad.empty()) return "densely: " + bad;
  if (std::holds_alternative<RayDelivery>(attack.delivery)) {
    const std::string bad = check_ray(s, attack);
    return bad.empty() ? bad : "densely: " + bad;
  }
  auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  if (shot == nullptr) return {};
  // One that flies once, meets everybody anew never, goes through no wall and is turned by none.
  shot->volley = {}, shot->ricochet = {}, shot->pierce.thickness = 0, shot->sticks = false,
  attack.reach.near = 0;
  shot->again_after_s.reset();
  if (auto* curve = std::get_if<CurvePath>(&shot->path)) curve->strikes_again = false;
  const std::string bad = check_shot(s, attack);
  return bad.empty() ? bad : "densely: " + bad;
}

}  // namespace dardo::test
