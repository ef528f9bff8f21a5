#include "support/relations.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

#include "support/play.hpp"

namespace dardo::test {
namespace {

bool finite(const std::optional<double>& v) { return !v || std::isfinite(*v); }

/// Whether what flies at the time of a strike hardly comes nearer to the surface that it touches; or did so
/// where the strike follows from.
bool is_graze(const Outcome& full, const Strike& strike) {
  if (strike.cause > 0 && is_graze(full, full.strikes[strike.cause - 1])) return true;
  for (const Mark& mark : full.marks) {
    const auto* flight = std::get_if<FlightMark>(&mark);
    if (flight == nullptr) continue;
    for (const auto& p : flight->pieces) {
      if (!(p.start_s <= strike.time_s && strike.time_s <= p.end_s)) continue;
      const double h = strike.time_s - p.start_s;
      const Vec3 velocity = p.velocity + (p.acceleration + p.jerk * (h / 2)) * h;
      if (std::fabs(dot(velocity, strike.normal)) < 1e-3 * std::max(1.0, length(velocity))) return true;
    }
  }
  return false;
}

/// The same who, order and reasons in the situation carried so.
std::string same(const char* what, const Recipe& recipe, const Situation& s, const Outcome& full,
                 const Carry& carry, bool exact = false) {
  const Situation t = make_situation(recipe, carry);
  Outcome o = t.resolved();
  std::string bad = check_outcome(t, o);
  for (Strike& k : o.strikes) k.time_s -= carry.later, k.seen_s -= carry.later;
  if (bad.empty() && exact && o.strikes != full.strikes)
    bad = differ(s, full.strikes, t, o.strikes) + " (to the bit)";
  if (bad.empty() && !exact) {
    std::vector<Strike> back = o.strikes;
    // Steps of an integrated path do not scale, nor does the nanometre at which it touches: a graze of half a
    // metre's roundness takes sqrt(2 x 0.5 x 1e-9) m to close that.
    const double same_time = carry.later > 0             ? 1e-6
                             : carry.scale == 1          ? 1e-7
                             : any_shot(s.attack, bends) ? 1e-5
                                                         : 1e-6;
    for (std::size_t i = 0; i < back.size() && i < full.strikes.size(); ++i) {
      back[i].point = full.strikes[i].point;
      // When a graze begins is known to the root of what a gap is known to.
      const double off = std::fabs(back[i].time_s - full.strikes[i].time_s);
      if (off <= 1e-5 && is_graze(full, full.strikes[i])) back[i].time_s = full.strikes[i].time_s;
    }
    bad = differ(s, full.strikes, t, back, same_time);
  }
  if (bad.empty()) bad = differ_in_reasons(s, full, t, o);
  return bad.empty() ? bad : std::string(what) + ": " + bad;
}

/// Whether several bodies are around the middle of a trap at once: whichever comes first sets it off.
bool sets_off_a_tie(const Situation& s, const Outcome& out) {
  const auto holds = [&](BodyId id, const Vec3& place, double time) {
    const Body& body = s.arena.body(id);
    const Pose pose = body.track.empty() ? body.pose : leg_at(body.track, time).at(time);
    const auto& hitboxes = s.arena.build(body.build).hitboxes;
    return std::any_of(hitboxes.begin(), hitboxes.end(), [&](const Hitbox& h) {
      return nearest(h.shape, into(pose.turn, place - pose.at)).distance < 1e-9;
    });
  };
  return std::any_of(out.marks.begin(), out.marks.end(), [&](const Mark& mark) {
    const auto* trap = std::get_if<LastingMark>(&mark);
    if (trap == nullptr || !trap->trap) return false;
    const double time = s.launch.at_s + trap->to_s;
    const Vec3 middle = frame_at(*trap, trap->to_s).at;
    return std::count_if(s.bodies.begin(), s.bodies.end(),
                         [&](BodyId id) { return holds(id, middle, time); }) > 1;
  });
}

/// Who is struck at a moment, and by which stage.
std::multiset<std::pair<std::string, std::uint32_t>> struck_at(const Situation& s, const Outcome& out,
                                                               double time_s) {
  std::multiset<std::pair<std::string, std::uint32_t>> struck;
  for (const Strike& k : out.strikes) {
    if (std::fabs(k.time_s - time_s) < 1e-7) struck.emplace(s.arena.body(k.body).id, k.stage);
  }
  return struck;
}

/// With the bodies added the other way round all is the same but for ties, which go by that.
std::string reordered(const Recipe& recipe, const Situation& s, const Outcome& full) {
  // By chance goes by the order, too.
  const auto* choice = std::get_if<AtChoice>(&s.launch.toward);
  const auto by_chance = [](const OrderBy& by) { return std::holds_alternative<ByChance>(by); };
  if (choice != nullptr && std::any_of(choice->order.begin(), choice->order.end(), by_chance)) return {};
  if (any_attack(s.attack, rolls)) return {};
  const Situation t = make_situation(recipe, {.reversed = true});
  const Outcome o = t.resolved();
  // Who stops a ray and whom it strikes, at one place: a tie as well.
  const bool one_end =
      std::holds_alternative<RayDelivery>(s.attack.delivery) && length(full.end - o.end) < 1e-9;
  for (std::size_t i = 0; i < std::max(full.strikes.size(), o.strikes.size()); ++i) {
    const Strike *a = i < full.strikes.size() ? &full.strikes[i] : nullptr,
                 *b = i < o.strikes.size() ? &o.strikes[i] : nullptr;
    if (a != nullptr && b != nullptr && s.arena.body(a->body).id == t.arena.body(b->body).id &&
        a->stage == b->stage && std::fabs(a->time_s - b->time_s) < 1e-7)
      continue;
    // What begins within several at once goes by their order.
    const auto begins_inside = [](const Strike* k) { return k != nullptr && k->distance == 0; };
    const bool tie = begins_inside(a) || begins_inside(b);
    // A blade is as far from all that it touches at once.
    const bool same_moment = a != nullptr && b != nullptr && std::fabs(a->time_s - b->time_s) < 1e-9;
    const bool as_far = same_moment && std::fabs(a->distance - b->distance) < 1e-9;
    // What lasts takes in those that come at one time, and what follows from each begins, by their order: the
    // same are struck then, or under a cap as many.
    if (same_moment && any_attack(s.attack, lasts)) {
      const auto mine = struck_at(s, full, a->time_s), theirs = struck_at(t, o, a->time_s);
      if (mine == theirs) continue;
      if (mine.size() == theirs.size()) return {};
    }
    if (tie || as_far || one_end || sets_off_a_tie(s, full)) return {};
    return "bodies in another order: " + differ(s, full.strikes, t, o.strikes);
  }
  return {};
}

/// Everybody whom the attack itself strikes, not what follows from it.
std::vector<std::string> struck_by_itself(const Situation& s, const Attack& attack) {
  std::vector<std::string> out;
  for (const Strike& k : resolve_ruled(s.arena, attack, s.launch, Detail::strikes).strikes) {
    if (k.stage == 0) out.push_back(s.arena.body(k.body).id);
  }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

void without_effects(Attack& attack) {
  attack.effects.clear(), attack.at_release.clear(), attack.critical.reset();
}

/// Whoever is struck is struck by what is larger, too.
std::string larger(const Situation& s) {
  Attack small = s.attack;
  small.then.clear(), small.cap.reset(), small.stopped_by = {};
  // Whoever falls sooner is struck less.
  without_effects(small);
  Attack large = small;
  const auto* shot = std::get_if<ShotDelivery>(&small.delivery);
  if (auto* area = std::get_if<AreaDelivery>(&large.delivery)) {
    auto* ball = std::get_if<BallArea>(&area->shape);
    if (ball == nullptr || area->share) return {};
    ball->radius = ball->radius * 1.5 + 0.1;
  } else if (shot != nullptr && !shot->shape && s.arena.walls().empty() && !s.arena.ground() &&
             !homes(*shot)) {
    for (Attack* a : {&small, &large}) {
      auto& one = std::get<ShotDelivery>(a->delivery);
      one.pierce.bodies = 1000, one.sticks = false;
    }
    std::get<ShotDelivery>(large.delivery).radius += 0.25;
    // What is touched sooner may be nearer than the near limit, then.
    if (small.reach.near > 0) return {};
  } else {
    return {};
  }
  if (!check(s.arena, small, s.launch).empty() || !check(s.arena, large, s.launch).empty()) return {};
  const auto few = struck_by_itself(s, small), many = struck_by_itself(s, large);
  if (std::includes(many.begin(), many.end(), few.begin(), few.end())) return {};
  return "larger: strikes " + std::to_string(many.size()) + " and not all of the " +
         std::to_string(few.size()) + " that the smaller one does";
}

/// A ray from a to c strikes what it does from a to b, or where it meets nothing there, from b to c.
std::string split_ray(const Situation& s) {
  const auto* ray = std::get_if<RayDelivery>(&s.attack.delivery);
  // What strikes several goes on beyond the first; a thick one is swept as far as it goes.
  // Of several rounds each may end in another part.
  if (ray == nullptr || s.attack.burst || ray->radius > 0 || ray->pierce.bodies > 1 ||
      ray->pierce.power != std::vector<double>{})
    return {};
  Attack whole = s.attack, first = s.attack, second = s.attack;
  whole.then.clear(), first.then.clear(), second.then.clear();
  const double middle = whole.reach.near + 0.371 * std::min(whole.reach.far - whole.reach.near, 12.0);
  first.reach.far = second.reach.near = middle;
  const Outcome a = resolve_ruled(s.arena, first, s.launch), c = resolve_ruled(s.arena, whole, s.launch),
                b = resolve_ruled(s.arena, second, s.launch);
  const Outcome& part = a.ended == Ended::reach ? b : a;
  std::string bad = differ(s, c.strikes, s, part.strikes);
  if (c.ended != part.ended) bad += " ended otherwise";
  // How thick a wall is, is told along a ray of another length.
  for (std::size_t i = 0; i < c.strikes.size() && bad.empty(); ++i) {
    if (std::fabs(c.strikes[i].power.arriving() - part.strikes[i].power.arriving()) > 1e-12) bad = "power";
  }
  return bad.empty() ? bad : "split ray: " + bad;
}

/// What sees another is seen by it: asked of areas around points, past all walls that let nobody pass.
std::string sight_both_ways(const Situation& s) {
  const std::vector<WallId> walls = s.arena.walls();
  if (walls.empty() ||
      std::any_of(walls.begin(), walls.end(), [&](WallId w) { return s.arena.wall(w).one_way.has_value(); }))
    return {};
  Arena arena = s.arena;
  const BuildId point = *arena.add_build({.name = "point", .hitboxes = {{"all", Ball{{}, 0}}}});
  const FactionId faction = arena.body(s.bodies[0]).faction;
  std::vector<BodyId> points;
  for (const BodyId body : s.bodies) {
    const Vec3 at = s.arena.center(body);
    const auto id = arena.add_body(
        {.id = "at " + std::to_string(points.size()), .build = point, .faction = faction, .pose = {at, {}}});
    if (id) points.push_back(*id);
  }
  arena.update();
  std::vector<std::vector<bool>> sees;
  for (const BodyId from : points) {
    const Attack look{
        .delivery = AreaDelivery{.shape = BallArea{1000}, .around = AreaDelivery::Around::attacker},
        .who = {Relation::friendly, Relation::self},
        .sight = Passage::shots};
    const Outcome out =
        resolve_ruled(arena, look, {.by = from, .toward = AlongDirection{{1, 0, 0}}}, Detail::strikes);
    if (out.ended == Ended::refused) return "sight from both ends: refused " + out.problems[0].what;
    sees.emplace_back();
    for (const BodyId to : points)
      sees.back().push_back(
          std::any_of(out.strikes.begin(), out.strikes.end(), [&](const Strike& k) { return k.body == to; }));
  }
  for (std::size_t i = 0; i < points.size(); ++i) {
    for (std::size_t k = 0; k < i; ++k) {
      if (sees[i][k] != sees[k][i])
        return "sight from both ends: of bodies " + std::to_string(i) + " and " + std::to_string(k);
    }
  }
  return {};
}

/// What follows at the end of a ray or an area is what a launch from there does.
std::string from_its_end(const Situation& s, const Outcome& full) {
  // Nor does it follow at one time, or of one round.
  if (s.attack.burst || s.attack.windup || std::holds_alternative<ChainDelivery>(s.attack.delivery))
    return {};
  if (std::holds_alternative<ShotDelivery>(s.attack.delivery) || lasts(s.attack) || s.attack.then.empty() ||
      full.ended == Ended::out_of_reach || full.ended == Ended::muzzle_blocked ||
      full.ended == Ended::no_target)
    return {};
  Attack parent = s.attack;
  const auto at_end = std::find_if(parent.then.begin(), parent.then.end(),
                                   [](const Then& t) { return t.when == Then::When::end; });
  if (at_end == parent.then.end()) return {};
  if (at_end->delay_s > 0) return {};
  Attack child = at_end->attacks[0];
  child.then.clear(), child.windup.reset();
  if (std::holds_alternative<ChainDelivery>(child.delivery)) return {};
  // What is drawn is drawn anew, and nobody attacks there.
  without_effects(child), without_effects(parent);
  parent.then = {{.when = Then::When::end, .attacks = {child}}};
  // The attacker itself is one of its own from there; what is drawn by chance is drawn anew.
  for (const Relation r : {Relation::self, Relation::friendly}) {
    if (child.who.has(r) || child.stopped_by.has(r)) return {};
  }
  const auto has_own_way = [](const ShotDelivery& shot) {
    return draws(shot) || homes(shot) || shot.vulnerable > 0 ||
           std::holds_alternative<CurvePath>(shot.path) || std::holds_alternative<LobPath>(shot.path);
  };
  if (any_shot(child, has_own_way)) return {};
  auto* area = std::get_if<AreaDelivery>(&child.delivery);
  // Where it hangs, and where it goes along, hangs on that, too.
  if (lasts(child) && (area == nullptr || area->lasts->on != Hangs::place || area->lasts->velocity != Vec3{}))
    return {};
  if (area != nullptr) {
    if (child.sight && child.sight->from != Sight::From::middle) return {};
    // Where it points hangs on what it follows from.
    if (!std::holds_alternative<BallArea>(area->shape) || area->offset != Vec3{}) return {};
    const auto by_way = [](const OrderBy& by) {
      return std::holds_alternative<ByAngle>(by) || std::holds_alternative<ByChance>(by);
    };
    if (std::any_of(child.order.begin(), child.order.end(), by_way)) return {};
    area->around = AreaDelivery::Around::attacker;
  }
  const Vec3 way = full.end - full.origin;
  if (area == nullptr && !(length(way) > 1e-3)) return {};
  // Nobody's numbers are asked there.
  for (const Condition& c : child.conditions) {
    if (c.of == Condition::Of::attacker || (c.than && c.than->of == Condition::Of::attacker)) return {};
  }
  const FactionId faction = s.launch.from ? s.launch.from->faction : s.arena.body(s.launch.by).faction;
  const Launch launch{.toward = AlongDirection{area == nullptr ? normalized(way) : Vec3{1, 0, 0}},
                      .at_s = s.launch.at_s,
                      .from = FromPlace{{full.end, {}}, faction}};
  if (!check(s.arena, child, launch).empty()) return {};
  std::vector<Strike> followed;
  for (const Strike& k : resolve_ruled(s.arena, parent, s.launch, Detail::strikes).strikes) {
    if (k.stage == 1) followed.push_back(k), followed.back().stage = 0, followed.back().cause = 0;
  }
  const std::string bad =
      differ(s, followed, s, resolve_ruled(s.arena, child, launch, Detail::strikes).strikes, 1e-7, 1e-5);
  return bad.empty() ? bad : "from its end: " + bad;
}

}  // namespace

std::string differ_in_reasons(const Situation& a, const Outcome& of_a, const Situation& b,
                              const Outcome& of_b) {
  for (std::size_t i = 0; i < a.bodies.size(); ++i) {
    const auto verdict = [i](const Situation& s, const Outcome& o) -> const Verdict& {
      return *std::find_if(o.verdicts.begin(), o.verdicts.end(),
                           [&](const Verdict& v) { return v.body == s.bodies[i]; });
    };
    const Verdict &x = verdict(a, of_a), &y = verdict(b, of_b);
    // What an integrated way just misses, or just touches, is not known better.
    const auto barely = [](const Verdict& v) {
      return v.deciding.reason == Reason::missed && v.deciding.margin && *v.deciding.margin <= 1e-7;
    };
    if (x.struck == y.struck && (barely(x) || barely(y)) && any_shot(a.attack, bends)) continue;
    // Which of several shots was nearest is a tie, and with it what one was at that time.
    const bool sides = x.deciding.reason == Reason::relation || y.deciding.reason == Reason::relation;
    const auto several = [](const ShotDelivery& shot) { return shot.volley.count > 1; };
    if (x.struck == y.struck && sides && a.arena.changes(a.bodies[i]) && any_shot(a.attack, several))
      continue;
    if (x.struck != y.struck || x.deciding.reason != y.deciding.reason)
      return "body " + std::to_string(i) + ": " + std::string(name(x.deciding.reason)) + " | " +
             std::string(name(y.deciding.reason));
  }
  return {};
}

std::string check_outcome(const Situation& s, const Outcome& out) {
  if (out.ended == Ended::refused) return "refused: " + out.problems[0].where + " " + out.problems[0].what;
  if (!is_finite(out.origin) || !is_finite(out.end) || !std::isfinite(out.end_s))
    return "numbers: end or origin";
  for (const Strike& k : out.strikes) {
    if (!is_finite(k.point) || !is_finite(k.normal) || !std::isfinite(k.time_s) ||
        !std::isfinite(k.distance) || !std::isfinite(k.power.arriving()))
      return "numbers: strike of " + say(s, k);
    if (std::fabs(length(k.normal) - 1) > 1e-6) return "numbers: normal of " + say(s, k);
  }
  if (out.verdicts.size() != s.arena.bodies().size()) return "verdicts: not one for each body";
  for (const Verdict& v : out.verdicts) {
    const bool struck = std::any_of(out.strikes.begin(), out.strikes.end(),
                                    [&](const Strike& k) { return k.body == v.body; });
    const std::string& id = s.arena.body(v.body).id;
    if (struck != v.struck)
      return "verdicts: " + id + (struck ? " is struck, and told: " : " is not struck, and told to be ") +
             explain(v, s.arena);
    const bool numbered =
        v.strike > 0 && v.strike <= out.strikes.size() && out.strikes[v.strike - 1].body == v.body;
    if (v.struck != numbered) return "verdicts: " + id + " by strike " + std::to_string(v.strike);
    if (!struck && v.deciding.reason == Reason::none)
      return "verdicts: " + id + " is not struck, without a reason";
    if (!finite(v.deciding.measured) || !finite(v.deciding.limit) || !finite(v.deciding.margin))
      return "numbers: verdict of " + id;
    if (v.deciding.margin && *v.deciding.margin < 0) return "numbers: margin of " + id;
  }
  for (const Mark& mark : out.marks) {
    const auto* motion = std::get_if<MotionMark>(&mark);
    if (motion == nullptr) continue;
    // Who dashes leaves its track.
    const auto carried = [&](const Mark& m) {
      const auto* dash = std::get_if<DashMark>(&m);
      return dash != nullptr && dash->body == motion->body;
    };
    if (std::any_of(out.marks.begin(), out.marks.end(), carried)) continue;
    for (const Leg& leg : motion->legs) {
      const double middle = 0.5 * (leg.start + leg.end);
      const Pose there = leg_at(s.arena.body(motion->body).track, middle).at(middle), told = leg.at(middle);
      if (length(told.at - there.at) > 1e-9 || length(told.turn.x - there.turn.x) > 1e-9)
        return "motion: of " + s.arena.body(motion->body).id + " at " + std::to_string(middle);
    }
  }
  return {};
}

std::string relate(const Recipe& recipe, const Situation& s, const Outcome& full) {
  const bool drawn = draws_anything(s.attack), homing = any_shot(s.attack, homes),
             seeks_late =
                 any_shot(s.attack,
                          [](const ShotDelivery&shot) {
                            const auto* guided = std::get_if<GuidedPath>(&shot.path);
                            return guided != nullptr && (guided->delay_s > 0 || guided->climb > 0 ||
                                                         guided->lost == GuidedPath::Lost::pick_anew);
                          }),
             // What follows may start exactly at its target.
      homes_at_once = any_attack(s.attack,
                                 [&](const Attack&a) {
                                   const auto* shot = std::get_if<ShotDelivery>(&a.delivery);
                                   return &a != &s.attack && shot != nullptr && homes(*shot);
                                 }),
             shaped_leads = any_attack(s.attack, [](const Attack&a) {
               const auto* shot = std::get_if<ShotDelivery>(&a.delivery);
               return shot != nullptr && has_shape(*shot) &&
                      std::any_of(a.then.begin(), a.then.end(),
                                  [](const Then& t) { return t.when == Then::When::strike; });
             });
  const std::vector<WallId> walls = s.arena.walls();
  const bool one_way =
      std::any_of(walls.begin(), walls.end(), [&](WallId w) { return s.arena.wall(w).one_way.has_value(); });
  const bool tells_walls =
      any_attack(s.attack,
                 [](const Attack& a) {
                   return std::any_of(a.then.begin(), a.then.end(),
                                      [](const Then& t) { return t.when == Then::When::surface; });
                 }) ||
      any_shot(s.attack, [](const ShotDelivery& shot) { return shot.pierce.thickness > 0; });
  // What starts inside a wall is turned against its way there, whichever part it is in, and lets go of it
  // part by part.
  double widest = 0;
  (void)any_shot(s.attack, [&](const ShotDelivery& shot) {
    widest = std::max(widest, shot.radius);
    return false;
  });
  const auto in_wall = [&](const Vec3& p) {
    return std::any_of(walls.begin(), walls.end(), [&](WallId w) {
      const WallTable& table = s.arena.wall_table();
      const auto parts = table.parts_of(w);
      return std::any_of(parts.begin(), parts.end(), [&](WallPartId part) {
        const Shape there =
            table.moves(w) ? placed(table.shape(part), s.arena.wall(w).pose) : table.shape(part);
        return nearest(there, p).distance < widest + 1e-9;
      });
    });
  };
  const bool starts_in_wall = in_wall(full.origin) || in_wall(full.end) ||
                              std::any_of(full.strikes.begin(), full.strikes.end(),
                                          [&](const Strike& k) { return in_wall(k.point); });
  // A shape that turns at a wall looks another way at once, into the other half: that is another wall.
  const bool turns_about = any_shot(
      s.attack, [](const ShotDelivery& shot) { return shot.shape.has_value() && shot.ricochet.count > 0; });
  const bool whole_walls = !tells_walls && !one_way && !starts_in_wall && !turns_about;
  const bool fans = any_shot(s.attack, [](const ShotDelivery& shot) { return shot.volley.count > 1; });
  const auto any_area = [&](auto&& is) {
    return any_attack(s.attack, [&](const Attack& a) {
      const auto* area = std::get_if<AreaDelivery>(&a.delivery);
      return area != nullptr && is(*area);
    });
  };
  const auto is_endless = [](const Attack& a) {
    const auto* trap = std::get_if<TrapDelivery>(&a.delivery);
    const auto* area = std::get_if<AreaDelivery>(&a.delivery);
    const AreaShape* shape = trap != nullptr ? &trap->shape : area != nullptr ? &area->shape : nullptr;
    return shape != nullptr && std::holds_alternative<HalfSpaceArea>(*shape);
  };
  const bool endless = any_attack(s.attack, is_endless),
             by_compass =
                 any_area([](const AreaDelivery&a) { return a.along == AreaDelivery::Along::world; }),
             // Places that are counted lie otherwise in what is described otherwise.
      counted = any_attack(s.attack,
                           [](const Attack&a) {
                             const auto* area = std::get_if<AreaDelivery>(&a.delivery);
                             return (area != nullptr && area->share) ||
                                    (a.sight && a.sight->to == Sight::To::points);
                           }),
             by_chance = any_attack(s.attack, [](const Attack&a) {
               return std::any_of(a.order.begin(), a.order.end(),
                                  [](const OrderBy& by) { return std::holds_alternative<ByChance>(by); });
             });
  const struct {
    const char* what;
    bool asked;
    Carry carry;
    bool exact = false;
  } all[] = {
      {"a far body added", !endless, {.extra_body = true}, true},
      {"a far wall added", true, {.extra_wall = true}, true},
      {"turned", !by_compass, {.quarters = 1}},
      {"moved", true, {.move = {16, -32, 4}}},
      // Where two flat faces touch, what follows may start at any place of both.
      {"boxes as hulls", !shaped_leads && !counted, {.boxes_as_hulls = true}},
      // What homes flies straight on within a centimetre of its target, and what dashes is stopped half a
      // millimetre within a wall, whatever the scale.
      {"twice as large", !homing && !any_attack(s.attack, dashes), {.scale = 2}},
      // To what is straight behind, as after a delay, a climb or another target, one turns by the left.
      {"mirrored", !counted && !drawn && !fans && !seeks_late && !homes_at_once, {.mirrored = true}},
      {"walls doubled", whole_walls, {.doubled_walls = true}},
      {"walls cut in two", whole_walls, {.cut_walls = true}},
      {"more keys in tracks", true, {.extra_keys = true}},
      // At another time all numbers are rounded otherwise.
      {"later",
       !recipe.coincident,
       {.later = std::array{16.0, 1024.0, 65536.0, 1048576.0}[recipe.general[6] % 4]}},
  };
  for (const auto& r : all) {
    if (!r.asked) continue;
    if (auto bad = same(r.what, recipe, s, full, r.carry, r.exact); !bad.empty()) return bad;
  }
  // Chance goes by the order of creation, too.
  if (!drawn && !by_chance && !recipe.coincident && !s.limited()) {
    if (auto bad = reordered(recipe, s, full); !bad.empty()) return bad;
  }
  if (auto bad = larger(s); !bad.empty()) return bad;
  if (auto bad = split_ray(s); !bad.empty()) return bad;
  if (auto bad = sight_both_ways(s); !bad.empty()) return bad;
  return s.limited() ? std::string{} : from_its_end(s, full);
}

}  // namespace dardo::test
