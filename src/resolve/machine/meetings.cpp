// Shots that are shot down: how flights meet flights.
#include <algorithm>
#include <tuple>

#include "geometry/detail/tolerance.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {

void Machine::watch(const Prepared& attack) {
  for (std::uint32_t stage = 0; stage < attack.size() && !watches_shots_; ++stage) {
    const ShotDelivery* shot = attack.stage(stage).shot;
    watches_shots_ = shot != nullptr && shot->vulnerable > 0;
  }
}

double Machine::vulnerable_radius(std::uint32_t slot) const {
  return stage_of(flights_[slot]).shot->vulnerable;
}

/// Whether an attack strikes shots such as this one: the same gates as for bodies, with the relation to
/// whoever has sent it off, and the tags of its attack.
bool Machine::may_down(std::uint32_t launch, std::uint32_t stage, std::uint32_t victim) const {
  const Flight& v = flights_[victim];
  if (!v.alive || v.launch == launch || !(vulnerable_radius(victim) > 0)) return false;
  const Launched &mine = launches_[launch], &theirs = launches_[v.launch];
  const Stage& what = mine.stage(stage);
  const Relation relation =
      mine.launch.by == theirs.launch.by ? Relation::self : arena_->relation(mine.faction, theirs.faction);
  if (!what.attack->who.has(relation)) return false;
  const NamedWords& tags = stage_of(v).tags;
  // Words that no body has stand apart, as text.
  const auto tagged = [&](std::string_view tag) {
    return std::find(tags.unknown.begin(), tags.unknown.end(), tag) != tags.unknown.end();
  };
  return tags.known.has_all(what.needs.known) && !tags.known.has_any(what.forbids.known) &&
         std::all_of(what.needs.unknown.begin(), what.needs.unknown.end(), tagged) &&
         std::none_of(what.forbids.unknown.begin(), what.forbids.unknown.end(), tagged);
}

/// Looks for meetings of a flight, whose way is new, with all others.
void Machine::meet_shots(std::uint32_t slot) {
  for (std::uint32_t other = 0; other < flights_.size(); ++other) {
    if (other == slot || !flights_[other].alive || ways_[other].empty()) continue;
    meet_shot(slot, other);
    meet_shot(other, slot);
  }
}

void Machine::meet_shot(std::uint32_t striker, std::uint32_t victim) {
  const Flight& f = flights_[striker];
  if (!may_down(f.launch, f.stage, victim)) return;
  const Attack& attack = *stage_of(f).attack;
  const Flyer flyer = flyer_of(std::get<ShotDelivery>(attack.delivery), f.course, arena_->up());
  const double radius = vulnerable_radius(victim), room = flyer.reach() + radius;
  double travelled = befores_[striker].travelled;
  const auto &mine = ways_[striker], &theirs = ways_[victim];
  for (std::size_t i = 0, k = 0; i < mine.size() && k < theirs.size();) {
    const Piece &a = mine[i], &b = theirs[k];
    const double from = std::max(a.start, b.start), to = std::min(a.end, b.end);
    if (from <= to && overlaps(a.bounds(from, to).grown(room + slack(largest(a.at))), b.bounds(from, to))) {
      if (const auto t = touch_shot(flyer, a, b, radius, from, to)) {
        const double flown = travelled + a.length(a.start, *t);
        if (at_least(flown, attack.reach.near, largest(befores_[striker].origin))) {
          queue_.push_back({*t, launches_[f.launch].number, f.number, striker, versions_[striker], victim,
                            versions_[victim]});
          std::push_heap(queue_.begin(), queue_.end());
          return;
        }
      }
    }
    if (a.end <= b.end) {
      travelled += a.length(a.start, a.end);
      ++i;
    } else {
      ++k;
    }
  }
}

/// Flies a shot on to a time before its next event.
void Machine::bring_to(std::uint32_t slot, double time, Listener& listener) {
  Flight flight = flights_[slot];
  if (flight.course.time == time) return;
  flight.course = befores_[slot];
  ways_[slot].clear();
  const Event there = next_event(flight, launches_[flight.launch], around(), time, &ways_[slot], 0);
  flights_[slot].course = there.course;
  let_go_on(flights_[slot], launches_[flight.launch], around(), ways_[slot]);
  if (keep_ways_) listener.on_way(flights_[slot], ways_[slot]);
  ways_[slot].clear();
}

void Machine::down(std::uint32_t victim, const Downed& told, const Blocker& by, Listener& listener) {
  bring_to(victim, told.time_s, listener);
  listener.on_down(told);
  end(victim, Ended::shot_down, by, listener);
}

void Machine::decide_meeting(const Next& next, Listener& listener) {
  const std::uint32_t slot = next.slot;
  bring_to(slot, next.time, listener);
  Flight& f = flights_[slot];
  const Departure here = departure_of(f);
  const Cause cause{f.cause, chance_key(f.key, Then::When::strike, flights_[next.victim].key, 0)};
  const Vec3 at = f.course.place();
  const Flight& v = flights_[next.victim];
  const Launched &mine = launches_[f.launch], &theirs = launches_[v.launch];
  Blocker striker, struck;
  striker.body = mine.launch.by, struck.body = theirs.launch.by;
  striker.shot = struck.shot = true;
  ++f.strikes;
  const std::uint32_t most = stage_of(f).shot->pierce.bodies;
  Vec3 point = at;
  for (const Piece& p : ways_[next.victim]) {
    if (p.start <= next.time && next.time <= p.end) point = p.place(next.time);
  }
  const Downed told{theirs.number, v.number, theirs.launch.by, next.time,
                    point,         f.stage,  f.cause,          mine.number};
  down(next.victim, told, striker, listener);
  follow(here, Then::When::strike, point, cause);
  if (flights_[slot].alive) {
    if (flights_[slot].strikes >= most) {
      end(slot, Ended::strike, struck, listener);
    } else {
      propose(slot, listener);
    }
  }
}

std::vector<Machine::Reached> Machine::shots_reached(
    std::uint32_t launch, std::uint32_t stage, double time, bool first_only,
    const std::function<std::optional<double>(const Ball&)>& reaches) const {
  std::vector<Reached> found;
  for (std::uint32_t slot = 0; slot < flights_.size(); ++slot) {
    const Flight& f = flights_[slot];
    if (!may_down(launch, stage, slot) || (ways_[slot].empty() && f.course.time > time)) continue;
    Vec3 place = f.course.place();
    for (const Piece& p : ways_[slot]) {
      if (p.start <= time && time <= p.end) place = p.place(time);
    }
    if (const auto distance = reaches(Ball{place, vulnerable_radius(slot)}))
      found.push_back({*distance, launches_[f.launch].number, f.number, slot, place});
  }
  std::sort(found.begin(), found.end(), [](const Reached& a, const Reached& b) {
    return place_at(a.distance, a.launch, a.number) < place_at(b.distance, b.launch, b.number);
  });
  if (first_only && found.size() > 1) found.resize(1);
  return found;
}

void Machine::instant_downs(std::uint32_t launch, std::uint32_t stage, double time, std::uint32_t cause,
                            const std::vector<Reached>& found, Listener& listener) {
  Blocker by;
  by.body = launches_[launch].launch.by;
  for (const Reached& f : found) {
    if (!flights_[f.slot].alive) continue;
    const Launched& theirs = launches_[flights_[f.slot].launch];
    down(f.slot,
         {f.launch, f.number, theirs.launch.by, time, f.place, stage, cause, launches_[launch].number}, by,
         listener);
  }
}

}  // namespace dardo::detail
