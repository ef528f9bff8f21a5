#pragma once
#include <optional>
#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <vector>

#include "dardo/record/sketch.hpp"

namespace dardo::draw {

enum class Format { png, svg, pdf };

/// By a file's ending, in any case; nothing when it is none of the three.
std::optional<Format> format_of(std::string_view path);

/// Whose names stand in a picture. First of those whom the attack concerns (the attacker, who was struck or
/// nearly so, what stood between); of all others for as long as there is room, and not in a crowd. How many
/// are left out is said.
enum class Names { all, concerned, none };

/// From where a picture looks; always without perspective.
struct Eye {
  enum class From {
    above,    ///< a plan
    side,     ///< an elevation, at the scale of the plan above it
    oblique,  ///< from above and aside
  };
  From from = From::above;
  /// What leads to the right of the page: radians anticlockwise from +x. Unless said, for an elevation along
  /// the first way of a shot, a dash or a ray, and 0.5 for an oblique view. A plan has +x there.
  std::optional<double> right = {};

  friend bool operator==(const Eye&, const Eye&) = default;
};

/// A part of the scene to look at; an inset shows the whole.
struct Focus {
  Vec3 center;
  double radius = 6;  ///< metres
};

struct PictureOptions {
  Format format = Format::png;
  int width = 1280;  ///< pixels (pdf: points), kSmallest to kLargest
  int height = 800;
  Names names = Names::all;
  std::vector<Eye> eyes = {};  ///< none: a plan, and where a way rises or falls an elevation
  std::optional<Focus> focus = {};
  bool dark = false;
  std::string title = {}, summary = {};  ///< in place of the sketches' own
};
inline constexpr int kSmallest = 320, kLargest = 8192;
/// So many sketches at most stand on a page, and so many views of each.
inline constexpr std::size_t kMostSketches = 24, kMostEyes = 4;

/// A page of sketches side by side, all at one scale and of the same part of the world, each from every
/// given place: the bytes of an image file. Drawn from the sketches alone. The captions, one a sketch, stand
/// over them when there are several. The error says what is wrong with the size, the numbers or the focus,
/// or that there was no memory for it.
tl::expected<std::string, std::string> picture(const std::vector<Sketch>& sketches,
                                               const std::vector<std::string>& captions,
                                               const PictureOptions& options);
/// The same of one sketch.
tl::expected<std::string, std::string> picture(const Sketch& sketch, const PictureOptions& options);

}  // namespace dardo::draw
