#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "dardo/resolve/aimed.hpp"
#include "dardo/resolve/resolve.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/aimed.hpp"
#include "resolve/carriers/shot/flight.hpp"

namespace dardo {
namespace {

std::string needs(double more_speed) {
  std::array<char, 32> text;
  const auto done =
      std::to_chars(text.data(), text.data() + text.size(), more_speed, std::chars_format::fixed, 2);
  return "needs " + std::string(text.data(), done.ptr) + " m/s more";
}

/// The least speed with which a shot arrives.
std::optional<Aimed> least_of(const detail::Motions& known, const ShotDelivery& shot, const Vec3& from,
                              double time, const detail::AimedAt& target, const detail::Thrower& by) {
  const auto* falling = std::get_if<FallingPath>(&shot.path);
  const auto* straight = std::get_if<StraightPath>(&shot.path);
  if (falling == nullptr && (straight == nullptr || straight->acceleration != 0)) return std::nullopt;
  const detail::Motions motions = known.as_seen(target.body, time, shot.foreseen);
  const Vec3 down = falling != nullptr ? motions.arena().gravity() * falling->gravity : Vec3{};
  const Vec3 now = target.at(motions, time),
             velocity = target.body.empty() ? Vec3{} : motions.velocity(target.body, time);
  // What stands, and does not fall, every speed reaches.
  if (down == Vec3{} && velocity == Vec3{}) return std::nullopt;
  const Arc arc = least_speed_arc(from, {now, velocity}, down);
  const double closed = length(arc.velocity);
  const bool steady =
      target.body.empty() || (motions.leg(target.body, time).turn_rate == 0 && !shot.foreseen);
  if (steady && !(falling != nullptr && falling->drag > 0)) {
    if (!(closed > 0)) return std::nullopt;
    return Aimed{arc.velocity / closed, closed, arc.time_s, arc.meets, 0, false, false, {}, {}};
  }
  detail::SearchSteps steps;
  const auto way_at = [&](double speed) {
    double more = 0;
    const auto ways = detail::ways_to_meet(known, shot, from, time, speed, target, by, more, steps);
    return ways.empty() ? std::nullopt : std::optional(ways.front());
  };
  double low = 0, high = std::max(closed, 0.1);
  std::optional<Aimed> best = way_at(high);
  for (int i = 0; i < 12 && !best; ++i) low = high, high *= 1.5, best = way_at(high);
  for (int i = 0; i < 24 && best && high - low > 1e-6 * high; ++i) {
    const double middle = 0.5 * (low + high);
    if (const auto found = way_at(middle)) {
      best = found, high = middle;
    } else {
      low = middle;
    }
  }
  return best;
}

/// The first wall on the way, before the meeting.
void look_for_walls(const Arena& arena, const detail::Motions& motions, const Attack& attack,
                    const Vec3& from, const detail::AimedAt& target, const detail::Thrower& by, double at,
                    Aimed& way) {
  using namespace detail;
  if (arena.walls().empty()) return;
  const auto& shot = std::get<ShotDelivery>(attack.delivery);
  Course c;
  c.time = at, c.speed = way.speed, c.target = target.body, c.aim = way.meets;
  set_off(c, shot.path, from, way.direction, by, motions);
  const Flyer flyer = flyer_of(shot, c, arena.upright());
  const double arrives = at + way.time_s;
  while (c.time < arrives && !way.blocked_by) {
    if (c.time >= c.piece.end && next_piece(c, shot.path, motions) != Milestone::none) return;
    double end = std::min({c.piece.end, arrives, c.time + 0.25});
    const double start = c.time;
    const WallTable& walls = arena.wall_table();
    walls.touching(c.piece.bounds(start, end).grown(flyer.reach() + 1e-6), [&](WallPartId part) {
      const WallId wall = walls.wall_of(part);
      if (!arena.blocks(wall).has(Passage::shots)) return;
      walls.each_leg(wall, start, end, [&](const Leg& leg, double begin, double until) {
        const auto t = touch_hitbox(flyer, c.piece, begin, until, walls.shape(part), leg);
        if (!t) return true;
        const Vec3 place = c.piece.place(*t);
        if (!lets_pass(arena, wall, c.piece.speed_at(*t) - wall_velocity(arena, wall, place, *t), *t))
          end = *t, way.blocked_by = wall, way.blocked_at = place;
        return false;
      });
    });
    c.time = std::max(end, std::nextafter(start, arrives));
  }
}

}  // namespace

const Aimed* AimReport::best() const {
  for (const Aimed& w : ways) {
    if (!w.blocked_by) return &w;
  }
  return nullptr;
}

namespace {

/// What is aimed, from where and at what; or why it cannot be.
struct Question {
  const ShotDelivery* shot;
  detail::Motions motions;
  detail::Moment moment;
  Problems problems;
  detail::AimedAt target{};
  Vec3 from;
  detail::Thrower by{};

  Question(const Arena& arena, const Attack& attack, const Launch& launch)
      : shot(std::get_if<ShotDelivery>(&attack.delivery)),
        motions(arena),
        moment(motions, launch.at_s),
        problems(check(arena, attack, launch)) {
    if (shot == nullptr) problems.push_back({"/attack", "is no shot", "an attack with a \"shot\""});
    if (shot != nullptr && std::holds_alternative<CurvePath>(shot->path)) {
      problems.push_back(
          {"/attack/shot/curve", "flies to its aim point whatever", "a shot with another path"});
    }
    if (!problems.empty()) return;
    if (const auto at = detail::aimed_at(moment, launch)) {
      target = *at;
    } else {
      problems.push_back({"/launch/toward", "is no point", "a body or a place"});
      return;
    }
    from = detail::muzzle_point(moment, launch);
    by = detail::thrower_at(moment, launch, from);
  }
};

}  // namespace

std::optional<Aimed> least_speed(const Arena& arena, const Attack& attack, const Launch& launch) {
  const Question q(arena, attack, launch);
  if (!q.problems.empty()) return std::nullopt;
  return least_of(q.motions, *q.shot, q.from, launch.at_s, q.target, q.by);
}

AimReport aim(const Arena& arena, const Attack& attack, const Launch& launch) {
  AimReport out;
  Question q(arena, attack, launch);
  out.problems = std::move(q.problems);
  if (!out.problems.empty()) return out;
  if (std::holds_alternative<LobPath>(q.shot->path)) {
    // Made to arrive: the arc says how fast.
    detail::Course c;
    c.time = launch.at_s, c.target = q.target.body, c.aim = q.target.at(q.motions, launch.at_s);
    detail::throw_at(c, *q.shot, q.motions, q.from, q.target, q.by);
    detail::set_off(c, q.shot->path, q.from, {1, 0, 0}, q.by, q.motions);
    detail::SearchSteps steps;
    const detail::Pass pass =
        detail::fly_past(q.motions, q.shot->path, c, detail::life_limit(*q.shot), q.target, false, steps);
    out.ways.push_back({normalized(c.piece.velocity),
                        c.speed,
                        pass.time - launch.at_s,
                        pass.target,
                        pass.off,
                        false,
                        {},
                        {}});
  } else {
    const double speed = detail::law_of(q.shot->path).speed;
    detail::SearchSteps steps;
    out.ways = detail::ways_to_meet(q.motions, *q.shot, q.from, launch.at_s, speed, q.target, q.by,
                                    out.more_speed, steps);
  }
  if (out.ways.empty()) {
    out.problem =
        out.more_speed > 0 ? needs(out.more_speed) : "no way was found that arrives within its lifetime";
  }
  for (Aimed& way : out.ways)
    look_for_walls(arena, q.motions, attack, q.from, q.target, q.by, launch.at_s, way);
  return out;
}

Aiming lob_beyond(const Arena& arena, const Launch& launch, double distance) {
  const detail::Motions motions(arena);
  const detail::Moment moment(motions, launch.at_s);
  const auto point = detail::aim_point(moment, launch);
  if (!point) return Aiming::direct;
  return length(*point - detail::muzzle_point(moment, launch)) <= distance ? Aiming::lead : Aiming::high;
}

}  // namespace dardo
