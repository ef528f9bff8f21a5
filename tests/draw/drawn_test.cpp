// What is drawn is what was decided: places read back from the picture, held against the outcome.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "dardo/dardo.hpp"
#include "dardo/draw/picture.hpp"
#include "dardo/io/scene.hpp"
#include "draw/detail/page.hpp"
#include "draw/detail/palette.hpp"
#include "support/files.hpp"
#include "support/random.hpp"

namespace dardo::draw::drawn_test {
namespace {

using detail::Framed;
using detail::Rect;
using detail::Spot;

/// All places that the paths of an SVG go through.
class Places {
 public:
  explicit Places(const std::string& svg) {
    for (std::size_t at = svg.find(" d=\""); at != std::string::npos; at = svg.find(" d=\"", at + 1)) {
      const std::size_t end = svg.find('"', at + 4);
      std::vector<double> numbers;
      for (const char* c = svg.data() + at + 4; c < svg.data() + end;) {
        char* next = nullptr;
        const double value = std::strtod(c, &next);
        if (next == c) {
          ++c;
          continue;
        }
        numbers.push_back(value), c = next;
      }
      for (std::size_t i = 0; i + 1 < numbers.size(); i += 2) {
        spots_.push_back({numbers[i], numbers[i + 1]});
        if (i > 0 && svg.find('C', at) > end) lines_.push_back({spots_.back(), spots_[spots_.size() - 2]});
      }
    }
    std::sort(spots_.begin(), spots_.end(), [](const Spot& a, const Spot& b) { return a.x < b.x; });
  }
  bool has(const Spot& s) const {
    constexpr double kNear = 0.02;
    auto i = std::lower_bound(spots_.begin(), spots_.end(), s.x - kNear,
                              [](const Spot& a, double x) { return a.x < x; });
    for (; i != spots_.end() && i->x <= s.x + kNear; ++i) {
      if (std::fabs(i->y - s.y) <= kNear) return true;
    }
    // Cairo leaves out what lies between two others on a line.
    return std::any_of(lines_.begin(), lines_.end(), [&](const auto& line) {
      const double x = line.second.x - line.first.x, y = line.second.y - line.first.y;
      const double square = x * x + y * y, ox = s.x - line.first.x, oy = s.y - line.first.y;
      const double along = square > 0 ? std::clamp((ox * x + oy * y) / square, 0.0, 1.0) : 0;
      return std::hypot(ox - along * x, oy - along * y) <= kNear;
    });
  }

 private:
  std::vector<Spot> spots_;
  std::vector<std::pair<Spot, Spot>> lines_;
};

Outcome outcome_of(const io::Scene& scene, const std::string& launch) {
  for (const io::SceneLaunch& l : scene.launches) {
    if (l.launch.id == launch) return io::resolve(scene, l);
  }
  return {};
}

io::Scene harbour() { return std::move(*io::read_scene(test::source_path("scenes/harbour.json"))); }

const Eye kAbove{}, kSide{.from = Eye::From::side}, kAslant{.from = Eye::From::oblique};

const std::vector<Eye> kAll{kAbove, kSide, {.from = Eye::From::side, .right = 2}, kAslant};

TEST(Drawn, HitboxesWaysAndContactsStandWhereTheOutcomeSays) {
  const io::Scene scene = harbour();
  std::size_t held = 0, looked = 0;
  for (const char* launch : {"mara-rocket", "tessa-flare", "mara-whaler", "mara-leap", "tessa-oar"}) {
    const Outcome out = outcome_of(scene, launch);
    const Sketch s = sketch(scene.arena, out);
    const PictureOptions options{.format = Format::svg, .names = Names::none, .eyes = kAll};
    const Places drawn(*picture(s, options));
    const auto framed = detail::arrange({s}, options, {0, 56, 1280 - 216, 800 - 56}, 24);
    ASSERT_EQ(framed.size(), kAll.size());
    for (const Framed& f : framed) {
      for (const Mark& m : out.marks) {
        const auto* flight = std::get_if<FlightMark>(&m);
        if (flight == nullptr) continue;
        for (const Vec3& p : flight->places) held += drawn.has(f.plan(p)), ++looked;
      }
      for (const BodyId body : scene.arena.bodies()) {
        if (!scene.arena.body(body).track.empty() || body == out.by) continue;
        for (const Shape& hitbox : scene.arena.hitboxes(body)) {
          for (const Spot& corner : detail::outline(hitbox, f.plan)) held += drawn.has(corner), ++looked;
        }
      }
      for (const Strike& strike : out.strikes) {
        // A disc of 3.2 pixels begins at its right.
        const Spot at = f.plan(strike.point);
        held += drawn.has({at.x + 3.2, at.y}), ++looked;
      }
    }
  }
  EXPECT_EQ(held, looked);
  EXPECT_GT(looked, 5000u);
}

TEST(Drawn, AMomentHasEverythingWhereItIsThen) {
  const io::Scene scene = harbour();
  test::Random random(4);
  for (const char* launch :
       {"mara-rocket", "tessa-oar", "tessa-flare", "tessa-bell", "mara-hook", "mara-leap"}) {
    const Outcome out = outcome_of(scene, launch);
    const TimeSpan span = span_of(out);
    ASSERT_GT(span.to_s, span.from_s) << launch;
    for (int i = 0; i < 10; ++i) {
      const double t = i == 0 ? span.from_s : i == 1 ? span.to_s : random.range(span.from_s, span.to_s);
      const Sketch s = sketch_at(scene.arena, out, t);
      std::size_t struck = 0;
      for (const Strike& strike : out.strikes) struck += strike.time_s <= t;
      EXPECT_EQ(s.contacts.size(), struck);
      for (std::size_t b = 0; b < s.bodies.size(); ++b) {
        const Body& body = scene.arena.body(out.verdicts[b].body);
        if (!body.track.empty())
          EXPECT_LT(length(s.bodies[b].pose.at - leg_at(body.track, t).at(t).at), 1e-9) << launch << t;
      }
      for (const Mark& m : out.marks) {
        const auto* flight = std::get_if<FlightMark>(&m);
        if (flight == nullptr || flight->times.front() > t) continue;
        const auto head = std::find_if(flight->pieces.begin(), flight->pieces.end(),
                                       [&](const WayPiece& p) { return t <= p.end_s; });
        const Vec3 at = head == flight->pieces.end() ? flight->places.back() : place_at(*head, t);
        const bool there = std::any_of(s.marks.begin(), s.marks.end(), [&](const Mark& cut) {
          const auto* flown = std::get_if<FlightMark>(&cut);
          return flown != nullptr && length(flown->places.back() - at) < 1e-9;
        });
        EXPECT_TRUE(there) << launch << " " << t;
      }
      EXPECT_TRUE(picture(s, {.format = Format::svg, .eyes = kAll}));
    }
  }
}

TEST(Drawn, WhatDashesIsWhereItsDashHasBroughtIt) {
  const io::Scene scene = harbour();
  const Outcome out = outcome_of(scene, "mara-leap");
  const auto* dash = [&]() -> const DashMark* {
    for (const Mark& m : out.marks) {
      if (const auto* d = std::get_if<DashMark>(&m)) return d;
    }
    return nullptr;
  }();
  ASSERT_NE(dash, nullptr);
  const double t = (dash->legs.front().start + dash->legs.back().end) / 2;
  const Sketch s = sketch_at(scene.arena, out, t);
  const auto mara =
      std::find_if(s.bodies.begin(), s.bodies.end(), [](const auto& b) { return b.id == "mara"; });
  double least = 1e9;
  for (const Leg& leg : dash->legs) {
    if (leg.start <= t && t <= leg.end) least = std::min(least, length(leg.at(t).at - mara->pose.at));
  }
  EXPECT_LT(least, 1e-9);
}

TEST(Drawn, AnElevationHasTheScaleOfThePlanAboveIt) {
  const io::Scene scene = harbour();
  for (const io::SceneLaunch& l : scene.launches) {
    const Sketch s = sketch(scene.arena, io::resolve(scene, l));
    for (const auto& eyes : {std::vector<Eye>{}, {kAbove, kSide}, {kAbove, kSide, {Eye::From::side, 1.0}}}) {
      const auto framed = detail::arrange({s}, {.eyes = eyes}, {0, 0, 1000, 700}, 24);
      for (const Framed& f : framed)
        EXPECT_EQ(f.plan.pixels_per_metre, framed.front().plan.pixels_per_metre) << l.launch.id;
    }
  }
}

TEST(Drawn, SketchesOfOnePageLookAtTheSamePartFromTheSamePlace) {
  const io::Scene scene = harbour();
  const Outcome out = outcome_of(scene, "mara-rocket");
  std::vector<Sketch> strip;
  for (const double t : {0.0, 0.7, 1.4, 2.1, 2.4}) strip.push_back(sketch_at(scene.arena, out, t));
  const auto framed = detail::arrange(strip, {.eyes = {kAbove, kAslant}}, {0, 0, 1000, 700}, 24);
  ASSERT_EQ(framed.size(), 10u);
  for (std::size_t i = 2; i < framed.size(); ++i) {
    EXPECT_EQ(framed[i].plan.world_center, framed[i % 2].plan.world_center);
    EXPECT_EQ(framed[i].plan.pixels_per_metre, framed[i % 2].plan.pixels_per_metre);
    for (std::size_t k = 0; k < i; ++k) EXPECT_FALSE(framed[i].frame.grown(-0.01).overlaps(framed[k].frame));
  }
}

TEST(Drawn, TwoFatesAreMarkedWhereTheyDiffer) {
  const io::Scene scene = harbour();
  const Outcome horn = outcome_of(scene, "tessa-horn"), bell = outcome_of(scene, "tessa-bell");
  Sketch a = sketch(scene.arena, horn), b = sketch(scene.arena, bell);
  std::size_t differ = 0;
  for (std::size_t i = 0; i < horn.verdicts.size(); ++i)
    differ += horn.verdicts[i].struck != bell.verdicts[i].struck;
  EXPECT_GT(differ, 0u);
  EXPECT_EQ(mark_differences(a, b), differ);
  for (std::size_t i = 0; i < a.bodies.size(); ++i) {
    EXPECT_EQ(a.bodies[i].differs, horn.verdicts[i].struck != bell.verdicts[i].struck) << a.bodies[i].id;
    EXPECT_EQ(b.bodies[i].differs, a.bodies[i].differs);
  }
  Sketch again = sketch(scene.arena, horn), same = again;
  EXPECT_EQ(mark_differences(again, same), 0u);
}

TEST(Drawn, SeveralLaunchesInOneHaveAllTheirMarksAndStrikes) {
  const io::Scene scene = harbour();
  const Outcome horn = outcome_of(scene, "tessa-horn"), rocket = outcome_of(scene, "mara-rocket");
  const Sketch both = together({sketch(scene.arena, horn), sketch(scene.arena, rocket)});
  EXPECT_EQ(both.marks.size(), horn.marks.size() + rocket.marks.size());
  ASSERT_EQ(both.contacts.size(), horn.strikes.size() + rocket.strikes.size());
  for (std::size_t i = 0; i < both.contacts.size(); ++i) EXPECT_EQ(both.contacts[i].number, i + 1);
  for (std::size_t i = 0; i < both.bodies.size(); ++i)
    EXPECT_EQ(both.bodies[i].struck, horn.verdicts[i].struck || rocket.verdicts[i].struck);
}

/// A warden who shoots along x, and one raider.
struct Range {
  Arena arena;
  BodyId mara, raider;
  explicit Range(double away, const std::string& name = "raider") {
    const FactionId wardens = *arena.add_faction("wardens"), raiders = *arena.add_faction("raiders");
    arena.relate(wardens, raiders, Relation::foe);
    const BuildId person = *arena.add_build({.name = "p", .hitboxes = {{"trunk", Ball{{0, 0, 1}, 0.5}}}});
    mara = *arena.add_body({.id = "mara", .build = person, .faction = wardens});
    raider = *arena.add_body({.id = name, .build = person, .faction = raiders, .pose = {{away, 0, 0}, {}}});
    arena.update();
  }
};

TEST(Drawn, AWayThatLeavesTheViewIsCutAndSaysHowFarItGoesOn) {
  Range range(2000);
  Attack bolt{.name = "bolt", .delivery = ShotDelivery{.path = StraightPath{.speed = 400}, .life_s = 60}};
  bolt.reach = {0, 5000};
  const Outcome out = resolve(range.arena, bolt, {.by = range.mara, .toward = AtBody{range.raider}});
  ASSERT_EQ(out.strikes.size(), 1u);
  const Sketch s = sketch(range.arena, out);
  // Whole, both ends are on the page; near the start only that one is.
  const PictureOptions whole{.format = Format::svg};
  const PictureOptions near{.format = Format::svg, .focus = Focus{{0, 0, 1}, 10}};
  const Rect room{0, 56, 1064, 744};
  const auto shown = [&](const PictureOptions& o, const Vec3& p) {
    const Framed f = detail::arrange({s}, o, room, 24).front();
    const Spot at = f.plan(p);
    return f.frame.holds({at.x, at.y, 0, 0});
  };
  EXPECT_TRUE(shown(whole, out.origin) && shown(whole, out.end));
  EXPECT_TRUE(shown(near, out.origin) && !shown(near, out.end));
  EXPECT_GT(picture(s, near)->size(), 1000u);
}

TEST(Drawn, NamesAreTextWhateverTheyHold) {
  const std::vector<std::string> names{"</text><script>alert(1)</script>",
                                       "\"quoted\" & <b>bold</b>",
                                       std::string(5000, 'x'),
                                       "\u05e9\u05dc\u05d5\u05dd \u202e evil",
                                       "\U0001f980\U0001f525",
                                       "broken \xff\xfe \xe2\x82",
                                       "tab\tnew\nline",
                                       std::string(300, '\xf0')};
  for (const std::string& name : names) {
    Sketch s;
    s.title = s.summary = name;
    s.bodies.push_back({.id = name,
                        .faction = name,
                        .hitboxes = {Ball{{0, 0, 1}, 0.5}},
                        .struck = true,
                        .concerned = true,
                        .note = name});
    s.walls.push_back({.id = name, .material = name, .parts = {Ball{{3, 0, 1}, 0.5}}, .concerned = true});
    for (const Format format : {Format::svg, Format::png, Format::pdf}) {
      const auto bytes = picture({s, s}, {name, name}, {.format = format, .title = name});
      ASSERT_TRUE(bytes) << name << ": " << bytes.error();
      if (format != Format::svg) continue;
      EXPECT_EQ(bytes->find("script"), std::string::npos);
      EXPECT_EQ(bytes->find("<b>"), std::string::npos);
      EXPECT_NE(bytes->find("</svg>"), std::string::npos);
    }
  }
}

TEST(Drawn, EverySketchFitsOnAnyPage) {
  const io::Scene scene = harbour();
  for (const io::SceneLaunch& l : scene.launches) {
    const Outcome out = io::resolve(scene, l);
    const Sketch whole = sketch(scene.arena, out), moment = sketch_at(scene.arena, out, 0.4);
    for (const bool dark : {false, true}) {
      const auto png = picture({whole, moment}, {"whole", "at 0.4 s"},
                               {.width = 480, .height = 360, .eyes = kAll, .dark = dark});
      EXPECT_TRUE(png) << l.launch.id;
    }
  }
}

TEST(Drawn, RefusesWhatItCannotDraw) {
  const Sketch s;
  EXPECT_FALSE(picture(std::vector<Sketch>{}, {}, {}));
  EXPECT_FALSE(picture(std::vector<Sketch>(kMostSketches + 1, s), {}, {}));
  EXPECT_FALSE(picture(s, {.eyes = std::vector<Eye>(kMostEyes + 1)}));
  for (const double radius : {0.0, -1.0, std::nan(""), 1e300})
    EXPECT_FALSE(picture(s, {.focus = Focus{{}, radius}})) << radius;
  EXPECT_FALSE(picture(s, {.focus = Focus{{std::nan(""), 0, 0}, 5}}));
  EXPECT_TRUE(picture(s, {.eyes = kAll, .focus = Focus{{1e7, 0, 0}, 0.01}}));
}

/// How far two colours are apart in lightness, as a share (the contrast of WCAG 2.1).
double contrast(const detail::Color& a, const detail::Color& b) {
  const auto light = [](const detail::Color& c) {
    const auto part = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * part(c.red) + 0.7152 * part(c.green) + 0.0722 * part(c.blue) + 0.05;
  };
  const double x = light(a), y = light(b);
  return x > y ? x / y : y / x;
}

TEST(Drawn, WordsAreLegibleLightAndDark) {
  for (const detail::Palette& p : {detail::kLight, detail::kDark}) {
    EXPECT_GT(contrast(p.ink, p.paper), 10);
    EXPECT_GT(contrast(p.faint, p.paper), 4);
    EXPECT_GT(contrast(p.reached, p.paper), 4.5);
    for (const detail::Color& c : p.factions) EXPECT_GT(contrast(p.words(c), p.paper), 3);
  }
}

}  // namespace
}  // namespace dardo::draw::drawn_test
