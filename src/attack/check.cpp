#include <cmath>

#include "dardo/attack/attack.hpp"
#include "dardo/geometry/vec.hpp"

namespace dardo {
namespace {

bool is_length(double v) { return std::isfinite(v) && v >= 0 && v <= kMaxCoordinate; }

constexpr double kMostSpeed = 1e6;  ///< m/s

/// Collects what is wrong with the numbers of a shot.
class ShotCheck {
 public:
  explicit ShotCheck(Problems& out) : out_(out) {}

  void positive(const std::string& where, double v, double most, const char* fix) {
    if (!(v > 0 && v <= most)) out_.push_back({"/shot/" + where, "is " + text(v), fix});
  }
  void within(const std::string& where, double v, double least, double most, const char* fix) {
    if (!(v >= least && v <= most)) out_.push_back({"/shot/" + where, "is " + text(v), fix});
  }
  void speed(double v) { positive("speed", v, kMostSpeed, "a speed above 0, at most 1e6 m/s"); }

  void path(const StraightPath& p) {
    speed(p.speed);
    within("acceleration", p.acceleration, -kMostSpeed, kMostSpeed, "a finite acceleration, m/s²");
    if (!(p.top_speed >= p.speed))
      out_.push_back({"/shot/top_speed", "is below the speed", "a speed at or above it"});
  }
  void path(const FallingPath& p) {
    speed(p.speed);
    within("gravity", p.gravity, -1000, 1000, "a share of the arena's gravity");
    within("drag", p.drag, 0, 1000, "0 or more, 1/m");
  }
  void path(const CurvePath& p) {
    speed(p.speed);
    within("side", p.side, -kMaxCoordinate, kMaxCoordinate, "metres to the left");
    within("rise", p.rise, -kMaxCoordinate, kMaxCoordinate, "metres up");
  }
  void path(const GuidedPath& p) {
    speed(p.speed);
    positive("turn_rate", p.turn_rate, 1e4, "a turn above 0 each second");
    within("delay", p.delay_s, 0, 1e6, "seconds, 0 or more");
    within("climb", p.climb, 0, kMaxCoordinate, "metres, 0 or more");
  }
  void path(const LobPath& p) {
    if (p.flight_time_s.has_value() == p.apex.has_value()) {
      out_.push_back(
          {"/shot", "says both or neither of its flight time and its apex", "exactly one of them"});
    }
    if (p.flight_time_s) positive("flight_time", *p.flight_time_s, 1e6, "seconds above 0");
    if (p.apex) positive("apex", *p.apex, kMaxCoordinate, "metres above 0");
  }

  void all(const ShotDelivery& s) {
    std::visit([&](const auto& p) { path(p); }, s.path);
    within("radius", s.radius, 0, kMaxCoordinate, "a length in metres");
    within("hull", s.hull, 0, kMaxCoordinate, "a length in metres");
    positive("life", s.life_s, 1e6, "seconds above 0");
    within("least_speed", s.least_speed, 0, kMostSpeed, "m/s, 0 or more");
    if (s.shape) {
      for (Problem& p : check(*s.shape))
        out_.push_back({"/shot/shape" + p.where, std::move(p.what), std::move(p.fix)});
      if (s.radius != 0) out_.push_back({"/shot/radius", "is there beside a shape", "one of them"});
    }
    if (s.pierce.bodies == 0) out_.push_back({"/shot/pierce/bodies", "is 0", "at least 1"});
    for (std::size_t i = 0; i < s.pierce.power.size(); ++i) {
      within("pierce/power/" + std::to_string(i), s.pierce.power[i], 0, 1e9, "a factor, 0 or more");
    }
    within("pierce/power_ratio", s.pierce.power_ratio, 0, 1e9, "a factor, 0 or more");
    within("pierce/thickness", s.pierce.thickness, 0, kMaxCoordinate, "metres, 0 or more");
    within("pierce/speed_loss", s.pierce.speed_loss, 0, 1e9, "m/s for each metre, 0 or more");
    within("pierce/power_loss", s.pierce.power_loss, 0, 1e9, "a share for each metre, 0 or more");
    within("ricochet/restitution", s.ricochet.restitution, 0, 10, "a share of the speed, 0 or more");
    within("ricochet/friction", s.ricochet.friction, 0, 1, "a share of the speed, 0 to 1");
    within("ricochet/jitter", s.ricochet.jitter, 0, 3.2, "at most half a turn");
    within("ricochet/least_speed", s.ricochet.least_speed, 0, kMostSpeed, "m/s, 0 or more");
    if (s.volley.count == 0 || s.volley.count > 10000)
      out_.push_back({"/shot/volley/count", "is not a count", "1 to 10,000"});
    within("volley/gap", s.volley.gap_s, 0, 1e6, "seconds, 0 or more");
    within("volley/angle", s.volley.angle, 0, 6.3, "at most a whole turn");
    within("volley/speed_variation", s.volley.speed_variation, 0, 0.99, "a share of the speed below 1");
    if (s.again_after_s) positive("again_after", *s.again_after_s, 1e6, "seconds above 0");
  }

 private:
  static std::string text(double v) {
    if (std::isnan(v)) return "not a number";
    std::string out = std::to_string(v);
    while (out.back() == '0') out.pop_back();
    if (out.back() == '.') out.pop_back();
    return out;
  }

  Problems& out_;
};

void check_then(Problems& out, const Attack& attack, int depth) {
  for (std::size_t i = 0; i < attack.then.size(); ++i) {
    const Then& then = attack.then[i];
    const std::string where = "/then/" + std::to_string(i);
    if (depth >= kMostNesting) {
      out.push_back(
          {where, "nests deeper than " + std::to_string(kMostNesting), "fewer attacks within attacks"});
      continue;
    }
    const bool shot = std::holds_alternative<ShotDelivery>(attack.delivery);
    const bool of_shots =
        then.when == Then::When::surface || then.when == Then::When::apex || then.when == Then::When::near;
    if (of_shots && !shot) out.push_back({where, "waits for what only a shot does", "strike or end"});
    if (then.when == Then::When::near && !(then.distance > 0 && is_length(then.distance))) {
      out.push_back({where + "/distance", "is not a distance", "metres above 0"});
    }
    for (std::size_t k = 0; k < then.attacks.size(); ++k) {
      const std::string child = where + "/attacks/" + std::to_string(k);
      for (Problem& p : check(then.attacks[k])) {
        if (p.where.rfind("/then", 0) == 0) continue;  // told below, with its depth
        out.push_back({child + p.where, std::move(p.what), std::move(p.fix)});
      }
      Problems deeper;
      check_then(deeper, then.attacks[k], depth + 1);
      for (Problem& p : deeper) out.push_back({child + p.where, std::move(p.what), std::move(p.fix)});
    }
  }
}

}  // namespace

Problems check(const Attack& attack) {
  Problems out;
  const char* length_fix = "a length in metres from 0 to 1e7";
  if (!is_length(attack.reach.near)) out.push_back({"/reach/0", "is not a length", length_fix});
  if (!is_length(attack.reach.far)) out.push_back({"/reach/1", "is not a length", length_fix});
  if (is_length(attack.reach.near) && is_length(attack.reach.far) && attack.reach.near > attack.reach.far) {
    out.push_back({"/reach", "has its near limit beyond its far one", "[near, far] with near <= far"});
  }
  if (!std::isfinite(attack.power)) out.push_back({"/power", "is not finite", "a finite number"});
  if (attack.who == Relations{})
    out.push_back({"/who", "is empty", "at least one of foe, friend, neutral, self"});
  if (attack.cap && *attack.cap == 0) out.push_back({"/cap", "is 0", "at least 1, or no cap at all"});
  if (const auto* area = std::get_if<AreaDelivery>(&attack.delivery)) {
    if (!is_length(area->radius)) out.push_back({"/area/ball", "is not a length", length_fix});
    if (area->sight_from == AreaDelivery::SightFrom::eyes && area->around != AreaDelivery::Around::attacker) {
      out.push_back({"/area/sight_from", "is \"eyes\" for an area that is not around the attacker",
                     "\"around\": \"attacker\", or \"sight_from\": \"middle\""});
    }
    if (attack.stopped_by != Relations{}) {
      out.push_back({"/stopped_by", "means nothing for an area", "no \"stopped_by\""});
    }
  } else {
    if (attack.sight)
      out.push_back({"/sight", "means nothing for a ray or a shot, which walls stop", "no \"sight\""});
    if (const auto* ray = std::get_if<RayDelivery>(&attack.delivery)) {
      if (!(ray->tracer_speed >= 0 && ray->tracer_speed <= kMostSpeed))
        out.push_back({"/ray/tracer_speed", "is no speed", "0 to 1e6 m/s"});
      if (!(ray->most_delay_s >= 0)) out.push_back({"/ray/most_delay", "is no time", "seconds, 0 or more"});
    }
    const auto* shot = std::get_if<ShotDelivery>(&attack.delivery);
    if (shot != nullptr) ShotCheck(out).all(*shot);
    if (attack.cap) {
      out.push_back(
          {"/cap",
           shot != nullptr ? "means nothing for a shot" : "means nothing for a ray, which strikes one body",
           shot != nullptr ? "\"bodies\" in its \"pierce\"" : "no \"cap\""});
    }
  }
  if (attack.facing_within && !(*attack.facing_within >= 0 && *attack.facing_within <= 3.2)) {
    out.push_back({"/facing_within", "is no angle", "0 to half a turn"});
  }
  check_then(out, attack, 1);
  return out;
}

}  // namespace dardo
