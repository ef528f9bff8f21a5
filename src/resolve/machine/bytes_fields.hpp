#pragma once
#include <limits>
#include <memory>

#include "dardo/attack/rows.hpp"
#include "resolve/machine/bytes.hpp"
#include "resolve/machine/machine.hpp"

// The fields of all that is saved, one after the other.
namespace dardo::detail {

// No state that the machine comes to by itself goes beyond these.
inline constexpr double kMostPlace = 1e10, kMostSpeed = 1e10, kMostBend = 1e16, kMostJerk = 1e25,
                        kMostTime = 1e10;

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
  b.number(p.start, kMostTime), b.endless(p.end);
  fields(b, p.at, kMostPlace), fields(b, p.velocity, kMostSpeed), fields(b, p.acceleration, kMostBend),
      fields(b, p.jerk, kMostJerk), b.number(p.pace, kMostSpeed);
}

template <class Bytes>
void fields(Bytes& b, Course& c, const Arena& arena) {
  b.number(c.time, kMostTime), b.number(c.travelled, 1e15);
  b.number(c.laid, kMostTime), b.number(c.laid_at, 1e15);
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
  b.whole(l.carriers), b.whole(l.contacts), b.whole(l.limits_met), b.whole(l.pending), b.whole(l.serial),
      b.whole(l.afflicting);
  b.id(l.faction, arena.factions().size());
  b.id(launch.by, arena.slots());
  b.whole(launch.seed), b.word(launch.aim, Aiming::high);
  b.text(launch.muzzle);
  b.number(launch.at_s, kMostTime);
  bool by_nobody = launch.from.has_value(), leaves = launch.leaving.has_value(),
       placed = launch.muzzle_at.has_value();
  b.flag(by_nobody), b.flag(leaves), b.flag(placed);
  if (by_nobody) {
    if (!launch.from) launch.from.emplace();
    fields(b, launch.from->pose), b.id(launch.from->faction, arena.factions().size());
  }
  if (placed) fields(b, launch.muzzle_at ? *launch.muzzle_at : launch.muzzle_at.emplace(), kMostPlace);
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

template <class Bytes>
void fields(Bytes& b, Departure& d, const Arena& arena) {
  fields(b, d.place, kMostPlace), b.id(d.from, arena.slots()), b.whole(d.hop), b.number(d.time, kMostTime),
      fields(b, d.ahead, 1.001);
}

/// A strike that has been decided, but has no effects yet, nor whose it is.
template <class Bytes>
void fields(Bytes& b, Strike& s, const Arena& arena) {
  constexpr double kAny = std::numeric_limits<double>::max();
  b.id(s.body, arena.slots()), b.whole(s.hitbox), b.number(s.time_s, kMostTime), b.number(s.distance, kAny);
  fields(b, s.point, kMostPlace), fields(b, s.normal, 1.001), fields(b, s.centre, kMostPlace);
  for (double* factor :
       {&s.power.base, &s.power.zone, &s.power.order, &s.power.through, &s.power.hop, &s.power.seen})
    b.number(*factor, kAny);
  b.number(s.seen_s, kMostTime), b.whole(s.stage), b.whole(s.cause), b.whole(s.hop), b.number(s.speed, kAny);
  for (std::optional<Share>* share : {&s.covered, &s.seen}) {
    bool there = share->has_value();
    b.flag(there);
    if (!there) continue;
    Share& part = *share ? **share : share->emplace();
    b.number(part.share, 1), b.number(part.error, 1);
  }
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
  b.flag(start.wound), b.whole(start.round);
  auto serial = static_cast<std::uint64_t>(start.led_to);
  b.whole(serial), start.led_to = static_cast<std::size_t>(serial);
  b.whole(start.chain.at), b.id(start.hop_to, arena.slots());
  fields(b, start.departure, arena);
  bool staggered = start.staggered != nullptr;
  b.flag(staggered);
  if (!staggered) return;
  Strike strike = start.staggered ? *start.staggered : Strike{};
  fields(b, strike, arena);
  start.staggered = std::make_shared<const Strike>(std::move(strike));
}

template <class Bytes>
void fields(Bytes& b, Chain& c, const Arena& arena) {
  b.whole(c.launch.at), b.whole(c.stage), b.whole(c.number), b.whole(c.cause), b.whole(c.key);
  b.number(c.began, kMostTime), b.number(c.time, kMostTime);
  fields(b, c.origin, kMostPlace), fields(b, c.last, kMostPlace), fields(b, c.ahead, 1.001);
  b.whole(c.strikes), b.whole(c.pending);
  c.taken.resize(b.count(c.taken.size()));
  for (BodyId& body : c.taken) b.id(body, arena.slots());
}

template <class Bytes>
void fields(Bytes& b, Guest& g, const Arena& arena) {
  b.id(g.body, arena.slots()), b.whole(g.times), b.number(g.since, kMostTime), b.number(g.asked, kMostTime);
  b.flag(g.inside), b.flag(g.counts), b.flag(g.was_asked);
}

template <class Bytes>
void frame_fields(Bytes& b, Pose& pose) {
  fields(b, pose.at, kMostPlace);
  for (Vec3* v : {&pose.turn.x, &pose.turn.y, &pose.turn.z}) fields(b, *v, 1.001);
}

template <class Bytes>
void fields(Bytes& b, Lasting& l, const Arena& arena) {
  b.whole(l.launch.at), b.whole(l.stage), b.whole(l.number), b.whole(l.cause), b.whole(l.key);
  b.number(l.began, kMostTime), b.number(l.time, kMostTime), b.number(l.rests, kMostTime);
  b.id(l.on, arena.slots()), b.id(l.target, arena.slots());
  frame_fields(b, l.base), frame_fields(b, l.stood);
  fields(b, l.origin, kMostPlace);
  bool shell = l.shell.has_value();
  b.flag(shell);
  if (shell) b.whole(l.shell ? l.shell->at : l.shell.emplace().at);
  b.whole(l.strikes), b.whole(l.intervals);
  l.way.resize(b.count(l.way.size()));
  for (Leg& leg : l.way) {
    b.number(leg.start, kMostTime), b.endless(leg.end), fields(b, leg.velocity, kMostSpeed);
    frame_fields(b, leg.from);
  }
  l.guests.resize(b.count(l.guests.size()));
  for (Guest& g : l.guests) fields(b, g, arena);
}

template <class Bytes>
void fields(Bytes& b, Affliction& a, const Arena& arena) {
  b.id(a.body, arena.slots()), b.id(a.by, arena.slots());
  b.whole(a.launch.at), b.whole(a.stage), b.whole(a.effect), b.flag(a.of_release), b.whole(a.cause);
  b.whole(a.ticks), b.whole(a.serial), b.whole(a.key);
  b.number(a.power, std::numeric_limits<double>::max()), b.number(a.from, kMostTime), b.endless(a.to);
}

template <class Bytes>
void fields(Bytes& b, History::Use& use, const Arena& arena) {
  std::string attack = use.attack.str();
  b.id(use.by, arena.slots()), b.text(attack);
  use.attack = Name(std::move(attack));
  b.number(use.last_s, kMostTime), b.number(use.back_s, std::numeric_limits<double>::max()),
      b.whole(use.spent);
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

}  // namespace dardo::detail
