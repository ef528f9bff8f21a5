#include "resolve/carriers/lasting/past.hpp"

#include <algorithm>

#include "resolve/carriers/area.hpp"

namespace dardo::detail {
namespace {

/// So long before and after its time it is looked whether it would have touched a body: as long as it lasts,
/// but no less than the one and no more than the other.
constexpr double kLeastAround = 0.5, kMostAround = 10;

}  // namespace

LastingPast::Met LastingPast::met(BodyId body) const {
  Met best{.body = body};
  best.gap = std::numeric_limits<double>::infinity();
  for (const Lasted* one : all_) {
    if (const Guest* guest = one->lasting.find(body)) {
      // Who came farthest tells: struck before, or the first that it was inside of.
      if (best.guest == nullptr || guest->times > best.guest->times)
        best = {.body = body, .by = one, .guest = guest, .gap = 0, .time = guest->since};
      continue;
    }
    if (best.guest != nullptr || never_began(one->ended)) continue;
    const Extent extent(plan_, one->lasting, motions_);
    const double from = std::min(extent.begins(), one->end), to = std::min(one->end, extent.ends());
    const Approach near = extent.nearest(body, from, std::max(from, to), best.gap);
    // Equally near, the earlier one tells.
    if (near.gap < best.gap - kMissKnown) best.gap = near.gap, best.time = near.time, best.by = one;
  }
  if (best.guest == nullptr && best.by != nullptr)
    look_around(best, Extent(plan_, best.by->lasting, motions_));
  best.gap = std::max(0.0, best.gap);
  return best;
}

/// Whether it would have touched the body shortly before its time, or after.
void LastingPast::look_around(Met& met, const Extent& extent) const {
  const double around = std::clamp(extent.ends() - extent.begins(), kLeastAround, kMostAround);
  const double end = std::min(met.by->end, extent.ends()), begin = std::min(extent.begins(), end);
  // What was stopped is told by that.
  const bool by_itself =
      met.by->ended == Ended::over || met.by->ended == Ended::spent || met.by->ended == Ended::arrived;
  // A blade is nowhere before its first key, or after its last.
  const bool swings = plan_.does == LastingPlan::Does::swings;
  const double began = met.by->lasting.began, last = swings ? began + plan_.way.back().end : end + around;
  if (const auto after = extent.enters(met.body, end, std::max(end, std::min(end + around, last)));
      after && by_itself)
    met.late = std::max(after->time - end, 1e-12), met.time = after->time;
  const double first = std::max(begin - around, swings ? began + plan_.way.front().start : -kEver);
  if (!(first < begin)) return;
  // The last touch before it began.
  std::optional<double> before;
  for (auto t = extent.enters(met.body, first, begin); t;) {
    const auto out = extent.leaves(met.body, t->time, begin);
    before = out.value_or(begin);
    if (!out || !(*out < begin)) break;
    // Where a hitbox is there no more it is out as it comes in.
    t = extent.enters(met.body, std::max(*out, t->time + kInstant), begin);
  }
  const double early = before ? std::max(begin - *before, 1e-12) : 0;
  if (early > 0 && (met.late == 0 || early < met.late)) met.early = early, met.late = 0, met.time = *before;
}

Reading LastingPast::tell_reach(const Met& met) const {
  Reading r{.gate = Gate::reach};
  if (met.by == nullptr) {
    const Reach& reach = act_.attack.reach;
    const Lasted* first = all_.empty() ? nullptr : all_.front();
    r.reason = Reason::too_far;
    if (first == nullptr) return r;
    if (first->ended == Ended::no_way || first->ended == Ended::no_target)
      return r.reason = Reason::no_way, r.by = first->by, r;
    r.measured = first->lasting.away;
    const bool near = *r.measured < reach.near;
    r.reason = near ? Reason::too_near : Reason::too_far;
    r.limit = near ? reach.near : far_limit(reach);
    r.margin = std::fabs(*r.measured - *r.limit);
    return r;
  }
  r.measured = met.gap, r.limit = 0;
  if (in_reach(met)) return r;
  const bool passes = plan_.does == LastingPlan::Does::swings || plan_.by_hitboxes();
  r.reason = plan_.does == LastingPlan::Does::sets_off ? Reason::not_set_off
             : passes                                  ? Reason::missed
                                                       : Reason::outside;
  r.margin = met.gap;
  return r;
}

Reading LastingPast::tell_time(const Met& met) const {
  Reading r{.gate = Gate::time};
  if (met.by == nullptr) return r;
  const double began = met.by->lasting.began;
  r.measured = met.time - began;
  if (met.guest != nullptr || !in_reach(met)) return r;
  r.reason = met.early > 0 ? Reason::early : Reason::over;
  r.limit = met.early > 0 ? plan_.from_s : met.by->end - began;
  r.margin = std::max(met.early, met.late);
  return r;
}

/// As it was when it came in, or was asked for the last time.
Reading LastingPast::tell_sight(const Met& met) const {
  Reading r{.gate = Gate::sight};
  if (!act_.attack.sight || met.guest == nullptr) return r;
  const double time = met.guest->was_asked ? met.guest->asked : met.guest->since;
  const Extent extent(plan_, met.by->lasting, motions_);
  const Extent::Covered covered = extent.covered(time);
  const Moment moment(motions_, time);
  const AreaCarrier carrier(act_, moment, extent.cover(covered), extent.frame(time));
  return carrier.tell_sight(carrier.met(met.body));
}

Reading LastingPast::tell_cap(const Met& met, const Outcome&) const {
  Reading r{.gate = Gate::cap};
  if (met.guest == nullptr || met.guest->times > 0) {
    if (met.guest != nullptr && plan_.does == LastingPlan::Does::sets_off) r.reason = Reason::set_off;
    return r;
  }
  const bool all_struck = plan_.does != LastingPlan::Does::sets_off &&
                          (met.by->ended == Ended::spent || met.by->lasting.strikes >= plan_.most);
  if (all_struck || plan_.does == LastingPlan::Does::sets_off) {
    r.reason = Reason::cap;
  } else if (!met.guest->was_asked) {
    r.reason = met.by->ended == Ended::limit ? Reason::limit : Reason::waiting;
  }
  return r;
}

LastingMark mark_of(const Lasted& lasted, const LastingPlan& plan, const Motions& motions) {
  const Lasting& l = lasted.lasting;
  const Extent extent(plan, l, motions);
  LastingMark out;
  out.from_s = std::min(extent.begins(), lasted.end), out.to_s = lasted.end;
  out.base = l.base, out.ended = lasted.ended;
  out.blade = plan.does == LastingPlan::Does::swings, out.trap = plan.does == LastingPlan::Does::sets_off;
  if (l.on.empty()) {
    out.carrier = {Leg{l.began, std::max(l.began, lasted.end)}};
  } else {
    motions.each_leg(l.on, l.began, lasted.end, [&](const Leg& leg, double from, double to) {
      Leg part{from, to, leg.at(from), leg.velocity};
      if (leg.turn_rate != 0) part.axis = leg.axis, part.turn_rate = leg.turn_rate;
      out.carrier.push_back(part);
      return true;
    });
  }
  for (Leg leg : plan.way) {
    leg.start += l.began, leg.end = std::min(leg.end + l.began, std::max(lasted.end, leg.start));
    if (leg.turn_rate == 0) leg.axis = Leg{}.axis;
    out.own.push_back(leg);
  }
  for (const LastingPlan::Size& s : plan.sizes) out.sizes.push_back({l.began + s.time_s, s.shape});
  return out;
}

DashMark dash_mark_of(const Lasted& lasted, const Motions& motions) {
  const Lasting& l = lasted.lasting;
  DashMark out{.body = l.on, .legs = {}, .hitboxes = {}, .ended = lasted.ended};
  motions.each_leg(l.on, l.began, lasted.end, [&](const Leg& leg, double from, double to) {
    out.legs.push_back({from, to, leg.at(from), leg.velocity});
    return true;
  });
  const Moment::Body then = Moment(motions, lasted.end).body(l.on);
  for (std::uint32_t i = 0; i < then.hitboxes(); ++i) {
    if (then.has(i)) out.hitboxes.push_back(then.in_frame(i, Pose{}));
  }
  return out;
}

}  // namespace dardo::detail
