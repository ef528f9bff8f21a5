#include "support/play.hpp"

#include <algorithm>
#include <cmath>
#include <memory>
#include <sstream>

namespace dardo::test {
namespace {

/// Nothing that is drawn goes on for longer.
constexpr double kLongest = 16;

/// When the ticks of a way end: always on halves of a second, too.
class Clock {
 public:
  explicit Clock(double hertz) : hertz_(hertz) {}
  double next(double now) {
    if (hertz_ > 0) return std::round(now * hertz_ + 1) / hertz_;
    state_ = state_ * 6364136223846793005u + 1442695040888963407u;
    const double step =
        state_ >> 60 == 0 ? 0 : 0.0005 + 0.1 * static_cast<double>(state_ >> 40 & 0xffffff) * 0x1p-24;
    const double half = std::floor(now * 2 + 1 + 1e-9) / 2;
    return std::min(now + step, half);
  }

 private:
  double hertz_;
  std::uint64_t state_ = 12345;
};

/// What the game does to bodies by itself.
class Game {
 public:
  Game(Situation& s, const Way& way) : s_(s), way_(way) {}

  void before_tick(Skirmish& live, double end) {
    for (; next_ < s_.deeds.size() && s_.deeds[next_].time + way_.later <= live.time() + 1e-9; ++next_)
      carry_out(s_.deeds[next_]);
    for (const BodyId body : way_.winking ? s_.arena.bodies() : std::vector<BodyId>{}) {
      if (s_.arena.stands(body))
        (void)s_.arena.set_fallen(body, true), (void)s_.arena.set_fallen(body, false);
    }
    for (std::size_t i = 0; way_.by_moves && i < s_.bodies.size(); ++i) {
      if (s_.tracks[i].empty() || !s_.arena.has(s_.bodies[i]) || has_dashed(s_.bodies[i])) continue;
      const Pose pose = leg_at(s_.tracks[i], end).at(end);
      if (!(pose == s_.arena.body(s_.bodies[i]).pose)) (void)live.move(s_.bodies[i], pose);
    }
    for (const auto& [wall, track] : s_.doors) {
      const Pose pose = leg_at(track, end).at(end);
      if (!(pose == s_.arena.wall(wall).pose)) (void)live.move(wall, pose);
    }
  }
  /// Who has dashed stays where that has brought it, whatever its track says.
  void after_tick(const Skirmish& live) {
    live.dashes(dashes_);
    for (const DashView& d : dashes_) dashed_.push_back(d.body);
  }
  bool done() const { return next_ == s_.deeds.size(); }

 private:
  bool has_dashed(BodyId body) const {
    return std::find(dashed_.begin(), dashed_.end(), body) != dashed_.end();
  }
  void carry_out(const Deed& d) {
    const BodyId body = s_.bodies[d.body];
    switch (d.kind) {
      case Deed::Kind::fall: (void)s_.arena.set_fallen(body, true); break;
      case Deed::Kind::revive: (void)s_.arena.set_fallen(body, false); break;
      case Deed::Kind::jump:
        // What is on a track follows that.
        if (s_.arena.has(body) && s_.arena.body(body).track.empty() && s_.tracks[d.body].empty())
          (void)s_.arena.move(body, d.pose);
        break;
      case Deed::Kind::spawn:
        (void)s_.arena.add_body({.id = "new-" + std::to_string(spawned_++),
                                 .build = s_.arena.body(s_.bodies[0]).build,
                                 .faction = *s_.arena.find_faction("raiders"),
                                 .pose = d.pose});
        break;
      case Deed::Kind::remove: (void)s_.arena.remove(body); break;
      case Deed::Kind::turncoat:
        if (s_.arena.has(body))
          (void)s_.arena.set_faction(body, {1 - s_.arena.faction_of(body).index % 2, 0});
        break;
      case Deed::Kind::dress: (void)s_.arena.set_tags(body, {"wet"}); break;
      case Deed::Kind::immune: (void)s_.arena.set_immune(body, {"wet", "timber"}); break;
      case Deed::Kind::rebuild:
        if (s_.arena.has(body)) (void)s_.arena.set_build(body, s_.arena.body(s_.bodies[0]).build);
        break;
      case Deed::Kind::none: break;
    }
  }

  Situation& s_;
  const Way& way_;
  std::size_t next_ = 0, spawned_ = 0;
  std::vector<DashView> dashes_;
  std::vector<BodyId> dashed_;
};

}  // namespace

Played play(const Recipe& recipe, const Way& way, const Carry& carry) {
  Carry c = carry;
  c.by_moves = way.by_moves, c.later = way.later;
  return play(make_situation(recipe, c), way);
}

Played play(Situation s, const Way& way) {
  auto live = std::make_unique<Skirmish>(s.arena);
  const AttackId attack = *live->add_attack(s.attack, rules());
  (void)live->set_limits(s.limits);
  (void)live->keep_ledger(true);
  const Attack flash{
      .name = "flash",
      .delivery = AreaDelivery{.shape = BallArea{0.1}, .around = AreaDelivery::Around::attacker},
      .who = {Relation::neutral}};
  const AttackId other = *live->add_attack(flash);
  Clock clock(way.hertz);
  Game game(s, way);
  // Nothing is under way: the hours before are one tick.
  if (way.later > 1) (void)live->advance(way.later, [](const Strike&) {});
  while (live->time() < way.later)
    (void)live->advance(clock.next(live->time()) - live->time(), [](const Strike&) {});
  if (way.beside_another) (void)live->start(other, {.by = s.bodies[0]});
  const auto number = live->start(attack, s.launch);
  Played out;
  if (!number) return out;  // nobody to choose
  int ticks = 0;
  do {
    const double now = live->time(), end = clock.next(now);
    game.before_tick(*live, end);
    (void)live->advance(
        end - now,
        [&](const Strike& strike) {
          if (strike.launch != *number) return false;
          out.strikes.push_back(strike);
          out.strikes.back().time_s -= way.later, out.strikes.back().seen_s -= way.later;
          return s.struck_fall;
        },
        [&](const ShotEnd& e) {
          if (e.launch != *number) return;
          out.ends.push_back(e);
          out.ends.back().time_s -= way.later;
        },
        [&](const LimitMet& met) {
          if (met.launch != *number) return;
          out.limits_met.push_back(met);
          out.limits_met.back().time_s -= way.later;
        },
        [](const Presence&) {},
        [&](const Happening& h) {
          if (h.launch != *number) return;
          out.happenings.push_back(h);
          out.happenings.back().time_s -= way.later;
        });
    game.after_tick(*live);
    if (way.saved && ticks % 7 == 3) {
      const std::string bytes = live->save();
      auto again = std::make_unique<Skirmish>(s.arena);
      (void)*again->add_attack(s.attack, rules()), (void)*again->add_attack(flash);
      if (!again->restore(bytes)) {
        out.restored = false;
        return out;
      }
      live = std::move(again);
    }
  } while (++ticks < 20000 && live->time() < kLongest + way.later &&
           (live->under_way() > 0 || !game.done() || live->time() < 0.6 + s.launch.at_s));
  return out;
}

namespace {

std::string id_of(const Situation& s, BodyId body) {
  // What is gone is known by when it came.
  return s.arena.has(body) ? s.arena.body(body).id : "gone";
}

}  // namespace

namespace {

bool near(double a, double b) { return std::fabs(a - b) <= 1e-6 * (1 + std::fabs(a)); }
bool near(const std::optional<double>& a, const std::optional<double>& b) {
  return a.has_value() == b.has_value() && (!a || near(*a, *b));
}

/// But for the time until which a status lasts, which is that of the play.
bool same_effects(const Situation& a, const std::vector<EffectDone>& of_a, const Situation& b,
                  const std::vector<EffectDone>& of_b) {
  const auto same = [&](const EffectDone& x, const EffectDone& y) {
    if (x.effect != y.effect || id_of(a, x.on) != id_of(b, y.on) || x.what.index() != y.what.index())
      return false;
    if (const auto* d = std::get_if<DamageDone>(&x.what)) {
      const auto& e = std::get<DamageDone>(y.what);
      return near(d->rolled, e.rolled) && near(d->amount, e.amount) && near(d->left, e.left);
    }
    if (const auto* h = std::get_if<HealDone>(&x.what)) return near(h->left, std::get<HealDone>(y.what).left);
    if (const auto* c = std::get_if<ChangeDone>(&x.what))
      return near(c->left, std::get<ChangeDone>(y.what).left);
    if (const auto* st = std::get_if<StatusDone>(&x.what)) {
      const auto& u = std::get<StatusDone>(y.what);
      return st->did == u.did && st->at_once == u.at_once;
    }
    return true;
  };
  return std::equal(of_a.begin(), of_a.end(), of_b.begin(), of_b.end(), same);
}
std::string say(const std::vector<EffectDone>& effects) {
  std::string out;
  for (const EffectDone& e : effects) out += " [" + explain(e) + "]";
  return out;
}

}  // namespace

std::string say(const Situation& s, const Strike& k) {
  std::ostringstream out;
  out.precision(12);
  out << id_of(s, k.body) << '/' << k.hitbox << " stage " << k.stage << " cause " << k.cause << " t "
      << k.time_s << " at (" << k.point.x << ' ' << k.point.y << ' ' << k.point.z << ')' << say(k.effects);
  return out.str();
}

std::string differ(const Situation& a, const std::vector<Strike>& of_a, const Situation& b,
                   const std::vector<Strike>& of_b, double same_time, double same_place) {
  // Where two flat faces touch, any place of both is a point of contact.
  if (any_shot(a.attack, has_shape) || any_attack(a.attack, swings)) same_place = 10;
  std::ostringstream out;
  for (std::size_t i = 0; i < std::max(of_a.size(), of_b.size()); ++i) {
    const auto same = [&](const Strike& x, const Strike& y) {
      return id_of(a, x.body) == id_of(b, y.body) && x.hitbox == y.hitbox && x.stage == y.stage &&
             x.cause == y.cause && std::fabs(x.time_s - y.time_s) <= same_time &&
             length(x.point - y.point) <= same_place && x.felled == y.felled &&
             same_effects(a, x.effects, b, y.effects);
    };
    if (i < of_a.size() && i < of_b.size() && same(of_a[i], of_b[i])) continue;
    out << "strike " << i + 1 << " of " << of_a.size() << ": " << (i < of_a.size() ? say(a, of_a[i]) : "none")
        << " | of " << of_b.size() << ": " << (i < of_b.size() ? say(b, of_b[i]) : "none");
    return out.str();
  }
  return {};
}

std::string differ(const Situation& s, const std::vector<ShotEnd>& a, const std::vector<ShotEnd>& b) {
  const bool flat_touch = any_shot(s.attack, has_shape) || any_attack(s.attack, swings);
  const double same_time = 1e-6, same_place = flat_touch ? 10 : 1e-4;
  std::ostringstream out;
  out.precision(17);
  if (a.size() != b.size()) out << a.size() << " ends | " << b.size();
  for (std::size_t i = 0; i < a.size() && out.str().empty(); ++i) {
    if (a[i].ended != b[i].ended || std::fabs(a[i].time_s - b[i].time_s) > same_time ||
        length(a[i].place - b[i].place) > same_place)
      out << "end " << i + 1 << ": off by " << length(a[i].place - b[i].place) << " m; " << name(a[i].ended)
          << " t " << a[i].time_s << " | " << name(b[i].ended) << " t " << b[i].time_s;
  }
  return out.str();
}

std::string differ(const Situation& a, const std::vector<Happening>& of_a, const Situation& b,
                   const std::vector<Happening>& of_b, double same_time) {
  const auto text = [](const Situation& s, const Happening& h) {
    std::ostringstream out;
    out.precision(12);
    out << "t " << h.time_s << ' ' << explain(h, s.arena);
    return out.str();
  };
  for (std::size_t i = 0; i < std::max(of_a.size(), of_b.size()); ++i) {
    const auto same = [&](const Happening& x, const Happening& y) {
      return x.what == y.what && id_of(a, x.on) == id_of(b, y.on) && x.stage == y.stage &&
             x.cause == y.cause && x.tick == y.tick && x.why == y.why && x.felled == y.felled &&
             x.status == y.status && std::fabs(x.time_s - y.time_s) <= same_time &&
             same_effects(a, x.effects, b, y.effects);
    };
    if (i < of_a.size() && i < of_b.size() && same(of_a[i], of_b[i])) continue;
    return "happening " + std::to_string(i + 1) + " of " + std::to_string(of_a.size()) + ": " +
           (i < of_a.size() ? text(a, of_a[i]) : "none") + " | of " + std::to_string(of_b.size()) + ": " +
           (i < of_b.size() ? text(b, of_b[i]) : "none");
  }
  return {};
}

std::string differ(const std::vector<LimitMet>& a, const std::vector<LimitMet>& b) {
  const auto same = [](const LimitMet& x, const LimitMet& y) {
    return x.limit == y.limit && x.most == y.most && std::fabs(x.time_s - y.time_s) <= 1e-6;
  };
  if (std::equal(a.begin(), a.end(), b.begin(), b.end(), same)) return {};
  std::ostringstream out;
  out << "limits met:";
  for (const LimitMet& m : a) out << ' ' << explain(m) << ';';
  out << " |";
  for (const LimitMet& m : b) out << ' ' << explain(m) << ';';
  return out.str();
}

}  // namespace dardo::test
