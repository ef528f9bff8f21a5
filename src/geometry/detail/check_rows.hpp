#pragma once
#include <charconv>
#include <cmath>
#include <string>
#include <utility>
#include <vector>

#include "dardo/flag_set.hpp"
#include "dardo/geometry/rows.hpp"

// What is wrong with a value, by its rows.
namespace dardo::detail {

inline void append(Problems& out, const std::string& where, Problems more) {
  for (Problem& p : more) out.push_back({where + p.where, std::move(p.what), std::move(p.fix)});
}

/// `key` as a step of a JSON pointer: "/" and the key, escaped (RFC 6901).
std::string pointer_step(std::string_view key);
/// The way to a value; made into text only when something is wrong there.
struct Where {
  const Where* up = nullptr;
  std::string_view key;
  std::size_t number = 0;  ///< instead of the key, where that is empty

  std::string text() const;
};
/// A number as short as it can be read again.
std::string number_text(double value);
/// A number in memory as files write it, without the rounding of its unit.
double in_files(double value, const Range& range);
/// "metres from 0 to 1e7": which numbers a range allows, as files write them.
std::string range_text(const Range& range);
/// Nothing, or what is wrong with a number in memory, told as files write it.
void check_number(Problems& out, const Where& where, double value, const Range& range);
void check_rotation(Problems& out, const Where& where, const Rotation& turn);

template <class T>
void check_by_rows(Problems& out, const Where& where, const T& value, const Range& range = {});

template <class... Kinds>
void check_kinds(Problems& out, const Where& where, const std::variant<Kinds...>& value) {
  each_row<std::variant<Kinds...>>([&](const auto& kind) {
    using Kind = typename std::remove_cvref_t<decltype(kind)>::type;
    if (const auto* v = std::get_if<Kind>(&value)) check_by_rows(out, Where{&where, kind.name}, *v);
  });
}

template <class T>
struct IsList : std::false_type {};
template <class T>
struct IsList<std::vector<T>> : std::true_type {};

template <class T>
void check_by_rows(Problems& out, const Where& where, const T& value, const Range& range) {
  if constexpr (std::is_same_v<T, double> || std::is_same_v<T, std::uint32_t>) {
    check_number(out, where, static_cast<double>(value), range);
  } else if constexpr (std::is_same_v<T, Vec3>) {
    if (range.most == 0) return;  // a direction: its own check says more
    check_number(out, Where{&where, {}, 0}, value.x, range);
    check_number(out, Where{&where, {}, 1}, value.y, range);
    check_number(out, Where{&where, {}, 2}, value.z, range);
  } else if constexpr (std::is_same_v<T, Rotation>) {
    check_rotation(out, where, value);
  } else if constexpr (std::is_same_v<T, Hull>) {
    if (value.points.empty()) out.push_back({where.text(), "is empty", "at least one point"});
    check_by_rows(out, where, value.points, units::coordinate);
  } else if constexpr (kIsOptional<T>) {
    if (value) check_by_rows(out, where, *value, range);
  } else if constexpr (kIsVariant<T>) {
    check_kinds(out, where, value);
  } else if constexpr (IsList<T>::value) {
    using Item = typename T::value_type;
    for (std::size_t i = 0; i < value.size(); ++i) {
      if constexpr (HasKey<Item>) {
        check_by_rows(out, Where{&where, value[i].*Keyed<Item>::name}, value[i].*Keyed<Item>::value, range);
      } else {
        check_by_rows(out, Where{&where, {}, i}, value[i], range);
      }
    }
  } else if constexpr (HasRows<T>) {
    std::size_t number = 0;
    each_row<T>([&](const auto& r) {
      if constexpr (kIsInline<decltype(r)>) {
        check_by_rows(out, where, value.*r.member);
      } else if constexpr (requires { Rows<T>::as_list; }) {
        check_by_rows(out, Where{&where, {}, number++}, value.*r.member, r.range);
      } else {
        check_by_rows(out, Where{&where, r.name}, value.*r.member, r.range);
      }
    });
    if constexpr (requires { Rows<T>::across(value); }) {
      Problems more = Rows<T>::across(value);
      if (!more.empty()) append(out, where.text(), std::move(more));
    }
  }
}

}  // namespace dardo::detail
