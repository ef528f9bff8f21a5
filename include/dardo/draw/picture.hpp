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

struct PictureOptions {
  Format format = Format::png;
  int width = 1280;  ///< pixels (pdf: points), kSmallest to kLargest
  int height = 800;
};
inline constexpr int kSmallest = 320, kLargest = 8192;

/// The scene after a launch, seen from above: the bytes of an image file. Drawn from the sketch alone. The
/// error says what is wrong with the size, or that there was no memory for it.
tl::expected<std::string, std::string> picture(const Sketch& sketch, const PictureOptions& options);

}  // namespace dardo::draw
