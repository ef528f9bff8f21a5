#pragma once
#include <cstdint>

#include "dardo/flag_set.hpp"

namespace dardo {

/// What a body is to an attacker; read from the attacker's side. A body to itself is `self`.
enum class Relation : std::uint8_t { foe, friendly, neutral, self };

/// Who an attack strikes, or who stops it.
using Relations = FlagSet<Relation>;

}  // namespace dardo
