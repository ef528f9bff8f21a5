// A gunner's table: how high to aim a flare at each distance, how long it flies, and what it would take
// beyond its reach.
#include <cmath>
#include <cstdio>
#include <numbers>

#include <dardo/aim/arc.hpp>

using namespace dardo;

int main() {
  const Vec3 muzzle{0, 0, 1.35}, gravity{0, 0, -9.81};
  const double speed = 24;
  std::printf("flare sling, %.0f m/s; target at the water line, and one that comes nearer at 3 m/s\n", speed);
  std::printf("%10s %22s %22s %14s\n", "distance", "low arc", "high arc", "least speed");
  for (double away = 10; away <= 70; away += 10) {
    const Target still{{away, 0, 0}, {}};
    const Arcs found = arcs(muzzle, still, speed, gravity);
    std::printf("%8.0f m", away);
    for (std::size_t i = 0; i < 2; ++i) {
      if (i < found.count) {
        const Arc& a = found.arc[i];
        const double elevation = std::atan2(a.velocity.z, a.velocity.x) * 180 / std::numbers::pi;
        std::printf("  %8.2f deg %6.2f s", elevation, a.time_s);
      } else {
        std::printf("  %20s", i == 0 ? "out of reach" : "");
      }
    }
    std::printf("  %8.2f m/s", length(least_speed_arc(muzzle, still, gravity).velocity));
    if (found.count == 0) std::printf("  needs %.2f m/s more", found.more_speed);
    std::printf("\n");
  }
  const Arcs coming = arcs(muzzle, {{60, 0, 0}, {-3, 0, 0}}, speed, gravity);
  for (const Arc& a : coming)
    std::printf("coming from 60 m: met at %.2f m after %.2f s\n", a.meets.x, a.time_s);
  return coming.count > 0 ? 0 : 1;
}
