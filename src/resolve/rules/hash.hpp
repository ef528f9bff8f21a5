#pragma once
#include <bit>
#include <cstdint>
#include <string_view>

namespace dardo::detail {

/// Fowler, Noll and Vo's hash (1a, 64 bits).
class Hash {
 public:
  Hash() = default;
  /// Of something else than whatever starts otherwise.
  explicit Hash(std::uint64_t kind) : state_(kBasis + kind) {}
  void add(std::string_view bytes) {
    for (const char c : bytes) state_ = (state_ ^ static_cast<unsigned char>(c)) * 0x100000001b3u;
  }
  void add(std::uint64_t v) {
    for (int i = 0; i < 64; i += 8) state_ = (state_ ^ (v >> i & 0xff)) * 0x100000001b3u;
  }
  void add(double v) { add(std::bit_cast<std::uint64_t>(v)); }
  std::uint64_t value() const { return state_; }

 private:
  static constexpr std::uint64_t kBasis = 0xcbf29ce484222325u;
  std::uint64_t state_ = kBasis;
};

}  // namespace dardo::detail
