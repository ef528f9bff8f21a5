#include "dardo/resolve/skirmish.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <tuple>

#include "dardo/resolve/resolve.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/aim_point.hpp"
#include "resolve/chosen.hpp"
#include "resolve/live_state.hpp"
#include "resolve/machine/bytes.hpp"
#include "resolve/ready.hpp"

namespace dardo {
namespace {

/// In all, seconds: beyond, the times of contacts would lose their digits.
constexpr double kLongestPlay = 1e9;
constexpr std::string_view kSignature = "dardo skirmish 13\n";

}  // namespace

/// Hands on to the game what the machine tells.
class Skirmish::ToGame final : public detail::Listener {
 public:
  ToGame(State& state, const Sinks& sinks) : state_(state), sinks_(sinks) {}
  bool on_strike(const Strike& strike) override { return sinks_.strike(sinks_.strike_context, strike); }
  bool on_happening(const Happening& happening) override {
    return sinks_.happening(sinks_.happening_context, happening);
  }
  void on_fell(BodyId body, double) override { state_.arena.fall(body); }
  void on_end(const detail::Flown& f) override {
    tell_end(f.launch, f.stage, f.number, f.cause, {0, f.ended, f.time, f.place, f.by});
  }
  void on_over(const detail::LastingOver& o) override {
    const detail::Lasting& l = o.lasting;
    tell_end(l.launch, l.stage, l.number, l.cause, {0, o.ended, o.time, o.place, o.by});
  }
  void on_chain(const detail::Chain& c) override {
    tell_end(c.launch, c.stage, c.number, c.cause, {0, Ended::spent, c.time, c.last, {}});
  }
  void on_presence(const Presence& p) override { sinks_.presence(sinks_.presence_context, p); }
  void on_limit(const LimitMet& met) override { sinks_.limit(sinks_.limit_context, met); }

 private:
  /// With whose it was.
  void tell_end(detail::LaunchSlot launch, std::uint32_t stage, std::uint32_t carrier, std::uint32_t cause,
                ShotEnd end) {
    const detail::Launched& l = state_.machine.launched(launch);
    end.launch = l.number, end.attacker = l.launch.by, end.attack = l.stage(stage).name;
    end.stage = stage, end.carrier = carrier, end.cause = cause;
    sinks_.end(sinks_.end_context, end);
  }

  State& state_;
  const Sinks& sinks_;
};

Skirmish::Skirmish(Arena& arena) : state_(std::make_unique<State>(arena)) { arena.update(); }
Skirmish::~Skirmish() = default;

Result<AttackId> Skirmish::add_attack(Attack attack) {
  return add_attack(std::move(attack), detail::no_rules());
}

Result<AttackId> Skirmish::add_attack(Attack attack, const Rules& rules) {
  Problems problems = check(attack);
  for (Problem& p : detail::unknown_rules(attack, rules)) problems.push_back(std::move(p));
  if (!problems.empty()) return tl::unexpected(std::move(problems));
  if (attack.ready) state_->machine.keep_history();
  state_->attacks.push_back(std::make_shared<detail::Prepared>(std::move(attack), state_->arena, rules));
  return AttackId{static_cast<std::uint32_t>(state_->attacks.size() - 1), 0};
}

/// Whom it is aimed at, and all that is wrong with it now; of what sets off later the least.
Problems Skirmish::aim_now(const detail::Prepared& attack, Launch& launch) const {
  const State& s = *state_;
  const detail::Moment now(s.machine.motions(), time_s_);
  const detail::Stage& stage = attack.stage(0);
  Problems problems = detail::check_launch(now, attack.attack(0), launch);
  if (!problems.empty() || launch.at_s > time_s_ || !std::holds_alternative<AtChoice>(launch.toward))
    return problems;
  const BodyId body =
      detail::choose(now, stage, launch, detail::attacker_faction(s.arena, launch, time_s_), nullptr);
  if (body.empty()) return {{"/launch/toward", "finds nobody to choose", "somebody in its reach"}};
  launch.toward = body;
  return detail::check_launch(now, attack.attack(0), launch);
}

Ready Skirmish::ready(AttackId attack, const Launch& launch) const {
  const State& s = *state_;
  Ready out;
  if (attack.index >= s.attacks.size()) {
    out.problems = {{"/attack", "is not of this skirmish", "an id that add_attack gave"}};
    return out;
  }
  Launch aimed = launch;
  aimed.at_s = std::min(aimed.at_s, time_s_);
  const detail::Prepared& made = *s.attacks[attack.index];
  out.problems = aim_now(made, aimed);
  if (!out.problems.empty() || !made.attack(0).ready || launch.by.empty()) return out;
  const detail::Moment now(s.machine.motions(), time_s_);
  out.missing = detail::not_ready(now, made.stage(0), aimed,
                                  detail::attacker_faction(s.arena, aimed, time_s_), s.machine.history());
  return out;
}

const History& Skirmish::history() const { return state_->machine.history(); }

Result<std::uint32_t> Skirmish::start(AttackId attack, const Launch& launch) {
  State& s = *state_;
  if (attack.index >= s.attacks.size()) {
    return tl::unexpected(Problems{{"/attack", "is not of this skirmish", "an id that add_attack gave"}});
  }
  // What sets off later is judged then.
  Launch aimed = launch;
  Problems problems = aim_now(*s.attacks[attack.index], aimed);
  if (problems.empty() && !(launch.at_s > time_s_) && s.attacks[attack.index]->attack(0).ready)
    problems = detail::as_problems(ready(attack, aimed).missing, s.arena);
  if (!problems.empty()) return tl::unexpected(std::move(problems));
  const std::uint32_t number = s.next_launch++;
  // Sets off at the start of the next tick, when there is somebody to tell.
  const detail::LaunchSlot slot = s.machine.add(s.attacks[attack.index], aimed, number);
  s.machine.wait(slot);
  return number;
}

Problems Skirmish::move(BodyId body, const Pose& pose) {
  Problems problems = check(pose);
  if (!state_->arena.has(body))
    problems.push_back({"", "is not in the arena", "a body that was added and not removed"});
  if (!problems.empty()) return problems;
  // The last word counts.
  State& s = *state_;
  if (body.index >= s.move_of.size()) s.move_of.resize(s.arena.slots());
  const std::uint32_t at = s.move_of[body.index];
  if (at < s.moves.size() && s.moves[at].first == body) {
    s.moves[at].second = pose;
  } else {
    s.move_of[body.index] = static_cast<std::uint32_t>(s.moves.size());
    s.moves.emplace_back(body, pose);
  }
  return problems;
}

Problems Skirmish::move(WallId wall, const Pose& pose) {
  Problems problems = check(pose);
  State& s = *state_;
  if (!s.arena.has(wall)) {
    problems.push_back({"", "is not in the arena", "a wall that was added and not removed"});
  } else if (!s.arena.wall(wall).track.empty()) {
    problems.push_back({"", "is on a track", "a wall without one"});
  }
  if (!problems.empty()) return problems;
  const auto same = [&](const auto& m) { return m.first == wall; };
  const auto at = std::find_if(s.wall_moves.begin(), s.wall_moves.end(), same);
  if (at != s.wall_moves.end()) {
    at->second = pose;
  } else {
    s.wall_moves.emplace_back(wall, pose);
  }
  return problems;
}

Problems Skirmish::set_bounds(const std::optional<Bounds>& bounds) {
  if (state_->ticking) return {{"", "is called from within a tick", "a call between two ticks"}};
  if (bounds && (std::isnan(bounds->low.x + bounds->low.y + bounds->low.z) ||
                 std::isnan(bounds->high.x + bounds->high.y + bounds->high.z)))
    return {{"/bounds", "holds what is not a number", "two corners"}};
  state_->machine.set_bounds(bounds);
  return {};
}

Problems Skirmish::set_limits(const Limits& limits) {
  if (state_->ticking) return {{"", "is called from within a tick", "a call between two ticks"}};
  Problems problems = check(limits);
  if (problems.empty()) state_->machine.set_limits(limits);
  return problems;
}

Problems Skirmish::keep_ledger(bool keep) {
  if (state_->ticking) return {{"", "is called from within a tick", "a call between two ticks"}};
  state_->machine.keep_ledger(keep);
  return {};
}

void Skirmish::set_executor(const Executor& executor) { state_->machine.set_executor(executor); }

Problems Skirmish::run(double dt_s, const Sinks& sinks) {
  State& s = *state_;
  if (s.ticking) return {{"", "is called from within a tick", "a call between two ticks"}};
  const double start = time_s_, end = time_s_ + dt_s;
  if (!(dt_s >= 0 && end <= kLongestPlay))
    return {{"/dt", "is not a length of time", "0 seconds or more, finite; 1e9 s in all"}};
  ToGame listener(s, sinks);
  s.arena.update();
  for (const auto& attack : s.attacks) {
    if (!attack->is_of(s.arena)) attack->bind(s.arena);
  }
  if (s.removals != s.arena.removals()) s.machine.forget_gone(start), s.removals = s.arena.removals();
  const auto placed = s.newly_placed();
  s.find_interrupted(start);
  s.set_bodies_moving(start, end);
  s.set_walls_moving(start, end);
  s.arena.update();
  s.ticking = true;
  s.arena.hold();
  // What starts now starts from where everybody is now, and knows how they move now.
  detail::Motions& motions = s.machine.motions();
  motions.open(end, s.legs, s.far, 0);
  motions.open(end, s.legs, s.far, s.part_far_ways(start, end));
  for (const BodyId body : s.interrupted) s.machine.end_dash_of(body, start, listener);
  s.machine.set_off_waiting(start, listener);
  s.arrived.clear(s.arena.slots());
  const auto arrives = [&](BodyId body) {
    if (s.arena.has(body)) s.arrived.add(body, motions.way_bounds(body, start, end));
  };
  for (const auto& [body, pose] : s.jumping) s.arena.carry(body, pose), arrives(body);
  const bool walls_jump = !s.walls_jumping.empty();
  for (const auto& [wall, pose] : s.walls_jumping) s.arena.put(wall, pose);
  if (!s.jumping.empty() || walls_jump) s.arena.update();
  s.jumping.clear(), s.walls_jumping.clear();
  if (placed) std::for_each(placed->begin(), placed->end(), arrives);
  for (const BodyId body : placed.value_or(std::span<const BodyId>{})) {
    if (s.arena.has(body) && s.arena.has_track(body)) s.machine.take_steps_anew(body);
  }
  // Where many arrive, few shots would be far from all of them.
  if (!placed || walls_jump || s.arrived.size() > s.arena.body_count() / 8) {
    s.machine.look_anew();
  } else {
    s.arrived.finish();
    s.machine.look_anew_near(s.arrived.boxes()), s.machine.look_anew_near(s.far.boxes());
    s.machine.look_anew_near(s.wall_ways);
  }
  s.placements = s.arena.placements(), s.arrivals = s.arena.arrivals();
  s.machine.advance(end, listener);
  s.end_tick(end);
  time_s_ = end;
  return {};
}

std::size_t Skirmish::in_flight() const { return state_->machine.in_flight(); }
std::size_t Skirmish::under_way() const { return state_->machine.under_way(); }

void Skirmish::inside(std::vector<Presence>& out) const {
  out.clear();
  state_->machine.each_inside([&](const detail::Lasting& l, const detail::Guest& g) {
    out.push_back({state_->machine.launched(l.launch).number, l.stage, l.number, g.body, true, g.since});
  });
}

void Skirmish::statuses(std::vector<HeldStatus>& out) const {
  out.clear();
  state_->machine.each_affliction([&](const detail::Affliction& a, std::uint32_t launch, const Name& name) {
    out.push_back({launch, a.body, a.by, name, a.from, a.to});
  });
}

void Skirmish::shots(std::vector<ShotView>& out) const {
  out.clear();
  state_->machine.each_flight([&](const detail::Flight& f, double time) {
    const auto& launched = state_->machine.launched(f.launch);
    const auto& shot = *launched.stage(f.stage).shot;
    out.push_back({launched.number, f.course.piece.place(time), f.course.piece.speed_at(time), shot.radius,
                   f.stuck.in.body});
  });
}

void Skirmish::dashes(std::vector<DashView>& out) const { out = state_->dashes; }

void Skirmish::touching(std::vector<Touching>& out) const {
  out.clear();
  const Arena& arena = state_->arena;
  state_->machine.each_flight([&](const detail::Flight& f, double time) {
    if (f.course.time > time_s_) return;  // of a volley: not yet off
    const auto& launched = state_->machine.launched(f.launch);
    const detail::Act act(state_->machine.motions(), launched.stage(f.stage), launched.launch,
                          launched.faction, time);
    const detail::Flyer flyer = detail::flyer_of(*act.stage.shot, f.course, arena.upright());
    const detail::Piece here{time, time, f.course.piece.place(time), f.course.piece.speed_at(time), {}, {}};
    const double fine = detail::contact_gap(largest(here.at));
    arena.bodies_touching(Bounds{here.at, here.at}.grown(flyer.reach() + fine), [&](BodyId body) {
      if (!eligible(act, body)) return;
      const Leg leg{time, time, arena.body(body).pose, {}, {0, 0, 1}, 0};
      const auto& hitboxes = arena.build(arena.body(body).build).hitboxes;
      if (std::any_of(hitboxes.begin(), hitboxes.end(), [&](const Hitbox& h) {
            return detail::gap_to(flyer, here, time, h.shape, leg) <= fine;
          })) {
        out.push_back({launched.number, f.number, body, arena.order(body)});
      }
    });
  });
  std::sort(out.begin(), out.end(), [](const Touching& a, const Touching& b) {
    return std::tie(a.launch, a.shot, a.order) < std::tie(b.launch, b.shot, b.order);
  });
}

namespace {

template <class Bytes>
void pose_fields(Bytes& bytes, Pose& pose) {
  for (Vec3* v : {&pose.at, &pose.turn.x, &pose.turn.y, &pose.turn.z})
    detail::fields(bytes, *v, kMaxCoordinate);
}
template <class IdType>
void save_moves(detail::BytesOut& bytes, const std::vector<std::pair<IdType, Pose>>& moves,
                std::size_t slots) {
  bytes.count(moves.size());
  for (auto [id, pose] : moves) bytes.id(id, slots), pose_fields(bytes, pose);
}
template <class IdType>
std::vector<std::pair<IdType, Pose>> restored_moves(detail::BytesIn& bytes, std::size_t slots) {
  std::vector<std::pair<IdType, Pose>> moves(bytes.count(0));
  for (auto& [id, pose] : moves) {
    bytes.id(id, slots), pose_fields(bytes, pose);
    bytes.require(!id.empty() && check(pose).empty());
  }
  return moves;
}

}  // namespace

std::string Skirmish::save() const {
  const State& s = *state_;
  if (s.ticking) return {};
  std::string out(kSignature);
  detail::BytesOut bytes(out);
  double time_s = time_s_;
  std::uint64_t structure = detail::fingerprint(s.arena, s.attacks);
  bytes.whole(structure);
  bytes.number(time_s, kLongestPlay);
  std::uint32_t next_launch = s.next_launch;
  bytes.whole(next_launch);
  save_moves(bytes, s.moves, s.arena.slots());
  save_moves(bytes, s.wall_moves, s.arena.wall_table().slots());
  s.machine.save(bytes, s.attacks);
  detail::Hash sum;
  sum.add(std::string_view(out));
  std::uint64_t checksum = sum.value();
  bytes.whole(checksum);
  return out;
}

bool Skirmish::restore(std::string_view bytes) {
  State& s = *state_;
  constexpr std::size_t kSum = 8;
  if (s.ticking || !bytes.starts_with(kSignature) || bytes.size() < kSignature.size() + kSum) return false;
  detail::Hash sum;
  sum.add(bytes.substr(0, bytes.size() - kSum));
  detail::BytesIn last(bytes.substr(bytes.size() - kSum));
  if (last.whole_of(kSum) != sum.value()) return false;
  bytes.remove_suffix(kSum), bytes.remove_prefix(kSignature.size());
  detail::BytesIn in(bytes);
  double time_s = 0;
  std::uint32_t next_launch = 0;
  if (in.whole_of(8) != detail::fingerprint(s.arena, s.attacks)) return false;
  in.number(time_s, kLongestPlay);
  in.whole(next_launch);
  const auto moves = restored_moves<BodyId>(in, s.arena.slots());
  const auto wall_moves = restored_moves<WallId>(in, s.arena.wall_table().slots());
  if (!in.good() || time_s < 0 || !s.machine.restore(in, s.attacks)) return false;
  time_s_ = time_s, s.next_launch = next_launch;
  s.moves.clear(), s.wall_moves.clear();
  for (const auto& [body, pose] : moves) (void)move(body, pose);
  for (const auto& [wall, pose] : wall_moves) (void)move(wall, pose);
  // Whom it carries is where it has brought them.
  s.arena.update();
  s.put_carried(time_s);
  // Whoever is gone since then is looked for anew.
  s.removals = ~s.arena.removals();
  return true;
}

}  // namespace dardo
