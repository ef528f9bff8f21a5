#include "support/validate.hpp"

#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validator.hpp>

namespace dardo::test {

bool validates(std::string_view schema_text, const nlohmann::json& document) {
  const nlohmann::json schema_json = nlohmann::json::parse(schema_text);
  valijson::Schema schema;
  valijson::SchemaParser parser(valijson::SchemaParser::kDraft7);
  parser.populateSchema(valijson::adapters::NlohmannJsonAdapter(schema_json), schema);
  valijson::Validator validator(valijson::Validator::kStrongTypes);
  const valijson::adapters::NlohmannJsonAdapter target(document);
  return validator.validate(schema, target, nullptr);
}

}  // namespace dardo::test
