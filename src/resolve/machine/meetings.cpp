// Shots that are shot down: how flights meet flights.
#include <algorithm>

#include "geometry/detail/tolerance.hpp"
#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/rules/order.hpp"

namespace dardo::detail {
namespace {

bool before(ShotSlot a, ShotSlot b) { return a.at < b.at; }

}  // namespace

/// Those who may shoot down or be shot down, and fly on through the window for all that a look tells, are put
/// into the tree; and asked, too, where they may meet one another.
void Machine::watch() {
  if (!roster_.any()) return;
  const Surroundings here = around();
  boxes_.begin(shots_.places());
  const auto flies_on = [&](ShotSlot slot) { return looks_first() && looks_.may_tell(slot, here); };
  const auto may_of = [&](ShotSlot slot) {
    const Looks::First& first = looks_.first(slot);
    return shots_.has(slot) ? roster_.may(first.row, first.stage) : Roster::May{};
  };
  const bool instant = !(from_ < until_);
  std::size_t next_due = 0;
  for (ShotSlot slot; slot.at < shots_.places(); ++slot.at) {
    const bool due = !instant && next_due < due_.size() && due_[next_due].at == slot.at;
    if (due) ++next_due;
    const Roster::May may = may_of(slot);
    if (due || !may.either()) continue;
    Bounds box;
    if (flies_on(slot)) {
      box = looks_.way_box(slot, here);
    } else {
      box.add(shots_[slot].flight.course.place());
    }
    boxes_.put(slot, box.grown(may.radius));
  }
  boxes_.finish();
  if (instant) return;
  const auto count = static_cast<std::ptrdiff_t>(due_.size());
  for (ShotSlot slot; slot.at < shots_.places(); ++slot.at) {
    if (!may_of(slot).strike || std::binary_search(due_.begin(), due_.begin() + count, slot, before))
      continue;
    boxes_.touching(boxes_.box(slot), [&](ShotSlot other) {
      const Roster::May may = may_of(other);
      if (other == slot || !may.be_struck) return;
      if (flies_on(other) && !looks_.may_meet(slot, other, may.radius, here)) return;
      due_.push_back(slot), due_.push_back(other);
    });
  }
}

double Machine::vulnerable_radius(ShotSlot slot) const {
  return stage_of(shots_[slot].flight).shot->vulnerable;
}

/// Whether an attack strikes shots such as this one: the same gates as for bodies, with the relation to
/// whoever has sent it off, and the tags of its attack.
bool Machine::may_down(LaunchSlot launch, std::uint32_t stage, ShotSlot victim) const {
  const Flight& v = shots_[victim].flight;
  if (!shots_.has(victim) || v.launch == launch || !(vulnerable_radius(victim) > 0)) return false;
  const Launched &mine = launches_[launch], &theirs = launches_[v.launch];
  const Stage& what = mine.stage(stage);
  if (what.lasting) return false;  // what lasts strikes no shots
  const Relation relation = mine.launch.by == theirs.launch.by && !mine.launch.by.empty()
                                ? Relation::self
                                : arena_->relation(mine.faction, theirs.faction);
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

/// A flight's way is new: where it meets others. Those who have not been asked yet are first.
void Machine::watch_way(ShotSlot slot) {
  Shot& s = shots_[slot];
  if (s.asked != window_) watched_.push_back(slot);
  s.asked = window_;
  const Roster::May may_it = may(s.flight);
  const double room =
      std::max(may_it.radius, flyer_of(*stage_of(s.flight).shot, s.flight.course, arena_->upright()).reach());
  Bounds box;
  for (const Piece& p : s.way) box.add(p.bounds(p.start, p.end));
  if (s.way.empty()) box.add(s.flight.course.place());
  box = box.grown(room + slack(std::max(largest(box.low), largest(box.high))));
  boxes_.set(slot, box);
  boxes_.touching(box, [&](ShotSlot other) {
    if (other == slot) return;
    if (shots_[other].asked != window_) {
      const Flight &mine = s.flight, &theirs = shots_[other].flight;
      if (may_down(mine.launch, mine.stage, other) || may_down(theirs.launch, theirs.stage, slot))
        partners_.push_back(other);
      return;
    }
    meet_shot(slot, other);
    meet_shot(other, slot);
  });
}

void Machine::meet_shot(ShotSlot striker, ShotSlot victim) {
  const Flight& f = shots_[striker].flight;
  if (!may_down(f.launch, f.stage, victim)) return;
  const Attack& attack = *stage_of(f).attack;
  const Flyer flyer = flyer_of(std::get<ShotDelivery>(attack.delivery), f.course, arena_->upright());
  const double radius = vulnerable_radius(victim), room = flyer.reach() + radius;
  const auto &mine = shots_[striker].way, &theirs = shots_[victim].way;
  if (mine.empty() || theirs.empty()) return;
  // What flies on quietly is known at an earlier time than its way in this window.
  Course begun = shots_[striker].before;
  catch_up(begun, mine.front().start);
  double travelled = begun.travelled;
  const double scale = largest(begun.origin);
  for (std::size_t i = 0, k = 0; i < mine.size() && k < theirs.size();) {
    const Piece &a = mine[i], &b = theirs[k];
    double from = std::max(a.start, b.start);
    const double to = std::min(a.end, b.end);
    // From where it may strike on, also what it touches then.
    const auto far = [&](double t) {
      return at_least(travelled + a.length(a.start, t), attack.reach.near, scale);
    };
    const bool comes = from <= to && far(to);
    if (comes && !far(from)) from = first_time(far, from, to);
    if (comes && overlaps(a.bounds(from, to).grown(room + slack(largest(a.at))), b.bounds(from, to))) {
      if (const auto t = touch_shot(flyer, a, b, radius, from, to)) {
        queue_.push({*t, launches_[f.launch].number, f.number, striker, shots_[striker].version, victim,
                     shots_[victim].version, launched_of(shots_[victim].flight).number,
                     shots_[victim].flight.number});
        return;
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
void Machine::bring_to(ShotSlot slot, double time, Listener& listener) {
  Flight flight = shots_[slot].flight;
  // One that has just set off does not know yet where its law takes it.
  if (flight.course.time == time && flight.course.piece.end > time) return;
  if (shots_[slot].asked == window_) {
    flight.course = shots_[slot].before;
    memory_.each(flight.met, [&](Met& m) {
      const auto& gone = shots_[slot].let_go;
      m.passing = m.passing || std::find(gone.begin(), gone.end(), std::pair(m.body, m.wall)) != gone.end();
    });
  }
  shots_[slot].way.clear();
  const Event there = next_event(flight, launches_[flight.launch], around(), time, &shots_[slot].way, 0);
  shots_[slot].flight.course = there.course;
  let_go_on(shots_[slot].flight, launched_of(flight), around(), shots_[slot].way, memory_);
  if (keep_ways_) listener.on_way(shots_[slot].flight, shots_[slot].way);
  shots_[slot].way.clear();
}

void Machine::down(ShotSlot victim, const Downed& told, const Blocker& by, Listener& listener) {
  bring_to(victim, told.time_s, listener);
  listener.on_down(told);
  end(victim, Ended::shot_down, by, listener);
}

void Machine::decide_meeting(const Next& next, Listener& listener) {
  const ShotSlot slot = next.shot;
  bring_to(slot, next.time, listener);
  Flight& f = shots_[slot].flight;
  const Leaving here = leaving_of(f);
  const Cause cause{f.cause, chance_key(f.key, Then::When::strike, shots_[next.victim].flight.key, 0)};
  const Vec3 at = f.course.place();
  const Flight& v = shots_[next.victim].flight;
  const Launched &mine = launches_[f.launch], &theirs = launches_[v.launch];
  Blocker striker, struck;
  striker.body = mine.launch.by, struck.body = theirs.launch.by;
  striker.shot = struck.shot = true;
  ++f.strikes;
  const std::uint32_t most = stage_of(f).shot->pierce.bodies;
  Vec3 point = at;
  for (const Piece& p : shots_[next.victim].way) {
    if (p.start <= next.time && next.time <= p.end) point = p.place(next.time);
  }
  const Downed told{theirs.number, v.number, theirs.launch.by, next.time,
                    point,         f.stage,  f.cause,          mine.number};
  down(next.victim, told, striker, listener);
  follow(here, Then::When::strike, point, cause);
  if (shots_.has(slot)) {
    if (shots_[slot].flight.strikes >= most) {
      end(slot, Ended::strike, struck, listener);
    } else {
      propose(slot, listener);
    }
  }
}

std::vector<Machine::Reached> Machine::shots_reached(
    const Start& start, const Bounds& around, bool first_only,
    const std::function<std::optional<double>(const Ball&)>& reaches) const {
  std::vector<Reached> found;
  const double time = start.time;
  boxes_.touching(around, [&](ShotSlot slot) {
    const Shot& s = shots_[slot];
    const Flight& f = s.flight;
    // Of a volley some may not be off yet.
    if (!may_down(start.launch, start.stage, slot) || f.course.born > time) return;
    Vec3 place = f.course.time < time ? f.course.piece.place(time) : f.course.place();
    for (const Piece& p : s.way) {
      if (p.start <= time && time <= p.end) place = p.place(time);
    }
    if (const auto distance = reaches(Ball{place, vulnerable_radius(slot)}))
      found.push_back({*distance, launched_of(f).number, f.number, slot, place});
  });
  std::sort(found.begin(), found.end(), [](const Reached& a, const Reached& b) {
    return place_at(a.distance, a.launch, a.number) < place_at(b.distance, b.launch, b.number);
  });
  if (first_only && found.size() > 1) found.resize(1);
  return found;
}

void Machine::instant_downs(const Start& start, const std::vector<Reached>& found, Listener& listener) {
  // The game may start launches when it hears of it: the table may move.
  const std::uint32_t mine = launches_[start.launch].number;
  Blocker by;
  by.body = launches_[start.launch].launch.by;
  for (const Reached& f : found) {
    if (!shots_.has(f.shot)) continue;
    down(f.shot,
         {f.launch, f.number, thrower_of(f.shot), start.time, f.place, start.stage, start.cause.strike, mine},
         by, listener);
  }
}

}  // namespace dardo::detail
