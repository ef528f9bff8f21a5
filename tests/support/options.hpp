#pragma once
#include <string>

#include "dardo/attack/rows.hpp"

// Every key that an attack says, and how to take it back.
namespace dardo::test {

/// Calls `visit(name, said, reset)` for every key within a value: whether it is not the default, and a call
/// that makes it the default. Names start with that of the kind or key around them.
template <class T, class Visit>
void each_option(T& value, const std::string& within, Visit&& visit) {
  if constexpr (kIsVariant<T>) {
    each_row<T>([&](const auto& k) {
      using Kind = typename std::remove_cvref_t<decltype(k)>::type;
      if (auto* one = std::get_if<Kind>(&value)) each_option(*one, std::string(k.name), visit);
    });
  } else if constexpr (std::is_same_v<T, std::vector<Then>>) {
    for (Then& then : value) each_option(then, "then", visit);
  } else if constexpr (std::is_same_v<T, std::vector<Attack>>) {
    for (Attack& attack : value) each_option(attack, "", visit);
  } else if constexpr (std::is_same_v<T, Shape>) {
  } else if constexpr (HasRows<T>) {
    each_row<T>([&](const auto& r) {
      auto& member = value.*r.member;
      using Member = std::remove_cvref_t<decltype(member)>;
      if constexpr (kIsInline<decltype(r)>) {
        each_option(member, within, visit);
      } else {
        const std::string name = within.empty() ? std::string(r.name) : within + "/" + std::string(r.name);
        const T plain{};
        visit(name, !(member == plain.*r.member), [&] { member = plain.*r.member; });
        if constexpr (kIsVariant<Member> || HasRows<Member> || std::is_same_v<Member, std::vector<Then>> ||
                      std::is_same_v<Member, std::vector<Attack>>)
          each_option(member, name, visit);
      }
    });
  }
}

/// Calls `visit(name, number, range)` for every number within a value, also of what is left out.
template <class T, class Visit>
void each_number(T& value, const std::string& within, const Range& range, Visit&& visit) {
  if constexpr (std::is_same_v<T, double>) {
    visit(within, value, range);
  } else if constexpr (std::is_same_v<T, std::optional<double>>) {
    double number = value.value_or(1);
    const double before = number;
    visit(within, number, range);
    if (value || number != before) value = number;
  } else if constexpr (kIsVariant<T> && !std::is_same_v<T, Shape>) {
    each_row<T>([&](const auto& k) {
      using Kind = typename std::remove_cvref_t<decltype(k)>::type;
      if (auto* one = std::get_if<Kind>(&value)) each_number(*one, std::string(k.name), range, visit);
    });
  } else if constexpr (HasRows<T> && !std::is_same_v<T, Shape>) {
    each_row<T>([&](const auto& r) {
      if constexpr (kIsInline<decltype(r)>) {
        each_number(value.*r.member, within, range, visit);
      } else {
        each_number(value.*r.member,
                    within.empty() ? std::string(r.name) : within + "/" + std::string(r.name), r.range,
                    visit);
      }
    });
  }
}

}  // namespace dardo::test
