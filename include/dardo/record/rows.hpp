#pragma once
#include "dardo/record/outcome.hpp"
#include "dardo/units.hpp"

namespace dardo {

template <>
struct Words<Reason> {
  static constexpr std::array all{
      Word{Reason::none, "none", "Nothing stopped it."},
      Word{Reason::fallen, "fallen", "It does not stand any more."},
      Word{Reason::self, "self", "It is the attacker, who is not listed."},
      Word{Reason::relation, "relation", "Its relation to the attacker is not listed."},
      Word{Reason::tag_missing, "tag_missing", "It lacks a tag that the attack needs."},
      Word{Reason::tag_forbidden, "tag_forbidden", "It has a tag that the attack forbids."},
      Word{Reason::immune, "immune", "It is immune to one of the attack's tags."},
      Word{Reason::condition, "condition", "A number is not what the attack asks for."},
      Word{Reason::no_number, "no_number", "It, or the attacker, has no number that the attack asks for."},
      Word{Reason::rule, "rule", "One of the game's own rules."},
      Word{Reason::too_near, "too_near", "Nearer than the near limit."},
      Word{Reason::too_far, "too_far", "Beyond the far limit."},
      Word{Reason::missed, "missed", "The ray passes it by."},
      Word{Reason::outside, "outside", "It lies outside the area."},
      Word{Reason::partly, "partly", "Too little of it lies within the area."},
      Word{Reason::wall, "wall", "A wall stands between."},
      Word{Reason::inside_wall, "inside_wall", "The line to it starts or ends inside a wall."},
      Word{Reason::shielded, "shielded", "Another body stands before it."},
      Word{Reason::partly_seen, "partly_seen", "Too little of it is seen."},
      Word{Reason::ground, "ground", "The ground stands between."},
      Word{Reason::over, "over", "The attack's time was over before it came there."},
      Word{Reason::cap, "cap", "As many as allowed were struck before it."},
      Word{Reason::limit, "limit", "One of the launch's limits was met before: see `limits_met`."},
      Word{Reason::early, "early", "The attack's time had not come when it was there."},
      Word{Reason::waiting, "waiting", "It was inside, but as many as count at once were before it."},
      Word{Reason::visited, "visited", "A chain was there before."},
      Word{Reason::set_off, "set_off", "It set the trap off, which strikes nobody itself."},
      Word{Reason::no_way, "no_way",
           "The dash did not begin: walls stand in its way, there is no room to land, or its body had "
           "fallen."},
      Word{Reason::no_volume, "no_volume", "A share of its volume was asked for, and it has none."},
      Word{Reason::not_set_off, "not_set_off", "It never came so near that it would have set the trap off."},
  };
};
template <>
struct Words<Gate> {
  static constexpr std::array all{
      Word{Gate::stands, "stands", "It stands."},
      Word{Gate::self, "self", "It is not the attacker, unless that is listed."},
      Word{Gate::relation, "relation", "Its relation to the attacker is listed."},
      Word{Gate::tags, "tags", "Its tags let the attack through."},
      Word{Gate::conditions, "conditions", "The numbers that the attack asks for are right."},
      Word{Gate::rules, "rules", "The game's own rules let it through."},
      Word{Gate::reach, "reach", "It lies within reach, and the shape."},
      Word{Gate::time, "time", "The attack comes there in time."},
      Word{Gate::sight, "sight", "Nothing stands between."},
      Word{Gate::cap, "cap", "The cap leaves room."},
  };
};
template <>
struct Words<Ended> {
  static constexpr std::array all{
      Word{Ended::strike, "strike", "A ray, in a body."},
      Word{Ended::body, "body", "A ray, in a body that stops it without being struck."},
      Word{Ended::wall, "wall", "A ray, a shot or a blade, in a wall."},
      Word{Ended::reach, "reach", "A ray, in the open at its far limit."},
      Word{Ended::muzzle_blocked, "muzzle_blocked",
           "At a wall between the attacker's centre and its muzzle."},
      Word{Ended::spent, "spent",
           "An area after its one instant; what lasts, a trap or a chain with its last strike."},
      Word{Ended::out_of_reach, "out_of_reach",
           "An area whose middle lies nearer or farther than the attack reaches."},
      Word{Ended::refused, "refused", "The launch itself was wrong: see `problems`."},
      Word{Ended::life, "life", "A shot, in the air when its lifetime was over."},
      Word{Ended::slow, "slow", "A shot, below its least speed."},
      Word{Ended::bounds, "bounds", "A shot, beyond the arena's bounds."},
      Word{Ended::rest, "rest", "A shot, rebounding ever faster: it came to rest."},
      Word{Ended::returned, "returned", "A shot, back at its thrower."},
      Word{Ended::arrived, "arrived", "A shot, at the point where its path ends; a dash, where it lands."},
      Word{Ended::lost, "lost", "A guided shot, without a target."},
      Word{Ended::ground, "ground", "A ray or a shot, on the ground."},
      Word{Ended::shot_down, "shot_down", "A shot or a trap, struck by another attack."},
      Word{Ended::stuck, "stuck", "A shot in a wall, the ground or a body, its lifetime over."},
      Word{Ended::limit, "limit", "By one of its launch's limits: see `limits_met`."},
      Word{Ended::over, "over", "What lasts, when its time was over."},
      Word{Ended::carrier_fell, "carrier_fell", "What lasts, when the body fell that it hung on."},
      Word{Ended::no_target, "no_target", "Before it began: there was nobody to choose."},
      Word{Ended::no_way, "no_way",
           "A dash that did not begin: walls stand in its way, there is no room to land, or its body had "
           "fallen."},
      Word{Ended::moved, "moved", "A dash, when the game moved its body meanwhile, or that dashed anew."},
      Word{Ended::not_ready, "not_ready", "Before it began: the attacker was not ready for it."},
  };
};
template <>
struct Words<SurfaceMet::Did> {
  static constexpr std::array all{
      Word{SurfaceMet::Did::turned, "turned", "At it."},
      Word{SurfaceMet::Did::pierced, "pierced", "It went through."},
      Word{SurfaceMet::Did::ended, "ended", "There."},
  };
};
template <>
struct Words<StatusDone::Did> {
  static constexpr std::array all{
      Word{StatusDone::Did::began, "began", "The body did not have it."},
      Word{StatusDone::Did::renewed, "renewed", "The body had it: it lasts as long from now."},
      Word{StatusDone::Did::kept, "kept", "The body had it: nothing has changed."},
      Word{StatusDone::Did::added, "added", "Beside another one."},
  };
};
template <>
struct Words<EffectSpared::Why> {
  static constexpr std::array all{
      Word{EffectSpared::Why::chance, "chance", "Its chance did not come."},
      Word{EffectSpared::Why::tag_missing, "tag_missing", "Whom it was for lacks a tag that it needs."},
      Word{EffectSpared::Why::tag_forbidden, "tag_forbidden", "Whom it was for has a tag that it forbids."},
      Word{EffectSpared::Why::nobody, "nobody", "Whom it was for has fallen, or is not there."},
  };
};
template <>
struct Words<Happening::What> {
  static constexpr std::array all{
      Word{Happening::What::released, "released", "What a release does to the attacker."},
      Word{Happening::What::ticked, "ticked", "A status."},
      Word{Happening::What::over, "over", "A status."},
  };
};
template <>
struct Words<Happening::Over> {
  static constexpr std::array all{
      Word{Happening::Over::time, "time", "Its time was over."},
      Word{Happening::Over::fell, "fell", "Its body fell."},
      Word{Happening::Over::ended, "ended", "Another status ended it."},
  };
};
template <>
struct Words<Limit> {
  static constexpr std::array all{
      Word{Limit::carriers, "carriers", "Shots, rays, areas and what else a launch begins."},
      Word{Limit::alive, "alive", "What of a launch is under way at once."},
      Word{Limit::strikes, "strikes", "Strikes of a launch."},
      Word{Limit::contacts, "contacts", "Instants in which its shots touch something."},
      Word{Limit::depth, "depth", "How deep its follow-ups nest."},
      Word{Limit::flight, "flight", "How long each of its shots flies."},
  };
};
template <>
struct Rows<Limits> {
  static constexpr auto all = std::tuple{
      row("carriers", &Limits::carriers, units::count(1, 1e9), "Shots, rays and areas that a launch begins."),
      row("alive", &Limits::alive, units::count(1, 1e9),
          "Of its shots in flight, and what lasts or hops, at once, those of a volley that wait included; no "
          "more "
          "begin meanwhile."),
      row("strikes", &Limits::strikes, units::count(1, 1e9),
          "Beyond, its shots end at whom they would strike."),
      row("contacts", &Limits::contacts, units::count(1, 1e9),
          "Instants in which its shots touch something; they end there."),
      row("depth", &Limits::depth, units::count(0, 1000), "Follow-ups that nest deeper do not begin."),
      row("flight", &Limits::flight_s, units::some_seconds, "Each shot ends then at the latest."),
  };
};

}  // namespace dardo
