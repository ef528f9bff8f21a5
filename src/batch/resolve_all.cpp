#include "dardo/batch/resolve_all.hpp"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

namespace dardo {

namespace {

Outcome resolve_one(const Arena& arena, const BatchLaunch& one, const ResolveOptions& options) {
  if (one.under_way.empty()) return resolve(arena, *one.attack, one.launch, options);
  ResolveOptions mine = options;
  std::vector<UnderWay> all(options.under_way.begin(), options.under_way.end());
  all.insert(all.end(), one.under_way.begin(), one.under_way.end());
  mine.under_way = all;
  return resolve(arena, *one.attack, one.launch, mine);
}

}  // namespace

std::vector<Outcome> resolve_all(const Arena& arena, std::span<const BatchLaunch> launches,
                                 const ResolveOptions& options) {
  std::vector<Outcome> out(launches.size());
  tbb::task_arena workers(options.threads > 0 ? options.threads : tbb::task_arena::automatic);
  workers.execute([&] {
    constexpr std::size_t kGrain = 16;  // a launch takes microseconds
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, launches.size(), kGrain), [&](const auto& range) {
      for (std::size_t i = range.begin(); i < range.end(); ++i) {
        out[i] = resolve_one(arena, launches[i], options);
      }
    });
  });
  return out;
}

}  // namespace dardo
