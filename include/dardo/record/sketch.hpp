#pragma once
#include <optional>
#include <string>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/geometry/half_space.hpp"
#include "dardo/record/outcome.hpp"

namespace dardo {

/// A body as it stood, with what became of it.
struct SketchBody {
  std::string id;
  std::string faction;
  std::uint32_t faction_number = 0;  ///< the same number, the same faction
  Pose pose;
  std::vector<Shape> hitboxes;    ///< in the world
  std::vector<Vec3> way;          ///< of one that moves: where it goes while the launch lasts
  std::vector<double> way_times;  ///< and when it is there, seconds on the clock of tracks
  std::vector<Shape> struck_at;   ///< of one that moves: its hitboxes when it was first struck
  bool attacker = false, fallen = false, struck = false;
  bool concerned = false;  ///< attacker, struck or nearly so, or in the way of what would have struck another
  bool differs = false;    ///< in a comparison: another fate than in the other one
  std::vector<std::string> statuses;  ///< that it was given; at one moment: that it has then
  std::string note;  ///< why it was not struck, in three words; of one that was, its statuses
};

struct SketchWall {
  std::string id, material;
  std::vector<Shape> parts;  ///< in the world, as they are when the launch begins
  Passages blocks;
  std::vector<Shape> at_end;  ///< of one that moves: as they are when all is over
  std::vector<Vec3> way;      ///< and where its middle goes meanwhile
  bool concerned = false;     ///< it was met, or stood between
};

/// A contact, numbered in the order of the strikes from 1.
struct SketchContact {
  std::size_t number = 0;
  Vec3 point, normal;
};

/// A stretch of time, seconds on the clock of tracks.
struct TimeSpan {
  double from_s = 0, to_s = 0;
};
/// From the launch to the last of all that its outcome tells.
TimeSpan span_of(const Outcome& outcome);

/// Everything that a picture of a launch shows, by itself: no arena is needed to draw it.
struct Sketch {
  std::string title;    ///< "mara-harpoon: harpoon"
  std::string summary;  ///< "2 of 16 struck; ended in crate-3"
  std::vector<SketchBody> bodies;
  std::vector<SketchWall> walls;
  std::vector<SketchContact> contacts;
  std::vector<Mark> marks;
  bool flat = false;       ///< all lies in a plane
  std::string unit = "m";  ///< what lengths are counted in
  std::optional<HalfSpace> ground;
  TimeSpan span;               ///< of the whole course
  std::optional<double> at_s;  ///< the one moment that it shows, if it does not show all of it
};

/// The whole course: bodies as they stand at the launch, with their ways. Requires an outcome of this arena,
/// resolved with more than Detail::strikes.
Sketch sketch(const Arena& arena, const Outcome& outcome);
/// What there is at one moment: bodies, doors and what lasts where they are then, shots as far as they have
/// come, strikes that have happened. Requires the same.
Sketch sketch_at(const Arena& arena, const Outcome& outcome, double time_s);

/// Several launches in one: of the same bodies, in the same order. Requires one at least.
Sketch together(const std::vector<Sketch>& parts);

/// Marks the bodies, by their ids, that were struck in one of two and spared in the other; how many.
std::size_t mark_differences(Sketch& a, Sketch& b);

}  // namespace dardo
