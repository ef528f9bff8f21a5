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

Problems check(const std::vector<Resistance>& resists) {
  Problems out;
  detail::check_by_rows(out, {nullptr, "resists"}, resists);
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

std::uint64_t detail::bits_of(const Build& build, const std::vector<std::string>& zones) {
  std::uint64_t out = 0;
  for (std::size_t i = 0; i < std::min<std::size_t>(build.hitboxes.size(), 64); ++i) {
    if (std::find(zones.begin(), zones.end(), build.hitboxes[i].zone) != zones.end())
      out |= std::uint64_t{1} << i;
  }
  return out;
}

Problems check(const std::vector<BodyChange>& changes, const Build& build) {
  Problems out;
  constexpr std::size_t kMost = 64;
  const std::size_t count = build.hitboxes.size();
  std::uint64_t there = count >= kMost ? ~std::uint64_t{0} : (std::uint64_t{1} << count) - 1;
  for (std::size_t i = 0; i < changes.size(); ++i) {
    const BodyChange& c = changes[i];
    const std::string where = "/changes/" + std::to_string(i);
    if (!(std::fabs(c.time_s) <= 1e9) || (i > 0 && c.time_s < changes[i - 1].time_s))
      out.push_back({where + "/t", "is not finite, or before the one above", "times that do not fall"});
    if (count > kMost && !(c.off.empty() && c.on.empty()))
      out.push_back({where, "is of a build with more than 64 hitboxes", "fewer of them"});
    for (const auto* zones : {&c.off, &c.on}) {
      for (std::size_t k = 0; k < zones->size(); ++k) {
        if (detail::bits_of(build, {(*zones)[k]}) == 0)
          out.push_back({where + (zones == &c.off ? "/off/" : "/on/") + std::to_string(k),
                         "\"" + (*zones)[k] + "\" is not a zone of its build", "one of its hitboxes' zones"});
      }
    }
    there = (there & ~detail::bits_of(build, c.off)) | detail::bits_of(build, c.on);
    if (there == 0) out.push_back({where, "leaves no hitbox there", "one at least"});
  }
  return out;
}

}  // namespace dardo
