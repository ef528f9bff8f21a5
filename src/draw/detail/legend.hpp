#pragma once
#include "dardo/record/sketch.hpp"
#include "draw/detail/canvas.hpp"

namespace dardo::draw::detail {

/// What the signs of a sketch mean: of those that are in it.
void draw_legend(const Sketch& sketch, Canvas& canvas, const Rect& frame);

}  // namespace dardo::draw::detail
