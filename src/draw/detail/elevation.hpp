#pragma once
#include "dardo/record/sketch.hpp"
#include "draw/detail/plan.hpp"

namespace dardo::draw::detail {

/// Whether anything in the sketch rises or falls by enough to be seen from the side.
bool needs_elevation(const Sketch& sketch);

/// The scene from the side, along the way of its first shot.
void draw_elevation(const Sketch& sketch, Canvas& canvas, const Rect& frame);

/// The way of a shot with a ring at each full step of time, and an arrow at its end.
/// With a ring each `step` seconds.
void draw_flight(Canvas& canvas, const FlightMark& mark, double step, const Plan& plan);
/// Where a shot was shot down.
void draw_downed(Canvas& canvas, const Spot& at);
/// How much time lies between two rings.
double time_step(const Sketch& sketch);

}  // namespace dardo::draw::detail
