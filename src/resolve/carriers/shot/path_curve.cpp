// Curves: out along one, and home along another whose end moves with the thrower.

#include "geometry/detail/ever.hpp"
#include "resolve/carriers/shot/path_steps.hpp"

namespace dardo::detail {
namespace {

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

Bezier curve(const CurvePath& path, const Arena& arena, const Vec3& from, const Vec3& to, const Vec3& left) {
  // Rounding is no direction.
  const Vec3 way = length(to - from) > kSamePlace ? to - from : Vec3{};
  const Vec3 aside = to_the_left(way, arena.upright(), left) * path.side + arena.up() * path.rise;
  return {{from, from + (to - from) * (1.0 / 3) + aside, from + (to - from) * (2.0 / 3) + aside, to}};
}

/// One part of the way out through points, between two of them: the cubic with the slopes that its
/// neighbours say (Catmull and Rom, "A class of local interpolating splines", 1974).
Bezier part_through(const CurvePath& path, const Arena& arena, const Course& c) {
  const Vec3 way = length(c.aim - c.origin) > kSamePlace ? normalized(c.aim - c.origin) : c.heading,
             left = to_the_left(way, arena.upright(), c.left), rise = cross(way, left);
  const auto count = static_cast<std::ptrdiff_t>(path.through.size());
  // Its points: where it was thrown, those, and the aim; beyond the ends the ends themselves.
  const auto point = [&](std::ptrdiff_t i) {
    if (i <= 0) return c.origin;
    if (i > count) return c.aim;
    const Vec3& own = path.through[static_cast<std::size_t>(i - 1)];
    return c.origin + way * own.x + left * own.y + rise * own.z;
  };
  const auto i = static_cast<std::ptrdiff_t>(c.part);
  const Vec3 a = point(i), b = point(i + 1);
  const auto slope = [&](std::ptrdiff_t k) {
    const double over = k <= 0 || k > count ? 1 : 2;
    return (point(k + 1) - point(k - 1)) / over;
  };
  return {{a, a + slope(i) / 3, b - slope(i + 1) / 3, b}};
}

/// From its parameter on along a curve that stands still, for `longest` at most, as far as one cubic between
/// two of its points is it to 1e-9 m. The parameter goes by the length of the curve, also past a point where
/// it turns about.
void follow(Course& c, const Bezier& curve, double longest) {
  constexpr double kStanding = 1e-9, kMeasured = 1e-7;  // metres
  const Piece way = curve.as_piece();
  struct Point {
    double parameter, flown;
  };
  const auto after = [&](double h) {
    const double wanted = c.speed * h;
    // Newton's steps within the bracket, halved where they leave it; of the length only what is new is
    // measured. The first one knows how the speed changes.
    Point at{c.parameter, 0};
    double low = c.parameter, high = 1;
    for (int round = 0; round < 60; ++round) {
      const Vec3 v = way.speed_at(at.parameter), a = way.acceleration + way.jerk * at.parameter;
      const double rate = length(v), left = wanted - at.flown;
      double next = at.parameter + left / rate;
      if (round == 0 && rate > 0)
        next -= std::clamp(0.5 * dot(v, a) * left / (rate * rate * rate), -0.5, 0.5) * (left / rate);
      const double to = round == 0                  ? std::clamp(next, low, high)
                        : next > low && next < high ? next
                                                    : 0.5 * (low + high);
      if (std::fabs(to - at.parameter) <= 1e-16 || (round > 0 && !(to > low && to < high))) break;
      // A step so short leaves nothing that could be measured.
      if (round > 0 && to == next && std::fabs(left) <= kMeasured) return Point{to, wanted};
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
  constexpr double kFirstStep = 0.02, kFirstWay = 0.02, kLongestWay = 1;  // seconds, metres
  double h = std::max(kLeastPiece, first_step(c.step, std::max(kFirstStep, kFirstWay / c.speed), longest));
  for (bool shorter = false;; shorter = true) {
    const Point end = after(h);
    if (end.parameter == 1) h = std::max(kLeastPiece, std::min(h, end.flown / c.speed));
    const Piece piece = hermite(c.time, way.place(c.parameter), velocity(c.parameter, true), c.time + h,
                                way.place(end.parameter), velocity(end.parameter, false));
    const double wrong = length(piece.place(c.time + h / 2) - way.place(after(h / 2).parameter)) / kWayKnown;
    if (h > kLeastStep && wrong > 1) {
      h *= shrunk(wrong);
      continue;
    }
    c.step = next_step(shorter ? 0 : c.step, h, wrong, std::max(kLongestStep, kLongestWay / c.speed));
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
  double h = std::max(kLeastPiece, first_step(c.step, 0.02, longest));
  for (bool shorter = false;; shorter = true) {
    Stepped stepped = dormand_prince(start, c.time, h, slope);
    if (stepped.end[0] > 1) {
      // The step in which it arrives ends there.
      double low = 0, high = h;
      for (int i = 0; i < 60; ++i) {
        const double middle = 0.5 * (low + high);
        (dormand_prince(start, c.time, middle, slope).end[0] > 1 ? high : low) = middle;
      }
      h = std::max(low, kLeastPiece), stepped = dormand_prince(start, c.time, h, slope), stepped.end[0] = 1;
    }
    const State& end = stepped.end;
    const double t1 = c.time + h;
    const Piece piece = hermite(c.time, curve_at(c.time).place(c.parameter), velocity(c.time, c.parameter),
                                t1, curve_at(t1).place(end[0]), velocity(t1, end[0]));
    const double off =
        length(piece.place(c.time + h / 2) - curve_at(c.time + h / 2).place(stepped.middle[0]));
    const double wrong = std::max(stepped.error * c.speed, off) / kWayKnown;
    if (h > kLeastStep && wrong > 1) {
      h *= shrunk(wrong);
      continue;
    }
    c.step = next_step(shorter ? 0 : c.step, h, wrong);
    c.piece = piece, c.parameter = end[0];
    return;
  }
}

}  // namespace

Milestone next(Course& c, const CurvePath& path, const Motions& motions) {
  if (c.free) {
    c.piece = free_piece(c, {});
    return Milestone::none;
  }
  Milestone passed = Milestone::none;
  if (c.parameter >= 1 && !c.coming_back && c.part < path.through.size()) {
    ++c.part, c.parameter = 0;
  } else if (c.parameter >= 1) {
    if (c.coming_back) return Milestone::returned;
    if (!path.returns) return Milestone::arrived;
    c.coming_back = true, c.parameter = 0, c.turned_at = c.aim;
    passed = Milestone::turned;
  }
  // A thrower that is gone is sought where it was last.
  const bool back = c.coming_back, there = motions.arena().has(c.thrower);
  if (back && there) c.home = motions.center(c.thrower, c.time);
  const bool in_parts = !back && !path.through.empty();
  const auto curve_to = [&](const Vec3& end) {
    if (in_parts) return part_through(path, motions.arena(), c);
    return curve(path, motions.arena(), back ? c.turned_at : c.origin, end, c.left);
  };
  // To where it is already there is no way.
  const Bezier whole = curve_to(back ? c.home : c.aim);
  if (!in_parts && !(length(whole.p[3] - whole.p[0]) > c.speed * kLeastPiece)) {
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

}  // namespace dardo::detail
