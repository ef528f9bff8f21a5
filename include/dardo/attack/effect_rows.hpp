#pragma once
#include "dardo/attack/effect.hpp"
#include "dardo/attack/readiness.hpp"
#include "dardo/geometry/rows.hpp"
#include "dardo/problem.hpp"
#include "dardo/units.hpp"

// The rows of what a strike does, and of when an attack may be used. Those of all of an attack:
// dardo/attack/rows.hpp.
namespace dardo {

template <>
struct Words<Falloff::Curve> {
  static constexpr std::array all{
      Word{Falloff::Curve::none, "none", "All of it, however far."},
      Word{Falloff::Curve::linear, "linear", "1 - d, with d = distance / range."},
      Word{Falloff::Curve::smooth, "smooth", "1 - 3 d^2 + 2 d^3."},
      Word{Falloff::Curve::square, "square", "(1 - d)^2."},
  };
};
template <>
struct Rows<FalloffPoint> {
  static constexpr auto all = std::tuple{
      needed(row("distance", &FalloffPoint::distance, units::metres, "From where it is measured.")),
      needed(row("factor", &FalloffPoint::factor, units::factor, "What arrives there.")),
  };
};
template <>
struct Rows<Falloff> {
  static constexpr auto all = std::tuple{
      row("falloff", &Falloff::curve, "How much arrives by the distance, up to `range`."),
      row("range", &Falloff::range, Range{Unit::metres, 1e-6, kMaxCoordinate}, "Beyond it nothing arrives."),
      row("points", &Falloff::points, "Instead: factors by distance, evenly between them."),
  };
  static Problems across(const Falloff& falloff);
};
template <>
struct Words<Push::Toward> {
  static constexpr std::array all{
      Word{Push::Toward::outward, "outward", "From the centre of what strikes to the body's origin."},
      Word{Push::Toward::along, "along", "`direction`, in the world."},
      Word{Push::Toward::blow, "blow", "Against the normal where it is touched."},
  };
};
template <>
struct Words<Push::As> {
  static constexpr std::array all{
      Word{Push::As::velocity, "velocity", "A change of velocity."},
      Word{Push::As::impulse, "impulse", "An impulse, which the body's mass divides."},
  };
};
template <>
struct Rows<Push> {
  static constexpr auto all = std::tuple{
      needed(row("strength", &Push::strength, Range{Unit::plain, -1e9, 1e9},
                 "m/s, or N s of an impulse; below 0 it pulls.")),
      row("as", &Push::as, "What it is."),
      inlined(&Push::falloff),
      row("toward", &Push::toward, "Where it pushes."),
      row("direction", &Push::direction,
          "With `along`; else of a body whose origin is the very centre of what strikes."),
      row("mass", &Push::mass, "The number of a body that an impulse is divided by."),
      row("by_share_seen", &Push::by_share_seen, "Less by the share of it that is seen."),
  };
  static Problems across(const Push& push);
};
template <>
struct Words<Rounding> {
  static constexpr std::array all{
      Word{Rounding::none, "none", "As it is."},
      Word{Rounding::nearest, "nearest", "To the nearest whole number; halves go away from 0."},
      Word{Rounding::down, "down", "To the next whole number below."},
      Word{Rounding::up, "up", "To the next whole number above."},
  };
};
template <>
struct Rows<Damage> {
  static constexpr auto all = std::tuple{
      needed(row("amount", &Damage::amount, units::amount, "How much.")),
      row("up_to", &Damage::up_to, units::amount, "Rolled evenly from `amount` to this."),
      row("kind", &Damage::kind, "What bodies resist, or are weak to."),
      row("from", &Damage::from, "The number of the body that it is taken from; at 0 the body falls."),
      row("by_power", &Damage::by_power, "Times the power of the strike."),
      row("round", &Damage::round, "How it becomes a whole number, as the last step."),
  };
  static Problems across(const Damage& damage);
};
template <>
struct Rows<Heal> {
  static constexpr auto all = std::tuple{
      needed(row("amount", &Heal::amount, units::amount, "How much.")),
      row("up_to", &Heal::up_to, units::amount, "Rolled evenly from `amount` to this."),
      row("to", &Heal::to, "The number of the body that it is given to."),
      row("at_most", &Heal::at_most, "The number of the body that it does not rise beyond."),
      row("by_power", &Heal::by_power, "Times the power of the strike."),
      row("round", &Heal::round, "How it becomes a whole number, as the last step."),
  };
  static Problems across(const Heal& heal);
};
template <>
struct Rows<Change> {
  static constexpr auto all = std::tuple{
      needed(row("number", &Change::number, "Which of its numbers; who has none gets it, from 0.")),
      row("by", &Change::by, units::any_amount, "So much is added; below 0: taken."),
      row("up_to", &Change::up_to, units::any_amount, "Rolled evenly from `by` to this."),
      row("set_to", &Change::set_to, units::any_amount, "Instead: what it becomes."),
  };
  static Problems across(const Change& change);
};
template <>
struct Rows<Custom> {
  static constexpr auto all = std::tuple{
      needed(row("name", &Custom::name, "The game's own name for it.")),
      row("text", &Custom::text, units::free_text, "Handed through."),
  };
  static Problems across(const Custom& custom);
};
template <>
struct Rows<TickEffect> {
  static constexpr auto all = std::tuple{
      kind<Damage>("damage", "It takes of a number of the body."),
      kind<Heal>("heal", "It gives to a number of the body."),
      kind<Change>("change", "It changes a number of the body, or sets it."),
      kind<Custom>("custom", "What the game knows by name."),
  };
};
template <>
struct Rows<Ticks> {
  static constexpr auto all = std::tuple{
      needed(row("every", &Ticks::every_s, Range{Unit::seconds, 1e-3, 1e6}, "From one tick to the next.")),
      row("at_start", &Ticks::at_start, "The first comes at once; else after an interval."),
      row("at_end", &Ticks::at_end, "One whose time is the very end still comes."),
      needed(row("effects", &Ticks::effects, "What each tick does.")),
  };
  static Problems across(const Ticks& ticks);
};
template <>
struct Words<Status::Again> {
  static constexpr std::array all{
      Word{Status::Again::renew, "renew",
           "It lasts at least as long from now; its ticks go on as they were."},
      Word{Status::Again::keep, "keep", "It stays as it is."},
      Word{Status::Again::add, "add", "Another one beside it, up to `most`."},
  };
};
template <>
struct Rows<Status> {
  static constexpr auto all = std::tuple{
      needed(row("name", &Status::name, "Its name; a body has it by that.")),
      needed(row("lasts", &Status::lasts_s, units::endless(Range{Unit::seconds, 0, 1e6}),
                 "How long; endless, without ticks: until something ends it.")),
      row("again", &Status::again, "What becomes of one that the body has already."),
      row("most", &Status::most, units::count(1, 100),
          "With `add`: so many at once; instead of more the oldest is renewed."),
      row("gives", &Status::gives, "Tags that the body has meanwhile."),
      row("takes", &Status::takes, "Tags that it has not meanwhile."),
      row("immune", &Status::immune, "Attacks with one of these tags do not strike it meanwhile."),
      row("ends", &Status::ends, "Statuses of the body that it ends as it begins."),
      row("ticks", &Status::ticks, "What it does again and again."),
  };
  static Problems across(const Status& status);
};
template <>
struct Rows<EffectKind> {
  static constexpr auto all = std::tuple{
      kind<Push>("push", "It pushes the body, or pulls it."),
      kind<Damage>("damage", "It takes of a number of the body."),
      kind<Heal>("heal", "It gives to a number of the body."),
      kind<Change>("change", "It changes a number of the body, or sets it."),
      kind<Status>("status", "A state that the body is in for a time."),
      kind<Custom>("custom", "What the game knows by name."),
  };
};
template <>
struct Words<Effect::On> {
  static constexpr std::array all{
      Word{Effect::On::struck, "struck", "The body that is struck."},
      Word{Effect::On::attacker, "attacker", "The attacker."},
  };
};
template <>
struct Rows<Effect> {
  static constexpr auto all = std::tuple{
      inlined(&Effect::what),
      row("on", &Effect::on, "Whom it comes to."),
      row("chance", &Effect::chance, units::share, "That it comes, for each strike anew."),
      row("needs", &Effect::needs, "Tags that whom it is on must have, all of them."),
      row("forbids", &Effect::forbids, "Tags that whom it is on must not have."),
      row("name", &Effect::name,
          "Keys its chance and rolls; those of one kind and name come one after the other."),
  };
  static Problems across(const Effect& effect);
};
template <>
struct Rows<Critical> {
  static constexpr auto all = std::tuple{
      needed(row("chance", &Critical::chance, units::share, "That it comes, for each strike anew.")),
      needed(row("factor", &Critical::factor, units::factor, "Of the power, when it does.")),
  };
};
template <>
struct Words<EffectOrder> {
  static constexpr std::array all{
      Word{EffectOrder::by_target, "by_target", "All on the first who is struck, then on the next."},
      Word{EffectOrder::by_effect, "by_effect", "The first effect on all of them, then the next."},
  };
};
template <>
struct Words<Uses::Back> {
  static constexpr std::array all{
      Word{Uses::Back::one_by_one, "one_by_one", "Each so long after the one before it has come back."},
      Word{Uses::Back::together, "together", "All of them so long after the last use."},
  };
};
template <>
struct Rows<Uses> {
  static constexpr auto all = std::tuple{
      needed(row("count", &Uses::count, units::count(1, 1'000'000), "How many.")),
      needed(
          row("back_after", &Uses::back_after_s, Range{Unit::seconds, 0, 1e6}, "After so long one is back.")),
      row("back", &Uses::back, "How they come back."),
  };
};
template <>
struct Rows<Cost> {
  static constexpr auto all = std::tuple{
      needed(row("number", &Cost::number, "Which number of the attacker.")),
      row("amount", &Cost::amount, units::amount, "So much of it is spent at the release."),
      row("leaves", &Cost::leaves, units::amount, "So much must be left of it."),
      row("leaves_share", &Cost::leaves_share, "`leaves` is a share of this number of the attacker."),
  };
  static Problems across(const Cost& cost);
};
template <>
struct Rows<Before> {
  static constexpr auto all = std::tuple{
      needed(row("attack", &Before::attack, "The name of an attack.")),
      needed(row("within", &Before::within_s, Range{Unit::seconds, 0, 1e6}, "So long before at most.")),
      row("must", &Before::must, "It must have come; else it must not."),
  };
  static Problems across(const Before& before);
};
template <>
struct Rows<Readiness> {
  static constexpr auto all = std::tuple{
      row("uses", &Readiness::uses, "So many uses of one attacker, that come back."),
      row("rest", &Readiness::rest_s, Range{Unit::seconds, 0, 1e6}, "Between two uses of one attacker."),
      row("costs", &Readiness::costs, "What a use costs the attacker."),
      row("before", &Readiness::before, "Attacks of the attacker that must have come before, or must not."),
      row("needs", &Readiness::needs, "Tags that the attacker must have, by itself or by a status."),
      row("forbids", &Readiness::forbids, "Tags that the attacker must not have."),
      row("facing", &Readiness::facing, units::half_turn, "Its aim lies within this angle of its facing."),
      row("nearest", &Readiness::nearest, units::metres, "Nothing nearer is aimed at."),
      row("farthest", &Readiness::farthest, units::metres, "Nothing farther is aimed at."),
      row("sight", &Readiness::sight, "It sees the body that it is aimed at."),
  };
  static Problems across(const Readiness& readiness);
};

}  // namespace dardo
