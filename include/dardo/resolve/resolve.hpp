#pragma once
#include <optional>
#include <span>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/attack.hpp"
#include "dardo/attack/launch.hpp"
#include "dardo/attack/rules.hpp"
#include "dardo/record/outcome.hpp"
#include "dardo/resolve/ready.hpp"

namespace dardo {

/// How much an outcome tells.
enum class Detail : std::uint8_t {
  strikes,   ///< who was struck: what a running game asks for. Only bodies near the attack are looked at
  verdicts,  ///< and a verdict for every body, and the marks to draw
  full,      ///< and every gate for every body, also after the first that stopped it
};

/// Another launch of a shot that is under way when this one begins. What it strikes is not told; but its
/// shots can be shot down, and can shoot down.
struct UnderWay {
  Attack attack;
  Launch launch;
  double since_s = 0;  ///< how long before this launch it began
};

/// What is asked of resolving, one launch or many.
struct ResolveOptions {
  Detail detail = Detail::verdicts;
  std::span<const UnderWay> under_way;  ///< must outlive the call; of `resolve_all`: of each of its launches
  std::optional<Limits> limits;         ///< unless said: those of the scene, where there is one
  /// Whether bodies lose what strikes take, and fall by it, as in a running game that keeps a ledger; numbers
  /// and who stands are the arena's when it begins.
  bool ledger = true;
  /// What attackers have used before, for attacks that say when they are ready; must outlive the call.
  /// Nothing unless said.
  const History* history = nullptr;
  const Rules* rules = nullptr;  ///< the game's own; must outlive the call
  int threads = 0;               ///< of `resolve_all`; 0: as many as the machine has
};

/// Everything that is wrong with the attack, or with the launch in this arena; empty when `resolve` will
/// carry it out. Paths start with "/attack" or "/launch".
Problems check(const Arena& arena, const Attack& attack, const Launch& launch);
/// The same for a launch that is under way.
Problems check(const Arena& arena, const UnderWay& other);

/// What is right and may yet not be meant: tags and materials that an attack names and nobody and nothing in
/// the arena has, nor, of tags, a shot of the attack itself or of `others`. Paths are relative to the attack.
/// And more carriers than the limits allow, by those alone that surely begin.
/// For tools that read what people write: it looks at every body.
Problems doubts(const Arena& arena, const Attack& attack, std::span<const Attack> others = {},
                const Limits& limits = {});

/// Of the factions: whom one strikes as a foe, who holds it for a friend.
Problems doubts(const Arena& arena);

/// Who is reached, and why the others are not.
///
///     Outcome out = resolve(arena, attack, {.by = gunner, .toward = raider});
///     for (const Strike& s : out.strikes) apply(s);
///     for (const Verdict& v : out.verdicts) puts(explain(v, arena).c_str());
///
/// Never throws. What `check` would complain about comes back as Ended::refused with the problems, and nobody
/// is struck. The same input gives the same outcome, to the bit.
Outcome resolve(const Arena& arena, const Attack& attack, const Launch& launch,
                const ResolveOptions& options = {});
inline Outcome resolve(const Arena& arena, const Attack& attack, const Launch& launch, Detail detail) {
  return resolve(arena, attack, launch, ResolveOptions{.detail = detail});
}

}  // namespace dardo
