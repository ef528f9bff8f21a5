// The machine's state as bytes, and back.
#include <algorithm>

#include "dardo/attack/rows.hpp"
#include "resolve/machine/bytes.hpp"
#include "resolve/machine/bytes_fields.hpp"
#include "resolve/machine/machine.hpp"

namespace dardo::detail {
namespace {

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
  chains_.write(out, [&](ChainSlot, const Chain& c) {
    Chain copy = c;
    fields(out, copy, *arena_);
  });
  std::uint32_t afflicted = afflicted_;
  bool ledger = ledger_;
  out.whole(afflicted), out.flag(ledger);
  afflictions_.write(out, [&](AfflictionSlot, const Affliction& a) {
    Affliction copy = a;
    fields(out, copy, *arena_);
  });
  out.count(history_.uses().size());
  for (History::Use use : history_.uses()) fields(out, use, *arena_);
  out.count(waiting_.size());
  for (LaunchSlot launch : waiting_) out.whole(launch.at);
  out.count(later_.size());
  for (Start start : later_) fields(out, start, *arena_);
}

/// What is made of the launches and shots that were restored.
void Machine::begin_anew() {
  dashing_ = unsettling_ = heeding_ = 0;
  launches_.each([&](LaunchSlot, const Launched& l) { weigh(*l.prepared, true); });
  facts_.clear();
  // In the order in which they began.
  std::vector<AfflictionSlot> began;
  afflictions_.each([&](AfflictionSlot slot, const Affliction&) { began.push_back(slot); });
  std::sort(began.begin(), began.end(), [&](AfflictionSlot a, AfflictionSlot b) {
    return afflictions_[a].serial < afflictions_[b].serial;
  });
  for (const AfflictionSlot slot : began) keep_span(slot);
  queue_.clear(), seekers_.clear(), looks_.clear(), looks_.fit(shots_.places());
  roster_.clear(), boxes_.clear(), watched_.clear(), partners_.clear();
  launches_.each([&](LaunchSlot, Launched& l) { l.row = roster_.add(*l.prepared, l.faction); });
  shots_.each([&](ShotSlot slot, const Shot& s) {
    looks_.add(slot);
    looks_.set(slot, s.flight, launched_of(s.flight), around());
    if (!s.flight.course.target.empty()) seekers_.add(slot);
  });
}

void Machine::restore_shots(BytesIn& in, double until, const Launches& launches, Pool<Shot, ShotSlot>& shots,
                            Memory& memory, std::vector<std::uint32_t>& alive) const {
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

namespace {

/// Whether that of a dash leads from where it began, without a gap in time, to where it stands.
bool is_way(const Lasting& l, double until) {
  constexpr std::size_t kMost = 64;
  if (l.way.size() > kMost || l.way.front().start != l.began) return false;
  for (std::size_t i = 0; i < l.way.size(); ++i) {
    const Leg& leg = l.way[i];
    const bool last = i + 1 == l.way.size();
    if (!check(Pose{{}, leg.from.turn}).empty() || !(leg.start < leg.end)) return false;
    if (last ? !(std::isinf(leg.end) && leg.still()) : leg.end != l.way[i + 1].start) return false;
  }
  return l.way.back().start >= until - kInstant;
}

}  // namespace

void Machine::restore_lastings(BytesIn& in, double until, const Launches& launches,
                               const Pool<Shot, ShotSlot>& shots, Pool<Stay, LastingSlot>& lastings,
                               std::vector<std::uint32_t>& alive) const {
  std::vector<bool> taken(shots.places());
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
      in.require(f.stuck.yes && f.launch == l.launch && f.stage == l.stage && !taken[l.shell->at]);
      taken[l.shell->at] = true;
    }
    in.require(l.began + plan.to_s >= until - kInstant && l.way.empty() == !plan.by_hitboxes());
    if (in.good() && !l.way.empty()) in.require(is_way(l, until) && arena_->has(l.on));
    ++alive[l.launch.at];
  });
  // What of a trap may be struck belongs to one.
  shots.each([&](ShotSlot slot, const Shot& s) {
    if (in.good() && launches[s.flight.launch].stage(s.flight.stage).lasting) in.require(taken[slot.at]);
  });
}

void Machine::restore_chains(BytesIn& in, const Launches& launches, Pool<Chain, ChainSlot>& chains,
                             std::vector<std::uint32_t>& alive) const {
  chains.read(in, [&](ChainSlot, Chain& c) {
    fields(in, c, *arena_);
    if (!in.good()) return;
    in.require(launches.has(c.launch));
    if (!in.good()) return;
    const Launched& l = launches[c.launch];
    in.require(c.stage < l.prepared->size() && c.number < l.flights);
    if (!in.good()) return;
    in.require(std::holds_alternative<ChainDelivery>(l.stage(c.stage).attack->delivery));
    for (std::size_t i = 0; i < c.taken.size() && in.good(); ++i)
      in.require(!c.taken[i].empty() && (i == 0 || c.taken[i - 1].index < c.taken[i].index));
    ++alive[c.launch.at];
  });
}

void Machine::restore_afflictions(BytesIn& in, double until, const Launches& launches,
                                  Pool<Affliction, AfflictionSlot>& afflictions,
                                  std::vector<std::uint32_t>& afflicting) const {
  afflictions.read(in, [&](AfflictionSlot, Affliction& a) {
    fields(in, a, *arena_);
    in.require(!a.body.empty() && launches.has(a.launch));
    if (!in.good()) return;
    const Prepared& attack = *launches[a.launch].prepared;
    in.require(a.stage < attack.size());
    if (!in.good()) return;
    const Stage& stage = attack.stage(a.stage);
    in.require(a.effect < (a.of_release ? stage.at_release : stage.effects).size());
    if (!in.good()) return;
    const auto* status = std::get_if<Status>(&a.made(stage).effect->what);
    in.require(status != nullptr && a.from <= until + kInstant && a.to >= until - kInstant &&
               a.from + status->lasts_s <= a.to + kInstant);
    if (!in.good()) return;
    const auto next = a.next_tick(*status);
    in.require(!next || *next >= until - kInstant);
    ++afflicting[a.launch.at];
  });
}

bool Machine::restore_later(BytesIn& in, double until, const Launches& launches,
                            const Pool<Chain, ChainSlot>& chains, std::vector<Start>& later,
                            std::vector<bool>& waits, std::vector<std::uint32_t>& pending) const {
  std::vector<std::uint32_t> hopping(chains.places());
  const auto take = [&](LaunchSlot launch) {
    in.require(launches.has(launch) && !waits[launch.at]);
    if (in.good()) waits[launch.at] = true;
    return in.good();
  };
  later.resize(in.count(0));
  for (Start& start : later) {
    fields(in, start, *arena_);
    in.require(start.time >= until - kInstant && (!start.by_launch || start.stage == 0));
    if (!in.good() || !launches.has(start.launch)) return false;
    if (!start.is_pending() && !take(start.launch)) return false;
    pending[start.launch.at] += start.is_pending();
    const Prepared& attack = *launches[start.launch].prepared;
    in.require(start.stage < attack.size());
    if (!in.good()) return false;
    if (start.hops()) {
      in.require(chains.has(start.chain) && !start.hop_to.empty());
      if (!in.good()) return false;
      in.require(chains[start.chain].launch == start.launch && chains[start.chain].stage == start.stage);
      ++hopping[start.chain.at];
    }
    if (start.staggered) {
      const BodyId body = start.staggered->body;
      in.require(!start.by_launch && !body.empty() && start.staggered->stage < attack.size());
      if (!in.good()) return false;
      // One at a body that is gone meanwhile comes to nothing.
      in.require(!arena_->has(body) ||
                 start.staggered->hitbox < arena_->build(arena_->body(body).build).hitboxes.size());
    }
  }
  chains.each(
      [&](ChainSlot slot, const Chain& c) { in.require(c.pending == hopping[slot.at] && c.pending > 0); });
  return in.good();
}

void Machine::restore_launches(BytesIn& in, std::span<const std::shared_ptr<Prepared>> attacks,
                               Launches& launches) const {
  launches.read(in, [&](LaunchSlot, Launched& l) {
    std::uint32_t which = 0;
    in.index(which, attacks.size());
    if (!in.good()) return;
    l.prepared = attacks[which];
    fields(in, l, *arena_);
    in.require(l.launch.by.empty() == l.launch.from.has_value() && !l.faction.empty() &&
               (!l.launch.from || check(l.launch.from->pose).empty()));
  });
}

namespace {

History restored_history(BytesIn& in, const Arena& arena, double until) {
  History out;
  for (std::uint32_t count = in.count(0); count > 0 && in.good(); --count) {
    History::Use use;
    fields(in, use, arena);
    in.require(out.find(use.by, use.attack.view()) == nullptr && use.last_s <= until + kInstant);
    if (in.good()) out.put(use);
  }
  return out;
}

}  // namespace

bool Machine::restore(BytesIn& in, std::span<const std::shared_ptr<Prepared>> attacks) {
  double until = 0;
  in.number(until, kMostTime);
  std::optional<Bounds> bounds;
  fields(in, bounds);
  Limits limits;
  fields(in, limits);
  if (!in.good() || !check(limits).empty()) return false;
  Launches launches;
  restore_launches(in, attacks, launches);
  Pool<Shot, ShotSlot> shots;
  Memory memory;
  std::vector<std::uint32_t> alive(launches.places());
  restore_shots(in, until, launches, shots, memory, alive);
  Pool<Stay, LastingSlot> lastings;
  restore_lastings(in, until, launches, shots, lastings, alive);
  Pool<Chain, ChainSlot> chains;
  restore_chains(in, launches, chains, alive);
  std::uint32_t afflicted = 0;
  bool ledger = false;
  in.whole(afflicted), in.flag(ledger);
  Pool<Affliction, AfflictionSlot> afflictions;
  std::vector<std::uint32_t> afflicting(launches.places());
  restore_afflictions(in, until, launches, afflictions, afflicting);
  History history = restored_history(in, *arena_, until);
  std::vector<std::uint32_t> pending(launches.places());
  std::vector<bool> waits(launches.places());
  std::vector<LaunchSlot> waiting(in.count(0));
  for (LaunchSlot& launch : waiting) {
    in.whole(launch.at);
    in.require(launches.has(launch) && !waits[launch.at]);
    if (!in.good()) return false;
    waits[launch.at] = true;
  }
  std::vector<Start> later;
  if (!restore_later(in, until, launches, chains, later, waits, pending)) return false;
  in.require(std::is_heap(later.begin(), later.end(), begins_after));
  // No launch is kept by nothing.
  launches.each([&](LaunchSlot slot, const Launched& l) {
    in.require(l.alive == alive[slot.at] && l.pending == pending[slot.at] &&
               l.afflicting == afflicting[slot.at] && (l.under_way() > 0 || waits[slot.at]));
  });
  if (!in.good() || !in.empty()) return false;
  launches_ = std::move(launches), shots_ = std::move(shots), memory_ = std::move(memory);
  lastings_ = std::move(lastings), chains_ = std::move(chains);
  waiting_ = std::move(waiting), later_ = std::move(later);
  bounds_ = bounds, limits_ = limits;
  from_ = until_ = until;
  history_ = std::move(history);
  afflictions_ = std::move(afflictions), afflicted_ = afflicted, ledger_ = ledger;
  carry_again();
  begin_anew();
  return true;
}

}  // namespace dardo::detail
