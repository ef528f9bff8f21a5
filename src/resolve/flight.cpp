#include "resolve/detail/flight.hpp"

#include "geometry/detail/tolerance.hpp"

namespace dardo::detail {
namespace {

constexpr double kEver = std::numeric_limits<double>::infinity();

/// The first time in (from, to] from which on `holds` does, when it does not at `from` but at `to`.
template <class Holds>
double first_time(Holds&& holds, double from, double to) {
  for (int i = 0; i < 80 && from < to; ++i) {
    const double middle = 0.5 * (from + to);
    if (!(middle > from && middle < to)) break;
    (holds(middle) ? to : from) = middle;
  }
  return to;
}

/// Everything that a stretch of one piece may meet.
class Search {
 public:
  Search(const Flight& flight, const Launched& launched, const Surroundings& around, const Course& course)
      : flight_(flight),
        around_(around),
        course_(course),
        attempt_{around.arena, launched.plan->attack(flight.stage), launched.launch, launched.faction},
        shot_(std::get<ShotDelivery>(attempt_.attack.delivery)),
        flyer_(flyer_of(shot_)) {}

  /// First contact in [from, to].
  void run(double from, double to, Event& best) {
    best.time = to;
    const double loose = slack(largest(course_.piece.place(from))) + 1e-9;
    const Bounds box = course_.piece.bounds(from, to).grown(flyer_.reach() + loose);
    around_.arena.walls_touching(box, [&](WallId wall) { meet_wall(wall, from, best); });
    around_.motions.bodies_near(box, from, to, [&](BodyId body) { meet_body(body, from, best); });
  }

 private:
  void meet_wall(WallId wall, double from, Event& best) const {
    if (!around_.arena.blocks(wall).has(Passage::shots)) return;
    for (const Flight::Leaving& l : flight_.leaving) {
      if (l.wall == wall) from = std::max(from, l.until);
    }
    if (!(from <= best.time)) return;
    const auto t =
        touch_hitbox(flyer_, course_.piece, from, best.time, around_.arena.wall(wall).box, standing());
    if (!t || around_.arena.wall(wall).lets_pass(course_.piece.speed_at(*t))) return;
    // A body at the same place is struck first; of two walls the earlier one is met.
    const bool tie = best.kind != Event::Kind::none && *t == best.time;
    if (tie && (best.kind == Event::Kind::body || best.wall < wall)) return;
    best.kind = Event::Kind::wall, best.time = *t, best.wall = wall;
  }

  void meet_body(BodyId body, double from, Event& best) const {
    if (!around_.stands(body)) return;
    const Relation relation = attempt_.relation_to(body);
    const bool stops = relation != Relation::self && attempt_.attack.stopped_by.has(relation);
    bool strikes = eligible(attempt_, body);
    if (strikes) {
      for (const Struck& s : flight_.struck) {
        if (s.body != body) continue;
        strikes = shot_.again_after_s.has_value();
        if (strikes) from = std::max(from, s.time + *shot_.again_after_s);
      }
    }
    if (!strikes && !stops) return;
    const auto& hitboxes = around_.arena.build(around_.arena.body(body).build).hitboxes;
    for (std::uint32_t i = 0; i < hitboxes.size(); ++i) {
      for (double t = from; t <= best.time;) {
        const Leg leg = around_.motions.leg(body, t);
        const double until = std::min(leg.end, best.time);
        const auto met = touch_hitbox(flyer_, course_.piece, t, std::max(t, until), hitboxes[i].shape, leg);
        if (met) {
          take(body, i, *met, strikes, stops, best);
          break;
        }
        if (!(until < best.time)) break;
        t = until > t ? until : std::nextafter(t, kEver);
      }
    }
  }

  void take(BodyId body, std::uint32_t hitbox, double t, bool strikes, bool stops, Event& best) const {
    if (strikes && attempt_.attack.reach.near > 0) {
      const double travel = course_.travelled + course_.piece.length(course_.time, t);
      if (!at_least(travel, attempt_.attack.reach.near, largest(course_.origin))) strikes = false;
    }
    if (!strikes && !stops) return;
    if (best.kind == Event::Kind::body && t == best.time) {
      const auto order = around_.arena.order(body), taken = around_.arena.order(best.body);
      if (taken < order || (taken == order && best.hitbox <= hitbox)) return;
    }
    best.kind = Event::Kind::body, best.time = t, best.body = body, best.hitbox = hitbox,
    best.strikes = strikes;
  }

  const Flight& flight_;
  const Surroundings& around_;
  const Course& course_;
  Attempt attempt_;
  const ShotDelivery& shot_;
  Flyer flyer_;
};

/// Whether a guided shot loses sight of its target, looked at 20 times a second from its start.
constexpr double kLook = 0.05;

bool hidden(const Surroundings& around, const Course& c) {
  const Vec3 from = c.place(), to = around.motions.center(c.target, c.time), way = to - from;
  const double size = length(way);
  return size > 0 && first_wall(around.arena, {from, way / size, size}, Passage::sight).has_value();
}

}  // namespace

Plan::Plan(Attack attack) : root_(std::move(attack)) {
  stages_.push_back(&root_);
  for (std::uint32_t i = 0; i < stages_.size(); ++i) {
    first_child_.push_back(static_cast<std::uint32_t>(stages_.size()));
    for (const Then& then : stages_[i]->then) {
      for (const Attack& child : then.attacks) stages_.push_back(&child);
    }
  }
}

std::optional<double> Plan::near(std::uint32_t stage) const {
  for (const Then& then : attack(stage).then) {
    if (then.when == Then::When::near) return then.distance;
  }
  return std::nullopt;
}

bool Plan::has(std::uint32_t stage, Then::When when) const {
  const auto& all = attack(stage).then;
  return std::any_of(all.begin(), all.end(), [&](const Then& t) { return t.when == when; });
}

Vec3 stuck_place(const Flight& flight, const Surroundings& around, double time) {
  const BodyId body = flight.stuck.in.body;
  if (body.empty()) return flight.stuck.at;
  // Where it was last, when the body is gone.
  return around.arena.has(body) ? around.motions.leg(body, time).at(time) * flight.stuck.at
                                : flight.course.place();
}

namespace {

/// It is carried along, and meets nothing, until its lifetime is over.
Event carried(const Flight& flight, const Surroundings& around, double until, std::vector<Piece>* trace) {
  Event event;
  Course& c = event.course = flight.course;
  const double end = std::max(c.time, std::min(until, flight.ends));
  const BodyId body = flight.stuck.in.body;
  while (c.time < end) {
    double next = end;
    if (!body.empty() && around.arena.has(body)) next = std::min(end, around.motions.leg(body, c.time).end);
    if (!(next > c.time)) next = std::min(end, std::nextafter(c.time, kEver));
    const Vec3 from = stuck_place(flight, around, c.time), to = stuck_place(flight, around, next);
    if (trace != nullptr) trace->push_back({c.time, next, from, (to - from) / (next - c.time), {}, {}});
    c.time = next;
  }
  c.piece = {c.time, c.time, stuck_place(flight, around, c.time), {}, {}, {}};
  event.time = c.time;
  if (end >= flight.ends) event.kind = Event::Kind::life;
  return event;
}

}  // namespace

void catch_up(Course& c, double time) {
  if (!(time > c.time)) return;
  c.travelled += c.piece.length(c.time, time);
  c.time = time;
}

Flyer flyer_of(const ShotDelivery& shot) { return {shot.radius, shot.shape ? &*shot.shape : nullptr}; }

Event next_event(const Flight& flight, const Launched& launched, const Surroundings& around, double until,
                 std::vector<Piece>* trace) {
  const Plan& plan = *launched.plan;
  const Attack& attack = plan.attack(flight.stage);
  const auto& shot = std::get<ShotDelivery>(attack.delivery);
  if (flight.stuck.yes) return carried(flight, around, until, trace);
  Event event;
  Course& c = event.course = flight.course;
  catch_up(c, around.from);
  const auto fly_to = [&](Course& course, double time) {
    if (!(time > course.time)) return;
    if (trace != nullptr) trace->push_back(course.piece.part(course.time, time));
    catch_up(course, time);
  };
  const auto ends = [&](Event::Kind kind, double time) {
    event.kind = kind, event.time = time;
    fly_to(c, time);
    return event;
  };
  const auto* guided = std::get_if<GuidedPath>(&shot.path);
  for (;;) {
    if (!c.target.empty() && c.time >= c.target_lost) return ends(Event::Kind::lost, c.time);
    if (c.time >= c.piece.end) {
      switch (next_piece(c, shot.path, around.motions)) {
        case Milestone::turned: return ends(Event::Kind::turned, c.time);
        case Milestone::returned: return ends(Event::Kind::returned, c.time);
        case Milestone::arrived: return ends(Event::Kind::arrived, c.time);
        case Milestone::stopped: return ends(Event::Kind::stopped, c.time);
        case Milestone::none: break;
      }
    }
    if (c.piece.end > c.target_lost && c.time < c.target_lost) c.piece.end = c.target_lost;
    // Up to where nothing but a contact can come in between.
    double stop = std::min({c.piece.end, until, flight.ends});
    Event::Kind kind = stop == flight.ends ? Event::Kind::life : Event::Kind::none;
    const auto sooner = [&](double time, Event::Kind what) {
      if (time <= stop) stop = std::max(time, c.time), kind = what;
    };
    const double far = attack.reach.far, left = far - c.travelled;
    if (c.piece.straight()) {
      const double speed = length(c.piece.velocity);
      if (speed * (stop - c.time) >= left) sooner(c.time + left / speed, Event::Kind::length);
    } else if (c.piece.most_speed(c.time, stop) * (stop - c.time) >= left &&
               c.piece.length(c.time, stop) >= left) {
      sooner(first_time([&](double t) { return c.piece.length(c.time, t) >= left; }, c.time, stop),
             Event::Kind::length);
    }
    if (shot.least_speed > 0) {
      const auto slow = [&](double t) { return length(c.piece.speed_at(t)) < shot.least_speed; };
      if (slow(c.time)) {
        sooner(c.time, Event::Kind::slow);
      } else if (slow(stop)) {
        sooner(first_time(slow, c.time, stop), Event::Kind::slow);
      }
    }
    if (!flight.apex_passed && plan.has(flight.stage, Then::When::apex)) {
      const auto sinks = [&](double t) { return c.piece.speed_at(t).z <= 0; };
      if (!sinks(c.time) && sinks(stop)) sooner(first_time(sinks, c.time, stop), Event::Kind::apex);
    }
    if (const auto near = plan.near(flight.stage);
        near && !flight.near_passed && !c.target.empty() && around.stands(c.target)) {
      const Flyer wide{*near, nullptr};
      for (const Hitbox& h : around.arena.build(around.arena.body(c.target).build).hitboxes) {
        for (double t = c.time; t < stop;) {
          const Leg leg = around.motions.leg(c.target, t);
          const double leg_end = std::min(leg.end, stop);
          if (const auto met = touch_hitbox(wide, c.piece, t, std::max(t, leg_end), h.shape, leg)) {
            sooner(*met, Event::Kind::near);
            break;
          }
          t = leg_end > t ? leg_end : std::nextafter(t, kEver);
        }
      }
    }
    if (const auto ground = around.arena.ground()) {
      const double from = std::max(c.time, flight.off_ground_until);
      if (from <= stop) {
        const auto met = touch_ground(flyer_of(shot), c.piece, from, stop, {0, 0, 1}, *ground);
        if (met && c.piece.speed_at(*met).z < 0) sooner(*met, Event::Kind::ground);
      }
    }
    if (around.bounds) {
      const auto outside = [&](double t) {
        const Vec3 p = c.piece.place(t);
        return !overlaps(*around.bounds, Bounds{p, p});
      };
      if (!outside(c.time) && outside(stop)) sooner(first_time(outside, c.time, stop), Event::Kind::out);
    }
    // Only at its own moments, whatever the ticks are.
    double look = kEver;
    if (guided != nullptr && guided->needs_sight && !c.target.empty()) {
      look = std::max(c.time, c.born + (c.looks + 1) * kLook);
      if (look < stop) stop = look, kind = Event::Kind::none;
    }
    // In stretches of a few metres, so that the index is asked for what is near the way.
    constexpr double kStretch = 8;
    const double way = c.piece.most_speed(c.time, stop) * (stop - c.time);
    const auto parts = static_cast<int>(std::clamp(std::ceil(way / kStretch), 1.0, 1e6));
    Search search(flight, launched, around, c);
    const double start = c.time;
    for (int i = 0; i < parts; ++i) {
      const double from = start + (stop - start) * i / parts,
                   to = i + 1 == parts ? stop : start + (stop - start) * (i + 1) / parts;
      Event met;
      search.run(from, to, met);
      if (met.kind == Event::Kind::none) continue;
      met.course = c;
      fly_to(met.course, met.time);
      return met;
    }
    fly_to(c, stop);
    if (stop == look) {
      ++c.looks;
      if (hidden(around, c)) c.target_lost = c.time;
    }
    if (kind != Event::Kind::none) return ends(kind, stop);
    if (stop >= until) {
      event.time = until;
      return event;
    }
  }
}

}  // namespace dardo::detail
