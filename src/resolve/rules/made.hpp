#pragma once
#include <cstdint>
#include <optional>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/attack.hpp"
#include "dardo/record/effect_done.hpp"

// Effects made ready for an arena: names that strikes share, kinds as words, keys of their chance.
namespace dardo::detail {

/// What of an effect stands ready: of a damage its kind and its number, of a heal its number and that which
/// it does not rise beyond, and so on.
struct EffectNames {
  std::uint64_t key = 0;  ///< of its chance and rolls: by its own name and kind, and which of those it is
  Name name, other;
  std::optional<std::uint32_t> kind;  ///< of a damage, as a word of the arena; nothing when nobody names it
};
struct EffectMade : EffectNames {
  const Effect* effect = nullptr;
  std::vector<EffectNames> ticks;  ///< of a status: of each effect of its ticks
};

void make(std::vector<EffectMade>& out, const std::vector<Effect>& effects);
void bind_kinds(std::vector<EffectMade>& effects, const Arena& arena);
/// Whether it may change a body's tags, through a status, or its numbers.
bool changes_states(const Attack& attack);

}  // namespace dardo::detail
