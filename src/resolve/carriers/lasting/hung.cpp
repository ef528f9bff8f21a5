// Where what lasts begins, and on what it hangs.
#include "resolve/aim_point.hpp"
#include "resolve/carriers/area.hpp"
#include "resolve/carriers/lasting/lasting.hpp"

namespace dardo::detail {
namespace {

BodyId hangs_on(const Act& act, Hangs on, BodyId target) {
  if (on == Hangs::place) return {};
  const BodyId body = on == Hangs::attacker ? act.launch.by : target;
  return act.motions.stands(body) ? body : BodyId{};
}

}  // namespace

Reason hang(const Act& act, const Moment& moment, Lasting& l) {
  const LastingPlan& plan = *act.stage.lasting;
  l.on = hangs_on(act, plan.on, l.target);
  const bool by_launch = act.anchor == nullptr;
  if (plan.does == LastingPlan::Does::swings && (!l.on.empty() || by_launch)) {
    // A blade is where its keys say, in the very frame of the body.
    const Pose frame = l.on.empty() ? attacker_pose(moment, act.launch) : moment.pose(l.on);
    l.base = l.on.empty() ? frame : Pose{};
    l.origin = frame.at;
  } else {
    const auto* area = std::get_if<AreaDelivery>(&act.attack.delivery);
    const Placing where =
        place(act, moment, area != nullptr ? *area : AreaDelivery{.shape = plan.sizes[0].shape});
    l.base = l.on.empty() ? where.frame : inverse(moment.pose(l.on)) * where.frame;
    l.origin = where.frame.at, l.away = where.away;
    if (where.reason != Reason::none) return where.reason;
  }
  if (!l.on.empty()) l.stood = moment.pose(l.on);
  return Reason::none;
}

}  // namespace dardo::detail
