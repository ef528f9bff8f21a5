#pragma once
#include <cstdint>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "resolve/rules/prepared.hpp"

namespace dardo::detail {

/// Which attacks are under way, and for which factions: who of them may shoot down shots of whom. Tags are
/// not asked: what may not, by them, is looked at all the same.
class Roster {
 public:
  void clear() { rows_.clear(), last_ = 0; }
  /// One more launch of an attack; its row.
  std::uint32_t add(const Prepared& attack, FactionId faction);
  void remove(std::uint32_t row) { --rows_[row].launches; }

  /// For the window that begins.
  void look(const Arena& arena);
  /// Whether any shot may be shot down in it.
  bool any() const { return any_; }
  /// Whether a stage may strike shots in flight, and whether its shots may be struck.
  struct May {
    bool strike = false, be_struck = false;
    double radius = 0;  ///< around its centre, in which one is struck

    bool either() const { return strike || be_struck; }
  };
  May may(std::uint32_t row, std::uint32_t stage) const {
    if (!any_ || row >= rows_.size() || stage >= rows_[row].may.size()) return {};
    return rows_[row].may[stage];
  }

 private:
  struct Row {
    const Prepared* attack;
    FactionId faction;
    std::uint32_t launches = 0;
    std::vector<May> may;  ///< of each stage
  };
  std::vector<Row> rows_;
  std::uint32_t last_ = 0;            ///< row that was asked for
  std::vector<std::uint8_t> struck_;  ///< scratch: factions whose shots may be struck, or some are there
  bool any_ = false;
};

}  // namespace dardo::detail
