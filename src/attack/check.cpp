#include <algorithm>
#include <cmath>

#include "dardo/attack/rows.hpp"
#include "geometry/detail/check_rows.hpp"

namespace dardo {

Problems Rows<StraightPath>::across(const StraightPath& path) {
  if (path.top_speed >= path.speed) return {};
  return {{"/top_speed", "is below the speed", "a speed at or above it"}};
}

Problems Rows<FallingPath>::across(const FallingPath& path) {
  // With drag d at speed v it loses d v² each second: more than this no step of time is short enough for.
  constexpr double kMostBraking = 1e7;
  if (!(path.drag * path.speed * path.speed > kMostBraking)) return {};
  return {{"/drag", "brakes by more than 1e7 m/s² at that speed", "less drag, or less speed"}};
}

Problems Rows<CurvePath>::across(const CurvePath& path) {
  constexpr std::size_t kMost = 64;
  constexpr double kApart = 1e-6;
  Problems out;
  if (path.through.size() > kMost) out.push_back({"/through", "has too many points", "at most 64"});
  Vec3 before;
  for (std::size_t i = 0; i < path.through.size(); ++i) {
    if (!(length(path.through[i] - before) > kApart))
      out.push_back({"/through/" + std::to_string(i), "is where the one before is", "points apart"});
    before = path.through[i];
  }
  if (!path.through.empty() && !path.returns && (path.side != 0 || path.rise != 0))
    out.push_back({"/through", "is there beside \"side\" or \"rise\", which are of the way back",
                   "one of them; or \"returns\""});
  return out;
}

Problems Rows<LobPath>::across(const LobPath& path) {
  if (path.flight_time_s.has_value() != path.apex.has_value()) return {};
  return {{"", "says both or neither of its flight time and its apex", "exactly one of them"}};
}

Problems Rows<ShotDelivery>::across(const ShotDelivery& shot) {
  Problems out;
  if (shot.shape && shot.radius != 0) out.push_back({"/radius", "is there beside a shape", "one of them"});
  if (shot.sticks && std::isinf(shot.life_s))
    out.push_back({"/life", "has no end, of what sticks", "a time after which it is gone"});
  return out;
}

namespace {

Problems check_distances(double near, double far) {
  if (near <= far) return {};
  return {{"/near", "is beyond its \"far\"", "a distance up to it"}};
}
Problems check_heights(double low, double high) {
  if (low <= high) return {};
  return {{"/high", "is below \"low\"", "a height at or above it"}};
}
Problems check_both(double near, double far, double low, double high) {
  Problems out = check_distances(near, far);
  for (Problem& p : check_heights(low, high)) out.push_back(std::move(p));
  return out;
}

}  // namespace

Problems Rows<RingArea>::across(const RingArea& r) { return check_both(r.near, r.far, r.low, r.high); }
Problems Rows<SectorArea>::across(const SectorArea& s) { return check_both(s.near, s.far, s.low, s.high); }
Problems Rows<ShellArea>::across(const ShellArea& s) { return check_distances(s.near, s.far); }
Problems Rows<ConeArea>::across(const ConeArea& c) { return check_distances(c.near, c.far); }
Problems Rows<PrismArea>::across(const PrismArea& p) {
  std::vector<Vec3> corners;
  for (const planar::Vec2& c : p.polygon) corners.push_back({c.x, c.y, 0});
  const auto made = prism(corners, p.low, p.high);
  return made ? Problems{} : made.error();
}
Problems Rows<AreaDelivery>::across(const AreaDelivery& area) {
  if (!area.share || area.inside == AreaDelivery::Inside::touches) return {};
  return {{"/inside", "is there beside a \"share\"", "one of them"}};
}
Problems Rows<Condition>::across(const Condition& c) {
  Problems out;
  if (c.number.empty()) out.push_back({"/number", "is empty", "the name of a number"});
  if (c.than && c.than->number.empty()) out.push_back({"/than/number", "is empty", "the name of a number"});
  if (c.than && c.value != 0) out.push_back({"/than", "is there beside a \"value\"", "one of them"});
  return out;
}
Problems Rows<RayDelivery>::across(const RayDelivery& ray) {
  Problems out;
  if (ray.pierce.speed_loss != 0)
    out.push_back({"/pierce/speed_loss", "means nothing for a ray, which has no speed", "\"power_loss\""});
  if (ray.ricochet.least_speed != 0)
    out.push_back({"/ricochet/least_speed", "means nothing for a ray, which has no speed", "its \"reach\""});
  return out;
}
Problems Rows<Sight>::across(const Sight& sight) {
  Problems out;
  if (sight.through == Passage::feet)
    out.push_back({"/through", "is \"feet\"", "one of sight, shots, blasts"});
  if (sight.blocked_by.has(Relation::self))
    out.push_back({"/blocked_by", "names \"self\", who never stands in its own way", "foe, friend, neutral"});
  return out;
}

Problems Rows<Reach>::across(const Reach& reach) {
  if (reach.near <= reach.far) return {};
  return {{"", "has its near limit beyond its far one", "[near, far] with near <= far"}};
}

Problems Rows<Then>::across(const Then& then) {
  Problems out;
  if (then.when == Then::When::near && !(then.distance > 0))
    out.push_back({"", "has no distance", "a \"distance\" above 0 with \"near\""});
  if (then.when != Then::When::near && then.distance != 0)
    out.push_back({"/distance", "means nothing here", "a \"distance\" with \"near\", and only there"});
  if (then.attacks.empty()) out.push_back({"/attacks", "is empty", "at least one attack"});
  return out;
}

namespace {

bool has_apex(const ShotPath& path) {
  return std::holds_alternative<FallingPath>(path) || std::holds_alternative<LobPath>(path);
}

}  // namespace

Problems Rows<Attack>::across(const Attack& attack) {
  Problems out;
  const auto* area = std::get_if<AreaDelivery>(&attack.delivery);
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  if (shot != nullptr && std::isinf(shot->life_s) && std::isinf(attack.reach.far))
    out.push_back({"/reach", "has no end, nor has its \"life\"", "an end of one of them"});
  if (attack.who == Relations{})
    out.push_back({"/who", "is empty", "at least one of foe, friend, neutral, self"});
  if (area != nullptr && attack.stopped_by != Relations{})
    out.push_back({"/stopped_by", "means nothing for an area", "no \"stopped_by\""});
  const auto* guided = shot != nullptr ? std::get_if<GuidedPath>(&shot->path) : nullptr;
  if (attack.sight && area == nullptr && !(guided != nullptr && guided->needs_sight))
    out.push_back({"/sight", "means nothing for a ray or a shot, which walls stop",
                   "no \"sight\"; or a guided shot that \"needs_sight\""});
  if (attack.sight && area == nullptr && attack.sight->scales_power)
    out.push_back({"/sight/scales_power", "means nothing for a shot", "no \"scales_power\""});
  if (attack.cap && area == nullptr) {
    out.push_back({"/cap", shot != nullptr ? "means nothing for a shot" : "means nothing for a ray",
                   "\"bodies\" in its \"pierce\""});
  }
  const bool picks = guided != nullptr && guided->lost == GuidedPath::Lost::pick_anew;
  if (!attack.order.empty() && !(area != nullptr && attack.cap) && !picks)
    out.push_back({"/order", "chooses nothing here",
                   "no \"order\"; or an area with a \"cap\", or a guided shot "
                   "whose \"lost\" is \"pick_anew\""});
  for (std::size_t i = 0; i < attack.then.size(); ++i) {
    const Then::When when = attack.then[i].when;
    const std::string where = "/then/" + std::to_string(i) + "/when";
    const bool of_shots = when == Then::When::apex || when == Then::When::near;
    if ((of_shots && shot == nullptr) || (when == Then::When::surface && area != nullptr)) {
      out.push_back({where, of_shots ? "waits for what only a shot does" : "means nothing for an area",
                     "strike or end"});
    } else if (when == Then::When::apex && !has_apex(shot->path)) {
      out.push_back(
          {where, "waits for the apex of a path that has none", "\"apex\" with a falling path or a lob"});
    }
  }
  return out;
}

namespace {

/// Where attacks within attacks go deeper than they may; nothing is looked at beyond.
void check_depth(Problems& out, const std::string& where, const Attack& attack, int depth) {
  for (std::size_t i = 0; i < attack.then.size(); ++i) {
    const std::string then = where + "/then/" + std::to_string(i);
    if (depth >= kMostNesting) {
      out.push_back(
          {then, "nests deeper than " + std::to_string(kMostNesting), "fewer attacks within attacks"});
      continue;
    }
    for (std::size_t k = 0; k < attack.then[i].attacks.size(); ++k)
      check_depth(out, then + "/attacks/" + std::to_string(k), attack.then[i].attacks[k], depth + 1);
  }
}

}  // namespace

Problems check(const Attack& attack) {
  Problems out;
  check_depth(out, "", attack, 1);
  if (out.empty()) detail::check_by_rows(out, {}, attack);
  return out;
}

}  // namespace dardo
