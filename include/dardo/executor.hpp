#pragma once
#include <algorithm>
#include <cstddef>
#include <type_traits>

namespace dardo {

/// Who carries out several jobs of one call: unless told otherwise, the calling thread, one after the other.
/// The core has no threads of its own; `dardo::batch` offers some (`on_all_cores`), and whoever has a pool
/// wraps that:
///
///     struct Pool {
///       void run(std::size_t jobs, void (*job)(void*, std::size_t), void* data);  // each once; back when
///       done
///     } pool;
///     live.set_executor(Executor(pool));
///
/// Keeps a reference to it. Jobs throw nothing, may run in any order and at the same time, and start no
/// others.
class Executor {
 public:
  using Job = void (*)(void* data, std::size_t number);

  Executor() = default;
  template <class Pool>
  explicit Executor(Pool& pool)
      : pool_(&pool), run_([](void* p, std::size_t jobs, Job job, void* data) {
          static_cast<Pool*>(p)->run(jobs, job, data);
        }) {}

  /// Whether it may do more than one at a time.
  bool is_shared() const { return run_ != nullptr; }
  /// `work(number)` for each below `jobs`.
  template <class Work>
  void run(std::size_t jobs, Work&& work) const {
    const Job job = [](void* data, std::size_t number) {
      (*static_cast<std::remove_reference_t<Work>*>(data))(number);
    };
    if (run_ != nullptr && jobs > 1) {
      run_(pool_, jobs, job, &work);
    } else {
      for (std::size_t i = 0; i < jobs; ++i) work(i);
    }
  }
  /// `work(from, to)` for parts of `count` things, of `part` each.
  template <class Work>
  void in_parts(std::size_t count, std::size_t part, Work&& work) const {
    run((count + part - 1) / part, [&](std::size_t i) { work(i * part, std::min(count, (i + 1) * part)); });
  }

 private:
  void* pool_ = nullptr;
  void (*run_)(void*, std::size_t, Job, void*) = nullptr;
};

}  // namespace dardo
