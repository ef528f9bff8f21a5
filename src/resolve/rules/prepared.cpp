#include "resolve/rules/prepared.hpp"

#include <utility>

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

}  // namespace

Prepared::Prepared(Attack attack, const Arena& arena) : own_(std::move(attack)) {
  add_stages(own_);
  bind(arena);
}

void Prepared::borrow(const Attack& attack, const Arena& arena) {
  add_stages(attack);
  bind(arena);
}

Stage& Prepared::next_stage(const Attack& attack, std::uint32_t depth) {
  if (count_ == stages_.size()) stages_.emplace_back();
  Stage& s = stages_[count_++];
  s.attack = &attack, s.depth = depth, s.leads_on = 0, s.near.reset();
  s.shot = std::get_if<ShotDelivery>(&attack.delivery);
  if (s.shot != nullptr) s.law = law_of(s.shot->path);
  return s;
}

void Prepared::add_stages(const Attack& root) {
  count_ = 0;
  next_stage(root, 0);
  for (std::uint32_t i = 0; i < count_; ++i) {
    stages_[i].first_child = count_;
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
    s.names_tags = !s.needs.empty() || !s.forbids.empty() || !s.tags.empty();
    if (s.shot == nullptr) continue;
    s.turns_at = named(arena, s.shot->ricochet.materials);
    s.turns_at.all = s.shot->ricochet.materials.empty();
    s.pierced = named(arena, s.shot->pierce.materials);
  }
  words_ = arena.words(), materials_ = arena.material_count();
}

}  // namespace dardo::detail
