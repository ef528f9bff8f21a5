#pragma once
#include <nlohmann/json.hpp>

#include "dardo/io/scene.hpp"

// What files are made of, for others that are made of it, too.
namespace dardo::io::detail {

/// An outcome as `outcomes_json` writes it.
nlohmann::ordered_json outcome_object(const Outcome& outcome, const Arena& arena);
/// An attack as `scene_json` writes it.
nlohmann::ordered_json attack_object(const Scene& scene, const Attack& attack);

/// What an area covers, as reports say it.
nlohmann::ordered_json area_object(const AreaShape& shape);

}  // namespace dardo::io::detail
