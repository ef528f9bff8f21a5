#pragma once
#include <array>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <tuple>
#include <type_traits>
#include <variant>

#include "dardo/problem.hpp"

// What is known of each key of the data: its name in files, the member that holds it, its unit and range, and
// one sentence. Checks, files, schema, reference and tests are made from these rows; the default is the
// struct's.
namespace dardo {

/// What a number means. Angles are radians in memory, degrees in files.
enum class Unit : std::uint8_t {
  plain,
  metres,
  seconds,
  speed,
  acceleration,
  angle,
  turn_rate,
  factor,
  share,
  per_metre,
  count,
  text  ///< of any length: no name
};

/// Which numbers are allowed, in the unit of memory.
struct Range {
  Unit unit = Unit::plain;
  double least = 0, most = 0;
  bool above = false;    ///< `least` itself is not allowed
  bool endless = false;  ///< infinity is, and means that there is no limit; files say "endless"
  double per_file = 1;   ///< what a 1 in a file is in memory: degrees, whole extents

  constexpr bool holds(double v) const {
    if (endless && v == std::numeric_limits<double>::infinity()) return true;
    return (above ? v > least : v >= least) && v <= most;
  }
};

/// One key of a struct.
template <class Struct, class Member>
struct Row {
  std::string_view name;
  Member Struct::*member;
  Range range;
  std::string_view says;
  bool needed = false;  ///< files must say it
};
/// A member whose keys stand in the struct's own object; of a variant exactly one of its kinds.
template <class Struct, class Member>
struct Inline {
  Member Struct::*member;
};
/// One kind of a variant.
template <class Kind>
struct KindRow {
  using type = Kind;
  std::string_view name, says;
};
/// One value of an enumeration.
template <class Enum>
struct Word {
  Enum value;
  std::string_view word, says;
};
template <class Enum>
Word(Enum, std::string_view, std::string_view) -> Word<Enum>;

template <class Struct, class Member>
constexpr Row<Struct, Member> row(std::string_view name, Member Struct::*member, std::string_view says) {
  return {name, member, {}, says};
}
template <class Struct, class Member>
constexpr Row<Struct, Member> row(std::string_view name, Member Struct::*member, Range range,
                                  std::string_view says) {
  return {name, member, range, says};
}
template <class Struct, class Member>
constexpr Row<Struct, Member> needed(Row<Struct, Member> r) {
  r.needed = true;
  return r;
}
template <class Struct, class Member>
constexpr Inline<Struct, Member> inlined(Member Struct::*member) {
  return {member};
}
template <class Kind>
constexpr KindRow<Kind> kind(std::string_view name, std::string_view says) {
  return {name, says};
}

/// A list that files write as an object of names: which members are the name and the value.
template <class Item>
struct Keyed;
template <class Item>
concept HasKey = requires {
  Keyed<Item>::name;
};

/// `Rows<Struct>::as_list`, where it is: files write it as a list of its numbers. `Rows<Struct>::shorthand`:
/// a text alone stands for that member. `Rows<Struct>::all`: a tuple of rows; `Rows<Variant>::all`: a tuple
/// of kinds. `across(value)`, where there is one, says what is wrong with several keys at once.
template <class Type>
struct Rows;
/// `Words<Enum>::all`: an array of its words, in the order of its values.
template <class Enum>
struct Words;

template <class Type>
concept HasRows = requires {
  Rows<Type>::all;
};
template <class Enum>
concept HasWords = requires {
  Words<Enum>::all;
};

template <HasWords Enum>
constexpr std::string_view word_of(Enum value) {
  for (const auto& w : Words<Enum>::all) {
    if (w.value == value) return w.word;
  }
  return {};
}

/// Calls `visit(row)` for each row of a struct, or each kind of a variant.
template <class Type, class Visit>
constexpr void each_row(Visit&& visit) {
  std::apply([&](const auto&... r) { (visit(r), ...); }, Rows<Type>::all);
}

template <class T>
struct IsVariant : std::false_type {};
template <class... Ts>
struct IsVariant<std::variant<Ts...>> : std::true_type {};
template <class T>
constexpr bool kIsVariant = IsVariant<T>::value;
template <class T>
struct IsOptional : std::false_type {};
template <class T>
struct IsOptional<std::optional<T>> : std::true_type {};
template <class T>
constexpr bool kIsOptional = IsOptional<T>::value;
template <class R>
struct IsInline : std::false_type {};
template <class S, class M>
struct IsInline<Inline<S, M>> : std::true_type {};
template <class R>
constexpr bool kIsInline = IsInline<std::remove_cvref_t<R>>::value;

}  // namespace dardo
