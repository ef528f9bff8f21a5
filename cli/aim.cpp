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

std::string way_of(const Aimed& way, bool arcs) {
  if (!arcs) return way.late ? "late lead" : "early lead";
  return way.high ? "high arc" : "low arc";
}

void print_report(const Arena& arena, const io::SceneLaunch& launch, const AimReport& report,
                  const std::optional<Aimed>& least) {
  fmt::print("{}  {} {}\n", toned(launch.launch.id, Tone::strong), launch.attack.name,
             launch.launch.by.empty() ? "from a place" : "by " + arena.body(launch.launch.by).id);
  if (report.ways.empty()) fmt::print("  no way: {}\n", report.problem);
  const bool several = report.ways.size() > 1,
             arcs = std::any_of(report.ways.begin(), report.ways.end(), [](const Aimed&w) { return w.high; });
  Table table({Tone::good});
  const auto add = [&](const Aimed& w, const std::string& what) {
    table.add(
        {what, fmt::format("bearing {:.2f}°", bearing(w)), fmt::format("elevation {:.2f}°", elevation(w)),
         fmt::format("{:.2f} m/s", w.speed), fmt::format("after {:.3f} s", w.time_s),
         fmt::format("at ({:.2f}, {:.2f}, {:.2f})", w.meets.x, w.meets.y, w.meets.z),
         w.blocked_by ? fmt::format("blocked by {} at ({:.2f}, {:.2f}, {:.2f})", arena.wall(*w.blocked_by).id,
                                    w.blocked_at.x, w.blocked_at.y, w.blocked_at.z)
         : w.off > 1e-3 ? fmt::format("passes within {:.2f} m", w.off)
                        : "clear"});
  };
  for (const Aimed& w : report.ways) add(w, several ? way_of(w, arcs) : "aim");
  if (least) add(*least, "least speed");
  table.print("  ");
}

nlohmann::ordered_json json_of(const Arena& arena, const io::SceneLaunch& launch, const AimReport& report,
                               const std::optional<Aimed>& least) {
  nlohmann::ordered_json out{{"launch", launch.launch.id}, {"attack", launch.attack.name}, {"by", nullptr}};
  if (!launch.launch.by.empty()) out["by"] = arena.body(launch.launch.by).id;
  auto& ways = out["ways"] = nlohmann::ordered_json::array();
  const auto place = [](const Vec3& v) { return nlohmann::ordered_json::array({v.x, v.y, v.z}); };
  const auto way_json = [&](const Aimed& w) {
    nlohmann::ordered_json way{{"direction", place(w.direction)},
                               {"bearing", bearing(w)},
                               {"elevation", elevation(w)},
                               {"speed", w.speed},
                               {"time", w.time_s},
                               {"meets", place(w.meets)},
                               {"off", w.off},
                               {"high", w.high},
                               {"late", w.late}};
    if (w.blocked_by)
      way["blocked_by"] = arena.wall(*w.blocked_by).id, way["blocked_at"] = place(w.blocked_at);
    return way;
  };
  for (const Aimed& w : report.ways) ways.push_back(way_json(w));
  if (least) out["least_speed"] = way_json(*least);
  if (report.ways.empty()) out["problem"] = report.problem, out["more_speed"] = report.more_speed;
  return out;
}

}  // namespace

int run_aim(const AimOptions& options) {
  const auto opened = open_scene(options.scene, options.launches, std::nullopt);
  if (!opened) return kBadInput;
  const io::Scene* scene = &opened->scene;
  const auto* launches = &opened->launches;
  nlohmann::ordered_json all = nlohmann::ordered_json::array();
  std::size_t told = 0;
  for (const io::SceneLaunch* l : *launches) {
    const AimReport report = aim(scene->arena, l->attack, l->launch);
    if (options.launches.empty() && !report.problems.empty()) continue;  // the others are not aimed
    for (const Problem& p : report.problems) {
      print_error(fmt::format("--launch {}: {} {}; expected {}", l->launch.id, p.where, p.what, p.fix));
    }
    if (!report.problems.empty()) return kBadInput;
    const auto least = least_speed(scene->arena, l->attack, l->launch);
    if (options.json) {
      all.push_back(json_of(scene->arena, *l, report, least));
    } else {
      if (told > 0) fmt::print("\n");
      print_report(scene->arena, *l, report, least);
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
