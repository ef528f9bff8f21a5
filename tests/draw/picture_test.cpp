#include "dardo/draw/picture.hpp"

#include <cairo.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "dardo/dardo.hpp"
#include "dardo/io/scene.hpp"
#include "draw/detail/labels.hpp"
#include "draw/detail/page.hpp"
#include "support/files.hpp"
#include "support/random.hpp"

namespace dardo::draw::picture_test {
namespace {

/// The pixels of a PNG, read back by Cairo.
struct Image {
  int width = 0, height = 0, stride = 0;
  std::vector<unsigned char> data;

  explicit Image(const std::string& png) {
    struct Source {
      const std::string& bytes;
      std::size_t at;
    } source{png, 0};
    const auto read = [](void* s, unsigned char* out, unsigned length) {
      auto& from = *static_cast<Source*>(s);
      if (from.at + length > from.bytes.size()) return CAIRO_STATUS_READ_ERROR;
      std::memcpy(out, from.bytes.data() + from.at, length);
      from.at += length;
      return CAIRO_STATUS_SUCCESS;
    };
    cairo_surface_t* surface = cairo_image_surface_create_from_png_stream(read, &source);
    width = cairo_image_surface_get_width(surface), height = cairo_image_surface_get_height(surface);
    stride = cairo_image_surface_get_stride(surface);
    const unsigned char* pixels = cairo_image_surface_get_data(surface);
    if (pixels != nullptr) data.assign(pixels, pixels + static_cast<std::ptrdiff_t>(stride) * height);
    cairo_surface_destroy(surface);
  }
  std::uint32_t at(int x, int y) const {
    std::uint32_t v = 0;
    std::memcpy(&v, &data[static_cast<std::size_t>(y * stride + 4 * x)], 4);
    return v & 0xffffff;
  }
  /// How many pixels are nearly of this colour.
  int count(int red, int green, int blue) const {
    int n = 0;
    for (int y = 0; y < height; ++y) {
      for (int x = 0; x < width; ++x) {
        const auto p = static_cast<int>(at(x, y));
        n += std::abs((p >> 16) - red) + std::abs((p >> 8 & 255) - green) + std::abs((p & 255) - blue) < 30;
      }
    }
    return n;
  }
};

Sketch harbour_sketch(const char* launch) {
  const auto scene = io::read_scene(test::source_path("scenes/harbour.json"));
  for (const io::SceneLaunch& l : scene->launches) {
    if (l.launch.id == launch) return sketch(scene->arena, resolve(*scene, l));
  }
  return {};
}

detail::LeftOut left_out_of(const Sketch& s, const PictureOptions& options) {
  detail::Canvas canvas(options);
  return detail::draw_page({s}, {}, options, canvas);
}

constexpr int kRed = 201, kGreen = 33, kBlue = 79;  // what was reached

TEST(Picture, HasTheSizeAskedForAndIsNotBlank) {
  const Sketch s = harbour_sketch("tessa-horn");
  for (const auto& [w, h] : {std::pair{1280, 800}, {640, 480}, {320, 320}}) {
    const auto png = picture(s, {Format::png, w, h});
    ASSERT_TRUE(png);
    const Image image(*png);
    EXPECT_EQ(image.width, w);
    EXPECT_EQ(image.height, h);
    EXPECT_GT(image.count(kRed, kGreen, kBlue), 100) << "rings, contacts and numbers of what was struck";
  }
}

TEST(Picture, ShowsTheContactWhereItIs) {
  // One ball seen from above, struck on its western side: the frame is known, so the pixel is, too.
  Sketch s;
  s.bodies.push_back({.id = "t",
                      .faction = "raiders",
                      .faction_number = 1,
                      .pose = {{0, 0, 0}, {}},
                      .hitboxes = {Ball{{0, 0, 0}, 2}},
                      .struck = true});
  s.contacts.push_back({1, {-2, 0, 0}, {-1, 0, 0}});
  s.marks.emplace_back(PathMark{{-8, 0, 0}, {-2, 0, 0}});
  s.marks.emplace_back(RingMark{{0, 0, 0}, 8});
  const auto png = picture(s, {Format::png, 640, 640});
  ASSERT_TRUE(png);
  const Image image(*png);
  // The ring's 16 m and half a metre around fill the frame of 640 x 584 less 30 on each side.
  const double scale = 524.0 / 17;
  const int x = static_cast<int>(320 - 2 * scale), y = 56 + 292;
  const auto contact = static_cast<int>(image.at(x, y));
  EXPECT_LE(std::abs((contact >> 16) - kRed) + std::abs((contact >> 8 & 255) - kGreen) +
                std::abs((contact & 255) - kBlue),
            3)
      << "the contact point";
  const int ring_y = static_cast<int>(y - 8 * scale);
  EXPECT_NE(image.at(320, ring_y), image.at(320, ring_y - 12)) << "the ring";
  EXPECT_NE(image.at(static_cast<int>(320 - 5 * scale), y),
            image.at(static_cast<int>(320 - 5 * scale), y + 8))
      << "the way";
}

TEST(Picture, IsDarkerWhereMorePowerArrives) {
  // Most in the middle, least at 5 m, more again beyond.
  const std::vector<FalloffPoint> fades{{0, 1}, {2, 0.8}, {4, 0.2}, {6, 0.2}, {7, 0.5}};
  const std::vector<Mark> marks{
      RingMark{.radius = 8, .fades = fades},
      AreaMark{.shape = BoxArea{{8, 8, 1}}, .fades = fades},
      LastingMark{.to_s = 1,
                  .carrier = {Leg{.end = 1}},
                  .own = {Leg{.end = 1}},
                  .sizes = {{0, BoxArea{{8, 8, 1}}}},
                  .fades = fades},
      // The same at a moment.
      LastingMark{.carrier = {Leg{.end = 1}},
                  .own = {Leg{.end = 1}},
                  .sizes = {{0, BoxArea{{8, 8, 1}}}},
                  .fades = fades},
      // A blade that turns once all around: what it sweeps is shaded once.
      LastingMark{.to_s = 1,
                  .carrier = {Leg{.end = 1}},
                  .own = {Leg{.end = 1, .turn_rate = 6.283185307179586}},
                  .sizes = {{0, BeamArea{8, 1}}},
                  .blade = true,
                  .fades = fades},
  };
  for (std::size_t i = 0; i < marks.size(); ++i) {
    Sketch s;
    s.marks.push_back(marks[i]);
    s.span = {0, 1};
    const auto png = picture(s, {Format::png, 640, 640});
    ASSERT_TRUE(png);
    const Image image(*png);
    const double scale = 524.0 / 17;
    // Darker is less green on a light page. Off the lines of the outline.
    const auto green = [&](double metres) {
      std::vector<int> all;
      for (int k = 0; k < 40; ++k) {
        const double angle = 0.3 + 0.02 * k;
        all.push_back(static_cast<int>(image.at(320 + static_cast<int>(metres * std::cos(angle) * scale),
                                                348 - static_cast<int>(metres * std::sin(angle) * scale)) >>
                                           8 &
                                       255));
      }
      std::nth_element(all.begin(), all.begin() + 30, all.end());
      return all[30];  // not on a line
    };
    EXPECT_LT(green(1.5) + 5, green(7.3)) << i;
    EXPECT_LT(green(7.3) + 5, green(5)) << i;
    EXPECT_LT(green(5) + 5, green(11.6)) << i;
  }
}

TEST(Picture, IsTheSameEveryTime) {
  const Sketch s = harbour_sketch("odo-fire-pot");
  // Not svg: Cairo numbers its parts through the life of the process.
  for (const Format f : {Format::png, Format::pdf}) {
    const auto a = picture(s, {f, 800, 600}), b = picture(s, {f, 800, 600});
    ASSERT_TRUE(a && b);
    EXPECT_TRUE(*a == *b);
  }
  EXPECT_EQ(picture(s, {Format::svg, 800, 600})->substr(0, 5), "<?xml");
  EXPECT_EQ(picture(s, {Format::pdf, 800, 600})->substr(0, 5), "%PDF-");
}

TEST(Picture, RefusesSizesItCannotDraw) {
  EXPECT_FALSE(picture({}, {Format::png, 0, 800}));
  EXPECT_FALSE(picture({}, {Format::png, 800, 100000}));
  EXPECT_TRUE(picture({}, {Format::png, 800, 800})) << "an empty sketch is a page with nothing on it";
}

TEST(Picture, KnowsFormatsByTheirEnding) {
  EXPECT_EQ(format_of("a.b/c.PNG"), Format::png);
  EXPECT_EQ(format_of("x.svg"), Format::svg);
  EXPECT_EQ(format_of("x.pdf"), Format::pdf);
  EXPECT_FALSE(format_of("x.jpeg"));
  EXPECT_FALSE(format_of("png"));
}

TEST(Labels, NeverCollideWhileThereIsRoom) {
  using namespace detail;
  const Rect page{0, 0, 1000, 700};
  for (std::uint64_t seed = 1; seed <= 200; ++seed) {
    test::Random random(seed);
    std::vector<Label> labels;
    std::vector<Rect> taken;
    for (int i = 0; i < 30; ++i) {
      const Spot at{random.range(20, 980), random.range(20, 680)};
      labels.push_back({at, 8, random.range(30, 90), 30});
      taken.push_back({at.x - 7, at.y - 7, 14, 14});
    }
    const auto placed = place_labels(labels, taken, page);
    ASSERT_EQ(placed.size(), labels.size());
    for (std::size_t i = 0; i < placed.size(); ++i) {
      ASSERT_FALSE(placed[i].crowded) << seed;
      ASSERT_TRUE(page.holds(placed[i].box));
      for (const Rect& t : taken) ASSERT_FALSE(placed[i].box.overlaps(t));
      for (std::size_t k = 0; k < i; ++k) ASSERT_FALSE(placed[i].box.overlaps(placed[k].box));
    }
  }
}

TEST(Labels, NeverCollideOnTheDemoScene) {
  const auto scene = io::read_scene(test::source_path("scenes/harbour.json"));
  for (const io::SceneLaunch& l : scene->launches) {
    const Sketch s = sketch(scene->arena, resolve(*scene, l));
    EXPECT_EQ(left_out_of(s, {Format::png, 1280, 800}).crowded, 0u) << l.launch.id;
  }
}

TEST(Labels, AreOfThoseWhomItConcernsAndTheOthersAreCounted) {
  const auto scene = io::read_scene(test::source_path("scenes/harbour.json"));
  const auto& launch = *std::find_if(scene->launches.begin(), scene->launches.end(),
                                     [](const auto& l) { return l.launch.id == "tessa-horn"; });
  Sketch s = sketch(scene->arena, resolve(*scene, launch));
  const auto is_concerned = [](const auto& thing) { return thing.concerned; };
  const auto concerned =
      static_cast<std::size_t>(std::count_if(s.bodies.begin(), s.bodies.end(), is_concerned) +
                               std::count_if(s.walls.begin(), s.walls.end(), is_concerned));
  // The attacker, three who are struck, and the crate that raider-3 is behind.
  EXPECT_EQ(concerned, 5u);
  const std::size_t all = s.bodies.size() + s.walls.size();
  const auto left_out = [&](Names names) {
    return left_out_of(s, {.format = Format::png, .names = names}).names;
  };
  EXPECT_EQ(left_out(Names::all), 0u);
  EXPECT_EQ(left_out(Names::concerned), all - concerned);
  EXPECT_EQ(left_out(Names::none), all);
  // A crowd of those whom it does not concern.
  const SketchBody other = *std::find_if_not(s.bodies.begin(), s.bodies.end(), is_concerned);
  s.bodies.insert(s.bodies.end(), 500, other);
  EXPECT_EQ(left_out(Names::all), all + 500 - concerned);
}

TEST(Labels, SayWhenThereIsNoRoom) {
  using namespace detail;
  const auto placed = place_labels({{{50, 50}, 5, 80, 80}, {{50, 50}, 5, 80, 80}}, {}, {0, 0, 100, 100});
  EXPECT_TRUE(placed[1].crowded);
}

}  // namespace
}  // namespace dardo::draw::picture_test
