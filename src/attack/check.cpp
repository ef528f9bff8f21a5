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
Problems Rows<HullArea>::across(const HullArea& hull) {
  if (!hull.points.empty()) return {};
  return {{"/points", "is empty", "at least one point"}};
}

namespace {

bool same_way(const planar::Vec2& a, const planar::Vec2& b) {
  const double size = std::sqrt((a.x * a.x + a.y * a.y) * (b.x * b.x + b.y * b.y));
  return std::fabs(a.x * b.y - a.y * b.x) <= 1e-9 * size && a.x * b.x + a.y * b.y > 0;
}
/// A prism grows as one whose sides keep their directions: so it stays convex.
bool sides_match(const PrismArea& a, const PrismArea& b) {
  const std::size_t n = a.polygon.size();
  if (b.polygon.size() != n) return false;
  const auto side = [n](const PrismArea& p, std::size_t i) {
    const planar::Vec2 &from = p.polygon[i], &to = p.polygon[(i + 1) % n];
    return planar::Vec2{to.x - from.x, to.y - from.y};
  };
  for (std::size_t i = 0; i < n; ++i) {
    if (!same_way(side(a, i), side(b, i))) return false;
  }
  return true;
}

void check_grows(Problems& out, const AreaDelivery& area) {
  constexpr std::size_t kMost = 64;
  const Lasts& lasts = *area.lasts;
  const AreaShape* before = &area.shape;
  double time = 0;
  if (lasts.grows.size() > kMost) out.push_back({"/lasts/grows", "has too many times", "at most 64"});
  for (std::size_t i = 0; i < lasts.grows.size(); ++i) {
    const GrownArea& g = lasts.grows[i];
    const std::string where = "/lasts/grows/" + std::to_string(i);
    if (!(g.time_s > time)) out.push_back({where + "/t", "is not after the one before", "times that rise"});
    time = g.time_s;
    const auto* prism = std::get_if<PrismArea>(&g.shape);
    const auto* hull = std::get_if<HullArea>(&g.shape);
    const bool of_a_kind = g.shape.index() == area.shape.index();
    if (!of_a_kind) {
      out.push_back({where, "is of another kind than the area", "the same kind"});
    } else if (prism != nullptr && !sides_match(std::get<PrismArea>(*before), *prism)) {
      out.push_back({where, "has sides that go other ways than before", "the same sides, farther out"});
    } else if (hull != nullptr && hull->points.size() != std::get<HullArea>(*before).points.size()) {
      out.push_back({where, "has not as many points as before", "as many points"});
    }
    if (of_a_kind) before = &g.shape;
  }
  if (!lasts.grows.empty() && std::holds_alternative<HalfSpaceArea>(area.shape))
    out.push_back({"/lasts/grows", "means nothing for a half-space", "another shape"});
  if (!lasts.grows.empty() && lasts.growth != 0)
    out.push_back({"/lasts/grows", "is there beside a \"growth\"", "one of them"});
  const bool grows_by_itself = !std::holds_alternative<PrismArea>(area.shape) &&
                               !std::holds_alternative<HullArea>(area.shape) &&
                               !std::holds_alternative<HalfSpaceArea>(area.shape);
  if (lasts.growth != 0 && !grows_by_itself)
    out.push_back({"/lasts/growth", "means nothing for this shape", "\"grows\", or another shape"});
}

}  // namespace

Problems Rows<AreaDelivery>::across(const AreaDelivery& area) {
  Problems out;
  if (area.share && area.inside != AreaDelivery::Inside::touches)
    out.push_back({"/inside", "is there beside a \"share\"", "one of them"});
  if (!area.lasts) return out;
  if (area.share || area.inside == AreaDelivery::Inside::whole)
    out.push_back({area.share ? "/share" : "/inside", "means nothing for what lasts",
                   "\"touches\" or \"centre\": it is entered at one time"});
  check_grows(out, area);
  return out;
}
Problems Rows<SwingDelivery>::across(const SwingDelivery& swing) {
  constexpr std::size_t kMost = 256;
  Problems out;
  if (swing.keys.empty()) return {{"/keys", "is empty", "at least one key"}};
  if (swing.keys.size() > kMost) out.push_back({"/keys", "has too many", "at most 256"});
  for (std::size_t i = 1; i < swing.keys.size(); ++i) {
    if (!(swing.keys[i].time_s > swing.keys[i - 1].time_s))
      out.push_back({"/keys/" + std::to_string(i) + "/t", "is not after the one before", "times that rise"});
  }
  if (!is_finite(swing.axis) || !(length(swing.axis) > 0))
    out.push_back({"/axis", "has no direction", "three finite numbers, not all 0"});
  if (!(swing.from_s <= swing.to_s)) out.push_back({"/to", "is before \"from\"", "a time at or after it"});
  if (!(swing.from_s <= swing.keys.back().time_s))
    out.push_back({"/from", "is after its last key", "a time before it"});
  if (!(swing.to_s >= swing.keys.front().time_s))
    out.push_back({"/to", "is before its first key", "a time after it"});
  if (std::holds_alternative<HalfSpaceArea>(swing.blade))
    out.push_back({"/half_space", "is no blade", "a shape with an end"});
  return out;
}
Problems Rows<DashDelivery>::across(const DashDelivery& dash) {
  Problems out;
  if (dash.distance && dash.beside)
    out.push_back({"/beside", "is there beside a \"distance\"", "one of the two"});
  if (dash.distance && !(*dash.distance > 0))
    out.push_back({"/distance", "goes nowhere", "more than 0 metres"});
  if (!dash.beside && dash.side != DashDelivery::Side::near)
    out.push_back({"/side", "is of no body", "\"beside\", too"});
  if (!dash.speed && dash.rise != 0)
    out.push_back({"/rise", "means nothing for one that is there at once", "a \"speed\", too"});
  return out;
}
Problems Rows<Push>::across(const Push& push) {
  Problems out;
  if (!is_finite(push.direction) || !(length(push.direction) > 0))
    out.push_back({"/direction", "has no direction", "three finite numbers, not all 0"});
  return out;
}
Problems Rows<Falloff>::across(const Falloff& falloff) {
  Problems out;
  if (!falloff.points.empty() && falloff.curve != Falloff::Curve::none)
    out.push_back({"/points", "is there beside a \"falloff\"", "one of them"});
  for (std::size_t i = 1; i < falloff.points.size(); ++i) {
    if (!(falloff.points[i].distance > falloff.points[i - 1].distance))
      out.push_back({"/points/" + std::to_string(i) + "/distance", "is not beyond the one before",
                     "distances that rise"});
  }
  return out;
}
Problems Rows<TrapDelivery>::across(const TrapDelivery& trap) {
  Problems out;
  if (!(trap.armed_after_s <= trap.for_s))
    out.push_back({"/armed_after", "is after it is gone", "a time before that"});
  if (trap.rest_s > 0 && trap.rest_s < 1e-3)
    out.push_back({"/rest", "is shorter than a thousandth of a second", "0, or 0.001 and more"});
  if (trap.struck_sets_off && !(trap.vulnerable > 0))
    out.push_back({"/struck_sets_off", "means nothing for what nothing strikes", "\"vulnerable\""});
  return out;
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

namespace {

/// What means nothing for what is aimed or chosen otherwise.
void check_choice(Problems& out, const Attack& attack) {
  const auto* area = std::get_if<AreaDelivery>(&attack.delivery);
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  const bool dashes = std::holds_alternative<DashDelivery>(attack.delivery);
  const bool swings = dashes || std::holds_alternative<SwingDelivery>(attack.delivery);
  const bool covers = area != nullptr || swings || std::holds_alternative<TrapDelivery>(attack.delivery);
  const bool chain = std::holds_alternative<ChainDelivery>(attack.delivery);
  const auto* guided = shot != nullptr ? std::get_if<GuidedPath>(&shot->path) : nullptr;
  if (covers && attack.stopped_by != Relations{})
    out.push_back({"/stopped_by", "means nothing for what covers a space", "no \"stopped_by\""});
  if (attack.sight && !covers && !chain && !(guided != nullptr && guided->needs_sight))
    out.push_back({"/sight", "means nothing for a ray or a shot, which walls stop",
                   "no \"sight\"; or a guided shot that \"needs_sight\""});
  if (attack.sight && !covers && !chain && attack.sight->scales_power)
    out.push_back({"/sight/scales_power", "means nothing for a shot", "no \"scales_power\""});
  const bool caps = area != nullptr || swings || chain;
  if (attack.cap && !caps) {
    if (covers) {
      out.push_back({"/cap", "means nothing for a trap", "its \"times\""});
    } else {
      out.push_back({"/cap", shot != nullptr ? "means nothing for a shot" : "means nothing for a ray",
                     "\"bodies\" in its \"pierce\""});
    }
  }
  const bool picks = guided != nullptr && guided->lost == GuidedPath::Lost::pick_anew;
  const bool at_bodies = shot != nullptr && shot->volley.spread == Volley::Spread::bodies;
  if (!attack.order.empty() && !(caps && attack.cap) && !picks && !chain && !at_bodies)
    out.push_back({"/order", "chooses nothing here",
                   "no \"order\"; or an area with a \"cap\", a chain, a volley at \"bodies\", or a "
                   "guided shot whose \"lost\" is \"pick_anew\""});
  if (attack.stagger_s != 0 && (area == nullptr || area->lasts))
    out.push_back({"/stagger", "means nothing but for an area in one instant", "no \"stagger\""});
  const bool in_an_instant =
      std::holds_alternative<RayDelivery>(attack.delivery) || (area != nullptr && !area->lasts);
  if (attack.effect_order == EffectOrder::by_effect && (!in_an_instant || attack.stagger_s > 0))
    out.push_back({"/effect_order", "means nothing for what strikes one after the other",
                   "no \"effect_order\"; or a ray, or an area in one instant without \"stagger\""});
  if (std::holds_alternative<TrapDelivery>(attack.delivery)) {
    // What it does comes with what follows.
    if (attack.sight)
      out.push_back(
          {"/sight", "means nothing for a trap, which is touched", "the \"sight\" of what follows"});
    if (!attack.effects.empty())
      out.push_back(
          {"/effects", "are of strikes, but a trap strikes nobody itself", "those of what follows"});
  }
  if (dashes && attack.sight)
    out.push_back({"/sight", "means nothing for a dash, which touches", "no \"sight\""});
  if (chain && attack.stopped_by != Relations{})
    out.push_back({"/stopped_by", "means nothing for a chain", "its \"sight\""});
}

/// Whether it means nothing toward a point.
bool is_after_body(const Attack& attack) {
  if (const auto* shot = std::get_if<ShotDelivery>(&attack.delivery))
    return std::holds_alternative<GuidedPath>(shot->path) || std::holds_alternative<LobPath>(shot->path);
  if (const auto* dash = std::get_if<DashDelivery>(&attack.delivery)) return dash->beside.has_value();
  const auto* area = std::get_if<AreaDelivery>(&attack.delivery);
  const auto* swing = std::get_if<SwingDelivery>(&attack.delivery);
  const auto* trap = std::get_if<TrapDelivery>(&attack.delivery);
  return (area != nullptr && area->lasts && area->lasts->on == Hangs::target) ||
         (swing != nullptr && swing->on == Hangs::target) || (trap != nullptr && trap->on == Hangs::target);
}

/// What of a delivery comes to a moment, in words; empty when it does.
std::string never_comes(const Attack& attack, Then::When when) {
  using When = Then::When;
  const auto* area = std::get_if<AreaDelivery>(&attack.delivery);
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  const bool dashes = std::holds_alternative<DashDelivery>(attack.delivery),
             swings = dashes || std::holds_alternative<SwingDelivery>(attack.delivery),
             waits = std::holds_alternative<TrapDelivery>(attack.delivery);
  const bool lasts = (area != nullptr && area->lasts) || swings || waits;
  switch (when) {
    case When::apex:
      if (shot == nullptr) return "waits for what only a shot does";
      return has_apex(shot->path) ? "" : "waits for the apex of a path that has none";
    case When::near: return shot == nullptr ? "waits for what only a shot does" : "";
    case When::release: return "";
    case When::hop:
      return std::holds_alternative<ChainDelivery>(attack.delivery) ? "" : "waits for what only a chain does";
    case When::surface:
      return area != nullptr || waits || dashes || std::holds_alternative<ChainDelivery>(attack.delivery)
                 ? "means nothing for what covers a space"
                 : "";
    case When::comes_in:
    case When::goes_out: return lasts ? "" : "waits for what only something that lasts does";
    case When::interval:
      return area != nullptr && area->lasts && !std::isinf(area->lasts->every_s)
                 ? ""
                 : "waits for the \"every\" of an area that lasts";
    case When::landing: return dashes ? "" : "waits for what only a dash does";
    case When::trigger: return waits ? "" : "waits for what only a trap does";
    case When::strike: return waits ? "waits for a strike, but a trap strikes nobody itself" : "";
    case When::end: return "";
  }
  return "";
}

}  // namespace

Problems Rows<Attack>::across(const Attack& attack) {
  Problems out;
  const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
  if (shot != nullptr && std::isinf(shot->life_s) && std::isinf(attack.reach.far))
    out.push_back({"/reach", "has no end, nor has its \"life\"", "an end of one of them"});
  if (attack.who == Relations{})
    out.push_back({"/who", "is empty", "at least one of foe, friend, neutral, self"});
  check_choice(out, attack);
  for (std::size_t i = 0; i < attack.at_release.size(); ++i) {
    const std::string where = "/at_release/" + std::to_string(i);
    if (std::holds_alternative<Push>(attack.at_release[i].what))
      out.push_back({where, "is a push, which only a strike has a direction for", "another effect"});
    if (attack.at_release[i].on == Effect::On::attacker)
      out.push_back({where + "/on", "is said already: nobody is struck yet", "no \"on\""});
  }
  if (attack.windup && attack.windup->aim == Windup::Aim::start && is_after_body(attack))
    out.push_back({"/windup/aim", "is \"start\", a point, but it is after a body", "\"release\""});
  if (attack.burst && !attack.burst->aims_anew && is_after_body(attack))
    out.push_back({"/burst/aims_anew", "is false, at a point, but it is after a body", "true"});
  for (std::size_t i = 0; i < attack.then.size(); ++i) {
    const std::string why = never_comes(attack, attack.then[i].when);
    if (!why.empty())
      out.push_back({"/then/" + std::to_string(i) + "/when", why, "a moment that it comes to, as \"end\""});
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
    for (std::size_t k = 0; k < attack.then[i].attacks.size(); ++k) {
      const Attack& next = attack.then[i].attacks[k];
      const std::string at = then + "/attacks/" + std::to_string(k);
      if (next.windup)
        out.push_back(
            {at + "/windup", "means nothing for what follows, which is released by that", "a \"delay\""});
      if (next.ready)
        out.push_back(
            {at + "/ready", "means nothing for what follows, which nobody launches", "no \"ready\""});
      if (next.burst && (!next.burst->aims_anew || !next.burst->follows_muzzle || next.burst->though_fallen))
        out.push_back({at + "/burst", "says how the attacker goes on, but what follows comes from a place",
                       "nothing but \"count\" and \"gap\""});
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
