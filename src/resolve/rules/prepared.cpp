#include "resolve/rules/prepared.hpp"

#include <tuple>
#include <utility>

#include "resolve/carriers/kinds.hpp"

namespace dardo::detail {
namespace {

void name(NamedWords& out, const Arena& arena, const std::vector<std::string>& words) {
  if (words.empty() && out.empty()) return;
  out = {};
  for (const std::string& word : words) {
    if (const auto number = arena.find_word(word)) {
      out.known.add(*number);
    } else {
      out.unknown.push_back(word);
    }
  }
}

NamedMaterials named(const Arena& arena, const std::vector<std::string>& materials) {
  NamedMaterials out;
  for (const std::string& name : materials) {
    if (const auto material = arena.find_material(name)) out.known.add(material->index);
    out.ground = out.ground || name == "ground";
  }
  return out;
}

/// What may be struck stands in as a shot that stays where it is.
std::shared_ptr<const ShotDelivery> shell_of(const std::optional<LastingPlan>& plan) {
  if (!plan || !(plan->vulnerable > 0)) return nullptr;
  ShotDelivery shell;
  shell.life_s = plan->to_s, shell.sticks = true, shell.vulnerable = plan->vulnerable;
  return std::make_shared<const ShotDelivery>(std::move(shell));
}

}  // namespace

void name(std::vector<OrderKey>& out, const Arena& arena, const Order& order) {
  out.clear();
  for (const OrderBy& by : order) {
    OrderKey key;
    if (const auto* d = std::get_if<ByDistance>(&by)) key.most = *d == ByDistance::most;
    if (const auto* a = std::get_if<ByAngle>(&by))
      key.by = OrderKey::By::angle, key.most = *a == ByAngle::most;
    if (const auto* n = std::get_if<ByNumber>(&by)) {
      key.by = OrderKey::By::number, key.most = n->take == ByNumber::Take::most;
      key.word = arena.find_number(n->name), key.name = n->name;
    }
    if (const auto* t = std::get_if<ByTag>(&by))
      key.by = OrderKey::By::tag, key.word = arena.find_word(t->tag), key.name = t->tag;
    if (std::holds_alternative<ByChance>(by)) key.by = OrderKey::By::chance;
    out.push_back(key);
  }
}

Problems unknown_rules(const Attack& attack, const Rules& rules) {
  Problems out;
  for (std::size_t i = 0; i < attack.rules.size(); ++i) {
    if (rules.find(attack.rules[i]) == nullptr)
      out.push_back({"/rules/" + std::to_string(i), "\"" + attack.rules[i] + "\" is no rule that was given",
                     "a rule of the game's own with that name"});
  }
  for (std::size_t i = 0; i < attack.then.size(); ++i) {
    for (std::size_t k = 0; k < attack.then[i].attacks.size(); ++k) {
      for (Problem& p : unknown_rules(attack.then[i].attacks[k], rules))
        out.push_back({"/then/" + std::to_string(i) + "/attacks/" + std::to_string(k) + p.where,
                       std::move(p.what), std::move(p.fix)});
    }
  }
  return out;
}

const Rules& no_rules() {
  static const Rules none;
  return none;
}

Prepared::Prepared(Attack attack, const Arena& arena, const Rules& rules) : own_(std::move(attack)) {
  add_stages(own_, rules);
  bind(arena);
}

void Prepared::borrow(const Attack& attack, const Arena& arena, const Rules& rules) {
  add_stages(attack, rules);
  bind(arena);
}

Stage& Prepared::next_stage(const Attack& attack, std::uint32_t depth) {
  if (count_ == stages_.size()) stages_.emplace_back();
  Stage& s = stages_[count_++];
  s.attack = &attack, s.depth = depth, s.leads_on = 0, s.near.reset();
  s.shot = std::get_if<ShotDelivery>(&attack.delivery);
  s.lasting = lasting_plan(attack);
  dashes_ = dashes_ || (s.lasting && s.lasting->by_hitboxes());
  s.shell = shell_of(s.lasting);
  if (s.shell != nullptr) s.shot = s.shell.get();
  if (s.shot != nullptr) s.law = law_of(s.shot->path);
  s.region = region_of(attack);
  s.name = !attack.name.empty() || count_ == 1 ? Name(attack.name) : stages_[0].name;
  make(s.effects, attack.effects), make(s.at_release, attack.at_release);
  changes_states_ = changes_states_ || detail::changes_states(attack);
  s.costs.clear();
  if (attack.ready) {
    for (const Cost& c : attack.ready->costs) s.costs.emplace_back(c.number);
  }
  s.heeds_states = !attack.needs.empty() || !attack.forbids.empty() || !attack.tags.empty() ||
                   !attack.conditions.empty() || !attack.rules.empty();
  heeds_states_ = heeds_states_ || s.heeds_states;
  s.at_once = goes(attack) == Goes::at_once;
  std::tie(s.pierce, s.ricochet) = what_it_meets(attack);
  return s;
}

void Prepared::add_stages(const Attack& root, const Rules& rules) {
  count_ = 0, dashes_ = changes_states_ = heeds_states_ = false;
  next_stage(root, 0);
  for (std::uint32_t i = 0; i < count_; ++i) {
    stages_[i].first_child = count_;
    stages_[i].rules.clear();
    for (const std::string& rule : stages_[i].attack->rules) stages_[i].rules.push_back(rules.find(rule));
    for (const Then& then : stages_[i].attack->then) {
      stages_[i].leads_on |= 1u << static_cast<unsigned>(then.when);
      if (then.when == Then::When::near && !stages_[i].near) stages_[i].near = then.distance;
      for (const Attack& child : then.attacks) next_stage(child, stages_[i].depth + 1);
    }
  }
}

void Prepared::bind(const Arena& arena) {
  for (std::uint32_t i = 0; i < count_; ++i) {
    Stage& s = stages_[i];
    name(s.needs, arena, s.attack->needs);
    name(s.forbids, arena, s.attack->forbids);
    name(s.tags, arena, s.attack->tags);
    name(s.order, arena, s.attack->order);
    bind_kinds(s.effects, arena), bind_kinds(s.at_release, arena);
    s.conditions.clear();
    for (const Condition& c : s.attack->conditions) {
      ConditionKey& key = s.conditions.emplace_back();
      key.of = c.of, key.number = arena.find_number(c.number);
      if (c.than) key.other_of = c.than->of, key.other = arena.find_number(c.than->number);
    }
    s.names_tags = !s.needs.empty() || !s.forbids.empty() || !s.tags.empty();
    if (s.pierce == nullptr) continue;
    s.turns_at = named(arena, s.ricochet->materials);
    s.turns_at.all = s.ricochet->materials.empty();
    s.pierced = named(arena, s.pierce->materials);
  }
  words_ = arena.words(), numbers_ = arena.numbers(), materials_ = arena.material_count();
}

}  // namespace dardo::detail
