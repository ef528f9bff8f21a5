#include "dardo/io/outcome_json.hpp"
#include "dardo/io/scene.hpp"

extern const std::string_view dardo_embedded_scene_schema;
extern const std::string_view dardo_embedded_outcome_schema;

namespace dardo::io {

std::string_view scene_schema() { return dardo_embedded_scene_schema; }
std::string_view outcome_schema() { return dardo_embedded_outcome_schema; }

}  // namespace dardo::io
