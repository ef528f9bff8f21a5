#pragma once
#include <optional>
#include <string>

#include "dardo/io/scene.hpp"

namespace dardo::cli {

/// As the scene's file counts, and back.
Vec3 as_counted(const io::Scene& scene, const Vec3& place);

/// A body of the scene by its id, or a place: "x,y" or "x,y,z" as the file counts. False, with a message
/// printed, when it is neither.
bool find_spot(const io::Scene& scene, const char* option, const std::string& text, BodyId& body,
               std::optional<Vec3>& place);

}  // namespace dardo::cli
