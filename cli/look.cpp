#include "dardo/resolve/look.hpp"

#include <fmt/format.h>

#include <array>
#include <charconv>
#include <nlohmann/json.hpp>

#include "commands.hpp"
#include "dardo/record/explain.hpp"
#include "terminal.hpp"

namespace dardo::cli {
namespace {

/// "x,y" or "x,y,z".
std::optional<Vec3> place_of(std::string_view text) {
  std::array<double, 3> parts{};
  std::size_t count = 0;
  while (count < parts.size() && !text.empty()) {
    const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), parts[count]);
    if (fault != std::errc{}) return std::nullopt;
    ++count;
    text.remove_prefix(static_cast<std::size_t>(end - text.data()));
    if (text.empty()) break;
    if (text.front() != ',') return std::nullopt;
    text.remove_prefix(1);
  }
  if (!text.empty() || count < 2) return std::nullopt;
  return Vec3{parts[0], parts[1], parts[2]};
}

/// As the scene's file counts, and back.
Vec3 as_counted(const io::Scene& scene, const Vec3& p) { return {p.x, scene.y_down ? -p.y : p.y, p.z}; }

/// A body of the scene by its id, or a place; false, with a message, when it is neither.
bool find(const io::Scene& scene, const char* option, const std::string& text, BodyId& body,
          std::optional<Vec3>& place) {
  if (const auto found = scene.arena.find_body(text)) {
    body = *found;
    return true;
  }
  place = place_of(text);
  if (place) return place = as_counted(scene, *place), true;
  print_error(
      fmt::format("{}: is neither a body nor a place: \"{}\"; expected a body's id, or x,y,z", option, text));
  return false;
}

std::string text_of(const Vec3& p) { return fmt::format("({:.2f}, {:.2f}, {:.2f})", p.x, p.y, p.z); }

}  // namespace

int run_look(const LookOptions& options) {
  const auto scene = io::read_scene(options.scene);
  if (!scene) {
    print_problems(scene.error());
    return kBadInput;
  }
  const Arena& arena = scene->arena;
  Look question;
  if (!find(*scene, "--from", options.from, question.by, question.place) ||
      !find(*scene, "--to", options.to, question.body, question.target))
    return kBadInput;
  question.sight.through = options.through == "shots"    ? Passage::shots
                           : options.through == "blasts" ? Passage::blasts
                                                         : Passage::sight;
  question.sight.thickness = options.thickness, question.at_s = options.at;
  if (options.share) question.sight.to = Sight::To::points;
  const Sighting answer = look(arena, question);
  for (const Problem& p : answer.problems)
    print_error(fmt::format("{}: {} {}; expected {}", options.scene, p.where, p.what, p.fix));
  if (!answer.problems.empty()) return kBadInput;
  const std::string why = answer.seen ? "nothing stands between" : explain(answer.reading, arena);
  if (options.json) {
    const auto point = [&](const Vec3& own) {
      const Vec3 v = as_counted(*scene, own);
      return nlohmann::ordered_json::array({v.x, v.y, v.z});
    };
    nlohmann::ordered_json out{{"dardo", 1},
                               {"from", options.from},
                               {"to", options.to},
                               {"at", options.at},
                               {"seen", answer.seen},
                               {"reason", name(answer.reading.reason)},
                               {"text", why},
                               {"share", answer.share.share},
                               {"share_error", answer.share.error},
                               {"eye", point(answer.eye)},
                               {"target", point(answer.target)}};
    if (!answer.reading.by.empty()) out["cut_at"] = point(answer.reading.at);
    fmt::print("{}\n", out.dump(2));
    return kDone;
  }
  fmt::print("{} {} {}: {}\n", options.from,
             answer.seen ? toned("sees", Tone::good) : std::string("does not see"), options.to, why);
  fmt::print("  from {} to {}, {:.2f} m\n", text_of(as_counted(*scene, answer.eye)),
             text_of(as_counted(*scene, answer.target)), length(answer.target - answer.eye));
  if (options.share)
    fmt::print("  seen: {:.1f} %{}\n", 100 * answer.share.share,
               answer.share.error > 0 ? fmt::format(", to {:.1f} %", 100 * answer.share.error) : "");
  return kDone;
}

}  // namespace dardo::cli
