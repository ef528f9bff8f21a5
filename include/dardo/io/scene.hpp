#pragma once
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "dardo/arena/arena.hpp"
#include "dardo/attack/attack.hpp"
#include "dardo/attack/launch.hpp"
#include "dardo/io/problem.hpp"
#include "dardo/resolve/resolve.hpp"
#include "dardo/resolve/together.hpp"

namespace dardo::io {

/// One level of an attack: an attack of its own.
struct Level {
  std::string name;  ///< its number, or its own name
  Attack attack;
};
/// All levels of an attack.
struct Levels {
  std::string attack;  ///< its name
  std::vector<Level> all;
  std::string written;  ///< as the file says them, JSON
};

/// A launch of a scene and the attack that it launches.
struct SceneLaunch {
  Launch launch;
  Attack attack;
  std::string level = {};  ///< of which level that attack is; empty: as the scene says the attack itself
  std::vector<UnderWay> under_way;
};

/// A scene in the plane z = 0, as seen.
enum class Flat : std::uint8_t { above, side };

/// What a scene file holds, ready to resolve: every launch of it passes `dardo::check`.
struct Scene {
  std::string title;
  std::optional<Flat> flat;  ///< its arena is flat, too; files then say places by two numbers
  std::string unit;          ///< what a metre is called in it; empty: "m"
  bool y_down = false;       ///< files count y downwards; in memory it goes up
  Arena arena;
  std::vector<Attack> attacks;
  std::vector<Levels> levels;  ///< of those attacks that have some
  std::vector<SceneLaunch> launches;
  Limits limits;                    ///< of each launch; tell a running game by `Skirmish::set_limits`
  std::vector<FileProblem> doubts;  ///< what is right and may yet not be meant: see `dardo::doubts`
};

/// A level of an attack by its name, or the attack itself where that is empty; nothing when there is no such.
const Attack* find_attack(const Scene& scene, std::string_view attack, std::string_view level = {});

/// What comes of one of its launches, with the shots that are under way then, besides those of the options.
Outcome resolve(const Scene& scene, const SceneLaunch& launch, const ResolveOptions& options = {});
inline Outcome resolve(const Scene& scene, const SceneLaunch& launch, Detail detail) {
  return resolve(scene, launch, ResolveOptions{.detail = detail});
}

/// All its launches as one course of events: see `resolve_together`. Shots under way mean nothing there.
std::vector<Outcome> resolve_together(const Scene& scene, std::span<const SceneLaunch* const> launches,
                                      const ResolveOptions& options = {});

/// Reads a scene from a file. All that is wrong comes back in one pass.
FileResult<Scene> read_scene(const std::string& path);
/// Reads a scene from text; `name` stands for the file in problems.
FileResult<Scene> parse_scene(std::string_view text, std::string_view name);

/// The scene as text that reads as the same scene again, to the bit: numbers, builds, bodies, walls, attacks
/// and launches; prisms as the hulls of their corners. What is as it would be anyhow is left out.
std::string scene_json(const Scene& scene);

/// Reads a whole file, or everything on standard input for "-". Refuses folders, unreadable files, and
/// anything over 256 MiB.
FileResult<std::string> read_text(const std::string& path);
/// Writes a file whole or not at all: first beside it, then moved into its place.
FileResult<void> write_text(const std::string& path, std::string_view text);

/// The JSON Schema (draft 7) of scene files.
std::string_view scene_schema();
/// Every key of scene files, with what it means, its unit, range and default: a page of Markdown.
std::string_view reference_page();

}  // namespace dardo::io
