#pragma once
#include "dardo/record/sketch.hpp"
#include "draw/detail/canvas.hpp"
#include "draw/detail/plan.hpp"

// How each kind of mark looks, from wherever a plan sees it.
namespace dardo::draw::detail {

/// How much time lies between two rings on the ways of a sketch.
double time_step(const Sketch& sketch);

/// An arrowhead whose tip is at `tip`, coming from the side of `before`.
void draw_arrowhead(Canvas& canvas, Spot before, Spot tip, double size = 10);
/// Where a line of sight is cut.
void draw_cut(Canvas& canvas, Spot at);
/// Where a shot was shot down.
void draw_downed(Canvas& canvas, const Spot& at);
/// That a body has a status: a small diamond.
void draw_status(Canvas& canvas, const Spot& at);
/// A way with a ring at each full step of time.
void draw_time_rings(Canvas& canvas, const std::vector<Vec3>& places, const std::vector<double>& times,
                     double step, const Color& color, const Plan& plan);

/// Draws a mark; `step`: seconds between two rings.
void draw_mark(Canvas& canvas, const Mark& mark, double step, const Plan& plan);

}  // namespace dardo::draw::detail
