// A few hundred situations of all kinds, each run in all ways; `./dev fuzz engine` tries more of them for
// longer.
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <optional>

#include "dardo/io/outcome_json.hpp"
#include "support/effort.hpp"
#include "support/options.hpp"
#include "support/trials.hpp"

namespace dardo::test::net_test {
namespace {

/// Fixed, so that a change is blamed for what it breaks.
constexpr std::uint64_t kFirst = 100000;

TEST(Net, EverySituationIsTheSameInAllWays) {
  Tally tally;
  for (std::uint64_t seed = kFirst; seed < kFirst + effort<std::uint64_t>(320); ++seed) {
    for (const bool coincident : {true, false}) {
      const std::string complaint = try_all(Recipe::random(seed, coincident), tally);
      EXPECT_EQ(complaint, "") << "seed " << seed << (coincident ? " coincident" : " generic");
    }
  }
  EXPECT_LE(tally.degenerate * 20, tally.generic) << "few stand so that a hair decides";
  for (const char* kind : {"ray",
                           "area",
                           "lasting",
                           "swing",
                           "trap",
                           "chain",
                           "straight",
                           "falling",
                           "curve",
                           "guided",
                           "lob",
                           "wall: cylinder",
                           "wall: capsule",
                           "wall: cone",
                           "wall: hull",
                           "wall: mesh",
                           "wall that moves",
                           "body that changes",
                           "launch from a place",
                           "launch from a muzzle in the world",
                           "launch that leaves aside",
                           "launch at a choice",
                           "launch at its own time"})
    EXPECT_GT(tally.seen[kind], 0u) << kind;
  // Of fewer, shares say little.
  if (kSanitized) return;
  EXPECT_GE(tally.striking * 20, tally.situations * 9) << "nearly half strike somebody";
  for (const char* limit : {"carriers", "alive", "strikes", "contacts", "depth", "flight"})
    EXPECT_GT(tally.seen[std::string("limit of ") + limit], 0u) << limit;
}

/// What changed in an outcome counts, but not what it is called.
bool same_outcome(Outcome a, Outcome b) {
  a.attack = b.attack = a.launch = b.launch = "";
  return a == b;
}

// An option that is drawn and changes nothing is not tested by anything.
TEST(Net, EveryOptionChangesSomeOutcome) {
  if (kSanitized) GTEST_SKIP() << "counted once, without sanitizers";
  std::map<std::string, std::size_t> said, matters;
  const auto all_matter = [&] {
    return std::all_of(said.begin(), said.end(), [&](const auto& o) { return matters[o.first] > 0; });
  };
  // These cannot be taken back alone: what is left would be refused.
  for (const char* needed : {"lob/apex", "lob/flight_time", "then/attacks", "then/distance", "prism/polygon",
                             "swing/keys", "hull/points"})
    matters[needed] = 1;
  for (const char* never : {"name", "facing_within", "ray/pierce/speed_loss", "ray/ricochet/least_speed"})
    matters[never] = 1;
  for (std::uint64_t seed = 1; seed <= 1000 || (seed <= 10000 && !all_matter()); ++seed) {
    const Situation s = make_situation(Recipe::random(seed, seed % 2 == 0));
    // Somebody shoots back, so that shots may meet.
    const auto outcome = [&](const Attack& attack) {
      const UnderWay back{attack, {.by = s.bodies[1], .toward = AtBody{s.bodies[0]}}, 0.1};
      const bool meets = check(s.arena, back).empty();
      return resolve(
          s.arena, attack, s.launch,
          {.detail = Detail::full, .under_way = {&back, meets ? std::size_t{1} : 0}, .rules = &rules()});
    };
    // Only those are looked at that have not changed anything so far.
    std::optional<Outcome> full;
    Attack counted = s.attack;
    std::size_t options = 0;
    each_option(counted, "", [&](const std::string&, bool, const auto&) { ++options; });
    for (std::size_t k = 0; k < options; ++k) {
      Attack attack = s.attack;
      std::size_t number = 0;
      std::string name;
      bool changed = false;
      each_option(attack, "", [&](const std::string& option, bool is_said, const auto& reset) {
        if (number++ != k) return;
        name = option;
        said[option] += is_said;
        if (is_said && matters[option] == 0) reset(), changed = true;
      });
      if (!changed || !check(s.arena, attack, s.launch).empty()) continue;
      if (!full) full = outcome(s.attack);
      matters[name] += !same_outcome(outcome(attack), *full);
    }
  }
  for (const auto& [option, times] : said) EXPECT_GT(matters[option], 0u) << option << ", seen " << times;
}

TEST(Net, EveryPairOccurs) {
  if (kSanitized) GTEST_SKIP() << "counted once, without sanitizers";
  Tally tally;
  for (std::uint64_t seed = 1; seed <= 420000; ++seed)
    count(tally, make_situation(Recipe::random(seed, seed % 2 == 0)));
  const std::array kDeliveries{"ray",  "area",     "lasting", "swing", "trap",   "chain",
                               "dash", "straight", "falling", "curve", "guided", "lob"};
  const auto occurs = [&](const std::string& pair) { EXPECT_GT(tally.seen[pair], 0u) << pair; };
  for (const std::string delivery : kDeliveries) {
    for (const char* motion : {" among the still", " among movers"}) {
      for (const std::string next : kDeliveries) {
        occurs(delivery + (delivery == "trap" ? " then trigger " : " then strike ") + next + motion);
        occurs(delivery + " then end " + next + motion);
      }
    }
  }
  for (const std::string flyer : {"point", "radius", "ball", "capsule", "box", "cylinder", "cone", "hull"}) {
    for (const char* hitbox : {"ball", "capsule", "box", "cylinder", "cone", "hull"})
      occurs(flyer + " at a " + hitbox);
  }
}

// The least and the most of every number: refused, or brought to an end in time with numbers that can be
// told.
TEST(Net, ExtremesOfEveryNumberAreBounded) {
  const Situation s = make_situation(Recipe::random(7, true));
  std::size_t tried = 0;
  for (const Delivery& delivery : {Delivery{RayDelivery{}}, Delivery{AreaDelivery{.shape = BallArea{1}}},
                                   Delivery{ShotDelivery{.path = StraightPath{.speed = 20}}},
                                   Delivery{ShotDelivery{.path = FallingPath{.speed = 20, .drag = 0.1}}},
                                   Delivery{ShotDelivery{.path = CurvePath{.speed = 20}}},
                                   Delivery{ShotDelivery{.path = GuidedPath{.speed = 20, .turn_rate = 2}}},
                                   Delivery{ShotDelivery{.path = LobPath{.flight_time_s = 1}}}}) {
    const Attack plain{.name = "plain", .delivery = delivery};
    std::size_t numbers = 0;
    Attack counted = plain;
    each_number(counted, "", {}, [&](const std::string&, double&, const Range&) { ++numbers; });
    for (std::size_t k = 0; k < 3 * numbers; ++k) {
      Attack attack = plain;
      std::size_t number = 0;
      std::string told;
      each_number(attack, "", {}, [&](const std::string& name, double& value, const Range& range) {
        if (number++ != k / 3) return;
        const double least = range.above ? std::nextafter(range.least, range.most) : range.least;
        value = std::array{least, range.most, std::min(range.most, std::max(least, 1e-300))}[k % 3];
        told = name + " = " + std::to_string(value);
      });
      const Launch launch{.by = s.bodies[0], .toward = AtBody{s.bodies[1]}};
      if (!check(s.arena, attack, launch).empty()) continue;
      ++tried;
      const auto start = std::chrono::steady_clock::now();
      const Outcome out[] = {resolve_ruled(s.arena, attack, launch, Detail::full)};
      EXPECT_LT(std::chrono::steady_clock::now() - start, std::chrono::seconds(kSanitized ? 20 : 2)) << told;
      EXPECT_EQ(io::outcomes_json(out, s.arena, "x").find("null"), std::string::npos) << told;
    }
  }
  EXPECT_GT(tried, 100u);
}

TEST(Net, BytesOfAnyKindMakeASituation) {
  for (std::size_t size = 0; size < 600; size += 37) {
    std::vector<std::uint8_t> bytes(size, 0xff);
    for (std::size_t i = 0; i < size; ++i) bytes[i] = static_cast<std::uint8_t>(i * 89 + size);
    const Situation s = make_situation(Recipe::of_bytes(bytes));
    EXPECT_TRUE(check(s.arena, s.attack, s.launch).empty()) << size;
  }
}

}  // namespace
}  // namespace dardo::test::net_test
