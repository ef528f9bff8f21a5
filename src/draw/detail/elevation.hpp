#pragma once
#include "dardo/record/sketch.hpp"
#include "draw/detail/plan.hpp"

namespace dardo::draw::detail {

/// Whether anything in the sketch rises or falls by enough to be seen from the side.
bool needs_elevation(const Sketch& sketch);

/// The scene from the side, along the way of its first shot.
void draw_elevation(const Sketch& sketch, Canvas& canvas, const Rect& frame);

/// The way of a shot with a ring at each full step of time, and an arrow at its end.
void draw_flight(Canvas& canvas, const FlightMark& mark, const Plan& plan);
/// How much time lies between two rings.
double time_step(const FlightMark& mark);
double time_step(const Sketch& sketch);

}  // namespace dardo::draw::detail
