#include "dardo/resolve/look.hpp"

#include "dardo/attack/rows.hpp"
#include "geometry/detail/check_rows.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/rules/sight.hpp"

namespace dardo {
namespace {

Problems check(const Arena& arena, const Look& q) {
  Problems out;
  const auto place = [&](const char* where, const std::optional<Vec3>& v) {
    if (v && (!is_finite(*v) || largest(*v) > kMaxCoordinate))
      out.push_back({where, "is not finite, or beyond 1e7", "three finite coordinates in metres"});
  };
  place("/place", q.place), place("/target", q.target);
  if (q.by.empty() == !q.place.has_value())
    out.push_back({"/by", "is there beside a place, or neither is", "one of the two"});
  if (q.body.empty() == !q.target.has_value())
    out.push_back({"/body", "is there beside a target, or neither is", "one of the two"});
  const auto body = [&](const char* where, BodyId id) {
    if (!id.empty() && !arena.has(id))
      out.push_back({where, "is not in the arena", "a body that was added and not removed"});
  };
  body("/by", q.by), body("/body", q.body);
  constexpr double kLatest = 1e9;
  if (!(q.at_s >= 0 && q.at_s <= kLatest)) out.push_back({"/at", "is not a time from 0 to 1e9", "seconds"});
  if (q.place && q.sight.blocked_by != Relations{})
    out.push_back({"/sight/blocked_by", "means nothing from a place, to which nobody relates", "a body"});
  detail::check_by_rows(out, {nullptr, "sight"}, q.sight);
  return out;
}

}  // namespace

Sighting look(const Arena& arena, const Look& q) {
  Sighting out;
  out.problems = check(arena, q);
  if (!out.problems.empty()) return out;
  const detail::Motions motions(arena);
  const detail::Moment moment(motions, q.at_s);
  const Attack attack;
  detail::Stage stage;
  stage.attack = &attack;
  Launch launch{.by = q.by};
  if (q.place) launch.from = FromPlace{{*q.place, {}}, {}};
  const detail::Act act(motions, stage, launch, q.place ? FactionId{} : arena.faction_at(q.by, q.at_s),
                        q.at_s);
  Sight sight = q.sight;
  if (q.place) sight.place = q.place;
  // There is no area whose middle it could be.
  if (sight.from == Sight::From::middle) sight.from = Sight::From::eyes;
  const detail::SightJudge judge(act, moment, sight, {});
  out.eye = judge.eye();
  if (q.target) {
    out.reading = judge.line(*q.target, {});
    out.target = *q.target;
    out.share.share = out.reading.reason == Reason::none ? 1 : 0;
  } else {
    const detail::Moment::Body then = moment.body(q.body);
    const detail::Seen seen = judge.see(q.body, then.nearest(out.eye).point);
    out.reading = seen.reading, out.target = seen.target;
    out.share = {seen.share, seen.error};
  }
  out.seen = out.reading.reason == Reason::none;
  return out;
}

}  // namespace dardo
