#include "dardo/batch/resolve_all.hpp"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

namespace dardo {

std::vector<Outcome> resolve_all(const Arena& arena, std::span<const BatchLaunch> launches, Detail detail,
                                 int threads) {
  std::vector<Outcome> out(launches.size());
  tbb::task_arena workers(threads > 0 ? threads : tbb::task_arena::automatic);
  workers.execute([&] {
    constexpr std::size_t kGrain = 16;  // a launch takes microseconds
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, launches.size(), kGrain), [&](const auto& range) {
      for (std::size_t i = range.begin(); i < range.end(); ++i) {
        out[i] = resolve(arena, *launches[i].attack, launches[i].launch, detail);
      }
    });
  });
  return out;
}

}  // namespace dardo
