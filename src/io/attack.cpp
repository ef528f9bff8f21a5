#include "io/detail/attack.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace dardo::io::detail {

Relations AttackReader::read_relations(const Place& place) {
  return read_set<Relations, Relation>(place, {"foe", "friend", "neutral", "self"});
}

std::uint32_t AttackReader::read_count(const Place& place, std::uint32_t otherwise) {
  const auto count = reader_.number(place);
  if (!count) return otherwise;
  if (*count >= 1 && *count <= 1e9 && std::floor(*count) == *count) return static_cast<std::uint32_t>(*count);
  reader_.problem(place.pointer, fmt::format("is {}", *count), "a whole number, at least 1");
  return otherwise;
}

Attack AttackReader::read(const std::string& name, const Place& place, int depth) {
  const Fields f(reader_, place,
                 {"ray", "area", "shot", "reach", "who", "stopped_by", "tags", "needs", "forbids", "sight",
                  "cap", "zone", "power", "facing_within", "then"});
  Attack out;
  out.name = name;
  const int deliveries = f.has("ray") + f.has("area") + f.has("shot");
  if (f.is_object() && deliveries != 1) {
    reader_.problem(place.pointer, deliveries > 1 ? "has several deliveries" : "has no delivery",
                    "exactly one of ray, area, shot");
  }
  if (const auto p = f.at("ray")) {
    const Fields g(reader_, *p, {"tracer_speed", "most_delay"});
    RayDelivery ray;
    ray.tracer_speed = read_number(g, "tracer_speed", 0);
    ray.most_delay_s = read_number(g, "most_delay", ray.most_delay_s);
    out.delivery = ray;
    if (!f.has("reach")) reader_.problem(place.pointer, "has no \"reach\"", "[near, far] in metres");
  } else if (const auto area = f.at("area")) {
    out.delivery = read_area(*area);
  } else if (const auto shot = f.at("shot")) {
    out.delivery = read_shot(*shot);
  }
  if (const auto p = f.at("reach")) {
    if (const auto limits = reader_.numbers(*p, 2)) out.reach = {(*limits)[0], (*limits)[1]};
  }
  if (const auto p = f.at("who")) out.who = read_relations(*p);
  if (const auto p = f.at("stopped_by")) out.stopped_by = read_relations(*p);
  if (const auto p = f.at("tags")) out.tags = reader_.names(*p);
  if (const auto p = f.at("needs")) out.needs = reader_.names(*p);
  if (const auto p = f.at("forbids")) out.forbids = reader_.names(*p);
  if (const auto p = f.at("sight")) out.sight = read_sight(*p);
  if (const auto p = f.at("cap")) out.cap = read_count(*p, 1);
  if (const auto p = f.at("zone")) {
    if (const auto w = reader_.word(*p, {"first", "best"})) out.zone = static_cast<ZoneRule>(*w);
  }
  out.power = read_number(f, "power", 1);
  if (const auto p = f.at("facing_within")) {
    if (const auto angle = reader_.number(*p)) out.facing_within = radians(*angle);
  }
  if (const auto p = f.at("then")) {
    if (depth > kMostNesting) {
      reader_.problem(p->pointer, fmt::format("nests deeper than {}", kMostNesting),
                      "fewer attacks within attacks");
    } else {
      for (const Place& item : reader_.items(*p)) out.then.push_back(read_then(name, item, depth));
    }
  }
  return out;
}

Then AttackReader::read_then(const std::string& name, const Place& place, int depth) {
  const Fields f(reader_, place, {"when", "distance", "attack"});
  Then out;
  if (const auto p = f.need("when", "one of strike, surface, end, apex, near")) {
    if (const auto w = reader_.word(*p, {"strike", "surface", "end", "apex", "near"}))
      out.when = static_cast<Then::When>(*w);
  }
  out.distance = read_number(f, "distance", 0);
  if (f.has("distance") != (out.when == Then::When::near) && f.is_object()) {
    reader_.problem(place.pointer,
                    f.has("distance") ? "has a distance that means nothing" : "has no \"distance\"",
                    "\"distance\" with \"near\", and only there");
  }
  if (const auto p = f.need("attack", "the attack that follows"))
    out.attacks.push_back(read(name, *p, depth + 1));
  return out;
}

AreaDelivery AttackReader::read_area(const Place& place) {
  const Fields f(reader_, place, {"ball", "around", "sight_from"});
  AreaDelivery out;
  out.radius = need_number(f, "ball", "its radius in metres");
  if (const auto p = f.at("around")) {
    if (const auto w = reader_.word(*p, {"aim", "attacker"}))
      out.around = static_cast<AreaDelivery::Around>(*w);
  }
  if (const auto p = f.at("sight_from")) {
    if (const auto w = reader_.word(*p, {"middle", "eyes"})) {
      out.sight_from = static_cast<AreaDelivery::SightFrom>(*w);
    }
  }
  return out;
}

std::optional<Passage> AttackReader::read_sight(const Place& place) {
  if (place.node->kind == Node::Kind::boolean) {
    return place.node->boolean ? std::optional(Passage::sight) : std::nullopt;
  }
  const auto w = reader_.word(place, {"sight", "shots", "blasts"});
  return w ? std::optional(static_cast<Passage>(*w)) : std::nullopt;
}

ShotDelivery AttackReader::read_shot(const Place& place) {
  const Fields f(reader_, place,
                 {"straight", "falling", "curve", "guided", "lob", "radius", "shape", "life", "least_speed",
                  "pierce", "ricochet", "volley", "again_after", "hull", "sticks"});
  ShotDelivery out;
  out.path = read_path(place, f);
  out.radius = read_number(f, "radius", 0);
  if (const auto p = f.at("shape")) {
    const Fields shape(reader_, *p, {"ball", "capsule", "box", "cylinder", "cone", "hull", "prism"});
    out.shape = read_shape(*p, shape);
  }
  out.life_s = read_number(f, "life", out.life_s);
  out.least_speed = read_number(f, "least_speed", 0);
  if (const auto p = f.at("pierce")) out.pierce = read_pierce(*p);
  if (const auto p = f.at("ricochet")) out.ricochet = read_ricochet(*p);
  if (const auto p = f.at("volley")) out.volley = read_volley(*p);
  if (const auto p = f.at("sticks")) out.sticks = reader_.boolean(*p).value_or(false);
  out.hull = read_number(f, "hull", 0);
  if (const auto p = f.at("again_after")) out.again_after_s = reader_.number(*p);
  return out;
}

ShotPath AttackReader::read_path(const Place& place, const Fields& f) {
  const int paths = f.has("straight") + f.has("falling") + f.has("curve") + f.has("guided") + f.has("lob");
  if (f.is_object() && paths != 1 && (paths > 1 || f.all_known())) {
    reader_.problem(place.pointer, fmt::format("has {} paths", paths),
                    "exactly one of straight, falling, curve, guided, lob");
  }
  const char* speed = "a speed in m/s";
  const auto flag = [&](const Fields& g, const char* key, bool otherwise) {
    const auto p = g.at(key);
    return p ? reader_.boolean(*p).value_or(otherwise) : otherwise;
  };
  if (const auto p = f.at("straight")) {
    const Fields g(reader_, *p, {"speed", "acceleration", "top_speed"});
    StraightPath path;
    path.speed = need_number(g, "speed", speed);
    path.acceleration = read_number(g, "acceleration", 0);
    path.top_speed = read_number(g, "top_speed", path.top_speed);
    return path;
  }
  if (const auto p = f.at("falling")) {
    const Fields g(reader_, *p, {"speed", "gravity", "drag"});
    FallingPath path;
    path.speed = need_number(g, "speed", speed);
    path.gravity = read_number(g, "gravity", 1);
    path.drag = read_number(g, "drag", 0);
    return path;
  }
  if (const auto p = f.at("curve")) {
    const Fields g(reader_, *p, {"speed", "side", "rise", "returns", "strikes_again"});
    CurvePath path;
    path.speed = need_number(g, "speed", speed);
    path.side = read_number(g, "side", 0);
    path.rise = read_number(g, "rise", 0);
    path.returns = flag(g, "returns", true);
    path.strikes_again = flag(g, "strikes_again", true);
    return path;
  }
  if (const auto p = f.at("guided")) {
    const Fields g(reader_, *p, {"speed", "turn_rate", "delay", "climb", "lead", "needs_sight", "lost"});
    GuidedPath path;
    path.speed = need_number(g, "speed", speed);
    path.turn_rate = radians(need_number(g, "turn_rate", "degrees a second"));
    path.delay_s = read_number(g, "delay", 0);
    path.climb = read_number(g, "climb", 0);
    path.lead = flag(g, "lead", false);
    path.needs_sight = flag(g, "needs_sight", false);
    if (const auto lost = g.at("lost")) {
      if (const auto w = reader_.word(*lost, {"fly_on", "pick_anew", "end"}))
        path.lost = static_cast<GuidedPath::Lost>(*w);
    }
    return path;
  }
  LobPath path;
  if (const auto p = f.at("lob")) {
    const Fields g(reader_, *p, {"flight_time", "apex", "follows"});
    if (const auto t = g.at("flight_time")) path.flight_time_s = reader_.number(*t);
    if (const auto a = g.at("apex")) path.apex = reader_.number(*a);
    path.follows = flag(g, "follows", false);
  }
  return path;
}

Pierce AttackReader::read_pierce(const Place& place) {
  const Fields f(reader_, place,
                 {"bodies", "power", "power_ratio", "materials", "thickness", "speed_loss", "power_loss"});
  Pierce out;
  if (const auto p = f.at("bodies")) out.bodies = read_count(*p, 1);
  if (const auto p = f.at("power")) {
    for (const Place& item : reader_.items(*p)) out.power.push_back(reader_.number(item).value_or(1));
  }
  out.power_ratio = read_number(f, "power_ratio", 1);
  if (const auto p = f.at("materials")) out.materials = reader_.names(*p);
  out.thickness = read_number(f, "thickness", 0);
  out.speed_loss = read_number(f, "speed_loss", 0);
  out.power_loss = read_number(f, "power_loss", 0);
  return out;
}

Ricochet AttackReader::read_ricochet(const Place& place) {
  const Fields f(reader_, place,
                 {"count", "speed_kept", "restitution", "friction", "jitter", "least_speed", "materials"});
  Ricochet out;
  if (const auto p = f.need("count", "how often it turns")) out.count = read_count(*p, 1);
  if (f.has("speed_kept")) {
    if (f.has("restitution") || f.has("friction")) {
      reader_.problem(place.pointer, "has a speed_kept beside a restitution or a friction",
                      "either one number for the whole speed, or these two");
    }
    const double kept = read_number(f, "speed_kept", 1);
    if (!(kept >= 0 && kept <= 1))
      reader_.problem(f.at("speed_kept")->pointer, "is not a share", "a number from 0 to 1");
    out.restitution = kept, out.friction = std::clamp(1 - kept, 0.0, 1.0);
  } else {
    out.restitution = read_number(f, "restitution", 1);
    out.friction = read_number(f, "friction", 0);
  }
  out.jitter = radians(read_number(f, "jitter", 0));
  out.least_speed = read_number(f, "least_speed", 0);
  if (const auto p = f.at("materials")) out.materials = reader_.names(*p);
  return out;
}

Volley AttackReader::read_volley(const Place& place) {
  const Fields f(reader_, place, {"count", "gap", "spread", "angle", "speed_variation"});
  Volley out;
  if (const auto p = f.need("count", "how many shots")) out.count = read_count(*p, 1);
  out.gap_s = read_number(f, "gap", 0);
  if (const auto p = f.at("spread")) {
    if (const auto w = reader_.word(*p, {"none", "cone", "gauss", "fan", "ring"}))
      out.spread = static_cast<Volley::Spread>(*w);
  }
  out.angle = radians(read_number(f, "angle", 0));
  out.speed_variation = read_number(f, "speed_variation", 0);
  return out;
}

}  // namespace dardo::io::detail
