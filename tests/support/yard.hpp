#pragma once
#include <string>

#include "dardo/dardo.hpp"

namespace dardo::test {

/// An arena to put things into: the attacker "mara" of the wardens stands at the origin, facing +x. Every
/// body is a ball of radius 0.5 around its place, so that distances are easy to see; the attacker's is too.
struct Yard {
  Arena arena;
  FactionId wardens = *arena.add_faction("wardens"), raiders = *arena.add_faction("raiders"),
            passengers = *arena.add_faction("passengers");
  MaterialId timber = *arena.add_material({.name = "timber"});
  MaterialId glass =
      *arena.add_material({.name = "glass", .blocks = {Passage::shots, Passage::blasts, Passage::feet}});
  BuildId post = *arena.add_build({.name = "post", .hitboxes = {{"all", Ball{{0, 0, 0}, 0.5}}}});
  BodyId mara;

  Yard() {
    arena.relate(wardens, raiders, Relation::foe);
    arena.relate(raiders, wardens, Relation::foe);
    mara = add("mara", wardens, {0, 0, 0});
  }

  BodyId add(std::string id, FactionId faction, Vec3 at) {
    return add({.id = std::move(id), .faction = faction, .pose = {at, {}}});
  }
  BodyId add(Body body) {
    if (body.build.empty()) body.build = post;
    return *arena.add_body(std::move(body));
  }
  BodyId raider(std::string id, Vec3 at) { return add(std::move(id), raiders, at); }
  WallId wall(std::string id, Vec3 at, Vec3 size, MaterialId material) {
    return *arena.add_wall({.id = std::move(id), .shape = Box{at, size * 0.5, {}}, .material = material});
  }
  WallId wall(std::string id, Vec3 at, Vec3 size) { return wall(std::move(id), at, size, timber); }
};

inline const Attack kBolt{.name = "bolt", .delivery = RayDelivery{}, .reach = {0, 20}, .power = 10};
inline Attack blast(double radius) {
  return {.name = "blast", .delivery = AreaDelivery{.shape = BallArea{radius}}};
}

inline const Verdict& verdict_of(const Outcome& out, BodyId body) {
  for (const Verdict& v : out.verdicts) {
    if (v.body == body) return v;
  }
  static const Verdict kNone;
  return kNone;
}

}  // namespace dardo::test
