#include <algorithm>
#include <cmath>

#include "dardo/arena/rows.hpp"
#include "geometry/detail/check_rows.hpp"

namespace dardo {
namespace {

Problems check_order(const std::vector<TrackKey>& track) {
  Problems out;
  for (std::size_t i = 1; i < track.size(); ++i) {
    if (track[i].time_s < track[i - 1].time_s)
      out.push_back(
          {"/track/" + std::to_string(i) + "/t", "is earlier than the one before it", "times in order"});
  }
  return out;
}

}  // namespace

Problems Rows<Build>::across(const Build& build) {
  Problems out;
  if (build.hitboxes.empty()) out.push_back({"/hitboxes", "is empty", "at least one hitbox"});
  for (std::size_t i = 0; i < build.muzzles.size(); ++i) {
    const std::string& name = build.muzzles[i].name;
    const auto same = [&](const Muzzle& other) { return other.name == name; };
    if (std::any_of(build.muzzles.begin(), build.muzzles.begin() + static_cast<std::ptrdiff_t>(i), same))
      out.push_back(
          {"/muzzles" + detail::pointer_step(name), "is there twice", "a name of its own for each muzzle"});
  }
  return out;
}

Problems Rows<Wall>::across(const Wall& wall) {
  Problems out;
  if (wall.one_way && (!is_finite(*wall.one_way) || *wall.one_way == Vec3{}))
    out.push_back({"/one_way", "has no direction", "three finite numbers, not all 0"});
  for (Problem& p : check_order(wall.track)) out.push_back(std::move(p));
  return out;
}

Problems check(const Pose& pose) {
  Problems out;
  detail::check_by_rows(out, {}, pose);
  return out;
}

Problems check(const std::vector<TrackKey>& track) {
  Problems out;
  detail::check_by_rows(out, {nullptr, "track"}, track);
  for (Problem& p : check_order(track)) out.push_back(std::move(p));
  return out;
}

Problems check(const Build& build) {
  Problems out;
  detail::check_by_rows(out, {}, build);
  return out;
}

Problems check(const Wall& wall) {
  Problems out;
  detail::check_by_rows(out, {}, wall);
  return out;
}

}  // namespace dardo
