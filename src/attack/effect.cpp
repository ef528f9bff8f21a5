#include "dardo/attack/effect.hpp"

#include <algorithm>
#include <cmath>

#include "dardo/attack/rows.hpp"

namespace dardo {

double Falloff::at(double distance) const {
  if (!points.empty()) {
    if (distance <= points.front().distance) return points.front().factor;
    for (std::size_t i = 1; i < points.size(); ++i) {
      if (distance > points[i].distance) continue;
      const FalloffPoint &a = points[i - 1], &b = points[i];
      return a.factor + (b.factor - a.factor) * ((distance - a.distance) / (b.distance - a.distance));
    }
    return points.back().factor;
  }
  const double d = std::clamp(distance / range, 0.0, 1.0), left = 1 - d;
  switch (curve) {
    case Curve::none: return 1;
    case Curve::linear: return left;
    case Curve::smooth: return 1 - d * d * (3 - 2 * d);
    case Curve::square: return left * left;
  }
  return 1;
}

namespace {

void check_roll(Problems& out, double from, const std::optional<double>& up_to) {
  if (up_to && !(*up_to >= from)) out.push_back({"/up_to", "is below where it begins", "that or more"});
}
void check_named(Problems& out, const char* where, const std::string& name, const char* of) {
  if (name.empty()) out.push_back({where, "is empty", std::string("the name of ") + of});
}
void check_words(Problems& out, const char* where, const std::vector<std::string>& words, const char* of) {
  for (std::size_t i = 0; i < words.size(); ++i) {
    if (words[i].empty())
      out.push_back({where + ("/" + std::to_string(i)), "is empty", std::string("the name of ") + of});
  }
}

}  // namespace

Problems Rows<Damage>::across(const Damage& damage) {
  Problems out;
  check_roll(out, damage.amount, damage.up_to);
  check_named(out, "/from", damage.from, "a number");
  return out;
}
Problems Rows<Heal>::across(const Heal& heal) {
  Problems out;
  check_roll(out, heal.amount, heal.up_to);
  check_named(out, "/to", heal.to, "a number");
  return out;
}
Problems Rows<Change>::across(const Change& change) {
  Problems out;
  check_named(out, "/number", change.number, "a number");
  check_roll(out, change.by, change.up_to);
  if (change.set_to && (change.by != 0 || change.up_to))
    out.push_back({"/set_to", "is there beside \"by\" or \"up_to\"", "one of them"});
  return out;
}
Problems Rows<Custom>::across(const Custom& custom) {
  Problems out;
  check_named(out, "/name", custom.name, "what the game knows");
  return out;
}
Problems Rows<Ticks>::across(const Ticks& ticks) {
  if (!ticks.effects.empty()) return {};
  return {{"/effects", "is empty", "at least one effect"}};
}
Problems Rows<Status>::across(const Status& status) {
  constexpr double kMostTicks = 10'000;
  Problems out;
  check_named(out, "/name", status.name, "a status");
  if (status.most != 1 && status.again != Status::Again::add)
    out.push_back({"/most", "means nothing unless it adds", "\"again\": \"add\""});
  check_words(out, "/gives", status.gives, "a tag");
  check_words(out, "/takes", status.takes, "a tag");
  check_words(out, "/immune", status.immune, "a tag");
  check_words(out, "/ends", status.ends, "a status");
  if (status.ticks && !(status.lasts_s <= kMostTicks * status.ticks->every_s))
    out.push_back({"/lasts", "is more than 10,000 ticks long", "a shorter time, or fewer ticks"});
  return out;
}
Problems Rows<Effect>::across(const Effect& effect) {
  Problems out;
  if (effect.on == Effect::On::attacker && std::holds_alternative<Push>(effect.what))
    out.push_back({"/on", "is the attacker, but a push is of whom the strike touches", "\"struck\""});
  check_words(out, "/needs", effect.needs, "a tag");
  check_words(out, "/forbids", effect.forbids, "a tag");
  return out;
}

Problems Rows<Cost>::across(const Cost& cost) {
  Problems out;
  check_named(out, "/number", cost.number, "a number");
  if (!cost.leaves_share.empty() && cost.leaves > 1)
    out.push_back({"/leaves", "is more than a whole share", "a share from 0 to 1"});
  return out;
}
Problems Rows<Before>::across(const Before& before) {
  Problems out;
  check_named(out, "/attack", before.attack, "an attack");
  return out;
}
Problems Rows<Readiness>::across(const Readiness& ready) {
  Problems out;
  if (ready.farthest && !(*ready.farthest >= ready.nearest))
    out.push_back({"/farthest", "is nearer than \"nearest\"", "that or more"});
  check_words(out, "/needs", ready.needs, "a tag");
  check_words(out, "/forbids", ready.forbids, "a tag");
  for (std::size_t i = 0; i < ready.costs.size(); ++i) {
    for (std::size_t k = 0; k < i; ++k) {
      if (ready.costs[i].number == ready.costs[k].number)
        out.push_back(
            {"/costs/" + std::to_string(i) + "/number", "is in the list already", "each number once"});
    }
  }
  return out;
}

}  // namespace dardo
