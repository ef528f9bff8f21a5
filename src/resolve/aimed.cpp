#include "dardo/resolve/aimed.hpp"

#include <algorithm>
#include <cmath>

#include "dardo/resolve/resolve.hpp"
#include "geometry/detail/elementary.hpp"
#include "geometry/detail/kernels.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/aimed.hpp"
#include "resolve/carriers/shot/flight.hpp"

namespace dardo {
namespace detail {

std::optional<AimedAt> aimed_at(const Moment& moment, const Launch& launch) {
  const auto point = aim_point(moment, launch);
  if (!point) return std::nullopt;
  const auto* at = std::get_if<AtBody>(&launch.toward);
  if (at == nullptr) return AimedAt{{}, *point};
  const Pose pose = moment.pose(at->body);
  return AimedAt{at->body, into(pose.turn, *point - pose.at)};
}

namespace {

/// What hardly comes nearer any more, in several rounds to no less than this share, does not come to it.
constexpr double kNearer = 0.9;

/// What is thrown, and at whom.
struct Throw {
  const Motions& motions;
  const ShotDelivery& shot;
  Vec3 from;
  double time, speed;
  AimedAt target;
  Thrower by;
  Vec3 down;  ///< what draws on it, m/s²
  SearchSteps& steps;

  /// How near a way can be brought, metres: what is integrated by steps of its own length each time.
  double known() const {
    const auto* falling = std::get_if<FallingPath>(&shot.path);
    const bool closed =
        std::holds_alternative<StraightPath>(shot.path) || (falling != nullptr && falling->drag == 0);
    return closed ? 1e-10 : kWayKnown;
  }
  /// Where it passes nearest, thrown along a direction at a goal: on its way itself; while that is only
  /// sought, of what is slowed in the long steps that its drag alone asks for.
  Pass fly(const Vec3& direction, const Vec3& goal, bool high, bool sought) const {
    Course c;
    c.time = time, c.speed = speed, c.target = target.body, c.aim = goal;
    set_off(c, shot.path, from, direction, by, motions);
    const auto* falling = std::get_if<FallingPath>(&shot.path);
    if (sought && falling != nullptr && falling->drag > 0)
      return fall_past(motions, *falling, c, life_limit(shot), target, high, steps);
    return fly_past(motions, shot.path, c, life_limit(shot), target, high, steps);
  }
  bool falls() const { return std::holds_alternative<FallingPath>(shot.path); }
};

/// Turns the direction of a way that nearly arrives until it does: Newton's method on the two components of
/// the miss across the flight, with slopes from differences. For paths that answer little to where they are
/// pointed.
void turn_toward(const Throw& t, Aimed& best) {
  const Vec3 side = any_perpendicular(best.direction), rise = cross(best.direction, side),
             ahead = best.direction;
  const auto direction = [&](double a, double b) {
    return normalized(ahead + side * tangent(a) + rise * tangent(b));
  };
  const auto fly = [&](double a, double b) { return t.fly(direction(a, b), best.meets, best.high, true); };
  double a = 0, b = 0, step = 1;
  Pass here = fly(a, b);
  double last_off = here.off;
  for (int round = 0; round < 40 && here.off > t.known() && step > 1e-4 && t.steps.left > 0; ++round) {
    const Vec3 way =
        here.velocity - (t.target.body.empty() ? Vec3{} : t.motions.velocity(t.target.body, here.time));
    if (!(length(way) > 0)) return;
    const Vec3 u = any_perpendicular(normalized(way)), v = cross(normalized(way), u);
    constexpr double kTurn = 1e-4;
    const auto miss = [&](const Pass& p) { return p.place - p.target; };
    const Vec3 m = miss(here), by_a = (miss(fly(a + kTurn, b)) - m) / kTurn,
               by_b = (miss(fly(a, b + kTurn)) - m) / kTurn;
    const double ua = dot(u, by_a), ub = dot(u, by_b), va = dot(v, by_a), vb = dot(v, by_b),
                 whole = ua * vb - ub * va;
    if (whole == 0) return;
    double da = -(vb * dot(u, m) - ub * dot(v, m)) / whole, db = -(ua * dot(v, m) - va * dot(u, m)) / whole;
    const double size = std::sqrt(da * da + db * db), most = 0.3;
    if (size > most) da *= most / size, db *= most / size;
    bool nearer = false;
    for (step = 1; step > 1e-4 && !nearer; step *= 0.5) {
      const Pass there = fly(a + da * step, b + db * step);
      nearer = there.off < here.off;
      if (nearer) a += da * step, b += db * step, here = there;
    }
    if (round % 4 != 3) continue;
    if (!(here.off < kNearer * last_off)) break;
    last_off = here.off;
  }
  if (here.off >= best.off) return;
  best.direction = direction(a, b), best.off = here.off, best.time_s = here.time - t.time,
  best.meets = here.target;
}

/// How the goal of a throw is to be moved for a pass to move: learned from one flight to the next (Broyden,
/// "A class of methods for solving nonlinear simultaneous equations", 1965). At first as much as the pass.
struct Response {
  Vec3 x{1, 0, 0}, y{0, 1, 0}, z{0, 0, 1};  // rows

  Vec3 operator*(const Vec3& v) const { return {dot(x, v), dot(y, v), dot(z, v)}; }
  void learn(const Vec3& goal, const Vec3& pass) {
    const Vec3 told = *this * pass, across = x * goal.x + y * goal.y + z * goal.z;
    const double along = dot(goal, told);
    // Where the pass has hardly answered there is nothing to learn.
    if (!(std::fabs(along) > 1e-3 * dot(goal, goal))) return;
    const Vec3 off = (goal - told) / along;
    x = x + across * off.x, y = y + across * off.y, z = z + across * off.z;
  }
};

/// The least speed that reaches a place from another, in a fall without drag: what drag slows reaches no
/// other place. (Drag, in the direction of the speed, makes the share `a` of the speed at first and the share
/// `b` of the fall that a place is made of; a² is at most 2 b, and equal without it.)
double least_speed_to(const Vec3& d, const Vec3& down) {
  return std::sqrt(std::max(0.0, length(down) * length(d) - dot(down, d)));
}

/// Whether all the places that the target comes to are out of reach of what falls, however it is slowed.
bool out_of_reach(const Throw& t) {
  if (t.down == Vec3{}) return false;
  const double until = t.time + life_limit(t.shot);
  for (double from = t.time; from < until;) {
    if (!t.steps.take()) return false;
    const Leg leg = t.target.body.empty() ? standing() : t.motions.leg(t.target.body, from);
    if (leg.turn_rate != 0) return false;
    const double to = std::min(until, leg.end > from ? leg.end : std::nextafter(from, until));
    // The square of that speed is convex along a line.
    const auto needs = [&](double time) {
      return least_speed_to(leg.at(time) * t.target.point - t.from, t.down);
    };
    // With a margin for what is left between the two when the search ends.
    const double most = t.speed * 1.001;
    double low = from, high = to;
    if (needs(low) <= most || needs(high) <= most) return false;
    while (high - low > 1e-6 * std::max(1.0, high)) {
      const double third = (high - low) / 3, one = needs(low + third), two = needs(high - third);
      if (one <= most || two <= most) return false;
      one < two ? high -= third : low += third;
    }
    from = to;
  }
  return true;
}

/// The throw that passes nearest, sought from what a closed form says on: over the arc of this number.
Aimed nearest_throw(const Throw& t, const Arc& first, std::size_t arc) {
  Aimed best{.off = std::numeric_limits<double>::infinity()};
  // What it is thrown at so as to meet the target; how far past it goes.
  Vec3 best_goal = first.meets, miss, change;
  Response response;
  double step = 1, last_off = best.off;
  const int most_rounds = std::holds_alternative<GuidedPath>(t.shot.path) ? 1 : 120;
  for (int round = 0; round < most_rounds && best.off > t.known() && step > 1e-6 && t.steps.left > 0;
       ++round) {
    const Vec3 goal = best_goal + change * step;
    Vec3 direction = goal - t.from;
    if (t.falls() && round == 0) {
      direction = first.velocity;
    } else if (t.falls()) {
      const Arcs there = arcs(t.from, {goal, {}}, t.speed, t.down);
      direction = there.count > 0 ? there.arc[std::min(arc, there.count - 1)].velocity
                                  : least_speed_arc(t.from, {goal, {}}, t.down).velocity;
    }
    if (!(length(direction) > 0)) break;
    const Pass pass = t.fly(normalized(direction), goal, arc == 1, true);
    const Vec3 missed = pass.target - pass.place;
    if (round > 0) response.learn(goal - best_goal, miss - missed);
    const bool nearer = pass.off < best.off;
    const Vec3 left = nearer ? missed : miss;
    change = response * left;
    // One that promises much more than it has shown is not believed.
    constexpr double kMost = 20;
    if (!(length(change) <= kMost * length(left))) response = {}, change = left;
    if (nearer) {
      best = {
          normalized(direction), t.speed, pass.time - t.time, pass.target, pass.off, arc == 1, false, {}, {}};
      best_goal = goal, miss = missed, step = std::min(1.0, 2 * step);
    } else {
      step *= 0.5;  // it went too far
    }
    if (round % 8 != 7) continue;
    if (!(best.off < kNearer * last_off)) break;
    last_off = best.off;
  }
  return best;
}

}  // namespace

AimedAt at_of(const Motions& motions, BodyId body, const Vec3& place, double time) {
  if (body.empty()) return {body, place};
  const Pose home = motions.leg(body, time).at(time);
  return {body, into(home.turn, place - home.at)};
}

void throw_at(Course& c, const ShotDelivery& shot, const Motions& known, const Vec3& from,
              const AimedAt& target, const Thrower& by) {
  const auto* path = std::get_if<LobPath>(&shot.path);
  if (path == nullptr || path->follows) return;
  const Motions motions = known.as_seen(target.body, c.time, shot.foreseen);
  // The time may depend on the place: found by going back and forth.
  for (int round = 0; round < 60; ++round) {
    Course tried = c;
    set_off(tried, *path, from, {1, 0, 0}, by, motions);
    const Vec3 there = target.at(motions, std::min(tried.arrives, 1e9));
    if (length(there - c.aim) < 1e-12) return;
    c.aim = there;
  }
}

std::vector<Aimed> ways_to_meet(const Motions& known, const ShotDelivery& shot, const Vec3& from, double time,
                                double speed, const AimedAt& target, const Thrower& by, double& more_speed,
                                SearchSteps& steps) {
  const Motions motions = known.as_seen(target.body, time, shot.foreseen);
  const Vec3 gravity = motions.arena().gravity();
  const auto* falling = std::get_if<FallingPath>(&shot.path);
  const auto* guided = std::get_if<GuidedPath>(&shot.path);
  const Vec3 down = falling != nullptr ? gravity * falling->gravity : Vec3{};
  const Vec3 now = target.at(motions, time),
             velocity = target.body.empty() ? Vec3{} : motions.velocity(target.body, time);
  double fastest = speed;
  const auto* straight = std::get_if<StraightPath>(&shot.path);
  if (straight != nullptr && straight->acceleration > 0) {
    fastest = std::min(straight->top_speed, speed + straight->acceleration * life_limit(shot));
  }
  Arcs first = arcs(from, {now, velocity}, fastest, down);
  // What is slowed down needs more than the closed form says: the least-speed arc is where its search starts.
  const bool slowed = falling != nullptr && falling->drag > 0;
  if (first.count == 0 && slowed)
    first.arc[0] = least_speed_arc(from, {now, velocity}, down), first.count = 1;
  more_speed = first.more_speed;
  std::vector<Aimed> out;
  const Throw thrown{motions, shot, from, time, speed, target, by, down, steps};
  if (more_speed > 0 && slowed && out_of_reach(thrown)) return out;
  for (std::size_t i = 0; i < first.count; ++i) {
    // What homes, or gains speed, meets it where it first can.
    if (i > 0 && falling == nullptr && !(straight != nullptr && straight->acceleration == 0)) break;
    Aimed best = nearest_throw(thrown, first.arc[i], i);
    const bool near_enough =
        best.off <= (guided != nullptr ? 1e-3 : 10 * thrown.known()) || !std::isfinite(best.off);
    if (!near_enough && (guided == nullptr || guided->lead)) turn_toward(thrown, best);
    if (slowed && std::isfinite(best.off)) {
      const Pass pass = thrown.fly(best.direction, best.meets, best.high, false);
      best.time_s = pass.time - time, best.meets = pass.target, best.off = pass.off;
    }
    // A pure pursuer cannot be aimed any better than it homes: it arrives when it strikes.
    double arrives = 1e-3;
    if (guided != nullptr && !guided->lead && !target.body.empty()) {
      arrives = std::max(arrives, shot.radius + motions.arena().reach_around_center(target.body));
    }
    best.late = falling == nullptr && i > 0, best.high = best.high && falling != nullptr;
    if (best.off <= arrives) out.push_back(best);
  }
  return out;
}

}  // namespace detail
}  // namespace dardo
