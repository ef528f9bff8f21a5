#include "dardo/resolve/together.hpp"

#include <deque>
#include <limits>
#include <memory>

#include "resolve/aim_point.hpp"
#include "resolve/whole.hpp"

namespace dardo {
namespace detail {
namespace {

/// Hands what the machine tells to whose it is.
class Sorter final : public Listener {
 public:
  WholeRun& add(Outcome& outcome, const Arena& arena, Detail wanted) {
    const LaunchSlot slot{static_cast<std::uint32_t>(runs_.size())};
    return runs_.emplace_back(outcome, arena, wanted, slot, true);
  }
  void tell(const Machine& machine) {
    for (WholeRun& run : runs_) run.tell(machine);
  }

  bool on_strike(const Strike& strike) override { return runs_[strike.launch].on_strike(strike); }
  bool on_happening(const Happening& h) override { return runs_[h.launch].on_happening(h); }
  void on_not_ready(LaunchSlot launch, const std::vector<NotReady>& missing) override {
    of(launch).on_not_ready(launch, missing);
  }
  void on_refused(LaunchSlot launch, const Problems& problems, double time) override {
    of(launch).on_refused(launch, problems, time);
  }
  void on_end(const Flown& flown) override { of(flown.launch).on_end(flown); }
  void on_stuck(const Flown& flown) override { of(flown.launch).on_stuck(flown); }
  void on_over(const LastingOver& over) override { of(over.lasting.launch).on_over(over); }
  void on_chain(const Chain& chain) override { of(chain.launch).on_chain(chain); }
  void on_down(const Downed& downed) override { runs_[downed.by_launch].on_down(downed); }
  void on_limit(const LimitMet& met) override { runs_[met.launch].on_limit(met); }
  void on_surface(LaunchSlot launch, const SurfaceMet& met) override { of(launch).on_surface(launch, met); }
  void on_way(const Flight& f, const std::vector<Piece>& way) override { of(f.launch).on_way(f, way); }
  void on_back(const Flight& f, double time) override { of(f.launch).on_back(f, time); }
  void on_instant(LaunchSlot launch, std::uint32_t stage, Outcome& outcome) override {
    of(launch).on_instant(launch, stage, outcome);
  }

 private:
  WholeRun& of(LaunchSlot launch) { return runs_[launch.at]; }
  std::deque<WholeRun> runs_;
};

}  // namespace
}  // namespace detail

std::vector<Outcome> resolve_together(const Arena& arena, std::span<const Launching> launches,
                                      const ResolveOptions& options) {
  std::vector<Outcome> out(launches.size());
  const Rules& rules = options.rules != nullptr ? *options.rules : detail::no_rules();
  const detail::Motions motions(arena);
  detail::Machine machine(arena);
  detail::Sorter sorter;
  machine.keep_ways(options.detail);
  machine.keep_ledger(options.ledger);
  if (options.limits) machine.set_limits(*options.limits);
  machine.set_history(options.history != nullptr ? *options.history : History{});
  // One that is refused keeps its place, and does not set off.
  const Attack nothing;
  Launch nobody{.from = FromPlace{}};
  if (!arena.factions().empty()) nobody.from->faction = arena.factions().front();
  Problems wrong;
  if (options.limits) wrong = check(*options.limits);
  for (std::size_t i = 0; i < launches.size(); ++i) {
    const auto& [attack, launch] = launches[i];
    Outcome& o = out[i];
    o.launch = launch.id, o.attack = attack.name, o.by = launch.by;
    o.start_s = o.end_s = launch.at_s;
    sorter.add(o, arena, options.detail);
    for (const Problem& p : wrong) o.problems.push_back({"/limits" + p.where, p.what, p.fix});
    for (Problem& p : check(arena, attack, launch)) o.problems.push_back(std::move(p));
    for (Problem& p : detail::unknown_rules(attack, rules))
      o.problems.push_back({"/attack" + p.where, std::move(p.what), std::move(p.fix)});
    if (arena.factions().empty()) {
      o.ended = Ended::refused;
      continue;
    }
    auto prepared = std::make_shared<detail::Prepared>();
    const bool sound = o.problems.empty();
    prepared->borrow(sound ? attack : nothing, arena, rules);
    const detail::LaunchSlot slot =
        machine.add(std::move(prepared), sound ? launch : nobody, static_cast<std::uint32_t>(i));
    if (sound) {
      detail::warn_of_facing({motions, launch.at_s}, attack, launch, o);
      machine.set_off_at(slot, launch.at_s, false);
    } else {
      o.ended = Ended::refused;
    }
  }
  if (arena.factions().empty()) return out;  // nobody attacks
  machine.advance(std::numeric_limits<double>::infinity(), sorter);
  sorter.tell(machine);
  return out;
}

}  // namespace dardo
