#pragma once
#include <optional>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/sight.hpp"
#include "dardo/record/outcome.hpp"

namespace dardo {

/// Who looks at what, and when. Exactly one of `by` and `place`, and of `body` and `target`.
struct Look {
  BodyId by;                   ///< from its eyes, or with `Sight::From::muzzle` from its first muzzle
  std::optional<Vec3> place;   ///< instead: from there
  BodyId body;                 ///< what is looked at, as the sight says
  std::optional<Vec3> target;  ///< instead: a place
  Sight sight;
  double at_s = 0;  ///< on the clock of tracks
};

/// What is seen.
struct Sighting {
  bool seen = false;
  Reading reading;    ///< how long the line is, what cuts it where, and by how much
  Share share;        ///< how much is seen of what the sight looks at
  Vec3 eye, target;   ///< the line that decided
  Problems problems;  ///< of the question: nothing was looked at then
};

/// A plain question of sight, by the same judge as that of attacks: past walls as they are at that time, and
/// past bodies as the looker relates to them (so `Sight::blocked_by` means nothing from a place).
Sighting look(const Arena& arena, const Look& question);

}  // namespace dardo
