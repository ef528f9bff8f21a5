#include "resolve/carriers/lasting/dash.hpp"

#include <algorithm>
#include <optional>

#include "geometry/detail/convex.hpp"
#include "geometry/detail/ever.hpp"
#include "geometry/detail/kernels.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/rules/tolerances.hpp"

namespace dardo::detail {
namespace {

/// What rises goes in so many straight pieces: never farther from the parabola than a thousandth of its rise.
constexpr int kPieces = 32;
/// It takes no longer, as nothing flies longer by itself.
constexpr double kLongest = 3600;

/// Less the skin, but for what is hardly thicker than that.
double less(double size) { return size - std::min(kSkin, size / 4); }
Shape core_of(const Shape& shape) {
  if (const auto* s = std::get_if<Ball>(&shape)) return Ball{s->center, less(s->radius)};
  if (const auto* s = std::get_if<Capsule>(&shape)) return Capsule{s->from, s->to, less(s->radius)};
  if (const auto* s = std::get_if<Box>(&shape))
    return Box{s->center, {less(s->half.x), less(s->half.y), less(s->half.z)}, s->turn};
  if (const auto* s = std::get_if<Cylinder>(&shape)) {
    const double half = length(s->to - s->from) / 2;
    const Vec3 cut = normalized(s->to - s->from) * (half - less(half));
    return Cylinder{s->from + cut, s->to - cut, less(s->radius)};
  }
  // Of the others a smaller one of the same form about its middle.
  const Vec3 middle = dardo::center(shape);
  const double reach = reach_from(shape, middle), share = reach > 0 ? less(reach) / reach : 1;
  const auto shrunk = [&](const Vec3& p) { return middle + (p - middle) * share; };
  if (const auto* s = std::get_if<Cone>(&shape))
    return Cone{shrunk(s->apex), shrunk(s->base), s->radius * share};
  if (const auto* s = std::get_if<Triangle>(&shape))
    return Triangle{shrunk(s->a), shrunk(s->b), shrunk(s->c)};
  // That of a hull along each axis: of a box as its corners the same as of the box.
  Hull out = std::get<Hull>(shape);
  const Vec3 half = (bounds(shape).high - bounds(shape).low) * 0.5;
  const auto along = [](double at, double wide) { return wide > 0 ? at * (less(wide) / wide) : at; };
  for (Vec3& p : out.points) {
    const Vec3 off = p - middle;
    p = middle + Vec3{along(off.x, half.x), along(off.y, half.y), along(off.z, half.z)};
  }
  return out;
}

/// What stops feet near a box at a time, as it lies in the world then; what goes this way.
template <class Visit>
void each_obstacle(const Moment& moment, const Bounds& box, const Vec3& way, Visit&& visit) {
  const Arena& arena = moment.arena();
  const WallTable& walls = arena.wall_table();
  walls.touching(box, [&](WallPartId part) {
    const WallId wall = walls.wall_of(part);
    if (!arena.blocks(wall).has(Passage::feet) || lets_pass(arena, wall, way, moment.time())) return;
    Blocker by;
    by.wall = wall;
    if (walls.moves(wall)) {
      visit(placed(walls.shape(part), walls.leg(wall, moment.time()).at(moment.time())), by);
    } else {
      visit(walls.shape(part), by);
    }
  });
  if (arena.ground()) {
    const Vec3& normal = arena.ground_normal();
    visit(HalfSpace{normal * *arena.ground(), normal}, Blocker{});
  }
}

/// After which share of a way a core is stopped by something at rest.
template <class Thing>
std::optional<double> stopped_after(const Shape& core, const Vec3& way, const Thing& thing) {
  const double long_ = length(way);
  if (!(long_ > 0)) return std::nullopt;
  const double gap = closest(core, thing).distance;
  if (gap <= kStoppedAt) {
    // What it is inside of does not hold it, nor what it goes away from or along.
    const Pose little{way * (std::min(1e-5, long_) / long_), {}};
    if (gap > 0 && closest(placed(core, little), thing).distance < gap - 1e-9) return 0;
    return std::nullopt;
  }
  const auto met = sweep(core, way, thing);
  if (!met) return std::nullopt;
  return std::max(0.0, met->distance - kStoppedAt) / long_;
}

class Finder {
 public:
  Finder(const Act& act, const Moment& moment, BodyId target)
      : act_(act),
        moment_(moment),
        dash_(std::get<DashDelivery>(act.attack.delivery)),
        target_(target),
        pose_(moment.pose(act.launch.by)),
        cores_(cores_of(moment.arena(), act.launch.by, moment.state_time())) {}

  DashWay find() {
    DashWay out;
    const Vec3& from = pose_.at;
    out.to = dash_.beside ? beside() : aim();
    const bool cuts = dash_.blocked == DashDelivery::Blocked::shortened;
    out.away = length(out.to - from);
    if (out.away > kSamePlace) out.ahead = (out.to - from) / out.away;
    const double far = std::min(
        {far_limit(act_.attack.reach), dash_.speed.value_or(kEver) * kLongest, room_ahead(from, out.ahead)});
    const double scale = std::max(largest(from), largest(out.to));
    if (!at_least(out.away, act_.attack.reach.near, scale)) return out.reason = Reason::too_near, out;
    if (!at_most(out.away, far, scale)) {
      if (!cuts) return out.reason = Reason::too_far, out;
      out.to = from + out.ahead * far;
    }
    if (!find_room(out, cuts)) return out;
    if (!find_way(out, cuts)) return out;
    lay(out);
    return out;
  }

 private:
  /// How far it is to where coordinates end.
  static double room_ahead(const Vec3& from, const Vec3& ahead) {
    const auto room = [](double at, double way) {
      return way == 0 ? kEver : (kMaxCoordinate - std::copysign(at, at * way)) / std::fabs(way);
    };
    return std::min({room(from.x, ahead.x), room(from.y, ahead.y), room(from.z, ahead.z)});
  }
  Vec3 up() const { return moment_.arena().up(); }
  Vec3 level(const Vec3& way) const { return way - up() * dot(way, up()); }
  Vec3 kept(const Vec3& way) const { return dash_.level ? level(way) : way; }

  /// Where it is aimed, or the direction to there that has no length.
  Vec3 aim() const {
    const Vec3& from = pose_.at;
    const Launch& launch = act_.launch;
    Vec3 to, ahead;
    const auto* at = std::get_if<AtBody>(&launch.toward);
    const bool body = act_.anchor != nullptr || (at != nullptr && at->zone.empty() && at->point.empty());
    if (body && act_.arena.has(target_)) {
      to = moment_.pose(target_).at;
    } else if (act_.anchor != nullptr) {
      to = act_.anchor->place, ahead = act_.anchor->direction;
    } else if (const auto point = aim_point(moment_, launch)) {
      to = *point;
    } else {
      ahead = aim_direction(moment_, launch, from);
      to = from + ahead * far_limit(act_.attack.reach);
    }
    const Vec3 way = kept(to - from);
    if (!dash_.distance) return from + way;
    const Vec3 along = length(way) > kSamePlace ? way : kept(ahead);
    return from + (length(along) > kSamePlace ? normalized(along) : pose_.turn.x) * *dash_.distance;
  }

  /// Beside the target, on its level: as far out that the gap along that side is left between the hitboxes.
  Vec3 beside() const {
    const Arena& arena = moment_.arena();
    const Pose there = moment_.pose(target_);
    const auto leveled = [&](const Vec3& way) {
      const Vec3 flat = level(way);
      return length(flat) > kSamePlace ? normalized(flat) : any_perpendicular(up());
    };
    Vec3 out = leveled(pose_.at - there.at);
    if (!(length(level(pose_.at - there.at)) > kSamePlace)) out = leveled(there.turn.x);
    using Side = DashDelivery::Side;
    if (dash_.side == Side::far) out = -out;
    if (dash_.side == Side::front) out = leveled(there.turn.x);
    if (dash_.side == Side::back) out = -leveled(there.turn.x);
    const Moment::Body target = moment_.body(target_);
    const auto& own = arena.build(arena.body(act_.launch.by).build).hitboxes;
    const auto reach = [&](BodyId body) {
      return arena.reach_around_center(body) + length(arena.center_in_frame(body));
    };
    // From where nothing touches yet, toward it.
    const double start = reach(act_.launch.by) + reach(target_) + 1;
    double nearest = 0;
    for (std::uint32_t i = 0; i < own.size(); ++i) {
      if (!arena.has_hitbox(act_.launch.by, i, moment_.state_time())) continue;
      const Shape mine = placed(own[i].shape, Pose{there.at + out * start, pose_.turn});
      for (std::uint32_t k = 0; k < target.hitboxes(); ++k) {
        if (!target.has(k)) continue;
        if (const auto met = sweep(mine, out * -start, target.in_frame(k, Pose{})))
          nearest = std::max(nearest, start - met->distance);
      }
    }
    // What is to touch it does, however this is rounded.
    constexpr double kPressed = 1e-8;
    return pose_.at + kept(there.at + out * (nearest + *dash_.beside - kPressed) - pose_.at);
  }

  Bounds box_of(const Vec3& from, const Vec3& to) const {
    Bounds out;
    for (const Shape& core : cores_) {
      out.add(bounds(placed(core, Pose{from, pose_.turn})));
      out.add(bounds(placed(core, Pose{to, pose_.turn})));
    }
    return out.grown(2 * kSkin + slack(std::max(largest(from), largest(to))));
  }

  /// Whether there is room where it lands, or on the line to there, the nearer to it the better.
  bool find_room(DashWay& out, bool cuts) const {
    struct Taken {
      double enter, leave;
      Blocker by;
    };
    std::vector<Taken> taken;
    const Vec3 &from = pose_.at, way = out.to - from;
    const double whole = length(way);
    each_obstacle(moment_, box_of(from, out.to), way, [&](const auto& thing, const Blocker& by) {
      for (const Shape& core : cores_) {
        const Shape here = placed(core, pose_), there = placed(core, Pose{out.to, pose_.turn});
        const auto enter = sweep(here, way, thing);
        if (!enter) continue;
        const auto leave = sweep(there, -way, thing);
        taken.push_back({enter->distance, whole - (leave ? leave->distance : 0), by});
      }
    });
    double at = whole;
    for (bool moved = true; moved;) {
      moved = false;
      for (const Taken& t : taken) {
        if (!(t.enter <= at && at <= t.leave)) continue;
        out.by = t.by, at = t.enter - kStoppedAt, moved = true;
      }
    }
    if (at == whole) return true;
    if (!cuts || at < 0) return out.reason = Reason::no_way, false;
    out.to = from + out.ahead * at, out.by = {};
    return true;
  }

  /// Whether walls let it come there, as they stand when it begins. What goes for a time is stopped when it
  /// comes to one.
  bool find_way(DashWay& out, bool cuts) const {
    if (dash_.through_walls || (cuts && dash_.speed)) return true;
    Blocker by;
    double share = 1;
    const int pieces = dash_.rise > 0 ? kPieces : 1;
    for (int i = 0; i < pieces && by.empty() && share == 1; ++i) {
      const Vec3 a = place_at(out.to, i, pieces), b = place_at(out.to, i + 1, pieces);
      each_obstacle(moment_, box_of(a, b), b - a, [&](const auto& thing, const Blocker& what) {
        for (const Shape& core : cores_) {
          const auto stop = stopped_after(placed(core, Pose{a, pose_.turn}), b - a, thing);
          if (stop && *stop < share) share = *stop, by = what;
        }
      });
    }
    if (share == 1) return true;
    if (!cuts) return out.reason = Reason::no_way, out.by = by, false;
    out.to = pose_.at + (out.to - pose_.at) * share;
    return true;
  }

  Vec3 place_at(const Vec3& to, int piece, int pieces) const {
    const double u = static_cast<double>(piece) / pieces;
    return pose_.at + (to - pose_.at) * u + up() * (4 * dash_.rise * u * (1 - u));
  }

  void lay(DashWay& out) const {
    const double begins = moment_.time();
    const Pose landing{out.to, pose_.turn};
    const double takes = dash_.speed ? length(out.to - pose_.at) / *dash_.speed : 0;
    const int pieces = dash_.rise > 0 ? kPieces : 1;
    const auto time = [&](int i) { return begins + takes * i / pieces; };
    for (int i = 0; i < pieces && time(i + 1) > time(i); ++i) {
      const Vec3 a = place_at(out.to, i, pieces), b = place_at(out.to, i + 1, pieces);
      out.legs.push_back({time(i), time(i + 1), {a, pose_.turn}, (b - a) / (time(i + 1) - time(i))});
    }
    out.legs.push_back({out.legs.empty() ? begins : out.legs.back().end, kEver, landing, {}});
  }

  const Act& act_;
  const Moment& moment_;
  const DashDelivery& dash_;
  BodyId target_;
  Pose pose_;  ///< of who dashes
  std::vector<Shape> cores_;
};

}  // namespace

std::vector<Shape> cores_of(const Arena& arena, BodyId body, double state_time) {
  std::vector<Shape> out;
  const auto& hitboxes = arena.build(arena.body(body).build).hitboxes;
  for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
    if (arena.has_hitbox(body, i, state_time)) out.push_back(core_of(hitboxes[i].shape));
  }
  return out;
}

DashWay dash_way(const Act& act, const Moment& moment, BodyId target) {
  return Finder(act, moment, target).find();
}

}  // namespace dardo::detail
