#include "dardo/record/explain.hpp"

#include <algorithm>
#include <array>
#include <cassert>
#include <charconv>
#include <cmath>

#include "dardo/arena/rows.hpp"
#include "dardo/record/rows.hpp"
#include "record/detail/text.hpp"

namespace dardo {
namespace detail {
namespace {

std::string fixed(double value, int decimals) {
  std::array<char, 64> buffer;
  const auto done =
      std::to_chars(buffer.data(), buffer.data() + buffer.size(), value, std::chars_format::fixed, decimals);
  std::string text(buffer.data(), done.ptr);
  // "-0.00" is nothing that a reader wants.
  if (text.find_first_not_of("-0.") == std::string::npos && text[0] == '-') text.erase(0, 1);
  return text;
}

}  // namespace

std::string metres(double length) {
  int decimals = 2;
  const double size = std::fabs(length);
  if (size > 0 && size < 0.01) {
    if (size < 1e-6) return "less than 0.000001 m";
    for (double unit = 0.1; unit * (1 - 1e-9) > size; unit *= 0.1) ++decimals;
  }
  return fixed(length, decimals) + " m";
}

std::string short_number(double value) {
  std::array<char, 64> buffer;
  const auto done =
      std::to_chars(buffer.data(), buffer.data() + buffer.size(), value, std::chars_format::general, 6);
  return {buffer.data(), done.ptr};
}

std::string seconds(double time) { return fixed(time, 2) + " s"; }

std::string share(double part) {
  const double percent = part * 100;
  return fixed(percent, std::fabs(percent - std::round(percent)) < 0.05 ? 0 : 1) + " %";
}

std::string place(const Vec3& p) {
  return "(" + fixed(p.x, 2) + ", " + fixed(p.y, 2) + ", " + fixed(p.z, 2) + ")";
}

}  // namespace detail

using detail::metres;
using detail::place;
using detail::seconds;
using detail::share;
using detail::short_number;

std::string_view name(Reason reason) { return word_of(reason); }
std::string_view name(Gate gate) { return word_of(gate); }
std::string_view name(Ended ended) { return word_of(ended); }
std::string_view name(Limit limit) { return word_of(limit); }
std::string_view name(SurfaceMet::Did did) { return word_of(did); }
std::string_view name(Relation relation) { return word_of(relation); }
std::string_view name(Passage passage) { return word_of(passage); }

namespace {

std::string blocker_name(const Blocker& by, const Arena& arena) {
  if (!by.wall.empty()) return arena.wall(by.wall).id;
  if (by.body.empty()) return by.shot ? "a shot from a place" : "something";
  return (by.shot ? "a shot of " : "") + arena.body(by.body).id;
}

std::string passed(const Reading& r) {
  switch (r.gate) {
    case Gate::stands: return "stands";
    case Gate::self:
      return r.relation == Relation::self ? "is the attacker, who is listed" : "is not the attacker";
    case Gate::relation: return std::string(name(r.relation)) + ", who is listed";
    case Gate::tags: return "no tag stands in the way";
    case Gate::conditions: return "its numbers are right";
    case Gate::rules: return "no rule of the game's own keeps it";
    case Gate::reach:
      if (!r.measured) return "within reach";
      if (r.of_share) return share(*r.measured) + " of it lies within the area, at least " + share(*r.limit);
      if (!r.margin) return "within the area";
      return "at " + metres(*r.measured) + ", within reach (" + metres(*r.margin) + " to spare)";
    case Gate::sight:
      return r.of_share ? share(*r.measured) + " of it is seen, at least " + share(*r.limit)
                        : std::string("nothing stands between");
    case Gate::time: return "in time";
    case Gate::cap: return "the cap leaves room";
  }
  return {};
}

}  // namespace

std::string explain(const Reading& r, const Arena& arena) {
  const auto margin = [&] { return r.margin ? metres(*r.margin) : std::string("an unknown length"); };
  switch (r.reason) {
    case Reason::none: return passed(r);
    case Reason::fallen: return "has fallen";
    case Reason::self: return "is the attacker";
    case Reason::relation: return std::string(name(r.relation)) + ", not among those struck";
    case Reason::tag_missing: return "lacks the tag \"" + r.tag + "\"";
    case Reason::tag_forbidden: return "has the tag \"" + r.tag + "\"";
    case Reason::immune: return "immune to \"" + r.tag + "\"";
    case Reason::condition:
      return "its condition on \"" + r.tag + "\" does not hold: " + short_number(*r.measured) + " against " +
             short_number(*r.limit);
    case Reason::no_number: return "there is no number \"" + r.tag + "\"";
    case Reason::rule: return "the rule \"" + r.tag + "\" keeps it";
    case Reason::too_near: return "nearer than the near limit by " + margin();
    case Reason::too_far: return "beyond reach by " + margin();
    case Reason::missed: return "missed by " + margin();
    case Reason::outside: return "outside the area by " + margin();
    case Reason::partly:
      return r.margin ? "only " + share(*r.measured) + " of it lies within, less than " + share(*r.limit)
                      : std::string("lies only partly within the area");
    case Reason::no_way: return "would only be met by a dash that did not begin";
    case Reason::no_volume: return "is without volume, of which there is no share";
    case Reason::not_set_off: return "did not set it off, by " + margin();
    case Reason::partly_seen:
      return "only " + share(*r.measured) + " of it is seen, less than " + share(*r.limit);
    case Reason::wall:
    case Reason::shielded:
      return blocker_name(r.by, arena) + " stands between at " + place(r.at) + ", " + margin() + " before it";
    case Reason::inside_wall: return "the line to it starts or ends inside " + blocker_name(r.by, arena);
    case Reason::ground:
      return "the ground stands between at " + place(r.at) + ", " + margin() + " before it";
    case Reason::over:
      return "its time was over " + (r.margin ? seconds(*r.margin) : std::string("long")) + " before";
    case Reason::early:
      return "it was there " + (r.margin ? seconds(*r.margin) : std::string("long")) + " too early";
    case Reason::waiting: return "as many as count at once were inside before it";
    case Reason::visited: return "the chain was there before";
    case Reason::set_off: return "set the trap off, which strikes nobody itself";
    case Reason::cap:
      return r.margin ? "the cap was spent; the last one struck is nearer by " + margin()
                      : std::string("the cap was spent on those that come first by its order");
    case Reason::limit: return "a limit of its launch was met before";
  }
  return {};
}

namespace {

std::string briefly(const Reading& r, const Arena& arena) {
  switch (r.reason) {
    case Reason::none: return {};
    case Reason::fallen: return "fallen";
    case Reason::self: return "the attacker";
    case Reason::relation: return std::string(name(r.relation));
    case Reason::tag_missing: return "not " + r.tag;
    case Reason::tag_forbidden: return "is " + r.tag;
    case Reason::immune: return "immune: " + r.tag;
    case Reason::condition: return r.tag + " " + short_number(*r.measured);
    case Reason::no_number: return "no " + r.tag;
    case Reason::rule: return "rule: " + r.tag;
    case Reason::too_near: return "too near " + metres(*r.margin);
    case Reason::too_far: return "too far " + metres(*r.margin);
    case Reason::missed: return "missed " + metres(*r.margin);
    case Reason::outside: return r.margin ? "outside " + metres(*r.margin) : std::string("outside");
    case Reason::partly: return "partly within";
    case Reason::no_way: return "did not begin";
    case Reason::no_volume: return "no volume";
    case Reason::not_set_off: return "no trigger " + metres(*r.margin);
    case Reason::partly_seen: return "seen " + share(*r.measured);
    case Reason::wall:
    case Reason::shielded: return "behind " + blocker_name(r.by, arena);
    case Reason::inside_wall: return "inside " + blocker_name(r.by, arena);
    case Reason::ground: return "behind the ground";
    case Reason::over: return "its time was over";
    case Reason::early: return "too early";
    case Reason::waiting: return "inside, waiting";
    case Reason::visited: return "visited before";
    case Reason::set_off: return "set it off";
    case Reason::cap: return "cap spent";
    case Reason::limit: return "limit met";
  }
  return {};
}

}  // namespace

std::string explain(const Verdict& verdict, const Arena& arena) {
  if (verdict.struck) return "struck";
  const std::uint32_t stage = verdict.deciding.stage;
  std::string out = explain(verdict.deciding, arena);
  if (stage > 0) out = "what follows" + (stage > 1 ? " (" + std::to_string(stage) + ")" : "") + ": " + out;
  return out;
}

bool nearly_struck(const Verdict& verdict) {
  constexpr double kMetres = 1, kSeconds = 0.5, kShare = 0.1;
  const Reading& r = verdict.deciding;
  if (verdict.struck) return false;
  if (r.gate == Gate::cap) return true;
  if (!r.margin) return false;
  if (r.of_share) return *r.margin <= kShare;
  if (r.gate == Gate::time) return *r.margin <= kSeconds;
  return r.gate == Gate::reach && *r.margin <= kMetres;
}

std::string explain_briefly(const Verdict& verdict, const Arena& arena) {
  if (verdict.struck) return "struck";
  return (verdict.deciding.stage > 0 ? "then: " : "") + briefly(verdict.deciding, arena);
}

std::string explain_end(const Outcome& outcome, const Arena& arena) {
  const std::string lasted = seconds(outcome.end_s - outcome.start_s);
  // Of what flies the time says more than the straight line.
  const bool flew = outcome.end_s > outcome.start_s &&
                    std::none_of(outcome.marks.begin(), outcome.marks.end(), [&](const Mark& m) {
                      const auto* ray = std::get_if<PathMark>(&m);
                      return ray != nullptr && ray->time_s == outcome.end_s && ray->to == outcome.end;
                    });
  const std::string travel = flew ? lasted : metres(length(outcome.end - outcome.origin));
  switch (outcome.ended) {
    case Ended::strike:
    case Ended::body:
    case Ended::wall: return "ended in " + blocker_name(outcome.stopped_by, arena) + " after " + travel;
    case Ended::reach: return "ended in the open after " + travel;
    case Ended::muzzle_blocked:
      return "never left: " + blocker_name(outcome.stopped_by, arena) +
             " stands between the attacker and the muzzle";
    case Ended::spent: return "spent at " + place(outcome.end);
    case Ended::out_of_reach: return "not carried out: its middle, " + travel + " away, is out of reach";
    case Ended::refused: return "refused";
    case Ended::life: return "ended in the air, its lifetime over after " + lasted;
    case Ended::slow: return "ended too slow at " + place(outcome.end) + " after " + lasted;
    case Ended::bounds: return "left the arena at " + place(outcome.end) + " after " + lasted;
    case Ended::rest: return "came to rest at " + place(outcome.end) + " after " + lasted;
    case Ended::returned: return "came back to its thrower after " + lasted;
    case Ended::arrived: return "ended at " + place(outcome.end) + " after " + lasted;
    case Ended::shot_down:
      return "shot down by " + blocker_name(outcome.stopped_by, arena) + " at " + place(outcome.end) +
             " after " + lasted;
    case Ended::stuck:
      return "stuck in " +
             (outcome.stopped_by == Blocker{} ? "the ground" : blocker_name(outcome.stopped_by, arena)) +
             ", its lifetime over after " + lasted + " at " + place(outcome.end);
    case Ended::ground: return "ended on the ground at " + place(outcome.end) + " after " + travel;
    case Ended::over: return "was over after " + lasted + " at " + place(outcome.end);
    case Ended::carrier_fell: return "was over after " + lasted + ": what it hung on had fallen";
    case Ended::no_target: return "did not begin: nobody to aim at";
    case Ended::no_way:
      if (!outcome.stopped_by.body.empty())
        return "did not begin: " + blocker_name(outcome.stopped_by, arena) + " had fallen";
      return outcome.stopped_by == Blocker{}
                 ? "did not begin: there is no room where it would land"
                 : "did not begin: " + blocker_name(outcome.stopped_by, arena) + " stands in its way";
    case Ended::not_ready: return "did not begin: the attacker was not ready";
    case Ended::moved: return "was over after " + lasted + ": its body was moved meanwhile";
    case Ended::limit: return "ended by a limit at " + place(outcome.end) + " after " + lasted;
    case Ended::lost: return "ended without a target at " + place(outcome.end) + " after " + lasted;
  }
  return {};
}

std::string attacker_name(const Outcome& outcome, const Arena& arena) {
  return outcome.by.empty() ? "from " + place(outcome.origin) : "by " + arena.body(outcome.by).id;
}

std::string explain(const LimitMet& met) {
  const std::string most = std::to_string(std::llround(met.most)), when = " after " + seconds(met.time_s);
  switch (met.limit) {
    case Limit::carriers: return "its limit of " + most + " carriers was met" + when + ": no more begin";
    case Limit::alive:
      return "its limit of " + most + " under way at once was met" + when + ": no more begin meanwhile";
    case Limit::strikes:
      return "its limit of " + most + " strikes was met" + when + ": nobody more is struck";
    case Limit::contacts:
      return "its limit of " + most + " contacts was met" + when + ": its shots end at the next";
    case Limit::depth:
      return "its limit of depth " + most + " was met" + when + ": what would follow does not begin";
    case Limit::flight: return "its limit of " + seconds(met.most) + " of flight was met" + when;
  }
  return {};
}

}  // namespace dardo
