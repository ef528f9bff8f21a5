#include "resolve/whole.hpp"

#include <algorithm>
#include <cmath>

#include "geometry/detail/tolerance.hpp"
#include "resolve/rules/judge.hpp"

namespace dardo::detail {

namespace {

/// Whether a verdict came nearer to a strike than another one: it is one, or came to a later gate, or was
/// kept from it by less.
bool nearer(const Verdict& a, const Verdict& b) {
  constexpr double kUnknown = std::numeric_limits<double>::infinity();
  if (a.struck != b.struck) return a.struck;
  if (a.struck) return false;
  if (a.deciding.gate != b.deciding.gate) return a.deciding.gate > b.deciding.gate;
  // By more than a miss is known to: else the earlier one tells.
  const double far = b.deciding.margin.value_or(kUnknown), near = a.deciding.margin.value_or(kUnknown);
  return near < far && !(far - near <= kMissKnown * std::max(1.0, near));
}

}  // namespace

WholeRun::Way& WholeRun::way(std::uint32_t launch, std::uint32_t number) {
  if (launch == 0) {
    if (number >= ways_.size()) ways_.resize(number + 1);
    return ways_[number];
  }
  for (Way& w : others_) {
    if (w.launch == launch && w.number == number) return w;
  }
  others_.emplace_back().launch = launch;
  others_.back().number = number;
  return others_.back();
}

bool WholeRun::on_strike(const Strike& strike) {
  if (strike.launch == 0) outcome_.strikes.push_back(strike);
  return false;
}
void WholeRun::on_end(const Flown& flown) {
  Way& w = way(flown.launch, flown.number);
  w.stage = flown.stage, w.end = flown;
}
void WholeRun::on_stuck(const Flown& flown) {
  Way& w = way(flown.launch, flown.number);
  w.stuck = flown, w.flown_pieces = w.pieces.size();
}
void WholeRun::on_way(const Flight& flight, const std::vector<Piece>& pieces) {
  Way& w = way(flight.launch, flight.number);
  w.stage = flight.stage;
  w.pieces.insert(w.pieces.end(), pieces.begin(), pieces.end());
}
void WholeRun::on_instant(std::uint32_t launch, std::uint32_t stage, Outcome& instant) {
  outcome_.marks.insert(outcome_.marks.end(), instant.marks.begin(), instant.marks.end());
  if (launch != 0) return;
  for (std::string& w : instant.warnings) outcome_.warnings.push_back(std::move(w));
  if (stage == 0) {
    outcome_.origin = instant.origin, outcome_.end = instant.end, outcome_.ended = instant.ended;
    outcome_.stopped_by = instant.stopped_by, outcome_.verdicts = std::move(instant.verdicts);
    return;
  }
  for (std::size_t i = 0; i < instant.verdicts.size(); ++i) take_verdict(i, instant.verdicts[i]);
}

std::map<std::uint32_t, WholeRun::OfStage> WholeRun::stages() const {
  std::map<std::uint32_t, OfStage> out;
  for (const Way& w : ways_) out[w.stage].ways.push_back(&w);
  for (auto& [stage, of] : out) of.struck.limits_met = outcome_.limits_met;
  for (const Strike& s : outcome_.strikes) {
    // A ray or an area has no ways, and its own verdicts.
    if (const auto found = out.find(s.stage); found != out.end()) found->second.struck.strikes.push_back(s);
  }
  return out;
}

void WholeRun::judge(const Attempt& attempt, const Plan& plan, const Motions& motions, Detail wanted) {
  const std::vector<BodyId> bodies = attempt.arena.bodies();
  for (const auto& [number, stage] : stages()) {
    const Attempt later{attempt.arena, plan.attack(number), attempt.launch, attempt.faction};
    const ShotJudge judged(later, motions, stage);
    if (number == 0) outcome_.verdicts.reserve(bodies.size());
    for (std::size_t i = 0; i < bodies.size(); ++i) {
      Verdict v = detail::judge(later, judged, stage.struck, bodies[i], wanted, number);
      if (number == 0) {
        outcome_.verdicts.push_back(std::move(v));
        continue;
      }
      mark_stage(v, number, stage.ways.front()->end.course.born);
      take_verdict(i, v);
    }
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
  if (nearer(verdict, *best)) best->struck = verdict.struck, best->deciding = verdict.deciding;
}

void WholeRun::add_what_followed(std::size_t number, Verdict& verdict) const {
  if (number >= followed_.size() || !followed_[number]) return;
  const Verdict& later = *followed_[number];
  verdict.gates.insert(verdict.gates.end(), later.gates.begin(), later.gates.end());
  if (nearer(later, verdict)) verdict.struck = later.struck, verdict.deciding = later.deciding;
}

void WholeRun::on_down(const Downed& downed) {
  if (downed.by_launch != 0) return;
  outcome_.downed.push_back(downed);
  --outcome_.downed.back().launch;  // the launch itself is the first
}

void WholeRun::on_limit(const LimitMet& met) {
  if (met.launch == 0) outcome_.limits_met.push_back(met);
}

void WholeRun::draw(std::span<const std::shared_ptr<Plan>> plans) const {
  constexpr double kOff = 0.01;
  const auto one = [&](const Way& w) {
    FlightMark mark;
    mark.radius = std::get<ShotDelivery>(plans[w.launch]->attack(w.stage).delivery).radius;
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
  for (const Way& w : ways_) one(w);
  for (const Way& w : others_) one(w);
}

ShotJudge::ShotJudge(const Attempt& attempt, const Motions& motions, const WholeRun::OfStage& stage)
    : attempt_(attempt),
      motions_(motions),
      shot_(std::get<ShotDelivery>(attempt.attack.delivery)),
      strikes_(stage.struck.strikes) {
  constexpr std::size_t kMostPieces = 4000;
  for (const WholeRun::Way* way : stage.ways) {
    const WholeRun::Way& w = *way;
    const Flown& end = w.stuck ? *w.stuck : w.end;
    Course c = end.course;
    Ghost g{w.pieces, end, end.ended == Ended::limit ? end.time : c.born + shot_.life_s};
    if (w.stuck) g.pieces.resize(w.flown_pieces);
    // One that ended as it began was there, too.
    if (g.pieces.empty()) g.pieces.push_back({c.time, c.time, c.place(), c.velocity(), {}, {}});
    // What ended by itself would not have gone on.
    const bool stopped =
        !end.by.wall.empty() || !end.by.body.empty() || end.ended == Ended::life || end.ended == Ended::limit;
    const double until = c.born + 2 * shot_.life_s;
    while (stopped && g.pieces.size() < w.pieces.size() + kMostPieces && c.time < until &&
           c.travelled < attempt.attack.reach.far) {
      if (c.time >= c.piece.end && next_piece(c, shot_.path, motions) != Milestone::none) break;
      double last = std::min(c.piece.end, until);
      if (c.time < g.life_over) last = std::min(last, g.life_over);
      Piece p = c.piece.part(c.time, last);
      // Not beyond its reach: the end is found by halving.
      const double left = attempt.attack.reach.far - c.travelled;
      const bool beyond = p.length(p.start, p.end) > left;
      if (beyond) {
        double low = p.start, high = p.end;
        for (int i = 0; i < 60; ++i) {
          const double middle = 0.5 * (low + high);
          (p.length(p.start, middle) > left ? high : low) = middle;
        }
        p.end = low;
      }
      if (!(p.end > p.start)) break;
      c.travelled += p.length(p.start, p.end);
      c.time = p.end;
      g.pieces.push_back(p);
      if (beyond) break;
    }
    double travelled = 0;
    for (const Piece& p : g.pieces) {
      const double half = 0.5 * (p.end - p.start);
      g.extents.push_back({p.place(p.start + half), half * p.most_speed(p.start, p.end), travelled});
      travelled += p.length(p.start, p.end);
    }
    one_origin_ = one_origin_ && g.end.course.origin == stage.ways.front()->end.course.origin;
    ghosts_.push_back(std::move(g));
  }
}

const ShotJudge::Meeting& ShotJudge::meet(BodyId body) const {
  // All gates of geometry ask, one after the other.
  if (body == asked_) return met_;
  Meeting best;
  best.gap = std::numeric_limits<double>::infinity();
  const auto struck =
      std::find_if(strikes_.begin(), strikes_.end(), [&](const Strike& s) { return s.body == body; });
  // Who was struck is not sought again.
  const auto flew = [&](const Ghost& g) { return g.end.time >= struck->time_s; };
  const auto by =
      struck == strikes_.end() ? ghosts_.end() : std::find_if(ghosts_.begin(), ghosts_.end(), flew);
  if (by != ghosts_.end()) {
    best = {true, {}, 0, struck->time_s, struck->distance, &*by};
  } else {
    for (const Ghost& g : ghosts_) meet(body, g, best);
  }
  asked_ = body, met_ = best;
  return met_;
}

/// No nearer than this does the flyer come to the body on the piece; 0 when that is not so easily said.
double ShotJudge::at_least_apart(const Flyer& flyer, const Ghost& g, std::size_t piece, BodyId body) const {
  const Ghost::Extent& e = g.extents[piece];
  const double around = e.radius + attempt_.arena.reach_around_center(body) + flyer.reach();
  if (!motions_.moves(body)) return length(e.middle - attempt_.arena.center(body)) - around;
  const Piece& p = g.pieces[piece];
  const double middle = 0.5 * (p.start + p.end), half = 0.5 * (p.end - p.start);
  const Leg leg = motions_.leg(body, middle);
  if (!(leg.start <= p.start && p.end <= leg.end)) return 0;
  const Vec3 center = attempt_.arena.center_in_frame(body);
  return length(e.middle - leg.at(middle) * center) - around -
         half * (length(leg.velocity) + leg.turn_rate * length(center));
}

/// So near the ghost comes to a body for certain, and a little more than a miss is known to: what stays
/// farther away on a piece need not be looked at closely. Found on the piece that may come nearest.
double ShotJudge::no_nearer_than(const Ghost& g, const Flyer& flyer, BodyId body,
                                 const Meeting& known) const {
  std::size_t nearest = 0;
  double least = std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < g.pieces.size() && g.pieces[i].start < g.life_over; ++i) {
    const double apart = at_least_apart(flyer, g, i, body);
    if (apart < least) least = apart, nearest = i;
  }
  Meeting found = known;
  if (least < known.gap) approach(body, g, flyer, g.pieces[nearest], 0, found);
  return std::max(0.0, found.gap) * (1 + 3e-4) + 3e-7;
}

/// How near it comes on a piece, if that is nearer than before.
void ShotJudge::approach(BodyId body, const Ghost& g, const Flyer& flyer, const Piece& p, double travelled,
                         Meeting& best) const {
  for (const Hitbox& h : attempt_.arena.build(attempt_.arena.body(body).build).hitboxes) {
    motions_.each_leg(body, p.start, p.end, [&](const Leg& leg, double begin, double end) {
      const Approach near_by = approach_hitbox(flyer, p, begin, end, h.shape, leg, best.gap);
      if (near_by.gap < best.gap) {
        best.gap = near_by.gap;
        best.time = near_by.time, best.travelled = travelled + p.length(p.start, near_by.time);
        best.ghost = &g;
      }
      return true;
    });
  }
}

void ShotJudge::meet(BodyId body, const Ghost& g, Meeting& best) const {
  const Flyer flyer = flyer_of(shot_, g.end.course, attempt_.arena.up());
  const double near = attempt_.attack.reach.near, scale = largest(g.end.course.origin);
  bool passing = false;  // touched nearer than the near limit, and not let go of
  const bool stopped_it = g.end.ended == Ended::body && g.end.by.body == body;
  // What has stopped it has a shorter way to be near.
  const bool looks_first = !stopped_it && g.pieces.size() > 1;
  const double enough =
      looks_first ? no_nearer_than(g, flyer, body, best) : std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < g.pieces.size(); ++i) {
    Piece p = g.pieces[i];
    const double travelled = g.extents[i].travelled;
    // What has stopped it is not met any more.
    if (stopped_it) p.end = std::max(p.start, std::min(p.end, g.end.time));
    if (p.start > p.end || (stopped_it && p.start > g.end.time)) break;
    // Far from all that matters of it?
    const double apart = at_least_apart(flyer, g, i, body);
    if (!passing && apart > 1e-6 && (apart >= std::min(best.gap, enough) || p.start >= g.life_over)) continue;
    double from = p.start;
    // So often it touches anew within a piece at most; more is rounding along a surface.
    constexpr int kMostTouches = 64;
    for (int touches = 0; touches < kMostTouches; ++touches) {
      if (passing) {
        const auto free = let_go_of(flyer, p, from, p.end, body, motions_);
        if (!free) break;
        from = *free, passing = false;
      }
      const auto touch =
          touch_body(flyer, p, from, p.end, body, motions_, {g.end.course.born, g.end.stage > 0});
      if (!touch) break;
      const double flown = travelled + p.length(p.start, touch->time);
      if (at_least(flown, near, scale)) {
        if (!best.touches || touch->time < best.time) best = {true, {}, 0, touch->time, flown, &g};
        return;
      }
      if (!best.touches && !best.too_near) best.too_near = flown, best.ghost = &g, best.time = touch->time;
      from = touch->time, passing = true;
    }
    if (!best.touches && !best.too_near && p.start < g.life_over)
      approach(body, g, flyer, p, travelled, best);
  }
  // Who has stopped it was touched there, whatever rounding says of the gap.
  if (!stopped_it || best.touches || best.too_near) return;
  const double flown = g.end.travelled;
  best.time = g.end.time, best.ghost = &g;
  if (at_least(flown, near, scale)) {
    best = {true, {}, 0, g.end.time, flown, &g};
  } else {
    best.too_near = flown;
  }
}

Reading ShotJudge::reach(BodyId body) const {
  Reading r{.gate = Gate::reach};
  const auto stopped = [&](Reason reason, double measured, double limit) {
    r.reason = reason, r.measured = measured, r.limit = limit, r.margin = std::fabs(measured - limit);
    return r;
  };
  const Reach& reach = attempt_.attack.reach;
  const auto away_from = [&](const Vec3& origin) {
    double away = std::numeric_limits<double>::infinity();
    for (const Shape& h : attempt_.arena.hitboxes(body)) away = std::min(away, nearest(h, origin).distance);
    return away;
  };
  // What stands beyond its reach is told that, however near it comes.
  if (one_origin_ && !ghosts_.empty() && !motions_.moves(body) && asked_ != body) {
    const Vec3& origin = ghosts_.front().end.course.origin;
    const Flyer flyer = flyer_of(shot_, ghosts_.front().end.course, attempt_.arena.up());
    const double away = away_from(origin);
    if (away > reach.far + flyer.reach() + 1e-6 * (1 + largest(origin)))
      return stopped(Reason::too_far, away, reach.far);
  }
  const Meeting& m = meet(body);
  if (m.touches) {
    r.measured = m.travelled, r.limit = reach.far, r.margin = std::max(0.0, reach.far - m.travelled);
    if (reach.near > 0) r.margin = std::clamp(m.travelled - reach.near, 0.0, *r.margin);
    return r;
  }
  if (m.too_near) return stopped(Reason::too_near, *m.too_near, reach.near);
  if (m.ghost == nullptr) return stopped(Reason::missed, 0, 0);
  const double away = away_from(m.ghost->end.course.origin);
  if (away > reach.far) return stopped(Reason::too_far, away, reach.far);
  return stopped(Reason::missed, std::max(0.0, m.gap), 0);
}

Reading ShotJudge::time(BodyId body) const {
  Reading r{.gate = Gate::time};
  const Meeting& m = meet(body);
  if (!m.touches) return r;
  const double born = m.ghost->end.course.born;
  r.measured = m.time - born, r.limit = m.ghost->life_over - born;
  r.margin = std::fabs(m.time - m.ghost->life_over);
  if (m.time > m.ghost->life_over) r.reason = Reason::over;
  return r;
}

Reading ShotJudge::sight(BodyId body) const {
  Reading r{.gate = Gate::sight};
  const Meeting& m = meet(body);
  if (m.ghost == nullptr) return r;
  const Flown& end = m.ghost->end;
  const bool stopped = !end.by.wall.empty() || !end.by.body.empty();
  const bool in_it = end.by.body == body && !end.by.shot;
  if (!stopped || in_it || !(m.time > end.time + kInstant || end.ended == Ended::muzzle_blocked)) return r;
  r.reason = end.by.wall.empty() ? Reason::shielded : Reason::wall;
  r.measured = m.travelled, r.limit = end.travelled;
  r.margin = std::fabs(m.travelled - end.travelled);
  r.by = end.by, r.at = end.place;
  return r;
}

/// Of those that it touches in the instant of its last strike, the earlier are struck.
Reading ShotJudge::cap(BodyId body, const Outcome& outcome) const {
  Reading r{.gate = Gate::cap};
  const Meeting& m = meet(body);
  if (!m.touches || m.ghost->end.ended != Ended::strike || m.ghost->end.by.body == body ||
      std::fabs(m.time - m.ghost->end.time) > kInstant)
    return r;
  const bool struck = std::any_of(outcome.strikes.begin(), outcome.strikes.end(),
                                  [&](const Strike& s) { return s.body == body; });
  if (struck) return r;
  r.reason = Reason::cap;
  r.measured = m.travelled, r.limit = m.ghost->end.travelled;
  r.margin = std::fabs(m.travelled - m.ghost->end.travelled);
  return r;
}

}  // namespace dardo::detail
