#include "support/situation.hpp"

#include <algorithm>
#include <cmath>
#include <random>

#include "support/drawer.hpp"
#include "support/fitting.hpp"
#include "support/play.hpp"

namespace dardo::test {
namespace {

constexpr double kHalfTurn = units::kPi;

/// A wall within a box around the origin; left and right are the same.
WallShape made_like(unsigned kind, const Vec3& h) {
  switch (kind) {
    case 0: return Cylinder{{0, 0, -h.z}, {0, 0, h.z}, std::min(h.x, h.y)};
    case 1: return Capsule{{0, 0, -h.z}, {0, 0, h.z}, std::min(h.x, h.y)};
    case 2: return Cone{{0, 0, h.z}, {0, 0, -h.z}, std::min(h.x, h.y)};
    case 3:
      return Hull{{{h.x, h.y, -h.z},
                   {h.x, -h.y, -h.z},
                   {-h.x, h.y, -h.z},
                   {-h.x, -h.y, -h.z},
                   {-h.x, h.y, h.z},
                   {-h.x, -h.y, h.z}}};
    default:  // a roof
      return Mesh{{{-h.x, -h.y, -h.z},
                   {-h.x, h.y, -h.z},
                   {0, -h.y, h.z},
                   {0, h.y, h.z},
                   {h.x, -h.y, -h.z},
                   {h.x, h.y, -h.z}},
                  {{0, 1, 2}, {1, 3, 2}, {2, 3, 4}, {3, 5, 4}}};
  }
}

/// Multiplied by 4 or so, the builds: every shape, several hitboxes, muzzles.
std::vector<Build> builds(double s, bool boxes_as_hulls) {
  const auto box = [&](const Vec3& at, const Vec3& half) -> Shape {
    if (!boxes_as_hulls) return Box{at * s, half * s, {}};
    Hull hull;
    for (int i = 0; i < 8; ++i)
      hull.points.push_back(
          (at + Vec3{i & 1 ? half.x : -half.x, i & 2 ? half.y : -half.y, i & 4 ? half.z : -half.z}) * s);
    return hull;
  };
  std::vector<Build> out(6);
  out[0] = {.name = "ball", .hitboxes = {{"all", Ball{Vec3{0, 0, 0} * s, 0.5 * s}}}};
  out[1] = {.name = "post",
            .hitboxes = {{"trunk", Capsule{Vec3{0, 0, 0} * s, Vec3{0, 0, 1} * s, 0.25 * s}},
                         {"head", Ball{Vec3{0, 0, 1.5} * s, 0.25 * s}, 2}},
            .eyes = Vec3{0.25, 0, 1.5} * s,
            .muzzles = {{"hand", Vec3{0.5, 0.25, 0.5} * s}}};
  out[2] = {.name = "crate", .hitboxes = {{"all", box({0, 0, 0.5}, {0.5, 0.5, 0.5})}}};
  out[3] = {.name = "drum", .hitboxes = {{"all", Cylinder{Vec3{0, 0, 0} * s, Vec3{0, 0, 1} * s, 0.5 * s}}}};
  out[4] = {.name = "cone", .hitboxes = {{"all", Cone{Vec3{0, 0, 1} * s, Vec3{0, 0, 0} * s, 0.5 * s}}}};
  out[5] = {
      .name = "crab",
      .hitboxes = {
          {"shell",
           Hull{{Vec3{-0.5, -0.5, 0} * s, Vec3{0.5, -0.5, 0} * s, Vec3{0, 0.5, 0} * s, Vec3{0, 0, 1} * s}},
           0.5},
          {"claw", box({1, 0, 0.25}, {0.25, 0.125, 0.125}), 3}}};
  return out;
}

}  // namespace

Recipe Recipe::random(std::uint64_t seed, bool coincident) {
  std::mt19937_64 engine(seed * 2 + coincident);
  std::vector<std::uint8_t> bytes(sizeof(Recipe));
  const auto byte = [&] { return static_cast<std::uint8_t>(engine() >> 32); };
  Recipe r;
  r.coincident = coincident;
  for (auto& b : r.general) b = byte();
  // Few things or many: a record that is not used has a 0 in front.
  const std::size_t bodies = 2 + engine() % (kBodies - 1), walls = engine() % (kWalls + 1),
                    deeds = engine() % 3 == 0 ? engine() % 5 : 0;
  for (std::size_t i = 0; i < bodies; ++i) {
    for (auto& b : r.bodies[i]) b = byte();
    r.bodies[i][0] |= 1;
  }
  for (std::size_t i = 0; i < walls; ++i) {
    for (auto& b : r.walls[i]) b = byte();
    r.walls[i][0] |= 1;
  }
  for (auto& b : r.attack) b = engine() % 5 == 0 ? 0 : byte();
  for (std::size_t i = 0; i < deeds; ++i) {
    for (auto& b : r.script[i]) b = byte();
    r.script[i][0] |= 1;
  }
  return r;
}

namespace {

template <class Visit>
void each_record(Recipe& r, Visit&& visit) {
  visit(std::span<std::uint8_t>(r.general));
  for (auto& b : r.bodies) visit(std::span<std::uint8_t>(b));
  for (auto& w : r.walls) visit(std::span<std::uint8_t>(w));
  visit(std::span<std::uint8_t>(r.attack));
  for (auto& s : r.script) visit(std::span<std::uint8_t>(s));
}

}  // namespace

Recipe Recipe::of_bytes(std::span<const std::uint8_t> bytes) {
  Recipe r;
  std::size_t at = 0;
  const auto next = [&]() -> std::uint8_t { return at < bytes.size() ? bytes[at++] : std::uint8_t{0}; };
  r.coincident = next() % 2 == 0;
  each_record(r, [&](std::span<std::uint8_t> record) {
    for (auto& b : record) b = next();
  });
  return r;
}
std::size_t Recipe::records() { return 2 + kBodies + kWalls + kScript; }
Recipe Recipe::without_record(std::size_t number) const {
  Recipe out = *this;
  std::size_t i = 0;
  each_record(out, [&](std::span<std::uint8_t> record) {
    if (i++ == number) std::fill(record.begin(), record.end(), std::uint8_t{0});
  });
  return out;
}
std::size_t Recipe::size() const {
  std::size_t out = 0;
  Recipe copy = *this;
  each_record(copy, [&](std::span<std::uint8_t> record) { out += record.size(); });
  return out;
}
Recipe Recipe::without_byte(std::size_t number) const {
  Recipe out = *this;
  std::size_t i = 0;
  each_record(out, [&](std::span<std::uint8_t> record) {
    for (auto& b : record) {
      if (i++ == number) b = 0;
    }
  });
  return out;
}

Situation make_situation(const Recipe& recipe, const Carry& carry) {
  Situation s;
  Arena& arena = s.arena;
  const double k = carry.scale;
  const Rotation quarter{{0, 1, 0}, {-1, 0, 0}, {0, 0, 1}};
  Rotation turn;
  for (int i = 0; i < carry.quarters; ++i) turn = quarter * turn;
  const auto seen = [&](const Vec3& v) { return carry.mirrored ? mirrored(v) : v; };
  const auto seen_turn = [&](const Rotation& r) { return turn * (carry.mirrored ? mirrored(r) : r); };
  const auto carried = [&](const Vec3& p) { return turn * (seen(p) * k) + carry.move; };
  std::size_t nudged = 0;
  const auto nudge = [&](const Vec3& p) {
    if (recipe.nudge == 0) return p;
    const double n = static_cast<double>(++nudged);
    return p + Vec3{std::sin(n * 12.9), std::sin(n * 78.2), std::sin(n * 37.7)} * recipe.nudge;
  };

  std::vector<FactionId> factions;
  for (const char* name : {"wardens", "raiders", "passengers"}) factions.push_back(*arena.add_faction(name));
  arena.relate(factions[0], factions[1], Relation::foe);
  arena.relate(factions[1], factions[0], Relation::foe);
  std::vector<MaterialId> materials{
      *arena.add_material({.name = "timber"}),
      *arena.add_material({.name = "glass", .blocks = {Passage::shots, Passage::blasts}}),
      *arena.add_material({.name = "cloth", .blocks = {Passage::sight}})};
  std::vector<BuildId> kinds;
  for (Build& b : builds(k, carry.boxes_as_hulls)) {
    for (Hitbox& h : b.hitboxes) h.shape = carry.mirrored ? mirrored(h.shape) : h.shape;
    for (Muzzle& m : b.muzzles) m.at = seen(m.at);
    if (b.eyes) b.eyes = seen(*b.eyes);
    kinds.push_back(*arena.add_build(std::move(b)));
  }

  Choices general(recipe.general, recipe.coincident, 1);
  (void)arena.set_gravity(turn * (Vec3{0, 0, general.one_of(8) == 7 ? 0.0 : -10.0} * k));
  const bool all_stand = general.one_of(3) == 2;
  if (general.one_of(3) == 1)
    (void)arena.set_ground((-1.0 - 0.5 * general.one_of(3)) * k + dot(carry.move, arena.up()));

  Vec3 last;
  std::vector<Body> drawn;
  for (std::size_t i = 0; i < Recipe::kBodies; ++i) {
    Choices c(recipe.bodies[i], recipe.coincident, 100 + i);
    if (c.next() == 0 && i > 1) continue;  // the attacker and one more are always there
    Body body{.id = "b" + std::to_string(i)};
    body.build = kinds[c.one_of(6)];
    body.faction =
        i == 0 ? factions[0] : factions[std::array<std::size_t, 8>{1, 1, 1, 1, 1, 1, 0, 2}[c.one_of(8)]];
    const unsigned placing = c.one_of(6);
    Vec3 at{c.on_grid(8), c.on_grid(8), std::max(0.0, c.on_grid(1))};
    if (i == 1 && length(at) < 2) at.x = 6;       // somebody is never where the attacker is
    if (placing == 5) at = last;                  // in the same place
    if (placing == 4) at = last + Vec3{1, 0, 0};  // just beside it
    if (placing >= 4 && !recipe.coincident) at = at + Vec3{c.noise(1), c.noise(2), 0} * 0.3;
    if (i == 0) at = {};
    last = at;
    const double facing =
        std::array{0.0, 0.5, 1.0, -0.5}[c.one_of(4)] * kHalfTurn + (recipe.coincident ? 0 : c.noise(7));
    const auto pose = [&](const Vec3& p, double angle) {
      // Exact quarter turns stay exact.
      const double quarters = angle / (0.5 * kHalfTurn);
      Rotation r;
      if (recipe.coincident && quarters == std::round(quarters)) {
        for (int n = 0; n < ((static_cast<int>(quarters) % 4) + 4) % 4; ++n) r = quarter * r;
      } else {
        r = Rotation::about_z(angle);
      }
      return Pose{carried(nudge(p)), seen_turn(r)};
    };
    // Its last byte.
    const unsigned changing = recipe.bodies[i][Recipe::kBodyWidth - 1] % 16;
    const double when = carry.later + std::array{0.25, 0.5, 0.37, 1.0}[recipe.bodies[i][0] % 4];
    const std::string& zone = arena.build(body.build).hitboxes[0].zone;
    if (changing == 13 && i > 0) body.changes = {{when, factions[1 - body.faction.index % 2], {}, {}}};
    if (changing >= 14 && arena.build(body.build).hitboxes.size() > 1 &&
        arena.build(body.build).hitboxes[1].zone != zone) {
      body.changes = {{when, {}, {zone}, {}}};
      if (changing == 15) body.changes.push_back({when + 0.25, {}, {}, {zone}});
    }
    const unsigned tagged = c.one_of(8);
    if (tagged % 2 == 1) body.tags = {"wet"};
    if (tagged == 6) body.immune = {"timber"};
    if (c.one_of(8) == 7) body.fallen = i > 1;
    if (const unsigned n = c.one_of(4); n > 0) body.numbers = {{"health", 10.0 * n}};
    switch (all_stand ? 0 : i == 0 ? c.one_of(5) % 3 : c.one_of(5)) {
      case 1:
      case 2: {  // walks, and turns at each key by less than half round
        double t = 0, angle = facing;
        for (unsigned n = 0; n < 3; ++n) {
          body.track.push_back({t + carry.later, pose(at, angle)});
          t += 0.5 * (1 + c.one_of(2));
          at = at + Vec3{c.on_grid(2), c.on_grid(2), 0};
          angle += (c.one_of(3) == 2 ? 0.4 : 0.0) * kHalfTurn;
        }
        break;
      }
      case 3:
        if (c.one_of(2) == 1) {  // jumps
          body.track = {{carry.later, pose(at, facing)},
                        {carry.later + 0.5, pose(at + Vec3{1, 0, 0}, facing)},
                        {carry.later + 0.5, pose(at + Vec3{0, 2, 0}, facing)},
                        {carry.later + 1.5, pose(at, facing)}};
          s.jumps = true;
          break;
        }
        [[fallthrough]];
      default: body.pose = pose(at, facing);
    }
    for (std::size_t n = 1; carry.extra_keys && n < body.track.size(); n += 2) {
      const double t = 0.5 * (body.track[n - 1].time_s + body.track[n].time_s);
      if (t > body.track[n - 1].time_s && t < body.track[n].time_s)
        body.track.insert(body.track.begin() + static_cast<std::ptrdiff_t>(n),
                          {t, leg_at(body.track, t).at(t)});
    }
    s.tracks.emplace_back();
    if (carry.by_moves && !body.track.empty()) {
      s.tracks.back() = std::move(body.track);
      body.track.clear();
      body.pose = leg_at(s.tracks.back(), carry.later).at(carry.later);
    }
    drawn.push_back(std::move(body));
  }
  s.bodies.resize(drawn.size());
  for (std::size_t i = 0; i < drawn.size(); ++i) {
    const std::size_t number = carry.reversed ? drawn.size() - 1 - i : i;
    s.bodies[number] = *arena.add_body(std::move(drawn[number]));
  }

  Vec3 last_wall;
  for (std::size_t i = 0; i < Recipe::kWalls; ++i) {
    Choices c(recipe.walls[i], recipe.coincident, 200 + i);
    if (c.next() == 0) continue;
    const Vec3 half{std::array{0.25, 0.5, 1.0, 2.0}[c.one_of(4)],
                    std::array{0.25, 0.5, 1.0, 4.0}[c.one_of(4)], std::array{1.0, 2.0, 0.5}[c.one_of(3)]};
    Vec3 at{c.on_grid(6), c.on_grid(6), c.on_grid(1)};
    if (length(at) < 2.5) at.x += 4;
    switch (c.one_of(5)) {
      case 3: at = last_wall; break;
      case 4: at = last_wall + Vec3{0, 2 * half.y, 0}; break;  // flush tiles, where they are equally wide
      default: break;
    }
    last_wall = at;
    const unsigned turned = c.one_of(4);
    Rotation r;
    if (turned == 3) r = Rotation::about_z(recipe.coincident ? 0.25 * kHalfTurn : c.noise(3));
    Wall wall{.id = "w" + std::to_string(i),
              .shape = Box{carried(nudge(at)), half * k, seen_turn(r)},
              .material = materials[c.one_of(3)]};
    const bool one_way = c.one_of(6) == 5;
    const unsigned kind = c.one_of(10), going = c.one_of(10);
    if (kind >= 5 || going >= 7) {  // in a frame of its own
      wall.pose = {carried(nudge(at)), seen_turn(r)};
      wall.shape = kind >= 5 ? made_like(kind - 5, half * k) : Box{{}, half * k, {}};
    }
    // Of a wall with a frame it is the frame's.
    if (one_way)
      wall.one_way = wall.pose.turn == Rotation{} ? turn * seen(Vec3{1, 0, 0}) : seen(Vec3{1, 0, 0});
    if (going >= 7) {
      const auto key = [&](double time, const Vec3& p, double angle) {
        wall.track.push_back(
            {time + carry.later, {carried(nudge(p)), seen_turn(Rotation::about_z(angle) * r)}});
      };
      const Vec3 aside{0, std::array{2.0, -1.5, 4.0}[c.one_of(3)], std::array{0.0, 1.0}[c.one_of(2)]};
      const double start = 0.5 * c.one_of(2);
      if (going == 7) key(start, at, 0), key(start + 0.5, at + aside, 0), key(start + 1.5, at, 0);
      if (going == 8)
        key(start, at, 0), key(start + 1, at, 0.5 * kHalfTurn), key(start + 1.5, at + aside, 0.5 * kHalfTurn);
      if (going == 9) {
        key(start, at, 0), key(start + 0.5, at, 0), key(start + 0.5, at + aside, 0);
        s.jumps = true;
      }
      if (carry.by_moves) {
        wall.pose = leg_at(wall.track, carry.later).at(carry.later);
        s.doors.emplace_back(WallId{}, std::move(wall.track));
        wall.track.clear();
      }
    }
    // A plate, without thickness.
    Box* const plate = c.one_of(6) == 5 ? std::get_if<Box>(&wall.shape) : nullptr;
    if (plate != nullptr) plate->half.x = 0;
    if (carry.cut_walls && plate == nullptr && std::holds_alternative<Box>(wall.shape) && going < 7) {
      Wall part = wall;
      const Box whole = std::get<Box>(wall.shape);
      Box& half_box = std::get<Box>(part.shape);
      half_box.half.x *= 0.5;
      const Vec3 step = whole.turn.x * half_box.half.x;
      half_box.center = whole.center - step;
      (void)*arena.add_wall(part);
      part.id += "-2", half_box.center = whole.center + step;
      (void)*arena.add_wall(part);
    } else {
      const WallId added = *arena.add_wall(wall);
      if (going >= 7 && carry.by_moves) s.doors.back().first = added;
      if (carry.doubled_walls) wall.id += "-2", (void)*arena.add_wall(wall);
    }
  }
  if (carry.extra_body)
    (void)*arena.add_body(
        {.id = "far-away", .build = kinds[0], .faction = factions[1], .pose = {{5000, 5000, 0}, {}}});
  if (carry.extra_wall)
    (void)*arena.add_wall(
        {.id = "far-away", .shape = Box{{5000, 0, 4000}, {1, 1, 1}, {}}, .material = materials[0]});

  s.struck_fall = recipe.general[6] % 4 == 3;
  Choices c(recipe.attack, recipe.coincident, 300);
  s.attack.name = "attack";
  const unsigned target = c.one_of(8), aiming = c.next();
  // The body count is not part of the choice, so that dropping one keeps the target.
  const BodyId at = s.bodies[1 + c.next() % (s.bodies.size() - 1)];
  const Vec3 place{c.on_grid(8), c.on_grid(8), 0.5},
      way{1, c.on_grid(1), std::array{0.0, 0.5, 0.25}[c.one_of(3)]};
  Drawer(c).draw(s.attack);
  fit(s.attack);
  // Keys of tracks, rounds and releases do not come at one time, unless that is wanted.
  if (!recipe.coincident && s.attack.burst) s.attack.burst->gap_s = std::min(s.attack.burst->gap_s, 0.2375);
  if (!recipe.coincident && s.attack.windup)
    s.attack.windup->for_s = std::min(s.attack.windup->for_s, 0.4875);
  scale(s.attack, k);
  if (carry.mirrored) mirror(s.attack);
  s.launch = {.id = "launch", .by = s.bodies[0], .toward = at, .seed = 7u + recipe.general[5]};
  if (!needs_body(s.attack)) {
    if (target == 6) s.launch.toward = AtPlace{carried(place)};
    if (target == 7 && !std::holds_alternative<AreaDelivery>(s.attack.delivery) &&
        !std::holds_alternative<TrapDelivery>(s.attack.delivery))
      s.launch.toward = AlongDirection{turn * seen(way)};
  }
  // Searching the way of what has drag, or of what homes by itself, takes long: seldom.
  const auto* shot = std::get_if<ShotDelivery>(&s.attack.delivery);
  const auto* falling = shot != nullptr ? std::get_if<FallingPath>(&shot->path) : nullptr;
  const bool searched = shot != nullptr && ((falling != nullptr && falling->drag > 0) ||
                                            std::holds_alternative<GuidedPath>(shot->path));
  const bool led = !searched || aiming > 250;
  if (led && aiming % 3 == 1) s.launch.aim = Aiming::lead;
  if (led && aiming % 3 == 2) s.launch.aim = Aiming::high;
  arena.update();
  if (recipe.general[9] % 8 == 7 && !any_attack(s.attack, dashes)) {
    Choices f(std::span(recipe.general).subspan(9), recipe.coincident, 500);
    const Vec3 from{f.on_grid(8), f.on_grid(8), 0.5};
    s.launch.by = {};
    s.launch.from = FromPlace{{carried(from), seen_turn(Rotation::about_z(kHalfTurn / 4))}, factions[0]};
    s.attack.ready.reset();  // which is a body's
  }
  if (recipe.general[10] / 4 % 8 == 5 && !s.launch.from) {
    Choices f(std::span(recipe.general).subspan(10), recipe.coincident, 502);
    s.launch.muzzle.clear(), s.launch.muzzle_at = carried({f.on_grid(2), f.on_grid(2), f.on_grid(2)});
  }
  if (recipe.general[10] % 4 == 3) s.launch.leaving = turn * seen({1, 0.25, 0.5});
  if (!check(arena, s.attack, s.launch).empty()) s.launch.leaving.reset();
  if (recipe.general[11] % 6 == 5) {
    AtChoice choice;
    Choices f(std::span(recipe.general).subspan(6), recipe.coincident, 501);
    Drawer(f).draw(choice.order);
    choice.within = 40 * k;
    if (recipe.general[11] % 12 == 5) choice.sight = Sight(Passage::sight);
    s.launch.toward = choice;
  }
  if (!check(arena, s.attack, s.launch).empty()) s.launch.aim = Aiming::direct;
  if (!check(arena, s.attack, s.launch).empty()) s.launch.toward = at;
  if (!check(arena, s.attack, s.launch).empty())
    s.attack.delivery = RayDelivery{}, s.attack.then.clear(), fit(s.attack);
  if (!check(arena, s.attack, s.launch).empty()) s.launch.toward = AlongDirection{turn * Vec3{1, 0, 0}};

  // Where everybody is by then is known to those on tracks alone.
  if (recipe.general[8] % 4 == 3) s.launch.at_s = recipe.general[8] % 8 == 3 ? 0.5 : 0.37;
  s.launch.at_s += carry.later;

  // Of one in five, and one of them: the last bytes of the attack.
  const unsigned limited = recipe.attack[Recipe::kAttackWidth - 1],
                 number = recipe.attack[Recipe::kAttackWidth - 2];
  switch (limited % 24) {
    case 1: s.limits.carriers = std::array{1u, 2u, 5u, 20u}[number % 4]; break;
    case 2: s.limits.strikes = 1 + number % 2; break;
    case 3:
    case 7: s.limits.contacts = 1 + number % 4; break;
    case 4: s.limits.depth = number % 2; break;
    case 6: s.limits.alive = 1 + number % 4; break;
    case 5: s.limits.flight_s = std::array{0.25, 0.5, 1.0, 0.37}[number % 4]; break;
    default: break;
  }

  for (std::size_t i = 0; i < Recipe::kScript; ++i) {
    Choices d(recipe.script[i], recipe.coincident, 400 + i);
    if (d.next() == 0) continue;
    Deed deed;
    deed.kind = static_cast<Deed::Kind>(1 + d.one_of(9));
    deed.time = 0.5 * (1 + d.one_of(3));
    deed.body = 1 + d.next() % (s.bodies.size() - 1);
    deed.pose = {carried({d.on_grid(6), d.on_grid(6), 0}), seen_turn({})};
    s.deeds.push_back(deed);
  }
  std::stable_sort(s.deeds.begin(), s.deeds.end(),
                   [](const Deed& a, const Deed& b) { return a.time < b.time; });
  return s;
}

const Rules& rules() {
  static const Rules all = [] {
    Rules out;
    out.add("timber", [](const RuleQuestion& q) {
      const std::string& id = q.arena.body(q.target).id;
      return RuleAnswer{.passes = id.back() % 8 != 5, .margin = 0.5};
    });
    out.add("wet",
            [](const RuleQuestion& q) { return RuleAnswer{.passes = q.arena.has_tag(q.target, "wet")}; });
    return out;
  }();
  return all;
}

}  // namespace dardo::test
