#include "resolve/rules/prepared.hpp"

#include <utility>

namespace dardo::detail {
namespace {

void name(NamedWords& out, const Arena& arena, const std::vector<std::string>& words) {
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
  stages_.clear();
  add_stages(attack);
  bind(arena);
}

void Prepared::add_stages(const Attack& root) {
  stages_.push_back({.attack = &root});
  for (std::uint32_t i = 0; i < stages_.size(); ++i) {
    const Attack& attack = *stages_[i].attack;
    stages_[i].first_child = size();
    stages_[i].shot = std::get_if<ShotDelivery>(&attack.delivery);
    if (stages_[i].shot != nullptr) stages_[i].law = law_of(stages_[i].shot->path);
    for (const Then& then : attack.then) {
      stages_[i].leads_on |= 1u << static_cast<unsigned>(then.when);
      if (then.when == Then::When::near && !stages_[i].near) stages_[i].near = then.distance;
      for (const Attack& child : then.attacks)
        stages_.push_back({.attack = &child, .depth = stages_[i].depth + 1});
    }
  }
}

void Prepared::bind(const Arena& arena) {
  for (Stage& s : stages_) {
    name(s.needs, arena, s.attack->needs);
    name(s.forbids, arena, s.attack->forbids);
    name(s.tags, arena, s.attack->tags);
    if (s.shot == nullptr) continue;
    s.turns_at = named(arena, s.shot->ricochet.materials);
    s.turns_at.all = s.shot->ricochet.materials.empty();
    s.pierced = named(arena, s.shot->pierce.materials);
  }
  words_ = arena.words(), materials_ = arena.material_count();
}

}  // namespace dardo::detail
