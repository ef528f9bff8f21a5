#pragma once
#include "resolve/rules/act.hpp"
#include "resolve/rules/tolerances.hpp"

// The gates, in their order, read once: by what strikes as by what tells why not.
//
// Each is put to a note as whether the body passes, and how to say so at length; the note says whether to go
// on. A carrier's own gates read what it has met of a body (its `Met`).
namespace dardo::detail {

/// Keeps nothing: the first gate that stops the body is the last that is read.
struct Quiet {
  template <class Tell>
  bool operator()(bool passes, Tell&&) const {
    return passes;
  }
};

Reading tell_standing(bool passes);
Reading tell_self(const Act& act, BodyId body, bool passes);
Reading tell_relation(const Act& act, BodyId body, bool passes);
Reading tell_tags(const Act& act, BodyId body);

Reading tell_conditions(const Act& act, BodyId body);
Reading tell_rules(const Act& act, BodyId body);
bool meets_conditions(const Act& act, BodyId body);
bool passes_rules(const Act& act, BodyId body);

inline bool has_right_tags(const Act& act, BodyId body) {
  const Stage& s = act.stage;
  if (!s.names_tags) return true;
  if (act.motions.has_statuses(body)) return tell_tags(act, body).reason == Reason::none;
  const WordSet& tags = act.arena.tags(body);
  return s.needs.unknown.empty() && tags.has_all(s.needs.known) && !tags.has_any(s.forbids.known) &&
         !act.arena.immune(body).has_any(s.tags.known);
}

/// The gates before reach: they can be asked before a contact is sought.
template <class Note>
bool before_reach(const Act& act, BodyId body, Note&& note) {
  const bool up = !act.is_fallen(body), itself = body == act.launch.by;
  if (!note(up, [&] { return tell_standing(up); })) return false;
  const bool may_be_it = !itself || act.attack.who.has(Relation::self);
  if (!note(may_be_it, [&] { return tell_self(act, body, may_be_it); })) return false;
  const bool related = act.attack.who.has(act.relation_to(body));
  if (!note(related, [&] { return tell_relation(act, body, related); })) return false;
  if (!note(has_right_tags(act, body), [&] { return tell_tags(act, body); })) return false;
  const Stage& s = act.stage;
  const bool right = s.conditions.empty() || meets_conditions(act, body);
  if (!note(right, [&] { return tell_conditions(act, body); })) return false;
  const bool allowed = s.rules.empty() || passes_rules(act, body);
  return note(allowed, [&] { return tell_rules(act, body); });
}
inline bool eligible(const Act& act, BodyId body) { return before_reach(act, body, Quiet{}); }

/// The gates from reach on, but for choice and cap.
template <class Carrier, class Note>
bool from_reach(const Carrier& carrier, const typename Carrier::Met& met, Note&& note) {
  return note(carrier.in_reach(met), [&] { return carrier.tell_reach(met); }) &&
         note(carrier.in_time(met), [&] { return carrier.tell_time(met); }) &&
         note(carrier.in_sight(met), [&] { return carrier.tell_sight(met); });
}

/// Whether what has been flown, or lies between, is not nearer than the attack strikes: as far as the place
/// of a contact is known, which comes a little early rather than late.
inline bool far_enough(const Act& act, double travel, double scale) {
  return at_least(travel + kPlaceKnown, act.attack.reach.near, scale);
}

}  // namespace dardo::detail
