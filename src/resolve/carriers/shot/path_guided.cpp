// What homes on its target.
#include <limits>

#include "geometry/detail/elementary.hpp"
#include "resolve/carriers/shot/path_steps.hpp"

namespace dardo::detail {
namespace {

constexpr double kEver = std::numeric_limits<double>::infinity();

/// Where a guided shot wants to go.
Vec3 wish(const Course& c, const GuidedPath& path, const Motions& motions, double t, const Vec3& place) {
  const Vec3 center = motions.center(c.target, t);
  Vec3 to = center - place;
  if (path.lead) {
    // The time after which a straight flight meets the target on its way.
    const Vec3 v = motions.velocity(c.target, t);
    const double a = dot(v, v) - c.speed * c.speed, b = dot(to, v), d = dot(to, to), below = b * b - a * d;
    if (a < 0 && below > 0) to = to + v * ((-b - std::sqrt(below)) / a);
  }
  return to;
}

// As near as this to its target's centre a guided shot has reached it, and flies straight on: where rounding
// would turn it there means nothing. So near to straight behind, too, it would be rounding that says which
// way round.
constexpr double kReached = 0.01, kBehind = 0.01;  // metres, radians

/// The law of a guided shot: it turns by the shortest way toward where it wants to go.
struct Homing {
  const Course& c;
  const GuidedPath& path;
  const Motions& motions;
  bool climbing;

  Vec3 wished(double t, const Vec3& place) const {
    return climbing ? motions.arena().up() : wish(c, path, motions, t, place);
  }
  State operator()(double t, const State& s) const {
    constexpr double kSettle = 0.005;  // the last of a turn is eased out over this time, seconds
    const Vec3 heading = normalized(rest_of(s)), to = wished(t, place_of(s)), velocity = heading * c.speed;
    const double size = length(to);
    if (!(size > 0)) return state_of(velocity, {});
    Vec3 aside = to / size - heading * (dot(to, heading) / size);
    const double sine = length(aside), angle = arc_tangent(sine, dot(to, heading) / size);
    if (angle > 1 && sine < kBehind) {
      aside = to_its_left(heading);
    } else {
      aside = sine > 1e-9 ? aside / sine : Vec3{};
    }
    return state_of(velocity, aside * std::min(path.turn_rate, angle / kSettle));
  }

 private:
  Vec3 to_its_left(const Vec3& heading) const {
    const Vec3& up = motions.arena().up();
    // Steeply up or down what is to its left would turn with it.
    if (length(cross(up, heading)) > 0.1) return to_the_left(heading, up, c.left);
    return normalized(c.left - heading * dot(c.left, heading));
  }
};

Milestone fly_straight(Course& c, double end) {
  c.piece = free_piece(c, {});
  c.piece.pace = c.speed;
  c.piece.end = end;
  return Milestone::none;
}

}  // namespace

Milestone next(Course& c, const GuidedPath& path, const Motions& motions) {
  const double seeks_from = c.born + path.delay_s, limit = c.target_lost;
  if (c.free || c.target.empty() || c.time >= limit) return fly_straight(c, kEver);
  if (c.time < seeks_from - 1e-12) return fly_straight(c, std::min(seeks_from, limit));
  const auto risen = [&](double t) { return dot(c.piece.place(t) - c.origin, motions.arena().up()); };
  const bool climbing = path.climb > 0 && !c.climbed && risen(c.time) < path.climb - 1e-9;
  if (!climbing) c.climbed = true;
  // A leg's end is a kink of the target's way: no step crosses it. Nor does one go past the target unnoticed.
  // What stands is taken to stand, so that steps do not hang on ticks.
  const Leg leg = motions.leg(c.target, c.time);
  const Vec3 offset = motions.arena().center_in_frame(c.target);
  const bool stands = leg.still() && motions.arena().body(c.target).track.empty();
  double longest = std::min({limit, stands ? kEver : motions.known_until(c.target), leg.end}) - c.time;
  if (stands && !climbing) c.stood = c.target, c.stood_at = leg.at(c.time) * offset;
  const double away = length(leg.at(c.time) * offset - c.place()) - kReached,
               closing = c.speed + length(leg.velocity) + leg.turn_rate * length(offset);
  if (!climbing && !(away > 0)) {
    c.free = true;
    return fly_straight(c, kEver);
  }
  if (!climbing) longest = std::min(longest, std::max(kLeastStep, away / closing));
  longest = std::max(longest, kLeastPiece);
  const Homing homing{c, path, motions, climbing};
  const Vec3 ahead = c.velocity() / c.speed, wished = homing.wished(c.time, c.place());
  // Straight at what stands still it keeps its direction, to the bit.
  if (!climbing && leg.still() && dot(ahead, wished) > 0 &&
      length(cross(ahead, wished)) <= 1e-12 * length(wished))
    return fly_straight(c, c.time + longest);
  State state = state_of(c.place(), ahead);
  const double speed = c.speed;
  c.piece = integrated(state, c.time, longest, homing,
                       [speed](double, const State& s) { return normalized(rest_of(s)) * speed; });
  c.piece.pace = speed;
  if (climbing && risen(c.piece.end) > path.climb) {
    const double over =
        first_time([&](double t) { return risen(t) > path.climb; }, c.piece.start, c.piece.end);
    c.piece.end = std::max(over, c.piece.start + kLeastPiece);
    c.climbed = true;
  }
  return Milestone::none;
}

}  // namespace dardo::detail
