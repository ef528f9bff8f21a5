#pragma once
#include <algorithm>
#include <array>
#include <cstddef>
#include <vector>

namespace dardo::detail {

/// A list of a few things that allocates nothing while there are no more than `kFew`.
template <class T, std::size_t kFew>
class Few {
 public:
  void push_back(const T& value) {
    if (size_ == kFew) more_.assign(few_.begin(), few_.end());
    if (size_ >= kFew) {
      more_.push_back(value);
    } else {
      few_[size_] = value;
    }
    ++size_;
  }
  void clear() { size_ = 0, more_.clear(); }
  template <class Is>
  void remove_if(Is&& is) {
    std::size_t kept = 0;
    for (T& value : *this) {
      if (!is(value)) data()[kept++] = value;
    }
    if (size_ > kFew && kept <= kFew) std::copy_n(more_.begin(), kept, few_.begin());
    more_.resize(kept > kFew ? kept : 0);
    size_ = kept;
  }
  bool empty() const { return size_ == 0; }
  std::size_t size() const { return size_; }
  T* data() { return size_ > kFew ? more_.data() : few_.data(); }
  const T* data() const { return size_ > kFew ? more_.data() : few_.data(); }
  T* begin() { return data(); }
  T* end() { return data() + size_; }
  const T* begin() const { return data(); }
  const T* end() const { return data() + size_; }
  T& operator[](std::size_t i) { return data()[i]; }
  const T& operator[](std::size_t i) const { return data()[i]; }
  T& back() { return data()[size_ - 1]; }
  const T& back() const { return data()[size_ - 1]; }
  const T& front() const { return data()[0]; }

 private:
  std::array<T, kFew> few_{};
  std::vector<T> more_;
  std::size_t size_ = 0;
};

}  // namespace dardo::detail
