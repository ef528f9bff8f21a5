#include "dardo/io/outcome_json.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "dardo/record/explain.hpp"
#include "io/detail/effects_json.hpp"
#include "io/detail/objects.hpp"
#include "io/detail/reader.hpp"
#include "io/detail/to_rows.hpp"

namespace dardo::io {
namespace {

using Json = nlohmann::ordered_json;
using detail::Fields;
using detail::Place;
using detail::Reader;

// ---- writing

Json point(const Vec3& v) { return Json::array({v.x, v.y, v.z}); }

Json blocker(const Blocker& by, const Arena& arena) {
  if (!by.wall.empty()) return {{"wall", arena.wall(by.wall).id}};
  Json out = Json::object();
  if (!by.body.empty()) out["body"] = arena.body(by.body).id;
  if (by.shot) out["shot"] = true;
  return out;
}

void put_reading(Json& out, const Reading& r, const Arena& arena) {
  if (r.measured) out["measured"] = *r.measured;
  if (r.limit) out["limit"] = *r.limit;
  if (r.margin) out["margin"] = *r.margin;
  if (r.of_share) out["of_share"] = true;
  if (!r.by.empty()) out["by"] = blocker(r.by, arena);
  if (!r.by.empty() || r.reason == Reason::ground) out["at"] = point(r.at);
  if (r.gate == Gate::relation || r.relation == Relation::self) out["relation"] = name(r.relation);
  if (!r.tag.empty()) out["tag"] = r.tag;
  if (r.stage > 0) out["stage"] = r.stage, out["since"] = r.since_s;
}

Json verdict(const Verdict& v, const Arena& arena) {
  Json out{{"body", arena.body(v.body).id}, {"struck", v.struck}};
  if (v.struck) {
    out["strike"] = v.strike;
  } else {
    out["reason"] = name(v.deciding.reason);
  }
  out["gate"] = name(v.deciding.gate);
  put_reading(out, v.deciding, arena);
  out["text"] = explain(v, arena);
  if (v.gates.empty()) return out;
  Json& gates = out["gates"] = Json::array();
  for (const Reading& r : v.gates) {
    Json gate{{"gate", name(r.gate)}, {"reason", name(r.reason)}};
    put_reading(gate, r, arena);
    gate["text"] = explain(r, arena);
    gates.push_back(std::move(gate));
  }
  return out;
}

Json power(const Power& p) {
  Json out = Json::object();
  for (const Power::Factor& f : p.factors()) out[std::string(f.name)] = f.factor;
  out["arriving"] = p.arriving();
  return out;
}

Json strike(const Strike& s, const Arena& arena) {
  Json out{{"body", arena.body(s.body).id},
           {"zone", arena.build(arena.body(s.body).build).hitboxes[s.hitbox].zone},
           {"hitbox", s.hitbox},
           {"time", s.time_s},
           {"seen", s.seen_s},
           {"distance", s.distance},
           {"point", point(s.point)},
           {"normal", point(s.normal)},
           {"centre", point(s.centre)},
           {"speed", s.speed},
           {"power", power(s.power)},
           {"stage", s.stage},
           {"cause", s.cause}};
  const auto put = [&](const char* key, const std::optional<Share>& share) {
    if (share) out[key] = {{"share", share->share}, {"error", share->error}};
  };
  put("covered", s.covered), put("seen_share", s.seen);
  if (s.hop > 0) out["hop"] = s.hop;
  if (arena.has(s.by)) out["by"] = arena.body(s.by).id;
  if (!s.attack.empty()) out["attack"] = s.attack.str();
  if (s.launch > 0) out["launch"] = s.launch;
  out["carrier"] = s.carrier;
  if (s.felled) out["felled"] = true;
  for (const EffectDone& e : s.effects) out["effects"].push_back(detail::effect_object(e, arena));
  for (const EffectSpared& e : s.spared) out["spared"].push_back(detail::spared_object(e, arena));
  return out;
}

Json surface(const SurfaceMet& m, const Arena& arena) {
  Json out{{"did", name(m.did)},        {"stage", m.stage},          {"shot", m.shot},
           {"time", m.time_s},          {"distance", m.distance},    {"point", point(m.point)},
           {"normal", point(m.normal)}, {"centre", point(m.centre)}, {"direction", point(m.direction)},
           {"speed", m.speed},          {"leaves", m.leaves}};
  if (!m.wall.empty()) out["wall"] = arena.wall(m.wall).id;
  return out;
}

Json mark(const PathMark& m) {
  Json path{{"from", point(m.from)}, {"to", point(m.to)}};
  if (m.radius > 0) path["radius"] = m.radius;
  path["time"] = m.time_s;
  return {{"path", std::move(path)}};
}
/// Where its power differs.
Json faded(const char* kind, Json mark, const std::vector<FalloffPoint>& fades) {
  for (const FalloffPoint& p : fades) mark["fades"].push_back({p.distance, p.factor});
  return {{kind, std::move(mark)}};
}
Json mark(const RingMark& m) {
  return faded("ring", {{"center", point(m.center)}, {"radius", m.radius}, {"time", m.time_s}}, m.fades);
}
Json mark(const SightMark& m) {
  Json line{{"from", point(m.from)}, {"to", point(m.to)}};
  if (m.cut) line["cut"] = point(*m.cut);
  line["time"] = m.time_s;
  return {{"sight", std::move(line)}};
}
Json mark(const ReachMark& m) {
  return {{"reach", {{"center", point(m.center)}, {"near", m.near}, {"far", m.far}, {"time", m.time_s}}}};
}

Json axes(const Rotation& turn) { return Json::array({point(turn.x), point(turn.y), point(turn.z)}); }

Json mark(const AreaMark& m, const Arena& arena) {
  return faded("area",
               {{"shape", detail::RowWriter(arena).write(m.shape)},
                {"at", point(m.pose.at)},
                {"facing", axes(m.pose.turn)},
                {"time", m.time_s}},
               m.fades);
}

Json leg(const Leg& l) {
  Json out{{"from", l.start},
           {"to", l.end},
           {"at", point(l.from.at)},
           {"velocity", point(l.velocity)},
           {"facing", axes(l.from.turn)}};
  if (l.turn_rate != 0) out["axis"] = point(l.axis), out["turn_rate"] = l.turn_rate;
  return out;
}

Json legs(const std::vector<Leg>& all) {
  Json out = Json::array();
  for (const Leg& l : all) out.push_back(leg(l));
  return out;
}

Json mark(const DashMark& m, const Arena& arena) {
  Json hitboxes = Json::array();
  for (const Shape& s : m.hitboxes) hitboxes.push_back(detail::RowWriter(arena).write(s));
  return {{"dash",
           {{"body", arena.body(m.body).id},
            {"legs", legs(m.legs)},
            {"hitboxes", std::move(hitboxes)},
            {"ended", name(m.ended)}}}};
}

Json mark(const LastingMark& m, const Arena& arena) {
  Json sizes = Json::array();
  for (const GrownArea& g : m.sizes)
    sizes.push_back({{"t", g.time_s}, {"shape", detail::RowWriter(arena).write(g.shape)}});
  return faded("lasting",
               {{"from", m.from_s},
                {"to", m.to_s},
                {"carrier", legs(m.carrier)},
                {"base", {{"at", point(m.base.at)}, {"facing", axes(m.base.turn)}}},
                {"own", legs(m.own)},
                {"sizes", std::move(sizes)},
                {"blade", m.blade},
                {"trap", m.trap},
                {"ended", name(m.ended)}},
               m.fades);
}

Json mark(const HopMark& m) {
  return {{"hop",
           {{"from", point(m.from)},
            {"to", point(m.to)},
            {"arc", m.arc},
            {"number", m.number},
            {"start", m.from_s},
            {"arrives", m.to_s}}}};
}

Json mark(const FlightMark& m) {
  Json places = Json::array(), pieces = Json::array();
  for (const Vec3& p : m.places) places.push_back(point(p));
  for (const WayPiece& p : m.pieces) {
    Json& piece = pieces.emplace_back();
    piece = {{"from", p.start_s}, {"to", p.end_s}, {"at", point(p.at)}, {"velocity", point(p.velocity)}};
    if (p.acceleration != Vec3{}) piece["acceleration"] = point(p.acceleration);
    if (p.jerk != Vec3{}) piece["jerk"] = point(p.jerk);
  }
  return {{"flight",
           {{"pieces", std::move(pieces)},
            {"places", std::move(places)},
            {"times", m.times},
            {"radius", m.radius},
            {"half_width", m.half_width},
            {"half_height", m.half_height},
            {"ended", name(m.ended)}}}};
}

Json mark(const MotionMark& m, const Arena& arena) {
  return {{"motion", {{"body", arena.body(m.body).id}, {"legs", legs(m.legs)}}}};
}
template <class Kind>
Json mark(const Kind& m, const Arena&) {
  return mark(m);
}

Json outcome(const Outcome& o, const Arena& arena) {
  Json out{{"launch", o.launch}, {"attack", o.attack}};
  out["by"] = arena.has(o.by) ? Json(arena.body(o.by).id) : Json(nullptr);
  out["ended"] = name(o.ended);
  if (!o.stopped_by.empty()) out["stopped_by"] = blocker(o.stopped_by, arena);
  out["origin"] = point(o.origin);
  out["end"] = point(o.end);
  if (o.end_contact) out["end_contact"] = point(*o.end_contact);
  out["start_time"] = o.start_s;
  out["end_time"] = o.end_s;
  Json& strikes = out["strikes"] = Json::array();
  for (const Strike& s : o.strikes) strikes.push_back(strike(s, arena));
  if (!o.happenings.empty()) {
    Json& happenings = out["happenings"] = Json::array();
    for (const Happening& h : o.happenings) happenings.push_back(detail::happening_object(h, arena));
  }
  if (!o.downed.empty()) {
    Json& downed = out["downed"] = Json::array();
    for (const Downed& d : o.downed) {
      downed.push_back({{"under_way", d.launch},
                        {"shot", d.shot},
                        {"time", d.time_s},
                        {"point", point(d.point)},
                        {"stage", d.stage},
                        {"cause", d.cause}});
      if (!d.by.empty()) downed.back()["by"] = arena.body(d.by).id;
    }
  }
  if (!o.surfaces.empty()) {
    Json& surfaces = out["surfaces"] = Json::array();
    for (const SurfaceMet& m : o.surfaces) surfaces.push_back(surface(m, arena));
  }
  Json& verdicts = out["verdicts"] = Json::array();
  for (const Verdict& v : o.verdicts) verdicts.push_back(verdict(v, arena));
  Json& sketch = out["sketch"] = Json::array();
  for (const Mark& m : o.marks)
    sketch.push_back(std::visit([&](const auto& k) { return mark(k, arena); }, m));
  if (!o.limits_met.empty()) {
    Json& met = out["limits_met"] = Json::array();
    for (const LimitMet& m : o.limits_met)
      met.push_back({{"limit", name(m.limit)}, {"most", m.most}, {"time", m.time_s}, {"text", explain(m)}});
  }
  if (!o.warnings.empty()) out["warnings"] = o.warnings;
  if (!o.problems.empty()) {
    Json& problems = out["problems"] = Json::array();
    for (const Problem& p : o.problems)
      problems.push_back({{"where", p.where}, {"what", p.what}, {"fix", p.fix}});
  }
  return out;
}

// ---- reading

/// The words of an enumeration, in its order.
template <class Enum>
std::vector<std::string> words(Enum last) {
  std::vector<std::string> out;
  for (int i = 0; i <= static_cast<int>(last); ++i) out.emplace_back(name(static_cast<Enum>(i)));
  return out;
}

class OutcomeReader {
 public:
  OutcomeReader(Reader& reader, const Arena& arena) : reader_(reader), arena_(arena) {}

  std::vector<Outcome> read(const Place& root) {
    std::vector<Outcome> out;
    const Fields f(reader_, root, {"dardo", "scene", "launches"});
    if (const auto p = f.need("launches", "a list of outcomes")) {
      for (const Place& item : reader_.items(*p)) out.push_back(read_outcome(item));
    }
    return out;
  }

 private:
  BodyId body(const Place& p) {
    const auto id = reader_.name(p);
    const auto found = id ? arena_.find_body(*id) : std::nullopt;
    if (id && !found)
      reader_.problem(p.pointer, fmt::format("is not a body of the arena: \"{}\"", *id), "a body's id");
    return found.value_or(BodyId{});
  }

  WallId wall(const Place& place) {
    const auto id = reader_.name(place);
    const auto found = id ? arena_.find_wall(*id) : std::nullopt;
    if (id && !found)
      reader_.problem(place.pointer, fmt::format("is not a wall of the arena: \"{}\"", *id), "a wall's id");
    return found.value_or(WallId{});
  }

  Blocker read_blocker(const Place& place) {
    const Fields f(reader_, place, {"wall", "body", "shot"});
    Blocker out;
    if (const auto p = f.at("shot")) out.shot = reader_.boolean(*p).value_or(false);
    if (const auto p = f.at("body")) out.body = body(*p);
    if (const auto p = f.at("wall")) out.wall = wall(*p);
    return out;
  }

  double number(const Fields& f, std::string_view key) {
    const auto p = f.need(key, "a number");
    return p ? reader_.number(*p).value_or(0) : 0;
  }
  std::optional<double> maybe_number(const Fields& f, std::string_view key) {
    const auto p = f.at(key);
    return p ? reader_.number(*p) : std::nullopt;
  }
  Vec3 vec3(const Fields& f, std::string_view key) {
    const auto p = f.need(key, "a list of 3 numbers");
    return p ? reader_.vec3(*p).value_or(Vec3{}) : Vec3{};
  }
  std::string text(const Fields& f, std::string_view key) {
    const auto p = f.need(key, "text");
    return p ? reader_.text(*p).value_or("") : "";
  }
  template <class Enum>
  Enum word(const Fields& f, std::string_view key, Enum last) {
    const auto p = f.need(key, "one of its words");
    const auto w = p ? reader_.word(*p, words(last)) : std::nullopt;
    return static_cast<Enum>(w.value_or(0));
  }

  Reading read_reading(const Fields& f) {
    Reading r;
    r.gate = word(f, "gate", Gate::cap);
    if (f.has("reason")) r.reason = word(f, "reason", Reason::not_set_off);
    r.measured = maybe_number(f, "measured");
    r.limit = maybe_number(f, "limit");
    r.margin = maybe_number(f, "margin");
    if (const auto p = f.at("of_share")) r.of_share = reader_.boolean(*p).value_or(false);
    if (const auto p = f.at("by")) {
      r.by = read_blocker(*p);
    }
    if (f.has("at")) r.at = vec3(f, "at");
    if (f.has("relation")) r.relation = word(f, "relation", Relation::self);
    if (f.has("tag")) r.tag = text(f, "tag");
    if (f.has("stage"))
      r.stage = static_cast<std::uint32_t>(number(f, "stage")), r.since_s = number(f, "since");
    return r;
  }

  Outcome read_outcome(const Place& place) {
    const Fields f(reader_, place,
                   {"launch", "attack", "by", "ended", "stopped_by", "origin", "end", "end_contact",
                    "start_time", "end_time", "strikes", "happenings", "downed", "surfaces", "verdicts",
                    "sketch", "limits_met", "warnings", "problems"});
    Outcome out;
    out.launch = text(f, "launch");
    out.attack = text(f, "attack");
    if (const auto p = f.need("by", "a body's id"); p && p->node->kind != detail::Node::Kind::null)
      out.by = body(*p);
    out.ended = word(f, "ended", Ended::not_ready);
    if (const auto p = f.at("stopped_by")) out.stopped_by = read_blocker(*p);
    out.origin = vec3(f, "origin");
    out.end = vec3(f, "end");
    if (f.has("end_contact")) out.end_contact = vec3(f, "end_contact");
    out.start_s = number(f, "start_time"), out.end_s = number(f, "end_time");
    for (const Place& item : list(f, "strikes")) out.strikes.push_back(read_strike(item));
    if (f.has("happenings")) {
      for (const Place& item : list(f, "happenings"))
        out.happenings.push_back(detail::read_happening(reader_, arena_, item));
    }
    if (f.has("downed")) {
      for (const Place& item : list(f, "downed")) {
        const Fields d(reader_, item, {"under_way", "shot", "by", "time", "point", "stage", "cause"});
        const auto whole = [&](std::string_view key) { return static_cast<std::uint32_t>(number(d, key)); };
        Downed downed{.launch = whole("under_way"), .shot = whole("shot")};
        if (const auto p = d.at("by")) downed.by = body(*p);
        downed.time_s = number(d, "time"), downed.point = vec3(d, "point");
        downed.stage = whole("stage"), downed.cause = whole("cause");
        out.downed.push_back(downed);
      }
    }
    if (f.has("surfaces")) {
      for (const Place& item : list(f, "surfaces")) out.surfaces.push_back(read_surface(item));
    }
    for (const Place& item : list(f, "verdicts")) out.verdicts.push_back(read_verdict(item));
    for (const Place& item : list(f, "sketch")) read_mark(item, out.marks);
    if (f.has("limits_met")) {
      for (const Place& item : list(f, "limits_met")) {
        const Fields m(reader_, item, {"limit", "most", "time", "text"});
        out.limits_met.push_back({word(m, "limit", Limit::flight), number(m, "most"), number(m, "time")});
      }
    }
    if (f.has("warnings")) {
      for (const Place& item : list(f, "warnings")) out.warnings.push_back(reader_.text(item).value_or(""));
    }
    if (f.has("problems")) {
      for (const Place& item : list(f, "problems")) {
        const Fields p(reader_, item, {"where", "what", "fix"});
        out.problems.push_back({text(p, "where"), text(p, "what"), text(p, "fix")});
      }
    }
    return out;
  }

  std::vector<Place> list(const Fields& f, std::string_view key) {
    const auto p = f.need(key, "a list");
    return p ? reader_.items(*p) : std::vector<Place>{};
  }

  SurfaceMet read_surface(const Place& place) {
    const Fields f(reader_, place,
                   {"wall", "did", "stage", "shot", "time", "distance", "point", "normal", "centre",
                    "direction", "speed", "leaves"});
    SurfaceMet m;
    if (const auto p = f.at("wall")) m.wall = wall(*p);
    m.did = word(f, "did", SurfaceMet::Did::ended);
    m.stage = static_cast<std::uint32_t>(number(f, "stage"));
    m.shot = static_cast<std::uint32_t>(number(f, "shot"));
    m.time_s = number(f, "time"), m.distance = number(f, "distance");
    m.point = vec3(f, "point"), m.normal = vec3(f, "normal");
    m.centre = vec3(f, "centre"), m.direction = vec3(f, "direction");
    m.speed = number(f, "speed"), m.leaves = number(f, "leaves");
    return m;
  }

  Strike read_strike(const Place& place) {
    const Fields f(reader_, place,
                   {"body",   "zone",   "hitbox", "time",    "seen",   "distance", "point",      "normal",
                    "centre", "speed",  "power",  "stage",   "cause",  "covered",  "seen_share", "hop",
                    "by",     "attack", "launch", "carrier", "felled", "effects",  "spared"});
    Strike s;
    if (const auto p = f.need("body", "a body's id")) s.body = body(*p);
    s.hitbox = static_cast<std::uint32_t>(number(f, "hitbox"));
    s.time_s = number(f, "time");
    s.seen_s = number(f, "seen");
    s.distance = number(f, "distance");
    s.point = vec3(f, "point");
    s.normal = vec3(f, "normal");
    s.centre = vec3(f, "centre"), s.speed = number(f, "speed");
    if (const auto p = f.need("power", "an object")) {
      const Fields power(
          reader_, *p,
          {"base", "zone", "order", "through", "hop", "seen", "distance", "level", "critical", "arriving"});
      s.power = {number(power, "base"),     number(power, "zone"),  number(power, "order"),
                 number(power, "through"),  number(power, "hop"),   number(power, "seen"),
                 number(power, "distance"), number(power, "level"), number(power, "critical")};
    }
    s.stage = static_cast<std::uint32_t>(number(f, "stage"));
    s.cause = static_cast<std::uint32_t>(number(f, "cause"));
    const auto share = [&](std::string_view key, std::optional<Share>& out) {
      const auto p = f.at(key);
      if (!p) return;
      const Fields part(reader_, *p, {"share", "error"});
      out = Share{number(part, "share"), number(part, "error")};
    };
    share("covered", s.covered), share("seen_share", s.seen);
    s.hop = static_cast<std::uint32_t>(maybe_number(f, "hop").value_or(0));
    if (const auto p = f.at("by")) s.by = body(*p);
    if (f.has("attack")) s.attack = Name(text(f, "attack"));
    s.launch = static_cast<std::uint32_t>(maybe_number(f, "launch").value_or(0));
    s.carrier = static_cast<std::uint32_t>(maybe_number(f, "carrier").value_or(0));
    if (const auto p = f.at("felled")) s.felled = reader_.boolean(*p).value_or(false);
    if (f.has("effects")) {
      for (const Place& item : list(f, "effects"))
        s.effects.push_back(detail::read_effect(reader_, arena_, item));
    }
    if (f.has("spared")) {
      for (const Place& item : list(f, "spared"))
        s.spared.push_back(detail::read_spared(reader_, arena_, item));
    }
    return s;
  }

  Verdict read_verdict(const Place& place) {
    const Fields f(reader_, place,
                   {"body", "struck", "strike", "reason", "gate", "measured", "limit", "margin", "of_share",
                    "by", "at", "relation", "tag", "stage", "since", "text", "gates"});
    Verdict v;
    if (const auto p = f.need("body", "a body's id")) v.body = body(*p);
    if (const auto p = f.need("struck", "true or false")) v.struck = reader_.boolean(*p).value_or(false);
    if (v.struck) v.strike = static_cast<std::uint32_t>(number(f, "strike"));
    v.deciding = read_reading(f);
    if (!f.has("gates")) return v;
    for (const Place& item : list(f, "gates")) {
      v.gates.push_back(read_reading(Fields(reader_, item,
                                            {"gate", "reason", "measured", "limit", "margin", "of_share",
                                             "by", "at", "relation", "tag", "stage", "since", "text"})));
    }
    return v;
  }

  void read_mark(const Place& place, std::vector<Mark>& out) {
    const Fields f(reader_, place,
                   {"path", "ring", "sight", "reach", "flight", "motion", "area", "lasting", "hop", "dash"});
    if (const auto p = f.at("path")) {
      const Fields m(reader_, *p, {"from", "to", "radius", "time"});
      out.emplace_back(
          PathMark{vec3(m, "from"), vec3(m, "to"), maybe_number(m, "radius").value_or(0), number(m, "time")});
    } else if (const auto ring = f.at("ring")) {
      read_ring(*ring, out);
    } else if (const auto line = f.at("sight")) {
      const Fields m(reader_, *line, {"from", "to", "cut", "time"});
      SightMark sight{vec3(m, "from"), vec3(m, "to"), std::nullopt, number(m, "time")};
      if (m.has("cut")) sight.cut = vec3(m, "cut");
      out.emplace_back(sight);
    } else if (const auto reach = f.at("reach")) {
      const Fields m(reader_, *reach, {"center", "near", "far", "time"});
      out.emplace_back(ReachMark{vec3(m, "center"), number(m, "near"), number(m, "far"), number(m, "time")});
    } else if (const auto flight = f.at("flight")) {
      const Fields m(reader_, *flight,
                     {"pieces", "places", "times", "radius", "half_width", "half_height", "ended"});
      FlightMark mark;
      for (const Place& item : list(m, "pieces")) {
        const Fields part(reader_, item, {"from", "to", "at", "velocity", "acceleration", "jerk"});
        WayPiece& piece = mark.pieces.emplace_back();
        piece = {number(part, "from"), number(part, "to"), vec3(part, "at"), vec3(part, "velocity"), {}, {}};
        if (part.has("acceleration")) piece.acceleration = vec3(part, "acceleration");
        if (part.has("jerk")) piece.jerk = vec3(part, "jerk");
      }
      for (const Place& item : list(m, "places")) mark.places.push_back(reader_.vec3(item).value_or(Vec3{}));
      for (const Place& item : list(m, "times")) mark.times.push_back(reader_.number(item).value_or(0));
      mark.radius = number(m, "radius"), mark.half_width = number(m, "half_width");
      mark.half_height = number(m, "half_height");
      mark.ended = word(m, "ended", Ended::not_ready);
      out.emplace_back(std::move(mark));
    } else if (const auto motion = f.at("motion")) {
      read_motion(*motion, out);
    } else if (const auto lasting = f.at("lasting")) {
      read_lasting(*lasting, out);
    } else if (const auto dash = f.at("dash")) {
      read_dash(*dash, out);
    } else if (const auto hop = f.at("hop")) {
      const Fields m(reader_, *hop, {"from", "to", "arc", "number", "start", "arrives"});
      out.emplace_back(HopMark{vec3(m, "from"), vec3(m, "to"), number(m, "arc"),
                               static_cast<std::uint32_t>(number(m, "number")), number(m, "start"),
                               number(m, "arrives")});
    } else if (const auto area = f.at("area")) {
      const Fields m(reader_, *area, {"shape", "at", "facing", "time", "fades"});
      AreaMark mark;
      mark.time_s = number(m, "time");
      read_fades(m, mark.fades);
      const detail::SceneNames names(arena_);
      if (const auto shape = m.need("shape", "a shape"))
        detail::RowReader(reader_, names).read(*shape, mark.shape);
      mark.pose = {vec3(m, "at"), read_axes(m)};
      out.emplace_back(std::move(mark));
    }
  }

  Rotation read_axes(const Fields& f) {
    Rotation out;
    const std::vector<Place> axes = list(f, "facing");
    Vec3* const turn[] = {&out.x, &out.y, &out.z};
    for (std::size_t i = 0; i < 3 && i < axes.size(); ++i) *turn[i] = reader_.vec3(axes[i]).value_or(Vec3{});
    return out;
  }

  void read_motion(const Place& place, std::vector<Mark>& out) {
    const Fields m(reader_, place, {"body", "legs"});
    MotionMark mark;
    if (const auto p = m.need("body", "a body's id")) mark.body = body(*p);
    read_legs(m, "legs", mark.legs);
    out.emplace_back(std::move(mark));
  }

  void read_dash(const Place& place, std::vector<Mark>& out) {
    const Fields m(reader_, place, {"body", "legs", "hitboxes", "ended"});
    DashMark mark;
    if (const auto p = m.need("body", "a body's id")) mark.body = body(*p);
    read_legs(m, "legs", mark.legs);
    const detail::SceneNames names(arena_);
    for (const Place& item : list(m, "hitboxes"))
      detail::RowReader(reader_, names).read(item, mark.hitboxes.emplace_back());
    mark.ended = word(m, "ended", Ended::not_ready);
    out.emplace_back(std::move(mark));
  }

  void read_ring(const Place& place, std::vector<Mark>& out) {
    const Fields m(reader_, place, {"center", "radius", "time", "fades"});
    RingMark mark{vec3(m, "center"), number(m, "radius"), number(m, "time"), {}};
    read_fades(m, mark.fades);
    out.emplace_back(std::move(mark));
  }
  void read_fades(const Fields& f, std::vector<FalloffPoint>& out) {
    if (!f.has("fades")) return;
    for (const Place& item : list(f, "fades")) {
      if (const auto two = reader_.numbers(item, 2)) out.push_back({(*two)[0], (*two)[1]});
    }
  }

  void read_legs(const Fields& f, std::string_view key, std::vector<Leg>& out) {
    for (const Place& item : list(f, key)) {
      const Fields part(reader_, item, {"from", "to", "at", "velocity", "facing", "axis", "turn_rate"});
      Leg& leg = out.emplace_back();
      leg.start = number(part, "from"), leg.end = number(part, "to");
      leg.from.at = vec3(part, "at"), leg.velocity = vec3(part, "velocity");
      leg.from.turn = read_axes(part);
      if (!part.has("turn_rate")) continue;
      leg.axis = vec3(part, "axis"), leg.turn_rate = number(part, "turn_rate");
    }
  }

  void read_lasting(const Place& place, std::vector<Mark>& out) {
    const Fields m(reader_, place,
                   {"from", "to", "carrier", "base", "own", "sizes", "blade", "trap", "ended", "fades"});
    LastingMark mark;
    read_fades(m, mark.fades);
    mark.from_s = number(m, "from"), mark.to_s = number(m, "to");
    read_legs(m, "carrier", mark.carrier), read_legs(m, "own", mark.own);
    if (const auto base = m.need("base", "a place")) {
      const Fields b(reader_, *base, {"at", "facing"});
      mark.base = {vec3(b, "at"), read_axes(b)};
    }
    const detail::SceneNames names(arena_);
    for (const Place& item : list(m, "sizes")) {
      const Fields part(reader_, item, {"t", "shape"});
      GrownArea& size = mark.sizes.emplace_back();
      size.time_s = number(part, "t");
      if (const auto shape = part.need("shape", "a shape"))
        detail::RowReader(reader_, names).read(*shape, size.shape);
    }
    if (const auto p = m.need("blade", "true or false")) mark.blade = reader_.boolean(*p).value_or(false);
    if (const auto p = m.need("trap", "true or false")) mark.trap = reader_.boolean(*p).value_or(false);
    mark.ended = word(m, "ended", Ended::not_ready);
    out.emplace_back(std::move(mark));
  }

  Reader& reader_;
  const Arena& arena_;
};

}  // namespace

nlohmann::ordered_json detail::outcome_object(const Outcome& o, const Arena& arena) {
  return outcome(o, arena);
}

std::string outcomes_json(std::span<const Outcome> outcomes, const Arena& arena, std::string_view title) {
  Json out{{"dardo", 1}, {"scene", title}};
  Json& launches = out["launches"] = Json::array();
  for (const Outcome& o : outcomes) launches.push_back(outcome(o, arena));
  return out.dump(2) + "\n";
}

FileResult<std::vector<Outcome>> parse_outcomes(std::string_view text, std::string_view name,
                                                const Arena& arena) {
  const auto root = detail::parse_document(text, name);
  if (!root) return tl::unexpected(root.error());
  Reader reader(*root, name);
  auto out = OutcomeReader(reader, arena).read({&*root, ""});
  if (!reader.clean()) return tl::unexpected(reader.take());
  return out;
}

}  // namespace dardo::io
