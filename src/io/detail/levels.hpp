#pragma once
#include <functional>
#include <string>
#include <vector>

#include "dardo/io/scene.hpp"
#include "io/detail/reader.hpp"

// Levels of an attack: named patches over what the file says of it.
namespace dardo::io::detail {

/// JSON Merge Patch (RFC 7396): objects are merged, nothing (null) takes a key away, all else replaces.
void merge_patch(Node& target, const Node& patch);

/// What a level is made of: the attack as the file says it, and where in its levels each part comes from.
struct LevelDraft {
  std::string name;
  Node attack;
  std::vector<Place> patches;  ///< those that went into it, the last one last
};

/// Every level that an attack's `levels` make, by what the attack's own entry (without them) says. What is
/// wrong with them has a problem at its place.
std::vector<LevelDraft> draft_levels(Reader& reader, const Place& levels, const Node& attack);

/// Where a fault at this pointer within a drafted attack comes from: in the patch that said it, or else the
/// levels themselves.
std::string place_in_levels(const LevelDraft& draft, const Place& levels, std::string_view pointer);

/// An object without one of its keys.
Node without(const Node& object, std::string_view key);

/// The node as JSON text that reads as the same.
std::string node_text(const Node& node);

}  // namespace dardo::io::detail
