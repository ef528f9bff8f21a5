#pragma once
#include <optional>
#include <vector>

#include "dardo/attack/launch.hpp"
#include "dardo/record/outcome.hpp"
#include "geometry/detail/tolerance.hpp"
#include "resolve/moment/motions.hpp"
#include "resolve/moment/walls.hpp"
#include "resolve/rules/prepared.hpp"

namespace dardo::detail {

/// Where something starts that follows, instead of at the attacker.
struct Anchor {
  Vec3 place;
  Vec3 direction;  ///< one metre long
  BodyId target;   ///< the body that it follows from, if any
};

/// One setting-off of one stage of an attack, as the gates see it.
struct Act {
  Act(const Motions& who, const Stage& what, const Launch& use, FactionId of, double states,
      const Anchor* start = nullptr, std::uint64_t chance = 0)
      : motions(who),
        arena(who.arena()),
        stage(what),
        attack(*what.attack),
        launch(use),
        faction(of),
        state_time(states),
        anchor(start),
        key(chance) {}

  const Motions& motions;
  const Arena& arena;
  const Stage& stage;
  const Attack& attack;
  const Launch& launch;
  FactionId faction;     ///< the attacker's, when it was launched
  double state_time;     ///< bodies are asked as they are then
  const Anchor* anchor;  ///< nothing where it is the launch that sets it off
  std::uint64_t key;     ///< of all chance in it

  Relation relation_to(BodyId body) const;
  bool is_fallen(BodyId body) const { return motions.is_fallen(body, state_time); }
  bool has_tag(BodyId body, std::string_view tag) const { return motions.has_tag(body, tag, state_time); }
  bool is_immune(BodyId body, std::string_view attack_tag) const {
    return motions.is_immune(body, attack_tag, state_time);
  }
};

/// A hitbox that was touched.
struct Touch {
  std::uint32_t hitbox = 0;
  Contact contact;
};

/// What of the hitboxes that are touched at once matters: the first touched, and the one that counts by the
/// attack's rule for zones; of equal ones the first of the build.
class Touches {
 public:
  void add(const Act& act, BodyId body, const Touch& touch);
  bool empty() const { return empty_; }
  double distance() const { return first_.contact.distance; }
  /// Requires one.
  Strike strike(const Act& act, BodyId body) const;

 private:
  bool empty_ = true;
  Touch first_;
  std::uint32_t counts_ = 0;
};

/// The limits of a reach around where it starts; of one without end there is no ring to draw.
void draw_reach(const Reach& reach, const Vec3& origin, Outcome& outcome);

}  // namespace dardo::detail
