#include "dardo/resolve/resolve.hpp"

#include <algorithm>
#include <limits>
#include <memory>
#include <numbers>
#include <utility>

#include "geometry/detail/elementary.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/carriers/kinds.hpp"
#include "resolve/rules/judge.hpp"
#include "resolve/whole.hpp"

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
  const Law law = shot != nullptr ? law_of(shot->path) : Law{};
  if (launch.aim != Aiming::direct) {
    if (!law.may_be_led || !at_point || (launch.aim == Aiming::high && !law.may_be_lobbed)) {
      out.push_back({"/launch/aim", "means nothing for this attack and target",
                     "\"lead\" for a straight, falling or guided shot at a body or a place, \"high\" for a "
                     "falling one"});
    }
  }
  if (shot == nullptr || at_body) return;
  const bool near = std::any_of(attack.then.begin(), attack.then.end(),
                                [](const Then& t) { return t.when == Then::When::near; });
  if (law.follows_target || near) {
    out.push_back({"/launch/toward", "is no body, which the shot follows or comes near", "a body"});
  }
}

/// What whole resolutions of one thread use again, one after the other: a machine with room in its lists.
class Workspace {
 public:
  explicit Workspace(const Arena& arena) : machine(arena) {}

  /// The machine stands where the launch begins: the launch has the first place in its table, and the others
  /// are on their ways.
  void open(const Attempt& attempt, const ResolveOptions& options, bool keep_ways, WholeRun& whole) {
    const std::span<const UnderWay> others = options.under_way;
    machine.begin(attempt.arena);
    machine.keep_ways(keep_ways, options.detail);
    machine.set_limits(options.limits.value_or(Limits{}));
    while (plans.size() < others.size() + 1)
      plans.push_back(std::make_shared<Plan>(Plan::Borrowed{attempt.attack}));
    plans[0]->borrow({attempt.attack});
    machine.add(plans[0], attempt.launch, 0);
    if (others.empty()) return;
    std::vector<std::size_t> order(others.size());
    for (std::size_t i = 0; i < others.size(); ++i) {
      order[i] = i;
      plans[i + 1]->borrow({others[i].attack});
      machine.add(plans[i + 1], others[i].launch, static_cast<std::uint32_t>(i + 1));
    }
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
      return others[a].since_s != others[b].since_s ? others[a].since_s > others[b].since_s : a < b;
    });
    for (const std::size_t i : order) {
      machine.advance(-others[i].since_s, whole);
      machine.set_off(static_cast<std::uint32_t>(i + 1), -others[i].since_s, whole);
    }
    machine.advance(0, whole);
  }

  Machine machine;
  std::vector<std::shared_ptr<Plan>> plans;
};

/// The thread's own, for as long as nothing else of the thread has it.
class Borrowing {
 public:
  explicit Borrowing(const Arena& arena) : workspace_(std::move(spare())) {
    if (workspace_ == nullptr) workspace_ = std::make_unique<Workspace>(arena);
  }
  ~Borrowing() { spare() = std::move(workspace_); }
  Borrowing(const Borrowing&) = delete;
  Borrowing& operator=(const Borrowing&) = delete;
  Workspace& operator*() const { return *workspace_; }

 private:
  static std::unique_ptr<Workspace>& spare() {
    thread_local std::unique_ptr<Workspace> one;
    return one;
  }
  std::unique_ptr<Workspace> workspace_;
};

void carry_out(const Attempt& attempt, const ResolveOptions& options, Outcome& outcome) {
  const Detail wanted = options.detail;
  const bool shot = flies(attempt.attack);
  const Borrowing workspace(attempt.arena);
  auto& [machine, plans] = *workspace;
  WholeRun whole(outcome);
  (*workspace).open(attempt, options, shot || wanted != Detail::strikes, whole);
  machine.set_off(0, 0, whole);
  machine.advance(std::numeric_limits<double>::infinity(), whole);
  if (shot) {
    const Flown& first = whole.ways().front().end;
    outcome.origin = first.course.origin;
    outcome.ended = first.ended, outcome.end = first.place, outcome.end_s = first.time,
    outcome.stopped_by = first.by;
  }
  if (wanted == Detail::strikes) return;
  whole.draw(plans);
  whole.judge(attempt, *plans[0], machine.motions(), wanted);
}

}  // namespace
}  // namespace detail

namespace {

/// What an attack, or one within it, means nothing without in this arena.
void check_in_arena(Problems& out, const std::string& where, const Arena& arena, const Attack& attack) {
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  if (shot != nullptr && detail::law_of(shot->path).needs_gravity && !(length(arena.gravity()) >= 1e-6))
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

  const detail::Needs needs = detail::needs_of(attack);
  if (needs.point && !detail::aim_point(moment, launch))
    out.push_back(
        {"/launch/toward", "is no point, but the area is around the aim point", "a body or a place"});
  if (needs.direction && aimed &&
      detail::aim_direction(moment, launch, detail::muzzle_point(moment, launch)) == Vec3{})
    out.push_back(
        {"/launch/toward", "is the muzzle itself, which gives no direction", "a point apart from it"});
  detail::check_aiming(out, attack, launch);
  return out;
}

Problems check(const Arena& arena, const UnderWay& other) {
  Problems out = check(arena, other.attack, other.launch);
  constexpr double kLongest = 3600;
  if (!(other.since_s >= 0 && other.since_s <= kLongest))
    out.push_back({"/since", "is not a time from 0 to 3600", "seconds before this launch"});
  if (!detail::flies(other.attack))
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
  detail::carry_out(attempt, options, out);
  return out;
}

}  // namespace dardo
