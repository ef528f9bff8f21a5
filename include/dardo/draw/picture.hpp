#pragma once
#include <optional>
#include <string>
#include <string_view>
#include <tl/expected.hpp>

#include "dardo/record/sketch.hpp"

namespace dardo::draw {

enum class Format { png, svg, pdf };

/// By a file's ending, in any case; nothing when it is none of the three.
std::optional<Format> format_of(std::string_view path);

/// Whose names stand in a picture. First of those whom the attack concerns (the attacker, who was struck or
/// nearly so, what stood between); of all others for as long as there is room, and not in a crowd. How many
/// are left out is said.
enum class Names { all, concerned, none };

struct PictureOptions {
  Format format = Format::png;
  int width = 1280;  ///< pixels (pdf: points), kSmallest to kLargest
  int height = 800;
  Names names = Names::all;
};
inline constexpr int kSmallest = 320, kLargest = 8192;

/// The scene after a launch, seen from above: the bytes of an image file. Drawn from the sketch alone. The
/// error says what is wrong with the size, or that there was no memory for it.
tl::expected<std::string, std::string> picture(const Sketch& sketch, const PictureOptions& options);

}  // namespace dardo::draw
