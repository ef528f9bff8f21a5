#include "resolve/work.hpp"

namespace dardo::detail {

Work& work() {
  thread_local Work done;
  return done;
}

}  // namespace dardo::detail
