// What the core says of where everything is at many times, with the data of a report of the same: the page's
// own module is held against it (viewer/test/motion.test.ts). viewer_truth FILE SCENES...
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "dardo/dardo.hpp"
#include "dardo/io/report.hpp"
#include "io/detail/objects.hpp"
#include "support/random.hpp"

namespace {

using namespace dardo;
using Json = nlohmann::ordered_json;

Json numbers(const Pose& p) {
  Json out = Json::array();
  for (const Vec3& v : {p.at, p.turn.x, p.turn.y, p.turn.z}) out.push_back({v.x, v.y, v.z});
  return out;
}

/// What is there at a time, in the order of the outcome's marks; null where there is nothing of one yet.
Json moment(const Arena& arena, const Outcome& outcome, double t) {
  Json out{{"t", t}, {"bodies", Json::array()}, {"walls", Json::array()}, {"marks", Json::array()}};
  for (const SketchBody& b : sketch_at(arena, outcome, t).bodies) out["bodies"].push_back(numbers(b.pose));
  for (const WallId w : arena.walls()) out["walls"].push_back(numbers(arena.wall_table().leg(w, t).at(t)));
  for (const Mark& m : outcome.marks) {
    Json at = nullptr;
    if (const auto* flight = std::get_if<FlightMark>(&m)) {
      for (const WayPiece& p : flight->pieces) {
        if (!(p.start_s <= t && t <= p.end_s)) continue;
        const Vec3 place = place_at(p, t);
        at = {place.x, place.y, place.z};
      }
    }
    if (const auto* lasted = std::get_if<LastingMark>(&m); lasted && lasted->from_s <= t && t <= lasted->to_s)
      at = {{"frame", numbers(frame_at(*lasted, t))},
            {"shape", io::detail::area_object(shape_at(*lasted, t))}};
    out["marks"].push_back(std::move(at));
  }
  return out;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 3) return 2;
  Json truth = Json::array();
  std::vector<io::Scene> scenes;
  for (int i = 2; i < argc; ++i) {
    auto scene = io::read_scene(argv[i]);
    if (!scene) return 2;
    scenes.push_back(std::move(*scene));
  }
  std::vector<io::ReportScene> reports;
  test::Random random(11);
  for (const io::Scene& scene : scenes) {
    reports.push_back({scene.title, scene, {}});
    Json& launches = truth.emplace_back();
    for (const io::SceneLaunch& l : scene.launches) {
      const Outcome outcome = io::resolve(scene, l, Detail::full);
      const TimeSpan span = span_of(outcome);
      Json& moments = launches.emplace_back();
      constexpr int kMoments = 40;
      for (int i = 0; i < kMoments; ++i)
        moments.push_back(moment(scene.arena, outcome,
                                 i == 0   ? span.from_s
                                 : i == 1 ? span.to_s
                                          : random.range(span.from_s, span.to_s + 0.2)));
      reports.back().outcomes.push_back(outcome);
    }
  }
  const Json out{{"report", Json::parse(io::report_json(reports))}, {"truth", std::move(truth)}};
  return io::write_text(argv[1], out.dump()) ? 0 : 1;
}
