#pragma once
#include <bit>
#include <cmath>
#include <cstdint>
#include <limits>
#include <string>
#include <string_view>

#include "dardo/arena/ids.hpp"
#include "dardo/geometry/rotation.hpp"
#include "resolve/rules/hash.hpp"

// State as bytes, field by field, least byte first; and back, where nothing is trusted. One function of a
// struct's fields serves both: `fields(bytes, struct)`.
namespace dardo::detail {

class BytesOut {
 public:
  explicit BytesOut(std::string& out) : out_(out) {}

  void whole(std::uint64_t v, int bytes) {
    for (int i = 0; i < 8 * bytes; i += 8) out_.push_back(static_cast<char>(v >> i & 0xff));
  }
  void whole(std::uint32_t& v) { whole(v, 4); }
  void whole(std::uint64_t& v) { whole(v, 8); }
  void number(double& v, double /*most*/) { whole(std::bit_cast<std::uint64_t>(v), 8); }
  void endless(double& v) { whole(std::bit_cast<std::uint64_t>(v), 8); }
  void flag(bool& v) { whole(v ? 1u : 0u, 1); }
  template <class Enum>
  void word(Enum& v, Enum /*last*/) {
    whole(static_cast<std::uint64_t>(v), 1);
  }
  template <class Kind>
  void id(Id<Kind>& v, std::size_t /*count*/) {
    whole(v.index), whole(v.generation);
  }
  void index(std::uint32_t& v, std::size_t /*count*/) { whole(v); }
  void text(std::string& v) {
    whole(v.size(), 4);
    out_ += v;
  }
  std::uint32_t count(std::size_t n) {
    whole(n, 4);
    return static_cast<std::uint32_t>(n);
  }
  bool good() const { return true; }

 private:
  std::string& out_;
};

/// What is wrong makes all that follows read as 0, and `good` say so.
class BytesIn {
 public:
  explicit BytesIn(std::string_view in) : in_(in) {}

  std::uint64_t whole_of(int bytes) {
    if (in_.size() < static_cast<std::size_t>(bytes)) return fail();
    std::uint64_t v = 0;
    for (int i = 0; i < bytes; ++i)
      v |= static_cast<std::uint64_t>(static_cast<unsigned char>(in_[static_cast<std::size_t>(i)]))
           << (8 * i);
    in_.remove_prefix(static_cast<std::size_t>(bytes));
    return v;
  }
  void whole(std::uint32_t& v) { v = static_cast<std::uint32_t>(whole_of(4)); }
  void whole(std::uint64_t& v) { v = whole_of(8); }
  void number(double& v, double most) {
    v = std::bit_cast<double>(whole_of(8));
    require(std::fabs(v) <= most);
  }
  /// May be infinite.
  void endless(double& v) {
    v = std::bit_cast<double>(whole_of(8));
    require(!std::isnan(v));
  }
  void flag(bool& v) {
    const std::uint64_t b = whole_of(1);
    require(b <= 1);
    v = b == 1;
  }
  template <class Enum>
  void word(Enum& v, Enum last) {
    const std::uint64_t w = whole_of(1);
    require(w <= static_cast<std::uint64_t>(last));
    v = good_ ? static_cast<Enum>(w) : Enum{};
  }
  /// Empty, or a place among `count`.
  template <class Kind>
  void id(Id<Kind>& v, std::size_t count) {
    whole(v.index), whole(v.generation);
    require(v.empty() || v.index < count);
  }
  void index(std::uint32_t& v, std::size_t count) {
    whole(v);
    require(v < count);
  }
  void text(std::string& v) {
    const std::uint32_t size = count(0);
    v = in_.substr(0, size);
    in_.remove_prefix(v.size());
  }
  /// So many things follow, of at least a byte each.
  std::uint32_t count(std::size_t) {
    const auto n = static_cast<std::uint32_t>(whole_of(4));
    require(n <= in_.size());
    return good_ ? n : 0;
  }
  void require(bool holds) {
    if (!holds) fail();
  }
  bool good() const { return good_; }
  bool empty() const { return in_.empty(); }
  std::string_view rest() const { return in_; }

 private:
  std::uint64_t fail() {
    good_ = false, in_ = {};
    return 0;
  }
  std::string_view in_;
  bool good_ = true;
};

template <class Bytes>
void fields(Bytes& b, Vec3& v, double most) {
  b.number(v.x, most), b.number(v.y, most), b.number(v.z, most);
}

}  // namespace dardo::detail
