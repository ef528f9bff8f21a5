#pragma once
#include <cstdint>

namespace dardo::detail {

/// What a thread has computed so far: tests hold it against what that was for.
struct Work {
  std::uint64_t pieces = 0;    ///< of ways
  std::uint64_t contacts = 0;  ///< instants in which something was touched
  std::uint64_t looks = 0;     ///< how far two were apart at a time
};
/// Of the thread that calls.
Work& work();

}  // namespace dardo::detail
