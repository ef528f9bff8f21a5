#include "resolve/ready.hpp"

#include <algorithm>
#include <cmath>

#include "dardo/record/explain.hpp"
#include "dardo/resolve/resolve.hpp"
#include "dardo/units.hpp"
#include "geometry/detail/elementary.hpp"
#include "record/detail/text.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/chosen.hpp"
#include "resolve/rules/sight.hpp"
#include "resolve/rules/tolerances.hpp"

namespace dardo {

void History::note(BodyId by, const Name& name, const Attack& attack, double time_s) {
  const auto same = [&](const Use& u) { return u.by == by && u.attack == name; };
  auto at = std::find_if(uses_.begin(), uses_.end(), same);
  if (at == uses_.end()) at = uses_.insert(uses_.end(), {by, name, time_s, time_s, 0});
  at->last_s = time_s;
  if (!attack.ready || !attack.ready->uses) return;
  const Uses& uses = *attack.ready->uses;
  if (uses.back == Uses::Back::one_by_one) {
    at->back_s = std::max(at->back_s, time_s) + uses.back_after_s;
  } else {
    at->spent = time_s >= at->back_s ? 1 : at->spent + 1;
    at->back_s = time_s + uses.back_after_s;
  }
}

const History::Use* History::find(BodyId by, std::string_view attack) const {
  const auto same = [&](const Use& u) { return u.by == by && u.attack == attack; };
  const auto at = std::find_if(uses_.begin(), uses_.end(), same);
  return at != uses_.end() ? &*at : nullptr;
}

namespace detail {
namespace {

/// Reads what an attack asks for, one thing after the other.
class Asker {
 public:
  Asker(const Moment& moment, const Stage& stage, const Launch& launch, FactionId faction,
        const History& history)
      : moment_(moment),
        stage_(stage),
        ready_(*stage.attack->ready),
        launch_(launch),
        faction_(faction),
        history_(history) {}

  std::vector<NotReady> ask() {
    const Motions& motions = moment_.motions();
    if (!motions.stands(launch_.by, moment_.time())) return {{.why = NotReady::Why::fallen}};
    ask_uses();
    for (const Cost& cost : ready_.costs) ask_cost(cost);
    for (const Before& before : ready_.before) ask_before(before);
    const double time = moment_.state_time();
    for (const std::string& tag : ready_.needs) {
      if (!motions.has_tag(launch_.by, tag, time))
        out_.push_back({.why = NotReady::Why::tag_missing, .word = Name(tag)});
    }
    for (const std::string& tag : ready_.forbids) {
      if (motions.has_tag(launch_.by, tag, time))
        out_.push_back({.why = NotReady::Why::tag_forbidden, .word = Name(tag)});
    }
    ask_target();
    return std::move(out_);
  }

 private:
  void ask_uses() {
    const History::Use* used = history_.find(launch_.by, stage_.attack->name);
    if (used == nullptr) return;
    const double now = moment_.time();
    const auto wait = [&](NotReady::Why why, double until) {
      if (until - now > kInstant) out_.push_back({.why = why, .in_s = until - now});
    };
    if (ready_.uses) {
      const Uses& uses = *ready_.uses;
      if (uses.back == Uses::Back::one_by_one) {
        wait(NotReady::Why::uses, used->back_s - (uses.count - 1.0) * uses.back_after_s);
      } else if (used->spent >= uses.count) {
        wait(NotReady::Why::uses, used->back_s);
      }
    }
    if (ready_.rest_s > 0) wait(NotReady::Why::rest, used->last_s + ready_.rest_s);
  }

  void ask_cost(const Cost& cost) {
    const Motions& motions = moment_.motions();
    const auto number = [&](const std::string& name) {
      return motions.number(launch_.by, name, moment_.state_time()).value_or(0);
    };
    const double leaves = cost.leaves_share.empty() ? cost.leaves : cost.leaves * number(cost.leaves_share);
    const double missing = cost.amount + leaves - number(cost.number);
    if (missing > 0)
      out_.push_back({.why = NotReady::Why::cost, .word = Name(cost.number), .missing = missing});
  }

  void ask_before(const Before& before) {
    const History::Use* used = history_.find(launch_.by, before.attack);
    const double ago = used != nullptr ? moment_.time() - used->last_s : 0;
    const bool came = used != nullptr && ago <= before.within_s + kInstant;
    if (came == before.must) return;
    NotReady r{.why = before.must ? NotReady::Why::before : NotReady::Why::just_before,
               .word = Name(before.attack)};
    if (!before.must) r.in_s = before.within_s - ago;
    out_.push_back(std::move(r));
  }

  /// What is asked of its aim.
  void ask_target() {
    const Vec3 muzzle = muzzle_point(moment_, launch_);
    if (ready_.facing) {
      const Vec3 way = aim_direction(moment_, launch_, muzzle),
                 facing = attacker_pose(moment_, launch_).turn.x;
      const double off = arc_tangent(length(cross(facing, way)), dot(facing, way));
      if (off > *ready_.facing)
        out_.push_back({.why = NotReady::Why::facing, .missing = off - *ready_.facing});
    }
    const auto* at = std::get_if<AtBody>(&launch_.toward);
    const auto point = aim_point(moment_, launch_);
    if (point) {
      const Nearest nearest =
          at != nullptr ? moment_.body(at->body).nearest(muzzle) : Nearest{length(*point - muzzle), *point};
      const double scale = largest(muzzle);
      if (!at_least(nearest.distance, ready_.nearest, scale))
        out_.push_back({.why = NotReady::Why::too_near, .missing = ready_.nearest - nearest.distance});
      if (ready_.farthest && !at_most(nearest.distance, *ready_.farthest, scale))
        out_.push_back({.why = NotReady::Why::too_far, .missing = nearest.distance - *ready_.farthest});
      if (ready_.sight && at != nullptr) ask_sight(at->body, nearest.point, muzzle);
    }
  }

  void ask_sight(BodyId body, const Vec3& nearest, const Vec3& muzzle) {
    const Act act(moment_.motions(), stage_, launch_, faction_, moment_.state_time());
    Reading seen = SightJudge(act, moment_, *ready_.sight, muzzle).see(body, nearest).reading;
    if (seen.reason != Reason::none) out_.push_back({.why = NotReady::Why::sight, .seen = std::move(seen)});
  }

  const Moment& moment_;
  const Stage& stage_;
  const Readiness& ready_;
  const Launch& launch_;
  FactionId faction_;
  const History& history_;
  std::vector<NotReady> out_;
};

}  // namespace

std::vector<NotReady> not_ready(const Moment& moment, const Stage& stage, const Launch& launch,
                                FactionId faction, const History& history) {
  return Asker(moment, stage, launch, faction, history).ask();
}

Problems as_problems(const std::vector<NotReady>& missing, const Arena& arena) {
  Problems out;
  for (const NotReady& m : missing)
    out.push_back(
        {"/launch", "is not ready: " + explain(m, arena), "a launch that its attacker is ready for"});
  return out;
}

}  // namespace detail

Ready ready(const Arena& arena, const Attack& attack, const Launch& launch, const History& history) {
  Ready out;
  out.problems = check(arena, attack, launch);
  if (!out.problems.empty() || !attack.ready) return out;
  const detail::Motions motions(arena);
  const detail::Moment moment(motions, launch.at_s);
  detail::Prepared prepared;
  Attack plain = attack;
  plain.rules.clear();  // of targets, not of the attacker
  prepared.borrow(plain, arena, detail::no_rules());
  const FactionId faction = detail::attacker_faction(arena, launch, launch.at_s);
  Launch aimed = launch;
  if (std::holds_alternative<AtChoice>(launch.toward)) {
    const BodyId body = detail::choose(moment, prepared.stage(0), launch, faction, nullptr);
    if (!body.empty()) aimed.toward = body;
  }
  out.missing = detail::not_ready(moment, prepared.stage(0), aimed, faction, history);
  return out;
}

std::string explain(const NotReady& r, const Arena& arena) {
  const auto in = [&] { return "ready in " + detail::seconds(r.in_s.value_or(0)); };
  const double missing = r.missing.value_or(0);
  switch (r.why) {
    case NotReady::Why::fallen: return "its attacker has fallen";
    case NotReady::Why::uses: return in() + ": its uses are spent";
    case NotReady::Why::rest: return in() + ": it rests";
    case NotReady::Why::cost: return "needs " + detail::short_number(missing) + " more " + r.word.str();
    case NotReady::Why::before: return r.word.str() + " has not come before";
    case NotReady::Why::just_before: return in() + ": " + r.word.str() + " has just come";
    case NotReady::Why::tag_missing: return "its attacker lacks the tag " + r.word.str();
    case NotReady::Why::tag_forbidden: return "its attacker has the tag " + r.word.str();
    case NotReady::Why::facing:
      return "its aim lies " + detail::short_number(std::ceil(missing / units::kDegree * 10) / 10) +
             "° too far aside";
    case NotReady::Why::too_near: return "its aim is too near by " + detail::metres(missing);
    case NotReady::Why::too_far: return "its aim is too far by " + detail::metres(missing);
    case NotReady::Why::sight: return "it does not see its target: " + explain(r.seen, arena);
  }
  return {};
}

}  // namespace dardo
