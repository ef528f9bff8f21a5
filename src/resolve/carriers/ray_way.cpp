// Where a ray goes: from surface to surface.
#include <algorithm>

#include "geometry/detail/tolerance.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/carriers/ray.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {
namespace {

/// A ray turns no more often, whatever it says.
constexpr std::uint32_t kMostTurns = 10'000;

/// How far along the line the ground is met; what touches it and leaves it does not meet it.
std::optional<double> to_ground(const Arena& arena, const Ray& line, double radius) {
  if (!arena.ground()) return std::nullopt;
  const Vec3& up = arena.ground_normal();
  const double height = dot(line.from, up) - *arena.ground() - radius, rise = dot(line.direction, up);
  const double touching = slack(scale_of(line), std::fabs(*arena.ground()));
  if (height < -touching || (height <= touching && rise <= 0)) return 0;
  if (rise >= 0 || !at_most(height, -rise * line.length, scale_of(line))) return std::nullopt;
  return std::min(line.length, -height / rise);
}

}  // namespace

/// From surface to surface until one stops it, or its reach does.
void RayCarrier::find_way(const Vec3& from, const Vec3& direction, Outcome& outcome) {
  const Ricochet& r = ray_.ricochet;
  Few<WallPartId, 8> passed;
  Few<Surface, 8> met;
  bool leaves_ground = false;
  std::uint32_t turns = 0;
  legs_.push_back({{from, direction, far_limit(act_.attack.reach)}, 0});
  for (;;) {
    RayLeg& leg = legs_.back();
    surfaces_on(leg, passed, leaves_ground, met);
    if (met.empty()) break;
    Corner corner;
    corner.turns = turns < std::min(r.count, kMostTurns);
    const double travel = met[0].contact.distance;
    std::optional<Vec3> touched;
    const std::size_t known = surfaces_.size();
    for (const Surface& s : met) {
      const bool ground = s.part.empty(), through = goes_through(s, leg);
      const WallId wall = ground ? WallId{} : act_.arena.wall_table().wall_of(s.part);
      surfaces_.push_back({wall, through ? SurfaceMet::Did::pierced : SurfaceMet::Did::turned,
                           leg.start + s.contact.distance, s.contact, leg.line.at(s.contact.distance),
                           leg.line.direction});
      if (through) {
        passed.push_back(s.part);
        continue;
      }
      if (!corner.first) corner.first.emplace().wall = wall, touched = s.contact.point;
      corner.turns = corner.turns && (ground ? act_.stage.turns_at.has_ground()
                                             : act_.stage.turns_at.has(act_.arena.wall(wall).material));
      if (corner.count >= kCornerSides) continue;
      corner.parts[corner.count] = s.part, corner.normals[corner.count++] = s.contact.normal;
    }
    if (!corner.first) continue;  // only through: on along the same leg
    const Vec3 at = leg.line.at(travel);
    if (ray_.radius == 0) turn_point_at(act_.arena, moment_.time(), at, leg.line.direction, corner);
    const bool turns_there = corner.turns && corner.into_any(leg.line.direction);
    Vec3 out = turns_there ? corner.turned(leg.line.direction, r) : Vec3{};
    if (!(length(out) > kStill)) {
      stop_ = leg.start + travel, stopper_ = *corner.first, in_ground_ = stopper_.wall.empty();
      outcome.ended = in_ground_ ? Ended::ground : Ended::wall;
      contact_ = touched;
      for (std::size_t i = known; i < surfaces_.size(); ++i) {
        if (surfaces_[i].did == SurfaceMet::Did::turned) surfaces_[i].did = SurfaceMet::Did::ended;
      }
      leg.line.length = travel;
      break;
    }
    const Vec3 left =
        left_of_throw(act_.arena.upright(), attacker_side(moment_, act_.launch), normalized(out));
    out = normalized(jittered(corner, out, left, act_.arena.flat(), r, act_.launch.seed, act_.key, turns++));
    leg.line.length = travel;
    passed.clear(), leaves_ground = false;
    for (const Surface& s : met) s.part.empty() ? void(leaves_ground = true) : passed.push_back(s.part);
    legs_.push_back({{at, out, far_limit(act_.attack.reach) - leg.start - travel}, leg.start + travel});
  }
  stop_point_ = place_at(stop_);
}

/// All that it meets first on a leg, at one distance, but what it passes.
void RayCarrier::surfaces_on(const RayLeg& leg, const Few<WallPartId, 8>& passed, bool leaves_ground,
                             Few<Surface, 8>& out) const {
  out.clear();
  const Arena& arena = act_.arena;
  const WallTable& walls = arena.wall_table();
  double first = leg.line.length;
  bool any = false;
  const auto add = [&](WallPartId part, const Contact& contact) {
    if (any && contact.distance > first + kSamePlace) return;
    if (!any || contact.distance < first) {
      first = contact.distance, any = true;
      out.remove_if([&](const Surface& s) { return s.contact.distance > first + kSamePlace; });
    }
    out.push_back({part, contact});
  };
  walls.along(
      leg.line, leg.line.length,
      [&](WallPartId part, double limit) {
        const WallId wall = walls.wall_of(part);
        if (!arena.blocks(wall).has(Passage::shots) ||
            lets_pass(arena, wall, leg.line.direction, moment_.time()) ||
            std::find(passed.begin(), passed.end(), part) != passed.end())
          return limit;
        const auto contact = WallThen(arena, part, moment_.time()).sweep(ray_.radius, leg.line);
        if (contact && contact->distance <= limit) add(part, *contact);
        return any ? std::min(limit, first + kSamePlace) : limit;
      },
      ray_.radius);
  if (const auto ground = leaves_ground ? std::nullopt : to_ground(arena, leg.line, ray_.radius)) {
    // At the same distance as a wall that ends it, too.
    if (*ground < first || !any)
      add({}, {*ground, leg.line.at(*ground) - arena.ground_normal() * ray_.radius, arena.ground_normal()});
  }
  const auto place = [&](const Surface& s) { return place_in_set(arena, {}, s.part); };
  std::sort(out.begin(), out.end(), [&](const Surface& a, const Surface& b) { return place(a) < place(b); });
}

/// Whether it goes through a surface; it loses what that costs.
bool RayCarrier::goes_through(const Surface& s, const RayLeg& leg) {
  const Pierce& p = ray_.pierce;
  if (s.part.empty() || !(p.thickness > 0)) return false;
  const WallTable& walls = act_.arena.wall_table();
  const WallId wall = walls.wall_of(s.part);
  if (!act_.stage.pierced.has(act_.arena.wall(wall).material)) return false;
  const Pose pose = walls.leg(wall, moment_.time()).at(moment_.time());
  // No longer than to its far side: digits would be lost.
  const Bounds own = bounds(walls.shape(s.part));
  const Ray line{into(pose.turn, leg.line.from - pose.at), into(pose.turn, leg.line.direction),
                 s.contact.distance + length(own.high - own.low) + ray_.radius};
  const auto inside = crossing(walls.shape(s.part), line);
  double thickness = inside ? inside->leave - inside->enter : 0;
  if (!(thickness > kPlaceKnown)) thickness = 0;
  if (!at_most(thickness, p.thickness, scale_of(leg.line))) return false;
  const double travel = leg.start + s.contact.distance + thickness;
  losses_.push_back({travel, std::max(0.0, 1 - p.power_loss * thickness)});
  return true;
}

double RayCarrier::through_at(double travel) const {
  double left = 1;
  for (const Loss& loss : losses_) {
    if (travel > loss.travel - kSamePlace) left *= loss.left;
  }
  return left;
}

}  // namespace dardo::detail
