#include "resolve/carriers/area_region.hpp"

#include <numbers>
#include <vector>

namespace dardo::detail {

std::optional<Region> region_of(const AreaShape& shape) {
  const auto sector = [](double angle, double near, double far, std::optional<Band> band) {
    Sector s;
    s.angle = angle, s.near = near, s.far = far, s.band = band;
    return Region(s);
  };
  constexpr double kRound = 2 * std::numbers::pi;
  if (const auto* s = std::get_if<RingArea>(&shape))
    return sector(kRound, s->near, s->far, Band{s->low, s->high});
  if (const auto* s = std::get_if<ShellArea>(&shape)) return sector(kRound, s->near, s->far, std::nullopt);
  if (const auto* s = std::get_if<SectorArea>(&shape))
    return sector(s->angle, s->near, s->far, Band{s->low, s->high});
  if (const auto* s = std::get_if<ConeArea>(&shape)) return sector(s->angle, s->near, s->far, std::nullopt);
  if (const auto* s = std::get_if<BoxArea>(&shape)) return Region(Shape(Box{{}, s->half, {}}));
  if (const auto* s = std::get_if<BeamArea>(&shape))
    return Region(Shape(Cylinder{{}, {s->length, 0, 0}, s->radius}));
  if (const auto* s = std::get_if<CapsuleArea>(&shape))
    return Region(Shape(Capsule{s->from, s->to, s->radius}));
  if (const auto* s = std::get_if<PrismArea>(&shape)) {
    std::vector<Vec3> corners;
    for (const planar::Vec2& c : s->polygon) corners.push_back({c.x, c.y, 0});
    return Region(upright_prism(corners, s->low, s->high));
  }
  if (std::holds_alternative<HalfSpaceArea>(shape)) return Region(HalfSpace{{}, {-1, 0, 0}});
  if (const auto* s = std::get_if<HullArea>(&shape)) return Region(Shape(Hull{s->points}));
  return std::nullopt;
}

}  // namespace dardo::detail
