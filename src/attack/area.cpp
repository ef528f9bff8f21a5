#include "dardo/attack/area.hpp"

#include "dardo/attack/rows.hpp"

namespace dardo {
namespace {

template <class T>
T mixed(const T& a, const T& b, double share) {
  if constexpr (std::is_same_v<T, double>) {
    return a + (b - a) * share;
  } else if constexpr (std::is_same_v<T, Vec3>) {
    return a + (b - a) * share;
  } else if constexpr (std::is_same_v<T, planar::Vec2>) {
    return {a.x + (b.x - a.x) * share, a.y + (b.y - a.y) * share};
  } else if constexpr (requires { a.size(); }) {
    T out = a;
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = mixed(a[i], b[i], share);
    return out;
  } else {
    T out = a;
    each_row<T>([&](const auto& r) { out.*r.member = mixed(a.*r.member, b.*r.member, share); });
    return out;
  }
}

}  // namespace

AreaShape between(const AreaShape& a, const AreaShape& b, double share) {
  return std::visit(
      [&](const auto& from) {
        return AreaShape(mixed(from, std::get<std::remove_cvref_t<decltype(from)>>(b), share));
      },
      a);
}

}  // namespace dardo
