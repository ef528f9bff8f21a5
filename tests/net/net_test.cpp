// A few hundred situations of all kinds, each run in all ways; `./dev fuzz engine` tries more of them for
// longer.
#include <gtest/gtest.h>

#include "support/effort.hpp"
#include "support/trials.hpp"

namespace dardo::test {
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
  EXPECT_GE(tally.striking * 3, tally.situations) << "a third at least strike somebody";
  for (const char* kind : {"ray", "area", "straight", "falling", "curve", "guided", "lob"})
    EXPECT_GT(tally.seen[kind], 0u) << kind;
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
}  // namespace dardo::test
