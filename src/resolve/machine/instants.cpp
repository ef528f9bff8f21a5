// Rays and areas: carried out in one instant, and what follows from them.
#include <algorithm>

#include "record/detail/clear.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/carriers/area_region.hpp"
#include "resolve/carriers/kinds.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/rules/order.hpp"
#include "resolve/rules/verdict.hpp"

namespace dardo::detail {
namespace {

/// A ray that has ended in a shot: nothing else keeps it from whoever stands beyond.
void shield(Verdict& v, const Reading& reach, const Outcome& out) {
  if (v.struck || v.deciding.reason != Reason::none) return;
  const double way = reach.measured.value_or(0), end = length(out.end - out.origin);
  v.deciding = {.gate = Gate::sight, .reason = Reason::shielded, .measured = way, .limit = end};
  v.deciding.margin = std::fabs(way - end), v.deciding.by = out.stopped_by, v.deciding.at = out.end;
}

}  // namespace

void Machine::follow_instant(const Start& start, const Outcome& out, const Vec3& ahead,
                             const std::optional<Vec3>& heading) {
  const Prepared& attack = *launches_[start.launch].prepared;
  Start next{.launch = start.launch, .stage = start.stage, .time = start.time};
  for (std::size_t i = 0; i < out.surfaces.size() && attack.has(start.stage, Then::When::surface); ++i) {
    const SurfaceMet& met = out.surfaces[i];
    const auto before =
        std::count_if(out.surfaces.begin(), out.surfaces.begin() + static_cast<std::ptrdiff_t>(i),
                      [&](const SurfaceMet& m) { return m.wall == met.wall; });
    const std::uint64_t whom = met.wall.empty() ? WallPartId::kNone : arena_->wall_table().order(met.wall);
    const std::uint64_t key =
        chance_key(start.cause.key, Then::When::surface, whom, static_cast<std::uint32_t>(before));
    next.anchor = {met.point, met.direction, {}}, next.target = {}, next.aim = met.point;
    next.cause = {start.cause.strike, key};
    follow_from(next, Then::When::surface);
  }
  if (out.ended == Ended::out_of_reach || out.ended == Ended::muzzle_blocked) return;
  const Vec3 way = out.end - out.origin;
  // Rounding is no direction.
  next.anchor = {out.end, heading ? *heading : length(way) > kSamePlace ? normalized(way) : ahead, {}};
  next.target = {}, next.aim = out.end;
  next.cause = {start.cause.strike, chance_key(start.cause.key, Then::When::end, 0, 0)};
  follow_from(next, Then::When::end);
}

/// Of an instant's strikes those that the launch's limit leaves.
void Machine::keep_strikes_left(LaunchSlot launch, double time, Outcome& out, Listener& listener) {
  const Launched& l = launches_[launch];
  const std::uint32_t left = limits_.strikes - std::min(limits_.strikes, l.strikes);
  if (out.strikes.size() <= left) return;
  out.strikes.resize(left);
  out.limits_met.push_back({Limit::strikes, static_cast<double>(limits_.strikes), time, l.number});
  meet_limit(launch, Limit::strikes, time, listener);
}

/// Its strikes, at once or one after the other.
void Machine::record_instant(const Start& start, Outcome& out, double stagger, Listener& listener) {
  for (std::size_t i = 0; i < out.strikes.size(); ++i) {
    Strike& s = out.strikes[i];
    s.seen_s += start.time, s.stage = start.stage, s.cause = start.cause.strike;
    s.time_s = start.time + stagger * static_cast<double>(i);
  }
  const Attack& attack = *launches_[start.launch].stage(start.stage).attack;
  if (attack.effect_order == EffectOrder::by_effect && !(stagger > 0))
    return record_together(start, out, listener);
  for (std::size_t i = 0; i < out.strikes.size(); ++i) {
    Strike& s = out.strikes[i];
    const std::uint64_t key = chance_key(start.cause.key, Then::When::strike, arena_->order(s.body), 0);
    if (stagger > 0 && i > 0) {
      Start later{.launch = start.launch, .stage = start.stage, .time = start.time, .cause = {s.cause, key}};
      later.staggered = std::make_shared<const Strike>(s);
      begin_after(std::move(later), stagger * static_cast<double>(i));
    } else {
      const std::uint32_t number = record_strike(s, start.launch, key, listener);
      follow_strike(start.launch, s, number, key);
    }
  }
}

namespace {

/// Its marks, each with its time.
template <class Carrier>
void draw_at(double time, const Attack& attack, const Carrier& carrier, Outcome& out) {
  const std::size_t before = out.marks.size();
  carrier.draw(out);
  for (std::size_t i = before; i < out.marks.size(); ++i) {
    std::visit(
        [&](auto& mark) {
          if constexpr (requires { mark.time_s; }) mark.time_s = time;
          if constexpr (requires { mark.radius, mark.fades; }) mark.fades = fades_of(attack, mark.radius);
          if constexpr (requires { mark.shape, mark.fades; })
            mark.fades = fades_of(attack, reach_of(mark.shape));
        },
        out.marks[i]);
  }
}

}  // namespace

void Machine::begin_instant(const Start& start, Listener& listener) {
  const LaunchSlot launch = start.launch;
  const std::uint32_t stage = start.stage;
  const double time = start.time;
  if (!may_begin(start, listener)) return;
  const Moment moment(motions_, time);
  Outcome& out = instant_;
  clear(out);
  const Launched& launched = launches_[launch];
  const Act act(motions_, launched.stage(stage), launched.launch, launched.faction, moment.state_time(),
                start.by_launch ? nullptr : &start.anchor, start.cause.key);
  std::optional<Vec3> heading;
  const auto carry_out = [&](auto& carrier) {
    using Carrier = std::remove_reference_t<decltype(carrier)>;
    carrier.strike(out);
    if constexpr (Carrier::kEndsThere) heading = carrier.heading();
    keep_strikes_left(launch, time, out, listener);
    if (roster_.may(launched.row, stage).strike) {
      const std::vector<Reached> reached =
          shots_reached(start, carrier.around(), Carrier::kEndsThere,
                        [&](const Ball& shot) { return carrier.reaches(shot); });
      if constexpr (Carrier::kEndsThere) {
        // Whoever stands beyond is not struck.
        if (!reached.empty()) {
          out.strikes.clear(), out.ended = Ended::strike, carrier.end_at(reached[0].distance, out);
          out.stopped_by = {.wall = {}, .body = thrower_of(reached[0].shot), .shot = true};
        }
      }
      instant_downs(start, reached, listener);
    }
    if constexpr (Carrier::kEndsThere) {
      if (keep_ways_ || act.stage.has(Then::When::surface)) carrier.tell_surfaces(out);
      for (SurfaceMet& met : out.surfaces) met.time_s = time;
    }
    if (keep_ways_) draw_at(time, act.attack, carrier, out);
    if (wanted_ == Detail::strikes) return;
    const std::vector<BodyId> bodies = arena_->bodies();
    out.verdicts.reserve(bodies.size());
    for (const BodyId body : bodies) {
      Verdict& v = out.verdicts.emplace_back(verdict_of(act, carrier, out, body, wanted_));
      if (out.stopped_by.shot) shield(v, carrier.tell_reach(carrier.met(body)), out);
      if (stage > 0) mark_stage(v, stage, time);
    }
  };
  with_carrier(act, moment, out, carry_out);
  out.end_s = time;
  listener.on_instant(launch, stage, out);
  record_instant(start, out, act.attack.stagger_s, listener);
  if (act.stage.leads_on == 0) return;
  follow_instant(start, out,
                 start.by_launch ? heading_of(moment, launches_[launch].launch) : start.anchor.direction,
                 heading);
}

}  // namespace dardo::detail
