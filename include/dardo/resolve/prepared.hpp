#pragma once
#include <memory>

#include "dardo/resolve/resolve.hpp"

namespace dardo {

namespace detail {
class Prepared;
}

/// An attack that has been checked and made ready for an arena once, to be launched there many times. Cheap
/// to copy; several threads may use one at once.
class PreparedAttack {
 public:
  const Attack& attack() const;

 private:
  friend Result<PreparedAttack> prepare(const Arena& arena, Attack attack, const Rules& rules);
  friend void resolve(const Arena& arena, const PreparedAttack& attack, const Launch& launch,
                      const ResolveOptions& options, Outcome& outcome);
  std::shared_ptr<const detail::Prepared> made_;
};

/// Problems when `check` finds any in the attack; paths are relative to it. Tags and materials that come into
/// the arena later are known all the same, for some time more each launch.
Result<PreparedAttack> prepare(const Arena& arena, Attack attack);
/// The same of an attack that lists rules of the game's own: they must outlive what is prepared. Problems
/// also with those that are not among them.
Result<PreparedAttack> prepare(const Arena& arena, Attack attack, const Rules& rules);

/// As `resolve` of the attack itself, which it need not check again, into an outcome whose room is used
/// again: strikes only (`Detail::strikes`), launch after launch, it allocates nothing in a steady state. The
/// attack must have been prepared for this arena.
void resolve(const Arena& arena, const PreparedAttack& attack, const Launch& launch,
             const ResolveOptions& options, Outcome& outcome);

}  // namespace dardo
