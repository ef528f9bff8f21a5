#pragma once
#include <cstddef>
#include <cstdint>

namespace dardo {

/// Asks the memory for all of an object that is read soon, as for the `ahead` of `Tree`'s calls. Objects
/// that do not start with a cache line (64 bytes) reach into one more. Better than the compiler's own
/// builtin, which is dropped together with a small function around it.
template <class Object>
void prefetch(const Object& object) {
  const auto* bytes = reinterpret_cast<const char*>(&object);
  for (std::size_t at = 0; at < sizeof object; at += 64) __builtin_prefetch(bytes + at);
  if constexpr (alignof(Object) % 64 != 0) __builtin_prefetch(bytes + sizeof object - 1);
  // A function that does nothing else counts as one without effect, and GCC drops calls of it.
  asm volatile("");
}

/// The `ahead` of who has nothing to fetch.
struct NoPrefetch {
  void operator()(std::uint32_t /*item*/) const {}
};

}  // namespace dardo
