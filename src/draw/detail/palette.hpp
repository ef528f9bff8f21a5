#pragma once
#include <array>

#include "draw/detail/canvas.hpp"

// Colours and sizes of all pictures.
namespace dardo::draw::detail {

inline constexpr Color kPaper{0.975, 0.968, 0.945}, kInk{0.13, 0.15, 0.18}, kFaint{0.45, 0.47, 0.50},
    kGrid{0.88, 0.875, 0.85};
inline constexpr Color kReached{0.79, 0.13, 0.31}, kWay{0.13, 0.15, 0.18}, kReach{0.35, 0.42, 0.48},
    kSight{0.24, 0.50, 0.58};
// Told apart by people with any colour vision: they differ in lightness, too, and each has a sign of its own.
inline constexpr std::array<Color, 6> kFactions{{{0.10, 0.33, 0.60},
                                                 {0.83, 0.40, 0.13},
                                                 {0.66, 0.62, 0.24},
                                                 {0.45, 0.24, 0.52},
                                                 {0.20, 0.60, 0.53},
                                                 {0.40, 0.34, 0.30}}};
inline constexpr std::array<Color, 5> kMaterials{
    {{0.62, 0.50, 0.36}, {0.55, 0.68, 0.75}, {0.80, 0.77, 0.66}, {0.55, 0.55, 0.55}, {0.47, 0.58, 0.47}}};
inline constexpr std::array<Hatch, 5> kHatches{Hatch::rising, Hatch::none, Hatch::dotted, Hatch::crossed,
                                               Hatch::falling};

inline constexpr double kTextSize = 12, kSmallText = 11, kLineHeight = 14;

}  // namespace dardo::draw::detail
