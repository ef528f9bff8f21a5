#include <algorithm>

#include "geometry/detail/ever.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/machine/looks.hpp"

// The first look at a flight: most meet nothing, and one query tells so for several ticks at once.
namespace dardo::detail {
namespace {

/// So many ticks a look sees ahead at most: beyond, its query costs what it saves.
constexpr int kMostTicks = 8;

/// A way from a place, told by one over its extent along each axis.
struct SlabWay {
  Vec3 from, inverse;
  explicit SlabWay(const Segment& s)
      : from(s.from), inverse{1 / (s.to.x - s.from.x), 1 / (s.to.y - s.from.y), 1 / (s.to.z - s.from.z)} {}
  /// The share of it after which it enters a box; 2 when it does not. Of a box that it runs along the face
  /// of: either.
  double entry(const Bounds& box) const {
    double enter = 0, leave = 1;
    const auto slab = [&](double low, double high, double at, double per) {
      const double t = (low - at) * per, u = (high - at) * per;
      // NaN, where it stays on a face, is passed over by these.
      enter = std::max(enter, std::min(t, u)), leave = std::min(leave, std::max(t, u));
    };
    slab(box.low.x, box.high.x, from.x, inverse.x);
    slab(box.low.y, box.high.y, from.y, inverse.y);
    slab(box.low.z, box.high.z, from.z, inverse.z);
    return enter <= leave ? enter : 2;
  }
};

}  // namespace

void Looks::add(ShotSlot slot) {
  if (slot.at >= first_.size()) fit(slot.at + 1);
  first_[slot.at] = {}, clear_[slot.at] = {};
}

void Looks::set(ShotSlot slot, const Flight& f, const Launched& launched, const Surroundings& around) {
  First& g = first_[slot.at] = {};
  g.row = launched.row, g.stage = f.stage;
  const Stage& stage = launched.stage(f.stage);
  const Attack& attack = *stage.attack;
  const ShotDelivery& shot = *stage.shot;
  const Course& c = f.course;
  const bool heeds_target = !c.target.empty() && (stage.law.follows_target || stage.near);
  if (f.stuck.yes || around.memory.passes_any(f.met) || heeds_target ||
      (!f.apex_passed && stage.has(Then::When::apex)))
    return;
  const Piece way = c.piece.part(c.time, c.piece.end);
  g.time = c.time, g.at = way.at, g.velocity = way.velocity, g.acceleration = way.acceleration;
  g.reach = flyer_of(shot, c, around.arena.upright()).reach();
  // Whom it has just struck and goes on through, if nothing can come of that any more.
  const Met* last = around.memory.last(f.met);
  if (last != nullptr && last->struck && !shot.again_after_s && attack.stopped_by == Relations{})
    g.passed = last->body;
  double until = std::min(c.piece.end, f.ends);
  // A change of its acceleration counts as so much more reach, for as long as it is no more than that.
  if (const double change = length(way.jerk); change > 0) {
    constexpr double kOff = 0.05;
    double span = 0.5;
    while (change * span * span * span > 6 * kOff) span *= 0.8;
    g.reach += kOff, until = std::min(until, c.time + span);
  }
  if (shot.least_speed > 0) until = becomes_slow(c, stage, until).value_or(until);
  // How long its way is enough, at the least: of speed s gaining a, solves s t + a t^2 / 2 = left.
  const double speed = length(g.velocity),
               gain = std::max(length(g.acceleration), way.most_acceleration(c.time, until)),
               left = far_limit(attack.reach) - c.travelled;
  const double enough = 2 * left / (speed + std::sqrt(speed * speed + 2 * gain * left));
  // A little before its time: what comes exactly then is looked at more closely.
  g.quiet_until = std::min(until, c.time + enough) - 1e-6;
}

namespace {

Bounds around_both(const Vec3& a, const Vec3& b) {
  Bounds out{a, a};
  out.add(b);
  return out;
}

/// Whether a way between two places, in a box, may come to the ground or out of bounds.
bool may_leave(const Surroundings& around, const Bounds& box, const Vec3& from, const Vec3& to) {
  const Vec3& up = around.arena.ground_normal();
  const auto lowest = [&] { return dot(box.center(), up) - 0.5 * dot(box.high - box.low, abs(up)); };
  if (around.arena.ground() && lowest() <= *around.arena.ground()) return true;
  return around.bounds &&
         !(overlaps(*around.bounds, Bounds{from, from}) && overlaps(*around.bounds, Bounds{to, to}));
}

}  // namespace

Bounds Looks::way_box(ShotSlot slot, const Surroundings& around) const {
  const First& g = first_[slot.at];
  const double from = std::max(around.from, g.time), took = around.until - from;
  const Vec3 a = g.place(from), b = g.place(around.until);
  const double loose = slack(std::max(largest(a), largest(b))) + kTouchRoom;
  return around_both(a, b).grown(g.reach + loose + length(g.acceleration) / 8 * took * took);
}

bool Looks::may_meet(ShotSlot one, ShotSlot other, double room, const Surroundings& around) const {
  const First &a = first_[one.at], &b = first_[other.at];
  const double from = std::max({around.from, a.time, b.time}), took = around.until - from;
  const auto velocity = [&](const First& g) { return g.velocity + g.acceleration * (from - g.time); };
  // As the other one sees it; by how much its way bends it may be nearer.
  const Vec3 away = a.place(from) - b.place(from), way = (velocity(a) - velocity(b)) * took;
  const double bend = 0.5 * length(a.acceleration - b.acceleration) * took * took;
  const double loose = 2 * (slack(largest(a.at) + largest(b.at)) + kTouchRoom);
  return distance(Ball{}, Segment{away, away + way}) <= a.reach + b.reach + room + bend + loose;
}

void Looks::anew_near(const BoxSet& ways, double time) {
  for (std::size_t at = 0; at < clear_.size(); ++at) {
    const Clear& c = clear_[at];
    if (!(c.until >= time) || !(c.until < kEver)) continue;
    const First& g = first_[at];
    const double from = std::max(time, g.time), took = c.until - from;
    const Vec3 a = g.place(from), b = g.place(c.until);
    const double loose = slack(std::max(largest(a), largest(b))) + kTouchRoom;
    const double wide =
        g.reach + loose + length(g.acceleration) / 8 * took * took + std::max(0.0, c.drift - drift_);
    if (ways.touches(around_both(a, b).grown(wide))) clear_[at] = {};
  }
}

/// It looks several ticks ahead: what it sees holds for as long as bodies go no farther than it allows for.
bool Looks::is_quiet(ShotSlot slot, const Surroundings& around) {
  First& g = first_[slot.at];
  if (!may_tell(slot, around)) return false;
  const Motions& motions = around.motions;
  const double from = std::max(around.from, g.time), to = around.until;
  const int ticks = motions.in_tick() || around.arena.tracked().empty() ? g.ticks : 1;
  g.ticks = std::max(1, g.ticks / 2);
  // A little more than whole ticks, as those are rounded.
  const double until = ticks > 1 ? std::min(g.quiet_until, to + (ticks - 0.99) * (to - around.from)) : to;
  const Vec3 a = g.place(from), end = g.place(until);
  const double loose = slack(std::max(largest(a), largest(end))) + kTouchRoom;
  // An arc keeps this close to its chord.
  const double bend = length(g.acceleration) / 8;
  const double far = g.reach + loose + bend * (until - from) * (until - from) + motions.slow_way();
  double drift = (ticks - 1) * motions.slow_way();
  const double wide = far + drift;
  const Bounds box = around_both(a, end).grown(wide);
  if (may_leave(around, box, a, end)) return ticks > 1 && (g.ticks = 1, is_quiet(slot, around));
  const double near = g.reach + loose + bend * (to - from) * (to - from);  // in this window
  double clear = until;
  bool quiet = true;
  const SlabWay way({a, end});
  // When it can come near a thing at the earliest.
  const auto earliest_at = [&](const Bounds& there) {
    const double share = way.entry(there.grown(wide));
    return share > 1 ? kEver : from + share * (until - from);
  };
  around.arena.wall_table().touching(box, [&](WallPartId wall) {
    const Bounds& there = around.arena.wall_table().bounds(wall);
    const double earliest = earliest_at(there);
    clear = std::min(clear, std::max(to, earliest));
    if (earliest <= to) {
      if (overlaps(there, around_both(a, g.place(to)).grown(near))) quiet = false;
    }
  });
  motions.bodies_near(box, from, to, [&](BodyId body) {
    if (!quiet || body == g.passed) return;
    const bool slow = motions.is_slow(body);
    if (!slow && overlaps(motions.way_bounds(body, from, to), around_both(a, g.place(to)).grown(near)))
      return void(quiet = false);
    // Of what is not slow the end of its way is what later ticks start from.
    const double earliest = earliest_at(around.arena.bounds(body));
    if (earliest > clear) return;
    // It passes by, as long as the body does not drift by more than is between them; or it is not there yet.
    const double spare = motions.distance_at_end(body, {a, end}) - far;
    if (spare > 0 && spare * (to - from) >= motions.slow_way() * (earliest - from)) {
      drift = std::min(drift, spare);
      return;
    }
    clear = std::min(clear, std::max(to, earliest));
    if (slow && earliest <= to && spare <= 0)
      quiet = motions.approach(body, {a, g.place(to)}, from, to) > near;
  });
  if (!quiet) return false;
  if (clear >= until) g.ticks = std::min(kMostTicks, 2 * ticks);
  clear_[slot.at] = {clear, drift_ + drift};
  return true;
}

}  // namespace dardo::detail
