#include "resolve/carriers/shot/flight.hpp"

#include <algorithm>

#include "geometry/detail/ever.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/carriers/shot/path_steps.hpp"
#include "resolve/carriers/shot/search.hpp"
#include "resolve/rules/order.hpp"
#include "resolve/rules/sight.hpp"

namespace dardo::detail {
namespace {

Event::Kind event_of(Milestone milestone) {
  switch (milestone) {
    case Milestone::turned: return Event::Kind::turned;
    case Milestone::returned: return Event::Kind::returned;
    case Milestone::arrived: return Event::Kind::arrived;
    case Milestone::stopped: return Event::Kind::stopped;
    case Milestone::none: break;
  }
  return Event::Kind::none;
}

// What a flight comes to along its piece by `stop` at the latest, each a time or nothing.

std::optional<double> comes_to_length(const Course& c, double left, double stop) {
  if (c.piece.pace > 0 || c.piece.straight()) {
    const double speed = c.piece.pace > 0 ? c.piece.pace : length(c.piece.velocity);
    if (!(speed * (stop - c.time) >= left)) return std::nullopt;
    return left > 0 ? c.time + left / speed : c.time;
  }
  if (!(c.piece.most_speed(c.time, stop) * (stop - c.time) >= left)) return std::nullopt;
  double over = c.piece.length(c.time, stop) - left;
  if (!(over >= 0)) return std::nullopt;
  // Newton's steps back from there within the bracket, halved where they leave it; of the length only what
  // is new is measured.
  double low = c.time, high = stop, t = stop;
  for (int round = 0; round < 80; ++round) {
    (over >= 0 ? high : low) = t;
    const double next = t - over / length(c.piece.speed_at(t)),
                 to = next > low && next < high ? next : 0.5 * (low + high);
    if (std::fabs(next - t) <= 1e-15 * t || !(to > low && to < high)) break;
    over += to > t ? c.piece.length(t, to) : -c.piece.length(to, t);
    t = to;
  }
  return t;
}

std::optional<double> comes_to_apex(const Course& c, const Vec3& up, double stop) {
  const auto sinks = [&](double t) { return dot(c.piece.speed_at(t), up) <= 0; };
  if (!c.rising || !sinks(stop)) return std::nullopt;
  return sinks(c.time) ? c.time : first_time(sinks, c.time, stop);
}

std::optional<double> comes_near(const Course& c, double distance, const Motions& motions, double stop) {
  const auto met = touch_body(Flyer{distance, nullptr}, c.piece, c.time, stop, c.target, motions);
  if (!met) return std::nullopt;
  return met->time;
}

std::optional<double> leaves_bounds(const Course& c, const Bounds& bounds, double stop) {
  const auto outside = [&](double t) {
    const Vec3 p = c.piece.place(t);
    return !overlaps(bounds, Bounds{p, p});
  };
  if (outside(c.time) || !outside(stop)) return std::nullopt;
  return first_time(outside, c.time, stop);
}

/// The earliest of what a flight comes to by itself. Of what comes in one instant the kind that stands first
/// among the kinds: what leads on before what ends it.
struct Due {
  double time = kEver;
  Event::Kind kind = Event::Kind::none;

  void offer(Event::Kind what, std::optional<double> when) {
    if (!when || *when > time + kInstant || (*when >= time - kInstant && what > kind)) return;
    time = *when, kind = what;
  }
};

/// All limits of a flight's way along its piece up to a time.
Due limits(const Flight& flight, const Launched& launched, const Surroundings& around, const Course& c,
           double up_to) {
  const Stage& stage = launched.stage(flight.stage);
  Due due;
  if (const double ends = std::max(flight.ends, c.time); ends <= up_to) due.offer(Event::Kind::life, ends);
  due.offer(Event::Kind::length, comes_to_length(c, far_limit(stage.attack->reach) - c.travelled, up_to));
  if (stage.shot->least_speed > 0) due.offer(Event::Kind::slow, becomes_slow(c, stage, up_to));
  if (!flight.apex_passed && stage.has(Then::When::apex))
    due.offer(Event::Kind::apex, comes_to_apex(c, around.arena.up(), up_to));
  const auto near = flight.near_passed ? std::nullopt : stage.near;
  if (near && !c.target.empty() && around.motions.stands(c.target))
    due.offer(Event::Kind::near, comes_near(c, *near, around.motions, up_to));
  if (around.bounds) due.offer(Event::Kind::out, leaves_bounds(c, *around.bounds, up_to));
  return due;
}

/// What its path comes to in the instant of something that ends it: that comes first, and the course is then
/// that far.
Event::Kind sooner_on_its_path(Course& c, Event::Kind kind, const ShotPath& path, const Motions& motions) {
  Course ahead = c;
  const double last = c.time + kInstant;
  for (int pieces = 0; pieces < 2 && ahead.piece.end <= last; ++pieces) {
    catch_up(ahead, ahead.piece.end);
    const Event::Kind milestone = event_of(next_piece(ahead, path, motions));
    if (milestone == Event::Kind::none || !(milestone < kind)) continue;
    c = ahead;
    return milestone;
  }
  return kind;
}

/// What is touched first along a piece up to a time, and when the stretch began in which it was found.
struct FirstTouched {
  Touched touched;
  double sought_from;
};
std::optional<FirstTouched> first_touched(const Search& search, const Course& c, double stop) {
  // In stretches of a few metres, so that the index is asked for what is near the way.
  constexpr double kStretch = 8;
  const double start = c.time;
  const auto way = [&] { return c.piece.most_speed(start, stop) * (stop - start); };
  // On a long way the ground, which is found at once, bounds what else is sought.
  if (way() > kStretch) stop = search.to_ground(start, stop);
  const auto parts = static_cast<int>(std::clamp(std::ceil(way() / kStretch), 1.0, 1e6));
  for (int i = 0; i < parts; ++i) {
    const double from = start + (stop - start) * i / parts;
    const double to = i + 1 == parts ? stop : start + (stop - start) * (i + 1) / parts;
    std::optional<Touched> first;
    search.run(from, to, [&](const Touched& t) {
      if (!first || t.time < first->time) first = t;
    });
    if (first) return FirstTouched{*first, from};
  }
  return std::nullopt;
}

/// Whether a guided shot loses sight of its target, looked at 20 times a second from its start.
constexpr double kLook = 0.05;

/// Only at its own moments, whatever the ticks are.
double next_look(const Course& c, const Law& law) {
  return law.needs_sight && !c.target.empty() ? std::max(c.time, c.born + (c.looks + 1) * kLook) : kEver;
}

bool hidden(const Flight& flight, const Launched& launched, const Surroundings& around, const Course& c) {
  const Act act(around.motions, launched.stage(flight.stage), launched.launch, launched.faction,
                around.motions.state_time(c.time));
  if (act.attack.sight) {
    const Moment moment(around.motions, c.time);
    const Moment::Body then = moment.body(c.target);
    const Nearest at = then.nearest(c.place());
    const SightJudge judge(act, moment, *act.attack.sight, c.place());
    return judge.see(c.target, at.point).reading.reason != Reason::none;
  }
  const Vec3 from = c.place(), to = around.motions.center(c.target, c.time), way = to - from;
  const double size = length(way);
  return size > 0 && first_wall(around.arena, {from, way / size, size}, Passage::sight, c.time).has_value();
}

}  // namespace

std::optional<double> becomes_slow(const Course& c, const Stage& stage, double stop) {
  const double slowest = below(stage.shot->least_speed);
  // By its law it keeps its speed; the cubic that stands for its way does nearly.
  if (stage.law.keeps_speed) return c.speed < slowest ? std::optional(c.time) : std::nullopt;
  return c.piece.first_slower(slowest, c.time, stop);
}

namespace {

/// The leg along which a flight that sticks is carried; nothing when what it sticks in stands, or is gone.
std::optional<Leg> carrying_leg(const Flight& flight, const Surroundings& around, double time) {
  const auto& [wall, body, shot] = flight.stuck.in;
  const WallTable& walls = around.arena.wall_table();
  if (!body.empty() && around.arena.has(body)) return around.motions.leg(body, time);
  if (!wall.empty() && walls.has(wall)) return walls.frame_leg(wall, time);
  return std::nullopt;
}

}  // namespace

Vec3 stuck_place(const Flight& flight, const Surroundings& around, double time) {
  if (const auto leg = carrying_leg(flight, around, time)) return leg->at(time) * flight.stuck.at;
  // Where it was last, when what it sticks in is gone.
  return flight.stuck.carried ? flight.course.place() : flight.stuck.at;
}

namespace {

/// It is carried along, and meets nothing, until its lifetime is over.
Event carried(const Flight& flight, const Surroundings& around, double until, std::vector<Piece>* trace) {
  Event event;
  Course& c = event.course = flight.course;
  const double end = std::max(c.time, std::min(until, flight.ends));
  while (trace != nullptr && c.time < end) {
    // Along one leg, and in steps that are a cubic: at its end the body may jump.
    const auto carries = carrying_leg(flight, around, c.time);
    const Leg leg = carries.value_or(standing());
    const Vec3 point = carries ? flight.stuck.at : stuck_place(flight, around, c.time);
    const double turns = leg.turn_rate * length(point);
    // A leg that has ended is the last one known, and goes on.
    double next = leg.end > c.time ? std::min(end, leg.end) : end;
    if (turns > 0)
      next = std::min(next, c.time + std::sqrt(std::sqrt(kWayKnown * 384 / length(point))) / leg.turn_rate);
    if (next > c.time) {
      trace->push_back(hermite(c.time, leg.at(c.time) * point, leg.velocity_of(point, c.time), next,
                               leg.at(next) * point, leg.velocity_of(point, next)));
    }
    c.time = next > c.time ? next : std::min(end, std::nextafter(c.time, kEver));
  }
  c.time = end;
  c.piece = {c.time, c.time, stuck_place(flight, around, c.time), {}, {}, {}};
  event.time = c.time;
  if (end >= flight.ends) event.kind = Event::Kind::life;
  return event;
}

}  // namespace

void stick(Flight& f, const Blocker& in, const Surroundings& around) {
  f.stuck = {true, in, f.course.place()};
  const auto leg = carrying_leg(f, around, f.course.time);
  f.stuck.carried = leg.has_value();
  if (!leg) return;
  const Pose pose = leg->at(f.course.time);
  f.stuck.at = into(pose.turn, f.course.place() - pose.at);
}

void catch_up(Course& c, double time) {
  if (!(time > c.time)) return;
  if (c.laid != c.piece.start) {
    c.laid = c.piece.start, c.laid_at = c.travelled;
    if (c.laid < c.time) c.laid_at -= c.piece.length(c.laid, c.time);
  }
  // From where its piece began: the same sum wherever its way is cut between.
  c.travelled = c.laid_at + c.piece.length(c.laid, time);
  c.time = time;
}

Flyer flyer_of(const ShotDelivery& shot, const Course& course, const Vec3& up) {
  // A ball is what a radius says, which is exact.
  const auto* ball = shot.shape ? std::get_if<Ball>(&*shot.shape) : nullptr;
  if (ball != nullptr && ball->center == Vec3{})
    return {ball->radius, nullptr, up, course.left, course.heading};
  return {shot.radius, shot.shape ? &*shot.shape : nullptr, up, course.left, course.heading};
}

Event next_event(const Flight& flight, const Launched& launched, const Surroundings& around, double until,
                 std::vector<Piece>* trace, double past) {
  const Stage& stage = launched.stage(flight.stage);
  const Law& law = stage.law;
  if (flight.stuck.yes) return carried(flight, around, until, trace);
  Event event;
  Course& c = event.course = flight.course;
  catch_up(c, around.from);
  if (is_outdated(c, around.motions)) c.piece.end = c.time;
  const std::size_t traced = trace != nullptr ? trace->size() : 0;
  const auto fly_to = [&](double time) {
    if (!(time > c.time)) return;
    if (trace != nullptr) trace->push_back(c.piece.part(c.time, time));
    catch_up(c, time);
  };
  const auto comes = [&](Event::Kind kind, double time) {
    fly_to(time);
    event.kind = kind, event.time = time;
    return event;
  };
  // A little past the window's end: an instant that begins in it is decided whole.
  const double last = until + past;
  for (;;) {
    if (law.follows_target && !c.target.empty() && c.time >= c.target_lost)
      return comes(Event::Kind::lost, c.time);
    if (c.time >= c.piece.end) {
      const Milestone milestone = next_piece(c, stage.shot->path, around.motions);
      if (milestone != Milestone::none) return comes(event_of(milestone), c.time);
    }
    if (law.follows_target && c.piece.end > c.target_lost && c.time < c.target_lost)
      c.piece.end = c.target_lost;
    c.rising = c.rising || dot(c.velocity(), around.arena.up()) > kStill;
    const double look = next_look(c, law);
    double stop = std::min({c.piece.end, last, look, std::max(flight.ends, c.time) + kInstant});
    // A little past the piece, too: what comes in one instant is compared whatever rounding makes of its end.
    const Due due = limits(flight, launched, around, c, std::min(stop + kInstant, last));
    stop = std::min(stop, due.time + kInstant);
    if (const auto first = first_touched(Search(flight, launched, around, c), c, stop)) {
      event.touched = first->touched, event.sought_from = first->sought_from;
      return comes(Event::Kind::contact, first->touched.time);
    }
    if (due.kind != Event::Kind::none) {
      fly_to(due.time);
      const Event::Kind kind = sooner_on_its_path(c, due.kind, stage.shot->path, around.motions);
      return comes(kind, std::max(due.time, c.time));
    }
    if (stop == last) break;
    fly_to(stop);
    if (stop == look) {
      ++c.looks;
      if (hidden(flight, launched, around, c)) c.target_lost = c.time;
    }
  }
  if (c.time > until && past > 0) {
    // Nothing comes in the instant that it was followed into.
    if (trace != nullptr) trace->resize(traced);
    return next_event(flight, launched, around, until, trace, 0);
  }
  return comes(Event::Kind::none, until);
}

void let_go_on(const Flight& flight, const Launched& launched, const Surroundings& around,
               const std::vector<Piece>& way, Memory& memory) {
  memory.each(flight.met, [&](Met& met) {
    // What is gone is passed for good.
    if (!met.passing || (!met.body.empty() && !around.arena.has(met.body)) ||
        (!met.wall.empty() && !around.arena.wall_table().has(met.wall)))
      return;
    for (const Piece& p : way) {
      Course there = flight.course;
      there.piece = p;
      if (!Search(flight, launched, around, there).lets_go(met, p.start, p.end)) continue;
      met.passing = false;
      break;
    }
  });
}

std::optional<Touched> touched_now(const Flight& flight, const Launched& launched, const Surroundings& around,
                                   double sought_from) {
  const Course& c = flight.course;
  std::optional<Touched> found;
  Search(flight, launched, around, c).run(sought_from, c.time + kInstant, [&](const Touched& t) {
    found = t;
  });
  return found;
}

void touching(const Flight& flight, const Launched& launched, const Surroundings& around,
              const Touched& first, double sought_from, std::vector<Touched>& out) {
  out.assign(1, first);
  const Course& c = flight.course;
  Search(flight, launched, around, c).run(sought_from, c.time + kInstant, [&](const Touched& t) {
    const bool twice = std::any_of(out.begin(), out.end(),
                                   [&](const Touched& o) { return o.body == t.body && o.wall == t.wall; });
    if (!twice) out.push_back(t);
  });
  const auto place = [&](const Touched& t) { return place_in_set(around.arena, t.body, t.wall); };
  std::sort(out.begin(), out.end(), [&](const Touched& a, const Touched& b) { return place(a) < place(b); });
}

Contact surface_contact(const Flyer& flyer, const Course& course, const Arena& arena, WallPartId wall) {
  if (!wall.empty()) {
    const WallTable& walls = arena.wall_table();
    return contact_at(flyer, course.piece, course.time, walls.shape(wall),
                      walls.leg(walls.wall_of(wall), course.time));
  }
  const Vec3 place = course.place(), &up = arena.ground_normal();
  const double over = flyer.shape != nullptr ? 0 : std::max(0.0, dot(place, up) - *arena.ground());
  return {over, place, up};
}

}  // namespace dardo::detail
