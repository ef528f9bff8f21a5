#include "resolve/carriers/area_region.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
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

double reach_of(const AreaShape& shape) {
  const auto up_to = [](double low, double high) { return std::max(std::fabs(low), std::fabs(high)); };
  const auto farthest = [](const auto& points) {
    double most = 0;
    for (const auto& p : points) most = std::max(most, length(Vec3(p)));
    return most;
  };
  if (const auto* s = std::get_if<BallArea>(&shape)) return s->radius;
  if (const auto* s = std::get_if<RingArea>(&shape)) return length({s->far, up_to(s->low, s->high), 0});
  if (const auto* s = std::get_if<ShellArea>(&shape)) return s->far;
  if (const auto* s = std::get_if<SectorArea>(&shape)) return length({s->far, up_to(s->low, s->high), 0});
  if (const auto* s = std::get_if<ConeArea>(&shape)) return s->far;
  if (const auto* s = std::get_if<BoxArea>(&shape)) return length(s->half);
  if (const auto* s = std::get_if<BeamArea>(&shape)) return length({s->length, s->radius, 0});
  if (const auto* s = std::get_if<CapsuleArea>(&shape))
    return std::max(length(s->from), length(s->to)) + s->radius;
  if (const auto* s = std::get_if<HullArea>(&shape)) return farthest(s->points);
  if (const auto* s = std::get_if<PrismArea>(&shape)) {
    double most = 0;
    for (const planar::Vec2& c : s->polygon) most = std::max(most, length({c.x, c.y, 0}));
    return length({most, up_to(s->low, s->high), 0});
  }
  return std::numeric_limits<double>::infinity();
}

std::vector<FalloffPoint> fades_of(const Attack& attack, double reach) {
  if (!attack.by_distance) return {};
  constexpr int kSteps = 8;
  const double to = std::min(reach, attack.by_distance->ends_at());
  std::vector<FalloffPoint> out;
  for (int i = 0; i <= kSteps; ++i) {
    const double distance = to * i / kSteps;
    out.push_back({distance, attack.by_distance->at(distance)});
  }
  return out;
}

}  // namespace dardo::detail
