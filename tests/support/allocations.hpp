#pragma once
#include <cstddef>

namespace dardo::test {

/// How often memory was allocated so far. Only for programs that support/allocations.cpp is compiled into.
std::size_t allocations();

}  // namespace dardo::test
