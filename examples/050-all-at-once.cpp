// A running game with everything at once that lasts, sweeps, waits or jumps: a bell whose ring grows, burning
// oil, a boathook, a powder keg, a captain's leap, a spark, a net that opens, a wave that pushes.
#include <cstdio>
#include <map>
#include <string>

#include <dardo/resolve/skirmish.hpp>

using namespace dardo;

int main() {
  Arena quay;
  const auto wardens = *quay.add_faction("wardens"), raiders = *quay.add_faction("raiders");
  quay.relate(wardens, raiders, Relation::foe);
  const auto deckhand =
      *quay.add_build({.name = "deckhand", .hitboxes = {{"trunk", Capsule{{0, 0, 0.4}, {0, 0, 1.6}, 0.35}}}});
  const auto stand = [&](std::string id, FactionId faction, Vec3 at) {
    return *quay.add_body({.id = std::move(id), .build = deckhand, .faction = faction, .pose = {at, {}}});
  };
  const BodyId mara = stand("mara", wardens, {0, 0, 0});
  std::vector<BodyId> crowd;
  for (int i = 0; i < 12; ++i)
    crowd.push_back(stand("raider-" + std::to_string(i), raiders, {9.0 + i % 4 * 2, -4.0 + i / 4 * 4, 0}));

  Attack bell{.name = "bell", .effects = {Push{.strength = 2}}};
  bell.delivery = AreaDelivery{.shape = RingArea{0.5, 1, -2, 2},
                               .around = AreaDelivery::Around::attacker,
                               .lasts = Lasts{.for_s = 1.5, .growth = 8}};
  Attack oil{.name = "oil", .power = 2};
  oil.delivery = AreaDelivery{.shape = BallArea{2}, .lasts = Lasts{.for_s = 4, .every_s = 0.5}};
  Attack hook{.name = "hook", .power = 6};
  hook.delivery = SwingDelivery{.blade = CapsuleArea{{0.5, 0, 1}, {2.5, 0, 1}, 0.06},
                                .keys = {{0, {}, 2}, {0.25, {}, -2}}};
  Attack burst{.name = "burst",
               .power = 15,
               .effects = {Push{.strength = 9, .falloff = {Falloff::Curve::smooth, 4, {}}}}};
  burst.delivery = AreaDelivery{.shape = BallArea{4}};
  Attack keg{.name = "keg", .delivery = TrapDelivery{.shape = BallArea{1.5}, .armed_after_s = 0.5}};
  keg.then = {{.when = Then::When::trigger, .attacks = {burst}}};
  Attack spark{.name = "spark", .power = 7};
  spark.delivery = ChainDelivery{.hop = 5, .hops = 6, .delay_s = 0.08, .power_ratio = 0.8};
  Attack part{.name = "part", .reach = {0, 8}};
  part.delivery = ShotDelivery{.path = StraightPath{.speed = 15},
                               .volley = {.count = 4, .spread = Volley::Spread::bodies}};
  Attack net{.name = "net", .delivery = ShotDelivery{.path = StraightPath{.speed = 20}}};
  net.then = {{.when = Then::When::strike, .attacks = {part}}};
  Attack wave{.name = "wave",
              .effects = {Push{.strength = 5, .toward = Push::Toward::along, .direction = {1, 0, 0}}}};
  wave.delivery =
      AreaDelivery{.shape = BoxArea{{0.5, 6, 2}}, .lasts = Lasts{.for_s = 2, .velocity = {8, 0, 0}}};

  Attack leap{.name = "leap", .power = 4};
  leap.delivery = DashDelivery{.speed = 12, .beside = 0.3, .rise = 2};
  leap.then = {{.when = Then::When::landing, .attacks = {burst}}};

  Skirmish live(quay);
  std::map<std::uint32_t, std::string> names;  // of launches
  const auto launch = [&](const Attack& attack, const Toward& toward, double at_s = 0) {
    const auto number = live.start(*live.add_attack(attack), {.by = mara, .toward = toward, .at_s = at_s});
    if (number) names[*number] = attack.name;
  };
  launch(bell, AlongFacing{}), launch(hook, AlongFacing{}, 4.6), launch(spark, crowd[4]),
      launch(net, crowd[5]);
  launch(leap, crowd[1], 2), launch(oil, AtPlace{{9, 0, 0.8}}), launch(keg, AtPlace{{5, 0, 0.5}}),
      launch(wave, AtPlace{{2, 0, 0.5}});

  std::map<std::string, int> strikes;
  double pushed = 0;
  int came_in = 0, over = 0;
  std::vector<DashView> dashes;
  for (int tick = 0; tick < 60 * 6; ++tick) {
    for (const BodyId raider : crowd) {  // they come nearer
      Pose pose = quay.body(raider).pose;
      pose.at.x -= 1.5 / 60;
      (void)live.move(raider, pose);
    }
    (void)live.advance(
        1.0 / 60,
        [&](const Strike& s) {
          ++strikes[names[s.launch]];
          for (const EffectDone& e : s.effects) pushed += length(std::get<PushDone>(e.what).velocity);
        },
        [&](const ShotEnd&) { ++over; }, [](const LimitMet&) {},
        [&](const Presence& p) { came_in += p.inside; });
    live.dashes(dashes);
    for (const DashView& d : dashes)
      if (d.over)
        std::printf("%s has landed at (%.1f, %.1f)\n", quay.body(d.body).id.c_str(), d.pose.at.x,
                    d.pose.at.y);
  }
  for (const auto& [name, count] : strikes) std::printf("%-5s struck %d times\n", name.c_str(), count);
  std::printf("%d came into something that lasts, %d things are over, pushed by %.1f m/s in all\n", came_in,
              over, pushed);
  return strikes.size() == 8 && live.under_way() == 0 ? 0 : 1;
}
