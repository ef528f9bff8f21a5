#pragma once

// GCC defines the one, Clang answers the other.
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
#define DARDO_TEST_SANITIZED 1
#elif defined(__has_feature)
#if __has_feature(address_sanitizer) || __has_feature(thread_sanitizer)
#define DARDO_TEST_SANITIZED 1
#endif
#endif

namespace dardo::test {

#ifdef DARDO_TEST_SANITIZED
constexpr bool kSanitized = true;
#else
constexpr bool kSanitized = false;
#endif

/// How many random cases a test takes: all of them, or a quarter where a sanitizer makes each ten times as
/// slow.
template <class Count>
constexpr Count effort(Count cases) {
  return kSanitized ? (cases + 3) / 4 : cases;
}

}  // namespace dardo::test
