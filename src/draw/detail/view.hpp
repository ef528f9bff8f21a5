#pragma once
#include <string>
#include <vector>

#include "dardo/draw/picture.hpp"
#include "draw/detail/canvas.hpp"
#include "draw/detail/labels.hpp"
#include "draw/detail/plan.hpp"

namespace dardo::draw::detail {

/// What of a sketch a plan has to show. What leads far away from all that stands there is left out.
Extent extent_of(const Sketch& sketch, const Plan& plan);

/// Which materials a sketch has, in the order of its walls: their place gives colour and hatching.
std::vector<std::string> materials_of(const Sketch& sketch);

/// A sketch as a plan sees it, in a part of the page.
class View {
 public:
  View(const Sketch& sketch, Canvas& canvas, const Plan& plan, const Rect& frame, Names names);

  /// With a caption in the corner, unless it is empty.
  void draw(std::string caption);
  /// Where everything is, and what of it `part` shows; neither names nor marks.
  void draw_inset(const View& part);
  /// Labels for which there was no free place.
  std::size_t crowded() const { return crowded_; }
  /// Bodies and walls without a name.
  std::size_t left_out() const { return left_out_; }

 private:
  struct Text {
    std::string head, note;
    Color color;
    Spot anchor;
    enum { contact, body, wall, far } kind;
  };

  double pixels(double metres) const { return metres * plan_.pixels_per_metre; }
  double round_length(double wanted_pixels) const;
  Color color_of(const SketchBody& body) const;

  Rect caption_box() const;
  void draw_grid();
  void draw_heights();
  void draw_ground();
  void draw_things();
  void draw_wall(const SketchWall& wall);
  void draw_body(const SketchBody& body);
  void draw_contact(const SketchContact& contact);
  void draw_scale_bar();
  /// In a corner where nobody stands, if there is one.
  Rect scale_bar_box() const;

  Rect body_box(const SketchBody& body) const;
  std::vector<Rect> taken() const;
  template <class OfBody, class OfWall>
  void add_names(const OfBody& of_body, const OfWall& of_wall);
  void add_far_ends(std::vector<Text>& texts, std::vector<Label>& labels) const;
  void draw_labels();
  void draw_label(const Text& text, double clearance, const Rect& place);

  const Sketch& sketch_;
  Canvas& canvas_;
  const Palette& colors_;
  Plan plan_;
  Rect frame_;
  Names names_;
  std::vector<std::string> materials_;
  std::string caption_;
  std::size_t crowded_ = 0, left_out_ = 0;
};

/// A wall of a material as it is drawn anywhere.
void fill_wall(Canvas& canvas, const std::vector<Spot>& shape, std::size_t material, const Passages& blocks,
               double width, double strength = 1);
/// The sign of a faction: shape says what colour says.
void draw_sign(Canvas& canvas, Spot at, std::uint32_t faction, double size, const Color& color);

}  // namespace dardo::draw::detail
