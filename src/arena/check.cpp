#include <algorithm>
#include <cmath>

#include "dardo/arena/body.hpp"
#include "dardo/arena/wall.hpp"

namespace dardo {
namespace {

void append(Problems& out, const std::string& where, Problems more) {
  for (Problem& p : more) out.push_back({where + p.where, std::move(p.what), std::move(p.fix)});
}

void check_place(Problems& out, const std::string& where, const Vec3& place) {
  // A place is a ball of radius 0; only the path to it differs.
  for (Problem& p : check(Shape{Ball{place, 0}})) out.push_back({where, std::move(p.what), std::move(p.fix)});
}

}  // namespace

Problems check(const Pose& pose) {
  Problems out;
  check_place(out, "/at", pose.at);
  for (const Vec3& axis : {pose.turn.x, pose.turn.y, pose.turn.z}) {
    if (!is_finite(axis) || std::fabs(length(axis) - 1) > 1e-9) {
      out.push_back({"/facing", "is not a rotation", "a finite angle"});
      break;
    }
  }
  return out;
}

Problems check(const std::vector<TrackKey>& track) {
  Problems out;
  for (std::size_t i = 0; i < track.size(); ++i) {
    const std::string where = "/track/" + std::to_string(i);
    append(out, where, check(track[i].pose));
    if (!std::isfinite(track[i].time_s)) {
      out.push_back({where + "/t", "is not finite", "a time in seconds"});
    } else if (i > 0 && track[i].time_s < track[i - 1].time_s) {
      out.push_back({where + "/t", "is earlier than the one before it", "times in order"});
    }
  }
  return out;
}

Problems check(const Build& build) {
  Problems out;
  if (build.hitboxes.empty()) out.push_back({"/hitboxes", "is empty", "at least one hitbox"});
  for (std::size_t i = 0; i < build.hitboxes.size(); ++i) {
    const Hitbox& h = build.hitboxes[i];
    const std::string where = "/hitboxes/" + std::to_string(i);
    append(out, where, check(h.shape));
    if (!std::isfinite(h.factor) || h.factor < 0) {
      out.push_back({where + "/factor", "is not a factor", "a finite number, 0 or more"});
    }
  }
  check_place(out, "/eyes", build.eyes);
  for (std::size_t i = 0; i < build.muzzles.size(); ++i) {
    const Muzzle& m = build.muzzles[i];
    check_place(out, "/muzzles/" + m.name, m.at);
    const auto same = [&](const Muzzle& other) { return other.name == m.name; };
    if (std::any_of(build.muzzles.begin(), build.muzzles.begin() + static_cast<std::ptrdiff_t>(i), same)) {
      out.push_back({"/muzzles/" + m.name, "is there twice", "a name of its own for each muzzle"});
    }
  }
  return out;
}

Problems check(const Wall& wall) {
  Problems out = check(Shape{wall.box});
  if (wall.one_way && (!is_finite(*wall.one_way) || *wall.one_way == Vec3{})) {
    out.push_back({"/one_way", "has no direction", "three finite numbers, not all 0"});
  }
  return out;
}

}  // namespace dardo
