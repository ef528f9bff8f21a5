#include "draw/detail/canvas.hpp"

#include <cairo-pdf.h>
#include <cairo-svg.h>

#include <algorithm>
#include <numbers>

#include "draw/detail/palette.hpp"

namespace dardo::draw::detail {
namespace {

cairo_status_t append(void* bytes, const unsigned char* data, unsigned int length) {
  static_cast<std::string*>(bytes)->append(reinterpret_cast<const char*>(data), length);
  return CAIRO_STATUS_SUCCESS;
}

cairo_surface_t* make_surface(const PictureOptions& o, std::string* bytes) {
  switch (o.format) {
    case Format::svg: return cairo_svg_surface_create_for_stream(append, bytes, o.width, o.height);
    case Format::pdf: {
      cairo_surface_t* pdf = cairo_pdf_surface_create_for_stream(append, bytes, o.width, o.height);
      // The same sketch makes the same bytes, whenever it is drawn.
      cairo_pdf_surface_set_metadata(pdf, CAIRO_PDF_METADATA_CREATE_DATE, "2000-01-01T00:00:00Z");
      return pdf;
    }
    case Format::png: break;
  }
  return cairo_image_surface_create(CAIRO_FORMAT_RGB24, o.width, o.height);
}

/// As text that Cairo takes: for bytes that are none, and for control characters, the sign for that.
std::string readable(std::string_view text) {
  std::string out;
  for (std::size_t i = 0; i < text.size();) {
    const auto lead = static_cast<unsigned char>(text[i]);
    const std::size_t size = lead < 0x80 ? 1 : lead >= 0xf0 ? 4 : lead >= 0xe0 ? 3 : lead >= 0xc2 ? 2 : 0;
    const auto at = [&](std::size_t k) { return static_cast<unsigned char>(text[i + k]); };
    bool whole = size > 0 && i + size <= text.size() && lead < 0xf5;
    for (std::size_t k = 1; whole && k < size; ++k) whole = (at(k) & 0xc0) == 0x80;
    // Longer than need be, halves of pairs, beyond the last.
    if (whole && size == 3) whole = !(lead == 0xe0 && at(1) < 0xa0) && !(lead == 0xed && at(1) >= 0xa0);
    if (whole && size == 4) whole = !(lead == 0xf0 && at(1) < 0x90) && !(lead == 0xf4 && at(1) >= 0x90);
    if (!whole || lead < 0x20 || lead == 0x7f) {
      out += "\xef\xbf\xbd", ++i;
    } else {
      out.append(text, i, size), i += size;
    }
  }
  return out;
}

}  // namespace

Canvas::Canvas(const PictureOptions& o)
    : format_(o.format),
      colors_(o.dark ? kDark : kLight),
      width_(o.width),
      height_(o.height),
      surface_(make_surface(o, &bytes_), cairo_surface_destroy),
      cairo_(cairo_create(surface_.get()), cairo_destroy) {
  cairo_set_line_join(cairo_.get(), CAIRO_LINE_JOIN_ROUND);
  cairo_set_line_cap(cairo_.get(), CAIRO_LINE_CAP_BUTT);
}

bool Canvas::good() const { return cairo_status(cairo_.get()) == CAIRO_STATUS_SUCCESS; }

void Canvas::set(const Color& c) { cairo_set_source_rgba(cairo_.get(), c.red, c.green, c.blue, c.alpha); }

void Canvas::set_stroke(double width, Stroke stroke) {
  cairo_set_line_width(cairo_.get(), width);
  const double dash[2] = {stroke == Stroke::dotted ? 1.5 : 6, stroke == Stroke::dotted ? 3.5 : 4};
  cairo_set_dash(cairo_.get(), dash, stroke == Stroke::solid ? 0 : 2, 0);
}

void Canvas::fill_page(const Color& color) {
  set(color);
  cairo_paint(cairo_.get());
}

void Canvas::line(Spot a, Spot b, const Color& color, double width, Stroke stroke) {
  set(color);
  set_stroke(width, stroke);
  cairo_move_to(cairo_.get(), a.x, a.y);
  cairo_line_to(cairo_.get(), b.x, b.y);
  cairo_stroke(cairo_.get());
}

void Canvas::polyline(const std::vector<Spot>& points, const Color& color, double width, Stroke stroke) {
  if (points.size() < 2) return;
  set(color);
  set_stroke(width, stroke);
  cairo_move_to(cairo_.get(), points[0].x, points[0].y);
  for (const Spot& p : points) cairo_line_to(cairo_.get(), p.x, p.y);
  cairo_stroke(cairo_.get());
}

void Canvas::circle(Spot center, double radius, const Color& color, double width, Stroke stroke) {
  set(color);
  set_stroke(width, stroke);
  cairo_new_sub_path(cairo_.get());
  cairo_arc(cairo_.get(), center.x, center.y, radius, 0, 2 * std::numbers::pi);
  cairo_stroke(cairo_.get());
}

void Canvas::disc(Spot center, double radius, const Color& color) {
  set(color);
  cairo_new_sub_path(cairo_.get());
  cairo_arc(cairo_.get(), center.x, center.y, radius, 0, 2 * std::numbers::pi);
  cairo_fill(cairo_.get());
}

void Canvas::band(Spot center, double inner, double outer, const Color& color) {
  set(color);
  cairo_new_sub_path(cairo_.get());
  cairo_arc(cairo_.get(), center.x, center.y, outer, 0, 2 * std::numbers::pi);
  cairo_new_sub_path(cairo_.get());
  cairo_arc_negative(cairo_.get(), center.x, center.y, inner, 2 * std::numbers::pi, 0);
  cairo_fill(cairo_.get());
}

void Canvas::polygon(const std::vector<Spot>& points, const Color& fill, const Color& edge, double width,
                     Hatch hatch, Stroke stroke) {
  if (points.empty()) return;
  cairo_t* c = cairo_.get();
  const auto trace = [&] {
    cairo_new_path(c);
    for (const Spot& p : points) cairo_line_to(c, p.x, p.y);
    cairo_close_path(c);
  };
  trace();
  set(fill);
  cairo_fill(c);
  if (hatch != Hatch::none) {
    double left = points[0].x, right = left, top = points[0].y, bottom = top;
    for (const Spot& p : points) {
      left = std::min(left, p.x), right = std::max(right, p.x);
      top = std::min(top, p.y), bottom = std::max(bottom, p.y);
    }
    cairo_save(c);
    trace();
    cairo_clip(c);
    set(edge.faded(0.55));
    set_stroke(1, Stroke::solid);
    constexpr double kStep = 7;
    const double tall = bottom - top;
    for (double x = left - tall; x < right + tall; x += kStep) {
      if (hatch == Hatch::rising || hatch == Hatch::crossed) {
        cairo_move_to(c, x, bottom), cairo_line_to(c, x + tall, top);
      }
      if (hatch == Hatch::falling || hatch == Hatch::crossed) {
        cairo_move_to(c, x, top), cairo_line_to(c, x + tall, bottom);
      }
    }
    cairo_stroke(c);
    if (hatch == Hatch::dotted) {
      for (double x = left; x < right; x += kStep) {
        for (double y = top; y < bottom; y += kStep) {
          cairo_new_sub_path(c);
          cairo_arc(c, x + 3, y + 3, 1, 0, 2 * std::numbers::pi);
        }
      }
      cairo_fill(c);
    }
    cairo_restore(c);
  }
  trace();
  set(edge);
  set_stroke(width, stroke);
  cairo_stroke(c);
}

void Canvas::rect(const Rect& r, const Color& fill, const Color& edge, double width) {
  polygon({{r.x, r.y}, {r.x + r.width, r.y}, {r.x + r.width, r.y + r.height}, {r.x, r.y + r.height}}, fill,
          edge, width);
}

void Canvas::set_font(double size, Weight weight) const {
  cairo_select_font_face(cairo_.get(), "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL,
                         weight == Weight::bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
  cairo_set_font_size(cairo_.get(), size);
}

void Canvas::text(Spot at, std::string_view text, double size, const Color& color, Weight weight) {
  set_font(size, weight);
  set(color);
  cairo_move_to(cairo_.get(), at.x, at.y);
  cairo_show_text(cairo_.get(), readable(text).c_str());
}

double Canvas::text_width(std::string_view text, double size, Weight weight) const {
  set_font(size, weight);
  cairo_text_extents_t extents;
  cairo_text_extents(cairo_.get(), readable(text).c_str(), &extents);
  return extents.x_advance;
}

void Canvas::clip(const Rect& r) {
  cairo_save(cairo_.get());
  cairo_rectangle(cairo_.get(), r.x, r.y, r.width, r.height);
  cairo_clip(cairo_.get());
}

void Canvas::clip(const std::vector<std::vector<Spot>>& polygons) {
  cairo_t* c = cairo_.get();
  cairo_save(c);
  cairo_new_path(c);
  for (const std::vector<Spot>& points : polygons) {
    cairo_new_sub_path(c);
    for (const Spot& p : points) cairo_line_to(c, p.x, p.y);
    cairo_close_path(c);
  }
  cairo_clip(c);
}

void Canvas::unclip() { cairo_restore(cairo_.get()); }

std::string Canvas::finish() {
  if (format_ == Format::png) {
    cairo_surface_write_to_png_stream(surface_.get(), append, &bytes_);
  } else {
    cairo_show_page(cairo_.get());
    cairo_surface_finish(surface_.get());
  }
  return std::move(bytes_);
}

}  // namespace dardo::draw::detail
