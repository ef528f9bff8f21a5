#pragma once
#include <algorithm>
#include <optional>
#include <string_view>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/effect.hpp"
#include "dardo/record/effect_done.hpp"
#include "geometry/detail/ever.hpp"
#include "resolve/rules/slots.hpp"

namespace dardo::detail {

/// What a course of events has made of bodies, beside what the arena says: who has fallen, what their numbers
/// are by now, which statuses they have. A value by slot; nothing is known of most bodies.
class Facts {
 public:
  /// A status that a body has, or had. The status must outlive it.
  struct Span {
    AfflictionSlot slot;
    const Status* status;
    double from, to;
    bool over = false;

    /// At a time; without one: now.
    bool holds(const std::optional<double>& time) const {
      return time ? from <= *time && (*time < to || to == kEver) : !over;
    }
  };
  /// What it came to at a time; where that is asked later, those before it are kept.
  struct Number {
    Name name;
    double value, since;
  };
  struct Of {
    BodyId body;
    double fell = kEver;
    std::vector<Number> numbers;
    std::vector<Span> spans;
  };

  void clear() {
    for (std::uint32_t i = 0; i < count_; ++i) row_of_[rows_[i].body.index] = 0;
    count_ = 0;
  }
  /// Who has fallen and what numbers are is in the arena by now.
  void settle() {
    for (std::uint32_t i = 0; i < count_; ++i) rows_[i].fell = kEver, rows_[i].numbers.clear();
    if (std::all_of(rows_.begin(), rows_.begin() + count_, [](const Of& of) { return of.spans.empty(); }))
      clear();
  }
  /// Nothing is known of it, if nothing.
  const Of* find(BodyId body) const {
    if (count_ == 0 || body.index >= row_of_.size() || row_of_[body.index] == 0) return nullptr;
    const Of& of = rows_[row_of_[body.index] - 1];
    return of.body == body ? &of : nullptr;
  }
  Of& of(BodyId body) {
    if (body.index >= row_of_.size()) row_of_.resize(body.index + 1);
    std::uint32_t& row = row_of_[body.index];
    if (row == 0) {
      if (count_ == rows_.size()) rows_.emplace_back();
      row = ++count_;
      rows_[row - 1].body = {};
    }
    Of& of = rows_[row - 1];
    if (of.body != body) of.body = body, of.fell = kEver, of.numbers.clear(), of.spans.clear();
    return of;
  }
  template <class Visit>
  void each(Visit&& visit) const {
    for (std::uint32_t i = 0; i < count_; ++i) visit(rows_[i]);
  }

 private:
  std::vector<std::uint32_t> row_of_;  ///< by slot, from 1; 0: none
  std::vector<Of> rows_;               ///< there may be more of them than it has now
  std::uint32_t count_ = 0;
};

}  // namespace dardo::detail
