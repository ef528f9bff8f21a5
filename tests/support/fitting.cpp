#include "support/fitting.hpp"

#include <algorithm>
#include <cmath>

namespace dardo::test {

Vec3 mirrored(const Vec3& v) { return {v.x, -v.y, v.z}; }
Rotation mirrored(const Rotation& r) { return {mirrored(r.x), -mirrored(r.y), mirrored(r.z)}; }
Shape mirrored(Shape shape) {
  if (auto* s = std::get_if<Ball>(&shape)) s->center = mirrored(s->center);
  if (auto* s = std::get_if<Capsule>(&shape)) s->from = mirrored(s->from), s->to = mirrored(s->to);
  if (auto* s = std::get_if<Box>(&shape)) s->center = mirrored(s->center), s->turn = mirrored(s->turn);
  if (auto* s = std::get_if<Cylinder>(&shape)) s->from = mirrored(s->from), s->to = mirrored(s->to);
  if (auto* s = std::get_if<Cone>(&shape)) s->apex = mirrored(s->apex), s->base = mirrored(s->base);
  if (auto* s = std::get_if<Triangle>(&shape))
    s->a = mirrored(s->a), s->b = mirrored(s->b), s->c = mirrored(s->c);
  if (auto* s = std::get_if<Hull>(&shape)) {
    for (Vec3& p : s->points) p = mirrored(p);
  }
  return shape;
}

namespace {

template <class T>
void scale_lengths(T& v, double s, const Range& range = {}) {
  if constexpr (std::is_same_v<T, double> || std::is_same_v<T, Vec3>) {
    if (range.unit == Unit::metres || range.unit == Unit::speed) v = v * s;
  } else if constexpr (kIsVariant<T>) {
    std::visit([&](auto& kind) { scale_lengths(kind, s); }, v);
  } else if constexpr (kIsOptional<T>) {
    if (v) scale_lengths(*v, s, range);
  } else if constexpr (std::is_same_v<T, std::vector<Vec3>>) {
    for (Vec3& point : v) point = point * s;
  } else if constexpr (std::is_same_v<T, std::vector<GrownArea>> ||
                       std::is_same_v<T, std::vector<SwingKey>>) {
    for (auto& item : v) scale_lengths(item, s);
  } else if constexpr (std::is_same_v<T, std::vector<planar::Vec2>>) {
    for (planar::Vec2& corner : v) corner.x *= s, corner.y *= s;
  } else if constexpr (HasRows<T>) {
    each_row<T>([&](const auto& r) {
      if constexpr (kIsInline<decltype(r)>) {
        scale_lengths(v.*r.member, s);
      } else {
        scale_lengths(v.*r.member, s, r.range);
      }
    });
  }
}

/// All its lengths in another scale.
void enlarge(AreaShape& shape, double factor) { scale_lengths(shape, factor); }

void fit(AreaDelivery& area) {
  std::visit(
      [](auto& s) {
        if constexpr (requires { s.near; }) {
          if (s.far < s.near) std::swap(s.far, s.near);
          s.far = std::max(s.far, 1.0);
        }
        if constexpr (requires { s.low; }) {
          if (s.high < s.low) std::swap(s.high, s.low);
        }
        if constexpr (requires { s.length; }) s.length = std::max(s.length, 2.0);
        // Wide enough that somebody is often within.
        if constexpr (requires { s.half.x; }) s.half = {s.half.x + 5, s.half.y + 5, s.half.z + 2};
        if constexpr (requires { s.radius; }) s.radius += 1.5;
        if constexpr (requires { s.far; }) s.far += 5;
        if constexpr (requires { s.low; }) s.high += 1;
        if constexpr (requires { s.points; }) s.points = {{-1, -1, -1}, {3, 0, 0}, {0, 2, 0}, {0, 0, 2}};
        if constexpr (requires { s.polygon; }) s.polygon = {{-1, -1.5}, {4, -1}, {4, 1}, {-1, 1.5}};
      },
      area.shape);
  if (area.share)
    area.share = std::clamp(*area.share, 0.05, 0.4), area.inside = AreaDelivery::Inside::touches;
}

void fit_lasting(AreaDelivery& area) {
  Lasts& lasts = *area.lasts;
  area.share.reset();
  if (area.inside == AreaDelivery::Inside::whole) area.inside = AreaDelivery::Inside::centre;
  lasts.for_s = std::clamp(lasts.for_s, 0.25, 2.0);
  if (lasts.every_s < 0.1) lasts.every_s = 0.25;
  if (lasts.strikes) lasts.strikes = std::min(*lasts.strikes, 6u);
  const double fast = length(lasts.velocity);
  if (fast > 12) lasts.velocity = lasts.velocity * (12 / fast);
  lasts.growth = std::min(lasts.growth, 10.0);
  double time = 0;
  lasts.grows.resize(std::min<std::size_t>(lasts.grows.size(), 3));
  if (std::holds_alternative<HalfSpaceArea>(area.shape)) lasts.grows.clear();
  for (std::size_t i = 0; i < lasts.grows.size(); ++i) {
    GrownArea& g = lasts.grows[i];
    g.shape = area.shape;
    enlarge(g.shape, std::array{1.5, 0.5, 2.0}[i]);
    g.time_s = std::max(time + 0.25, std::min(g.time_s, 2.0));
    time = g.time_s;
  }
  if (!lasts.grows.empty() || std::holds_alternative<PrismArea>(area.shape) ||
      std::holds_alternative<HullArea>(area.shape) || std::holds_alternative<HalfSpaceArea>(area.shape))
    lasts.growth = 0;
}

void fit(SwingDelivery& swing) {
  AreaDelivery as{.shape = swing.blade};
  if (std::holds_alternative<HalfSpaceArea>(as.shape)) as.shape = BoxArea{{1, 0.25, 0.25}};
  fit(as);
  swing.blade = as.shape;
  swing.keys.resize(std::clamp<std::size_t>(swing.keys.size(), 1, 4));
  double time = 0;
  for (SwingKey& key : swing.keys) {
    key.time_s = std::max(time, std::min(key.time_s, 2.0));
    time = key.time_s + 0.25;
    key.at = {std::clamp(key.at.x, -2.0, 2.0), std::clamp(key.at.y, -2.0, 2.0),
              std::clamp(key.at.z, -1.0, 1.0)};
    key.angle = std::fmod(key.angle, 4 * units::kPi);
  }
  if (length(swing.axis) < 0.5) swing.axis = {0, 0, 1};
  swing.from_s = std::min(swing.from_s, swing.keys.back().time_s);
  swing.to_s = std::max({swing.from_s, swing.to_s, swing.keys.front().time_s});
  if (swing.again_after_s) swing.again_after_s = std::max(0.1, *swing.again_after_s);
}

void fit(TrapDelivery& trap) {
  AreaDelivery as{.shape = trap.shape};
  fit(as);
  trap.shape = as.shape;
  trap.for_s = std::clamp(trap.for_s, 0.5, 2.0);
  trap.armed_after_s = std::min(trap.armed_after_s, trap.for_s);
  trap.times = std::min(trap.times, 4u);
  if (trap.rest_s < 0.1) trap.rest_s = 0;
  if (!(trap.vulnerable > 0)) trap.struck_sets_off = false;
}

void fit(DashDelivery& dash) {
  if (dash.speed) dash.speed = std::clamp(*dash.speed, 8.0, 40.0);
  if (dash.distance) dash.distance = std::max(0.5, *dash.distance), dash.beside.reset();
  if (!dash.beside) dash.side = DashDelivery::Side::near;
  dash.rise = dash.speed ? std::min(dash.rise, 2.0) : 0;
}

void fit(ChainDelivery& chain) {
  chain.hop = std::max(chain.hop, 2.0), chain.hop_ratio = std::clamp(chain.hop_ratio, 0.5, 2.0);
  chain.hops = std::min(chain.hops, 5u), chain.next = std::min(chain.next, 3u);
  chain.delay_s = std::min(chain.delay_s, 0.25);
  if (chain.speed > 0) chain.speed = std::max(chain.speed, 16.0);
}

void fit(Falloff& falloff) {
  double far = 0;
  for (FalloffPoint& p : falloff.points) p.distance = far = std::max(far + 0.5, p.distance);
  if (!falloff.points.empty()) falloff.curve = Falloff::Curve::none;
}
void fit(Push& push) {
  if (push.strength == 0) push.strength = -3;
  push.mass = "health";
  fit(push.falloff);
}
/// A number that bodies have, so that it counts; small amounts, so that some fall and some do not.
void fit(Damage& d) {
  d.from = "health", d.amount = 2 + std::min(d.amount, 10.0);
  if (d.up_to) d.up_to = std::max(d.amount, std::min(*d.up_to, 15.0));
}
void fit(Heal& h) {
  h.to = "health", h.amount = 1 + std::min(h.amount, 5.0);
  if (h.up_to) h.up_to = std::max(h.amount, std::min(*h.up_to, 8.0));
}
void fit(Change& c) {
  c.number = "courage";
  if (c.set_to) c.by = 0, c.up_to.reset();
  if (c.up_to) c.up_to = std::max(c.by, *c.up_to);
}
void fit(Custom& c) { c.name = "gong"; }
void fit(Status& s) {
  s.name = s.again == Status::Again::add ? "burning" : "soaked";
  s.lasts_s = std::isinf(s.lasts_s) ? (s.ticks ? 1.0 : s.lasts_s) : std::clamp(s.lasts_s, 0.1, 2.0);
  s.most = s.again == Status::Again::add ? std::min(s.most, 3u) : 1;
  s.ends = s.ends.empty() ? s.ends : std::vector<std::string>{s.name == "soaked" ? "burning" : "soaked"};
  if (!s.ticks) return;
  s.ticks->every_s = std::clamp(s.ticks->every_s, 0.125, 1.0);
  if (s.ticks->effects.empty()) s.ticks->effects.push_back(Damage{.amount = 2});
  for (TickEffect& t : s.ticks->effects) std::visit([](auto& e) { fit(e); }, t);
}
void fit(Effect& e) {
  std::visit([](auto& what) { fit(what); }, e.what);
  if (std::holds_alternative<Push>(e.what)) e.on = Effect::On::struck;
  if (e.needs == std::vector<std::string>{"timber"}) e.needs.clear();
}

/// The moments that an attack may come to.
bool comes_to(const Attack& a, Then::When when) {
  using When = Then::When;
  const auto* area = std::get_if<AreaDelivery>(&a.delivery);
  const auto* shot = std::get_if<ShotDelivery>(&a.delivery);
  const bool waits = std::holds_alternative<TrapDelivery>(a.delivery);
  const bool dashes = std::holds_alternative<DashDelivery>(a.delivery);
  const bool lasts = (area != nullptr && area->lasts) || waits || dashes ||
                     std::holds_alternative<SwingDelivery>(a.delivery);
  switch (when) {
    case When::apex:
      return shot != nullptr &&
             (std::holds_alternative<FallingPath>(shot->path) || std::holds_alternative<LobPath>(shot->path));
    case When::near: return shot != nullptr;
    case When::release: return true;
    case When::hop: return std::holds_alternative<ChainDelivery>(a.delivery);
    case When::surface:
      return area == nullptr && !lasts && !std::holds_alternative<ChainDelivery>(a.delivery);
    case When::comes_in:
    case When::goes_out: return lasts;
    case When::interval: return area != nullptr && area->lasts && !std::isinf(area->lasts->every_s);
    case When::landing: return dashes;
    case When::trigger: return waits;
    case When::strike: return !waits;
    case When::end: return true;
  }
  return false;
}

void mirror(AreaShape& shape) {
  if (auto* s = std::get_if<CapsuleArea>(&shape)) s->from = mirrored(s->from), s->to = mirrored(s->to);
  if (auto* s = std::get_if<HullArea>(&shape)) {
    for (Vec3& p : s->points) p = mirrored(p);
  }
  if (auto* s = std::get_if<PrismArea>(&shape)) {
    for (planar::Vec2& c : s->polygon) c.y = -c.y;
  }
}

/// Some attackers are ready for it, some are not.
void fit(Readiness& r) {
  if (r.costs.size() > 1) r.costs.resize(1);
  for (Cost& c : r.costs) {
    c.number = "health", c.amount = std::min(c.amount, 12.0);
    c.leaves = std::min(c.leaves, c.leaves_share.empty() ? 8.0 : 1.0);
    if (!c.leaves_share.empty()) c.leaves_share = "health";
  }
  // Each keeps some from it: seldom all at once.
  r.needs.clear();
  if (!r.costs.empty()) r.forbids.clear(), r.facing.reset();
  if (r.facing) r.facing = std::max(*r.facing, 2.0);
  if (r.sight) r.sight = Sight{};
  r.nearest = std::min(r.nearest, 1.0);
  if (r.farthest) r.farthest = std::max(*r.farthest, 20.0);
}

}  // namespace

/// Makes what was drawn mean something: nothing is refused.
void fit(Attack& a) {
  if (a.reach.far < 4) a.reach.far = 40;
  a.reach.near = std::min(a.reach.near, a.reach.far);
  if (a.who == Relations{}) a.who = {Relation::foe};
  a.facing_within.reset();
  if (a.needs == std::vector<std::string>{"timber"})
    a.needs.clear();  // a material, which nobody has as a tag
  // Each keeps some away: seldom all at once.
  if (!a.needs.empty()) a.forbids.clear();
  if (!a.needs.empty() || !a.forbids.empty() || !a.conditions.empty() || a.sight) a.rules.clear();
  if (!a.needs.empty() || a.sight) a.conditions.clear();
  auto* area = std::get_if<AreaDelivery>(&a.delivery);
  auto* swing = std::get_if<SwingDelivery>(&a.delivery);
  auto* trap = std::get_if<TrapDelivery>(&a.delivery);
  auto* dash = std::get_if<DashDelivery>(&a.delivery);
  for (auto* effects : {&a.effects, &a.at_release}) {
    for (Effect& effect : *effects) fit(effect);
  }
  std::erase_if(a.at_release, [](const Effect& e) { return std::holds_alternative<Push>(e.what); });
  for (Effect& effect : a.at_release) effect.on = Effect::On::struck;
  // What comes to the attacker from each of several is told apart by their order.
  if (area != nullptr && a.effect_order == EffectOrder::by_effect) {
    Effect first(Change{.number = "courage", .by = 1}), then(Damage{.amount = 2, .from = "courage"});
    first.on = then.on = Effect::On::attacker;
    a.effects.push_back(first), a.effects.push_back(then);
  }
  if (a.by_distance) fit(*a.by_distance);
  if (a.ready) fit(*a.ready);
  if (a.windup) a.windup->for_s = std::min(a.windup->for_s, 0.5);
  if (a.burst) a.burst->count = std::min(a.burst->count, 3u), a.burst->gap_s = std::min(a.burst->gap_s, 0.25);
  a.stagger_s = area != nullptr && !area->lasts ? std::min(a.stagger_s, 0.125) : 0;
  const bool in_an_instant =
      std::holds_alternative<RayDelivery>(a.delivery) || (area != nullptr && !area->lasts);
  if (!in_an_instant) a.effect_order = EffectOrder::by_target;
  if (a.effect_order == EffectOrder::by_effect) a.stagger_s = 0;
  if (auto* chain = std::get_if<ChainDelivery>(&a.delivery)) {
    fit(*chain);
    a.stopped_by = {};
  } else if (area != nullptr || swing != nullptr || trap != nullptr || dash != nullptr) {
    a.stopped_by = {};
    if (dash != nullptr) fit(*dash), a.sight.reset();
    if (dash != nullptr) a.reach = {std::min(a.reach.near, 20.0), std::min(a.reach.far, 20.0)};
    if (area != nullptr) fit(*area);
    if (area != nullptr && area->lasts) fit_lasting(*area);
    if (swing != nullptr) fit(*swing);
    if (trap != nullptr) fit(*trap), a.cap.reset(), a.sight.reset(), a.effects.clear();
    // It strikes nobody itself.
    if (trap != nullptr && a.then.empty())
      a.then.push_back({.when = Then::When::trigger,
                        .attacks = {{.name = "attack", .delivery = AreaDelivery{.shape = BallArea{3}}}}});
    if (!a.cap) a.order.clear();
  } else {
    a.cap.reset();
    const auto* flies = std::get_if<ShotDelivery>(&a.delivery);
    const auto* guided = flies != nullptr ? std::get_if<GuidedPath>(&flies->path) : nullptr;
    if (guided == nullptr || !guided->needs_sight) a.sight.reset();
    const bool at_bodies = flies != nullptr && flies->volley.spread == Volley::Spread::bodies;
    if (!at_bodies && (guided == nullptr || guided->lost != GuidedPath::Lost::pick_anew)) a.order.clear();
    if (a.sight) a.sight->scales_power = false;
  }
  if (a.sight) {
    if (a.sight->through == Passage::feet) a.sight->through = Passage::blasts;
    a.sight->place.reset();
    a.sight->thickness = std::min(a.sight->thickness, 0.25), a.sight->least = std::min(a.sight->least, 0.5);
    Relations others;
    for (const Relation r : {Relation::foe, Relation::friendly, Relation::neutral}) {
      if (a.sight->blocked_by.has(r)) others.add(r);
    }
    a.sight->blocked_by = others;
  }
  if (auto* ray = std::get_if<RayDelivery>(&a.delivery)) {
    ray->pierce.speed_loss = 0, ray->ricochet.least_speed = 0, ray->radius = std::min(ray->radius, 0.5);
    ray->ricochet.count = std::min(ray->ricochet.count, 4u);
    for (auto* materials : {&ray->pierce.materials, &ray->ricochet.materials}) {
      if (*materials == std::vector<std::string>{"wet"}) *materials = {"glass"};
    }
  }
  auto* shot = std::get_if<ShotDelivery>(&a.delivery);
  if (shot != nullptr) {
    shot->life_s = std::clamp(shot->life_s, 0.1, 2.0);
    shot->volley.count = std::min(shot->volley.count, 4u);
    shot->volley.gap_s = std::min(shot->volley.gap_s, 0.25);
    // Why a shape that turns with its way struck nobody takes long to tell: seldom.
    if (!std::holds_alternative<StraightPath>(shot->path) && shot->radius < 0.3) shot->shape.reset();
    if (shot->shape) shot->radius = 0;
    // No material is called so; what is listed must be there, and what is passed often is.
    for (auto* materials : {&shot->pierce.materials, &shot->ricochet.materials}) {
      if (*materials == std::vector<std::string>{"wet"}) *materials = {"glass"};
    }
    if (shot->pierce.thickness > 0 && shot->pierce.materials.empty()) shot->pierce.materials = {"timber"};
    if (shot->pierce.power_loss > 0)
      shot->pierce.thickness = std::max(shot->pierce.thickness, 4.0),
      shot->pierce.materials = {"timber", "glass"};
    if (auto* guided = std::get_if<GuidedPath>(&shot->path);
        guided != nullptr && guided->lost != GuidedPath::Lost::fly_on)
      shot->pierce.bodies = std::max(shot->pierce.bodies, 3u);
    if (auto* curve = std::get_if<CurvePath>(&shot->path); curve != nullptr) {
      // Whom it has struck it may meet again on its way back.
      if (!curve->strikes_again) curve->returns = true, curve->side = 0;
      if (curve->returns) shot->pierce.bodies = std::max(shot->pierce.bodies, 3u);
    }
    if (auto* curve = std::get_if<CurvePath>(&shot->path);
        curve != nullptr && !curve->through.empty() && !curve->returns)
      curve->side = curve->rise = 0;
    if (auto* straight = std::get_if<StraightPath>(&shot->path))
      straight->top_speed = std::max(straight->top_speed, straight->speed);
    if (auto* lob = std::get_if<LobPath>(&shot->path)) {
      if (lob->flight_time_s && lob->apex) lob->apex.reset();
      if (!lob->flight_time_s && !lob->apex) lob->flight_time_s = 1;
    }
  }
  // At a point that means nothing.
  if (needs_body(a) || (shot != nullptr && std::holds_alternative<LobPath>(shot->path))) {
    if (a.windup) a.windup->aim = Windup::Aim::release;
    if (a.burst) a.burst->aims_anew = true;
  }
  for (Then& then : a.then) {
    then.delay_s = std::min(then.delay_s, 0.5);
    if (!comes_to(a, then.when)) then.when = trap != nullptr ? Then::When::trigger : Then::When::end;
    then.distance = then.when == Then::When::near ? std::max(then.distance, 0.5) : 0;
    for (Attack& child : then.attacks) {
      fit(child), child.ready.reset();
      child.windup.reset();
      if (child.burst)
        child.burst->aims_anew = child.burst->follows_muzzle = true, child.burst->though_fallen = false;
    }
  }
}

bool needs_body(const Attack& a) {
  const auto* shot = std::get_if<ShotDelivery>(&a.delivery);
  const auto* area = std::get_if<AreaDelivery>(&a.delivery);
  const auto* swing = std::get_if<SwingDelivery>(&a.delivery);
  const auto* trap = std::get_if<TrapDelivery>(&a.delivery);
  const auto* dash = std::get_if<DashDelivery>(&a.delivery);
  if (dash != nullptr && dash->beside) return true;
  if ((area != nullptr && area->lasts && area->lasts->on == Hangs::target) ||
      (swing != nullptr && swing->on == Hangs::target) || (trap != nullptr && trap->on == Hangs::target))
    return true;
  if (shot == nullptr) return false;
  const auto* lob = std::get_if<LobPath>(&shot->path);
  return std::holds_alternative<GuidedPath>(shot->path) || (lob != nullptr && lob->follows) ||
         std::any_of(a.then.begin(), a.then.end(), [](const Then& t) { return t.when == Then::When::near; });
}

void mirror(Attack& a) {
  if (auto* area = std::get_if<AreaDelivery>(&a.delivery)) {
    area->offset = mirrored(area->offset);
    mirror(area->shape);
    if (area->lasts) {
      area->lasts->velocity = mirrored(area->lasts->velocity);
      for (GrownArea& g : area->lasts->grows) mirror(g.shape);
    }
  }
  if (auto* swing = std::get_if<SwingDelivery>(&a.delivery)) {
    mirror(swing->blade);
    swing->axis = mirrored(swing->axis);
    for (SwingKey& key : swing->keys) key.at = mirrored(key.at), key.angle = -key.angle;
  }
  if (auto* trap = std::get_if<TrapDelivery>(&a.delivery)) mirror(trap->shape);
  for (Effect& effect : a.effects) {
    if (auto* push = std::get_if<Push>(&effect.what)) push->direction = mirrored(push->direction);
  }
  if (auto* shot = std::get_if<ShotDelivery>(&a.delivery)) {
    if (auto* p = std::get_if<CurvePath>(&shot->path)) {
      p->side = -p->side;
      for (Vec3& point : p->through) point = mirrored(point);
    }
    if (shot->shape) shot->shape = mirrored(*shot->shape);
  }
  for (Then& t : a.then) {
    for (Attack& child : t.attacks) mirror(child);
  }
}

void scale(Falloff& falloff, double s) {
  falloff.range *= s;
  for (FalloffPoint& p : falloff.points) p.distance *= s;
}

/// Everything that has a length, in another scale.
void scale(Attack& a, double s) {
  a.reach.near *= s, a.reach.far *= s;
  if (auto* area = std::get_if<AreaDelivery>(&a.delivery)) scale_lengths(*area, s);
  if (auto* swing = std::get_if<SwingDelivery>(&a.delivery)) {
    const Vec3 axis = swing->axis;
    scale_lengths(*swing, s);
    swing->axis = axis;
  }
  if (auto* trap = std::get_if<TrapDelivery>(&a.delivery)) scale_lengths(*trap, s);
  if (auto* chain = std::get_if<ChainDelivery>(&a.delivery)) scale_lengths(*chain, s);
  if (auto* dash = std::get_if<DashDelivery>(&a.delivery)) {
    for (auto* size : {&dash->speed, &dash->distance, &dash->beside}) {
      if (*size) **size *= s;
    }
    dash->rise *= s;
  }
  for (Effect& effect : a.effects) {
    if (auto* push = std::get_if<Push>(&effect.what)) scale(push->falloff, s);
  }
  if (a.by_distance) scale(*a.by_distance, s);
  if (a.ready) {
    a.ready->nearest *= s;
    if (a.ready->farthest) *a.ready->farthest *= s;
    if (a.ready->sight) a.ready->sight->thickness *= s;
  }
  if (a.sight) a.sight->thickness *= s;
  if (auto* ray = std::get_if<RayDelivery>(&a.delivery))
    ray->tracer_speed *= s, ray->radius *= s, ray->pierce.thickness *= s, ray->pierce.power_loss /= s;
  if (auto* shot = std::get_if<ShotDelivery>(&a.delivery)) {
    shot->radius *= s, shot->vulnerable *= s, shot->least_speed *= s;
    shot->pierce.thickness *= s, shot->pierce.power_loss /= s, shot->ricochet.least_speed *= s;
    if (shot->shape) {
      if (auto* b = std::get_if<Ball>(&*shot->shape)) b->radius *= s;
      if (auto* c = std::get_if<Capsule>(&*shot->shape))
        c->from = c->from * s, c->to = c->to * s, c->radius *= s;
      if (auto* b = std::get_if<Box>(&*shot->shape)) b->half = b->half * s;
      if (auto* c = std::get_if<Cylinder>(&*shot->shape))
        c->from = c->from * s, c->to = c->to * s, c->radius *= s;
      if (auto* h = std::get_if<Hull>(&*shot->shape)) {
        for (Vec3& p : h->points) p = p * s;
      }
      if (auto* t = std::get_if<Triangle>(&*shot->shape)) t->a = t->a * s, t->b = t->b * s, t->c = t->c * s;
      if (auto* c = std::get_if<Cone>(&*shot->shape))
        c->apex = c->apex * s, c->base = c->base * s, c->radius *= s;
    }
    if (auto* p = std::get_if<StraightPath>(&shot->path))
      p->speed *= s, p->acceleration *= s, p->top_speed *= s;
    if (auto* p = std::get_if<FallingPath>(&shot->path)) p->speed *= s, p->drag /= s;
    if (auto* p = std::get_if<CurvePath>(&shot->path))
      p->speed *= s, p->side *= s, p->rise *= s, scale_lengths(p->through, s);
    if (auto* p = std::get_if<GuidedPath>(&shot->path)) p->speed *= s, p->climb *= s;
    if (auto* p = std::get_if<LobPath>(&shot->path); p != nullptr && p->apex) *p->apex *= s;
  }
  for (Then& t : a.then) {
    t.distance *= s;
    for (Attack& child : t.attacks) scale(child, s);
  }
}

}  // namespace dardo::test
