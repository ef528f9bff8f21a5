#pragma once
#include <cairo.h>

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "dardo/draw/picture.hpp"

namespace dardo::draw::detail {

/// A place on the page, in pixels, y down.
struct Spot {
  double x = 0, y = 0;
};

struct Rect {
  double x = 0, y = 0, width = 0, height = 0;

  bool overlaps(const Rect& o) const {
    return x < o.x + o.width && o.x < x + width && y < o.y + o.height && o.y < y + height;
  }
  bool holds(const Rect& o) const {
    return o.x >= x && o.y >= y && o.x + o.width <= x + width && o.y + o.height <= y + height;
  }
  Rect grown(double by) const { return {x - by, y - by, width + 2 * by, height + 2 * by}; }
};

struct Color {
  double red = 0, green = 0, blue = 0, alpha = 1;
  Color faded(double a) const { return {red, green, blue, a}; }
};

/// How the inside of a polygon is filled besides its colour.
enum class Hatch { none, rising, falling, crossed, dotted };
enum class Stroke { solid, dashed, dotted };
enum class Weight { plain, bold };

struct Palette;

/// A page to draw on: a thin layer over Cairo that knows nothing of what is drawn.
class Canvas {
 public:
  explicit Canvas(const PictureOptions& options);

  bool good() const;
  const Palette& colors() const { return colors_; }
  double width() const { return width_; }
  double height() const { return height_; }

  void fill_page(const Color& color);
  void line(Spot a, Spot b, const Color& color, double width, Stroke stroke = Stroke::solid);
  /// Joined, so that what is see-through is so evenly.
  void polyline(const std::vector<Spot>& points, const Color& color, double width,
                Stroke stroke = Stroke::solid);
  void circle(Spot center, double radius, const Color& color, double width, Stroke stroke = Stroke::solid);
  /// What lies between two circles.
  void band(Spot center, double inner, double outer, const Color& color);
  void disc(Spot center, double radius, const Color& color);
  void polygon(const std::vector<Spot>& points, const Color& fill, const Color& edge, double width,
               Hatch hatch = Hatch::none, Stroke stroke = Stroke::solid);
  void rect(const Rect& r, const Color& fill, const Color& edge, double width);
  /// `at` is the left end of the base line.
  void text(Spot at, std::string_view text, double size, const Color& color, Weight weight = Weight::plain);
  double text_width(std::string_view text, double size, Weight weight = Weight::plain) const;
  void clip(const Rect& r);
  /// To all that any of them covers, if they go round the same way.
  void clip(const std::vector<std::vector<Spot>>& polygons);
  void unclip();

  /// Finishes the page; the file's bytes.
  std::string finish();

 private:
  void set(const Color& color);
  void set_stroke(double width, Stroke stroke);
  void set_font(double size, Weight weight) const;

  Format format_;
  const Palette& colors_;
  double width_, height_;
  std::string bytes_;
  std::unique_ptr<cairo_surface_t, decltype(&cairo_surface_destroy)> surface_;
  std::unique_ptr<cairo_t, decltype(&cairo_destroy)> cairo_;
};

}  // namespace dardo::draw::detail
