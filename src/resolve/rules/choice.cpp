#include "resolve/rules/choice.hpp"

#include <limits>

#include "geometry/detail/elementary.hpp"
#include "resolve/rules/chance.hpp"

namespace dardo::detail {

double Choice::rank(const OrderKey& key, const Candidate& c) const {
  constexpr double kLast = std::numeric_limits<double>::infinity();
  const auto turned = [&](double v) { return key.most ? -v : v; };
  switch (key.by) {
    case OrderKey::By::distance: return turned(in_steps(c.distance));
    case OrderKey::By::angle: {
      const Vec3 way = c.point - from_;
      // Rounding is no direction.
      if (!(length(way) > kTouchRoom)) return 0;
      return turned(in_steps(arc_tangent(length(cross(direction_, way)), dot(direction_, way))));
    }
    case OrderKey::By::number: {
      const auto number = motions_->number(c.body, key.name, key.word, kEver);
      return number ? turned(*number) : kLast;
    }
    case OrderKey::By::tag:
      if (motions_->has_statuses(c.body)) return motions_->has_tag(c.body, key.name, kEver) ? 0 : 1;
      return key.word && motions_->arena().tags(c.body).has(*key.word) ? 0 : 1;
    case OrderKey::By::chance:
      return chance(seed_, chance_key(key_, motions_->arena().order(c.body)), Draw::choice, 0);
  }
  return 0;
}

Choice::Difference Choice::difference(const Candidate& a, const Candidate& b) const {
  for (const OrderKey& key : keys_) {
    const double one = rank(key, a), other = rank(key, b);
    if (one != other) return {&key, one, other};
  }
  return {};
}

}  // namespace dardo::detail
