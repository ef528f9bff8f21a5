// Bodies that the machine carries: how a dash begins and ends, and who has to be asked anew because of it.
#include <algorithm>

#include "resolve/carriers/lasting/dash.hpp"
#include "resolve/carriers/lasting/extent.hpp"
#include "resolve/machine/machine.hpp"

namespace dardo::detail {

/// Where it takes its body; why it does not begin, if it does not.
std::optional<Ended> Machine::set_out(const Act& act, const Moment& moment, Lasting& l, Blocker& by) const {
  const auto& dash = std::get<DashDelivery>(act.attack.delivery);
  l.on = act.launch.by;
  l.stood = moment.pose(l.on), l.origin = l.stood.at;
  // Who has fallen by then does not go anywhere.
  if (!motions_.stands(l.on)) return by.body = l.on, Ended::no_way;
  if (dash.beside && !arena_->has(l.target)) return Ended::no_target;
  DashWay way = dash_way(act, moment, l.target);
  l.away = way.away, by = way.by;
  if (way.reason == Reason::no_way) return Ended::no_way;
  if (way.reason != Reason::none) return Ended::out_of_reach;
  l.way = std::move(way.legs);
  return std::nullopt;
}

/// From now on its body goes along its way. Another dash of that body is over.
void Machine::begin_dash(LastingSlot slot, Listener& listener) {
  const BodyId body = lastings_[slot].lasting.on;
  const double time = lastings_[slot].lasting.began;
  std::optional<LastingSlot> before;
  lastings_.each([&](LastingSlot other, Stay& s) {
    if (!(other == slot) && s.lasting.on == body && !s.lasting.way.empty()) before = other;
  });
  if (before) {
    Lasting& l = lastings_[*before].lasting;
    l.time = std::max(l.time, time), l.stood = motions_.leg(body, l.time).at(l.time);
    end(*before, Ended::moved, {}, listener);
  }
  carry(lastings_[slot].lasting, lastings_[slot].lasting.way, listener);
}

void Machine::carry(const Lasting& l, const std::vector<Leg>& way, Listener& listener) {
  const auto same = [&](const Carried& c) { return c.body == l.on; };
  auto at = std::find_if(carried_.begin(), carried_.end(), same);
  if (at == carried_.end()) at = carried_.insert(at, {l.on, {}, 0});
  at->turn_to(way), at->launch = launches_[l.launch].number;
  motions_.carry(&carried_);
  ask_anew(l.on, way.front().start, listener);
}

/// One that ends before it lands stays where it is by then.
void Machine::stop_carrying(const Lasting& l, Listener& listener) {
  if (!(l.time < l.way.back().start) || !arena_->has(l.on)) return;
  carry(l, {Leg{l.time, std::numeric_limits<double>::infinity(), motions_.leg(l.on, l.time).at(l.time), {}}},
        listener);
}

/// What has flown on to the end of the window can go back to where it was asked.
void Machine::keep_undo(ShotSlot slot) {
  Undo& u = undo_[slot.at];
  const Flight& f = shots_[slot].flight;
  u.window = window_, u.course = f.course;
  u.passing.clear();
  memory_.each(f.met, [&](const Met& m) {
    if (m.passing) u.passing.emplace_back(m.body, m.wall);
  });
}

void Machine::make_room_for_undo() {
  if (keeps_undo() && undo_.size() < shots_.places()) undo_.resize(shots_.places());
}

/// What has flown past a time goes back to where it was asked; false when it has not.
bool Machine::fly_back(ShotSlot slot, double time, Listener& listener) {
  Flight& f = shots_[slot].flight;
  const Undo* undo = slot.at < undo_.size() && undo_[slot.at].window == window_ ? &undo_[slot.at] : nullptr;
  if (!(f.course.time > time) || undo == nullptr || !(undo->course.time < f.course.time)) return false;
  f.course = undo->course;
  memory_.each(f.met, [&](Met& m) {
    const auto& passing = undo->passing;
    m.passing =
        m.passing || std::find(passing.begin(), passing.end(), std::pair(m.body, m.wall)) != passing.end();
  });
  if (keep_ways_) listener.on_back(f, f.course.time);
  return true;
}

/// From a time on a body goes another way than was known: all that comes in this window is sought anew.
void Machine::ask_anew(BodyId body, double time, Listener& listener) {
  shots_.each([&](ShotSlot slot, Shot& s) {
    Flight& f = s.flight;
    fly_back(slot, time, listener);
    // What relies on how it moves is known up to now.
    const bool relies = f.stuck.in.body == body ||
                        (f.course.target == body && stage_of(f).law.follows_target) ||
                        (f.course.thrower == body && f.course.coming_back);
    if (relies && !f.course.free)
      f.course.piece.end = std::min(f.course.piece.end, std::max(f.course.time, time));
    looks_.anew(slot);
  });
  shots_.each([&](ShotSlot slot, Shot& s) {
    if (s.flight.course.time <= until_) propose(slot, listener);
  });
  lastings_.each([&](LastingSlot slot, Stay&) { gather(slot); });
}

/// The game has put a body elsewhere.
void Machine::end_dash_of(BodyId body, double time, Listener& listener) {
  std::optional<LastingSlot> slot;
  lastings_.each([&](LastingSlot other, Stay& s) {
    if (s.lasting.on == body && !s.lasting.way.empty()) slot = other;
  });
  if (!slot) return;
  Lasting& l = lastings_[*slot].lasting;
  l.time = time;
  std::erase_if(carried_, [&](const Carried& c) { return c.body == body; });
  motions_.carry(carried_.empty() ? nullptr : &carried_);
  look_anew();
  if (motions_.stands(body)) l.stood = motions_.leg(body, time).at(time);
  l.way.back().start = time;
  begin_window(time, time);
  end(*slot, Ended::moved, {}, listener);
  begin_starts(listener);
}

/// Those who have landed are where the game puts them from now on.
void Machine::settle() {
  if (carried_.empty()) return;
  look_anew();
  carry_again();
}

/// Those of the dashes that are under way.
void Machine::carry_again() {
  carried_.clear();
  lastings_.each([&](LastingSlot, const Stay& s) {
    if (!s.lasting.way.empty())
      carried_.push_back({s.lasting.on, s.lasting.way, launches_[s.lasting.launch].number});
  });
  motions_.carry(carried_.empty() ? nullptr : &carried_);
}

}  // namespace dardo::detail
