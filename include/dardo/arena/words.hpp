#pragma once
#include <cstdint>
#include <vector>

namespace dardo {

/// A set of words, each by its number in the arena that knows them: tags are compared as bits, not as text.
class WordSet {
 public:
  void add(std::uint32_t word) {
    if (word < 64) {
      first_ |= std::uint64_t{1} << word;
      return;
    }
    const std::size_t block = word / 64 - 1;
    if (block >= rest_.size()) rest_.resize(block + 1);
    rest_[block] |= std::uint64_t{1} << word % 64;
  }
  void add(const WordSet& other) {
    first_ |= other.first_;
    if (rest_.size() < other.rest_.size()) rest_.resize(other.rest_.size());
    for (std::size_t i = 0; i < other.rest_.size(); ++i) rest_[i] |= other.rest_[i];
  }
  bool has(std::uint32_t word) const {
    if (word < 64) return (first_ >> word & 1) != 0;
    return word / 64 - 1 < rest_.size() && (rest_[word / 64 - 1] >> word % 64 & 1) != 0;
  }
  bool empty() const { return first_ == 0 && rest_.empty(); }
  /// Whether all words of the other are among these.
  bool has_all(const WordSet& other) const {
    if ((other.first_ & ~first_) != 0) return false;
    for (std::size_t i = 0; i < other.rest_.size(); ++i) {
      if ((other.rest_[i] & ~(i < rest_.size() ? rest_[i] : 0)) != 0) return false;
    }
    return true;
  }
  /// Whether any word of the other is.
  bool has_any(const WordSet& other) const {
    if ((other.first_ & first_) != 0) return true;
    for (std::size_t i = 0; i < other.rest_.size() && i < rest_.size(); ++i) {
      if ((other.rest_[i] & rest_[i]) != 0) return true;
    }
    return false;
  }

 private:
  std::uint64_t first_ = 0;
  std::vector<std::uint64_t> rest_;  ///< from the 65th word on: most arenas have fewer
};

}  // namespace dardo
