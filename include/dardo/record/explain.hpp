#pragma once
#include <string>
#include <string_view>

#include "dardo/arena/arena.hpp"
#include "dardo/record/outcome.hpp"

namespace dardo {

/// Words used in files and tables: "too_far", "foe", "stands". Each is unique within its kind.
std::string_view name(Reason reason);
std::string_view name(Gate gate);
std::string_view name(Ended ended);
std::string_view name(Limit limit);
std::string_view name(SurfaceMet::Did did);
std::string_view name(Relation relation);
std::string_view name(Passage passage);

/// "struck", "beyond reach by 1.31 m", "crate-3 stands between, 2.80 m before it, at (4.20, 7.00, 1.10)".
std::string explain(const Verdict& verdict, const Arena& arena);
/// The same for one gate, passed or not: "at 8.21 m, within reach (1.79 m to spare)".
std::string explain(const Reading& reading, const Arena& arena);
/// In three words or so, for labels: "too far", "behind crate-3".
std::string explain_briefly(const Verdict& verdict, const Arena& arena);
/// Whether little was missing: a metre of reach, half a second, a tenth of a share, or room under a cap.
bool nearly_struck(const Verdict& verdict);
/// How a launch ended: "ended in the open after 30.00 m".
std::string explain_end(const Outcome& outcome, const Arena& arena);

/// "by mara", or "from (2.0, 3.0, 1.0)" of a launch from a place.
std::string attacker_name(const Outcome& outcome, const Arena& arena);
/// "its limit of 10000 carriers was met after 0.42 s: no more begin".
std::string explain(const LimitMet& met);
/// "power 3 = 6 x zone 2 x distance 0.25": the factors that are not 1.
std::string explain(const Power& power);
/// "pushed by (2.10, 0.00, 0.60) m/s", or N s where a mass is not known; "9.5 fire damage = 8 x 1.5 - 2.5
/// armour, health 30.5 left"; "wet until 4.20 s".
std::string explain(const EffectDone& effect);
/// "not stunned: 0.62 rolled, 0.25 needed".
std::string explain(const EffectSpared& spared);
/// "burning ticks on raider-2 (by mara)", with what it does.
std::string explain(const Happening& happening, const Arena& arena);

}  // namespace dardo
