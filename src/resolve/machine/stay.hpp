#pragma once
#include <vector>

#include "resolve/carriers/lasting/lasting.hpp"

namespace dardo::detail {

/// What comes of a body to something that lasts, or that it comes to a wall.
struct Coming {
  enum class What : std::uint8_t { leaves, enters, due, wall };  ///< in the order in which they are decided

  double time = 0;
  BodyId body;
  What what = What::enters;
  WallId wall = {};
};
inline bool comes_before(const Coming& a, const Coming& b) { return a.time < b.time; }

/// Something that lasts in the machine, and what comes to it in this window.
struct Stay {
  Lasting lasting;
  std::uint32_t version = 0;   ///< which of its entries in the queue is meant
  std::vector<Coming> coming;  ///< the earliest first
  double gathered = 0;         ///< up to then
};

}  // namespace dardo::detail
