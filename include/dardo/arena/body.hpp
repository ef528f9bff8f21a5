#pragma once
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "dardo/arena/ids.hpp"
#include "dardo/arena/track.hpp"
#include "dardo/geometry/shape.hpp"
#include "dardo/problem.hpp"

namespace dardo {

/// One volume of a body, in the body's frame. None of it is looks.
struct Hitbox {
  std::string zone;  ///< "trunk", "head"; several hitboxes may share a zone
  Shape shape;
  double factor = 1;  ///< what a strike here multiplies the power by; 0 or more
  friend bool operator==(const Hitbox&, const Hitbox&) = default;
};

/// A point of a body from which attacks start, in the body's frame.
struct Muzzle {
  std::string name;
  Vec3 at;
  friend bool operator==(const Muzzle&, const Muzzle&) = default;
};

/// How a body takes damage of a kind. Where several are for one kind their factors multiply, their armour
/// adds up, and the highest floor counts.
struct Resistance {
  std::string kind;   ///< of damage; empty: every kind
  double factor = 1;  ///< 0: immune; above 1: weak to it
  double armour = 0;  ///< taken off before the factor; below 0 it adds
  double floor = 0;   ///< so much arrives at least
  friend bool operator==(const Resistance&, const Resistance&) = default;
};

/// A named, reusable kind of body.
struct Build {
  std::string name;
  std::vector<Hitbox> hitboxes;  ///< at least one
  std::optional<Vec3> eyes;      ///< from where the body sees, in its frame; its middle unless said
  std::vector<Muzzle> muzzles;
  std::vector<std::string> tags;
  std::vector<std::string> immune;  ///< attacks with one of these tags never strike it
  std::vector<Resistance> resists;
  friend bool operator==(const Build&, const Build&) = default;
};

/// A number of a body: health, armour, whatever the game likes. Rules and orders may read it.
struct NamedNumber {
  std::string name;
  double value = 0;
  friend bool operator==(const NamedNumber&, const NamedNumber&) = default;
};

/// What is otherwise with a body from a time on.
struct BodyChange {
  double time_s = 0;
  FactionId faction;             ///< whom it fights for; empty: as before
  std::vector<std::string> off;  ///< hitboxes of these zones are not there any more
  std::vector<std::string> on;   ///< or are there again
  friend bool operator==(const BodyChange&, const BodyChange&) = default;
};

/// Anything that can attack, be struck, or both.
struct Body {
  std::string id;
  BuildId build;
  FactionId faction;
  Pose pose;
  std::vector<std::string> tags;    ///< in addition to its build's
  std::vector<std::string> immune;  ///< in addition to its build's
  std::vector<Resistance> resists;  ///< likewise
  std::vector<NamedNumber> numbers;
  bool fallen = false;  ///< the fallen are not struck and stop nothing
  /// Where it will be, if that is known; times do not fall. Between two keys it moves and turns steadily.
  std::vector<TrackKey> track;
  /// Instead of a track: from time 0 on it goes on so for an hour, m/s. `Arena::add_body` makes it a track.
  Vec3 velocity;
  /// What changes with it at stated times, which do not fall. At any time one hitbox at least is there.
  std::vector<BodyChange> changes;
  friend bool operator==(const Body&, const Body&) = default;
};

/// Everything that is wrong with them by themselves.
Problems check(const Build& build);
Problems check(const std::vector<Resistance>& resists);
Problems check(const Pose& pose);
Problems check(const std::vector<TrackKey>& track);
/// The changes of a body of a build.
Problems check(const std::vector<BodyChange>& changes, const Build& build);

namespace detail {
/// A bit for each of a build's first 64 hitboxes that has one of these zones.
std::uint64_t bits_of(const Build& build, const std::vector<std::string>& zones);
}  // namespace detail

}  // namespace dardo
