// Shots that are after a body: whom they take instead, and what becomes of them when it is gone.
#include <algorithm>

#include "resolve/machine/machine.hpp"
#include "resolve/rules/choice.hpp"

namespace dardo::detail {

/// The first by the attack's order of the bodies that it may strike, other than the one lost; false when
/// there is none within reach.
bool Machine::pick_anew(Flight& f) {
  const Launched& l = launched_of(f);
  const Act act(motions_, stage_of(f), l.launch, l.faction, motions_.state_time(f.course.time));
  const Vec3 from = f.course.place();
  const double far = far_limit(act.attack.reach) - f.course.travelled;
  const Choice choice(motions_, act.stage.order, from, normalized(f.course.velocity()), l.launch.seed, f.key);
  Candidate best;
  motions_.bodies_near(Bounds{from, from}.grown(far), f.course.time, f.course.time, [&](BodyId body) {
    if (body == f.course.target || !eligible(act, body)) return;
    const Vec3 center = motions_.center(body, f.course.time);
    const Candidate here{body, length(center - from), center};
    if (here.distance < far && (best.body.empty() || choice.before(here, best))) best = here;
  });
  f.course.target = best.body;
  return !best.body.empty();
}

void Machine::forget_target(BodyId body, double time) {
  tell_lastings(body, time);
  seekers_.each([&](ShotSlot slot) {
    Shot& s = shots_[slot];
    Course& c = s.flight.course;
    if (c.target != body || !(time < c.target_lost) || !stage_of(s.flight).law.follows_target) return;
    if (c.time > time && s.before.target == body) c = s.before;
    c.target_lost = std::max(time, c.time);
    // Asked again by whoever advances: its answer relied on the body.
    if (c.time <= until_) {
      struct Nobody final : Listener {
        bool on_strike(const Strike&) override { return false; }
      } nobody;
      propose(slot, nobody);
    }
  });
}

void Machine::take_steps_anew(BodyId body) {
  shots_.each([&](ShotSlot, Shot& s) {
    Course& c = s.flight.course;
    if (c.target == body && !c.free && stage_of(s.flight).law.follows_target)
      c.piece.end = std::min(c.piece.end, std::max(c.time, until_));
  });
}

void Machine::forget_gone(double time) {
  afflictions_.each([&](AfflictionSlot slot, const Affliction& a) {
    if (!arena_->has(a.body)) drop_affliction(slot, time);
  });
  release_over();
  seekers_.each([&](ShotSlot slot) {
    Course& c = shots_[slot].flight.course;
    if (!c.target.empty() && !arena_->has(c.target))
      c.target_lost = std::min(c.target_lost, std::max(time, c.time));
  });
}

}  // namespace dardo::detail
