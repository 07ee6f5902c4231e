// Building the schema, and checking against it.
#include "scene/schema.h"

#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validation_results.hpp>
#include <valijson/validator.hpp>

#include "scene/joint_axes.h"
#include "scene/property.h"

namespace bronvel {
namespace {

Json number_schema(double low, double high, bool low_open = false) {
  Json s{{"type", "number"}};
  if (low > -1e299) s[low_open ? "exclusiveMinimum" : "minimum"] = low;
  if (high < 1e299) s["maximum"] = high;
  return s;
}

Json numbers_schema(int count) {
  return {{"type", "array"}, {"items", {{"type", "number"}}}, {"minItems", count}, {"maxItems", count}};
}

Json closed_object(Json properties, Json required = Json::array()) {
  Json s{{"type", "object"}, {"additionalProperties", false}, {"properties", std::move(properties)}};
  if (!required.empty()) s["required"] = std::move(required);
  return s;
}

Json property_schema(const PropertyInfo& p) {
  Json s;
  switch (p.kind) {
    case PropertyKind::number:
    case PropertyKind::optional_number:
      s = number_schema(p.low, p.high, p.low_open);
      break;
    case PropertyKind::flag:
      s = {{"type", "boolean"}};
      break;
    case PropertyKind::word:
      s = {{"type", "string"}, {"enum", p.words}};
      break;
    case PropertyKind::text:
      s = {{"type", "string"}};
      break;
    case PropertyKind::vector:
    case PropertyKind::optional_vector:
      s = numbers_schema(3);
      break;
    case PropertyKind::rotation:
      s = numbers_schema(4);
      break;
  }
  s["description"] = p.tip + (p.unit.empty() ? "" : " [" + p.unit + "]");
  return s;
}

Json names_schema() {
  return {{"type", "array"}, {"items", {{"type", "string"}}}};
}

// Which part of which placed stamp a thing is.
Json stamped_schema() {
  const Json text{{"type", "string"}};
  Json schema = closed_object({{"stamp", text}, {"copy", text}, {"part", text}}, {"stamp", "copy", "part"});
  schema["description"] = "the placed stamp that it is part of; values equal to the stamp's follow it";
  return schema;
}

Json joint_schema(const Json& name) {
  Json axis{{"freedom", {{"type", "string"}, {"enum", freedom_words}}}};
  for (const AxisNumber& n : axis_numbers) axis[n.name] = number_schema(n.low, 1e15);
  Json axes = Json::object();
  for (const char* each : axis_names) axes[each] = closed_object(axis);
  Json joint{{"name", name}, {"stamped", stamped_schema()}};
  for (const JointProperty& p : joint_properties()) joint[p.name] = property_schema(p);
  joint["axes"] = closed_object(axes);
  joint["axes"]["description"] = "six_axis: moves along the joint's X, Y, Z and turns about them; locked unless given";
  return closed_object(joint, {"name", "b"});
}

Json zone_schema(const Json& name, const Json& shape) {
  Json zone{{"name", name}, {"shape", shape}};
  for (const ZoneProperty& p : zone_properties()) zone[p.name] = property_schema(p);
  zone["tags"] = names_schema();
  zone["tags"]["description"] = "which bodies it senses: those with one of these tags; none named: all";
  return closed_object(zone, {"name", "shape"});
}

Json path_schema(const Json& name) {
  Json points{{"type", "array"}, {"items", numbers_schema(3)}, {"minItems", 2}};
  return closed_object(
      {{"name", name}, {"points", points}, {"smooth", {{"type", "boolean"}}}, {"closed", {{"type", "boolean"}}}},
      {"name", "points"});
}

Json cue_schema(const Json& name) {
  return closed_object({{"name", name},
                        {"at", number_schema(0, 1e6)},
                        {"every", number_schema(0, 1e6)},
                        {"beats_per_minute", number_schema(0, 6000, true)},
                        {"times", {{"type", "integer"}, {"minimum", 0}}}},
                       {"name"});
}

Json action_schema(const Json& name) {
  const Json keys{{"type", "array"}, {"items", {{"type", "string"}, {"enum", key_names()}}}};
  return closed_object({{"name", name}, {"keys", keys}, {"against", keys}}, {"name"});
}

Json list_of(Json items) {
  return {{"type", "array"}, {"items", std::move(items)}};
}

Json shape_schema() {
  const Json size = number_schema(0, 1e6, true);
  Json sphere = closed_object({{"radius", size}}, {"radius"});
  Json box =
      closed_object({{"size", {{"type", "array"}, {"items", size}, {"minItems", 3}, {"maxItems", 3}}}}, {"size"});
  const auto round = [&](const char* along) {
    return closed_object({{"radius", size}, {along, size}}, {"radius", along});
  };
  Json points{{"type", "array"}, {"items", numbers_schema(3)}, {"minItems", 4}};
  Json mesh_points = points;
  mesh_points["minItems"] = 3;
  Json corner{{"type", "integer"}, {"minimum", 0}};
  Json triangles{{"type", "array"},
                 {"items", {{"type", "array"}, {"items", corner}, {"minItems", 3}, {"maxItems", 3}}},
                 {"minItems", 1}};
  Json side{{"type", "integer"}, {"minimum", 2}, {"maximum", 20000}};
  Json field = closed_object({{"columns", side},
                              {"rows", side},
                              {"spacing", {{"type", "array"}, {"items", size}, {"minItems", 2}, {"maxItems", 2}}},
                              {"heights", {{"type", "array"}, {"items", {{"type", "number"}}}}}},
                             {"columns", "rows", "spacing", "heights"});
  // A part's shape is looked at by the reader: it is one of these again, but for the last three.
  Json parts{{"type", "array"},
             {"items", closed_object({{"shape", {{"type", "object"}}},
                                      {"position", numbers_schema(3)},
                                      {"orientation", numbers_schema(4)},
                                      {"density", number_schema(0, 1e9, true)}},
                                     {"shape"})},
             {"minItems", 1}};
  Json s = closed_object(
      {{"sphere", sphere},
       {"box", box},
       {"capsule", round("length")},
       {"cylinder", round("height")},
       {"cone", round("height")},
       {"hull", closed_object({{"points", points}}, {"points"})},
       {"mesh", closed_object({{"points", mesh_points}, {"triangles", triangles}, {"model", {{"type", "string"}}}})},
       {"height_field", field},
       {"compound", closed_object({{"parts", parts}}, {"parts"})}});
  s["minProperties"] = 1;
  s["maxProperties"] = 1;
  return s;
}

}  // namespace

Json scene_schema() {
  const Json name{{"type", "string"}, {"pattern", "^[A-Za-z_][A-Za-z0-9_]*$"}};
  Json body{{"name", name}, {"shape", shape_schema()}};
  for (const Property& p : body_properties()) body[p.name] = property_schema(p);
  body["density"] = number_schema(0, 1e9, true);
  body["density"]["description"] = "instead of mass; mass becomes density × volume [kg/m³]";
  body["groups"] = names_schema();
  body["groups"]["description"] =
      "collision groups that it is in, of the scene's; none: the nameless group of all others";
  body["meets"] = names_schema();
  body["meets"]["description"] = "groups that it collides with; none named: all";
  body["colour"] = {{"type", "string"}, {"pattern", "^#[0-9A-Fa-f]{6}$"}};
  body["tags"] = names_schema();
  body["scripts"] = {
      {"type", "array"},
      {"items", closed_object({{"file", {{"type", "string"}, {"pattern", "^[A-Za-z0-9_][A-Za-z0-9_.-]*\\.lua$"}}},
                               {"dials", {{"type", "object"}, {"additionalProperties", {{"type", "number"}}}}}},
                              {"file"})}};

  body["looks"] = closed_object({{"model", {{"type", "string"}}},
                                 {"position", numbers_schema(3)},
                                 {"orientation", numbers_schema(4)},
                                 {"scale", number_schema(0, 1e6, true)}},
                                {"model"});
  body["looks"]["description"] = "the model of meshes/ that is drawn instead of the shape, in the body's frame";
  body["locked"] = {{"type", "boolean"}, {"description", "handles on the stage leave it where it is"}};
  Json cut = closed_object({{"normal", numbers_schema(3)}, {"offset", {{"type", "number"}}}}, {"normal", "offset"});
  body["break_planes"] = {{"type", "array"}, {"items", cut}};
  body["break_planes"]["description"] = "where a body that breaks into planes parts: normal·x = offset, in its frame";
  body["held_parts"] = {{"type", "array"}, {"items", {{"type", "integer"}, {"minimum", 0}}}};
  body["held_parts"]["description"] = "numbers of pieces that the scene holds, where held_pieces is listed";
  body["stamped"] = stamped_schema();
  const Json body_list{{"type", "array"}, {"items", closed_object(body, {"name", "shape"})}};

  Json groups = names_schema();
  groups["maxItems"] = 31;
  const Json share = number_schema(0, 10);
  const Json rule{{"type", "string"}, {"enum", {"average", "minimum", "maximum", "multiply"}}};
  const Json surface = closed_object({{"static_friction", share},
                                      {"dynamic_friction", share},
                                      {"rolling_friction", share},
                                      {"restitution", number_schema(0, 1)},
                                      {"friction_combine", rule},
                                      {"restitution_combine", rule}});
  const Json world = closed_object({{"gravity", numbers_schema(3)},
                                    {"tick_rate", number_schema(1, 10000)},
                                    {"substeps", {{"type", "integer"}, {"minimum", 1}, {"maximum", 64}}},
                                    {"restitution_speed", number_schema(0, 1e6)},
                                    {"air_density", number_schema(0, 1e6)},
                                    {"planar", {{"type", "boolean"}}}});
  const Json view = closed_object({{"target", numbers_schema(3)},
                                   {"distance", number_schema(0, 1e7, true)},
                                   {"turn", number_schema(-1e300, 1e300)},
                                   {"tilt", number_schema(-90, 90)},
                                   {"straight", {{"type", "boolean"}}}});
  Json scene = closed_object(
      {{"bronvel", {{"type", "integer"}, {"minimum", 1}, {"maximum", scene_version}}},
       {"name", {{"type", "string"}}},
       {"about", {{"type", "string"}}},
       {"seed", {{"type", "integer"}, {"minimum", 0}}},
       {"world", world},
       {"view", view},
       {"surfaces", {{"type", "object"}, {"additionalProperties", surface}}},
       {"groups", groups},
       {"bodies", body_list},
       {"stamps",
        list_of(closed_object({{"name", name}, {"bodies", body_list}, {"joints", list_of(joint_schema(name))}},
                              {"name", "bodies"}))},
       {"views", list_of(closed_object({{"name", {{"type", "string"}}}, {"view", view}}, {"name", "view"}))},
       {"joints", list_of(joint_schema(name))},
       {"zones", list_of(zone_schema(name, shape_schema()))},
       {"paths", list_of(path_schema(name))},
       {"cues", list_of(cue_schema(name))},
       {"actions", list_of(action_schema(name))},
       {"sweep_away", closed_object({{"below", number_schema(-1e6, 1e6)},
                                     {"then", {{"type", "string"}, {"enum", {"back", "remove"}}}}})}},
      {"bronvel", "bodies"});
  Json schema{{"$schema", "http://json-schema.org/draft-07/schema#"},
              {"title", "Bronvel scene"},
              {"description", "SI units; angles of the view in degrees; right-handed, Y up"}};
  schema.update(scene);
  return schema;
}

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
