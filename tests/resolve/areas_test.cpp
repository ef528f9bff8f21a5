// What an area covers, how much of a body that takes, whom it sees and whom it takes first.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "dardo/resolve/skirmish.hpp"
#include "geometry/detail/region.hpp"
#include "resolve/carriers/area_region.hpp"
#include "support/random.hpp"
#include "support/yard.hpp"

namespace dardo::areas_test {
namespace {

using test::verdict_of;
using test::Yard;
constexpr double kDegree = std::numbers::pi / 180;

Attack area(AreaShape shape, AreaDelivery::Around around = AreaDelivery::Around::attacker) {
  AreaDelivery delivery;
  delivery.shape = std::move(shape), delivery.around = around;
  return {.name = "area", .delivery = delivery};
}
AreaDelivery& delivery(Attack& attack) { return std::get<AreaDelivery>(attack.delivery); }

/// Whether a place lies within a shape, told anew: in its frame, x along it.
bool inside(const AreaShape& shape, const Vec3& p) {
  const double flat = std::hypot(p.x, p.y), away = length(p), angle = std::atan2(p.y, p.x);
  const auto band = [&](const auto& s) {
    return s.near <= flat && flat <= s.far && s.low <= p.z && p.z <= s.high;
  };
  if (const auto* s = std::get_if<BallArea>(&shape)) return away <= s->radius;
  if (const auto* s = std::get_if<RingArea>(&shape)) return band(*s);
  if (const auto* s = std::get_if<ShellArea>(&shape)) return s->near <= away && away <= s->far;
  if (const auto* s = std::get_if<SectorArea>(&shape)) return band(*s) && std::fabs(angle) <= s->angle / 2;
  if (const auto* s = std::get_if<ConeArea>(&shape))
    return s->near <= away && away <= s->far && std::acos(std::clamp(p.x / away, -1.0, 1.0)) <= s->angle / 2;
  if (const auto* s = std::get_if<BoxArea>(&shape))
    return std::fabs(p.x) <= s->half.x && std::fabs(p.y) <= s->half.y && std::fabs(p.z) <= s->half.z;
  if (const auto* s = std::get_if<BeamArea>(&shape))
    return p.x >= 0 && p.x <= s->length && std::hypot(p.y, p.z) <= s->radius;
  if (const auto* s = std::get_if<CapsuleArea>(&shape)) {
    const Vec3 way = s->to - s->from;
    const double t = std::clamp(dot(p - s->from, way) / dot(way, way), 0.0, 1.0);
    return length(p - s->from - way * t) <= s->radius;
  }
  if (const auto* s = std::get_if<PrismArea>(&shape)) {
    for (std::size_t i = 0; i < s->polygon.size(); ++i) {
      const auto &a = s->polygon[i], &b = s->polygon[(i + 1) % s->polygon.size()];
      if ((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x) < 0) return false;
    }
    return s->low <= p.z && p.z <= s->high;
  }
  return p.x >= 0;
}

const std::vector<AreaShape> kShapes{
    BallArea{4},
    RingArea{2, 5, -1, 1},
    ShellArea{2, 5},
    SectorArea{60 * kDegree, 1, 6, -1, 2},
    SectorArea{180 * kDegree, 0, 5, -1, 2},
    SectorArea{270 * kDegree, 2, 5, -1, 2},
    ConeArea{60 * kDegree, 1, 6},
    ConeArea{200 * kDegree, 0, 5},
    BoxArea{{3, 2, 1}},
    BeamArea{8, 1},
    CapsuleArea{{-1, 2, 0}, {4, 1, 1}, 1},
    PrismArea{{{-1, -2}, {5, -1}, {4, 2}, {-1, 2}}, -1, 1},
    HalfSpaceArea{},
};

// Bodies of all shapes, against places all over them: whoever has a place within is touched, and whoever has
// none near the border is not.
// The middle of a hitbox turns with its body, whether that stands or is on a track.
TEST(Areas, TheMiddleOfAHullTurnsWithItsBody) {
  Yard yard;
  const BuildId wedge = *yard.arena.add_build(
      {.name = "wedge", .hitboxes = {{"all", Hull{{{0, 0, 0}, {4, 0, 0}, {0, 2, 0}, {0, 0, 1}}}}}});
  const Pose turned{{10, 0, 0}, Rotation::about_z(0.5)};
  const BodyId still = yard.add({.id = "still", .build = wedge, .faction = yard.raiders, .pose = turned});
  const BodyId walker = yard.add({.id = "walker",
                                  .build = wedge,
                                  .faction = yard.raiders,
                                  .track = {{0, turned}, {1, {{20, 0, 0}, turned.turn}}}});
  const Vec3 middle = turned * Vec3{2, 1, 0.5};
  const Attack pin{.name = "pin",
                   .delivery = AreaDelivery{.shape = BallArea{1e-6}, .inside = AreaDelivery::Inside::centre}};
  const Outcome out = resolve(yard.arena, pin, {.by = yard.mara, .toward = AtPlace{middle}});
  ASSERT_EQ(out.strikes.size(), 2u);
  EXPECT_EQ(out.strikes[0].body, still);
  EXPECT_EQ(out.strikes[1].body, walker);
}

// The middle of a hull's box may lie outside it: what covers only that touches nothing.
TEST(Areas, TouchHullsAndNotTheirBoxes) {
  Yard yard;
  const BuildId wedge = *yard.arena.add_build(
      {.name = "wedge", .hitboxes = {{"all", Hull{{{0, 0, 0}, {2, 0, 0}, {0, 2, 0}, {0, 0, 2}}}}}});
  const BodyId raider =
      yard.add({.id = "raider", .build = wedge, .faction = yard.raiders, .pose = {{9, 0, 0}, {}}});
  // Its slope is x + y + z = 2; the middle of its box is (1, 1, 1).
  for (const auto& [half, struck] : {std::pair{0.3, 0u}, {0.34, 1u}}) {
    const Attack area{
        .name = "area",
        .delivery = AreaDelivery{.shape = BoxArea{{half, half, half}}, .along = AreaDelivery::Along::world}};
    const Outcome out = resolve(yard.arena, area, {.by = yard.mara, .toward = AtPlace{{10, 1, 1}}});
    EXPECT_EQ(out.strikes.size(), struck) << half;
    if (struck == 0)
      EXPECT_NEAR(*verdict_of(out, raider).deciding.margin, (3 * 0.7 - 2) / std::sqrt(3.0), 1e-9);
  }
}

TEST(Areas, MembershipAgreesWithDenseSampling) {
  test::Random random(3);
  for (const AreaShape& shape : kShapes) {
    int in = 0, out = 0;
    for (int round = 0; round < 80; ++round) {
      Yard yard;
      const double facing = random.range(-3, 3);
      yard.arena.remove(yard.mara);
      yard.mara =
          yard.add({.id = "mara", .faction = yard.wardens, .pose = {{1, 2, 0}, Rotation::about_z(facing)}});
      Shape hitbox = random.shape(1.5);
      while (!check(hitbox).empty()) hitbox = random.shape(1.5);
      const BuildId build = *yard.arena.add_build({.name = "kind", .hitboxes = {{"all", hitbox}}});
      const Pose pose{Vec3{1, 2, 0} + random.place(3), random.rotation()};
      const BodyId raider = yard.add({.id = "raider", .build = build, .faction = yard.raiders, .pose = pose});
      Attack attack = area(shape);
      delivery(attack).along = AreaDelivery::Along::attacker;
      const auto struck = [&] {
        return !resolve(yard.arena, attack, {.by = yard.mara}, Detail::strikes).strikes.empty();
      };
      const bool touched = struck();
      delivery(attack).inside = AreaDelivery::Inside::whole;
      const bool whole = struck();
      int within = 0, near_border = 0, all = 0;
      const Rotation turn = Rotation::about_z(facing);
      detail::each_volume_point(hitbox, 3000, false, [&](const Vec3& p) {
        const Vec3 seen = into(turn, pose * p - Vec3{1, 2, 0});
        ++all, within += inside(shape, seen);
        near_border +=
            detail::region_of(shape).has_value() && detail::distance(*detail::region_of(shape), seen) < 0.25;
      });
      if (within > 0) EXPECT_TRUE(touched) << shape.index() << " round " << round;
      if (within < all) EXPECT_FALSE(whole) << shape.index() << " round " << round;
      if (all > 100 && within == 0 && near_border == 0 && !std::holds_alternative<BallArea>(shape))
        EXPECT_FALSE(touched) << shape.index() << " round " << round;
      EXPECT_LE(whole, touched);
      in += touched, out += !touched;
      // A share is what was counted, as far as it says.
      if (all < 500) continue;
      delivery(attack).inside = AreaDelivery::Inside::touches, delivery(attack).share = 0.001;
      const Outcome o = resolve(yard.arena, attack, {.by = yard.mara});
      if (o.strikes.empty()) continue;
      EXPECT_NEAR(o.strikes[0].covered->share, static_cast<double>(within) / all,
                  o.strikes[0].covered->error + 0.016)
          << shape.index() << " round " << round;
      EXPECT_EQ(o.strikes[0].body, raider);
    }
    EXPECT_GT(in, 3) << shape.index();
    EXPECT_GT(out, 3) << shape.index();
  }
}

TEST(Areas, CountsWhatIsAskedFor) {
  Yard yard;
  // A ball of radius 0.5 whose middle is 0.2 beyond the plane ahead of x = 5.
  const BodyId raider = yard.raider("raider", {5.2, 0, 0});
  Attack attack = area(HalfSpaceArea{});
  delivery(attack).offset = {5, 0, 0};
  const Launch launch{.by = yard.mara};
  const auto share = [&](double wanted) {
    delivery(attack).share = wanted;
    return resolve(yard.arena, attack, launch);
  };
  // The cap beyond: height h = 0.7 of a ball of radius r: h² (3 r - h) / (4 r³).
  const double exact = 0.7 * 0.7 * (1.5 - 0.7) / (4 * 0.125);
  Outcome out = share(exact - 1e-9);
  ASSERT_EQ(out.strikes.size(), 1u);
  EXPECT_NEAR(out.strikes[0].covered->share, exact, 1e-12);
  EXPECT_EQ(out.strikes[0].covered->error, 0);
  out = share(exact + 1e-9);
  EXPECT_TRUE(out.strikes.empty());
  EXPECT_EQ(verdict_of(out, raider).deciding.reason, Reason::partly);
  EXPECT_EQ(explain(verdict_of(out, raider), yard.arena), "only 78.4 % of it lies within, less than 78.4 %");
  delivery(attack).share.reset();
  for (const auto inside : {AreaDelivery::Inside::touches, AreaDelivery::Inside::centre}) {
    delivery(attack).inside = inside;
    EXPECT_EQ(resolve(yard.arena, attack, launch).strikes.size(), 1u);
  }
  delivery(attack).inside = AreaDelivery::Inside::whole;
  out = resolve(yard.arena, attack, launch);
  EXPECT_EQ(verdict_of(out, raider).deciding.reason, Reason::partly);
  delivery(attack).offset = {4.7, 0, 0};
  EXPECT_EQ(resolve(yard.arena, attack, launch).strikes.size(), 1u) << "just within";
}

TEST(Areas, LieWhereTheyArePut) {
  Yard yard;
  const BodyId ahead = yard.raider("ahead", {6, 0, 0}), left = yard.raider("left", {0, 6, 0}),
               behind = yard.raider("behind", {-6, 0, 0});
  const auto struck = [&](const Attack& attack, const Toward& toward) {
    std::vector<BodyId> out;
    for (const Strike& s : resolve(yard.arena, attack, {.by = yard.mara, .toward = toward}).strikes)
      out.push_back(s.body);
    return out;
  };
  using Ids = std::vector<BodyId>;
  Attack beam = area(BeamArea{10, 0.2});
  EXPECT_EQ(struck(beam, left), Ids{left});
  EXPECT_EQ(struck(beam, AlongDirection{{-1, 0, 0}}), Ids{behind});
  delivery(beam).along = AreaDelivery::Along::attacker;
  EXPECT_EQ(struck(beam, left), Ids{ahead});
  delivery(beam).along = AreaDelivery::Along::world;
  EXPECT_EQ(struck(beam, left), Ids{ahead});
  // Behind whoever it is aimed at, as that one faces.
  Attack back = area(SectorArea{90 * kDegree, 0, 3, -1, 1}, AreaDelivery::Around::aim);
  delivery(back).along = AreaDelivery::Along::target, delivery(back).offset = {-3, 0, 0};
  const BodyId near_back =
      yard.add({.id = "near", .faction = yard.raiders, .pose = {{6, 8, 0}, Rotation::about_z(90 * kDegree)}});
  EXPECT_EQ(struck(back, near_back), Ids{near_back}) << "the sector's tip is 3 m behind it";
  // Upright things stay so, whatever the aim's height.
  Attack box = area(BoxArea{{6.2, 0.2, 0.2}});
  EXPECT_EQ(struck(box, AtPlace{{6, 0, 50}}), (Ids{ahead, behind}));
  Attack cone = area(ConeArea{40 * kDegree, 0, 10});
  EXPECT_EQ(struck(cone, AtPlace{{6, 0, 50}}), Ids{}) << "a cone follows the aim up";
  EXPECT_EQ(struck(cone, ahead), Ids{ahead});
}

TEST(Areas, AreAsGoodAsAttacksAndAsWhatFollows) {
  for (const AreaShape& shape : kShapes) {
    Yard yard;
    for (int i = 0; i < 60; ++i)
      yard.add({.id = std::to_string(i),
                .faction = yard.raiders,
                .pose = {Vec3{6 + 6 * std::cos(i), 6 * std::sin(1.7 * i), 0.3 * (i % 5)}, {}},
                .track = i % 3 != 0 ? std::vector<TrackKey>{}
                                    : std::vector<TrackKey>{{0, {{6 + 6 * std::cos(i), 0, 0}, {}}},
                                                            {2, {{6, 6 * std::sin(i), 0}, {}}}}});
    ShotDelivery shot;
    shot.path = StraightPath{.speed = 6}, shot.life_s = 1, shot.pierce.bodies = 1000;
    Attack child = area(shape);
    child.cap = 20;
    const Attack attack{.name = "shell",
                        .delivery = shot,
                        .who = {Relation::neutral},
                        .then = {{.when = Then::When::end, .attacks = {child}}}};
    const Launch launch{.by = yard.mara, .toward = AlongDirection{{1, 0, 0}}};
    const Outcome whole = resolve(yard.arena, attack, launch);
    EXPECT_FALSE(whole.strikes.empty()) << shape.index();
    EXPECT_EQ(std::count_if(whole.marks.begin(), whole.marks.end(),
                            [](const Mark& m) {
                              return std::holds_alternative<AreaMark>(m) ||
                                     std::holds_alternative<RingMark>(m);
                            }),
              1);
    Skirmish live(yard.arena);
    (void)*live.start(*live.add_attack(attack), launch);
    std::vector<BodyId> struck;
    for (int tick = 0; tick < 80; ++tick)
      (void)live.advance(1.0 / 60, [&](const Strike& s) { struck.push_back(s.body); });
    ASSERT_EQ(struck.size(), whole.strikes.size()) << shape.index();
    for (std::size_t i = 0; i < struck.size(); ++i) EXPECT_EQ(struck[i], whole.strikes[i].body);
  }
}

class Sights : public testing::Test {
 protected:
  Yard yard;
  // A person: a trunk, and a head above the wall.
  BuildId person = *yard.arena.add_build(
      {.name = "person",
       .hitboxes = {{"trunk", Box{{0, 0, 0}, {0.3, 0.3, 0.5}, {}}}, {"head", Ball{{0, 0, 1}, 0.2}}}});
  BodyId raider =
      yard.add({.id = "raider", .build = person, .faction = yard.raiders, .pose = {{8, 0, 0}, {}}});
  WallId wall = *yard.arena.add_wall({.id = "wall", .shape = Box{{7, 0, -1}, {0.1, 3, 1.5}, {}}});
  Attack blast = area(BallArea{20});

  Verdict with(const Sight& sight) {
    blast.sight = sight;
    return verdict_of(resolve(yard.arena, blast, {.by = yard.mara}), raider);
  }
};

TEST_F(Sights, LookAtWhatTheyAreTold) {
  Sight sight;
  EXPECT_TRUE(with(sight).struck) << "the head's nearest point is seen over the wall";
  sight.to = Sight::To::centre;
  EXPECT_EQ(with(sight).deciding.reason, Reason::wall);
  sight.to = Sight::To::zones;
  EXPECT_TRUE(with(sight).struck);
  sight.least = 0.75;
  EXPECT_EQ(with(sight).deciding.reason, Reason::partly_seen);
  EXPECT_EQ(*with(sight).deciding.measured, 0.5);
  EXPECT_EQ(explain(with(sight), yard.arena), "only 50 % of it is seen, less than 75 %");
  sight.to = Sight::To::points, sight.least = 0;
  blast.sight = sight;
  blast.sight->scales_power = true;
  const Outcome out = resolve(yard.arena, blast, {.by = yard.mara});
  ASSERT_EQ(out.strikes.size(), 1u);
  // By volume: the head, and the part of the trunk above the line over the wall's edge, about (0.5 m at 6.9).
  const double head = 4.0 / 3 * std::numbers::pi * 0.008, trunk = 0.6 * 0.6 * 1.0;
  EXPECT_NEAR(out.strikes[0].seen->share, head / (head + trunk), out.strikes[0].seen->error + 1e-12);
  EXPECT_EQ(out.strikes[0].power.seen, out.strikes[0].seen->share);
  EXPECT_EQ(out.strikes[0].power.arriving(), out.strikes[0].seen->share);
}

TEST_F(Sights, LookFromWhereTheyAreToldAndNeedRoom) {
  Sight sight;
  sight.to = Sight::To::centre, sight.place = Vec3{8, -5, 0};
  EXPECT_TRUE(with(sight).struck) << "from beside the wall";
  sight.place = Vec3{7.05, 0, 0};
  EXPECT_EQ(with(sight).deciding.reason, Reason::inside_wall);
  sight.place = Vec3{7.5, -5, 0};
  EXPECT_TRUE(with(sight).struck);
  // The wall's end is at y = 3, 0.4 m from that line at most: a thick ball does not pass by its side.
  sight.thickness = 0.6;
  EXPECT_EQ(with(sight).deciding.reason, Reason::wall);
}

TEST_F(Sights, BodiesMayStandInTheWay) {
  yard.arena.remove(wall);
  const BodyId friendly = yard.add("friend", yard.wardens, {4, 0, 0});
  Sight sight;
  EXPECT_TRUE(with(sight).struck);
  sight.blocked_by = {Relation::friendly};
  const Verdict v = with(sight);
  EXPECT_EQ(v.deciding.reason, Reason::shielded);
  EXPECT_EQ(v.deciding.by.body, friendly);
  (void)yard.arena.set_fallen(friendly, true);
  EXPECT_TRUE(with(sight).struck) << "the fallen hide nobody";
}

TEST(Choices, AnOrderSaysWhomACapTakes) {
  Yard yard;
  const auto add = [&](const char* id, Vec3 at, double health, std::vector<std::string> tags) {
    return yard.add({.id = id,
                     .faction = yard.raiders,
                     .pose = {at, {}},
                     .tags = std::move(tags),
                     .numbers = {{"health", health}}});
  };
  const BodyId near = add("near", {3, 0, 0}, 50, {}), far = add("far", {9, 0, 0}, 50, {"marked"}),
               weak = add("weak", {0, 6, 0}, 10, {}), strong = add("strong", {0, -7, 0}, 90, {"marked"});
  Attack attack = area(BallArea{20});
  attack.cap = 2;
  const auto taken = [&](Order order, std::uint64_t seed = 0) {
    attack.order = std::move(order);
    std::vector<BodyId> out;
    for (const Strike& s : resolve(yard.arena, attack, {.by = yard.mara, .seed = seed}).strikes)
      out.push_back(s.body);
    return out;
  };
  using Ids = std::vector<BodyId>;
  EXPECT_EQ(taken({}), (Ids{near, weak}));
  EXPECT_EQ(taken({ByDistance::most}), (Ids{far, strong}));
  EXPECT_EQ(taken({ByNumber{"health", ByNumber::Take::least}}), (Ids{weak, near}));
  EXPECT_EQ(taken({ByNumber{"health", ByNumber::Take::most}, ByDistance::most}), (Ids{strong, far}));
  EXPECT_EQ(taken({ByTag{"marked"}}), (Ids{strong, far}));
  EXPECT_EQ(taken({ByAngle::least, ByDistance::most}), (Ids{far, near}));
  EXPECT_EQ(taken({ByNumber{"courage"}}), (Ids{near, weak})) << "nobody has it";
  std::map<std::uint32_t, int> drawn;
  for (std::uint64_t seed = 0; seed < 400; ++seed) ++drawn[taken({ByChance::even}, seed)[0].index];
  EXPECT_EQ(drawn.size(), 4u);
  for (const auto& [body, times] : drawn) EXPECT_NEAR(times, 100, 40);
  (void)taken({ByTag{"marked"}});
  const Outcome out = resolve(yard.arena, attack, {.by = yard.mara});
  EXPECT_EQ(explain(verdict_of(out, near), yard.arena),
            "the cap was spent on those that come first by its order");
  // By hand, in a running game.
  EXPECT_TRUE(yard.arena.set_number(near, "health", 1).empty());
  EXPECT_EQ(taken({ByNumber{"health"}})[0], near);
  EXPECT_FALSE(yard.arena.set_number(near, "health", std::nan("")).empty());
  EXPECT_EQ(*yard.arena.number(near, "health"), 1);
}

}  // namespace
}  // namespace dardo::areas_test
