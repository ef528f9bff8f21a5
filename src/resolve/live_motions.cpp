// Who moves in a tick of a running game, and how far.
#include <algorithm>
#include <limits>

#include "resolve/live_state.hpp"

namespace dardo {
namespace {

/// Bodies that go no farther than this in a tick are found near their places at its end, whatever others do.
constexpr double kSlowWay = 0.25;

}  // namespace

/// Bodies that were moved go there in this tick, those on tracks along them.
void Skirmish::State::set_bodies_moving(double start, double end) {
  legs.resize(arena.slots());
  ways.clear();
  const auto goes = [&](BodyId body, const Leg& leg, const Pose& to) {
    double way = length(leg.velocity) * (end - start);
    if (leg.turn_rate != 0) {
      const Vec3 center = arena.center_in_frame(body);
      const double reach = arena.reach_around_center(body) + length(cross(leg.axis, center));
      // What turns right round stays within reach of its middle.
      way = length(to * center - leg.at(start) * center) +
            std::min(leg.turn_rate * (end - start) * reach, 2 * reach);
    }
    ways.push_back({body, way});
  };
  std::swap(moves, moving);  // what is moved from within the tick counts for the next one
  for (const auto& [body, pose] : moving) {
    if (!arena.has(body) || arena.has_track(body)) continue;
    const Leg leg = leg_between(start, arena.body(body).pose, end, pose);
    if (leg.still()) {  // one that stays, or moves in a tick without length, jumps if anything
      if (!(pose == leg.from)) jumping.emplace_back(body, pose);
      continue;
    }
    goes(body, leg, pose);
    legs[body.index] = leg;
    arena.carry(body, pose);
  }
  for (const BodyId body : arena.tracked()) {
    const Leg& leg = arena.track_leg(body, start);
    const Pose pose = arena.track_leg(body, end).at(end);
    if (!(pose == arena.body(body).pose)) arena.carry(body, pose);
    // An instant past the end is still the tick's.
    if (!(leg.end > end + 2 * detail::kInstant)) {
      ways.push_back({body, std::numeric_limits<double>::infinity()});
    } else if (!leg.still()) {
      goes(body, leg, pose);
    }
  }
}

/// Those who dash, and whom the game has moved, or put elsewhere.
void Skirmish::State::find_interrupted(double start) {
  interrupted.clear();
  machine.each_dash([&](const detail::Lasting& l) {
    if (!arena.has(l.on)) return;
    const bool moved =
        std::any_of(moves.begin(), moves.end(), [&](const auto& m) { return m.first == l.on; });
    if (moved || !(machine.motions().leg(l.on, start).at(start) == arena.body(l.on).pose))
      interrupted.push_back(l.on);
  });
}

/// Whom the machine has carried is where it has brought them, and on no track any more.
void Skirmish::State::put_carried(double end) {
  dashes.clear();
  const std::uint64_t before = arena.placements();
  for (const detail::Carried& c : machine.carried()) {
    if (!arena.has(c.body)) continue;
    const Leg leg = machine.motions().leg(c.body, end);
    dashes.push_back({.launch = c.launch,
                      .body = c.body,
                      .pose = leg.at(end),
                      .velocity = leg.velocity,
                      .lands_s = end,
                      .over = true});
  }
  machine.each_dash([&](const detail::Lasting& l) {
    for (DashView& d : dashes) {
      if (d.body == l.on) d.lands_s = l.way.back().start, d.over = false;
    }
  });
  for (const DashView& d : dashes) arena.leave_track(d.body), arena.carry(d.body, d.pose);
  machine.settle();
  placements += arena.placements() - before;
}

/// Walls that were moved go there in this tick.
void Skirmish::State::set_walls_moving(double start, double end) {
  wall_ways.clear();
  const WallTable& walls = arena.wall_table();
  for (const auto& [wall, pose] : wall_moves) {
    if (!arena.has(wall)) continue;
    const Leg leg = leg_between(start, arena.wall(wall).pose, end, pose);
    if (leg.still()) {
      if (!(pose == leg.from)) walls_jumping.emplace_back(wall, pose);
      continue;
    }
    arena.carry(wall, leg);
    for (const WallPartId part : walls.parts_of(wall)) wall_ways.add(walls.bounds(part));
  }
  wall_moves.clear();
  wall_ways.finish();
}

/// Who goes farther in this tick is looked for along its way. Near where they are at its end the others are
/// found, the more slowly the farther they go; so that is done with those who go about as far as all do, when
/// all go: up to thrice as far as the slowest quarter.
double Skirmish::State::border() {
  constexpr std::size_t kSample = 256;
  // Of all bodies three quarters go farther than the one with this place among those that go.
  const std::size_t place = arena.body_count() * 3 / 4;
  if (place >= ways.size()) return kSlowWay;
  const std::size_t step = std::max<std::size_t>(1, ways.size() / kSample);
  sample.clear();
  for (std::size_t i = 0; i < ways.size(); i += step) sample.push_back(ways[i].length);
  const auto nth = sample.begin() + static_cast<std::ptrdiff_t>(place * sample.size() / ways.size());
  std::nth_element(sample.begin(), nth, sample.end(), std::greater<>());
  return std::max(kSlowWay, 3 * *nth);
}

/// Parts those who go far from the slow; how far these go at most.
double Skirmish::State::part_far_ways(double start, double end) {
  const double most = border();
  double slow_way = 0;
  far.clear(arena.slots());
  const detail::Motions& motions = machine.motions();
  for (const Way& way : ways) {
    if (way.length <= most && way.length < std::numeric_limits<double>::infinity()) {
      slow_way = std::max(slow_way, way.length);
    } else {
      far.add(way.body, motions.way_bounds(way.body, start, end + 2 * detail::kInstant));
    }
  }
  far.finish();
  return slow_way;
}

/// Bodies that others have put somewhere since the last tick; nothing when it is not known whom, or what else
/// has been changed.
std::optional<std::span<const BodyId>> Skirmish::State::newly_placed() const {
  const auto since = arena.arrivals_since(arrivals);
  if (!since || since->size() != arena.placements() - placements) return std::nullopt;
  return since;
}

/// Everybody is where the tick has brought them, and the arena has what they have come to.
void Skirmish::State::end_tick(double end) {
  for (const auto& [body, pose] : moving) {
    if (body.index < legs.size()) legs[body.index].velocity = {}, legs[body.index].turn_rate = 0;
  }
  moving.clear();
  put_carried(end);
  machine.motions().close(end);
  arena.let_go();
  ticking = false;
  machine.facts().each([&](const detail::Facts::Of& of) {
    if (!arena.has(of.body)) return;
    for (const detail::Facts::Number& n : of.numbers) arena.count(of.body, n.name.view(), n.value);
  });
  machine.settle_facts();
}

}  // namespace dardo
