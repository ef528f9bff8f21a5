#include "dardo/resolve/resolve.hpp"

#include <algorithm>
#include <cassert>
#include <limits>
#include <memory>
#include <numbers>
#include <utility>

#include "geometry/detail/elementary.hpp"
#include "resolve/detail/aim_point.hpp"
#include "resolve/detail/judge.hpp"
#include "resolve/detail/shot.hpp"

namespace dardo {
namespace detail {

std::optional<std::uint32_t> find_zone(const Arena& arena, BodyId body, std::string_view zone) {
  const auto& hitboxes = arena.build(arena.body(body).build).hitboxes;
  for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
    if (hitboxes[i].zone == zone) return i;
  }
  return std::nullopt;
}

/// A muzzle may be called "eyes", too: then it is meant.
std::optional<Vec3> find_point(const Moment& moment, BodyId body, std::string_view name) {
  if (const auto muzzle = moment.muzzle(body, name)) return muzzle;
  return name == "eyes" ? std::optional(moment.eyes(body)) : std::nullopt;
}

std::optional<Vec3> aim_point(const Moment& moment, const Launch& launch) {
  if (const auto* place = std::get_if<AtPlace>(&launch.toward)) return place->place;
  if (const auto* at = std::get_if<AtBody>(&launch.toward)) {
    if (!at->point.empty()) return find_point(moment, at->body, at->point);
    if (at->zone.empty()) return moment.center(at->body);
    return moment.body(at->body).center(*find_zone(moment.arena(), at->body, at->zone));
  }
  return std::nullopt;
}

Vec3 aim_direction(const Moment& moment, const Launch& launch, const Vec3& origin) {
  Vec3 way;
  if (const auto* along = std::get_if<AlongDirection>(&launch.toward)) {
    way = along->direction;
  } else if (const auto point = aim_point(moment, launch)) {
    way = *point - origin;
  } else {
    way = moment.pose(launch.by).turn.x;
  }
  const double size = largest(way);
  return size > 0 ? normalized(way / size) : Vec3{};  // scaled first: no overflow, whatever its length
}

Vec3 heading_of(const Moment& moment, const Launch& launch) {
  const Vec3 way = aim_direction(moment, launch, muzzle_point(moment, launch));
  return way == Vec3{} ? moment.pose(launch.by).turn.x : way;
}

Vec3 muzzle_point(const Moment& moment, const Launch& launch) {
  const auto& muzzles = moment.arena().build(moment.arena().body(launch.by).build).muzzles;
  if (launch.muzzle.empty() && muzzles.empty()) return moment.center(launch.by);
  return *moment.muzzle(launch.by, launch.muzzle.empty() ? muzzles.front().name : launch.muzzle);
}

namespace {

Problems check_toward(const Moment& moment, const Toward& toward) {
  const Arena& arena = moment.arena();
  const std::string where = "/launch/toward";
  if (const auto* at = std::get_if<AtBody>(&toward)) {
    if (!arena.has(at->body))
      return {{where, "is not in the arena", "a body that was added and not removed"}};
    if (!at->zone.empty() && !find_zone(arena, at->body, at->zone)) {
      return {
          {where + "/zone", "\"" + at->zone + "\" is not a zone of that body", "one of its hitboxes' zones"}};
    }
    if (!at->point.empty() && !at->zone.empty()) {
      return {{where, "has a zone and a point", "one of them"}};
    }
    if (!at->point.empty() && !find_point(moment, at->body, at->point)) {
      return {{where + "/point", "\"" + at->point + "\" is not a point of that body",
               "\"eyes\", or one of its muzzles"}};
    }
  } else if (const auto* place = std::get_if<AtPlace>(&toward)) {
    if (!is_finite(place->place) || largest(place->place) > kMaxCoordinate) {
      return {{where + "/place", "is not finite, or beyond 1e7", "three finite coordinates in metres"}};
    }
  } else if (const auto* along = std::get_if<AlongDirection>(&toward)) {
    if (!is_finite(along->direction) || along->direction == Vec3{}) {
      return {{where + "/direction", "has no direction", "three finite numbers, not all 0"}};
    }
  }
  return {};
}

/// What a launch says of aiming must mean something for its attack.
void check_aiming(Problems& out, const Attack& attack, const Launch& launch) {
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  const bool at_body = std::holds_alternative<AtBody>(launch.toward);
  const bool at_point = at_body || std::holds_alternative<AtPlace>(launch.toward);
  if (launch.aim != Aiming::direct) {
    const bool lobbed = shot != nullptr && std::holds_alternative<FallingPath>(shot->path);
    const bool led = lobbed || (shot != nullptr && (std::holds_alternative<StraightPath>(shot->path) ||
                                                    std::holds_alternative<GuidedPath>(shot->path)));
    if (!led || !at_point || (launch.aim == Aiming::high && !lobbed)) {
      out.push_back({"/launch/aim", "means nothing for this attack and target",
                     "\"lead\" for a straight, falling or guided shot at a body or a place, \"high\" for a "
                     "falling one"});
    }
  }
  if (shot == nullptr || at_body) return;
  const auto* lob = std::get_if<LobPath>(&shot->path);
  const bool near = std::any_of(attack.then.begin(), attack.then.end(),
                                [](const Then& t) { return t.when == Then::When::near; });
  if (std::holds_alternative<GuidedPath>(shot->path) || (lob != nullptr && lob->follows) || near) {
    out.push_back({"/launch/toward", "is no body, which the shot follows or comes near", "a body"});
  }
}

/// A verdict for every body.
template <class Run>
void judge_all(const Attempt& attempt, const Run& run, const WholeRun* whole, Detail wanted,
               Outcome& outcome) {
  const std::vector<BodyId> bodies = attempt.arena.bodies();
  for (std::size_t i = 0; i < bodies.size(); ++i) {
    Verdict v = judge(attempt, run, outcome, bodies[i], wanted);
    if (!v.struck && v.deciding.reason == Reason::none && !outcome.downed.empty()) {
      // A ray that has ended in a shot: nothing else keeps it from that body.
      const double way = run.reach(bodies[i]).measured.value_or(0),
                   end = length(outcome.end - outcome.origin);
      v.deciding = {.gate = Gate::sight, .reason = Reason::shielded, .measured = way, .limit = end};
      v.deciding.margin = std::fabs(way - end);
      v.deciding.by.body = outcome.downed.back().by, v.deciding.by.shot = true, v.deciding.at = outcome.end;
    }
    if (whole != nullptr) whole->add_what_followed(i, v);
    outcome.verdicts.push_back(std::move(v));
  }
}

/// The moment at which a launch begins: a machine with it, and with the others on their ways.
class Opening {
 public:
  Opening(const Attempt& attempt, const ResolveOptions& options, bool keep_ways, Outcome& outcome)
      : machine(attempt.arena), whole(outcome) {
    const std::span<const UnderWay> others = options.under_way;
    machine.keep_ways(keep_ways, options.detail);
    machine.set_limits(options.limits.value_or(Limits{}));
    plans.push_back(std::make_shared<const Plan>(attempt.attack));
    launch = machine.add(plans[0], attempt.launch, 0);
    std::vector<std::size_t> order(others.size());
    for (std::size_t i = 0; i < others.size(); ++i) {
      order[i] = i;
      plans.push_back(std::make_shared<const Plan>(others[i].attack));
      machine.add(plans.back(), others[i].launch, static_cast<std::uint32_t>(i + 1));
    }
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      return others[a].since_s != others[b].since_s ? others[a].since_s > others[b].since_s : a < b;
    });
    for (const std::size_t i : order) {
      machine.advance(-others[i].since_s, whole);
      machine.set_off(static_cast<std::uint32_t>(i + 1), -others[i].since_s, whole);
    }
    if (!others.empty()) machine.advance(0, whole);
  }

  std::vector<std::shared_ptr<const Plan>> plans;
  Machine machine;
  WholeRun whole;
  std::uint32_t launch = 0;
};

template <class Run>
void carry_out_instant(const Attempt& attempt, const Moment& moment, const ResolveOptions& options,
                       Outcome& outcome) {
  const Detail wanted = options.detail;
  constexpr double kEver = std::numeric_limits<double>::infinity();
  Run run(attempt, moment, outcome);
  run.strike(outcome);
  if (wanted != Detail::strikes) run.draw(outcome);
  std::optional<Opening> opening;
  if (!attempt.attack.then.empty() || !options.under_way.empty()) {
    opening.emplace(attempt, options, wanted != Detail::strikes, outcome);
    Machine& machine = opening->machine;
    WholeRun& whole = opening->whole;
    const std::uint32_t launch = opening->launch;
    machine.instant_downs(launch, 0, 0, 0, outcome, whole);
    const Outcome instant = outcome;  // what follows adds to it
    machine.launched(launch).carriers = 1;
    machine.launched(launch).strikes = static_cast<std::uint32_t>(instant.strikes.size());
    machine.follow_instant(launch, 0, 0, instant, heading_of(moment, attempt.launch), 1, {}, whole);
    machine.advance(kEver, whole);
    if (wanted != Detail::strikes) {
      whole.draw(opening->plans);
      whole.judge_shots(attempt, *opening->plans[0], machine.motions(), wanted);
    }
  }
  if (wanted != Detail::strikes)
    judge_all(attempt, run, opening ? &opening->whole : nullptr, wanted, outcome);
}

void carry_out_shot(const Attempt& attempt, const ResolveOptions& options, Outcome& outcome) {
  const Detail wanted = options.detail;
  Opening opening(attempt, options, true, outcome);
  Machine& machine = opening.machine;
  WholeRun& whole = opening.whole;
  machine.set_off(opening.launch, 0, whole);
  machine.advance(std::numeric_limits<double>::infinity(), whole);
  const Flown& first = whole.ways().front().end;
  outcome.origin = first.course.origin;
  outcome.ended = first.ended, outcome.end = first.place, outcome.end_s = first.time,
  outcome.stopped_by = first.by;
  if (wanted == Detail::strikes) return;
  whole.draw(opening.plans);
  whole.judge_shots(attempt, *opening.plans[0], machine.motions(), wanted);
  const auto stages = whole.stages();
  const ShotJudge judged(attempt, machine.motions(), stages.at(0));
  judge_all(attempt, judged, &whole, wanted, outcome);
}

}  // namespace
}  // namespace detail

namespace {

/// What an attack, or one within it, means nothing without in this arena.
void check_in_arena(Problems& out, const std::string& where, const Arena& arena, const Attack& attack) {
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  const auto* lob = shot != nullptr ? std::get_if<LobPath>(&shot->path) : nullptr;
  if (lob != nullptr && lob->apex && !(length(arena.gravity()) >= 1e-6))
    out.push_back({where + "/shot/lob/apex", "means nothing without gravity", "a flight time, or gravity"});
  for (std::size_t i = 0; i < attack.then.size(); ++i) {
    for (std::size_t k = 0; k < attack.then[i].attacks.size(); ++k)
      check_in_arena(out, where + "/then/" + std::to_string(i) + "/attacks/" + std::to_string(k), arena,
                     attack.then[i].attacks[k]);
  }
}

}  // namespace

namespace {

Problems check_at(const detail::Moment& moment, const Attack& attack, const Launch& launch) {
  Problems out;
  for (Problem& p : check(attack)) out.push_back({"/attack" + p.where, std::move(p.what), std::move(p.fix)});
  for (Problem& p : detail::check_launch(moment, attack, launch, out.empty())) out.push_back(std::move(p));
  return out;
}

}  // namespace

Problems check(const Arena& arena, const Attack& attack, const Launch& launch) {
  const detail::Motions motions(arena);
  return check_at({motions, 0}, attack, launch);
}

Problems detail::check_launch(const Moment& moment, const Attack& attack, const Launch& launch, bool sound) {
  Problems out;
  const Arena& arena = moment.arena();
  if (sound) check_in_arena(out, "/attack", arena, attack);
  if (!arena.has(launch.by)) {
    out.push_back({"/launch/by", "is not in the arena", "a body that was added and not removed"});
    return out;
  }
  if (arena.body(launch.by).fallen) {
    out.push_back({"/launch/by", "has fallen and attacks nobody", "a body that stands"});
  }
  if (!launch.muzzle.empty() && !arena.muzzle(launch.by, launch.muzzle)) {
    out.push_back({"/launch/muzzle", "\"" + launch.muzzle + "\" is not a muzzle of the attacker's build",
                   "one of its muzzles, or none"});
  }
  Problems toward = detail::check_toward(moment, launch.toward);
  const bool aimed = toward.empty();
  for (Problem& p : toward) out.push_back(std::move(p));
  if (!out.empty()) return out;

  if (const auto* area = std::get_if<AreaDelivery>(&attack.delivery)) {
    if (area->around == AreaDelivery::Around::aim && !detail::aim_point(moment, launch)) {
      out.push_back(
          {"/launch/toward", "is no point, but the area is around the aim point", "a body or a place"});
    }
  } else if (aimed) {
    if (detail::aim_direction(moment, launch, detail::muzzle_point(moment, launch)) == Vec3{}) {
      out.push_back(
          {"/launch/toward", "is the muzzle itself, which gives no direction", "a point apart from it"});
    }
  }
  detail::check_aiming(out, attack, launch);
  return out;
}

Problems check(const Arena& arena, const UnderWay& other) {
  Problems out = check(arena, other.attack, other.launch);
  constexpr double kLongest = 3600;
  if (!(other.since_s >= 0 && other.since_s <= kLongest))
    out.push_back({"/since", "is not a time from 0 to 3600", "seconds before this launch"});
  if (!std::holds_alternative<ShotDelivery>(other.attack.delivery))
    out.push_back({"/launch", "is no shot, and so not under way for any time", "a launch of a shot"});
  return out;
}

Outcome resolve(const Arena& arena, const Attack& attack, const Launch& launch,
                const ResolveOptions& options) {
  const std::span<const UnderWay> under_way = options.under_way;
  Outcome out;
  out.launch = launch.id;
  out.attack = attack.name;
  out.by = launch.by;
  const detail::Motions motions(arena);
  const detail::Moment moment(motions, 0);
  out.problems = check_at(moment, attack, launch);
  for (std::size_t i = 0; i < under_way.size(); ++i) {
    for (Problem& p : check(arena, under_way[i])) {
      out.problems.push_back(
          {"/under_way/" + std::to_string(i) + p.where, std::move(p.what), std::move(p.fix)});
    }
  }
  if (options.limits) {
    for (Problem& p : check(*options.limits))
      out.problems.push_back({"/limits" + p.where, std::move(p.what), std::move(p.fix)});
  }
  if (!out.problems.empty()) {
    out.ended = Ended::refused;
    return out;
  }
  const detail::Attempt attempt{arena, attack, launch, arena.body(launch.by).faction};
  if (attack.facing_within) {
    const Vec3 way = detail::aim_direction(moment, launch, detail::muzzle_point(moment, launch)),
               facing = moment.pose(launch.by).turn.x;
    const double off = detail::arc_tangent(length(cross(facing, way)), dot(facing, way)),
                 degree = 180 / std::numbers::pi;
    if (off > *attack.facing_within) {
      out.warnings.push_back("the attacker faces " + std::to_string(std::lround(off * degree)) +
                             "° away from its aim, more than " +
                             std::to_string(std::lround(*attack.facing_within * degree)) + "°");
    }
  }
  if (std::holds_alternative<RayDelivery>(attack.delivery)) {
    detail::carry_out_instant<detail::RayRun>(attempt, moment, options, out);
  } else if (std::holds_alternative<AreaDelivery>(attack.delivery)) {
    detail::carry_out_instant<detail::AreaRun>(attempt, moment, options, out);
  } else {
    detail::carry_out_shot(attempt, options, out);
  }
  return out;
}

}  // namespace dardo
