#include <cmath>

#include "dardo/attack/attack.hpp"
#include "dardo/geometry/vec.hpp"

namespace dardo {
namespace {

bool is_length(double v) { return std::isfinite(v) && v >= 0 && v <= kMaxCoordinate; }

}  // namespace

Problems check(const Attack& attack) {
  Problems out;
  const char* length_fix = "a length in metres from 0 to 1e7";
  if (!is_length(attack.reach.near)) out.push_back({"/reach/0", "is not a length", length_fix});
  if (!is_length(attack.reach.far)) out.push_back({"/reach/1", "is not a length", length_fix});
  if (is_length(attack.reach.near) && is_length(attack.reach.far) && attack.reach.near > attack.reach.far) {
    out.push_back({"/reach", "has its near limit beyond its far one", "[near, far] with near <= far"});
  }
  if (!std::isfinite(attack.power)) out.push_back({"/power", "is not finite", "a finite number"});
  if (attack.who == Relations{})
    out.push_back({"/who", "is empty", "at least one of foe, friend, neutral, self"});
  if (attack.cap && *attack.cap == 0) out.push_back({"/cap", "is 0", "at least 1, or no cap at all"});
  if (const auto* area = std::get_if<AreaDelivery>(&attack.delivery)) {
    if (!is_length(area->radius)) out.push_back({"/area/ball", "is not a length", length_fix});
    if (area->sight_from == AreaDelivery::SightFrom::eyes && area->around != AreaDelivery::Around::attacker) {
      out.push_back({"/area/sight_from", "is \"eyes\" for an area that is not around the attacker",
                     "\"around\": \"attacker\", or \"sight_from\": \"middle\""});
    }
    if (attack.stopped_by != Relations{}) {
      out.push_back({"/stopped_by", "means nothing for an area", "no \"stopped_by\""});
    }
  } else {
    if (attack.cap) out.push_back({"/cap", "means nothing for a ray, which strikes one body", "no \"cap\""});
    if (attack.sight) out.push_back({"/sight", "means nothing for a ray, which walls stop", "no \"sight\""});
  }
  return out;
}

}  // namespace dardo
