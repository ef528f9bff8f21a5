#include "dardo/resolve/look.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "commands.hpp"
#include "dardo/record/explain.hpp"
#include "places.hpp"
#include "terminal.hpp"

namespace dardo::cli {
namespace {

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
  if (!find_spot(*scene, "--from", options.from, question.by, question.place) ||
      !find_spot(*scene, "--to", options.to, question.body, question.target))
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
