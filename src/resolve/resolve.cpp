#include "dardo/resolve/resolve.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>
#include <utility>

#include "dardo/resolve/prepared.hpp"
#include "geometry/detail/elementary.hpp"
#include "record/detail/clear.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/chosen.hpp"
#include "resolve/ready.hpp"
#include "resolve/whole.hpp"

namespace dardo {
namespace detail {
namespace {

/// What is asked of one resolution.
struct Use {
  const Attack& attack;
  const std::shared_ptr<const Prepared>* prepared;  ///< nothing when it is not prepared yet
  const Launch* launch;
  const ResolveOptions& options;

  const Rules& rules() const { return options.rules != nullptr ? *options.rules : no_rules(); }
};

/// What whole resolutions of one thread use again, one after the other: a machine with room in its lists.
class Workspace {
 public:
  explicit Workspace(const Arena& arena) : machine(arena) {}

  /// The launch has the first place in the machine's table, those under way the others; all of them set off
  /// at their times.
  void open(const Arena& arena, const Use& use) {
    const Rules& rules = use.rules();
    const std::span<const UnderWay> others = use.options.under_way;
    machine.begin(arena);
    machine.keep_ways(use.options.detail);
    machine.keep_ledger(use.options.ledger);
    machine.set_limits(use.options.limits.value_or(Limits{}));
    while (attacks.size() < others.size() + 1) attacks.push_back(std::make_shared<Prepared>());
    if (use.prepared != nullptr && (*use.prepared)->is_of(arena)) {
      machine.add(*use.prepared, *use.launch, 0);
    } else {
      attacks[0]->borrow(use.attack, arena, rules);
      machine.add(attacks[0], *use.launch, 0);
    }
    machine.set_off_at({0}, use.launch->at_s);
    start_others(others, arena, rules, use.launch->at_s);
  }

  Machine machine;
  std::vector<std::shared_ptr<Prepared>> attacks;  ///< by place in the machine's table

 private:
  void start_others(std::span<const UnderWay> others, const Arena& arena, const Rules& rules, double at_s) {
    for (std::size_t i = 0; i < others.size(); ++i) {
      attacks[i + 1]->borrow(others[i].attack, arena, rules);
      const LaunchSlot slot =
          machine.add(attacks[i + 1], others[i].launch, static_cast<std::uint32_t>(i + 1));
      machine.set_off_at(slot, at_s - others[i].since_s);
    }
  }
};

/// The thread's own, for as long as nothing else of the thread has it.
class Borrowing {
 public:
  explicit Borrowing(const Arena& arena) : workspace_(std::move(spare())) {
    if (workspace_ == nullptr) workspace_ = std::make_unique<Workspace>(arena);
  }
  ~Borrowing() { spare() = std::move(workspace_); }
  Borrowing(const Borrowing&) = delete;
  Borrowing& operator=(const Borrowing&) = delete;
  Workspace& operator*() const { return *workspace_; }

 private:
  static std::unique_ptr<Workspace>& spare() {
    thread_local std::unique_ptr<Workspace> one;
    return one;
  }
  std::unique_ptr<Workspace> workspace_;
};

void check_options(Problems& out, const Arena& arena, const ResolveOptions& options) {
  const Rules& rules = options.rules != nullptr ? *options.rules : no_rules();
  for (std::size_t i = 0; i < options.under_way.size(); ++i) {
    for (Problem& p : unknown_rules(options.under_way[i].attack, rules))
      out.push_back(
          {"/under_way/" + std::to_string(i) + "/attack" + p.where, std::move(p.what), std::move(p.fix)});
    for (Problem& p : check(arena, options.under_way[i]))
      out.push_back({"/under_way/" + std::to_string(i) + p.where, std::move(p.what), std::move(p.fix)});
  }
  if (!options.limits) return;
  for (Problem& p : check(*options.limits))
    out.push_back({"/limits" + p.where, std::move(p.what), std::move(p.fix)});
}

/// Whether the attacker is ready for it; else the outcome says why not.
bool tell_readiness(const Moment& moment, const Use& use, Outcome& out) {
  if (!use.attack.ready) return true;
  Prepared prepared;
  prepared.borrow(use.attack, moment.arena(), use.rules());
  const History none;
  const auto missing = not_ready(moment, prepared.stage(0), *use.launch,
                                 attacker_faction(moment.arena(), *use.launch, moment.time()),
                                 use.options.history != nullptr ? *use.options.history : none);
  if (missing.empty()) return true;
  out.ended = Ended::not_ready, out.problems = as_problems(missing, moment.arena());
  out.origin = out.end = muzzle_point(moment, *use.launch);
  return false;
}

void carry_out(const Arena& arena, const Use& asked, Outcome& out) {
  const Motions motions(arena);
  const Moment moment(motions, asked.launch->at_s);
  clear(out);
  out.launch = asked.launch->id, out.attack = asked.attack.name, out.by = asked.launch->by;
  out.start_s = out.end_s = asked.launch->at_s;
  if (asked.prepared == nullptr) {
    for (Problem& p : check(asked.attack))
      out.problems.push_back({"/attack" + p.where, std::move(p.what), std::move(p.fix)});
    for (Problem& p : unknown_rules(asked.attack, asked.rules()))
      out.problems.push_back({"/attack" + p.where, std::move(p.what), std::move(p.fix)});
  }
  const bool sound = out.problems.empty();
  for (Problem& p : check_launch(moment, asked.attack, *asked.launch, sound))
    out.problems.push_back(std::move(p));
  check_options(out.problems, arena, asked.options);
  if (!out.problems.empty()) {
    out.ended = Ended::refused;
    return;
  }
  Launch aimed;
  Use use = asked;
  if (std::holds_alternative<AtChoice>(asked.launch->toward)) {
    Prepared prepared;
    prepared.borrow(use.attack, arena, use.rules());
    std::vector<Verdict> verdicts;
    const bool tells = use.options.detail != Detail::strikes;
    const BodyId body =
        choose(moment, prepared.stage(0), *asked.launch,
               attacker_faction(arena, *asked.launch, moment.time()), tells ? &verdicts : nullptr);
    if (body.empty()) {
      out.ended = Ended::no_target, out.verdicts = std::move(verdicts);
      out.origin = out.end = muzzle_point(moment, *asked.launch);
      return;
    }
    aimed = *asked.launch, aimed.toward = body;
    use.launch = &aimed;
    // Whom it has chosen may be where it starts.
    for (Problem& p : check_launch(moment, use.attack, aimed)) out.problems.push_back(std::move(p));
    if (!out.problems.empty()) {
      out.ended = Ended::refused;
      return;
    }
  }
  if (!tell_readiness(moment, use, out)) return;
  warn_of_facing(moment, use.attack, *use.launch, out);
  const Borrowing workspace(arena);
  Machine& machine = (*workspace).machine;
  WholeRun whole(out, arena, use.options.detail);
  (*workspace).open(arena, use);
  machine.advance(std::numeric_limits<double>::infinity(), whole);
  whole.tell(machine);
}

}  // namespace
}  // namespace detail

const Attack& PreparedAttack::attack() const { return made_->attack(0); }

Result<PreparedAttack> prepare(const Arena& arena, Attack attack) {
  return prepare(arena, std::move(attack), detail::no_rules());
}

Result<PreparedAttack> prepare(const Arena& arena, Attack attack, const Rules& rules) {
  Problems problems = check(attack);
  for (Problem& p : detail::unknown_rules(attack, rules)) problems.push_back(std::move(p));
  if (!problems.empty()) return tl::unexpected(std::move(problems));
  PreparedAttack out;
  out.made_ = std::make_shared<const detail::Prepared>(std::move(attack), arena, rules);
  return out;
}

void resolve(const Arena& arena, const PreparedAttack& attack, const Launch& launch,
             const ResolveOptions& options, Outcome& outcome) {
  detail::carry_out(arena, {attack.attack(), &attack.made_, &launch, options}, outcome);
}

Outcome resolve(const Arena& arena, const Attack& attack, const Launch& launch,
                const ResolveOptions& options) {
  Outcome out;
  detail::carry_out(arena, {attack, nullptr, &launch, options}, out);
  return out;
}

}  // namespace dardo
