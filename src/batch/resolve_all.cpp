#include "dardo/batch/resolve_all.hpp"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

#include <algorithm>

#include "dardo/resolve/prepared.hpp"

namespace dardo {

namespace {

/// Each attack of the batch once, made ready; those that are refused are missing.
class Attacks {
 public:
  Attacks(const Arena& arena, std::span<const BatchLaunch> launches, const Rules& rules) {
    for (const BatchLaunch& one : launches) {
      // Batches often launch one attack many times in a row.
      if (entries_.empty() || entries_.back().attack != one.attack) entries_.push_back({one.attack, {}});
    }
    std::sort(entries_.begin(), entries_.end(), before);
    const auto same = [](const Entry& a, const Entry& b) { return a.attack == b.attack; };
    entries_.erase(std::unique(entries_.begin(), entries_.end(), same), entries_.end());
    for (Entry& e : entries_) {
      if (auto ready = prepare(arena, *e.attack, rules)) e.ready = std::move(*ready);
    }
  }
  const PreparedAttack* find(const Attack* attack) const {
    const auto at = std::lower_bound(entries_.begin(), entries_.end(), Entry{attack, {}}, before);
    return at->ready ? &*at->ready : nullptr;
  }

 private:
  struct Entry {
    const Attack* attack;
    std::optional<PreparedAttack> ready;
  };
  static bool before(const Entry& a, const Entry& b) { return std::less<>{}(a.attack, b.attack); }
  std::vector<Entry> entries_;
};

void resolve_one(const Arena& arena, const BatchLaunch& one, const PreparedAttack* ready,
                 const ResolveOptions& options, Outcome& out) {
  if (ready != nullptr) {
    resolve(arena, *ready, one.launch, options, out);
  } else {
    out = resolve(arena, *one.attack, one.launch, options);
  }
}

}  // namespace

std::vector<Outcome> resolve_all(const Arena& arena, std::span<const BatchLaunch> launches,
                                 const ResolveOptions& options) {
  std::vector<Outcome> out(launches.size());
  const Rules none;
  const Attacks attacks(arena, launches, options.rules != nullptr ? *options.rules : none);
  tbb::task_arena workers(options.threads > 0 ? options.threads : tbb::task_arena::automatic);
  workers.execute([&] {
    constexpr std::size_t kGrain = 16;  // a launch takes microseconds
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, launches.size(), kGrain), [&](const auto& range) {
      for (std::size_t i = range.begin(); i < range.end(); ++i) {
        const BatchLaunch& one = launches[i];
        ResolveOptions mine = options;
        std::vector<UnderWay> all;
        if (!one.under_way.empty()) {
          all.assign(options.under_way.begin(), options.under_way.end());
          all.insert(all.end(), one.under_way.begin(), one.under_way.end());
          mine.under_way = all;
        }
        resolve_one(arena, one, attacks.find(one.attack), mine, out[i]);
      }
    });
  });
  return out;
}

}  // namespace dardo
