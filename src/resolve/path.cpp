#include "resolve/detail/path.hpp"

#include <algorithm>
#include <cmath>

#include "geometry/detail/elementary.hpp"
#include "resolve/detail/work.hpp"

namespace dardo::detail {
namespace {

constexpr double kEver = std::numeric_limits<double>::infinity();

/// Five-point Gauss-Legendre quadrature of the speed.
double quadrature(const Piece& p, double from, double to) {
  constexpr std::array<double, 5> kAt{-0.9061798459386640, -0.5384693101056831, 0, 0.5384693101056831,
                                      0.9061798459386640};
  constexpr std::array<double, 5> kWeight{0.2369268850561891, 0.4786286704993665, 0.5688888888888889,
                                          0.4786286704993665, 0.2369268850561891};
  const double middle = 0.5 * (from + to), half = 0.5 * (to - from);
  double sum = 0;
  for (std::size_t i = 0; i < kAt.size(); ++i)
    sum += kWeight[i] * dardo::length(p.speed_at(middle + half * kAt[i]));
  return sum * half;
}

/// `halvings` are left in all: where the speed goes through 0 some forty are taken, more mean nothing but
/// rounding.
double adaptive_length(const Piece& p, double from, double to, double whole, int depth, int& halvings) {
  const double middle = 0.5 * (from + to);
  const double left = quadrature(p, from, middle), right = quadrature(p, middle, to);
  if (depth == 0 || --halvings <= 0 || std::fabs(left + right - whole) <= 1e-10 * std::fabs(whole) + 1e-13)
    return left + right;
  return adaptive_length(p, from, middle, left, depth - 1, halvings) +
         adaptive_length(p, middle, to, right, depth - 1, halvings);
}

/// Place and velocity, as one vector.
using State = std::array<double, 6>;
State state_of(const Vec3& p, const Vec3& v) { return {p.x, p.y, p.z, v.x, v.y, v.z}; }
Vec3 place_of(const State& s) { return {s[0], s[1], s[2]}; }
Vec3 rest_of(const State& s) { return {s[3], s[4], s[5]}; }

/// One step of Dormand and Prince's method (1980); `error` is what its fourth-order companion says.
template <class Slope>
State dormand_prince(const State& y, double t, double h, Slope&& slope, double& error) {
  const auto with = [&](std::initializer_list<std::pair<double, const State*>> terms) {
    State out = y;
    for (const auto& [weight, k] : terms) {
      for (std::size_t i = 0; i < out.size(); ++i) out[i] += h * weight * (*k)[i];
    }
    return out;
  };
  const State k1 = slope(t, y);
  const State k2 = slope(t + h / 5, with({{1.0 / 5, &k1}}));
  const State k3 = slope(t + h * 3 / 10, with({{3.0 / 40, &k1}, {9.0 / 40, &k2}}));
  const State k4 = slope(t + h * 4 / 5, with({{44.0 / 45, &k1}, {-56.0 / 15, &k2}, {32.0 / 9, &k3}}));
  const State k5 = slope(
      t + h * 8 / 9,
      with({{19372.0 / 6561, &k1}, {-25360.0 / 2187, &k2}, {64448.0 / 6561, &k3}, {-212.0 / 729, &k4}}));
  const State k6 = slope(t + h, with({{9017.0 / 3168, &k1},
                                      {-355.0 / 33, &k2},
                                      {46732.0 / 5247, &k3},
                                      {49.0 / 176, &k4},
                                      {-5103.0 / 18656, &k5}}));
  const State out = with(
      {{35.0 / 384, &k1}, {500.0 / 1113, &k3}, {125.0 / 192, &k4}, {-2187.0 / 6784, &k5}, {11.0 / 84, &k6}});
  const State k7 = slope(t + h, out);
  error = 0;
  for (std::size_t i = 0; i < y.size(); ++i) {
    error = std::max(error, h * std::fabs(71.0 / 57600 * k1[i] - 71.0 / 16695 * k3[i] + 71.0 / 1920 * k4[i] -
                                          17253.0 / 339200 * k5[i] + 22.0 / 525 * k6[i] - 1.0 / 40 * k7[i]));
  }
  return out;
}

Piece hermite(double t0, const Vec3& p0, const Vec3& v0, double t1, const Vec3& p1, const Vec3& v1) {
  const double h = t1 - t0;
  // Over so short a time the difference of two places is nothing but rounding.
  if (h < 1e-6) return {t0, t1, p0, v0, (v1 - v0) / h, {}};
  const Vec3 mean = (p1 - p0) / h;
  return {t0, t1, p0, v0, (mean * 3 - v0 * 2 - v1) * (2 / h), (v0 + v1 - mean * 2) * (6 / (h * h))};
}

/// No step is halved below this, seconds: where a law has a kink, as right at its target, it is cut across.
constexpr double kLeastStep = 1e-7;
/// No piece is shorter: its cubic would be nothing but rounding.
constexpr double kLeastPiece = 1e-9;

/// By what a step is made shorter that is so many times as wrong as it may be: the error of a cubic goes by
/// the fourth power of its length. Well below the bound: what homes carries every step's error on.
double shrunk(double wrong) { return std::clamp(0.65 / std::sqrt(std::sqrt(wrong)), 0.1, 0.5); }

/// A piece of the way that `slope` says, not longer than `longest`: both the step and the cubic between its
/// ends within 1e-9 m. `velocity_of(t, state)` is the velocity there. `state` is moved on to its end.
template <class Slope, class VelocityOf>
Piece integrated(State& state, double t, double longest, Slope&& slope, VelocityOf&& velocity_of) {
  constexpr double kError = 1e-10, kCubic = 1e-9;
  double h = std::min(longest, 0.02);
  for (;;) {
    double error = 0, ignored = 0;
    const State end = dormand_prince(state, t, h, slope, error);
    const State half = dormand_prince(state, t, h / 2, slope, ignored);
    const Piece piece =
        hermite(t, place_of(state), velocity_of(t, state), t + h, place_of(end), velocity_of(t + h, end));
    const double off = length(piece.place(t + h / 2) - place_of(half));
    const double wrong = std::max(error / kError, off / kCubic);
    if (wrong <= 1 || h <= kLeastStep) {
      state = end;
      return piece;
    }
    h *= shrunk(wrong);
  }
}

/// The tangent of a cubic Bézier curve, and its place.
struct Bezier {
  std::array<Vec3, 4> p;

  Vec3 place(double u) const {
    const double w = 1 - u;
    return p[0] * (w * w * w) + p[1] * (3 * w * w * u) + p[2] * (3 * w * u * u) + p[3] * (u * u * u);
  }
  Vec3 slope(double u) const {
    const double w = 1 - u;
    return ((p[1] - p[0]) * (w * w) + (p[2] - p[1]) * (2 * w * u) + (p[3] - p[2]) * (u * u)) * 3;
  }
  /// With the parameter for the time.
  Piece as_piece() const {
    return {0, 1, p[0], slope(0), (p[2] - p[1] * 2 + p[0]) * 6, (p[3] - p[2] * 3 + p[1] * 3 - p[0]) * 6};
  }
};

Bezier curve(const CurvePath& path, const Vec3& from, const Vec3& to, const Vec3& left, const Vec3& up) {
  const Vec3 aside = to_the_left(to - from, up, left) * path.side + up * path.rise;
  return {{from, from + (to - from) * (1.0 / 3) + aside, from + (to - from) * (2.0 / 3) + aside, to}};
}

Piece free_piece(const Course& c, const Vec3& acceleration) {
  return {c.time, kEver, c.place(), c.velocity(), acceleration, {}};
}

Milestone next(Course& c, const StraightPath& path, const Motions&) {
  const Vec3 velocity = c.velocity();
  const double speed = length(velocity);
  if (path.acceleration < 0 && speed > 0) {
    if (c.piece.end <= c.time && c.piece.acceleration != Vec3{}) return Milestone::stopped;
    c.piece = free_piece(c, velocity * (path.acceleration / speed));
    c.piece.end = c.time - speed / path.acceleration;
    return Milestone::none;
  }
  if (!(speed > 0)) return Milestone::stopped;
  if (path.acceleration > 0 && speed < path.top_speed * (1 - 1e-12)) {
    c.piece = free_piece(c, velocity * (path.acceleration / speed));
    c.piece.end = c.time + (path.top_speed - speed) / path.acceleration;
    return Milestone::none;
  }
  c.piece = free_piece(c, {});
  return Milestone::none;
}

Milestone next(Course& c, const FallingPath& path, const Motions& motions) {
  const Vec3 gravity = motions.arena().gravity() * path.gravity;
  if (path.drag == 0) {
    c.piece = free_piece(c, gravity);
    return Milestone::none;
  }
  State state = state_of(c.place(), c.velocity());
  const auto slope = [&](double, const State& s) {
    const Vec3 v = rest_of(s);
    return state_of(v, gravity - v * (path.drag * length(v)));
  };
  c.piece = integrated(state, c.time, kEver, slope, [](double, const State& s) { return rest_of(s); });
  return Milestone::none;
}

/// From its parameter on along a curve that stands still, for `longest` at most, as far as one cubic between
/// two of its points is it to 1e-9 m. The parameter goes by the length of the curve, also past a point where
/// it turns about.
void follow(Course& c, const Bezier& curve, double longest) {
  constexpr double kMostOff = 1e-9, kStanding = 1e-9;
  const Piece way = curve.as_piece();
  struct Point {
    double parameter, flown;
  };
  const auto after = [&](double h) {
    const double wanted = c.speed * h;
    // Newton's steps within the bracket, halved where they leave it; of the length only what is new is
    // measured.
    Point at{c.parameter, 0};
    double low = c.parameter, high = 1;
    for (int round = 0; round < 60; ++round) {
      const double next = at.parameter + (wanted - at.flown) / length(way.speed_at(at.parameter)),
                   to = round == 0                  ? std::clamp(next, low, high)
                        : next > low && next < high ? next
                                                    : 0.5 * (low + high);
      if (std::fabs(to - at.parameter) <= 1e-16 || (round > 0 && !(to > low && to < high))) break;
      at.flown += to > at.parameter ? way.length(at.parameter, to) : -way.length(to, at.parameter);
      at.parameter = to;
      if (to == 1 && at.flown <= wanted) break;
      (at.flown > wanted ? high : low) = to;
    }
    return at;
  };
  // Where it turns about it stands: there it goes as it does just before, or after.
  const auto velocity = [&](double u, bool leaving) {
    Vec3 along = way.speed_at(u);
    if (!(length(along) > kStanding)) along = (way.acceleration + way.jerk * u) * (leaving ? 1.0 : -1.0);
    return (length(along) > 0 ? normalized(along) : c.heading) * c.speed;
  };
  // What is slow needs no more pieces than what is fast.
  constexpr double kFirstStep = 0.02, kFirstWay = 0.02;  // seconds, metres
  double h = std::max(kLeastPiece, std::min(std::max(kFirstStep, kFirstWay / c.speed), longest));
  for (;;) {
    const Point end = after(h);
    if (end.parameter == 1) h = std::max(kLeastPiece, std::min(h, end.flown / c.speed));
    const Piece piece = hermite(c.time, way.place(c.parameter), velocity(c.parameter, true), c.time + h,
                                way.place(end.parameter), velocity(end.parameter, false));
    const double wrong = length(piece.place(c.time + h / 2) - way.place(after(h / 2).parameter)) / kMostOff;
    if (h > kLeastStep && wrong > 1) {
      h *= shrunk(wrong);
      continue;
    }
    c.piece = piece, c.parameter = end.parameter, c.piece.pace = c.speed;
    return;
  }
}

/// The same along a curve whose end moves with the thrower: the parameter is integrated, du/dt so that the
/// shot has its speed. What is left of the speed goes along the curve: by how much the curve moves when its
/// end does, for a short time.
template <class CurveTo>
void follow(Course& c, const CurveTo& curve_to, const Leg& leg, const Vec3& offset, double longest) {
  const auto home = [&](double t) { return leg.at(t) * offset; };
  const auto curve_at = [&](double t) { return curve_to(home(t)); };
  const auto drift_at = [&](double t, double u) {
    constexpr double kStep = 1e-4;
    const Vec3 end = home(t), step = leg.velocity_of(offset, t) * kStep;
    return (curve_to(end + step).place(u) - curve_to(end - step).place(u)) / (2 * kStep);
  };
  const auto rate = [&](double t, double u) {
    const Vec3 along = curve_at(t).slope(std::clamp(u, 0.0, 1.0)), drift = drift_at(t, u);
    const double a = dot(along, along), b = dot(along, drift), rest = dot(drift, drift) - c.speed * c.speed;
    if (!(a > 0)) return 1.0;
    // A thrower who outruns it does not stop it. Where no way along the curve has its speed, the way that
    // comes nearest to that joins on without a jump.
    const double least = 0.05 * c.speed / std::sqrt(a), below = std::max(0.0, b * b - a * rest);
    return std::max(least, (-b + std::sqrt(below)) / a);
  };
  const auto velocity = [&](double t, double u) {
    return curve_at(t).slope(u) * rate(t, u) + drift_at(t, u);
  };
  const auto slope = [&](double t, const State& s) { return State{rate(t, s[0]), 0, 0, 0, 0, 0}; };
  const State start{c.parameter, 0, 0, 0, 0, 0};
  constexpr double kError = 1e-10, kCubic = 1e-9;
  for (double h = std::max(kLeastPiece, std::min(0.02, longest));;) {
    double error = 0, ignored = 0;
    State end = dormand_prince(start, c.time, h, slope, error);
    if (end[0] > 1) {
      // The step in which it arrives ends there.
      double low = 0, high = h;
      for (int i = 0; i < 60; ++i) {
        const double middle = 0.5 * (low + high);
        (dormand_prince(start, c.time, middle, slope, ignored)[0] > 1 ? high : low) = middle;
      }
      h = std::max(low, kLeastPiece), end = dormand_prince(start, c.time, h, slope, error), end[0] = 1;
    }
    const State half = dormand_prince(start, c.time, h / 2, slope, ignored);
    const double t1 = c.time + h;
    const Piece piece = hermite(c.time, curve_at(c.time).place(c.parameter), velocity(c.time, c.parameter),
                                t1, curve_at(t1).place(end[0]), velocity(t1, end[0]));
    const double off = length(piece.place(c.time + h / 2) - curve_at(c.time + h / 2).place(half[0]));
    const double wrong = std::max(error * c.speed / kError, off / kCubic);
    if (h > kLeastStep && wrong > 1) {
      h *= shrunk(wrong);
      continue;
    }
    c.piece = piece, c.parameter = end[0];
    return;
  }
}

Milestone next(Course& c, const CurvePath& path, const Motions& motions) {
  if (c.free) {
    c.piece = free_piece(c, {});
    return Milestone::none;
  }
  Milestone passed = Milestone::none;
  if (c.parameter >= 1) {
    if (c.coming_back) return Milestone::returned;
    if (!path.returns) return Milestone::arrived;
    c.coming_back = true, c.parameter = 0, c.turned_at = c.aim;
    passed = Milestone::turned;
  }
  // A thrower that is gone is sought where it was last.
  const bool back = c.coming_back, there = motions.arena().has(c.thrower);
  if (back && there) c.home = motions.center(c.thrower, c.time);
  const auto curve_to = [&](const Vec3& end) {
    return curve(path, back ? c.turned_at : c.origin, end, c.left, motions.arena().up());
  };
  // To where it is already there is no way.
  const Bezier whole = curve_to(back ? c.home : c.aim);
  if (!(length(whole.p[3] - whole.p[0]) > c.speed * kLeastPiece)) {
    c.piece = {c.time, c.time, c.place(), c.velocity(), {}, {}};
    c.parameter = 1;
    return passed;
  }
  if (!back || !there) {
    follow(c, whole, kEver);
    return passed;
  }
  // A leg's end is a kink of the thrower's way: no step crosses it.
  const Leg leg = motions.leg(c.thrower, c.time);
  const double longest = std::min(motions.known_until(c.thrower), leg.end) - c.time;
  if (leg.still()) {
    follow(c, whole, longest);
  } else {
    follow(c, curve_to, leg, motions.arena().center_in_frame(c.thrower), longest);
  }
  return passed;
}

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

Milestone next(Course& c, const LobPath& path, const Motions& motions) {
  const Vec3 down = motions.arena().gravity();
  if (c.free || !path.follows || c.target.empty() || c.time >= c.arrives || c.time >= c.target_lost) {
    c.piece = free_piece(c, down);
    return Milestone::none;
  }
  // Along the line to where the target is now, under an arc: exact while the target moves steadily.
  const double whole = c.arrives - c.born;
  const Leg leg = motions.leg(c.target, c.time);
  const Vec3 &up = motions.arena().up(), offset = motions.arena().center_in_frame(c.target);
  const double lift = 0.5 * c.drop;  // the arc is lift s (whole - s)
  // Of the target's middle: it swings about the body's origin when that turns.
  const auto target_velocity = [&](double t) { return leg.velocity_of(offset, t); };
  const auto place = [&](double t) {
    const double s = t - c.born;
    return c.origin + (leg.at(t) * offset - c.origin) * (s / whole) + up * (lift * s * (whole - s));
  };
  const auto velocity = [&](double t) {
    const double s = t - c.born;
    return (leg.at(t) * offset - c.origin) / whole + target_velocity(t) * (s / whole) +
           up * (lift * (whole - 2 * s));
  };
  double end = std::min({leg.end, motions.known_until(c.target), c.arrives, c.target_lost});
  if (!(end > c.time)) end = c.time + 1e-9;
  if (leg.turn_rate == 0) {
    const Vec3 bend = leg.velocity * (2 / whole) - up * (2 * lift);
    c.piece = {c.time, end, place(c.time), velocity(c.time), bend, {}};
    return Milestone::none;
  }
  for (double h = std::min(0.1, end - c.time);; h *= 0.5) {
    c.piece =
        hermite(c.time, place(c.time), velocity(c.time), c.time + h, place(c.time + h), velocity(c.time + h));
    if (length(c.piece.place(c.time + h / 2) - place(c.time + h / 2)) <= 1e-9 || h < 1e-6)
      return Milestone::none;
  }
}

}  // namespace

Vec3 to_the_left(const Vec3& way, const Vec3& up, const Vec3& otherwise) {
  const Vec3 left = cross(up, way);
  const double size = length(left);
  // An integrated way is straight up to no more than this.
  return size > 1e-6 * length(way) ? left / size : otherwise;
}

Vec3 left_of_throw(const Motions& motions, BodyId thrower, double time, const Vec3& way) {
  const Vec3& up = motions.arena().up();
  const auto level = [&](const Vec3& v) { return v - up * dot(v, up); };
  Vec3 facing = level({0, 1, 0});
  if (motions.arena().has(thrower)) facing = level(motions.leg(thrower, time).at(time).turn.y);
  // A body that lies on its side has no left.
  if (!(length(facing) > 1e-3)) facing = level({1, 0, 0});
  if (!(length(facing) > 1e-3)) facing = level({0, 1, 0});
  return to_the_left(way, up, normalized(facing));
}

double Piece::most_speed(double from, double to) const {
  return std::max(dardo::length(speed_at(from)), dardo::length(speed_at(to))) +
         0.5 * (to - from) * (jerk == Vec3{} ? 0 : most_acceleration(from, to));
}
double Piece::most_acceleration(double from, double to) const {
  return std::max(dardo::length(acceleration + jerk * (from - start)),
                  dardo::length(acceleration + jerk * (to - start)));
}
Bounds Piece::bounds(double from, double to) const {
  Bounds b;
  b.add(place(from)), b.add(place(to));
  if (straight()) return b;
  const double h = to - from;
  return b.grown(most_acceleration(from, to) * h * h / 8);
}
double Piece::length(double from, double to) const {
  if (pace > 0) return pace * (to - from);
  if (straight()) return dardo::length(velocity) * (to - from);
  // Where it is slowest the speed may have a kink, as where it turns back: no stretch goes across that.
  double slowest = from;
  for (int round = 0; round < 8; ++round) {
    const Vec3 v = speed_at(slowest), a = acceleration + jerk * (slowest - start);
    const double bends = dot(a, a) + dot(v, jerk);
    if (!(bends > 0)) break;
    slowest = std::clamp(slowest - dot(v, a) / bends, from, to);
    if (jerk == Vec3{}) break;
  }
  double sum = 0;
  for (double begin = from; begin < to;) {
    const double next = begin < slowest ? slowest : to;
    int halvings = 300;
    sum += adaptive_length(*this, begin, next, quadrature(*this, begin, next), 24, halvings);
    begin = next;
  }
  return sum;
}

std::optional<double> Piece::first_slower(double limit, double from, double to) const {
  // The square of the speed rises or falls between the roots of its slope, which is a cubic, and that between
  // the roots of its own slope.
  const Piece p = part(from, to);
  const double h = to - from, c0 = dot(p.velocity, p.acceleration),
               c1 = dot(p.acceleration, p.acceleration) + dot(p.velocity, p.jerk),
               c2 = 1.5 * dot(p.acceleration, p.jerk), c3 = 0.5 * dot(p.jerk, p.jerk);
  const auto slope = [&](double t) { return c0 + (c1 + (c2 + c3 * t) * t) * t; };
  const auto slow = [&](double t) { return dardo::length(p.speed_at(from + t)) < limit; };
  std::array<double, 3> bends{0, h, h};
  if (const double under = c2 * c2 - 3 * c3 * c1; c3 > 0 && under > 0) {
    const double root = std::sqrt(under);
    bends[0] = std::clamp((-c2 - root) / (3 * c3), 0.0, h),
    bends[1] = std::clamp((-c2 + root) / (3 * c3), 0.0, h);
  }
  double last = 0;
  if (slow(0)) return from;
  for (const double bend : bends) {
    double least = bend;
    if (slope(last) < 0 && slope(bend) > 0)
      least = first_time([&](double t) { return slope(t) >= 0; }, last, bend);
    for (const double t : {least, bend}) {
      if (slow(t)) return from + first_time(slow, last, t);
    }
    last = bend;
  }
  return std::nullopt;
}

void set_off(Course& c, const ShotPath& path, const Vec3& from, const Vec3& direction,
             const Motions& motions) {
  const Vec3& gravity = motions.arena().gravity();
  c.born = c.time, c.origin = from;
  c.left = left_of_throw(motions, c.thrower, c.time, direction);
  Vec3 velocity = direction * c.speed;
  if (const auto* lob = std::get_if<LobPath>(&path)) {
    const double g = length(gravity);
    const Vec3 up = g > 0 ? -gravity / g : Vec3{0, 0, 1}, to = c.aim - from;
    double time = lob->flight_time_s.value_or(1);
    c.drop = g;
    if (lob->apex) {
      const double high = dot(to, up), top = std::max(0.0, high) + *lob->apex;
      time = std::sqrt(2 * top / g) + std::sqrt(2 * std::max(0.0, top - high) / g);
    }
    c.arrives = c.time + time;
    velocity = to / time + up * (0.5 * g * time);
    c.speed = length(velocity);
  }
  c.piece = {c.time, c.time, from, velocity, {}, {}};
  c.heading = length(velocity) > 0 ? normalized(velocity) : direction;
}

Milestone next_piece(Course& course, const ShotPath& path, const Motions& motions) {
  ++work().pieces;
  course.stood = {};
  return std::visit([&](const auto& p) { return next(course, p, motions); }, path);
}

namespace {

Law law(const StraightPath& path) { return {.speed = path.speed, .may_be_led = true}; }
Law law(const FallingPath& path) {
  return {.speed = path.speed, .gravity = path.gravity, .may_be_led = true, .may_be_lobbed = true};
}
Law law(const CurvePath& path) {
  return {
      .speed = path.speed, .keeps_speed = true, .knows_target = true, .strikes_again = path.strikes_again};
}
Law law(const GuidedPath& path) {
  return {.speed = path.speed,
          .keeps_speed = true,
          .knows_target = true,
          .follows_target = true,
          .has_done_with = true,
          .needs_sight = path.needs_sight,
          .may_be_led = true,
          .lost = path.lost};
}
Law law(const LobPath& path) {
  return {.gravity = 1,
          .knows_target = true,
          .follows_target = path.follows,
          .needs_gravity = path.apex.has_value()};
}

}  // namespace

Law law_of(const ShotPath& path) {
  return std::visit([](const auto& p) { return law(p); }, path);
}

Vec3 velocity_by_law(const Course& c, const ShotPath& path) {
  const Vec3 velocity = c.velocity();
  const double size = length(velocity);
  return law_of(path).keeps_speed && size > 0 ? velocity * (c.speed / size) : velocity;
}

bool is_outdated(const Course& c, const Motions& motions) {
  if (c.stood.empty() || c.time >= c.piece.end || !motions.arena().has(c.stood)) return false;
  return !motions.leg(c.stood, c.time).still() || motions.center(c.stood, c.time) != c.stood_at;
}

void deflect(Course& c, const Vec3& velocity) {
  c.piece = {c.time, c.time, c.place(), velocity, {}, {}};
  c.speed = length(velocity);
  if (c.speed > 0) c.heading = velocity / c.speed;
  c.free = true;
}

}  // namespace dardo::detail
