// What homes on its target.

#include "geometry/detail/elementary.hpp"
#include "geometry/detail/ever.hpp"
#include "resolve/carriers/shot/path_steps.hpp"

namespace dardo::detail {
namespace {

// As near as this to its target's centre a guided shot has reached it, and flies straight on: where rounding
// would turn it there means nothing. So near to straight behind, too, it would be rounding that says which
// way round.
constexpr double kReached = 0.01, kBehind = 0.01;  // metres, radians

/// No step is longer: one that crosses where it begins to ease its turn out would not notice.
constexpr double kLongestTurning = 0.02;  // seconds

/// The law of a guided shot on one leg of its target: it turns by the shortest way toward where it wants to
/// go.
struct Homing {
  Homing(const Course& course, const GuidedPath& guided, const Motions& motions, const Leg& target,
         const Vec3& its_middle, bool climbs)
      : c(course),
        path(guided),
        up(motions.arena().up()),
        upright(motions.arena().upright()),
        leg(target),
        offset(its_middle),
        climbing(climbs) {}

  Vec3 wished(double t, const Vec3& place) const {
    if (climbing) return up;
    const Vec3 center = leg.turn_rate == 0 ? middle + leg.velocity * (t - since) : leg.at(t) * offset;
    Vec3 to = center - place;
    if (path.lead) {
      // The time after which a straight flight meets the target on its way.
      const Vec3& v = leg.velocity;
      const double a = dot(v, v) - c.speed * c.speed, b = dot(to, v), d = dot(to, to), below = b * b - a * d;
      if (a < 0 && below > 0) to = to + v * ((-b - std::sqrt(below)) / a);
    }
    return to;
  }
  /// Whether it turns as fast as it may. Where that ends, or begins, its law has a kink.
  bool turns_fully(double t, const Vec3& place, const Vec3& heading) const {
    const Vec3 to = wished(t, place);
    const double along = dot(to, heading), across = length(to - heading * along);
    return across * most.cosine >= along * most.sine;
  }
  State operator()(double t, const State& s) const {
    const Vec3 heading = normalized(rest_of(s)), to = wished(t, place_of(s)), velocity = heading * c.speed;
    const double size = length(to);
    if (!(size > 0)) return state_of(velocity, {});
    const double cosine = dot(to, heading) / size;
    Vec3 aside = to / size - heading * cosine;
    const double sine = length(aside);
    const double rate = turn_rate(sine, cosine);
    if (cosine < 0 && sine < kBehind) {
      aside = to_its_left(heading);
    } else {
      aside = sine > 1e-9 ? aside / sine : Vec3{};
    }
    return state_of(velocity, aside * rate);
  }

 private:
  static constexpr double kSettle = 0.005;  ///< the last of a turn is eased out over this time, seconds

  /// The angle over that time, but no faster than it may turn.
  double turn_rate(double sine, double cosine) const {
    if (!(cosine > 0 && sine < kSmall)) {
      // Beyond the angle from which on it turns as fast as it may the angle does not matter.
      const bool beyond = cosine > 0 ? sine >= most.sine && most.cosine > 0 : most.cosine > 0;
      return beyond ? path.turn_rate : std::min(path.turn_rate, arc_tangent(sine, cosine) / kSettle);
    }
    // The arc sine's series, to the last place.
    const double s = sine * sine;
    const double angle = sine * (1 + s * (1.0 / 6 + s * (3.0 / 40 + s * (15.0 / 336 + s * (105.0 / 3456)))));
    return std::min(path.turn_rate, angle / kSettle);
  }
  static constexpr double kSmall = 0.02;

  const Course& c;
  const GuidedPath& path;
  const Vec3 &up, &upright;
  const Leg& leg;
  const Vec3& offset;
  bool climbing;
  Vec3 middle = leg.from * offset;  ///< of the target, when its leg starts
  double since = leg.still() ? 0 : leg.start;
  SineCosine most = sine_cosine(std::min(path.turn_rate * kSettle, 3.0));

  Vec3 to_its_left(const Vec3& heading) const {
    // Steeply up or down what is to its left would turn with it.
    if (length(cross(upright, heading)) > 0.1) return to_the_left(heading, upright, c.left);
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
  const Homing homing(c, path, motions, leg, offset, climbing);
  const Vec3 ahead = c.velocity() / c.speed, wished = homing.wished(c.time, c.place());
  // Straight at what stands still it keeps its direction, to the bit.
  if (!climbing && leg.still() && dot(ahead, wished) > 0 &&
      length(cross(ahead, wished)) <= 1e-12 * length(wished))
    return fly_straight(c, c.time + longest);
  const auto step = [&](double most, double& remembered) {
    State state = state_of(c.place(), ahead);
    Piece out = integrated(state, c.time, most, remembered, homing,
                           [&](double, const State& s) { return normalized(rest_of(s)) * c.speed; });
    out.pace = c.speed;
    return out;
  };
  double remembered = c.step;
  Piece piece = step(std::min(longest, kLongestTurning), remembered);
  // No step crosses a kink: it ends there.
  const auto fully = [&](double t) {
    return homing.turns_fully(t, piece.place(t), normalized(piece.speed_at(t)));
  };
  if (const bool first = fully(piece.start); first != fully(piece.end)) {
    const double kink = first_time([&](double t) { return fully(t) != first; }, piece.start, piece.end);
    if (kink - piece.start > kLeastStep && piece.end - kink > kLeastStep)
      remembered = c.step, piece = step(kink - piece.start, remembered);
  }
  c.piece = piece, c.step = remembered;
  if (climbing && risen(c.piece.end) > path.climb) {
    const double over =
        first_time([&](double t) { return risen(t) > path.climb; }, c.piece.start, c.piece.end);
    c.piece.end = std::max(over, c.piece.start + kLeastPiece);
    c.climbed = true;
  }
  return Milestone::none;
}

}  // namespace dardo::detail
