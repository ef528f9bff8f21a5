#pragma once
#include <functional>
#include <optional>
#include <string>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/rows.hpp"
#include "io/detail/flat.hpp"
#include "io/detail/reader.hpp"

// What scene files say that is no struct of the core as it stands.
namespace dardo::io::detail {

/// The name of a level: its number may stand for it.
struct LevelName {
  std::string text;
  friend bool operator==(const LevelName&, const LevelName&) = default;
};

/// Ground that slopes.
struct SlopeEntry {
  Vec3 at, normal;
};

/// Shapes that files may say as a prism.
template <class V>
inline constexpr bool kMayBePrism = std::is_same_v<V, Shape> || std::is_same_v<V, WallShape>;

/// The prism over a convex polygon; read into a hull.
struct PrismEntry {
  std::vector<planar::Vec2> polygon;
  double low = 0, high = 0;
  Vec3 at;
  Rotation turn;
};

/// A hull that is turned or put elsewhere; else files say the list of its points.
struct HullEntry {
  std::vector<Vec3> points;
  Vec3 at;
  Rotation turn;
};

/// A turn about any axis.
struct TurnEntry {
  Vec3 axis{0, 0, 1};
  double angle = 0;
};

struct FactionEntry {
  std::vector<std::string> foe, friendly, neutral;
  std::optional<Relation> others;
};

struct TowardEntry {
  std::optional<BodyId> body;
  std::string zone, point;
  std::optional<Vec3> place, direction;
  std::optional<AtChoice> choice;
  friend bool operator==(const TowardEntry&, const TowardEntry&) = default;
};
struct FromEntry {
  Pose pose;
  FactionId faction;
  friend bool operator==(const FromEntry&, const FromEntry&) = default;
};
struct UnderWayEntry {
  std::string launch;
  double since_s = 0;
  friend bool operator==(const UnderWayEntry&, const UnderWayEntry&) = default;
};
struct LaunchEntry {
  std::string id;
  BodyId by;
  std::string attack;
  LevelName level;
  std::optional<TowardEntry> toward;
  std::string muzzle;
  std::optional<Vec3> muzzle_at;
  std::uint64_t seed = 0;
  Aiming aim = Aiming::direct;
  double at_s = 0;
  std::optional<FromEntry> from;
  std::optional<Vec3> leaving;
  std::vector<UnderWayEntry> under_way;
};

/// The names that a scene has defined so far, and what they mean. Those whose own entry was refused are
/// known, and mean nothing.
class SceneNames {
 public:
  explicit SceneNames(const Arena& arena) : arena_(arena) {}

  struct Kind {
    std::vector<std::string> names;
    std::unordered_set<std::string> known;
    void add(const std::string& name) {
      if (known.insert(name).second) names.push_back(name);
    }
  };
  Kind factions, materials, builds, bodies, attacks;
  /// A reference was right, but what it refers to has been refused.
  mutable bool lost = false;
  /// A body may say its build itself, where it would name one.
  std::function<BuildId(const Place&)> own_build;

  void read(Reader& reader, const Place& place, FactionId& out) const {
    resolve(
        reader, place, "a faction", factions, [&](const auto& n) { return arena_.find_faction(n); }, out);
  }
  void read(Reader& reader, const Place& place, MaterialId& out) const {
    resolve(
        reader, place, "a material", materials, [&](const auto& n) { return arena_.find_material(n); }, out);
  }
  void read(Reader& reader, const Place& place, BuildId& out) const {
    if (own_build && place.node->kind == Node::Kind::object) return void(out = own_build(place));
    resolve(
        reader, place, "a build", builds, [&](const auto& n) { return arena_.find_build(n); }, out);
  }
  void read(Reader& reader, const Place& place, BodyId& out) const {
    resolve(
        reader, place, "a body", bodies, [&](const auto& n) { return arena_.find_body(n); }, out);
  }

 private:
  template <class Find, class IdType>
  void resolve(Reader& reader, const Place& place, std::string_view kind, const Kind& known, Find&& find,
               IdType& out) const {
    const auto name = reader.name(place);
    if (!name) return;
    if (!known.known.contains(*name)) {
      reader.unknown_name(place.pointer, *name, kind, known.names);
    } else if (const auto found = find(*name)) {
      out = *found;
    } else {
      lost = true;
    }
  }
  const Arena& arena_;
};

}  // namespace dardo::io::detail

namespace dardo {

template <>
struct Rows<io::detail::SlopeEntry> {
  static constexpr auto all = std::tuple{
      needed(row("at", &io::detail::SlopeEntry::at, units::coordinate, "A place on it.")),
      needed(row("normal", &io::detail::SlopeEntry::normal,
                 "A direction out of it; its length does not matter.")),
  };
};
template <>
struct Rows<io::detail::HullEntry> {
  static constexpr auto all = std::tuple{
      needed(row("points", &io::detail::HullEntry::points, units::coordinate, "Its points.")),
      row("at", &io::detail::HullEntry::at, units::coordinate, "Where their origin is."),
      row("turn", &io::detail::HullEntry::turn, units::any_turn, "How they are turned about it."),
  };
};
template <>
struct Rows<io::detail::TurnEntry> {
  static constexpr auto all = std::tuple{
      needed(row("axis", &io::detail::TurnEntry::axis,
                 "About which direction, anticlockwise seen from its tip; its length does not matter.")),
      needed(row("angle", &io::detail::TurnEntry::angle, units::any_turn, "By how much.")),
  };
};
template <>
struct Rows<io::detail::PrismEntry> {
  static constexpr auto all = std::tuple{
      needed(
          row("polygon", &io::detail::PrismEntry::polygon, "Its corners in order: [[x, y], ...], convex.")),
      needed(row("low", &io::detail::PrismEntry::low, units::coordinate, "The height of its underside.")),
      needed(row("high", &io::detail::PrismEntry::high, units::coordinate, "The height of its top.")),
      row("at", &io::detail::PrismEntry::at, units::coordinate, "Where its origin is."),
      row("turn", &io::detail::PrismEntry::turn, units::any_turn, "How it is turned about it."),
  };
};
template <>
struct Rows<io::detail::FactionEntry> {
  static constexpr auto all = std::tuple{
      row("foe", &io::detail::FactionEntry::foe, "Its enemies."),
      row("friend", &io::detail::FactionEntry::friendly, "Its friends; its own members are unless said."),
      row("neutral", &io::detail::FactionEntry::neutral, "Neither; all that no list names are unless said."),
      row("others", &io::detail::FactionEntry::others, "What all factions are that no list names."),
  };
};
template <>
struct Rows<io::detail::TowardEntry> {
  static constexpr auto shorthand = &io::detail::TowardEntry::body;
  static constexpr auto all = std::tuple{
      row("body", &io::detail::TowardEntry::body, "At its centre; the name alone will do."),
      row("zone", &io::detail::TowardEntry::zone, "At the middle of the first hitbox of that zone."),
      row("point", &io::detail::TowardEntry::point, "At \"eyes\", or one of its muzzles."),
      row("place", &io::detail::TowardEntry::place, units::coordinate, "At a place in the world."),
      row("direction", &io::detail::TowardEntry::direction, "Along a direction; its length does not matter."),
      row("choice", &io::detail::TowardEntry::choice, "At whoever comes first of those that it may strike."),
  };
};
template <>
struct Rows<io::detail::FromEntry> {
  static constexpr auto all = std::tuple{
      inlined(&io::detail::FromEntry::pose),
      needed(row("faction", &io::detail::FromEntry::faction, "For whom it attacks.")),
  };
};
template <>
struct Rows<io::detail::UnderWayEntry> {
  static constexpr auto all = std::tuple{
      needed(row("launch", &io::detail::UnderWayEntry::launch,
                 "The id of a launch that stands before this one.")),
      row("since", &io::detail::UnderWayEntry::since_s, Range{Unit::seconds, 0, 3600},
          "How long before this launch it began."),
  };
};
template <>
struct Rows<io::detail::LaunchEntry> {
  static constexpr auto all = std::tuple{
      needed(row("id", &io::detail::LaunchEntry::id, "A name of its own.")),
      row("by", &io::detail::LaunchEntry::by, "The attacker."),
      row("from", &io::detail::LaunchEntry::from, "Instead of an attacker: a place, and for whom."),
      needed(row("attack", &io::detail::LaunchEntry::attack, "The name of an attack.")),
      row("level", &io::detail::LaunchEntry::level,
          "Which of the attack's levels, by its number or its name; as the attack says it itself unless "
          "said."),
      row("toward", &io::detail::LaunchEntry::toward,
          "What it is aimed at; along the attacker's facing unless said."),
      row("muzzle", &io::detail::LaunchEntry::muzzle, "From which it starts; the build's first unless said."),
      row("muzzle_at", &io::detail::LaunchEntry::muzzle_at, units::coordinate,
          "Where its muzzle is in the world, instead of one of the build."),
      row("seed", &io::detail::LaunchEntry::seed, units::count(0, 9007199254740992.0),
          "Of all chance in it."),
      row("aim", &io::detail::LaunchEntry::aim, "How a shot is aimed."),
      row("at", &io::detail::LaunchEntry::at_s, Range{Unit::seconds, 0, 1e9}, "When it sets off."),
      row("leaving", &io::detail::LaunchEntry::leaving,
          "The direction in which a straight, falling or guided shot leaves, where that is not toward its "
          "target."),
      row("under_way", &io::detail::LaunchEntry::under_way,
          "Shots that are in the air when this one begins."),
  };
};

}  // namespace dardo
