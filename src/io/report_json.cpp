#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <nlohmann/json.hpp>
#include <unordered_map>

#include "dardo/arena/track.hpp"
#include "dardo/io/describe.hpp"
#include "dardo/io/report.hpp"
#include "dardo/record/explain.hpp"
#include "dardo/record/sketch.hpp"
#include "io/detail/objects.hpp"

namespace dardo::io {
namespace {

using Json = nlohmann::ordered_json;

Json point(const Vec3& v) { return Json::array({v.x, v.y, v.z}); }
Json points(const std::vector<Vec3>& all) {
  Json out = Json::array();
  for (const Vec3& p : all) out.push_back(point(p));
  return out;
}
Json axes(const Rotation& turn) { return Json::array({point(turn.x), point(turn.y), point(turn.z)}); }

// Shapes with all their numbers, where files leave out what is as it would be anyhow.
struct ShapeWriter {
  Json operator()(const Ball& s) const {
    return {{"ball", {{"center", point(s.center)}, {"radius", s.radius}}}};
  }
  Json operator()(const Capsule& s) const {
    return {{"capsule", {{"from", point(s.from)}, {"to", point(s.to)}, {"radius", s.radius}}}};
  }
  Json operator()(const Box& s) const {
    return {{"box", {{"center", point(s.center)}, {"half", point(s.half)}, {"turn", axes(s.turn)}}}};
  }
  Json operator()(const Cylinder& s) const {
    return {{"cylinder", {{"from", point(s.from)}, {"to", point(s.to)}, {"radius", s.radius}}}};
  }
  Json operator()(const Cone& s) const {
    return {{"cone", {{"apex", point(s.apex)}, {"base", point(s.base)}, {"radius", s.radius}}}};
  }
  Json operator()(const Hull& s) const { return {{"hull", {{"points", points(s.points)}}}}; }
  Json operator()(const Triangle& s) const {
    return {{"triangle", {{"points", Json::array({point(s.a), point(s.b), point(s.c)})}}}};
  }

  Json operator()(const BallArea& s) const { return {{"ball", {{"radius", s.radius}}}}; }
  Json operator()(const RingArea& s) const {
    return {{"ring", {{"near", s.near}, {"far", s.far}, {"low", s.low}, {"high", s.high}}}};
  }
  Json operator()(const ShellArea& s) const { return {{"shell", {{"near", s.near}, {"far", s.far}}}}; }
  Json operator()(const SectorArea& s) const {
    return {
        {"sector", {{"angle", s.angle}, {"near", s.near}, {"far", s.far}, {"low", s.low}, {"high", s.high}}}};
  }
  Json operator()(const ConeArea& s) const {
    return {{"cone", {{"angle", s.angle}, {"near", s.near}, {"far", s.far}}}};
  }
  Json operator()(const BoxArea& s) const { return {{"box", {{"half", point(s.half)}}}}; }
  Json operator()(const BeamArea& s) const {
    return {{"beam", {{"length", s.length}, {"radius", s.radius}}}};
  }
  Json operator()(const CapsuleArea& s) const {
    return {{"capsule", {{"from", point(s.from)}, {"to", point(s.to)}, {"radius", s.radius}}}};
  }
  Json operator()(const PrismArea& s) const {
    Json corners = Json::array();
    for (const planar::Vec2& p : s.polygon) corners.push_back(Json::array({p.x, p.y}));
    return {{"prism", {{"polygon", std::move(corners)}, {"low", s.low}, {"high", s.high}}}};
  }
  Json operator()(const HalfSpaceArea&) const { return {{"half_space", Json::object()}}; }
  Json operator()(const HullArea& s) const { return {{"hull", {{"points", points(s.points)}}}}; }
};
template <class Any>
Json shape(const Any& any) {
  return std::visit(ShapeWriter{}, any);
}

Json leg(const Leg& l) {
  Json out{{"from", l.start}, {"to", l.end}, {"at", point(l.from.at)}};
  if (!(l.from.turn == Rotation{})) out["facing"] = axes(l.from.turn);
  if (l.velocity != Vec3{}) out["velocity"] = point(l.velocity);
  if (l.turn_rate != 0) out["axis"] = point(l.axis), out["turn_rate"] = l.turn_rate;
  return out;
}
Json still(const Pose& pose) { return Json::array({leg({.start = 0, .end = 0, .from = pose})}); }

/// What is only told and computed with no more needs no more than ten digits.
void round_numbers(Json& value) {
  if (value.is_structured()) {
    for (Json& part : value) round_numbers(part);
  } else if (value.is_number_float()) {
    const std::string digits = fmt::format("{:.10g}", value.get<double>());
    double rounded = 0;
    std::from_chars(digits.data(), digits.data() + digits.size(), rounded);
    value = rounded;
  }
}

/// Each once, known by its number: thousands of bodies come to the same gates for the same reasons.
class Once {
 public:
  std::size_t operator()(Json one) {
    const auto [at, is_new] =
        numbers_.emplace(one.dump(-1, ' ', false, Json::error_handler_t::replace), all_.size());
    if (is_new) all_.push_back(std::move(one));
    return at->second;
  }
  Json take() { return std::move(all_); }

 private:
  std::unordered_map<std::string, std::size_t> numbers_;
  Json all_ = Json::array();
};
struct Shared {
  Once texts;
  Once gates;
};

Json body(const Arena& arena, BodyId id) {
  const Body& b = arena.body(id);
  Json out{{"id", b.id},
           {"build", arena.build(b.build).name},
           {"faction", b.faction.index},
           {"legs", still(b.pose)}};
  if (b.fallen) out["fallen"] = true;
  if (!b.track.empty()) {
    out["legs"] = Json::array();
    for (const Leg& l : legs_of(b.track)) out["legs"].push_back(leg(l));
  }
  if (!arena.changes(id)) return out;
  const auto hitboxes = static_cast<std::uint32_t>(arena.build(b.build).hitboxes.size());
  for (const auto& state : arena.states(id)) {
    Json there = Json::array();
    for (std::uint32_t i = 0; i < hitboxes; ++i) there.push_back(state.has(i));
    out["states"].push_back(
        {{"time", state.from_s}, {"faction", state.faction.index}, {"hitboxes", std::move(there)}});
  }
  return out;
}

Json build(const Build& b) {
  Json hitboxes = Json::array();
  for (const Hitbox& h : b.hitboxes)
    hitboxes.push_back({{"zone", h.zone}, {"shape", shape(h.shape)}, {"factor", h.factor}});
  return {{"hitboxes", std::move(hitboxes)}};
}

Json wall(const Arena& arena, WallId id) {
  const WallTable& table = arena.wall_table();
  Json out{{"id", arena.wall(id).id}, {"material", arena.material_name(id)}};
  Json& blocks = out["blocks"] = Json::array();
  for (const Passage p : {Passage::sight, Passage::shots, Passage::blasts, Passage::feet}) {
    if (arena.blocks(id).has(p)) blocks.push_back(name(p));
  }
  for (const WallPartId part : table.parts_of(id)) out["parts"].push_back(shape(table.shape(part)));
  out["legs"] = Json::array();
  if (!table.moves(id)) {
    out["legs"] = still({});
    return out;
  }
  constexpr double kLongest = 1e6;
  table.each_leg(id, 0, kLongest, [&](const Leg& l, double from, double to) {
    Leg part{from, to, l.at(from), l.velocity};
    if (l.turn_rate != 0) part.axis = l.axis, part.turn_rate = l.turn_rate;
    out["legs"].push_back(leg(part));
    constexpr std::size_t kMost = 10000;
    return out["legs"].size() < kMost;
  });
  return out;
}

Json number_or_null(const std::optional<double>& v) { return v ? Json(*v) : Json(nullptr); }

/// A gate's name, its reason, what was measured, the limit, the margin, its text, whose stage, and whether
/// the numbers are shares.
std::size_t gate(const Reading& r, const Arena& arena, Shared& shared) {
  Json out = Json::array({name(r.gate), name(r.reason), number_or_null(r.measured), number_or_null(r.limit),
                          number_or_null(r.margin), shared.texts(explain(r, arena)), r.stage, r.of_share});
  round_numbers(out);
  return shared.gates(std::move(out));
}

Json verdict(const Verdict& v, const Arena& arena, Shared& shared) {
  Json out{{"body", arena.body(v.body).id}, {"text", shared.texts(explain(v, arena))}};
  if (v.struck) {
    out["strike"] = v.strike;
  } else {
    out["gate"] = name(v.deciding.gate), out["reason"] = name(v.deciding.reason);
    out["margin"] = number_or_null(v.deciding.margin);
    if (v.deciding.of_share) out["of_share"] = true;
    round_numbers(out["margin"]);
  }
  if (nearly_struck(v)) out["near"] = true;
  if (!v.deciding.by.body.empty()) out["by_body"] = arena.body(v.deciding.by.body).id;
  Json& gates = out["gates"] = Json::array();
  for (const Reading& r : v.gates) gates.push_back(gate(r, arena, shared));
  return out;
}

/// A strike without what the page does not show, or takes to be as it mostly is.
Json strike(Json out, const Json& launch) {
  for (const char* unread : {"hitbox", "seen", "normal", "centre", "speed", "stage", "launch", "carrier"})
    out.erase(unread);
  if (out["cause"] == 0) out.erase("cause");
  if (out["by"] == launch["by"] && out["attack"] == launch["attack"]) out.erase("by"), out.erase("attack");
  Json power = Json::object();
  for (const auto& [factor, value] : out["power"].items()) {
    if (factor == "base" || factor == "arriving" || value != 1.0) power[factor] = value;
  }
  out["power"] = std::move(power);
  round_numbers(out);
  return out;
}

Json launch(const Outcome& o, const Arena& arena) {
  Json out = detail::outcome_object(o, arena);
  Shared shared;
  Json verdicts = Json::array();
  for (const Verdict& v : o.verdicts) verdicts.push_back(verdict(v, arena, shared));
  out["verdicts"] = std::move(verdicts), out["gates"] = shared.gates.take(),
  out["texts"] = shared.texts.take();
  out["end_text"] = explain_end(o, arena);
  const TimeSpan span = span_of(o);
  out["span"] = {span.from_s, span.to_s};
  for (Json& s : out["strikes"]) s = strike(std::move(s), out);
  if (out.contains("happenings")) {
    for (Json& h : out["happenings"]) round_numbers(h);
  }
  if (out.contains("surfaces")) round_numbers(out["surfaces"]);
  for (std::size_t i = 0; i < o.marks.size(); ++i) {
    Json& mark = out["sketch"][i];
    if (const auto* area = std::get_if<AreaMark>(&o.marks[i])) mark["area"]["shape"] = shape(area->shape);
    if (const auto* lasted = std::get_if<LastingMark>(&o.marks[i])) {
      for (std::size_t k = 0; k < lasted->sizes.size(); ++k)
        mark["lasting"]["sizes"][k]["shape"] = shape(lasted->sizes[k].shape);
    }
    if (const auto* dash = std::get_if<DashMark>(&o.marks[i])) {
      for (std::size_t k = 0; k < dash->hitboxes.size(); ++k)
        mark["dash"]["hitboxes"][k] = shape(dash->hitboxes[k]);
    }
    // The page asks the pieces.
    if (const auto* flight = std::get_if<FlightMark>(&o.marks[i]);
        flight != nullptr && !flight->pieces.empty())
      mark["flight"].erase("places"), mark["flight"].erase("times");
  }
  return out;
}

Json sentences(const std::vector<Told>& told) {
  Json out = Json::array();
  for (const Told& t : told) out.push_back({{"text", t.text}, {"depth", t.depth}});
  return out;
}

/// An attack in words, with what its levels say otherwise side by side.
Json words(const Scene& s, const Attack& attack) {
  const Description own = describe(s, attack);
  Json out{{"line", own.line}, {"text", sentences(own.text)}, {"bad_at", sentences(own.bad_at)}};
  for (const Levels& levels : s.levels) {
    if (levels.attack != attack.name) continue;
    std::vector<ToldNumber> rows;  // whatever differs anywhere, as the attack itself says it
    std::vector<Description> all;
    for (const Level& level : levels.all) {
      all.push_back(describe(s, level.attack));
      out["levels"]["names"].push_back(level.name);
      for (const ToldDifference& d : compare(own, all.back())) {
        const auto same = [&](const ToldNumber& n) { return n.pointer == d.pointer; };
        if (std::none_of(rows.begin(), rows.end(), same)) rows.push_back({d.pointer, d.one, d.says});
      }
    }
    for (const ToldNumber& row : rows) {
      Json values = Json::array({row.value});
      for (const Description& d : all) {
        const auto same = [&](const ToldNumber& n) { return n.pointer == row.pointer; };
        const auto at = std::find_if(d.numbers.begin(), d.numbers.end(), same);
        values.push_back(at != d.numbers.end() ? at->value : "");
      }
      out["levels"]["rows"].push_back({{"pointer", row.pointer}, {"says", row.says}, {"values", values}});
    }
  }
  return out;
}

Json scene(const ReportScene& of) {
  const Scene& s = of.scene;
  const Arena& arena = s.arena;
  Json out{{"name", of.name},    {"title", s.title}, {"unit", s.unit.empty() ? "m" : s.unit},
           {"y_down", s.y_down}, {"flat", nullptr},  {"ground", nullptr}};
  if (s.flat) out["flat"] = *s.flat == Flat::above ? "above" : "side";
  if (arena.ground())
    out["ground"] = {{"at", point(arena.ground_normal() * *arena.ground())},
                     {"normal", point(arena.ground_normal())}};
  out["factions"] = out["bodies"] = out["walls"] = out["launches"] = Json::array();
  out["builds"] = out["attacks"] = Json::object();
  for (const FactionId f : arena.factions()) out["factions"].push_back(arena.faction_name(f));
  for (const BuildId b : arena.builds()) out["builds"][arena.build(b).name] = build(arena.build(b));
  for (const BodyId b : arena.bodies()) out["bodies"].push_back(body(arena, b));
  for (const WallId w : arena.walls()) out["walls"].push_back(wall(arena, w));
  out["words"] = Json::object();
  for (const Attack& a : s.attacks) {
    out["attacks"][a.name] = detail::attack_object(s, a);
    out["words"][a.name] = words(s, a);
  }
  if (of.together) {
    out["together"] = true;
    out["launches"].push_back(launch(course_of(of.outcomes, "all together"), arena));
    out["launches"].back()["end_text"] = "one course of events";
  }
  for (const Outcome& o : of.outcomes) out["launches"].push_back(launch(o, arena));
  return out;
}

}  // namespace

nlohmann::ordered_json detail::area_object(const AreaShape& area) { return shape(area); }

std::string report_json(std::span<const ReportScene> scenes) {
  Json out{{"dardo", 1}, {"scenes", Json::array()}};
  for (const ReportScene& s : scenes) out["scenes"].push_back(scene(s));
  const std::string text = out.dump(-1, ' ', false, Json::error_handler_t::replace);
  // In a page "<" could end the script that holds it.
  std::string safe;
  safe.reserve(text.size() + text.size() / 64);
  for (const char c : text) c == '<' ? safe.append("\\u003c") : safe.append(1, c);
  return safe;
}

tl::expected<std::string, std::string> report_page(std::string_view viewer,
                                                   std::span<const ReportScene> scenes) {
  constexpr std::string_view kHere = "{\"dardo\":0}";
  const std::size_t at = viewer.find(kHere);
  if (at == std::string_view::npos || viewer.find(kHere, at + 1) != std::string_view::npos)
    return tl::unexpected(std::string("the viewer's page has not one place for the data"));
  std::string out(viewer.substr(0, at));
  out += report_json(scenes);
  return out += viewer.substr(at + kHere.size());
}

}  // namespace dardo::io
