#include "resolve/machine/plan.hpp"

#include <algorithm>
#include <utility>

namespace dardo::detail {

Plan::Plan(Attack attack) : own_(std::move(attack)) { add_stages(own_); }

void Plan::add_stages(const Attack& root) {
  stages_.push_back({&root, 0, 0});
  for (std::uint32_t i = 0; i < stages_.size(); ++i) {
    stages_[i].first_child = size();
    for (const Then& then : stages_[i].attack->then) {
      for (const Attack& child : then.attacks) stages_.push_back({&child, stages_[i].depth + 1, 0});
    }
  }
}

std::optional<double> Plan::near(std::uint32_t stage) const {
  for (const Then& then : attack(stage).then) {
    if (then.when == Then::When::near) return then.distance;
  }
  return std::nullopt;
}

bool Plan::has(std::uint32_t stage, Then::When when) const {
  const auto& all = attack(stage).then;
  return std::any_of(all.begin(), all.end(), [&](const Then& t) { return t.when == when; });
}

}  // namespace dardo::detail
