#include "dardo/record/limits.hpp"

#include "dardo/record/rows.hpp"
#include "geometry/detail/check_rows.hpp"

namespace dardo {

Problems check(const Limits& limits) {
  Problems out;
  detail::check_by_rows(out, {}, limits);
  return out;
}

}  // namespace dardo
