#include "resolve/chosen.hpp"

#include <algorithm>

#include "geometry/detail/tolerance.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/rules/choice.hpp"
#include "resolve/rules/let_through.hpp"
#include "resolve/rules/sight.hpp"
#include "resolve/rules/verdict.hpp"

namespace dardo {
namespace detail {
namespace {

/// As the gates see whom one may aim at: one that is there at once, from the muzzle.
class Aimer {
 public:
  Aimer(const Act& act, const Moment& moment, const AtChoice& choice, const Vec3& from)
      : moment_(moment), choice_(choice), from_(from) {
    if (choice.sight) judge_.emplace(act, moment, *choice.sight, from);
  }
  struct Met {
    BodyId body;
    Nearest at;
  };
  Met met(BodyId body) const {
    const Moment::Body then = moment_.body(body);
    return Met{body, then.nearest(from_)};
  }
  bool in_reach(const Met& m) const { return at_most(m.at.distance, choice_.within, largest(from_)); }
  bool in_time(const Met&) const { return true; }
  bool in_sight(const Met& m) const { return tell_sight(m).reason == Reason::none; }
  Reading tell_reach(const Met& m) const {
    Reading r{.gate = Gate::reach, .measured = m.at.distance, .limit = choice_.within};
    r.margin = std::fabs(m.at.distance - choice_.within);
    if (!in_reach(m)) r.reason = Reason::too_far;
    return r;
  }
  Reading tell_time(const Met&) const { return {.gate = Gate::time}; }
  Reading tell_sight(const Met& m) const {
    return judge_ ? judge_->see(m.body, m.at.point).reading : Reading{.gate = Gate::sight};
  }

 private:
  const Moment& moment_;
  const AtChoice& choice_;
  Vec3 from_;
  std::optional<SightJudge> judge_;
};

}  // namespace

BodyId choose(const Moment& moment, const Stage& stage, const Launch& launch, FactionId faction,
              std::vector<Verdict>* verdicts) {
  const auto& wanted = std::get<AtChoice>(launch.toward);
  const Arena& arena = moment.arena();
  const Act act(moment.motions(), stage, launch, faction, moment.state_time());
  const Vec3 from = muzzle_point(moment, launch);
  const Aimer aimer(act, moment, wanted, from);
  std::vector<OrderKey> keys;
  name(keys, arena, wanted.order);
  const Choice choice(moment.motions(), keys, from, attacker_pose(moment, launch).turn.x, launch.seed, 0);
  Candidate best;
  // Nobody aims at itself.
  const auto ask = [&](BodyId body, auto&& note) {
    if (body == launch.by || !before_reach(act, body, note)) return;
    const Aimer::Met met = aimer.met(body);
    if (!from_reach(aimer, met, note)) return;
    const Candidate here{body, met.at.distance, met.at.point};
    if (best.body.empty() || choice.before(here, best)) best = here;
  };
  if (verdicts == nullptr) {
    moment.bodies_touching(Bounds{from, from}.grown(wanted.within + slack(largest(from), wanted.within)),
                           [&](BodyId body) { ask(body, Quiet{}); });
    return best.body;
  }
  for (const BodyId body : arena.bodies()) {
    Verdict& v = verdicts->emplace_back();
    v.body = body;
    Recorder note(v, Detail::verdicts);
    ask(body, note);
    if (body == launch.by) v.deciding = tell_self(act, body, false);
    if (body != launch.by && !note.stopped()) v.deciding = {.gate = Gate::cap, .reason = Reason::cap};
  }
  for (Verdict& v : *verdicts) {
    if (v.body == best.body && !best.body.empty()) v.struck = true, v.deciding = {.gate = Gate::cap};
  }
  return best.body;
}

}  // namespace detail

Chosen choose(const Arena& arena, const Attack& attack, const Launch& launch, const Rules* rules) {
  Chosen out;
  detail::Prepared prepared;
  prepared.borrow(attack, arena, rules != nullptr ? *rules : detail::no_rules());
  const detail::Motions motions(arena);
  out.body = detail::choose({motions, launch.at_s}, prepared.stage(0), launch,
                            detail::attacker_faction(arena, launch, launch.at_s), &out.verdicts);
  return out;
}

}  // namespace dardo
