#include "dardo/resolve/aimed.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>

#include "commands.hpp"
#include "dardo/resolve/resolve.hpp"
#include "terminal.hpp"

namespace dardo::cli {
namespace {

double degrees(double radians) { return radians * 180 / std::numbers::pi; }
double bearing(const Aimed& way) { return degrees(std::atan2(way.direction.y, way.direction.x)); }
double elevation(const Aimed& way) { return degrees(std::asin(std::clamp(way.direction.z, -1.0, 1.0))); }

std::string way_of(const Aimed& way) { return way.high ? "high arc" : "low arc"; }

void print_report(const Arena& arena, const io::SceneLaunch& launch, const AimReport& report) {
  fmt::print("{}  {} by {}\n", toned(launch.launch.id, Tone::strong), launch.attack.name,
             arena.body(launch.launch.by).id);
  if (report.ways.empty()) {
    fmt::print("  no way: {}\n", report.problem);
    return;
  }
  const bool arcs = report.ways.size() > 1;
  Table table({Tone::good});
  for (const Aimed& w : report.ways) {
    table.add({arcs ? way_of(w) : "aim", fmt::format("bearing {:.2f}°", bearing(w)),
               fmt::format("elevation {:.2f}°", elevation(w)), fmt::format("{:.2f} m/s", w.speed),
               fmt::format("after {:.3f} s", w.time_s),
               fmt::format("at ({:.2f}, {:.2f}, {:.2f})", w.meets.x, w.meets.y, w.meets.z),
               w.blocked_by
                   ? fmt::format("blocked by {} at ({:.2f}, {:.2f}, {:.2f})", arena.wall(*w.blocked_by).id,
                                 w.blocked_at.x, w.blocked_at.y, w.blocked_at.z)
               : w.off > 1e-3 ? fmt::format("passes within {:.2f} m", w.off)
                              : "clear"});
  }
  table.print("  ");
}

nlohmann::ordered_json json_of(const Arena& arena, const io::SceneLaunch& launch, const AimReport& report) {
  nlohmann::ordered_json out{
      {"launch", launch.launch.id}, {"attack", launch.attack.name}, {"by", arena.body(launch.launch.by).id}};
  auto& ways = out["ways"] = nlohmann::ordered_json::array();
  const auto place = [](const Vec3& v) { return nlohmann::ordered_json::array({v.x, v.y, v.z}); };
  for (const Aimed& w : report.ways) {
    nlohmann::ordered_json way{{"direction", place(w.direction)},
                               {"bearing", bearing(w)},
                               {"elevation", elevation(w)},
                               {"speed", w.speed},
                               {"time", w.time_s},
                               {"meets", place(w.meets)},
                               {"off", w.off},
                               {"high", w.high}};
    if (w.blocked_by)
      way["blocked_by"] = arena.wall(*w.blocked_by).id, way["blocked_at"] = place(w.blocked_at);
    ways.push_back(std::move(way));
  }
  if (report.ways.empty()) out["problem"] = report.problem, out["more_speed"] = report.more_speed;
  return out;
}

}  // namespace

int run_aim(const AimOptions& options) {
  const auto opened = open_scene(options.scene, options.launch, std::nullopt);
  if (!opened) return kBadInput;
  const io::Scene* scene = &opened->scene;
  const auto* launches = &opened->launches;
  nlohmann::ordered_json all = nlohmann::ordered_json::array();
  std::size_t told = 0;
  for (const io::SceneLaunch* l : *launches) {
    const AimReport report = aim(scene->arena, l->attack, l->launch);
    if (options.launch.empty() && !report.problems.empty()) continue;  // the others are not aimed
    for (const Problem& p : report.problems) {
      print_error(fmt::format("--launch {}: {} {}; expected {}", l->launch.id, p.where, p.what, p.fix));
    }
    if (!report.problems.empty()) return kBadInput;
    if (options.json) {
      all.push_back(json_of(scene->arena, *l, report));
    } else {
      if (told > 0) fmt::print("\n");
      print_report(scene->arena, *l, report);
    }
    ++told;
  }
  if (options.json) {
    fmt::print("{}\n", nlohmann::ordered_json{{"dardo", 1}, {"aims", std::move(all)}}.dump(2));
  } else if (told == 0) {
    print_error(fmt::format("{}: has no shot at a body or a place to aim; expected one in \"launches\"",
                            options.scene));
    return kBadInput;
  }
  return kDone;
}

}  // namespace dardo::cli
