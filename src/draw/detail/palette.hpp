#pragma once
#include <array>
#include <cstdint>

#include "draw/detail/canvas.hpp"

// Colours and sizes of all pictures.
namespace dardo::draw::detail {

/// The colours of a page. Those of factions are told apart by people with any colour vision: they differ in
/// lightness, too, and each has a sign of its own.
struct Palette {
  Color paper, panel, ink, faint, grid;
  Color reached, way, reach, sight;
  Color sign;  ///< inside the signs of factions
  std::array<Color, 6> factions;
  std::array<Color, 5> materials;
  bool dark = false;

  const Color& faction(std::uint32_t number) const { return factions[number % factions.size()]; }
  /// For the edge of what is filled with a colour.
  Color edge(const Color& c) const { return dark ? mixed(c, 0.35, 1) : mixed(c, 0.4, 0); }
  /// For words.
  Color words(const Color& c) const { return dark ? mixed(c, 0.3, 1) : mixed(c, 0.2, 0); }

 private:
  static Color mixed(const Color& c, double share, double with) {
    const auto mix = [&](double x) { return x + (with - x) * share; };
    return {mix(c.red), mix(c.green), mix(c.blue), c.alpha};
  }
};

inline constexpr Palette kLight{
    .paper = {0.975, 0.968, 0.945},
    .panel = {0.955, 0.945, 0.915},
    .ink = {0.13, 0.15, 0.18},
    .faint = {0.45, 0.47, 0.50},
    .grid = {0.88, 0.875, 0.85},
    .reached = {0.79, 0.13, 0.31},
    .way = {0.13, 0.15, 0.18},
    .reach = {0.35, 0.42, 0.48},
    .sight = {0.24, 0.50, 0.58},
    .sign = {1, 1, 1},
    .factions = {{{0.10, 0.33, 0.60},
                  {0.83, 0.40, 0.13},
                  {0.66, 0.62, 0.24},
                  {0.45, 0.24, 0.52},
                  {0.20, 0.60, 0.53},
                  {0.40, 0.34, 0.30}}},
    .materials = {{{0.62, 0.50, 0.36},
                   {0.55, 0.68, 0.75},
                   {0.80, 0.77, 0.66},
                   {0.55, 0.55, 0.55},
                   {0.47, 0.58, 0.47}}},
};
inline constexpr Palette kDark{
    .paper = {0.075, 0.090, 0.112},
    .panel = {0.102, 0.120, 0.146},
    .ink = {0.90, 0.905, 0.89},
    .faint = {0.60, 0.62, 0.65},
    .grid = {0.150, 0.172, 0.200},
    .reached = {0.98, 0.38, 0.50},
    .way = {0.93, 0.92, 0.86},
    .reach = {0.56, 0.64, 0.71},
    .sight = {0.42, 0.74, 0.82},
    .sign = {0.075, 0.090, 0.112},
    .factions = {{{0.42, 0.66, 0.95},
                  {0.95, 0.56, 0.28},
                  {0.84, 0.80, 0.42},
                  {0.74, 0.54, 0.84},
                  {0.36, 0.78, 0.70},
                  {0.68, 0.60, 0.54}}},
    .materials = {{{0.50, 0.40, 0.28},
                   {0.36, 0.49, 0.56},
                   {0.48, 0.46, 0.38},
                   {0.42, 0.42, 0.42},
                   {0.34, 0.44, 0.34}}},
    .dark = true,
};

inline constexpr std::array<Hatch, 5> kHatches{Hatch::rising, Hatch::none, Hatch::dotted, Hatch::crossed,
                                               Hatch::falling};

inline constexpr double kTextSize = 12, kSmallText = 11, kLineHeight = 14;

}  // namespace dardo::draw::detail
