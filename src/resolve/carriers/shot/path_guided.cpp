// What homes on its target.

#include "geometry/detail/crossing.hpp"
#include "geometry/detail/ever.hpp"
#include "resolve/carriers/shot/path_steps.hpp"

namespace dardo::detail {
namespace {

// As near as this to its target's centre a guided shot has reached it, and flies straight on: where rounding
// would turn it there means nothing. So near to straight behind, too, it would be rounding that says which
// way round.
constexpr double kReached = 0.01, kBehind = 0.01;  // metres, radians

/// No step of a turn is longer than either: one that crosses where it has turned round would not notice. Nor
/// does one see its target go farther round.
constexpr double kLongestTurning = 0.02, kMostTurned = 0.5, kMostRound = 1;  // seconds, radians, radians

/// What looks past where it wants to go by so little that turning there would take it no farther aside than
/// this, or no longer than two of the least steps, is on its course.
constexpr double kAside = 1e-8;  // metres

/// The law of a guided shot on one leg of its target: it turns by the shortest way toward where it wants to
/// go, and then keeps to that, as long as that asks for no faster turn.
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
    const Vec3 to = center(t) - place;
    return to + leg.velocity * lead_time(to);
  }
  /// Whether what keeps to its course flies straight.
  bool keeps_direction(const Vec3& place) const {
    return climbing || leg.still() || (leg.turn_rate == 0 && lead_time(middle_now() - place) > 0);
  }
  /// How fast, and whither, the direction turns that it wants while it flies there.
  Vec3 drift(double t, const Vec3& place) const {
    if (climbing) return {};
    const Vec3 to = center(t) - place;
    const double ahead = lead_time(to);
    const Vec3 way = to + leg.velocity * ahead;
    const double size = length(way);
    if (!(size > 0)) return {};
    const Vec3 u = way / size;
    Vec3 change = leg.velocity_of(offset, t) - u * c.speed;
    // The time ahead changes with it: the square of its way stays that of its speed times that.
    if (ahead > 0)
      change =
          change + leg.velocity * (dot(way, change) / (c.speed * c.speed * ahead - dot(way, leg.velocity)));
    return (change - u * dot(change, u)) / size;
  }
  /// Across its heading, one metre long: whither it turns.
  Vec3 whither(double t, const Vec3& place, const Vec3& heading) const {
    const Wish wish = wish_of(t, place, heading);
    if (wish.is_behind()) return to_its_left(heading);
    if (wish.sine > kNoAngle) return wish.aside / wish.sine;
    const Vec3 turns = drift(t, place);
    return turns == Vec3{} ? turns : normalized(turns);
  }
  /// How far to that side of its heading it wants to go: the sine of that angle.
  double side(double t, const Vec3& place, const Vec3& heading, const Vec3& first) const {
    return dot(wish_of(t, place, heading).aside, first);
  }
  /// While it turns; `first` is whither it did at first. Past where it has turned round it goes on.
  State turning(double t, const State& s, const Vec3& first) const {
    const Vec3 heading = normalized(rest_of(s));
    const Wish wish = wish_of(t, place_of(s), heading);
    Vec3 to = first - heading * dot(first, heading);
    if (wish.is_behind()) {
      to = to_its_left(heading);
    } else if (wish.sine > kNoAngle) {
      to = wish.aside / (dot(wish.aside, first) < 0 ? -wish.sine : wish.sine);
    }
    return state_of(heading * c.speed, to * path.turn_rate);
  }

 private:
  static constexpr double kNoAngle = 1e-9;  ///< radians: rounding

  /// Where it wants to go, as it looks: across its heading, and the angle between the two.
  struct Wish {
    Vec3 aside;
    double sine = 0, cosine = 1;

    bool is_behind() const { return cosine < 0 && sine < kBehind; }
  };
  Wish wish_of(double t, const Vec3& place, const Vec3& heading) const {
    const Vec3 to = wished(t, place);
    const double size = length(to);
    if (!(size > 0)) return {};
    const double cosine = dot(to, heading) / size;
    const Vec3 aside = to / size - heading * cosine;
    return {aside, length(aside), cosine};
  }

  const Course& c;
  const GuidedPath& path;
  const Vec3 &up, &upright;
  const Leg& leg;
  const Vec3& offset;
  bool climbing;
  Vec3 middle = leg.from * offset;  ///< of the target, when its leg starts
  double since = leg.still() ? 0 : leg.start;

  Vec3 center(double t) const {
    return leg.turn_rate == 0 ? middle + leg.velocity * (t - since) : leg.at(t) * offset;
  }
  Vec3 middle_now() const { return center(c.time); }
  /// The time after which a straight flight meets what is so far from it now, on its way; 0: it does not
  /// lead.
  double lead_time(const Vec3& to) const {
    if (!path.lead) return 0;
    const Vec3& v = leg.velocity;
    const double a = dot(v, v) - c.speed * c.speed, b = dot(to, v), d = dot(to, to), below = b * b - a * d;
    return a < 0 && below > 0 ? (-b - std::sqrt(below)) / a : 0;
  }
  Vec3 to_its_left(const Vec3& heading) const {
    // Steeply up or down what is to its left would turn with it.
    if (length(cross(upright, heading)) > 0.1) return to_the_left(heading, upright, c.left);
    return normalized(c.left - heading * dot(c.left, heading));
  }
};

Milestone fly_straight(Course& c, const Vec3& velocity, double end) {
  c.piece = {c.time, end, c.place(), velocity, {}, {}};
  c.piece.pace = c.speed;
  return Milestone::none;
}

/// A step of a law, and how long the next may be.
struct Step {
  Piece piece;
  double next = 0;
  bool refused = false;  ///< its law ends where it starts
};
/// From where it is; cut, and made anew, where `holds`, a value that is above 0 while the law holds, crosses
/// 0: there the law has a kink.
template <class Slope, class Heading, class Holds>
Step step(const Course& c, const Vec3& rest, double longest, Slope&& slope, Heading&& heading,
          Holds&& holds) {
  const auto made = [&](double most) {
    Step out{{}, c.step};
    State state = state_of(c.place(), rest);
    out.piece = integrated(state, c.time, most, out.next, slope,
                           [&](double t, const State& s) { return heading(t, s) * c.speed; });
    out.piece.pace = c.speed;
    return out;
  };
  Step out = made(longest);
  const auto value = [&](double t) { return holds(t, out.piece); };
  const double start = out.piece.start, end = out.piece.end, middle = 0.5 * (start + end);
  double over = middle, at_over = value(middle);
  if (at_over >= 0) over = end, at_over = value(end);
  if (at_over >= 0) return out;
  const double first = value(start), kink = first > 0 ? crossing(value, start, over, first, at_over) : start;
  out.refused = !(kink - start > kLeastStep);
  if (!out.refused && end - kink > kLeastStep) return made(kink - start);
  return out;
}

/// Keeps to its course; refused where that asks for a faster turn than it can make.
Step keep_course(const Course& c, const GuidedPath& path, const Homing& homing, double longest) {
  const auto heading = [&](double t, const State& s) { return normalized(homing.wished(t, place_of(s))); };
  return step(
      c, {}, longest, [&](double t, const State& s) { return state_of(heading(t, s) * c.speed, {}); },
      heading,
      [&](double t, const Piece& piece) { return path.turn_rate - length(homing.drift(t, piece.place(t))); });
}

/// Turns as fast as it may, no farther than to its course; to the same side all along where it starts on the
/// other, as toward what is behind it.
Step turn(const Course& c, const GuidedPath& path, const Homing& homing, const Vec3& ahead, double longest) {
  const Vec3 first = homing.whither(c.time, c.place(), ahead);
  return step(
      c, ahead, std::min({longest, kLongestTurning, kMostTurned / path.turn_rate}),
      [&](double t, const State& s) { return homing.turning(t, s, first); },
      [](double, const State& s) { return normalized(rest_of(s)); },
      [&](double t, const Piece& piece) {
        return homing.side(t, piece.place(t), normalized(piece.speed_at(t)), first);
      });
}

}  // namespace

Milestone next(Course& c, const GuidedPath& path, const Motions& motions) {
  const double seeks_from = c.born + path.delay_s, limit = c.target_lost;
  if (c.free || c.target.empty() || c.time >= limit) return fly_straight(c, c.velocity(), kEver);
  if (c.time < seeks_from - 1e-12) return fly_straight(c, c.velocity(), std::min(seeks_from, limit));
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
    return fly_straight(c, c.velocity(), kEver);
  }
  if (!climbing) longest = std::min(longest, std::max(kLeastStep, away / closing));
  longest = std::max(longest, kLeastPiece);
  // What goes round is not lost between two looks.
  if (leg.turn_rate > 0) longest = std::min(longest, kMostRound / leg.turn_rate);
  const Homing homing(c, path, motions, leg, offset, climbing);
  const Vec3 ahead = c.velocity() / c.speed, wished = homing.wished(c.time, c.place());
  const double sine = length(cross(ahead, wished)) / length(wished);
  const double little =
      std::max(std::sqrt(2 * kAside * path.turn_rate / c.speed), 2 * kLeastStep * path.turn_rate);
  const bool on_course = dot(ahead, wished) > 0 && sine <= little;
  // What wants to go on as it does keeps its direction, to the bit.
  if (on_course && homing.keeps_direction(c.place())) {
    if (climbing) longest = std::min(longest, (path.climb - risen(c.time)) / c.speed);
    return fly_straight(c, sine <= 1e-12 ? c.velocity() : normalized(wished) * c.speed, c.time + longest);
  }
  Step made = on_course ? keep_course(c, path, homing, longest) : turn(c, path, homing, ahead, longest);
  if (on_course && made.refused) made = turn(c, path, homing, ahead, longest);
  c.piece = made.piece, c.step = made.next;
  if (const double over = risen(c.piece.end) - path.climb; climbing && over > 0) {
    const auto left = [&](double t) { return path.climb - risen(t); };
    c.piece.end = crossing(left, c.piece.start, c.piece.end, left(c.piece.start), -over);
    c.climbed = true;
  }
  return Milestone::none;
}

}  // namespace dardo::detail
