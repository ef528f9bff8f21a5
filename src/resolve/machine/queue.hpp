#pragma once
#include <algorithm>
#include <cstdint>
#include <vector>

#include "resolve/rules/order.hpp"
#include "resolve/rules/slots.hpp"

namespace dardo::detail {

/// What comes next of a shot; or that it meets another one. It is meant as long as neither has been asked
/// again since.
struct Next {
  static constexpr std::uint32_t kNobody = 0xffffffffu;

  double time;
  std::uint32_t launch, number;  ///< of the shot, by which ties go
  ShotSlot shot;
  std::uint32_t version;
  ShotSlot victim{kNobody};
  std::uint32_t victim_version = 0;
  std::uint32_t victim_launch = kNobody, victim_number = kNobody;  ///< by which ties go, too
  LastingSlot lasting{kNobody};                                    ///< instead of a shot
  AfflictionSlot affliction{kNobody};                              ///< or a status

  bool afflicts() const { return affliction.at != kNobody; }
  bool flies() const { return !lasts() && !afflicts(); }
  bool lasts() const { return lasting.at != kNobody; }
  bool meets() const { return victim.at != kNobody; }
};

/// What is to come, the earliest first.
class Queue {
 public:
  void clear() { heap_.clear(); }
  bool comes_by(double time) const { return !heap_.empty() && heap_.front().time <= time; }
  void push(const Next& next) {
    heap_.push_back(next);
    std::push_heap(heap_.begin(), heap_.end(), later);
  }
  /// Takes all that comes within the instant that begins then, in the order of launches and of their shots.
  /// Holds until the next call.
  const std::vector<Next>& take_instant(double first) {
    instant_.clear();
    while (comes_by(first + kInstant)) {
      std::pop_heap(heap_.begin(), heap_.end(), later);
      instant_.push_back(heap_.back());
      heap_.pop_back();
    }
    std::sort(instant_.begin(), instant_.end(), [](const Next& a, const Next& b) {
      const auto place = [](const Next& n) {
        return place_in_instant(n.launch, n.number, n.victim_launch, n.victim_number, n.time);
      };
      return place(a) < place(b);
    });
    return instant_;
  }
  const Next* front() const { return heap_.empty() ? nullptr : &heap_.front(); }

 private:
  static bool later(const Next& a, const Next& b) {
    return std::tuple(a.time, a.launch, a.number) > std::tuple(b.time, b.launch, b.number);
  }
  std::vector<Next> heap_, instant_;
};

}  // namespace dardo::detail
