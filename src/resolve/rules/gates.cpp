#include <algorithm>

#include "resolve/carriers/shot/flight.hpp"

namespace dardo::detail {

Relation Attempt::relation_to(BodyId body) const {
  return body == launch.by ? Relation::self : arena.relation(faction, arena.body(body).faction);
}

namespace {

bool is_up(const Attempt& attempt, BodyId body) { return !attempt.arena.body(body).fallen; }

}  // namespace

Reading stands(const Attempt& attempt, BodyId body) {
  Reading r{.gate = Gate::stands};
  if (!is_up(attempt, body)) r.reason = Reason::fallen;
  return r;
}

Reading not_self(const Attempt& attempt, BodyId body) {
  Reading r{.gate = Gate::self};
  if (body != attempt.launch.by) return r;
  r.relation = Relation::self;
  if (!attempt.attack.who.has(Relation::self)) r.reason = Reason::self;
  return r;
}

Reading related(const Attempt& attempt, BodyId body) {
  Reading r{.gate = Gate::relation};
  r.relation = attempt.relation_to(body);
  if (!attempt.attack.who.has(r.relation)) r.reason = Reason::relation;
  return r;
}

Reading tagged(const Attempt& attempt, BodyId body) {
  Reading r{.gate = Gate::tags};
  const auto stop = [&](Reason reason, const std::string& tag) {
    r.reason = reason;
    r.tag = tag;
    return r;
  };
  for (const std::string& tag : attempt.attack.needs) {
    if (!attempt.arena.has_tag(body, tag)) return stop(Reason::tag_missing, tag);
  }
  for (const std::string& tag : attempt.attack.forbids) {
    if (attempt.arena.has_tag(body, tag)) return stop(Reason::tag_forbidden, tag);
  }
  for (const std::string& tag : attempt.attack.tags) {
    if (attempt.arena.is_immune(body, tag)) return stop(Reason::immune, tag);
  }
  return r;
}

bool eligible(const Attempt& attempt, BodyId body) {
  // The same as all four gates one after the other, without their words.
  const Attack& attack = attempt.attack;
  if (!is_up(attempt, body) || !attack.who.has(attempt.relation_to(body))) return false;
  const bool wants_tags = !attack.needs.empty() || !attack.forbids.empty() || !attack.tags.empty();
  return !wants_tags || tagged(attempt, body).reason == Reason::none;
}

Strike strike_from(const Attempt& attempt, BodyId body, const std::vector<Touch>& touches) {
  const auto& hitboxes = attempt.arena.build(attempt.arena.body(body).build).hitboxes;
  const Touch* first = &touches.front();
  const Touch* counts = first;
  for (const Touch& t : touches) {
    if (t.contact.distance < first->contact.distance) first = &t;
  }
  if (attempt.attack.zone == ZoneRule::first) {
    counts = first;
  } else {
    for (const Touch& t : touches) {
      if (hitboxes[t.hitbox].factor > hitboxes[counts->hitbox].factor) counts = &t;
    }
  }
  Strike s;
  s.body = body;
  s.hitbox = counts->hitbox;
  s.distance = first->contact.distance;
  s.point = first->contact.point;
  s.normal = first->contact.normal;
  s.power = {attempt.attack.power, hitboxes[counts->hitbox].factor};
  return s;
}

std::optional<WallContact> first_wall(const Arena& arena, const Ray& line, Passage passage) {
  std::optional<WallContact> first;
  arena.walls_along(line, line.length, [&](WallId wall, double limit) {
    if (!arena.blocks(wall).has(passage) || arena.wall(wall).lets_pass(line.direction)) return limit;
    const auto contact = ray(arena.wall(wall).box, line);
    if (!contact || contact->distance > limit) return limit;
    if (!first || contact->distance < first->contact.distance || wall < first->wall) first = {wall, *contact};
    return std::min(limit, contact->distance);
  });
  return first;
}

}  // namespace dardo::detail
