#pragma once
#include <cmath>
#include <nlohmann/json.hpp>
#include <string>

#include "geometry/detail/elementary.hpp"
#include "io/detail/from_rows.hpp"

// Writes values by their rows: what reading gives back is the same, to the bit.
namespace dardo::io::detail {

using OrderedJson = nlohmann::ordered_json;

class RowWriter {
 public:
  explicit RowWriter(const Arena& arena, const Plane& plane = {}) : arena_(arena), plane_(plane) {}

  template <class T>
  OrderedJson write(const T& v, const Range& range = {}) const {
    if constexpr (std::is_same_v<T, double>) {
      if (std::isinf(v)) return "endless";
      return number(plane_.turn(v, range), range);
    } else if constexpr (std::is_arithmetic_v<T> || std::is_same_v<T, std::string> ||
                         std::is_same_v<T, std::vector<std::string>>) {
      return v;
    } else if constexpr (std::is_same_v<T, LevelName>) {
      return v.text;
    } else if constexpr (std::is_same_v<T, Vec3>) {
      if (!plane_.flat) return {number(v.x, range), number(v.y, range), number(v.z, range)};
      const bool has_side = range.least < 0 || range.most == 0;
      return {number(v.x, range), number(has_side ? plane_.y(v.y) : v.y, range)};
    } else if constexpr (std::is_same_v<T, planar::Vec2>) {
      return {v.x, plane_.y(v.y)};
    } else if constexpr (std::is_same_v<T, Rotation>) {
      if (!plane_.flat) return rotation(v);
      OrderedJson yaw = rotation(v);
      return yaw.is_number() ? OrderedJson(plane_.y(yaw.get<double>())) : yaw;
    } else if constexpr (HasWords<T>) {
      return std::string(word_of(v));
    } else if constexpr (IsFlagSet<T>::value) {
      OrderedJson out = OrderedJson::array();
      for (const auto& w : Words<decltype(enum_of(static_cast<T*>(nullptr)))>::all) {
        if (v.has(w.value)) out.push_back(std::string(w.word));
      }
      return out;
    } else if constexpr (std::is_same_v<T, Hull>) {
      return write(v.points, units::coordinate);
    } else if constexpr (kIsOptional<T>) {
      return write(*v, range);
    } else if constexpr (kIsVariant<T>) {
      OrderedJson out = OrderedJson::object();
      put_kind(out, v);
      return out;
    } else if constexpr (IsList<T>::value) {
      using Item = typename T::value_type;
      OrderedJson out = HasKey<Item> ? OrderedJson::object() : OrderedJson::array();
      for (const Item& item : v) {
        if constexpr (HasKey<Item>) {
          out[item.*Keyed<Item>::name] = write(item.*Keyed<Item>::value, range);
        } else {
          out.push_back(write(item, range));
        }
      }
      return out;
    } else if constexpr (HasRows<T>) {
      return object(v);
    } else {
      return name_of(v);
    }
  }

 private:
  std::string name_of(FactionId id) const { return arena_.faction_name(id); }
  std::string name_of(MaterialId id) const { return arena_.material(id).name; }
  std::string name_of(BuildId id) const { return arena_.build(id).name; }
  std::string name_of(BodyId id) const { return arena_.body(id).id; }

  static void put(OrderedJson& out, std::string_view name, OrderedJson value);
  /// Read again it is the same number, whatever the unit of files does to it: one of those next to it is.
  static double number(double v, const Range& range);
  /// About z when an angle says just that; else as its three axes.
  static OrderedJson rotation(const Rotation& turn);

  template <class V>
  void put_kind(OrderedJson& out, const V& v) const {
    if constexpr (HasFlatForm<V>) {
      if (plane_.flat) return put_kind(out, flat_of(v));
    }
    each_row<V>([&](const auto& k) {
      using Kind = typename std::remove_cvref_t<decltype(k)>::type;
      if (const auto* kind = std::get_if<Kind>(&v)) put(out, k.name, write(*kind));
    });
  }
  template <class T>
  OrderedJson object(const T& v) const {
    OrderedJson out = OrderedJson::object();
    if constexpr (requires { Rows<T>::as_list; }) {
      out = OrderedJson::array();
      each_row<T>([&](const auto& r) { out.push_back(write(v.*r.member, r.range)); });
    } else {
      put_rows(out, v);
    }
    return out;
  }
  template <class T>
  void put_rows(OrderedJson& out, const T& v) const {
    const T standard{};
    each_row<T>([&](const auto& r) {
      using Part = std::remove_cvref_t<decltype(v.*r.member)>;
      if constexpr (kIsInline<decltype(r)>) {
        if constexpr (kIsVariant<Part>) {
          put_kind(out, v.*r.member);
        } else {
          put_rows(out, v.*r.member);
        }
      } else if constexpr (requires { v.*r.member == standard.*r.member; }) {
        // What is as it would be anyhow is left out.
        if (r.needed || !(v.*r.member == standard.*r.member)) put(out, r.name, write(v.*r.member, r.range));
      } else {
        const bool there = [&] {
          if constexpr (requires { (v.*r.member).empty(); }) return !(v.*r.member).empty();
          return true;
        }();
        if (r.needed || there) put(out, r.name, write(v.*r.member, r.range));
      }
    });
  }

  const Arena& arena_;
  Plane plane_;
};

}  // namespace dardo::io::detail
