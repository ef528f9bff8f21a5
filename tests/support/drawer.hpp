#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <span>

#include "dardo/attack/rows.hpp"

// How the bytes of a record become what it says.
namespace dardo::test {

/// Reads a record of choices from its start; what is not there is 0.
class Choices {
 public:
  Choices(std::span<const std::uint8_t> bytes, bool coincident, std::uint64_t salt)
      : bytes_(bytes), coincident_(coincident), salt_(salt) {}

  unsigned next() { return at_ < bytes_.size() ? bytes_[at_++] : 0; }
  /// One of `count`; most of the time the first.
  unsigned one_of(unsigned count) { return next() % count; }
  /// On the grid of halves, or anywhere near it.
  double on_grid(int most) {
    const unsigned b = next();
    const double grid = (static_cast<int>(b) % (4 * most + 1) - 2 * most) * 0.5;
    return coincident_ ? grid : grid + 0.5 * noise(b);
  }
  /// One of a short list, as it is or, off the grid, up to a third larger or smaller.
  template <std::size_t N>
  double value(const std::array<double, N>& list) {
    const unsigned b = next();
    const double v = list[b % N];
    return coincident_ ? v : v * (1 + 0.3 * noise(b));
  }
  /// A number between -1 and 1 that the record and the place in it say.
  double noise(unsigned b) {
    std::uint64_t z = salt_ + 0x9e3779b97f4a7c15u * (at_ * 256 + b + 1);
    z = (z ^ z >> 30) * 0xbf58476d1ce4e5b9u, z = (z ^ z >> 27) * 0x94d049bb133111ebu, z ^= z >> 31;
    return static_cast<double>(z >> 11) * 0x1.0p-52 - 1;
  }
  bool coincident() const { return coincident_; }

 private:
  std::span<const std::uint8_t> bytes_;
  bool coincident_;
  std::uint64_t salt_;
  std::size_t at_ = 0;
};

/// Draws what an attack may say from its rows: each key keeps its default for a choice below a threshold, and
/// else gets a value by its unit: of some structs most keys do. A new key is drawn from the day it has a row.
class Drawer {
 public:
  explicit Drawer(Choices& choices) : choices_(choices) {}

  template <class T>
  void draw(T& out, const Range& range = {}, int depth = 0) {
    if constexpr (std::is_same_v<T, double>) {
      out = number(range);
    } else if constexpr (std::is_same_v<T, std::uint32_t>) {
      out = static_cast<std::uint32_t>(std::clamp(1.0 + choices_.one_of(5), range.least, range.most));
    } else if constexpr (std::is_same_v<T, bool>) {
      out = choices_.one_of(2) == 1;
    } else if constexpr (HasWords<T>) {
      out = Words<T>::all[choices_.one_of(Words<T>::all.size())].value;
    } else if constexpr (std::is_same_v<T, Relations>) {
      out = {};
      const unsigned bits = choices_.next();
      for (const auto& w : Words<Relation>::all) {
        if (bits >> static_cast<unsigned>(w.value) & 1) out.add(w.value);
      }
      if (bits < 192) out.add(Relation::foe);
    } else if constexpr (std::is_same_v<T, std::vector<std::string>>) {
      out = {choices_.one_of(2) == 0 ? "timber" : "wet"};
    } else if constexpr (std::is_same_v<T, Vec3>) {
      if (range.most == 0) {  // a direction
        out = std::array{Vec3{0, 0, 1}, Vec3{0, 1, 0}, Vec3{0, 0, -1}, Vec3{1, 0, 1}}[choices_.one_of(4)];
        return;
      }
      out = {number(range), number(range), 0.5 * number(range)};
    } else if constexpr (std::is_same_v<T, std::vector<planar::Vec2>>) {
      out = {{-1, -1}, {1, -1}, {1, 1}, {-1, 1}};
    } else if constexpr (std::is_same_v<T, std::string>) {
      out = choices_.one_of(2) == 0 ? "health" : "wet";
    } else if constexpr (std::is_same_v<T, std::vector<Condition>>) {
      draw(out.emplace_back(), range, depth);
      Condition& c = out.back();
      c.number = choices_.one_of(8) == 7 ? "courage" : "health";
      c.value = c.than ? 0 : 10.0 * (1 + choices_.one_of(3));
      if (c.than) c.than->number = "health";
      if (choices_.one_of(5) > 0) out.clear();
    } else if constexpr (std::is_same_v<T, Order>) {
      for (unsigned i = 0; i <= choices_.one_of(2); ++i) draw(out.emplace_back(), range, depth);
    } else if constexpr (std::is_same_v<T, std::vector<Effect>> ||
                         std::is_same_v<T, std::vector<TickEffect>> || std::is_same_v<T, std::vector<Cost>> ||
                         std::is_same_v<T, std::vector<FalloffPoint>> ||
                         std::is_same_v<T, std::vector<GrownArea>> ||
                         std::is_same_v<T, std::vector<SwingKey>>) {
      for (unsigned i = 0; i <= choices_.one_of(3); ++i) draw(out.emplace_back(), range, depth);
    } else if constexpr (std::is_same_v<T, std::vector<double>>) {
      out = {1, 0.5};
    } else if constexpr (std::is_same_v<T, std::vector<Vec3>>) {
      const double aside = number(range);
      out = {{1, aside, 0.25}, {3, -0.5 * aside, 0}};
    } else if constexpr (std::is_same_v<T, Shape>) {
      out = shape();
    } else if constexpr (kIsOptional<T>) {
      typename T::value_type value{};
      draw(value, range, depth);
      out = value;
    } else if constexpr (kIsVariant<T>) {
      kinds(out, depth);
    } else if constexpr (std::is_same_v<T, std::vector<Then>>) {
      if (depth >= 2) return;
      for (unsigned i = 0; i <= choices_.one_of(2); ++i) draw(out.emplace_back(), range, depth);
    } else if constexpr (std::is_same_v<T, std::vector<Attack>>) {
      Attack child;
      child.name = "attack";
      draw(child, range, depth + 1);
      out.push_back(child);
    } else if constexpr (HasRows<T>) {
      rows(out, depth);
    }
  }

 private:
  template <class T>
  void rows(T& out, int depth) {
    const unsigned threshold = choices_.one_of(4) == 3 ? 32 : 160;
    each_row<T>([&](const auto& r) {
      if constexpr (kIsInline<decltype(r)>) {
        draw(out.*r.member, Range{}, depth);
      } else {
        if (choices_.next() >= threshold || r.needed) draw(out.*r.member, r.range, depth);
      }
    });
  }
  template <class V>
  void kinds(V& out, int depth) {
    constexpr auto count = static_cast<unsigned>(std::variant_size_v<V>);
    const unsigned chosen = choices_.one_of(count);
    unsigned number = 0;
    each_row<V>([&](const auto& k) {
      using Kind = typename std::remove_cvref_t<decltype(k)>::type;
      if (number++ != chosen) return;
      Kind value{};
      draw(value, Range{}, depth);
      out = std::move(value);
    });
  }
  Shape shape() {
    switch (choices_.one_of(6)) {
      case 5: return Hull{{{0.5, 0, 0}, {-0.5, 0.25, 0}, {-0.5, -0.25, 0}, {-0.5, 0, 0.25}}};
      case 0: return Ball{{}, 0.25};
      case 1: return Capsule{{-0.5, 0, 0}, {0.5, 0, 0}, 0.125};
      case 2: return Box{{}, {0.5, 0.125, 0.25}, {}};
      case 3: return Cylinder{{-0.5, 0, 0}, {0.5, 0, 0}, 0.25};
      default: return Cone{{0.5, 0, 0}, {-0.5, 0, 0}, 0.25};
    }
  }
  double number(const Range& range) {
    double v = 0;
    switch (range.unit) {
      case Unit::metres: v = choices_.value(std::array{0.0, 0.25, 0.5, 1.0, 2.0, 4.0}); break;
      case Unit::seconds: v = choices_.value(std::array{0.25, 0.125, 0.5, 1.0, 2.0}); break;
      case Unit::speed: v = choices_.value(std::array{8.0, 4.0, 16.0, 30.0, 2.0}); break;
      case Unit::acceleration: v = choices_.value(std::array{4.0, -4.0, 10.0, -1.0}); break;
      case Unit::angle:
        return std::clamp(choices_.value(std::array{45.0, 90.0, 180.0, 22.5}) * units::kDegree, range.least,
                          range.most);
      case Unit::turn_rate: return choices_.value(std::array{180.0, 90.0, 360.0}) * units::kDegree;
      case Unit::per_metre: v = choices_.value(std::array{0.01, 0.05, 0.2}); break;
      default: v = choices_.value(std::array{0.5, 0.0, 1.0, 0.75, 2.0}); break;
    }
    return std::clamp(v, range.least, range.most);
  }

  Choices& choices_;
};

}  // namespace dardo::test
