#pragma once
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdint>
#include <memory>
#include <random>
#include <vector>

#include "dardo/resolve/skirmish.hpp"

// A running fight: shots in flight among bodies that move, at a constant density of bodies.
namespace bench {

using namespace dardo;

constexpr double kTick = 1.0 / 60, kSpeed = 24, kRadius = 0.1, kTau = 6.283185307179586;

/// A shot that nothing ends: it goes through everybody, so that their number stays the same.
inline ShotDelivery endless(ShotPath path) {
  ShotDelivery shot;
  shot.path = std::move(path), shot.radius = kRadius, shot.life_s = 1e6;
  shot.pierce.bodies = 1000000000;
  return shot;
}

inline constexpr int kWarm = 16;  ///< ticks before anything is timed

/// What of a fight differs from the usual one.
struct Manner {
  std::int64_t bodies = 10000, shots = 10000;
  ShotDelivery shot = endless(StraightPath{.speed = kSpeed});
  double walk = 3;         ///< of everybody, m/s
  double tick_s = kTick;   ///< with everybody going so long
  bool onward = false;     ///< nobody goes back and forth
  bool swerving = false;   ///< everybody turns hard, all the time
  bool at_bodies = false;  ///< shots are sent off at bodies far away; else level, in all directions
  std::int64_t fast = 0;   ///< so many of them go at `fast_speed`
  double fast_speed = 0;
  std::int64_t tracked = 0;          ///< so many walk on tracks
  std::int64_t turning = 0;          ///< so many turn right round in each tick
  std::vector<Then> then;            ///< what the shots lead to
  std::vector<Effect> effects = {};  ///< of each strike
  bool two_sides = false;            ///< every other shot is of those among whom the shots fly

  // In each tick:
  bool one_spawns = false, one_jumps = false, one_goes = false;
  int kills = 0;  ///< the first so many who are struck fall; they stand up again for the next
};

struct Fight {
  Manner manner;
  Arena arena;
  std::vector<BodyId> bodies;
  std::vector<Vec3> velocities;
  std::vector<Ray> ways;  ///< of one tick
  double side;
  std::unique_ptr<Skirmish> live;
  AttackId bolt;
  FactionId us, them;
  BuildId build;
  std::size_t strikes = 0;
  std::vector<BodyId> fallen;
  int spawned = 0;
  std::mt19937_64 random{7};

  double u() { return static_cast<double>(random() >> 11) * 0x1.0p-53; }

  explicit Fight(const Manner& m) : manner(m), side(5 * std::sqrt(static_cast<double>(m.bodies))) {
    us = *arena.add_faction("wardens"), them = *arena.add_faction("raiders");
    arena.relate(us, them, Relation::foe), arena.relate(them, us, Relation::foe);
    build = *arena.add_build(
        {.name = "deckhand", .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.4}, 0.4}}}});
    const auto gunner = *arena.add_build({.name = "gunner", .hitboxes = {{"all", Ball{{0, 0, 0}, 0.1}}}});
    for (std::int64_t i = 0; i < m.bodies; ++i) {
      const double x = u() * side, y = u() * side, a = u() * kTau;
      const double speed = i < m.fast ? m.fast_speed : m.walk;
      velocities.push_back({speed * std::cos(a), speed * std::sin(a), 0});
      Body body{.id = std::to_string(i), .build = build, .faction = them, .pose = {{x, y, 0}, {}}};
      if (i < m.tracked) {
        for (int key = 0; key < 40; ++key)
          body.track.push_back({0.5 * key, {body.pose.at + velocities.back() * (0.5 * (key % 2)), {}}});
      }
      bodies.push_back(*arena.add_body(std::move(body)));
    }
    arena.update();
    live = std::make_unique<Skirmish>(arena);
    bolt = *live->add_attack(
        {.name = "bolt", .delivery = m.shot, .reach = {0, 1e7}, .effects = m.effects, .then = m.then});
    for (std::int64_t i = 0; i < m.shots; ++i) {
      const double x = u() * side, y = u() * side, a = u() * kTau;
      const Vec3 at{x, y, 1}, way{std::cos(a), std::sin(a), 0};
      const auto by = *arena.add_body({.id = "gunner-" + std::to_string(i),
                                       .build = gunner,
                                       .faction = m.two_sides && i % 2 ? them : us,
                                       .pose = {at, {}}});
      Toward toward{AlongDirection{way}};
      if (m.at_bodies) toward = AtBody{far_from(at)};
      if (std::holds_alternative<CurvePath>(m.shot.path)) toward = AtPlace{at + way * 300};
      (void)*live->start(bolt, {.by = by, .toward = toward});
      ways.push_back({at, way, kSpeed * kTick});
    }
    arena.update();
    (void)live->advance(0, [](const Strike&) {});
    for (std::int64_t i = 0; i < m.shots; ++i)
      (void)arena.remove(*arena.find_body("gunner-" + std::to_string(i)));
    arena.update();
  }

  BodyId far_from(const Vec3& at) {
    for (;;) {
      const BodyId body = bodies[random() % bodies.size()];
      if (length(arena.body(body).pose.at - at) > 0.3 * side) return body;
    }
  }

  /// Everybody a little on; back and forth, so that the fight stays what it is.
  void move(int tick) {
    stand_up();
    const double step = (manner.onward || tick % 2 ? 1 : -1) * manner.tick_s;
    for (std::size_t i = static_cast<std::size_t>(manner.tracked); i < bodies.size(); ++i) {
      Pose pose = arena.body(bodies[i]).pose;
      Vec3& v = velocities[i];
      if (manner.swerving) {
        constexpr double kTurn = 0.3;
        v = {v.x * std::cos(kTurn) - v.y * std::sin(kTurn), v.x * std::sin(kTurn) + v.y * std::cos(kTurn), 0};
        pose.turn = Rotation::about({0, 0, 1}, kTurn) * pose.turn;
      }
      pose.at = pose.at + v * step;
      if (i < static_cast<std::size_t>(manner.turning))
        pose.turn = Rotation::about({0, 0, 1}, 0.5 * kTau) * pose.turn;
      (void)live->move(bodies[i], pose);
    }
  }
  /// What the game does besides, and the tick.
  void tick() {
    if (manner.one_spawns)
      (void)*arena.add_body({.id = "spawn-" + std::to_string(++spawned),
                             .build = build,
                             .faction = them,
                             .pose = {{u() * side, u() * side, 0}, {}}});
    if (manner.one_jumps) {
      const Pose there{{u() * side, u() * side, 0}, {}};
      (void)arena.move(bodies[0], there), (void)live->move(bodies[0], there);
    }
    if (manner.one_goes && !bodies.empty()) (void)arena.remove(bodies.back()), bodies.pop_back();
    (void)live->advance(manner.tick_s, [&](const Strike& s) {
      ++strikes;
      if (fallen.size() >= static_cast<std::size_t>(manner.kills)) return false;
      fallen.push_back(s.body);
      return true;
    });
  }
  void stand_up() {
    for (const BodyId body : fallen) (void)arena.set_fallen(body, false);
    fallen.clear();
  }
};

template <class Work>
double nanoseconds(Work&& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double, std::nano>(std::chrono::steady_clock::now() - start).count();
}

inline double median(std::vector<double> v) {
  std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
  return v[v.size() / 2];
}

}  // namespace bench
