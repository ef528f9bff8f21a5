// Flat scenes: what lies in a plane is what plane geometry says.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "dardo/io/scene.hpp"
#include "support/yard.hpp"

namespace dardo::test::flat_test {
namespace {

constexpr double kPi = std::numbers::pi;

std::string scene_text(const std::string& head, const std::string& bodies, const std::string& walls,
                       const std::string& attack, const std::string& launch) {
  return R"({"dardo": 1, )" + head + R"(,
    "factions": {"wardens": {"foe": ["raiders"]}, "raiders": {}},
    "materials": {"plank": {}},
    "builds": {"disc": {"hitboxes": [{"zone": "all", "disc": {"at": [0, 0], "radius": 0.5}}]},
               "crate": {"hitboxes": [{"zone": "all", "rectangle": {"at": [0, 0], "size": [1, 1]}}]}},
    "bodies": [)" +
         bodies + R"(], "walls": [)" + walls + R"(], "attacks": {"it": )" + attack +
         R"(}, "launches": [{"id": "l", "attack": "it", )" + launch + "}]}";
}

io::Scene scene_of(const std::string& text) {
  auto scene = io::parse_scene(text, "flat.json");
  if (!scene) {
    for (const auto& p : scene.error()) ADD_FAILURE() << io::text(p);
    return {};
  }
  return std::move(*scene);
}

Outcome resolve_text(const std::string& text) {
  const io::Scene scene = scene_of(text);
  return scene.launches.empty() ? Outcome{} : io::resolve(scene, scene.launches[0], Detail::full);
}

const std::string kAbove = R"("flat": "above")", kSide = R"("flat": "side")";
const std::string kMara = R"({"id": "mara", "build": "disc", "faction": "wardens", "at": [0, 0]})";

std::string raider(double x, double y, const std::string& build = "disc") {
  return R"(, {"id": "raider", "build": ")" + build + R"(", "faction": "raiders", "at": [)" +
         std::to_string(x) + ", " + std::to_string(y) + "]}";
}

TEST(Flat, SectorsReachWhatTheirAnglesSay) {
  for (const double angle : {60.0, 180.0, 270.0, 360.0}) {
    for (int degrees = -180; degrees < 180; degrees += 3) {
      const double at = degrees * kPi / 180, x = 4 * std::cos(at), y = 4 * std::sin(at);
      const Outcome out = resolve_text(
          scene_text(kAbove, kMara + raider(std::stod(std::to_string(x)), std::stod(std::to_string(y))), "",
                     R"({"area": {"sector": {"angle": )" + std::to_string(angle) +
                         R"(, "far": 5}, "around": "attacker", "along": "world"}})",
                     R"("by": "mara")"));
      // A disc of half a metre four metres away spans asin(1/8) to both sides, of a side less than a quarter
      // turn away.
      const double beyond = std::fabs(at) - angle / 360 * kPi;
      const double gap = angle == 360 || beyond <= 0 ? 0 : beyond < kPi / 2 ? 4 * std::sin(beyond) : 4;
      if (std::fabs(gap - 0.5) < 1e-3) continue;
      EXPECT_EQ(out.strikes.size(), gap < 0.5 ? 1u : 0u) << angle << " at " << degrees;
      const Verdict& v = out.verdicts.back();
      if (!v.struck) EXPECT_NEAR(*v.deciding.margin, gap - 0.5, 1e-5) << angle << " at " << degrees;
    }
  }
}

TEST(Flat, ARingReachesBetweenItsEdges) {
  for (const auto& [x, strikes] : {std::pair{1.4, 0u}, {1.6, 1u}, {4.4, 1u}, {4.6, 0u}}) {
    const Outcome out = resolve_text(scene_text(kAbove, kMara + raider(x, 0), "",
                                                R"({"area": {"ring": {"near": 2, "far": 4},
                                                             "around": "attacker"}})",
                                                R"("by": "mara")"));
    ASSERT_EQ(out.strikes.size(), strikes) << x;
    if (strikes == 0) EXPECT_NEAR(*out.verdicts[1].deciding.margin, x < 2 ? 2 - x - 0.5 : x - 4 - 0.5, 1e-9);
  }
}

// In a corridor of two mirrors a ray is the straight line of its unfolded images.
TEST(Flat, MirrorsInACorridorUnfold) {
  const double slope = 0.7, wide = 2;  // the corridor is |y| <= 1
  const Outcome out =
      resolve_text(scene_text(kAbove, kMara + raider(40, 0.25),
                              R"({"id": "north", "rectangle": {"at": [25, 2], "size": [60, 2]}},
         {"id": "south", "rectangle": {"at": [25, -2], "size": [60, 2]}})",
                              R"({"ray": {"ricochet": {"count": 40}}, "reach": [0, "endless"]})",
                              R"("by": "mara", "toward": {"direction": [1, 0.7]})"));
  ASSERT_GT(out.surfaces.size(), 5u);
  for (std::size_t i = 0; i < out.surfaces.size() && out.surfaces[i].did == SurfaceMet::Did::turned; ++i) {
    const double x = (1 + wide * static_cast<double>(i)) / slope;
    EXPECT_NEAR(out.surfaces[i].point.x, x, 1e-9) << i;
    EXPECT_NEAR(out.surfaces[i].point.y, i % 2 == 0 ? 1 : -1, 1e-9) << i;
    EXPECT_NEAR(out.surfaces[i].distance, x * std::sqrt(1 + slope * slope), 1e-9) << i;
    EXPECT_EQ(out.surfaces[i].point.z, 0);
  }
}

// Of a disc behind an edge that part is seen which the line from the eye along the edge leaves.
TEST(Flat, TheShareOfADiscBehindAnEdgeIsThatOfASegment) {
  for (double edge = -0.6; edge <= 0.61; edge += 0.1) {
    // The wall reaches up to `edge` at x = 4; the disc lies at x = 8, so that the shadow ends at 2 * edge.
    const io::Scene scene = scene_of(scene_text(
        kAbove, kMara + raider(8, 0),
        R"({"id": "w", "rectangle": {"at": [3, )" + std::to_string(edge - 5) + R"(], "size": [2, 10]}})",
        R"({"ray": {}})", R"("by": "mara", "toward": "raider")"));
    ASSERT_EQ(scene.launches.size(), 1u);
    Look question{.by = *scene.arena.find_body("mara"), .body = *scene.arena.find_body("raider")};
    question.sight.to = Sight::To::points;
    const Sighting seen = look(scene.arena, question);
    const double top = std::stod(std::to_string(edge - 5)) + 5;
    // The line goes through (0, 0) and (4, top), or (2, top) where that is higher.
    const double slope = top > 0 ? top / 2 : top / 4;
    const double away = -8 * slope / std::sqrt(1 + slope * slope);  // of the middle, above the line
    const double h = std::clamp(away / 0.5, -1.0, 1.0);
    const double share = 1 - (std::acos(h) - h * std::sqrt(1 - h * h)) / kPi;
    EXPECT_NEAR(seen.share.share, share, 1e-9) << edge;
    EXPECT_EQ(seen.share.error, 0) << edge;
  }
}

TEST(Flat, SightAlongACornerIsBlockedFromBothSides) {
  const io::Scene scene = scene_of(scene_text(kAbove, kMara + raider(8, 0),
                                              R"({"id": "w", "rectangle": {"at": [4, 0.5], "size": [1, 1]}})",
                                              R"({"ray": {}})", R"("by": "mara", "toward": "raider")"));
  for (const double y : {1.0, 1.0 + 1e-6}) {
    const Vec3 a{0, y, 0}, b{8, y, 0};
    EXPECT_EQ(look(scene.arena, {.place = a, .target = b}).seen, y > 1);
    EXPECT_EQ(look(scene.arena, {.place = b, .target = a}).seen, y > 1);
  }
}

TEST(Flat, AOneWayPlankIsPassedFromBelowAndLandedOnFromAbove) {
  const std::string plank =
      R"({"id": "plank", "rectangle": {"at": [6, 3], "size": [12, 0.2]}, "one_way": [0, 1]})";
  const Outcome out =
      resolve_text(scene_text(kSide, kMara + raider(30, 0), plank,
                              R"({"shot": {"falling": {"speed": 10}, "radius": 0.1}, "reach": [0, 60]})",
                              R"("by": "mara", "toward": {"direction": [1, 3]})"));
  ASSERT_EQ(out.ended, Ended::wall);
  // It leaves at (10, 30) / sqrt(10): up through the plank, and down on it at y = 3.2.
  const double vy = 30 / std::sqrt(10.0), vx = 10 / std::sqrt(10.0), g = 9.81;
  const double t = (vy + std::sqrt(vy * vy - 2 * g * 3.2)) / g;
  EXPECT_NEAR(out.end_s, t, 1e-9);
  EXPECT_NEAR(out.end.x, vx * t, 1e-9);
  EXPECT_EQ(out.end.z, 0);
}

TEST(Flat, WhatSpreadsStaysInThePlane) {
  for (const char* spread : {"cone", "gauss", "fan", "ring"}) {
    for (const std::string& lie : {kAbove, kSide}) {
      const Outcome out = resolve_text(scene_text(
          lie, kMara + raider(20, 0), R"({"id": "w", "disc": {"at": [6, 0.3], "radius": 2}})",
          std::string(
              R"({"shot": {"straight": {"speed": 20}, "radius": 0.2, "ricochet": {"count": 3, "jitter": 40},
                         "volley": {"count": 9, "angle": 30, "spread": ")") +
              spread + R"("}}})",
          R"("by": "mara", "toward": "raider")"));
      ASSERT_FALSE(out.marks.empty());
      std::size_t askew = 0;
      for (const Mark& m : out.marks) {
        const auto* way = std::get_if<FlightMark>(&m);
        if (way == nullptr) continue;
        for (const Vec3& p : way->places) EXPECT_EQ(p.z, 0);
        askew += std::fabs(way->places.back().y) > 0.5;
      }
      EXPECT_GT(askew, 4u) << spread;
    }
  }
}

TEST(Flat, CurvesAndGuidedShotsTurnInThePlane) {
  for (const char* path : {R"({"curve": {"speed": 8, "side": 3, "returns": true})",
                           R"({"curve": {"speed": 8, "through": [[2, 3], [5, -2]], "returns": false})",
                           R"({"guided": {"speed": 8, "turn_rate": 90})"}) {
    for (const std::string& lie : {kAbove, kSide}) {
      const Outcome out = resolve_text(scene_text(lie, kMara + raider(-9, 4), "",
                                                  std::string(R"({"shot": )") + path + R"(, "radius": 0.1}})",
                                                  R"("by": "mara", "toward": "raider")"));
      ASSERT_FALSE(out.strikes.empty()) << path;
      for (const Mark& m : out.marks) {
        const auto* way = std::get_if<FlightMark>(&m);
        if (way == nullptr) continue;
        for (const Vec3& p : way->places) EXPECT_NEAR(p.z, 0, 1e-12) << path;
      }
    }
  }
}

// Counted down, the same scene is its mirror image in files and the same in memory.
TEST(Flat, YMayCountDownwards) {
  const std::string attack = R"({"shot": {"falling": {"speed": 15}, "radius": 0.1}, "reach": [0, 60]})";
  const io::Scene up = scene_of(scene_text(kSide + R"(, "ground": -1)", kMara + raider(12, 2),
                                           R"({"id": "w", "polygon": {"corners": [[4, 0], [6, 0], [5, 2]]}})",
                                           attack, R"("by": "mara", "toward": "raider", "aim": "lead")")),
                  down =
                      scene_of(scene_text(kSide + R"(, "y_down": true, "ground": 1)", kMara + raider(12, -2),
                                          R"({"id": "w", "polygon": {"corners": [[4, 0], [6, 0], [5, -2]]}})",
                                          attack, R"("by": "mara", "toward": "raider", "aim": "lead")"));
  const Outcome a = io::resolve(up, up.launches.at(0), Detail::verdicts),
                b = io::resolve(down, down.launches.at(0), Detail::verdicts);
  EXPECT_EQ(a.strikes, b.strikes);
  EXPECT_EQ(a.verdicts, b.verdicts);
  const std::string again = io::scene_json(down);
  const io::Scene read = scene_of(again);
  EXPECT_EQ(io::scene_json(read), again);
  EXPECT_TRUE(io::resolve(read, read.launches.at(0), Detail::verdicts) == b);
}

// A blade that goes down past one raider goes down in both.
TEST(Flat, ASwingTurnsTheWayItsAnglesAreCounted) {
  const auto swing = [](const std::string& head, int from, int to, double y) {
    const std::string keys = R"([{"t": 0, "angle": )" + std::to_string(from) + R"(}, {"t": 1, "angle": )" +
                             std::to_string(to) + "}]";
    return scene_of(scene_text(
        head, kMara + raider(2, y), "",
        R"({"swing": {"capsule": {"from": [0, 0], "to": [3, 0], "radius": 0.1}, "keys": )" + keys + "}}",
        R"("by": "mara")"));
  };
  const io::Scene up = swing(kSide, 90, 0, 1), down = swing(kSide + R"(, "y_down": true)", -90, 0, -1);
  const Outcome a = io::resolve(up, up.launches.at(0), Detail::verdicts),
                b = io::resolve(down, down.launches.at(0), Detail::verdicts);
  ASSERT_EQ(a.strikes.size(), 1u);
  EXPECT_EQ(a.strikes, b.strikes);
  const std::string again = io::scene_json(down);
  EXPECT_NE(again.find(R"("angle": -90)"), std::string::npos) << again;
  EXPECT_EQ(io::scene_json(scene_of(again)), again);
}

TEST(Flat, WhatMeansNothingInAPlaneIsRefused) {
  const auto problem = [](const std::string& text) {
    const auto scene = io::parse_scene(text, "x");
    return scene ? std::string() : io::text(scene.error()[0]);
  };
  const std::string ray = R"({"ray": {}})", by = R"("by": "mara")";
  EXPECT_EQ(
      problem(scene_text(kAbove, R"({"id": "mara", "build": "disc", "faction": "wardens", "at": [0, 0, 0]})",
                         "", ray, by)),
      "x:6: /bodies/0/at is a list of 3; expected a list of 2 numbers");
  EXPECT_NE(problem(scene_text(kAbove + R"(, "gravity": [0, -1])", kMara, "", ray, by)).find("/gravity"),
            std::string::npos);
  EXPECT_NE(problem(scene_text(kAbove, kMara, R"({"id": "w", "ball": {"at": [0, 0], "radius": 1}})", ray, by))
                .find("disc, rectangle, polygon, capsule"),
            std::string::npos);
  EXPECT_NE(problem(scene_text(R"("y_down": true)", R"({"id": "mara", "build": "disc", "faction": "wardens",
                                                       "at": [0, 0, 0]})",
                               "", ray, by))
                .find("/y_down"),
            std::string::npos);
}

}  // namespace
}  // namespace dardo::test::flat_test
