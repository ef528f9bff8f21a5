// What flights have met, short lists and long ones.
#include "resolve/carriers/shot/memory.hpp"

#include <gtest/gtest.h>

#include <map>

#include "support/random.hpp"

namespace dardo::detail::memory_test {
namespace {

TEST(Memory, KnowsWhatEachHasMetHoweverMany) {
  test::Random random(5);
  Memory memory;
  struct Flight {
    Memory::List list;
    std::map<std::pair<bool, std::uint32_t>, std::uint32_t> met;  ///< a body or not, and which: how often
  };
  std::vector<Flight> flights(6);
  for (int step = 0; step < 30000; ++step) {
    Flight& f = flights[static_cast<std::size_t>(random.whole(0, 5))];
    if (random.chance(0.002)) {
      memory.forget(f.list), f.met.clear();
      continue;
    }
    const bool body = random.chance(0.7);
    const auto which = static_cast<std::uint32_t>(random.whole(0, 400));
    Met& met = body ? memory.meet(f.list, BodyId{which, 1}) : memory.meet(f.list, WallPartId{which, 0});
    EXPECT_EQ(met.times, (f.met[{body, which}])++);
    ++met.times;
  }
  for (const Flight& f : flights) {
    EXPECT_EQ(f.list.count, f.met.size());
    for (std::uint32_t which = 0; which <= 400; ++which) {
      const auto at = f.met.find({true, which});
      const Met* known = memory.known(f.list, BodyId{which, 1});
      ASSERT_EQ(known != nullptr, at != f.met.end()) << which;
      if (known != nullptr) EXPECT_EQ(known->times, at->second);
      EXPECT_EQ(memory.known(f.list, BodyId{which, 2}), nullptr) << "another body in the same place";
    }
  }
}

}  // namespace
}  // namespace dardo::detail::memory_test
