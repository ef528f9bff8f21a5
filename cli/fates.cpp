#include "fates.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <nlohmann/json.hpp>

#include "dardo/record/explain.hpp"
#include "terminal.hpp"

namespace dardo::cli {
namespace {

using Json = nlohmann::ordered_json;

bool in_metres(const Reading& r) {
  return !r.of_share && (r.gate == Gate::reach || r.gate == Gate::sight || r.gate == Gate::cap);
}
/// Of what a gate has measured.
std::string_view unit_of(const Reading& r) {
  if (r.of_share) return "share";
  if (r.gate == Gate::time) return "s";
  return in_metres(r) ? "m" : "";
}

/// All that the lines for machines say of a fate, by name.
Json record_of(const Fate& f, const Arena& arena) {
  const Outcome& out = *f.outcome;
  Json row{{"launch", out.launch}, {"attack", out.attack}};
  if (!out.by.empty()) row["by"] = arena.body(out.by).id;
  row["body"] = arena.body(f.body()).id;
  row["fate"] = f.strike != nullptr ? "struck" : "spared";
  if (const Strike* s = f.strike) {
    row["strike"] = f.number;
    row["zone"] = arena.build(arena.body(s->body).build).hitboxes[s->hitbox].zone;
    row["time_s"] = s->time_s, row["distance_m"] = s->distance;
    row["x_m"] = s->point.x, row["y_m"] = s->point.y, row["z_m"] = s->point.z;
    row["power"] = s->power.arriving(), row["stage"] = s->stage;
    if (s->cause > 0) row["cause"] = s->cause;
    row["why"] = "struck";
    return row;
  }
  const Reading& r = f.verdict->deciding;
  row["stage"] = r.stage, row["gate"] = name(r.gate), row["reason"] = name(r.reason);
  if (r.measured) row["measured"] = *r.measured;
  if (r.limit) row["limit"] = *r.limit;
  if (r.margin) row["margin"] = *r.margin;
  if (r.measured || r.limit || r.margin) row["unit"] = unit_of(r);
  row["why"] = explain(*f.verdict, arena);
  return row;
}

constexpr const char* kColumns[] = {"launch", "attack", "by",         "body", "fate",   "strike",
                                    "zone",   "time_s", "distance_m", "x_m",  "y_m",    "z_m",
                                    "power",  "stage",  "cause",      "gate", "reason", "measured",
                                    "limit",  "margin", "unit",       "why"};

/// A cell of text: never a formula to a program that opens it.
std::string csv_text(const std::string& text) {
  std::string out = shown(text);
  if (!out.empty() && std::string_view("=+-@").find(out[0]) != std::string_view::npos) out.insert(0, "'");
  if (out.find_first_of(",\"") == std::string::npos) return out;
  std::string quoted = "\"";
  for (const char c : out) quoted += c == '"' ? std::string("\"\"") : std::string(1, c);
  return quoted + '"';
}

}  // namespace

std::optional<double> Fate::distance() const {
  if (strike != nullptr) return strike->distance;
  const Reading& r = verdict->deciding;
  return r.gate == Gate::reach && !r.of_share ? r.measured : std::nullopt;
}

Only only_of(const std::string& word) {
  return word == "struck"   ? Only::struck
         : word == "spared" ? Only::spared
         : word == "near"   ? Only::near
                            : Only::all;
}
SortBy sort_of(const std::string& word) {
  return word == "name"       ? SortBy::name
         : word == "distance" ? SortBy::distance
         : word == "power"    ? SortBy::power
         : word == "margin"   ? SortBy::margin
                              : SortBy::fate;
}

std::vector<Fate> fates_of(const Outcome& outcome, const Arena& arena, Only only, SortBy by) {
  std::vector<Fate> out;
  if (only == Only::all || only == Only::struck) {
    for (std::size_t i = 0; i < outcome.strikes.size(); ++i)
      out.push_back({&outcome, nullptr, &outcome.strikes[i], i + 1});
  }
  for (const Verdict& v : outcome.verdicts) {
    if (!v.struck && (only == Only::all || only == Only::spared || (only == Only::near && nearly_struck(v))))
      out.push_back({&outcome, &v, nullptr});
  }
  constexpr double kLast = std::numeric_limits<double>::infinity();
  const auto key = [&](const Fate& f) -> double {
    switch (by) {
      case SortBy::distance: return f.distance().value_or(kLast);
      case SortBy::power: return f.strike != nullptr ? -f.power() : kLast;
      case SortBy::margin: return f.verdict != nullptr ? f.verdict->deciding.margin.value_or(kLast) : kLast;
      default: return 0;
    }
  };
  std::stable_sort(out.begin(), out.end(), [&](const Fate& a, const Fate& b) {
    if (by == SortBy::name) return arena.body(a.body()).id < arena.body(b.body()).id;
    return key(a) < key(b);
  });
  return out;
}

std::string fates_csv(std::span<const Fate> fates, const Arena& arena) {
  std::string out = fmt::format("{}\r\n", fmt::join(kColumns, ","));
  for (const Fate& f : fates) {
    const Json row = record_of(f, arena);
    std::vector<std::string> cells;
    for (const char* column : kColumns) {
      const auto at = row.find(column);
      cells.push_back(at == row.end() ? "" : at->is_string() ? csv_text(at->get<std::string>()) : at->dump());
    }
    out += fmt::format("{}\r\n", fmt::join(cells, ","));
  }
  return out;
}

std::string fates_json_lines(std::span<const Fate> fates, const Arena& arena) {
  std::string out;
  for (const Fate& f : fates) out += record_of(f, arena).dump() + "\n";
  return out;
}

}  // namespace dardo::cli
