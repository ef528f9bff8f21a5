#include "geometry/detail/elementary.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>

// Range reduction in parts (Cody and Waite, Software Manual for the Elementary Functions, 1980) with exact
// products (Dekker, 1971), then Taylor series on short intervals. Of the C library only what is exact by
// IEEE 754 is called.
namespace dardo::detail {
namespace {

struct Parts {
  double high, low;
};

/// The exact product of two numbers that are not huge.
Parts product(double a, double b) {
  const auto split = [](double x) {
    const double t = 134217729.0 * x, high = t - (t - x);
    return Parts{high, x - high};
  };
  const Parts p = split(a), q = split(b);
  const double whole = a * b;
  return {whole, ((p.high * q.high - whole) + p.high * q.low + p.low * q.high) + p.low * q.low};
}

/// Halves of pi, as the sum of doubles.
constexpr double kQuarterTurn = 0x1.921fb54442d18p+0, kQuarterTurn2 = 0x1.1a62633145c07p-54,
                 kQuarterTurn3 = -0x1.f1976b7ed8fbcp-110;

/// sum of terms[i] z^i.
template <std::size_t N>
double series(const std::array<double, N>& terms, double z) {
  double out = terms[N - 1];
  for (std::size_t i = N - 1; i-- > 0;) out = out * z + terms[i];
  return out;
}

/// 1/3!, 1/5!, ... with signs.
constexpr auto kSine = [] {
  std::array<double, 8> out{};
  double factorial = 1;
  for (std::size_t i = 0; i < out.size(); ++i) {
    factorial *= static_cast<double>((2 * i + 2) * (2 * i + 3));
    out[i] = (i % 2 == 0 ? -1 : 1) / factorial;
  }
  return out;
}();
/// 1/4!, 1/6!, ... with signs.
constexpr auto kCosine = [] {
  std::array<double, 8> out{};
  double factorial = 2;
  for (std::size_t i = 0; i < out.size(); ++i) {
    factorial *= static_cast<double>((2 * i + 3) * (2 * i + 4));
    out[i] = (i % 2 == 0 ? 1 : -1) / factorial;
  }
  return out;
}();

/// Of an angle of at most an eighth of a turn, given as a sum.
SineCosine within_an_eighth(double x, double rest) {
  const double z = x * x, half = 0.5 * z, one = 1 - half;
  return {x + (x * z * series(kSine, z) + rest * one),
          one + (((1 - one) - half) + (z * z * series(kCosine, z) - x * rest))};
}

/// The arc tangents of i / 8.
constexpr std::array<Parts, 9> kArcs{{{0, 0},
                                      {0x1.fd5ba9aac2f6ep-4, -0x1.cd37686760c17p-59},
                                      {0x1.f5b75f92c80ddp-3, 0x1.8ab6e3cf7afbdp-57},
                                      {0x1.6f61941e4def1p-2, -0x1.c63aae6f6e918p-56},
                                      {0x1.dac670561bb4fp-2, 0x1.a2b7f222f65e2p-56},
                                      {0x1.1e00babdefeb4p-1, -0x1.928df287a668fp-58},
                                      {0x1.4978fa3269ee1p-1, 0x1.2419a87f2a458p-56},
                                      {0x1.700a7c5784634p-1, -0x1.8c34d25aadef6p-56},
                                      {0x1.921fb54442d18p-1, 0x1.1a62633145c07p-55}}};

/// The terms -1/3, 1/5, ... of the arc tangent, and 2/3, 2/5, ... of the logarithm by its own tangent.
constexpr auto kArc = [] {
  std::array<double, 7> out{};
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = (i % 2 == 0 ? -1.0 : 1.0) / static_cast<double>(2 * i + 3);
  return out;
}();
constexpr auto kLogarithm = [] {
  std::array<double, 11> out{};
  for (std::size_t i = 0; i < out.size(); ++i) out[i] = 2.0 / static_cast<double>(2 * i + 3);
  return out;
}();

}  // namespace

SineCosine sine_cosine(double angle) {
  constexpr double kMost = 1e9;
  if (!(std::fabs(angle) <= kMost)) angle = std::fmod(angle, 4 * kQuarterTurn);
  if (!(std::fabs(angle) <= kMost)) return {};
  const double turns = std::nearbyint(angle * (1 / kQuarterTurn));
  // With so few turns all but the last digits cancel without rounding.
  const Parts first = product(turns, kQuarterTurn), second = product(turns, kQuarterTurn2);
  const double big = (angle - first.high) - first.low;
  const double x = big - second.high, rest = ((big - x) - second.high) - second.low - turns * kQuarterTurn3;
  const SineCosine at = within_an_eighth(x, rest);
  switch (static_cast<long long>(turns) & 3) {
    case 0: return at;
    case 1: return {at.cosine, -at.sine};
    case 2: return {-at.sine, -at.cosine};
    default: return {-at.cosine, at.sine};
  }
}

double sine(double angle) { return sine_cosine(angle).sine; }
double cosine(double angle) { return sine_cosine(angle).cosine; }
double tangent(double angle) {
  const SineCosine at = sine_cosine(angle);
  return at.sine / at.cosine;
}

double arc_tangent(double y, double x) {
  double up = std::fabs(y), along = std::fabs(x);
  if (!(std::max(up, along) > 0)) return std::copysign(std::signbit(x) ? 2 * kQuarterTurn : 0, y);
  const bool steep = up > along;
  if (steep) std::swap(up, along);
  // So that nothing overflows, or loses its digits.
  const int exponent = std::ilogb(along);
  up = std::scalbn(up, -exponent), along = std::scalbn(along, -exponent);
  const auto step = static_cast<std::size_t>(std::nearbyint(8 * (up / along)));
  const double part = 0.125 * static_cast<double>(step), t = (up - part * along) / (along + part * up),
               z = t * t;
  Parts angle = kArcs[step];
  angle.low += t + t * z * series(kArc, z);
  if (steep) angle = {kQuarterTurn - angle.high, kQuarterTurn2 - angle.low};
  if (std::signbit(x)) angle = {2 * kQuarterTurn - angle.high, 2 * kQuarterTurn2 - angle.low};
  return std::copysign(angle.high + angle.low, y);
}

double arc_cosine(double cosine) {
  const double c = std::clamp(cosine, -1.0, 1.0);
  return arc_tangent(std::sqrt((1 - c) * (1 + c)), c);
}

double natural_logarithm(double x) {
  constexpr double kHigh = 0x1.62e42fee00000p-1, kLow = 0x1.a39ef35793c76p-33;  // of 2
  if (!(x > 0)) return -0x1.74385446d71c3p+9;
  int exponent = 0;
  double m = std::frexp(x, &exponent);
  if (m < 1 / std::numbers::sqrt2) m *= 2, --exponent;
  const double f = m - 1, half = 0.5 * f * f, s = f / (2 + f), z = s * s;
  return exponent * kHigh - ((half - (s * (half + z * series(kLogarithm, z)) + exponent * kLow)) - f);
}

double whole_power(double base, unsigned exponent) {
  double out = 1;
  for (double square = base; exponent > 0; exponent >>= 1, square *= square) {
    if ((exponent & 1u) != 0) out *= square;
  }
  return out;
}

}  // namespace dardo::detail
