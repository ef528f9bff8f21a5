#pragma once
#include "dardo/arena/body.hpp"
#include "dardo/arena/faction.hpp"
#include "dardo/arena/wall.hpp"
#include "dardo/geometry/rows.hpp"

namespace dardo {

template <>
struct Words<Relation> {
  static constexpr std::array all{
      Word{Relation::foe, "foe", "An enemy."},
      Word{Relation::friendly, "friend", "One of one's own."},
      Word{Relation::neutral, "neutral", "Neither."},
      Word{Relation::self, "self", "The attacker itself."},
  };
};
template <>
struct Words<Passage> {
  static constexpr std::array all{
      Word{Passage::sight, "sight", "Being seen."},
      Word{Passage::shots, "shots", "Rays and what flies."},
      Word{Passage::blasts, "blasts", "What spreads from a place."},
      Word{Passage::feet, "feet", "Those who walk."},
  };
};

template <>
struct Rows<Hitbox> {
  static constexpr auto all = std::tuple{
      needed(row("zone", &Hitbox::zone, "Its name; several hitboxes may share it.")),
      row("factor", &Hitbox::factor, units::factor, "What a strike here multiplies the power by."),
      inlined(&Hitbox::shape),
  };
};
template <>
struct Keyed<Muzzle> {
  static constexpr auto name = &Muzzle::name;
  static constexpr auto value = &Muzzle::at;
};
template <>
struct Rows<Resistance> {
  static constexpr auto all = std::tuple{
      row("kind", &Resistance::kind, "Of damage; every kind unless said."),
      row("factor", &Resistance::factor, units::factor, "0: immune; above 1: weak to it."),
      row("armour", &Resistance::armour, units::any_amount, "Taken off before the factor; below 0 it adds."),
      row("floor", &Resistance::floor, units::amount, "So much arrives at least."),
  };
};
template <>
struct Rows<Build> {
  static constexpr auto all = std::tuple{
      needed(row("hitboxes", &Build::hitboxes, "Its volumes, in the body's frame: x ahead, z up.")),
      row("eyes", &Build::eyes, units::coordinate, "From where it sees; its middle unless said."),
      row("muzzles", &Build::muzzles, units::coordinate,
          "Points from which attacks start; the first unless a launch names another."),
      row("tags", &Build::tags, "Free words."),
      row("immune", &Build::immune, "Attacks with one of these tags never strike it."),
      row("resists", &Build::resists, "How it takes damage, by kind."),
  };
  static Problems across(const Build& build);
};
template <>
struct Rows<Material> {
  static constexpr auto all = std::tuple{
      row("blocks", &Material::blocks, "What it stands in the way of; everything unless said."),
  };
};
template <>
struct Rows<WallShape> {
  static constexpr auto all = std::tuple{
      kind<Ball>("ball", "A ball."),
      kind<Capsule>("capsule", "All that is within a radius of a line."),
      kind<Box>("box", "A box, turned as you like."),
      kind<Cylinder>("cylinder", "A cylinder with flat ends."),
      kind<Cone>("cone", "A cone."),
      kind<Hull>("hull", "The convex hull of points."),
      kind<Triangle>("triangle", "A flat triangle, with both sides."),
      kind<Mesh>("mesh", "A surface of triangles; it may be concave, and needs not be closed."),
  };
};
template <>
struct Rows<Pose> {
  static constexpr auto all = std::tuple{
      row("at", &Pose::at, units::coordinate, "Where its origin is."),
      row("facing", &Pose::turn, units::any_turn,
          "Anticlockwise from the x axis seen from above, or [yaw, pitch, roll]."),
  };
};
template <>
struct Rows<TrackKey> {
  static constexpr auto all = std::tuple{
      needed(row("t", &TrackKey::time_s, units::moment, "When.")),
      inlined(&TrackKey::pose),
  };
};
template <>
struct Rows<Wall> {
  static constexpr auto all = std::tuple{
      needed(row("id", &Wall::id, "A name of its own.")),
      inlined(&Wall::shape),
      row("material", &Wall::material, "What it is made of; without one it blocks everything."),
      row("blocks", &Wall::blocks, "Instead of what its material blocks."),
      row("one_way", &Wall::one_way,
          "What goes along this direction passes; what goes against it is blocked."),
      inlined(&Wall::pose),
      row("track", &Wall::track,
          "Instead of that place: where its frame will be. Between two of these it moves and turns "
          "steadily."),
  };
  static Problems across(const Wall& wall);
};
template <>
struct Rows<BodyChange> {
  static constexpr auto all = std::tuple{
      needed(row("t", &BodyChange::time_s, units::moment, "When.")),
      row("faction", &BodyChange::faction, "Whom it fights for from then on."),
      row("off", &BodyChange::off, "Hitboxes of these zones are not there any more."),
      row("on", &BodyChange::on, "Hitboxes of these zones are there again."),
  };
};
template <>
struct Keyed<NamedNumber> {
  static constexpr auto name = &NamedNumber::name;
  static constexpr auto value = &NamedNumber::value;
};
template <>
struct Rows<Body> {
  static constexpr auto all = std::tuple{
      needed(row("id", &Body::id, "A name of its own.")),
      needed(row("build", &Body::build, "What it is built like.")),
      needed(row("faction", &Body::faction, "Whom it fights for.")),
      inlined(&Body::pose),
      row("tags", &Body::tags, "In addition to its build's."),
      row("immune", &Body::immune, "In addition to its build's."),
      row("resists", &Body::resists, "In addition to its build's."),
      row("numbers", &Body::numbers, Range{Unit::plain, -1e15, 1e15},
          "Health, armour, whatever the game likes, by name; rules and orders may read them."),
      row("velocity", &Body::velocity, Range{Unit::speed, -1e6, 1e6},
          "Instead of a track: how it moves on from its place, for an hour."),
      row("changes", &Body::changes,
          "Whom it fights for, and which hitboxes it has, from stated times on; by hand it can be changed at "
          "any."),
      row("fallen", &Body::fallen, "The fallen are not struck and stop nothing."),
      row("track", &Body::track,
          "Instead of a place: where it will be. Between two of these it moves and turns steadily."),
  };
};

}  // namespace dardo
