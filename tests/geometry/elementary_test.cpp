// The core's own elementary functions, held against the C library's in long double.
#include <gtest/gtest.h>

#include <bit>
#include <cmath>
#include <limits>
#include <numbers>
#include <random>

#include "geometry/detail/elementary.hpp"

namespace dardo::detail::elementary_test {
namespace {

/// How far a value is from the true one, in units of the last place of a double.
double off(double value, long double truth) {
  const double near = static_cast<double>(truth);
  const double unit =
      std::nextafter(std::fabs(near), std::numeric_limits<double>::infinity()) - std::fabs(near);
  return static_cast<double>(std::fabs(value - truth)) / unit;
}

/// Numbers of every size up to `most`, of both signs, and whole multiples of `step` with their neighbours.
template <class Visit>
void each_number(double most, double step, Visit&& visit) {
  std::mt19937_64 random(7);
  std::uniform_real_distribution<double> share(-1, 1), size(-60, std::log2(most));
  for (int i = 0; i < 100'000; ++i) {
    visit(most * share(random));
    visit(std::copysign(std::exp2(size(random)), share(random)));
  }
  for (int i = -1000; i <= 1000; ++i) {
    const double x = i * step;
    if (std::fabs(x) > most) continue;
    for (const double y : {x, std::nextafter(x, -most), std::nextafter(x, most)}) visit(y);
  }
}

TEST(Elementary, SineAndCosineAreWithinTwoUnits) {
  for (const double most : {1.0, 100.0, 1e5, 1e9}) {
    double worst = 0;
    each_number(most, std::numbers::pi / 8, [&](double x) {
      const SineCosine at = sine_cosine(x);
      worst = std::max({worst, off(at.sine, std::sin(static_cast<long double>(x))),
                        off(at.cosine, std::cos(static_cast<long double>(x)))});
    });
    EXPECT_LT(worst, 1.0) << most;
  }
  EXPECT_EQ(sine(0.0), 0);
  EXPECT_EQ(cosine(0.0), 1);
  EXPECT_EQ(sine(std::numbers::pi / 2), 1);
  for (const double far : {1e10, 1e300, std::numeric_limits<double>::max()}) {
    const SineCosine at = sine_cosine(far);
    EXPECT_NEAR(at.sine * at.sine + at.cosine * at.cosine, 1, 1e-15) << far;
  }
}

TEST(Elementary, TangentAndArcsAreWithinTwoUnits) {
  double worst = 0;
  each_number(1.5, std::numbers::pi / 16, [&](double x) {
    worst = std::max(worst, off(tangent(x), std::tan(static_cast<long double>(x))));
  });
  EXPECT_LT(worst, 2.0);
  worst = 0;
  std::mt19937_64 random(8);
  std::uniform_real_distribution<double> share(-1, 1), size(-300, 300);
  for (int i = 0; i < 300'000; ++i) {
    const double scale = std::exp2(i % 3 == 0 ? size(random) : 0), x = scale * share(random),
                 y = (i % 2 == 0 ? scale : std::exp2(size(random))) * share(random);
    worst = std::max(
        worst, off(arc_tangent(y, x), std::atan2(static_cast<long double>(y), static_cast<long double>(x))));
  }
  EXPECT_LT(worst, 1.5);
  worst = 0;
  each_number(1.0, 1.0 / 1000, [&](double x) {
    worst = std::max(worst, off(arc_cosine(x), std::acos(static_cast<long double>(x))));
  });
  EXPECT_LT(worst, 2.0);
}

TEST(Elementary, ArcsKnowTheirQuarters) {
  constexpr double kPi = std::numbers::pi;
  EXPECT_EQ(arc_tangent(0, 1), 0);
  EXPECT_EQ(arc_tangent(0, -1), kPi);
  EXPECT_EQ(arc_tangent(-0.0, -1), -kPi);
  EXPECT_EQ(arc_tangent(1, 0), kPi / 2);
  EXPECT_EQ(arc_tangent(-1, 0), -kPi / 2);
  EXPECT_EQ(arc_tangent(1, 1), kPi / 4);
  EXPECT_EQ(arc_tangent(0, 0), 0);
  EXPECT_EQ(arc_tangent(1e308, 1e308), kPi / 4);
  EXPECT_EQ(arc_tangent(5e-324, 5e-324), kPi / 4);
  EXPECT_EQ(arc_tangent(5e-324, 1e308), 0);
  EXPECT_EQ(arc_cosine(2), 0);
  EXPECT_EQ(arc_cosine(-2), kPi);
}

TEST(Elementary, LogarithmIsWithinTwoUnits) {
  double worst = 0;
  std::mt19937_64 random(9);
  std::uniform_real_distribution<double> share(0, 1), size(-1000, 1000);
  for (int i = 0; i < 200'000; ++i) {
    for (const double x : {share(random), 1 + 1e-3 * (share(random) - 0.5), std::exp2(size(random))}) {
      if (x > 0) worst = std::max(worst, off(natural_logarithm(x), std::log(static_cast<long double>(x))));
    }
  }
  EXPECT_LT(worst, 1.0);
  EXPECT_EQ(natural_logarithm(1), 0);
  EXPECT_NEAR(natural_logarithm(0), -744.44, 0.01);
  EXPECT_NEAR(natural_logarithm(5e-324), -744.44, 0.01);
}

TEST(Elementary, PowersMultiply) {
  EXPECT_EQ(whole_power(0.5, 10), 0x1p-10);
  EXPECT_EQ(whole_power(3, 0), 1);
  EXPECT_EQ(whole_power(0, 0), 1);
  EXPECT_EQ(whole_power(0, 4'000'000'000u), 0);
  EXPECT_EQ(whole_power(2, 4'000'000'000u), std::numeric_limits<double>::infinity());
  EXPECT_NEAR(whole_power(0.9, 100) / std::pow(0.9, 100), 1, 1e-13);
}

TEST(Elementary, TheirBitsAreTheSameEverywhere) {
  std::uint64_t hash = 14695981039346656037ull;
  const auto add = [&](double x) { hash = (hash ^ std::bit_cast<std::uint64_t>(x)) * 1099511628211ull; };
  std::mt19937_64 random(10);
  const auto share = [&] { return static_cast<double>(random() >> 11) * 0x1p-53; };
  for (int i = 0; i < 100'000; ++i) {
    const double x = share(), y = share() - 0.5;
    add(sine(20 * x)), add(cosine(1e6 * y)), add(tangent(y)), add(arc_tangent(y, x - 0.5)),
        add(arc_cosine(2 * y)), add(natural_logarithm(x)), add(whole_power(x, 7));
  }
  EXPECT_EQ(hash, 5802374969922850434ull);
}

}  // namespace
}  // namespace dardo::detail::elementary_test
