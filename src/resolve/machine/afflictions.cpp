// Statuses: how they begin, tick, and are over.
#include <algorithm>

#include "resolve/machine/machine.hpp"
#include "resolve/rules/chance.hpp"
#include "resolve/rules/effects.hpp"

namespace dardo::detail {
namespace {

bool changes_tags(const Status& s) { return !(s.gives.empty() && s.takes.empty() && s.immune.empty()); }

/// After whatever else of its launch comes in the same instant.
constexpr std::uint32_t kAfterShots = 0x80000000u;

}  // namespace

const Status& Machine::status_of(const Affliction& a) const {
  return std::get<Status>(a.made(launches_[a.launch].stage(a.stage)).effect->what);
}

/// A body gets a status, unless it has it already and that says otherwise.
void Machine::afflict(StatusDone& done, const Affliction& given, Listener& listener) {
  const Status& status = status_of(given);
  for (const std::string& name : status.ends) {
    while (const Facts::Span* span = first_status(given.body, name)) {
      // Told once the strike that ends it is.
      ended_.push_back(span->slot);
      if (changes_tags(*span->status)) unsettle(given.body, given.from, listener);
      facts_.of(given.body).spans[index_of(*span, given.body)].over = true;
    }
  }
  const auto same = [&](const Facts::Span& s) { return !s.over && s.status->name == status.name; };
  const Facts::Of* known = facts_.find(given.body);
  const auto has = known == nullptr ? 0 : std::count_if(known->spans.begin(), known->spans.end(), same);
  const bool another = has > 0 && status.again == Status::Again::add && has < status.most;
  done.until_s = given.from + status.lasts_s;
  done.at_once = static_cast<std::uint32_t>(has) + (has == 0 || another ? 1 : 0);
  if (has > 0 && !another) {
    Facts::Span& first =
        facts_.of(given.body).spans[index_of(*first_status(given.body, status.name), given.body)];
    done.did = status.again == Status::Again::keep ? StatusDone::Did::kept : StatusDone::Did::renewed;
    if (done.did == StatusDone::Did::kept) return void(done.until_s = first.to);
    Affliction& a = afflictions_[first.slot];
    a.to = first.to = done.until_s = std::max(first.to, done.until_s);
    push_next(first.slot);
    return;
  }
  done.did = has > 0 ? StatusDone::Did::added : StatusDone::Did::began;
  const AfflictionSlot slot = afflictions_.add();
  Affliction& a = afflictions_[slot];
  a = given;
  a.to = done.until_s, a.serial = ++afflicted_;
  ++launches_[a.launch].afflicting;
  if (changes_tags(status)) unsettle(a.body, a.from, listener);
  keep_span(slot);
  push_next(slot);
}

std::size_t Machine::index_of(const Facts::Span& span, BodyId body) const {
  return static_cast<std::size_t>(&span - facts_.find(body)->spans.data());
}

void Machine::keep_span(AfflictionSlot slot) {
  const Affliction& a = afflictions_[slot];
  facts_.of(a.body).spans.push_back({slot, &status_of(a), a.from, a.to});
}

/// When it ticks or is over, in this window.
void Machine::push_next(AfflictionSlot slot) {
  Affliction& a = afflictions_[slot];
  ++a.version;
  const double next = std::min(a.next_tick(status_of(a)).value_or(kEver), a.to);
  if (!(next <= until_) || next == kEver) return;
  Next n{next, launches_[a.launch].number, kAfterShots + a.serial, {}, a.version};
  n.affliction = slot;
  queue_.push(n);
}

void Machine::decide(AfflictionSlot slot, double time, Listener& listener) {
  // One that another has ended in this instant does nothing more.
  if (std::find(ended_.begin(), ended_.end(), slot) != ended_.end()) return;
  Affliction& a = afflictions_[slot];
  const Status& status = status_of(a);
  const auto due = a.next_tick(status);
  if (!due || *due > std::max(time, a.from) + kInstant)
    return end_affliction(slot, a.to, Happening::Over::time, listener);
  const Launched& l = launches_[a.launch];
  const EffectMade& made = a.made(l.stage(a.stage));
  const Moment moment(motions_, *due);
  const EffectOf of{moment, a.body, l.launch.seed, chance_key(a.key, ++a.ticks), a.power};
  Happening& told = begin_happening(a, Happening::What::ticked, *due);
  told.tick = a.ticks;
  for (std::uint32_t i = 0; i < made.ticks.size(); ++i) {
    do_tick(told.effects.emplace_back(), status.ticks->effects[i], made.ticks[i], i, of);
    if (ledger_) count(told.effects.back(), *due, listener);
  }
  tell(told, listener);
  if (afflictions_.has(slot)) push_next(slot);
}

Happening& Machine::begin_happening(const Affliction& a, Happening::What what, double time) {
  const Launched& l = launches_[a.launch];
  const Stage& stage = l.stage(a.stage);
  Happening& told = happening_;
  told = {.what = what,
          .on = a.body,
          .time_s = time,
          .launch = l.number,
          .stage = a.stage,
          .cause = a.cause,
          .by = a.by,
          .attack = stage.name,
          .status = a.made(stage).name,
          .tick = a.ticks,
          .effects = std::move(told.effects)};
  told.effects.clear();
  return told;
}

void Machine::end_affliction(AfflictionSlot slot, double time, Happening::Over why, Listener& listener) {
  const Affliction a = afflictions_[slot];
  Happening told{};
  std::swap(told, begin_happening(a, Happening::What::over, time));
  told.why = why;
  if (changes_tags(status_of(a))) unsettle(a.body, time, listener);
  drop_affliction(slot, time);
  (void)listener.on_happening(told);
  std::swap(told.effects, happening_.effects);
}

void Machine::drop_affliction(AfflictionSlot slot, double time) {
  const Affliction a = afflictions_[slot];
  auto& spans = facts_.of(a.body).spans;
  for (Facts::Span& s : spans) {
    if (s.slot == slot && s.to == a.to && s.from == a.from) s.over = true, s.to = std::min(s.to, time);
  }
  // What was is asked for only by verdicts.
  if (!keep_ways_) std::erase_if(spans, [&](const Facts::Span& s) { return s.slot == slot; });
  if (--launches_[a.launch].afflicting == 0) over_.push_back(a.launch);
  afflictions_.release(slot);
}

/// Statuses that others have ended.
void Machine::settle_ended(double time, Listener& listener) {
  for (const AfflictionSlot slot : ended_) {
    if (afflictions_.has(slot)) end_affliction(slot, time, Happening::Over::ended, listener);
  }
  ended_.clear();
}

/// Before tags or numbers of a body change: whoever flies is brought to this time by what was so until now.
void Machine::unsettle(BodyId body, double time, Listener& listener) {
  if (heeding_ == 0) return;
  if (unsettled_.empty()) hold_at(time, listener);
  const auto same = [&](const Fall& f) { return f.body == body; };
  if (std::none_of(unsettled_.begin(), unsettled_.end(), same)) unsettled_.push_back({body, time});
}

void Machine::hold_at(double time, Listener& listener) {
  shots_.each([&](ShotSlot slot, Shot& s) {
    Flight& f = s.flight;
    if (!stage_of(f).heeds_states) return;
    const bool back = fly_back(slot, time, listener);
    const bool comes_now = !back && s.next.kind != Event::Kind::none && s.next.time <= time + kInstant;
    if (!(f.course.time < time) || comes_now) return;
    // What it would have flown from now on, it has not.
    s.way.clear();
    const Event there = next_event(f, launched_of(f), around(), time, &s.way, 0);
    if (keep_ways_) listener.on_way(f, s.way);
    f.course = there.course;
    if (memory_.passes_any(f.met)) let_go_on(f, launched_of(f), around(), s.way, memory_);
    s.way.clear();
  });
}

/// Then they may be struck where they would have been passed, and the other way round.
void Machine::settle_states(Listener& listener) {
  if (unsettled_.empty()) return;
  shots_.each([&](ShotSlot slot, Shot& s) {
    if (!stage_of(s.flight).heeds_states) return;
    looks_.anew(slot);
    if (s.flight.course.time <= until_) propose(slot, listener);
  });
  lastings_.each([&](LastingSlot slot, Stay& s) {
    Lasting& l = s.lasting;
    const Launched& launched = launches_[l.launch];
    const Stage& stage = launched.stage(l.stage);
    if (!stage.heeds_states) return;
    const Extent extent(*stage.lasting, l, motions_);
    const Act act(motions_, stage, launched.launch, launched.faction, motions_.state_time(until_));
    bool all = false;
    for (const Fall& f : unsettled_) {
      l.time = std::max(l.time, f.time);
      all = all || f.body == launched.launch.by;  // who is asked about for everybody
      if (l.time <= s.gathered) expect_anew(s, extent, act, f.body);
    }
    all ? gather(slot) : push_next(slot);
  });
  unsettled_.clear();
}

}  // namespace dardo::detail
