#pragma once
#include <nlohmann/json.hpp>
#include <string>
#include <string_view>

namespace dardo::test {

/// Whether a standard JSON Schema validator (valijson) accepts the document. Compiled in one place, because
/// its headers are heavy.
bool validates(std::string_view schema, const nlohmann::json& document);

}  // namespace dardo::test
