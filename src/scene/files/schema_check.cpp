// Checking a scene's JSON against the schema.
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validation_results.hpp>
#include <valijson/validator.hpp>

#include "scene/files/schema.h"

namespace bronvel {

std::string schema_fault(const Json& scene) {
  static const nlohmann::json schema_json = nlohmann::json::parse(scene_schema().dump());
  static const valijson::Schema& schema = [&]() -> const valijson::Schema& {
    static valijson::Schema made;
    valijson::SchemaParser parser;
    parser.populateSchema(valijson::adapters::NlohmannJsonAdapter(schema_json), made);
    return made;
  }();
  valijson::Validator validator;
  valijson::ValidationResults results;
  const nlohmann::json plain = scene;
  if (validator.validate(schema, valijson::adapters::NlohmannJsonAdapter(plain), &results)) return "";
  valijson::ValidationResults::Error error;
  std::string pointer, what = "does not fit the scene schema";
  // The first error is the outermost; the place that is worth naming is the deepest one.
  while (results.popError(error)) {
    std::string place;
    for (const std::string& step : error.context) {
      if (step == "<root>") continue;
      const std::string inner = step.size() > 2 && step.front() == '[' ? step.substr(1, step.size() - 2) : step;
      place += "/" + inner;
    }
    if (place.size() >= pointer.size()) {
      pointer = place;
      what = error.description;
    }
  }
  return pointer + ": " + what;
}

}  // namespace bronvel
