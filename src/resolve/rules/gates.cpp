#include <algorithm>
#include <cmath>

#include "resolve/rules/let_through.hpp"

namespace dardo::detail {

Relation Act::relation_to(BodyId body) const {
  return body == launch.by ? Relation::self : arena.relation(faction, arena.faction_at(body, state_time));
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
    if (!act.has_tag(body, tag)) return stop(Reason::tag_missing, tag);
  }
  for (const std::string& tag : act.attack.forbids) {
    if (act.has_tag(body, tag)) return stop(Reason::tag_forbidden, tag);
  }
  for (const std::string& tag : act.attack.tags) {
    if (act.is_immune(body, tag)) return stop(Reason::immune, tag);
  }
  return r;
}

namespace {

/// The two sides of a condition; nothing where one has no such number.
struct Sides {
  std::optional<double> number, other;
};
Sides sides_of(const Act& act, BodyId body, std::size_t i) {
  const Condition& c = act.attack.conditions[i];
  const ConditionKey& key = act.stage.conditions[i];
  const auto number = [&](Condition::Of of, const std::string& name,
                          const std::optional<std::uint32_t>& index) {
    const BodyId whose = of == Condition::Of::target ? body : act.launch.by;
    return act.arena.has(whose) ? act.motions.number(whose, name, index, act.state_time) : std::nullopt;
  };
  return {number(key.of, c.number, key.number),
          c.than ? number(key.other_of, c.than->number, key.other) : std::optional(c.value)};
}
bool holds(Condition::Is is, double a, double b) {
  switch (is) {
    case Condition::Is::below: return a < b;
    case Condition::Is::at_most: return a <= b;
    case Condition::Is::equal: return a == b;
    case Condition::Is::at_least: return a >= b;
    case Condition::Is::above: return a > b;
  }
  return false;
}

}  // namespace

bool meets_conditions(const Act& act, BodyId body) {
  for (std::size_t i = 0; i < act.attack.conditions.size(); ++i) {
    const Sides s = sides_of(act, body, i);
    if (!s.number || !s.other || !holds(act.attack.conditions[i].is, *s.number, *s.other)) return false;
  }
  return true;
}

Reading tell_conditions(const Act& act, BodyId body) {
  Reading r{.gate = Gate::conditions};
  for (std::size_t i = 0; i < act.attack.conditions.size(); ++i) {
    const Condition& c = act.attack.conditions[i];
    const Sides s = sides_of(act, body, i);
    r.tag = s.number && !s.other ? c.than->number : c.number;
    r.measured = s.number, r.limit = s.other;
    if (!s.number || !s.other) {
      r.reason = Reason::no_number;
      return r;
    }
    r.margin = std::fabs(*s.number - *s.other);
    if (!holds(c.is, *s.number, *s.other)) {
      r.reason = Reason::condition;
      return r;
    }
  }
  return r;
}

bool passes_rules(const Act& act, BodyId body) {
  return std::all_of(act.stage.rules.begin(), act.stage.rules.end(), [&](const Rule* rule) {
    return (*rule)({act.arena, act.launch.by, body}).passes;
  });
}

Reading tell_rules(const Act& act, BodyId body) {
  Reading r{.gate = Gate::rules};
  for (std::size_t i = 0; i < act.stage.rules.size(); ++i) {
    const RuleAnswer answer = (*act.stage.rules[i])({act.arena, act.launch.by, body});
    if (answer.passes) continue;
    r.reason = Reason::rule, r.tag = act.attack.rules[i];
    if (answer.margin && std::isfinite(*answer.margin)) r.margin = std::fabs(*answer.margin);
    return r;
  }
  return r;
}

void draw_reach(const Reach& reach, const Vec3& origin, Outcome& outcome) {
  const bool ends = std::isfinite(reach.far);
  if (ends || reach.near > 0)
    outcome.marks.emplace_back(ReachMark{origin, reach.near, ends ? reach.far : reach.near});
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
