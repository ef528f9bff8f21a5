#pragma once
#include <vector>

#include "dardo/record/outcome.hpp"
#include "draw/detail/canvas.hpp"
#include "draw/detail/plan.hpp"

namespace dardo::draw::detail {

/// What is drawn of an area: faces that are filled, and lines.
struct AreaOutline {
  std::vector<std::vector<Vec3>> faces, lines;  ///< in the world; faces are closed
};
AreaOutline outline_of(const AreaMark& mark);
/// What is filled of an area: everywhere alike, or the more of its power arrives, the darker.
void fill_faces(Canvas& canvas, const std::vector<std::vector<Spot>>& faces, Spot origin,
                const std::vector<FalloffPoint>& fades, double alike, const Plan& plan);
/// Draws it as a plan sees it.
void draw_area(Canvas& canvas, const AreaMark& mark, const Plan& plan);
/// What lasted: as it was at some times, faint, and at its end.
void draw_lasting(Canvas& canvas, const LastingMark& mark, const Plan& plan);
/// So far a half-space is drawn, metres.
inline constexpr double kDrawnHalfSpace = 12;

}  // namespace dardo::draw::detail
