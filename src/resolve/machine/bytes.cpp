// The machine's state as bytes, and back.
#include <algorithm>

#include "dardo/attack/rows.hpp"
#include "resolve/machine/bytes.hpp"
#include "resolve/machine/machine.hpp"

namespace dardo::detail {
namespace {

// No state that the machine comes to by itself goes beyond these.
constexpr double kMostPlace = 1e10, kMostSpeed = 1e10, kMostBend = 1e16, kMostJerk = 1e25, kMostTime = 1e10;

template <class E>
E enum_of(const FlagSet<E>&);

/// Data that has rows, as it stands; whether it means anything is for its checks to say.
template <class Bytes, class T>
void by_rows(Bytes& b, T& v) {
  constexpr double kMost = std::numeric_limits<double>::max();
  if constexpr (std::is_same_v<T, double>) {
    b.number(v, kMost);
  } else if constexpr (std::is_same_v<T, bool>) {
    b.flag(v);
  } else if constexpr (std::is_same_v<T, std::string>) {
    b.text(v);
  } else if constexpr (std::is_same_v<T, Vec3>) {
    fields(b, v, kMost);
  } else if constexpr (HasWords<T>) {
    b.word(v, Words<T>::all.back().value);
  } else if constexpr (kIsOptional<T>) {
    bool there = v.has_value();
    b.flag(there);
    if (!there) return v.reset();
    by_rows(b, v ? *v : v.emplace());
  } else if constexpr (kIsVariant<T>) {
    auto kind = static_cast<std::uint32_t>(v.index());
    b.index(kind, std::variant_size_v<T>);
    std::uint32_t number = 0;
    each_row<T>([&](const auto& k) {
      using Kind = typename std::remove_cvref_t<decltype(k)>::type;
      if (number++ == kind && v.index() != kind) v = Kind{};
    });
    std::visit([&](auto& one) { by_rows(b, one); }, v);
  } else if constexpr (requires { v.push_back(v[0]); }) {
    v.resize(b.count(v.size()));
    for (auto& item : v) by_rows(b, item);
  } else if constexpr (HasRows<T>) {
    each_row<T>([&](const auto& r) { by_rows(b, v.*r.member); });
  } else {  // a set of words
    using Enum = decltype(enum_of(v));
    T read;
    for (const auto& w : Words<Enum>::all) {
      bool has = v.has(w.value);
      b.flag(has);
      if (has) read.add(w.value);
    }
    v = read;
  }
}

template <class Bytes>
void fields(Bytes& b, Pose& pose) {
  for (Vec3* v : {&pose.at, &pose.turn.x, &pose.turn.y, &pose.turn.z}) fields(b, *v, kMaxCoordinate);
}

template <class Bytes>
void fields(Bytes& b, Piece& p) {
  b.endless(p.start), b.endless(p.end);
  fields(b, p.at, kMostPlace), fields(b, p.velocity, kMostSpeed), fields(b, p.acceleration, kMostBend),
      fields(b, p.jerk, kMostJerk), b.number(p.pace, kMostSpeed);
}

template <class Bytes>
void fields(Bytes& b, Course& c, const Arena& arena) {
  b.number(c.time, kMostTime), b.number(c.travelled, 1e15);
  fields(b, c.piece);
  b.number(c.born, kMostTime);
  for (Vec3* place : {&c.origin, &c.aim, &c.turned_at, &c.home}) fields(b, *place, kMostPlace);
  fields(b, c.heading, 1.001), fields(b, c.left, 1.001);
  b.number(c.parameter, 2), b.whole(c.part), b.endless(c.arrives), b.number(c.drop, kMostBend),
      b.endless(c.target_lost);
  b.whole(c.looks);
  b.id(c.target, arena.slots()), b.id(c.thrower, arena.slots()), b.id(c.stood, arena.slots());
  fields(b, c.stood_at, kMostPlace);
  b.number(c.speed, kMostSpeed), b.number(c.step, kMostTime);
  b.flag(c.coming_back), b.flag(c.climbed), b.flag(c.free), b.flag(c.rising);
}

template <class Bytes>
void fields(Bytes& b, Met& m, const Arena& arena) {
  b.id(m.body, arena.slots()), b.id(m.wall, arena.wall_table().part_slots());
  b.whole(m.times), b.endless(m.time), fields(b, m.normal, 1.001), b.flag(m.struck), b.flag(m.passing);
}

template <class Bytes>
void fields(Bytes& b, Flight& f, const Arena& arena) {
  b.whole(f.launch.at);
  b.whole(f.stage), b.whole(f.number), b.whole(f.cause), b.whole(f.strikes), b.whole(f.turns), b.whole(f.key),
      b.whole(f.at_once);
  b.number(f.through, 1e30), b.number(f.ends, kMostTime), b.number(f.lately, kMostTime);
  b.flag(f.apex_passed), b.flag(f.near_passed), b.flag(f.stuck.yes), b.flag(f.stuck.in.shot);
  b.id(f.stuck.in.wall, arena.wall_table().slots()), b.id(f.stuck.in.body, arena.slots());
  fields(b, f.stuck.at, kMostPlace), b.flag(f.stuck.carried);
  fields(b, f.course, arena);
}

/// Everything of a launch but its attack.
template <class Bytes>
void fields(Bytes& b, Launched& l, const Arena& arena) {
  constexpr double kAny = std::numeric_limits<double>::max();
  Launch& launch = l.launch;
  b.whole(l.number), b.whole(l.flights), b.whole(l.strikes), b.whole(l.alive);
  b.whole(l.carriers), b.whole(l.contacts), b.whole(l.limits_met);
  b.id(l.faction, arena.factions().size());
  b.id(launch.by, arena.slots());
  b.whole(launch.seed), b.word(launch.aim, Aiming::high);
  b.text(launch.muzzle);
  b.number(launch.at_s, kMostTime);
  bool by_nobody = launch.from.has_value(), leaves = launch.leaving.has_value();
  b.flag(by_nobody), b.flag(leaves);
  if (by_nobody) {
    if (!launch.from) launch.from.emplace();
    fields(b, launch.from->pose), b.id(launch.from->faction, arena.factions().size());
  }
  if (leaves) fields(b, launch.leaving ? *launch.leaving : launch.leaving.emplace(), kAny);
  auto kind = static_cast<std::uint32_t>(launch.toward.index());
  b.index(kind, std::variant_size_v<Toward::variant>);
  if constexpr (std::is_same_v<Bytes, BytesIn>) {
    if (kind == 1) launch.toward = AtBody{};
    if (kind == 2) launch.toward = AtPlace{};
    if (kind == 3) launch.toward = AlongDirection{};
    if (kind == 4) launch.toward = AtChoice{};
  }
  if (auto* at = std::get_if<AtBody>(&launch.toward))
    b.id(at->body, arena.slots()), b.text(at->zone), b.text(at->point);
  if (auto* at = std::get_if<AtPlace>(&launch.toward)) fields(b, at->place, kAny);
  if (auto* along = std::get_if<AlongDirection>(&launch.toward)) fields(b, along->direction, kAny);
  if (auto* choice = std::get_if<AtChoice>(&launch.toward)) by_rows(b, *choice);
}

/// What begins later: launches themselves, and what follows.
template <class Bytes>
void fields(Bytes& b, Start& start, const Arena& arena) {
  b.whole(start.launch.at), b.whole(start.stage), b.number(start.time, kMostTime);
  b.flag(start.by_launch), b.flag(start.checked);
  fields(b, start.anchor.place, kMostPlace), fields(b, start.anchor.direction, 1.001);
  b.id(start.anchor.target, arena.slots()), b.id(start.target, arena.slots());
  fields(b, start.aim, kMostPlace);
  b.whole(start.cause.strike), b.whole(start.cause.key);
}

template <class Bytes>
void fields(Bytes& b, Guest& g, const Arena& arena) {
  b.id(g.body, arena.slots()), b.whole(g.times), b.number(g.since, kMostTime), b.number(g.asked, kMostTime);
  b.flag(g.inside), b.flag(g.counts), b.flag(g.was_asked);
}

template <class Bytes>
void fields(Bytes& b, Lasting& l, const Arena& arena) {
  b.whole(l.launch.at), b.whole(l.stage), b.whole(l.number), b.whole(l.cause), b.whole(l.key);
  b.number(l.began, kMostTime), b.number(l.time, kMostTime), b.number(l.rests, kMostTime);
  b.id(l.on, arena.slots()), b.id(l.target, arena.slots());
  for (Pose* pose : {&l.base, &l.stood}) {
    fields(b, pose->at, kMostPlace);
    for (Vec3* v : {&pose->turn.x, &pose->turn.y, &pose->turn.z}) fields(b, *v, 1.001);
  }
  fields(b, l.origin, kMostPlace);
  bool shell = l.shell.has_value();
  b.flag(shell);
  if (shell) b.whole(l.shell ? l.shell->at : l.shell.emplace().at);
  b.whole(l.strikes), b.whole(l.intervals);
  l.guests.resize(b.count(l.guests.size()));
  for (Guest& g : l.guests) fields(b, g, arena);
}

template <class Bytes>
void fields(Bytes& b, Limits& l) {
  b.whole(l.carriers), b.whole(l.alive), b.whole(l.strikes), b.whole(l.contacts), b.whole(l.depth);
  b.number(l.flight_s, kMostTime);
}

template <class Bytes>
void fields(Bytes& b, std::optional<Bounds>& bounds) {
  bool bounded = bounds.has_value();
  b.flag(bounded);
  if (!bounded) return bounds.reset();
  Bounds& box = bounds ? *bounds : bounds.emplace();
  for (double* v : {&box.low.x, &box.low.y, &box.low.z, &box.high.x, &box.high.y, &box.high.z}) b.endless(*v);
}

/// A flight is known up to the time of the state, or its piece is; or it is of a volley and not yet off.
bool stands_at(const Flight& f, double until) {
  constexpr double kRounding = 1e-6;
  const Course& c = f.course;
  return c.piece.start <= c.piece.end && c.time >= c.piece.start - kRounding &&
         c.time <= c.piece.end + kRounding &&
         (f.stuck.yes || std::max(c.time, c.piece.end) >= until - kRounding) && c.born <= c.time + kRounding;
}

/// What keeps to its course flies as fast as its attack says, but for its variation.
bool has_its_speed(const Flight& f, const Stage& stage) {
  const double stated = stage.law.speed;
  return f.course.free || stated == 0 || (f.course.speed > 0.001 * stated && f.course.speed < 2 * stated);
}

}  // namespace

void Machine::save(BytesOut& out, std::span<const std::shared_ptr<Prepared>> attacks) const {
  double until = until_;
  out.number(until, kMostTime);
  std::optional<Bounds> bounds = bounds_;
  fields(out, bounds);
  Limits limits = limits_;
  fields(out, limits);
  launches_.write(out, [&](LaunchSlot, const Launched& l) {
    auto which =
        static_cast<std::uint32_t>(std::find(attacks.begin(), attacks.end(), l.prepared) - attacks.begin());
    out.whole(which);
    Launched copy = l;
    fields(out, copy, *arena_);
  });
  shots_.write(out, [&](ShotSlot, const Shot& s) {
    Flight copy = s.flight;
    fields(out, copy, *arena_);
    std::size_t met = 0;
    memory_.each(copy.met, [&](const Met&) { ++met; });
    out.count(met);
    memory_.each(copy.met, [&](Met m) { fields(out, m, *arena_); });
  });
  lastings_.write(out, [&](LastingSlot, const Stay& s) {
    Lasting copy = s.lasting;
    fields(out, copy, *arena_);
  });
  out.count(waiting_.size());
  for (LaunchSlot launch : waiting_) out.whole(launch.at);
  out.count(later_.size());
  for (Start start : later_) fields(out, start, *arena_);
}

/// What is made of the launches and shots that were restored.
void Machine::begin_anew() {
  queue_.clear(), seekers_.clear(), looks_.clear(), looks_.fit(shots_.places());
  roster_.clear(), boxes_.clear(), watched_.clear(), partners_.clear();
  launches_.each([&](LaunchSlot, Launched& l) { l.row = roster_.add(*l.prepared, l.faction); });
  shots_.each([&](ShotSlot slot, const Shot& s) {
    looks_.add(slot);
    looks_.set(slot, s.flight, launched_of(s.flight), around());
    if (!s.flight.course.target.empty()) seekers_.add(slot);
  });
}

void Machine::restore_shots(BytesIn& in, double until, const Pool<Launched, LaunchSlot>& launches,
                            Pool<Shot, ShotSlot>& shots, Memory& memory,
                            std::vector<std::uint32_t>& alive) const {
  shots.read(in, [&](ShotSlot, Shot& s) {
    Flight& f = s.flight;
    fields(in, f, *arena_);
    for (std::uint32_t count = in.count(0); count > 0; --count) {
      Met met;
      fields(in, met, *arena_);
      memory.add(f.met, met);
    }
    if (!in.good()) return;
    in.require(launches.has(f.launch));
    if (!in.good()) return;
    const Launched& l = launches[f.launch];
    in.require(f.stage < l.prepared->size() && l.stage(f.stage).shot != nullptr &&
               f.course.thrower == l.launch.by && stands_at(f, until) && has_its_speed(f, l.stage(f.stage)) &&
               f.number < l.flights);
    ++alive[f.launch.at];
  });
}

void Machine::restore_lastings(BytesIn& in, double until, const Pool<Launched, LaunchSlot>& launches,
                               const Pool<Shot, ShotSlot>& shots, Pool<Stay, LastingSlot>& lastings,
                               std::vector<std::uint32_t>& alive) const {
  lastings.read(in, [&](LastingSlot, Stay& s) {
    Lasting& l = s.lasting;
    fields(in, l, *arena_);
    if (!in.good()) return;
    in.require(launches.has(l.launch));
    if (!in.good()) return;
    const Launched& launched = launches[l.launch];
    in.require(l.stage < launched.prepared->size() && launched.stage(l.stage).lasting &&
               l.began <= l.time + kInstant && l.time <= until + kInstant && l.number < launched.flights);
    const auto in_order = [](const Guest& a, const Guest& b) { return a.body.index < b.body.index; };
    for (std::size_t i = 0; i < l.guests.size() && in.good(); ++i)
      in.require(!l.guests[i].body.empty() && (i == 0 || in_order(l.guests[i - 1], l.guests[i])));
    if (!in.good()) return;
    const LastingPlan& plan = *launched.stage(l.stage).lasting;
    in.require(l.shell.has_value() == (plan.vulnerable > 0));
    if (l.shell) {
      in.require(shots.has(*l.shell));
      if (!in.good()) return;
      const Flight& f = shots[*l.shell].flight;
      in.require(f.stuck.yes && f.launch == l.launch && f.stage == l.stage);
    }
    in.require(l.began + plan.to_s >= until - kInstant);
    ++alive[l.launch.at];
  });
}

bool Machine::restore(BytesIn& in, std::span<const std::shared_ptr<Prepared>> attacks) {
  double until = 0;
  in.number(until, kMostTime);
  std::optional<Bounds> bounds;
  fields(in, bounds);
  Limits limits;
  fields(in, limits);
  if (!in.good() || !check(limits).empty()) return false;
  Pool<Launched, LaunchSlot> launches;
  launches.read(in, [&](LaunchSlot, Launched& l) {
    std::uint32_t which = 0;
    in.index(which, attacks.size());
    if (!in.good()) return;
    l.prepared = attacks[which];
    fields(in, l, *arena_);
    in.require(l.launch.by.empty() == l.launch.from.has_value() && !l.faction.empty() &&
               (!l.launch.from || check(l.launch.from->pose).empty()));
  });
  Pool<Shot, ShotSlot> shots;
  Memory memory;
  std::vector<std::uint32_t> alive(launches.places());
  restore_shots(in, until, launches, shots, memory, alive);
  Pool<Stay, LastingSlot> lastings;
  restore_lastings(in, until, launches, shots, lastings, alive);
  std::vector<bool> waits(launches.places());
  const auto take = [&](LaunchSlot launch) {
    in.require(launches.has(launch) && !waits[launch.at]);
    if (in.good()) waits[launch.at] = true;
    return in.good();
  };
  std::vector<LaunchSlot> waiting(in.count(0));
  for (LaunchSlot& launch : waiting) {
    in.whole(launch.at);
    if (!take(launch)) return false;
  }
  std::vector<Start> later(in.count(0));
  for (Start& start : later) {
    fields(in, start, *arena_);
    in.require(start.time >= until - kInstant && (start.by_launch ? start.stage == 0 : start.stage > 0));
    if (start.by_launch && !take(start.launch)) return false;
    if (!in.good() || !launches.has(start.launch)) return false;
    in.require(start.stage < launches[start.launch].prepared->size());
    waits[start.launch.at] = true;
  }
  in.require(std::is_heap(later.begin(), later.end(), begins_after));
  // No launch is kept by nothing.
  launches.each([&](LaunchSlot slot, const Launched& l) {
    in.require(l.alive == alive[slot.at] && (l.alive > 0 || waits[slot.at]));
  });
  if (!in.good() || !in.empty()) return false;
  launches_ = std::move(launches), shots_ = std::move(shots), memory_ = std::move(memory);
  lastings_ = std::move(lastings);
  waiting_ = std::move(waiting), later_ = std::move(later);
  bounds_ = bounds, limits_ = limits;
  from_ = until_ = until;
  begin_anew();
  return true;
}

}  // namespace dardo::detail
