// Any bytes make two shapes, a sector and ways for them to go: whatever is asked of these must come back
// finite, within bounds, and say the same from both sides. Runs under libFuzzer (preset asan), and over
// seeded random bytes as a plain test.
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <limits>
#include <random>
#include <vector>

#include "dardo/geometry/half_space.hpp"
#include "dardo/geometry/motion.hpp"
#include "dardo/geometry/sector.hpp"

namespace dardo {
namespace {

#define DEMAND(condition)                                                                        \
  do {                                                                                           \
    if (!(condition)) std::fprintf(stderr, "line %d: %s\n", __LINE__, #condition), std::abort(); \
  } while (false)

class Bytes {
 public:
  Bytes(const std::uint8_t* data, std::size_t size) : data_(data), size_(size) {}

  std::uint8_t byte() { return at_ < size_ ? data_[at_++] : 0; }
  /// Round numbers as often as crooked ones: round ones make tangents, parallels and coincidences.
  double number(double limit) {
    const std::uint8_t kind = byte();
    const double whole = static_cast<double>(static_cast<std::int8_t>(byte()));
    if (kind < 96) return std::fmod(whole * 0.25, limit);
    if (kind < 128) return 0;
    std::uint32_t bits = 0;
    for (int i = 0; i < 4; ++i) bits = bits << 8 | byte();
    const double part = static_cast<double>(bits) / 4294967296.0 * 2 - 1;
    return kind < 224 ? part * std::min(limit, 10.0) : part * limit;
  }
  double size() { return std::fabs(number(100)); }
  Vec3 vec(double limit) {
    const double x = number(limit), y = number(limit);
    return {x, y, number(limit)};
  }
  Vec3 direction() {
    const Vec3 v = vec(1);
    return length(v) > 1e-6 ? normalized(v) : Vec3{0, 0, 1};
  }
  Shape shape(const Vec3& at) {
    switch (byte() % 6) {
      case 0: return Ball{at, size()};
      case 1: return Capsule{at, at + vec(100), size()};
      case 2:
        return Box{at, {size(), size(), size()}, Rotation::yaw_pitch_roll(number(4), number(2), number(4))};
      case 3: return Cylinder{at, at + direction() * (1e-3 + size()), size()};
      case 4: return Cone{at, at + direction() * (1e-3 + size()), size()};
      default: {
        Hull hull;
        for (int i = 1 + byte() % 9; i > 0; --i) hull.points.push_back(at + vec(100));
        return hull;
      }
    }
  }
  Sector sector(const Vec3& at) {
    Sector s{.apex = at, .axis = direction(), .angle = std::fabs(number(6.28)), .near = size()};
    s.far = s.near + size();
    if (byte() % 2) {
      const Rotation turn = Rotation::about_z(number(4));
      s.axis = turn.x;
      const double low = number(100);
      s.band = Band{low, low + size()};
    }
    return s;
  }

 private:
  const std::uint8_t* data_;
  std::size_t size_, at_ = 0;
};

bool sane(const Vec3& v) { return is_finite(v) && largest(v) < 1e9; }
bool sane(double length) { return length >= 0 && length < 1e9; }

void look(Bytes in) {
  const Vec3 origin = in.byte() % 4 == 0 ? in.vec(9e6) : Vec3{};
  const Shape a = in.shape(origin + in.vec(20)), b = in.shape(origin + in.vec(20));
  if (!check(a).empty() || !check(b).empty()) return;
  const double scale = std::max(largest(bounds(a).low), largest(bounds(b).high)) + 100;
  const double loose = 1e-7 * scale + 1e-6;

  const Closest there = closest(a, b), back = closest(b, a);
  DEMAND(sane(there.distance) && sane(there.on_a) && sane(there.on_b));
  DEMAND(std::fabs(there.distance - back.distance) <= loose);
  DEMAND((there.distance == 0) == overlaps(a, b));
  DEMAND(nearest(a, there.on_a).distance <= loose && nearest(b, there.on_b).distance <= loose);

  const Vec3 travel = in.vec(200);
  if (const auto met = sweep(a, travel, b)) {
    DEMAND(sane(met->distance) && met->distance <= length(travel) + loose && sane(met->point));
    DEMAND(std::fabs(length(met->normal) - 1) < 1e-6);
    const double part = length(travel) > 0 ? met->distance / length(travel) : 0;
    DEMAND(closest(placed(a, {travel * part, {}}), b).distance <= loose);
  } else {
    DEMAND(there.distance > 0 && closest(placed(a, {travel, {}}), b).distance > 0);
  }
  const Motion motion{travel, in.direction(), in.number(20), origin + in.vec(20)};
  if (const auto met = sweep(a, motion, b)) {
    DEMAND(met->part >= 0 && met->part <= 1 && sane(met->point));
  } else {
    DEMAND(there.distance > 0);
  }
  const Ray line{origin + in.vec(50), in.direction(), in.size()};
  if (const auto met = ray(a, line)) {
    DEMAND(sane(met->distance) && met->distance <= line.length && sane(met->point));
    DEMAND(std::fabs(length(met->normal) - 1) < 1e-6);
    DEMAND(nearest(a, met->point).distance <= 1e-4 + loose);
  }
  DEMAND(sane(closest(a, HalfSpace{origin, in.direction()}).distance));

  const Sector s = in.sector(origin + in.vec(20));
  if (!check(s).empty()) return;
  const Closest to_sector = closest(a, s);
  DEMAND(sane(to_sector.distance) && sane(to_sector.on_b));
  DEMAND(nearest(s, to_sector.on_b).distance <= loose);
  const Crossings all = crossings(s, line);
  double last = -1;
  for (const Crossing& c : all) {
    DEMAND(c.enter > last && c.leave >= c.enter && c.leave <= line.length);
    last = c.leave;
  }
}

}  // namespace
}  // namespace dardo

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  dardo::look({data, size});
  return 0;
}

#ifndef DARDO_LIBFUZZER
int main() {
  std::mt19937_64 random(2026);
  std::vector<std::uint8_t> bytes(400);
  for (int i = 0; i < 20000; ++i) {
    for (auto& b : bytes) b = static_cast<std::uint8_t>(random());
    LLVMFuzzerTestOneInput(bytes.data(), bytes.size());
  }
  std::puts("20000 inputs");
}
#endif
