#include <algorithm>

#include "resolve/rules/let_through.hpp"

namespace dardo::detail {

Relation Act::relation_to(BodyId body) const {
  return body == launch.by ? Relation::self : arena.relation(faction, arena.faction_of(body));
}

Reading tell_standing(bool passes) {
  return {.gate = Gate::stands, .reason = passes ? Reason::none : Reason::fallen};
}

Reading tell_self(const Act& act, BodyId body, bool passes) {
  Reading r{.gate = Gate::self, .reason = passes ? Reason::none : Reason::self};
  if (body == act.launch.by) r.relation = Relation::self;
  return r;
}

Reading tell_relation(const Act& act, BodyId body, bool passes) {
  Reading r{.gate = Gate::relation, .reason = passes ? Reason::none : Reason::relation};
  r.relation = act.relation_to(body);
  return r;
}

Reading tell_tags(const Act& act, BodyId body) {
  Reading r{.gate = Gate::tags};
  const auto stop = [&](Reason reason, const std::string& tag) {
    r.reason = reason;
    r.tag = tag;
    return r;
  };
  for (const std::string& tag : act.attack.needs) {
    if (!act.arena.has_tag(body, tag)) return stop(Reason::tag_missing, tag);
  }
  for (const std::string& tag : act.attack.forbids) {
    if (act.arena.has_tag(body, tag)) return stop(Reason::tag_forbidden, tag);
  }
  for (const std::string& tag : act.attack.tags) {
    if (act.arena.is_immune(body, tag)) return stop(Reason::immune, tag);
  }
  return r;
}

void Touches::add(const Act& act, BodyId body, const Touch& touch) {
  const bool first = empty_ || touch.contact.distance < first_.contact.distance;
  if (act.attack.zone == ZoneRule::best) {
    const auto& hitboxes = act.arena.build(act.arena.body(body).build).hitboxes;
    if (empty_ || hitboxes[touch.hitbox].factor > hitboxes[counts_].factor) counts_ = touch.hitbox;
  } else if (first) {
    counts_ = touch.hitbox;
  }
  if (first) first_ = touch;
  empty_ = false;
}

Strike Touches::strike(const Act& act, BodyId body) const {
  Strike s;
  s.body = body;
  s.hitbox = counts_;
  s.distance = first_.contact.distance;
  s.point = first_.contact.point;
  s.normal = first_.contact.normal;
  s.power = {act.attack.power, act.arena.build(act.arena.body(body).build).hitboxes[counts_].factor};
  return s;
}

}  // namespace dardo::detail
