#pragma once
// What the trees are timed beside: plain loops over all bodies and walls, written so that the compiler makes
// vector code of them, as whoever wants no index would write them.
#include <array>
#include <cstddef>
#include <cstdint>
#include <utility>
#include <vector>

#include "index/scene.hpp"

namespace dardo::bench {

using Hit = std::pair<double, std::uint32_t>;
constexpr Hit kNoHit{1e300, 0};

class VectorLoop {
 public:
  explicit VectorLoop(const Scene& scene);
  /// Takes the bodies' new places.
  void upkeep(const std::vector<Capsule>& bodies);

  /// First contact with bodies, and walls, which are numbered after them; nearest, then lowest number.
  Hit first(const Ray& ray) const;
  /// First contact of a ball of the scene's sweep radius with bodies.
  Hit sweep(const Ray& way) const;
  std::size_t touched(const Vec3& center, double radius) const;
  bool sees(const Segment& line) const;

 private:
  std::size_t count() const { return body_[0].size(); }
  void first_body(const Ray& ray, double grown, Hit& best) const;

  /// Capsules: centre, axis (unit), half of its length, radius. Walls: low and high corner.
  std::array<std::vector<double>, 8> body_;
  std::array<std::vector<double>, 6> wall_;
};

}  // namespace dardo::bench
