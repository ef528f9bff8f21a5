// What is wrong with an attack and a launch in an arena.
#include <algorithm>
#include <utility>

#include "dardo/attack/rows.hpp"
#include "dardo/resolve/resolve.hpp"
#include "geometry/detail/check_rows.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/carriers/kinds.hpp"

namespace dardo {
namespace detail {
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
  } else if (const auto* choice = std::get_if<AtChoice>(&toward)) {
    Problems out;
    check_by_rows(out, {nullptr, "choice"}, *choice);
    for (Problem& p : out) p.where = where + p.where;
    return out;
  }
  return {};
}

/// What a launch says of aiming must mean something for its attack.
void check_aiming(Problems& out, const Attack& attack, const Launch& launch) {
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  const bool at_body = std::holds_alternative<AtBody>(launch.toward) ||
                       std::holds_alternative<AtChoice>(launch.toward);  // which will be one
  const bool at_point = at_body || std::holds_alternative<AtPlace>(launch.toward);
  const Law law = shot != nullptr ? law_of(shot->path) : Law{};
  if (launch.aim != Aiming::direct) {
    if (!law.may_be_led || !at_point || (launch.aim == Aiming::high && !law.may_be_lobbed)) {
      out.push_back({"/launch/aim", "means nothing for this attack and target",
                     "\"lead\" for a straight, falling or guided shot at a body or a place, \"high\" for a "
                     "falling one"});
    }
  }
  if (launch.leaving) {
    if (!is_finite(*launch.leaving) || *launch.leaving == Vec3{}) {
      out.push_back({"/launch/leaving", "has no direction", "three finite numbers, not all 0"});
    } else if (shot == nullptr || !law.may_be_led || launch.aim != Aiming::direct) {
      out.push_back({"/launch/leaving", "means nothing for this attack and aim",
                     "a straight, falling or guided shot that is aimed directly"});
    }
  }
  if (shot == nullptr || at_body) return;
  const bool near = std::any_of(attack.then.begin(), attack.then.end(),
                                [](const Then& t) { return t.when == Then::When::near; });
  if (law.follows_target || near) {
    out.push_back({"/launch/toward", "is no body, which the shot follows or comes near", "a body"});
  }
}

/// When it sets off, and from whom or where.
void check_start(Problems& out, const Arena& arena, const Launch& launch) {
  constexpr double kLatest = 1e9;
  if (!(launch.at_s >= 0 && launch.at_s <= kLatest))
    out.push_back({"/launch/at", "is not a time from 0 to 1e9", "seconds since the start"});
  if (launch.muzzle_at) {
    if (!is_finite(*launch.muzzle_at) || largest(*launch.muzzle_at) > kMaxCoordinate)
      out.push_back(
          {"/launch/muzzle_at", "is not finite, or beyond 1e7", "three finite coordinates in metres"});
    if (!launch.muzzle.empty())
      out.push_back({"/launch/muzzle_at", "is there beside a muzzle of the build", "one of the two"});
    if (launch.from)
      out.push_back({"/launch/muzzle_at", "is there, but it comes from a place already", "none"});
  }
  if (!launch.from) return;
  if (!launch.by.empty())
    out.push_back({"/launch/from", "is there beside a body that attacks", "one of the two"});
  for (const Problem& p : check(launch.from->pose)) out.push_back({"/launch/from" + p.where, p.what, p.fix});
  if (launch.from->faction.index >= arena.factions().size())
    out.push_back({"/launch/from/faction", "is not of this arena", "an id that add_faction gave"});
}

}  // namespace
}  // namespace detail

namespace {

/// Whether an attack, or one within it, means nothing without gravity.
bool needs_gravity(const Attack& attack) {
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  if (shot != nullptr && detail::law_of(shot->path).needs_gravity) return true;
  return std::any_of(attack.then.begin(), attack.then.end(), [](const Then& t) {
    return std::any_of(t.attacks.begin(), t.attacks.end(), needs_gravity);
  });
}

/// Where it does.
void tell_of_gravity(Problems& out, const std::string& where, const Attack& attack) {
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  if (shot != nullptr && detail::law_of(shot->path).needs_gravity)
    out.push_back({where + "/shot/lob/apex", "means nothing without gravity", "a flight time, or gravity"});
  for (std::size_t i = 0; i < attack.then.size(); ++i) {
    for (std::size_t k = 0; k < attack.then[i].attacks.size(); ++k)
      tell_of_gravity(out, where + "/then/" + std::to_string(i) + "/attacks/" + std::to_string(k),
                      attack.then[i].attacks[k]);
  }
}

/// Whether an attack, or one within it, is done by a body.
bool needs_attacker(const Attack& attack) {
  if (detail::needs_of(attack).attacker) return true;
  return std::any_of(attack.then.begin(), attack.then.end(), [](const Then& t) {
    return std::any_of(t.attacks.begin(), t.attacks.end(), needs_attacker);
  });
}

Problems check_at(const detail::Moment& moment, const Attack& attack, const Launch& launch) {
  Problems out;
  for (Problem& p : check(attack)) out.push_back({"/attack" + p.where, std::move(p.what), std::move(p.fix)});
  for (Problem& p : detail::check_launch(moment, attack, launch, out.empty())) out.push_back(std::move(p));
  return out;
}

}  // namespace

Problems check(const Arena& arena, const Attack& attack, const Launch& launch) {
  const detail::Motions motions(arena);
  return check_at({motions, launch.at_s}, attack, launch);
}

Problems detail::check_launch(const Moment& moment, const Attack& attack, const Launch& launch, bool sound,
                              bool though_fallen) {
  Problems out;
  const Arena& arena = moment.arena();
  if (sound && !(length(arena.gravity()) >= 1e-6) && needs_gravity(attack))
    tell_of_gravity(out, "/attack", attack);
  detail::check_start(out, arena, launch);
  if (!out.empty()) return out;
  if (launch.from && attack.ready)
    out.push_back(
        {"/launch/from", "is a place, but the attack asks for an attacker that is ready", "\"by\", a body"});
  if (launch.from && needs_attacker(attack))
    out.push_back({"/launch/from", "is a place, but who dashes is a body", "\"by\", a body"});
  if (launch.from) {
    if (!launch.muzzle.empty())
      out.push_back({"/launch/muzzle", "is there, but a place has no muzzles", "none"});
  } else if (!arena.has(launch.by)) {
    out.push_back({"/launch/by", "is not in the arena", "a body that was added and not removed"});
    return out;
  }
  if (!launch.from && arena.body(launch.by).fallen && !though_fallen) {
    out.push_back({"/launch/by", "has fallen and attacks nobody", "a body that stands"});
  }
  if (!launch.from && !launch.muzzle.empty() && !arena.muzzle(launch.by, launch.muzzle)) {
    out.push_back({"/launch/muzzle", "\"" + launch.muzzle + "\" is not a muzzle of the attacker's build",
                   "one of its muzzles, or none"});
  }
  Problems toward = check_toward(moment, launch.toward);
  const bool aimed = toward.empty();
  for (Problem& p : toward) out.push_back(std::move(p));
  if (!out.empty()) return out;

  const detail::Needs needs = detail::needs_of(attack);
  const bool chosen = std::holds_alternative<AtChoice>(launch.toward);
  if (needs.point && !chosen && !detail::aim_point(moment, launch))
    out.push_back(
        {"/launch/toward", "is no point, but the area is around the aim point", "a body or a place"});
  const bool now = !(launch.at_s > moment.time());
  if (needs.direction && aimed && now && !detail::has_direction(moment, launch))
    out.push_back(
        {"/launch/toward", "is the muzzle itself, which gives no direction", "a point apart from it"});
  if (needs.body && !chosen && !std::holds_alternative<AtBody>(launch.toward))
    out.push_back({"/launch/toward", "is no body, but it hangs on the one aimed at", "a body"});
  check_aiming(out, attack, launch);
  return out;
}

Problems check(const Arena& arena, const UnderWay& other) {
  Problems out = check(arena, other.attack, other.launch);
  constexpr double kLongest = 3600;
  if (!(other.since_s >= 0 && other.since_s <= kLongest))
    out.push_back({"/since", "is not a time from 0 to 3600", "seconds before this launch"});
  if (std::holds_alternative<AtChoice>(other.launch.toward))
    out.push_back({"/launch/toward", "is a choice, of a launch that has begun", "whom it was aimed at"});
  if (detail::goes(other.attack) == detail::Goes::at_once)
    out.push_back({"/launch", "is over in an instant, and so not under way for any time",
                   "a launch of a shot, or of what lasts"});
  return out;
}

}  // namespace dardo
