#include "resolve/whole.hpp"
#include "resolve/carriers/area_region.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "geometry/detail/elementary.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/ready.hpp"
#include "resolve/rules/verdict.hpp"

namespace dardo::detail {

namespace {

/// How the gates read where a volley had nobody to go for.
class NobodyThere {
 public:
  NobodyThere(const Motions& motions, const Vec3& from, double time, double far)
      : moment_(motions, time), from_(from), far_(far) {}

  struct Met {
    double away = 0;
  };
  Met met(BodyId body) const { return {moment_.body(body).nearest(from_).distance}; }
  double nearest_time(BodyId) const { return moment_.time(); }
  bool in_reach(const Met& met) const { return at_most(met.away, far_, largest(from_)); }
  bool in_time(const Met&) const { return true; }
  bool in_sight(const Met&) const { return true; }
  Reading tell_reach(const Met& met) const {
    Reading r{.gate = Gate::reach, .measured = met.away, .limit = far_};
    r.margin = std::fabs(met.away - far_);
    if (!in_reach(met)) r.reason = Reason::too_far;
    return r;
  }
  Reading tell_time(const Met&) const { return {.gate = Gate::time}; }
  Reading tell_sight(const Met&) const { return {.gate = Gate::sight}; }
  Reading tell_cap(const Met&, const Outcome&) const { return {.gate = Gate::cap, .reason = Reason::cap}; }

 private:
  Moment moment_;
  Vec3 from_;
  double far_;
};

/// Whether a verdict came nearer to a strike than another one: it is one, or came to a later gate, or was
/// kept from it by less.
bool nearer(const Verdict& a, const Verdict& b) {
  constexpr double kUnknown = std::numeric_limits<double>::infinity();
  if (a.struck != b.struck) return a.struck;
  if (a.struck) return false;
  if (a.deciding.gate != b.deciding.gate) return a.deciding.gate > b.deciding.gate;
  // Shares and metres are not held against each other.
  if (a.deciding.of_share != b.deciding.of_share) return false;
  // By more than a miss is known to: else the earlier one tells.
  const double far = b.deciding.margin.value_or(kUnknown), near = a.deciding.margin.value_or(kUnknown);
  return near < far && !(far - near <= kMissKnown * std::max(1.0, near));
}

}  // namespace

void warn_of_facing(const Moment& moment, const Attack& attack, const Launch& launch, Outcome& out) {
  if (!attack.facing_within) return;
  const Vec3 way = aim_direction(moment, launch, muzzle_point(moment, launch)),
             facing = attacker_pose(moment, launch).turn.x;
  const double off = arc_tangent(length(cross(facing, way)), dot(facing, way)),
               degree = 180 / std::numbers::pi;
  if (off <= *attack.facing_within) return;
  out.warnings.push_back("the attacker faces " + std::to_string(std::lround(off * degree)) +
                         "° away from its aim, more than " +
                         std::to_string(std::lround(*attack.facing_within * degree)) + "°");
}

ShotWay& WholeRun::way(LaunchSlot launch, std::uint32_t number) {
  if (launch == itself_) {
    while (ways_.size() <= number) ways_.emplace_back().launch = itself_;
    return ways_[number];
  }
  for (ShotWay& w : others_) {
    if (w.launch == launch && w.number == number) return w;
  }
  others_.emplace_back().launch = launch;
  others_.back().number = number;
  return others_.back();
}

bool WholeRun::on_strike(const Strike& strike) {
  if (strike.launch == itself_.at) outcome_.strikes.push_back(strike);
  return false;
}
void WholeRun::on_not_ready(LaunchSlot launch, const std::vector<NotReady>& missing) {
  if (launch == itself_) outcome_.problems = as_problems(missing, *arena_);
}
void WholeRun::on_refused(LaunchSlot launch, const Problems& problems, double time) {
  if (!(launch == itself_)) return;
  outcome_.ended = Ended::refused, outcome_.problems = problems, outcome_.end_s = time;
}
bool WholeRun::on_happening(const Happening& happening) {
  if (happening.launch == itself_.at) outcome_.happenings.push_back(happening);
  return false;
}
void WholeRun::on_end(const Flown& flown) {
  if (flown.launch == itself_ && flown.stage == 0 && flown.number == 0) {
    outcome_.origin = flown.course.origin, outcome_.end = flown.place, outcome_.end_s = flown.time;
    outcome_.ended = flown.ended, outcome_.stopped_by = flown.by;
  }
  // What had nobody to go for has no way.
  if (wanted_ == Detail::strikes || never_began(flown.ended)) return;
  ShotWay& w = way(flown.launch, flown.number);
  w.stage = flown.stage, w.end = flown;
}
void WholeRun::on_stuck(const Flown& flown) {
  if (wanted_ == Detail::strikes) return;
  ShotWay& w = way(flown.launch, flown.number);
  w.stuck = flown, w.flown_pieces = w.pieces.size();
}
void WholeRun::on_way(const Flight& flight, const std::vector<Piece>& pieces) {
  ShotWay& w = way(flight.launch, flight.number);
  w.stage = flight.stage;
  w.pieces.insert(w.pieces.end(), pieces.begin(), pieces.end());
}
void WholeRun::on_back(const Flight& flight, double time) {
  auto& pieces = way(flight.launch, flight.number).pieces;
  while (!pieces.empty() && pieces.back().start >= time) pieces.pop_back();
}
void WholeRun::on_over(const LastingOver& over) {
  const Lasting& l = over.lasting;
  if (l.launch == itself_ && l.stage == 0 && l.number == 0) {
    outcome_.origin = l.origin, outcome_.end = over.place, outcome_.end_s = over.time;
    outcome_.ended = over.ended, outcome_.stopped_by = over.by;
  }
  if (wanted_ == Detail::strikes) return;
  lasted_.push_back({l, over.ended, over.time, over.place, over.by});
}
void WholeRun::on_chain(const Chain& chain) {
  if (chain.launch == itself_ && chain.stage == 0 && chain.number == 0) {
    outcome_.origin = chain.origin, outcome_.end = chain.last, outcome_.end_s = chain.time;
    outcome_.ended = chain.hops.empty() && chain.strikes == 0 ? Ended::no_target : Ended::spent;
  }
  if (wanted_ != Detail::strikes) chains_.push_back(chain);
}
void WholeRun::on_instant(LaunchSlot launch, std::uint32_t stage, Outcome& instant) {
  outcome_.marks.insert(outcome_.marks.end(), instant.marks.begin(), instant.marks.end());
  if (!(launch == itself_)) return;
  for (SurfaceMet& met : instant.surfaces) met.stage = stage, outcome_.surfaces.push_back(met);
  for (std::string& w : instant.warnings) outcome_.warnings.push_back(std::move(w));
  if (stage == 0) {
    outcome_.origin = instant.origin, outcome_.end = instant.end, outcome_.end_contact = instant.end_contact;
    outcome_.ended = instant.ended;
    outcome_.stopped_by = instant.stopped_by, outcome_.end_s = instant.end_s;
    // Of several rounds the one that came nearest tells.
    if (outcome_.verdicts.empty()) return std::swap(outcome_.verdicts, instant.verdicts);
  }
  for (std::size_t i = 0; i < instant.verdicts.size(); ++i) take_verdict(i, instant.verdicts[i]);
}

std::map<std::uint32_t, WholeRun::OfStage> WholeRun::stages() const {
  std::map<std::uint32_t, OfStage> out;
  for (const ShotWay& w : ways_) {
    if (!w.pieces.empty() || w.end.over) out[w.stage].ways.push_back(&w);
  }
  for (const Lasted& l : lasted_) {
    if (l.lasting.launch == itself_) out[l.lasting.stage].lasted.push_back(&l);
  }
  for (const Chain& c : chains_) {
    if (c.launch == itself_) out[c.stage].chains.push_back(&c);
  }
  for (auto& [stage, of] : out) of.struck.limits_met = outcome_.limits_met;
  for (const Strike& s : outcome_.strikes) {
    // A ray or an area has no ways, and its own verdicts.
    if (const auto found = out.find(s.stage); found != out.end()) found->second.struck.strikes.push_back(s);
  }
  return out;
}

void WholeRun::tell(const Machine& machine) {
  if (wanted_ == Detail::strikes) return;
  draw(machine);
  draw_motions(machine.motions());
  judge(machine);
  number_strikes(machine.motions().arena());
}

/// Verdicts of those who are struck say by which strike.
void WholeRun::number_strikes(const Arena& arena) {
  std::vector<std::uint32_t> first(arena.slots());
  for (std::size_t i = outcome_.strikes.size(); i > 0; --i)
    first[outcome_.strikes[i - 1].body.index] = static_cast<std::uint32_t>(i);
  for (Verdict& v : outcome_.verdicts) v.strike = v.struck ? first[v.body.index] : 0;
}

/// Of bodies on tracks, from the launch to the last that happens.
void WholeRun::draw_motions(const Motions& motions) const {
  double last = outcome_.end_s;
  for (const Strike& s : outcome_.strikes) last = std::max(last, s.time_s);
  for (const ShotWay& w : ways_) last = std::max(last, w.end.time);
  for (const Lasted& l : lasted_) last = std::max(last, l.end);
  for (const Chain& c : chains_) last = std::max(last, c.time);
  if (!(last > 0)) return;
  std::vector<BodyId> moving(motions.arena().tracked().begin(), motions.arena().tracked().end());
  for (const Lasted& l : lasted_) {
    const BodyId on = l.lasting.on;
    if (!l.lasting.way.empty() && std::find(moving.begin(), moving.end(), on) == moving.end())
      moving.push_back(on);
  }
  for (const BodyId body : moving) {
    MotionMark mark{.body = body, .legs = {}};
    motions.each_leg(body, 0, last, [&](const Leg& leg, double from, double to) {
      Leg part{from, to, leg.at(from), leg.velocity};
      if (leg.turn_rate != 0) part.axis = leg.axis, part.turn_rate = leg.turn_rate;
      if (to > from) mark.legs.push_back(part);
      return true;
    });
    outcome_.marks.emplace_back(std::move(mark));
  }
}

template <class Past>
void WholeRun::judge_stage(const Past& past, Act& act, const OfStage& stage, std::uint32_t number,
                           double since_s) {
  const std::vector<BodyId> bodies = act.arena.bodies();
  if (number == 0) outcome_.verdicts.reserve(bodies.size());
  for (std::size_t i = 0; i < bodies.size(); ++i) {
    // Who changes is asked as it is when it is nearest.
    if (act.arena.changes(bodies[i]) || act.motions.facts_of(bodies[i]) != nullptr)
      act.state_time = past.nearest_time(bodies[i]);
    Verdict v = verdict_of(act, past, stage.struck, bodies[i], wanted_, number);
    if (number == 0) {
      outcome_.verdicts.push_back(std::move(v));
      continue;
    }
    mark_stage(v, number, since_s);
    take_verdict(i, v);
  }
}

void WholeRun::judge(const Machine& machine) {
  const Launched& launched = machine.launched(itself_);
  Motions motions = machine.motions();
  motions.let_states_go();
  for (const auto& [number, stage] : stages()) {
    Act act(motions, launched.stage(number), launched.launch, launched.faction, launched.launch.at_s);
    if (!stage.chains.empty()) {
      judge_stage(ChainPast(act, motions, stage.chains), act, stage, number, stage.chains.front()->began);
    } else if (!stage.lasted.empty()) {
      judge_stage(LastingPast(act, motions, stage.lasted), act, stage, number,
                  stage.lasted.front()->lasting.began);
    } else {
      judge_stage(ShotsPast(act, motions, stage.ways, stage.struck.strikes), act, stage, number,
                  stage.ways.front()->end.course.born);
    }
  }
  if (outcome_.verdicts.empty() && outcome_.problems.empty()) {
    // Nothing of it set off: there was nobody to go for.
    Act act(motions, launched.stage(0), launched.launch, launched.faction, launched.launch.at_s);
    judge_stage(NobodyThere(motions, outcome_.end, outcome_.end_s, far_limit(act.attack.reach)), act, {}, 0,
                0);
  }
  for (std::size_t i = 0; i < outcome_.verdicts.size(); ++i) add_what_followed(i, outcome_.verdicts[i]);
}

void WholeRun::take_verdict(std::size_t number, const Verdict& verdict) {
  if (number >= followed_.size()) followed_.resize(number + 1);
  std::optional<Verdict>& best = followed_[number];
  if (!best) {
    best = verdict;
    return;
  }
  best->gates.insert(best->gates.end(), verdict.gates.begin(), verdict.gates.end());
  // Equally near, the earlier stage tells.
  const bool tells =
      nearer(verdict, *best) || (!nearer(*best, verdict) && verdict.deciding.stage < best->deciding.stage);
  if (tells) best->struck = verdict.struck, best->deciding = verdict.deciding;
}

void WholeRun::add_what_followed(std::size_t number, Verdict& verdict) const {
  if (number >= followed_.size() || !followed_[number]) return;
  const Verdict& later = *followed_[number];
  verdict.gates.insert(verdict.gates.end(), later.gates.begin(), later.gates.end());
  if (nearer(later, verdict)) verdict.struck = later.struck, verdict.deciding = later.deciding;
}

void WholeRun::on_down(const Downed& downed) {
  if (downed.by_launch != itself_.at) return;
  outcome_.downed.push_back(downed);
  if (!together_) --outcome_.downed.back().launch;  // the launch itself is the first
}

void WholeRun::on_limit(const LimitMet& met) {
  if (met.launch == itself_.at) outcome_.limits_met.push_back(met);
}

void WholeRun::on_surface(LaunchSlot launch, const SurfaceMet& met) {
  if (launch == itself_) outcome_.surfaces.push_back(met);
}

void WholeRun::draw(const Machine& machine) const {
  constexpr double kOff = 0.01;
  const auto one = [&](const ShotWay& w) {
    FlightMark mark;
    const ShotDelivery& shot = *machine.launched(w.launch).stage(w.stage).shot;
    mark.radius = mark.half_width = mark.half_height = shot.radius;
    if (shot.shape) {
      const Bounds own = bounds(*shot.shape);
      mark.half_width = std::max(-own.low.y, own.high.y), mark.half_height = std::max(-own.low.z, own.high.z);
    }
    mark.ended = w.end.ended;
    const auto add = [&](double time, const Vec3& place) {
      mark.times.push_back(time), mark.places.push_back(place);
    };
    for (const Piece& p : w.pieces) {
      mark.pieces.push_back({p.start, p.end, p.at, p.velocity, p.acceleration, p.jerk});
      if (mark.places.empty()) add(p.start, p.place(p.start));
      const double h = p.end - p.start, bow = p.most_acceleration(p.start, p.end) * h * h / 8;
      const int chords = static_cast<int>(std::clamp(std::ceil(std::sqrt(bow / kOff)), 1.0, 500.0));
      for (int i = 1; i <= chords; ++i) {
        const double t = p.start + h * i / chords;
        add(t, p.place(t));
      }
    }
    if (mark.places.empty()) add(w.end.time, w.end.place);
    outcome_.marks.emplace_back(std::move(mark));
  };
  // What of a trap may be struck does not fly.
  const auto flies = [&](const ShotWay& w) {
    return (!w.pieces.empty() || w.end.over) && !machine.launched(w.launch).stage(w.stage).lasting;
  };
  for (const auto* ways : {&ways_, &others_}) {
    for (const ShotWay& w : *ways) {
      if (flies(w)) one(w);
    }
  }
  for (const Chain& c : chains_) {
    const auto& delivery =
        std::get<ChainDelivery>(machine.launched(c.launch).stage(c.stage).attack->delivery);
    for (const HopMade& hop : c.hops) {
      const Vec3 to = hop.landed.value_or(hop.from.place);
      outcome_.marks.emplace_back(
          HopMark{hop.from.place, to, delivery.arc, hop.from.hop, hop.from.time, hop.arrives});
    }
  }
  for (const Lasted& l : lasted_) {
    const Stage& stage = machine.launched(l.lasting.launch).stage(l.lasting.stage);
    if (never_began(l.ended)) continue;
    if (l.lasting.way.empty()) {
      LastingMark mark = mark_of(l, *stage.lasting, machine.motions());
      double reach = 0;
      for (const GrownArea& size : mark.sizes) reach = std::max(reach, reach_of(size.shape));
      if (!mark.trap) mark.fades = fades_of(*stage.attack, reach);
      outcome_.marks.emplace_back(std::move(mark));
    } else {
      outcome_.marks.emplace_back(dash_mark_of(l, machine.motions()));
    }
  }
}

}  // namespace dardo::detail
