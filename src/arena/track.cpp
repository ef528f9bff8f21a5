#include "dardo/arena/track.hpp"

#include <algorithm>

#include "geometry/detail/elementary.hpp"
#include "geometry/detail/ever.hpp"

namespace dardo {

Pose Leg::at(double time) const {
  if (still()) return from;  // also where it has stood ever since
  const double since = time - start;
  if (turn_rate == 0 || since == 0) return {from.at + velocity * since, from.turn};
  return {from.at + velocity * since, Rotation::about(axis, turn_rate * since) * from.turn};
}

Vec3 Leg::velocity_of(const Vec3& point, const Pose& then) const {
  return turn_rate == 0 ? velocity : velocity + cross(axis * turn_rate, then.turn * point);
}

Leg leg_between(double start, const Pose& from, double end, const Pose& to) {
  Leg leg{start, end, from, {}, {0, 0, 1}, 0};
  const double time = end - start;
  if (!(time > 0)) return leg;
  leg.velocity = (to.at - from.at) / time;
  if (to.turn == from.turn) return leg;
  // The turn that leads from one to the other: its axis times twice the sine of its angle, and its trace.
  const auto row = [](const Rotation& r, int i) {
    return i == 0   ? Vec3{r.x.x, r.y.x, r.z.x}
           : i == 1 ? Vec3{r.x.y, r.y.y, r.z.y}
                    : Vec3{r.x.z, r.y.z, r.z.z};
  };
  const auto entry = [&](int i, int k) { return dot(row(to.turn, i), row(from.turn, k)); };
  const Vec3 twice{entry(2, 1) - entry(1, 2), entry(0, 2) - entry(2, 0), entry(1, 0) - entry(0, 1)};
  const double sine = 0.5 * length(twice), cosine = 0.5 * (entry(0, 0) + entry(1, 1) + entry(2, 2) - 1);
  const double angle = detail::arc_tangent(sine, cosine);
  if (sine > 1e-9) {
    leg.axis = twice / (2 * sine);
  } else if (cosine < 0) {
    // Half a turn: any column of the sum with the identity lies along the axis.
    Vec3 best;
    for (int i = 0; i < 3; ++i) {
      const Vec3 column{entry(0, i) + (i == 0), entry(1, i) + (i == 1), entry(2, i) + (i == 2)};
      if (length(column) > length(best)) best = column;
    }
    leg.axis = normalized(best);
    if (leg.axis.z < 0) leg.axis = -leg.axis;  // half a turn goes left
  }
  leg.turn_rate = angle / time;
  return leg;
}

namespace {

/// Before the key with this number.
Leg leg_before(std::span<const TrackKey> track, std::size_t key) {
  if (key == 0) return {-detail::kEver, track[0].time_s, track[0].pose, {}, {0, 0, 1}, 0};
  const TrackKey& last = track[key - 1];
  if (key == track.size()) return {last.time_s, detail::kEver, last.pose, {}, {0, 0, 1}, 0};
  return leg_between(last.time_s, last.pose, track[key].time_s, track[key].pose);
}

}  // namespace

Leg leg_at(std::span<const TrackKey> track, double time) {
  const auto next = std::upper_bound(track.begin(), track.end(), time,
                                     [](double t, const TrackKey& key) { return t < key.time_s; });
  return leg_before(track, static_cast<std::size_t>(next - track.begin()));
}

std::vector<Leg> legs_of(std::span<const TrackKey> track) {
  std::vector<Leg> out;
  for (std::size_t key = 0; !track.empty() && key <= track.size(); ++key)
    out.push_back(leg_before(track, key));
  return out;
}

}  // namespace dardo
