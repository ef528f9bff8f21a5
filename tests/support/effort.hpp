#pragma once

namespace dardo::test {

/// How many random cases a test takes: all of them, or a quarter where a sanitizer makes each ten times as
/// slow.
template <class Count>
constexpr Count effort(Count cases) {
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
  return (cases + 3) / 4;
#else
  return cases;
#endif
}

}  // namespace dardo::test
