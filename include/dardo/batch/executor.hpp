#pragma once
#include "dardo/executor.hpp"

namespace dardo {

/// Runs jobs on all cores, by TBB; for any number of callers, for the whole life of the program.
Executor on_all_cores();

}  // namespace dardo
