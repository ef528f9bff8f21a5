#pragma once
#include <array>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "dardo/attack/rows.hpp"
#include "dardo/dardo.hpp"

// Whole situations to try the engine with, made of bytes: those of a random seed, or of a fuzzer.
namespace dardo::test {

/// Bytes in records of fixed width, so that dropping one leaves the others what they are. 0 is the simplest
/// choice; what is not there reads as 0.
struct Recipe {
  static constexpr std::size_t kBodies = 12, kWalls = 6, kScript = 10;
  static constexpr std::size_t kBodyWidth = 22, kWallWidth = 20, kAttackWidth = 1400, kScriptWidth = 5;

  bool coincident = true;  ///< on a grid of halves and exactly beside each other; else at random places
  std::array<std::uint8_t, 12> general{};
  std::array<std::array<std::uint8_t, kBodyWidth>, kBodies> bodies{};
  std::array<std::array<std::uint8_t, kWallWidth>, kWalls> walls{};
  std::array<std::uint8_t, kAttackWidth> attack{};
  std::array<std::array<std::uint8_t, kScriptWidth>, kScript> script{};
  double nudge = 0;  ///< everything stands so far off, each in a way of its own

  static Recipe random(std::uint64_t seed, bool coincident);
  static Recipe of_bytes(std::span<const std::uint8_t> bytes);
  /// The same with record `record` of all records, or byte `byte` of all bytes, set to 0.
  static std::size_t records();
  Recipe without_record(std::size_t record) const;
  std::size_t size() const;
  Recipe without_byte(std::size_t byte) const;

  friend bool operator==(const Recipe&, const Recipe&) = default;
};

/// Something that happens to the bodies at a half of a second, by the game's hand.
struct Deed {
  enum class Kind : std::uint8_t {
    none,
    fall,
    revive,
    jump,
    spawn,
    remove,
    turncoat,
    dress,
    immune,
    rebuild
  };
  Kind kind = Kind::none;
  double time = 0;
  std::size_t body = 0;
  Pose pose;
};

/// Two rules of a game's own that attacks may list.
const Rules& rules();
/// `resolve` with these rules.
inline Outcome resolve_ruled(const Arena& arena, const Attack& attack, const Launch& launch,
                             Detail detail = Detail::verdicts) {
  return resolve(arena, attack, launch, {.detail = detail, .under_way = {}, .limits = {}, .rules = &rules()});
}

struct Situation {
  Arena arena;
  std::vector<BodyId> bodies;
  std::vector<std::vector<TrackKey>> tracks;                    ///< of each body, with `by_moves`
  std::vector<std::pair<WallId, std::vector<TrackKey>>> doors;  ///< the same of walls
  std::vector<Deed> deeds;
  bool struck_fall = false;  ///< who is struck, falls
  Attack attack;
  Launch launch;
  Limits limits;
  bool jumps = false;  ///< a track has two places at one time
  double lasts = 2;    ///< seconds of play

  Outcome resolved(Detail detail = Detail::verdicts) const {
    return resolve(arena, attack, launch,
                   {.detail = detail, .under_way = {}, .limits = limits, .rules = &rules()});
  }
  bool limited() const { return !(limits == Limits{}); }
};

/// What is done to a whole situation: it is turned by quarters about z, then scaled, then moved; and the
/// rest.
struct Carry {
  int quarters = 0;
  double scale = 1;
  Vec3 move;
  bool extra_body = false, extra_wall = false, doubled_walls = false, cut_walls = false;
  bool boxes_as_hulls = false;
  bool mirrored = false;    ///< left and right, before it is turned
  bool reversed = false;    ///< the last body is added first
  bool extra_keys = false;  ///< a track has one more key within each leg, where the body is then
  double later = 0;         ///< all tracks are so many seconds later
  bool by_moves = false;    ///< bodies on tracks have none: `Situation::tracks` says where to move them
};

Situation make_situation(const Recipe& recipe, const Carry& carry = {});

}  // namespace dardo::test
