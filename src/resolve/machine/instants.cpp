// Rays and areas: carried out in one instant, and what follows from them.
#include <algorithm>

#include "resolve/aim_point.hpp"
#include "resolve/carriers/kinds.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/rules/judge.hpp"

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

void Machine::follow_instant(std::uint32_t launch, std::uint32_t stage, double time, const Outcome& out,
                             const Vec3& ahead, std::uint32_t first, const Cause& cause, Listener& listener) {
  const std::shared_ptr<const Plan> plan = launches_[launch].plan;
  for (std::uint32_t i = 0; i < out.strikes.size(); ++i) {
    const Strike& s = out.strikes[i];
    const std::uint64_t key = chance_key(cause.key, Then::When::strike, arena_->order(s.body), 0);
    plan->each_then(stage, Then::When::strike, [&](std::uint32_t child) {
      start(launch, child, time, {s.point, -s.normal}, s.body, s.point, {first + i, chance_key(key, child)},
            listener);
    });
  }
  if (out.ended == Ended::out_of_reach || out.ended == Ended::muzzle_blocked) return;
  const Vec3 way = out.end - out.origin;
  // Rounding is no direction.
  const Start end{out.end, length(way) > kSamePlace ? normalized(way) : ahead};
  const std::uint64_t key = chance_key(cause.key, Then::When::end, 0, 0);
  plan->each_then(stage, Then::When::end, [&](std::uint32_t child) {
    start(launch, child, time, end, {}, out.end, {cause.strike, chance_key(key, child)}, listener);
  });
}

/// Of an instant's strikes those that the launch's limit leaves.
void Machine::keep_strikes_left(std::uint32_t launch, double time, Outcome& out, Listener& listener) {
  const Launched& l = launches_[launch];
  const std::uint32_t left = limits_.strikes - std::min(limits_.strikes, l.strikes);
  if (out.strikes.size() <= left) return;
  out.strikes.resize(left);
  out.limits_met.push_back({Limit::strikes, static_cast<double>(limits_.strikes), time, l.number});
  meet_limit(launch, Limit::strikes, time, listener);
}

void Machine::instant(std::uint32_t launch, std::uint32_t stage, double time, const Start* from,
                      const Cause& cause, Listener& listener) {
  if (!may_begin(launch, stage, time, listener)) return;
  const std::shared_ptr<const Plan> plan = launches_[launch].plan;
  const Attack& attack = plan->attack(stage);
  const Moment moment(motions_, time);
  Outcome out;
  const Attempt attempt{*arena_, attack, launches_[launch].launch, launches_[launch].faction, from};
  const auto carry_out = [&](auto run) {
    run.strike(out);
    keep_strikes_left(launch, time, out, listener);
    if (watches_shots_) {
      const std::vector<Reached> reached = shots_reached(launch, stage, time, run.kEndsThere,
                                                         [&](const Ball& shot) { return run.reaches(shot); });
      if constexpr (run.kEndsThere) {
        // Whoever stands beyond is not struck.
        if (!reached.empty()) {
          out.strikes.clear(), out.ended = Ended::strike, run.end_at(reached[0].distance, out);
          out.stopped_by = {.wall = {}, .body = thrower_of(reached[0].slot), .shot = true};
        }
      }
      instant_downs(launch, stage, time, cause.strike, reached, listener);
    }
    if (keep_ways_) run.draw(out);
    if (wanted_ == Detail::strikes) return;
    const std::vector<BodyId> bodies = arena_->bodies();
    out.verdicts.reserve(bodies.size());
    for (const BodyId body : bodies) {
      Verdict& v = out.verdicts.emplace_back(judge(attempt, run, out, body, wanted_));
      if (out.stopped_by.shot) shield(v, run.reach(body), out);
      mark_stage(v, stage, time);
    }
  };
  with_run(attempt, moment, out, carry_out);
  listener.on_instant(launch, stage, out);
  const std::uint32_t first = launches_[launch].strikes + 1;
  for (Strike& s : out.strikes) {
    s.time_s = time, s.seen_s += time, s.stage = stage, s.cause = cause.strike;
    record_strike(s, launches_[launch], listener);
  }
  if (attack.then.empty()) return;
  const Vec3 ahead = from != nullptr ? from->direction : heading_of(moment, launches_[launch].launch);
  follow_instant(launch, stage, time, out, ahead, first, cause, listener);
}

}  // namespace dardo::detail
