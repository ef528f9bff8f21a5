// The machine's state as bytes, and back.
#include <algorithm>

#include "dardo/attack/rows.hpp"
#include "resolve/machine/bytes.hpp"
#include "resolve/machine/machine.hpp"

namespace dardo::detail {
namespace {

// No state that the machine comes to by itself goes beyond these.
constexpr double kMostPlace = 1e10, kMostSpeed = 1e10, kMostBend = 1e16, kMostJerk = 1e25, kMostTime = 1e10;

template <class Enum>
bool has_flag(const FlagSet<Enum>& set, unsigned i) {
  return set.has(static_cast<Enum>(i));
}

template <class T>
void hash_rows(Hash& hash, const T& v) {
  if constexpr (std::is_same_v<T, double>) {
    hash.add(v);
  } else if constexpr (std::is_integral_v<T> || std::is_enum_v<T>) {
    hash.add(static_cast<std::uint64_t>(v));
  } else if constexpr (std::is_same_v<T, std::string>) {
    hash.add(static_cast<std::uint64_t>(v.size()));
    hash.add(std::string_view(v));
  } else if constexpr (std::is_same_v<T, Vec3>) {
    hash.add(v.x), hash.add(v.y), hash.add(v.z);
  } else if constexpr (std::is_same_v<T, Rotation>) {
    hash_rows(hash, v.x), hash_rows(hash, v.y), hash_rows(hash, v.z);
  } else if constexpr (std::is_same_v<T, Hull>) {
    hash_rows(hash, v.points);
  } else if constexpr (kIsOptional<T>) {
    hash.add(static_cast<std::uint64_t>(v.has_value()));
    if (v) hash_rows(hash, *v);
  } else if constexpr (kIsVariant<T>) {
    hash.add(static_cast<std::uint64_t>(v.index()));
    std::visit([&](const auto& kind) { hash_rows(hash, kind); }, v);
  } else if constexpr (requires { v.size(); }) {
    hash.add(static_cast<std::uint64_t>(v.size()));
    for (const auto& item : v) hash_rows(hash, item);
  } else if constexpr (std::is_same_v<T, Muzzle>) {
    hash_rows(hash, v.name), hash_rows(hash, v.at);
  } else if constexpr (HasRows<T>) {
    each_row<T>([&](const auto& r) { hash_rows(hash, v.*r.member); });
  } else if constexpr (requires { v.index; }) {
    hash.add(static_cast<std::uint64_t>(v.index));
  } else {  // a set of words
    for (unsigned i = 0; i < 8; ++i) hash.add(static_cast<std::uint64_t>(has_flag(v, i)));
  }
}
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

/// What begins later: so far only launches themselves.
template <class Bytes>
void fields(Bytes& b, Start& start) {
  b.whole(start.launch.at), b.whole(start.stage), b.number(start.time, kMostTime);
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

std::uint64_t fingerprint(const Arena& arena, std::span<const std::shared_ptr<Prepared>> attacks) {
  Hash hash;
  for (const auto& attack : attacks) hash_rows(hash, attack->attack(0));
  for (const BuildId id : arena.builds()) hash_rows(hash, arena.build(id));
  for (const WallId id : arena.walls()) {
    const Wall& w = arena.wall(id);
    hash_rows(hash, w.id), hash_rows(hash, w.shape), hash_rows(hash, w.track);
    hash_rows(hash, arena.blocks(id)), hash_rows(hash, w.one_way);
    hash.add(static_cast<std::uint64_t>(w.material.index));
    hash.add(static_cast<std::uint64_t>(id.index)), hash.add(static_cast<std::uint64_t>(id.generation));
  }
  for (const FactionId id : arena.factions()) hash_rows(hash, arena.faction_name(id));
  hash.add(static_cast<std::uint64_t>(arena.slots()));
  for (const BodyId id : arena.bodies()) {
    hash.add(static_cast<std::uint64_t>(id.index));
    hash.add(static_cast<std::uint64_t>(id.generation));
    hash_rows(hash, arena.body(id).id);
    hash.add(static_cast<std::uint64_t>(arena.body(id).build.index));
  }
  return hash.value();
}

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
  out.count(waiting_.size());
  for (LaunchSlot launch : waiting_) out.whole(launch.at);
  out.count(later_.size());
  for (Start start : later_) fields(out, start);
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
    fields(in, start);
    in.require(start.stage == 0 && start.time >= until - kInstant);
    if (!take(start.launch)) return false;
    start.by_launch = true;
  }
  in.require(std::is_heap(later.begin(), later.end(), begins_after));
  // No launch is kept by nothing.
  launches.each([&](LaunchSlot slot, const Launched& l) {
    in.require(l.alive == alive[slot.at] && (l.alive > 0 || waits[slot.at]));
  });
  if (!in.good() || !in.empty()) return false;
  launches_ = std::move(launches), shots_ = std::move(shots), memory_ = std::move(memory);
  waiting_ = std::move(waiting), later_ = std::move(later);
  bounds_ = bounds, limits_ = limits;
  from_ = until_ = until;
  begin_anew();
  return true;
}

}  // namespace dardo::detail
