#pragma once
#include <fmt/format.h>

#include <cmath>
#include <string>
#include <string_view>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/rows.hpp"
#include "geometry/detail/check_rows.hpp"
#include "io/detail/entries.hpp"
#include "io/detail/reader.hpp"

// Reads values by their rows. What is read is chosen by the member's type alone.
namespace dardo::io::detail {

using dardo::detail::IsList;

template <class T>
struct IsFlagSet : std::false_type {};
template <class E>
struct IsFlagSet<FlagSet<E>> : std::true_type {};
template <class E>
E enum_of(const FlagSet<E>*);

/// The words of an enumeration, for messages.
template <class Enum>
std::vector<std::string> words_of() {
  std::vector<std::string> out;
  for (const auto& w : Words<Enum>::all) out.emplace_back(w.word);
  return out;
}

/// The keys that may stand in an object of this type.
template <class T>
void add_keys(std::vector<std::string>& out) {
  each_row<T>([&](const auto& r) {
    if constexpr (kIsInline<decltype(r)>) {
      using Part = std::remove_cvref_t<decltype(std::declval<T>().*r.member)>;
      add_keys<Part>(out);
      if constexpr (kMayBePrism<Part>) out.emplace_back("prism");
      if constexpr (HasFlatForm<Part>) add_keys<typename FlatForm<Part>::type>(out);
    } else {
      out.emplace_back(r.name);
    }
  });
}
template <class T>
const std::vector<std::string>& keys_of() {
  static const std::vector<std::string> keys = [] {
    std::vector<std::string> out;
    add_keys<T>(out);
    return out;
  }();
  return keys;
}

class RowReader {
 public:
  /// `names` knows what references mean.
  RowReader(Reader& reader, const SceneNames& names) : reader_(reader), names_(names) {}
  void lie_in(const Plane& plane) { plane_ = plane; }

  /// Nothing is read of what is wrong: that has a problem then, at its place.
  template <class T>
  void read(const Place& place, T& out, const Range& range = {}, int depth = 0) {
    if constexpr (std::is_same_v<T, double>) {
      if (read_number(place, out, range)) out = plane_.turn(out, range);
    } else if constexpr (std::is_same_v<T, std::uint32_t> || std::is_same_v<T, std::uint64_t>) {
      double v = static_cast<double>(out);
      if (read_number(place, v, range)) out = static_cast<T>(v);
    } else if constexpr (std::is_same_v<T, bool>) {
      out = reader_.boolean(place).value_or(out);
    } else if constexpr (std::is_same_v<T, std::string>) {
      out = (range.unit == Unit::text ? reader_.text(place) : reader_.name(place)).value_or(out);
    } else if constexpr (std::is_same_v<T, LevelName>) {
      const Node& n = *place.node;
      const bool number =
          n.kind == Node::Kind::number && std::floor(n.number) == n.number && std::fabs(n.number) < 1e9;
      out.text = number ? fmt::format("{:.0f}", n.number) : reader_.name(place).value_or("");
    } else if constexpr (std::is_same_v<T, Vec3>) {
      read_vec3(place, out, range);
    } else if constexpr (std::is_same_v<T, Rotation>) {
      read_rotation(place, out);
    } else if constexpr (HasWords<T>) {
      if (const auto w = reader_.word(place, words_of<T>())) out = Words<T>::all[*w].value;
    } else if constexpr (IsFlagSet<T>::value) {
      out = {};
      using Enum = decltype(enum_of(static_cast<T*>(nullptr)));
      for (const Place& item : reader_.items(place)) {
        const auto w = reader_.word(item, words_of<Enum>());
        if (!w) continue;
        const Enum value = Words<Enum>::all[*w].value;
        if (out.has(value)) reader_.problem(item.pointer, "is there twice", "each word once");
        out.add(value);
      }
    } else if constexpr (std::is_same_v<T, std::vector<std::string>>) {
      out = reader_.names(place);
    } else if constexpr (std::is_same_v<T, Hull>) {
      read_hull(place, out);
    } else if constexpr (std::is_same_v<T, planar::Vec2>) {
      read_struct(place, out, depth);
      out.y = plane_.y(out.y);
    } else if constexpr (kIsOptional<T>) {
      typename T::value_type value{};
      const std::size_t before = reader_.count();
      read(place, value, range, depth);
      if (reader_.count() == before) out = std::move(value);
    } else if constexpr (kIsVariant<T>) {
      read_kind(Fields(reader_, place, keys_of_kinds<T>()), place, out, depth);
    } else if constexpr (IsList<T>::value) {
      read_list(place, out, range, depth);
    } else if constexpr (HasRows<T>) {
      read_struct(place, out, depth);
    } else {
      names_.read(reader_, place, out);
    }
  }

  /// The same where the object's keys have been looked at.
  template <class T>
  void read_fields(const Fields& f, const Place& place, T& out, int depth = 0) {
    each_row<T>([&](const auto& r) {
      auto& member = out.*r.member;
      if constexpr (kIsInline<decltype(r)>) {
        using Part = std::remove_cvref_t<decltype(member)>;
        if constexpr (kIsVariant<Part>) {
          read_kind(f, place, member, depth);
        } else {
          read_fields(f, place, member, depth);
        }
      } else {
        if (r.needed && f.is_object() && !f.has(r.name)) miss(place, r.name, r.says);
        if (const auto p = f.at(r.name)) read(*p, member, r.range, depth);
      }
    });
  }

 private:
  template <class V>
  static std::vector<std::string> keys_of_kinds() {
    std::vector<std::string> out;
    each_row<V>([&](const auto& k) { out.emplace_back(k.name); });
    if constexpr (kMayBePrism<V>) out.emplace_back("prism");
    return out;
  }
  bool read_number(const Place& place, double& out, const Range& range);
  void read_vec3(const Place& place, Vec3& out, const Range& range);
  static Place item_of(const Place& place, std::size_t i);
  void miss(const Place& place, std::string_view key, std::string_view says);
  void miss_kind(const Place& place, int found, const std::vector<std::string>& kinds);
  void miss_list(const Place& place, std::size_t count);
  /// An angle about z, or [yaw, pitch, roll], or an axis and an angle; or three axes, which say any rotation
  /// to the bit. In a flat scene the first alone.
  void read_rotation(const Place& place, Rotation& out);

  template <class V>
  void read_kind(const Fields& f, const Place& place, V& out, int depth) {
    if constexpr (HasFlatForm<V>) {
      if (plane_.flat) return read_flat(f, place, out, depth);
    }
    int found = 0;
    each_row<V>([&](const auto& k) {
      using Kind = typename std::remove_cvref_t<decltype(k)>::type;
      if (const auto p = f.at(k.name)) {
        if (++found > 1) return;
        Kind value{};
        read(*p, value, Range{}, depth);
        out = std::move(value);
      }
    });
    if constexpr (kMayBePrism<V>) {
      if (const auto p = f.at("prism")) {
        ++found;
        PrismEntry prism;
        const std::size_t before = reader_.count();
        read(*p, prism);
        if (reader_.count() == before) out = prism_of(*p, prism);
      }
    }
    // One whose name is misspelt has had its message.
    if (f.is_object() && (found > 1 || (found == 0 && f.all_known())))
      miss_kind(place, found, keys_of_kinds<V>());
  }
  Hull prism_of(const Place& place, const PrismEntry& entry);

  /// What a flat scene says, as the solid that stands upright on it.
  template <class V>
  void read_flat(const Fields& f, const Place& place, V& out, int depth) {
    typename FlatForm<V>::type said;
    const std::size_t before = reader_.count();
    read_kind(f, place, said, depth);
    if (reader_.count() != before) return;
    if constexpr (std::is_same_v<V, AreaShape>) {
      out = solid(said);
    } else if (auto made = solid<V>(said)) {
      out = std::move(*made);
    } else {
      reader_.problems(place.pointer + "/polygon", made.error());
    }
  }
  void read_hull(const Place& place, Hull& out);

  template <class T>
  void read_list(const Place& place, T& out, const Range& range, int depth) {
    using Item = typename T::value_type;
    out.clear();
    if constexpr (HasKey<Item>) {
      for (const auto& [name, at] : reader_.members(place)) {
        Item item{};
        item.*Keyed<Item>::name = name;
        read(at, item.*Keyed<Item>::value, range, depth);
        out.push_back(std::move(item));
      }
    } else {
      if constexpr (std::is_same_v<Item, Attack>) {
        if (depth >= kMostNesting) {
          reader_.problem(place.pointer, fmt::format("nests deeper than {}", kMostNesting),
                          "fewer attacks within attacks");
          return;
        }
      }
      for (const Place& at : reader_.items(place)) {
        Item item{};
        if constexpr (std::is_same_v<Item, Attack>) {
          item.name = attack_name_;
          read(at, item, range, depth + 1);
        } else {
          read(at, item, range, depth);
        }
        out.push_back(std::move(item));
      }
    }
  }

  template <class T>
  void read_struct(const Place& place, T& out, int depth) {
    if constexpr (requires { Rows<T>::as_list; }) {
      constexpr std::size_t count = std::tuple_size_v<std::remove_cvref_t<decltype(Rows<T>::all)>>;
      if (place.node->kind != Node::Kind::array || place.node->items.size() != count) {
        miss_list(place, count);
        return;
      }
      std::size_t i = 0;
      each_row<T>([&](const auto& r) { read(item_of(place, i++), out.*r.member, r.range); });
    } else {
      if constexpr (requires(T t, std::string_view s) { Rows<T>::shorthand; }) {
        if (place.node->kind == Node::Kind::string)
          return read(place, out.*Rows<T>::shorthand, Range{}, depth);
      }
      read_fields(Fields(reader_, place, keys_of<T>()), place, out, depth);
    }
  }

 public:
  /// Attacks within the attack get its name.
  void read_attack(const std::string& name, const Place& place, Attack& out) {
    attack_name_ = name;
    out.name = name;
    read(place, out);
  }

 private:
  Reader& reader_;
  const SceneNames& names_;
  Plane plane_;
  std::string attack_name_;
};

}  // namespace dardo::io::detail
