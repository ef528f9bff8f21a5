#include "resolve/carriers/shot/past.hpp"

#include <algorithm>
#include <cmath>

#include "geometry/detail/tolerance.hpp"

namespace dardo::detail {

ShotsPast::ShotsPast(const Act& act, const Motions& motions, std::span<const ShotWay* const> ways,
                     const std::vector<Strike>& strikes)
    : act_(act), motions_(motions), shot_(*act.stage.shot), strikes_(strikes) {
  constexpr std::size_t kMostPieces = 4000;
  for (const ShotWay* way : ways) {
    const ShotWay& w = *way;
    const Flown& end = w.stuck ? *w.stuck : w.end;
    Course c = end.course;
    Ghost g{w.pieces, end, end.ended == Ended::limit ? end.time : c.born + life_limit(shot_)};
    if (w.stuck) g.pieces.resize(w.flown_pieces);
    // One that ended as it began was there, too.
    if (g.pieces.empty()) g.pieces.push_back({c.time, c.time, c.place(), c.velocity(), {}, {}});
    // What ended by itself would not have gone on.
    const bool stopped = !end.by.empty() || end.ended == Ended::life || end.ended == Ended::limit;
    const double until = c.born + 2 * life_limit(shot_);
    while (stopped && g.pieces.size() < w.pieces.size() + kMostPieces && c.time < until &&
           c.travelled < far_limit(act.attack.reach)) {
      if (c.time >= c.piece.end && next_piece(c, shot_.path, motions) != Milestone::none) break;
      double last = std::min(c.piece.end, until);
      if (c.time < g.life_over) last = std::min(last, g.life_over);
      Piece p = c.piece.part(c.time, last);
      // Not beyond its reach: the end is found by halving.
      const double left = far_limit(act.attack.reach) - c.travelled;
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
    one_origin_ = one_origin_ && g.end.course.origin == ways.front()->end.course.origin;
    ghosts_.push_back(std::move(g));
  }
}

const ShotsPast::Meeting& ShotsPast::meet(BodyId body) const {
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
double ShotsPast::at_least_apart(const Flyer& flyer, const Ghost& g, std::size_t piece, BodyId body) const {
  const Ghost::Extent& e = g.extents[piece];
  const double around = e.radius + act_.arena.reach_around_center(body) + flyer.reach();
  if (!motions_.moves(body)) return length(e.middle - act_.arena.center(body)) - around;
  const Piece& p = g.pieces[piece];
  const double middle = 0.5 * (p.start + p.end), half = 0.5 * (p.end - p.start);
  const Leg leg = motions_.leg(body, middle);
  if (!(leg.start <= p.start && p.end <= leg.end)) return 0;
  const Vec3 center = act_.arena.center_in_frame(body);
  return length(e.middle - leg.at(middle) * center) - around -
         half * (length(leg.velocity) + leg.turn_rate * length(center));
}

/// So near the ghost comes to a body for certain, and a little more than a miss is known to: what stays
/// farther away on a piece need not be looked at closely. Found on the piece that may come nearest.
double ShotsPast::no_nearer_than(const Ghost& g, const Flyer& flyer, BodyId body,
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
void ShotsPast::approach(BodyId body, const Ghost& g, const Flyer& flyer, const Piece& p, double travelled,
                         Meeting& best) const {
  const auto& hitboxes = act_.arena.build(act_.arena.body(body).build).hitboxes;
  for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
    const Hitbox& h = hitboxes[i];
    motions_.each_leg(body, i, p.start, p.end, [&](const Leg& leg, double begin, double end) {
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

void ShotsPast::meet(BodyId body, const Ghost& g, Meeting& best) const {
  const Flyer flyer = flyer_of(shot_, g.end.course, act_.arena.upright());
  const double scale = largest(g.end.course.origin);
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
      if (far_enough(act_, flown, scale)) {
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
  if (far_enough(act_, flown, scale)) {
    best = {true, {}, 0, g.end.time, flown, &g};
  } else {
    best.too_near = flown;
  }
}

double ShotsPast::away_from(const Vec3& origin, BodyId body) const {
  double away = std::numeric_limits<double>::infinity();
  for (const Shape& h : act_.arena.hitboxes(body)) away = std::min(away, nearest(h, origin).distance);
  return away;
}

ShotsPast::Met ShotsPast::met(BodyId body) const {
  // What stands beyond its reach is told that, however near it comes.
  if (!one_origin_ || ghosts_.empty() || motions_.moves(body) || asked_ == body) return {body};
  const Course& course = ghosts_.front().end.course;
  const double away = away_from(course.origin, body),
               most = far_limit(act_.attack.reach) + flyer_of(shot_, course, act_.arena.upright()).reach();
  return {body, away, away > most + 1e-6 * (1 + largest(course.origin))};
}

Reading ShotsPast::tell_reach(const Met& met) const {
  Reading r{.gate = Gate::reach};
  const auto stopped = [&](Reason reason, double measured, double limit) {
    r.reason = reason, r.measured = measured, r.limit = limit, r.margin = std::fabs(measured - limit);
    return r;
  };
  const Reach& reach = act_.attack.reach;
  const double far = far_limit(reach);
  if (met.beyond) return stopped(Reason::too_far, *met.away, far);
  const Meeting& m = meet(met.body);
  if (m.touches) {
    r.measured = m.travelled, r.limit = far, r.margin = std::max(0.0, far - m.travelled);
    if (reach.near > 0) r.margin = std::clamp(m.travelled - reach.near, 0.0, *r.margin);
    return r;
  }
  if (m.too_near) return stopped(Reason::too_near, *m.too_near, reach.near);
  if (m.ghost == nullptr) return stopped(Reason::missed, 0, 0);
  const double away = met.away ? *met.away : away_from(m.ghost->end.course.origin, met.body);
  if (away > far) return stopped(Reason::too_far, away, far);
  return stopped(Reason::missed, std::max(0.0, m.gap), 0);
}

Reading ShotsPast::tell_time(const Met& met) const {
  Reading r{.gate = Gate::time};
  const Meeting& m = meet(met.body);
  if (!m.touches) return r;
  const double born = m.ghost->end.course.born;
  r.measured = m.time - born, r.limit = m.ghost->life_over - born;
  r.margin = std::fabs(m.time - m.ghost->life_over);
  if (m.time > m.ghost->life_over) r.reason = Reason::over;
  return r;
}

Reading ShotsPast::tell_sight(const Met& met) const {
  Reading r{.gate = Gate::sight};
  const Meeting& m = meet(met.body);
  if (m.ghost == nullptr) return r;
  const Flown& end = m.ghost->end;
  const bool stopped = !end.by.empty();
  const bool in_it = end.by.body == met.body && !end.by.shot;
  if (!stopped || in_it || !(m.time > end.time + kInstant || end.ended == Ended::muzzle_blocked)) return r;
  r.reason = end.by.wall.empty() ? Reason::shielded : Reason::wall;
  r.measured = m.travelled, r.limit = end.travelled;
  r.margin = std::fabs(m.travelled - end.travelled);
  r.by = end.by, r.at = end.place;
  return r;
}

/// Of those that it touches in the instant of its last strike, the earlier are struck.
Reading ShotsPast::tell_cap(const Met& met, const Outcome& outcome) const {
  Reading r{.gate = Gate::cap};
  const Meeting& m = meet(met.body);
  if (!m.touches || m.ghost->end.ended != Ended::strike || m.ghost->end.by.body == met.body ||
      std::fabs(m.time - m.ghost->end.time) > kInstant)
    return r;
  const bool struck = std::any_of(outcome.strikes.begin(), outcome.strikes.end(),
                                  [&](const Strike& s) { return s.body == met.body; });
  if (struck) return r;
  r.reason = Reason::cap;
  r.measured = m.travelled, r.limit = m.ghost->end.travelled;
  r.margin = std::fabs(m.travelled - m.ghost->end.travelled);
  return r;
}

}  // namespace dardo::detail
