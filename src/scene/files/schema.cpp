// Building the schema. What never changes is written as JSON text: nested lists of C++ take the compiler long.
#include "scene/files/schema.h"

#include "scene/document/joint_axes.h"
#include "scene/document/voice.h"
#include "scene/properties/property.h"

namespace bronvel {
namespace {

Json literal(const char* text) {
  return Json::parse(text);
}

Json boolean() {
  return literal(R"({"type": "boolean"})");
}

Json text() {
  return literal(R"({"type": "string"})");
}

Json list_of(Json items) {
  Json s = literal(R"({"type": "array"})");
  s["items"] = std::move(items);
  return s;
}

// A list of `count` such items.
Json list_of(Json items, int count) {
  Json s = list_of(std::move(items));
  s["minItems"] = count;
  s["maxItems"] = count;
  return s;
}

Json one_of(const std::vector<std::string>& words) {
  Json s = text();
  s["enum"] = words;
  return s;
}

Json number_schema(double low, double high, bool low_open = false) {
  Json s = literal(R"({"type": "number"})");
  if (low > -1e299) s[low_open ? "exclusiveMinimum" : "minimum"] = low;
  if (high < 1e299) s["maximum"] = high;
  return s;
}

Json numbers_schema(int count) {
  return list_of(literal(R"({"type": "number"})"), count);
}

using Properties = std::vector<std::pair<const char*, Json>>;

Json object_of(const Properties& properties) {
  Json s = Json::object();
  for (const auto& [key, value] : properties) s[key] = value;
  return s;
}

// An object with these properties and no others.
Json closed(Json properties, const std::vector<std::string>& required) {
  Json s = literal(R"({"type": "object", "additionalProperties": false})");
  s["properties"] = std::move(properties);
  if (!required.empty()) s["required"] = required;
  return s;
}

Json closed_object(const Properties& properties, const std::vector<std::string>& required = {}) {
  return closed(object_of(properties), required);
}

Json described(Json schema, const char* description) {
  schema["description"] = description;
  return schema;
}

Json property_schema(const PropertyInfo& p) {
  Json s;
  switch (p.kind) {
    case PropertyKind::number:
    case PropertyKind::optional_number:
      s = number_schema(p.low, p.high, p.low_open);
      if (p.whole) s["type"] = "integer";
      break;
    case PropertyKind::flag:
      s = boolean();
      break;
    case PropertyKind::word:
      s = one_of(p.words);
      break;
    case PropertyKind::text:
      s = text();
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
  return list_of(text());
}

// Which part of which placed stamp a thing is.
Json stamped_schema() {
  return described(closed_object({{"stamp", text()}, {"copy", text()}, {"part", text()}}, {"stamp", "copy", "part"}),
                   "the placed stamp that it is part of; values equal to the stamp's follow it");
}

Json joint_schema(const Json& name) {
  Json axis = Json::object();
  axis["freedom"] = one_of({freedom_words.begin(), freedom_words.end()});
  for (const AxisNumber& n : axis_numbers) axis[n.name] = number_schema(n.low, 1e15);
  Json axes = Json::object();
  for (const char* each : axis_names) axes[each] = closed(axis, {});
  Json joint = object_of({{"name", name}, {"stamped", stamped_schema()}});
  for (const JointProperty& p : joint_properties()) joint[p.name] = property_schema(p);
  joint["axes"] = described(closed(axes, {}),
                            "six_axis: moves along the joint's X, Y, Z and turns about them; locked unless given");
  return closed(joint, {"name", "b"});
}

Json zone_schema(const Json& name, const Json& shape) {
  Json zone = object_of({{"name", name}, {"shape", shape}});
  for (const ZoneProperty& p : zone_properties()) zone[p.name] = property_schema(p);
  zone["tags"] = described(names_schema(), "which bodies it senses: those with one of these tags; none named: all");
  return closed(zone, {"name", "shape"});
}

Json path_schema(const Json& name) {
  Json points = list_of(numbers_schema(3));
  points["minItems"] = 2;
  return closed_object({{"name", name}, {"points", points}, {"smooth", boolean()}, {"closed", boolean()}},
                       {"name", "points"});
}

Json cue_schema(const Json& name) {
  return closed_object({{"name", name},
                        {"at", number_schema(0, 1e6)},
                        {"every", number_schema(0, 1e6)},
                        {"beats_per_minute", number_schema(0, 6000, true)},
                        {"times", literal(R"({"type": "integer", "minimum": 0})")}},
                       {"name"});
}

Json action_schema(const Json& name) {
  const Json keys = list_of(one_of(key_names()));
  return closed_object({{"name", name}, {"keys", keys}, {"against", keys}}, {"name"});
}

Json check_schema() {
  const Json any = number_schema(-1e300, 1e300);
  Json json = closed_object({{"measure", text()},
                             {"equals", any},
                             {"within", number_schema(0, 1e300)},
                             {"at_most", any},
                             {"at_least", any},
                             {"never", literal(R"({"const": true})")},
                             {"seconds", number_schema(0, 1e5)},
                             {"seeds", number_schema(1, most_seeds_of_a_check)},
                             {"rates", list_of(number_schema(1, 1e4))},
                             {"inputs", text()}},
                            {"measure"});
  json["description"] =
      "a wish that is checked: what a measure of a play of so many seconds, seeds and tick rates shall be";
  return json;
}

Json shape_schema() {
  const Json size = number_schema(0, 1e6, true);
  const auto round = [&](const char* along) {
    return closed_object({{"radius", size}, {along, size}}, {"radius", along});
  };
  Json points = list_of(numbers_schema(3));
  points["minItems"] = 4;
  Json mesh_points = points;
  mesh_points["minItems"] = 3;
  Json triangles = list_of(list_of(literal(R"({"type": "integer", "minimum": 0})"), 3));
  triangles["minItems"] = 1;
  const Json side = literal(R"({"type": "integer", "minimum": 2, "maximum": 20000})");
  const Json field = closed_object({{"columns", side},
                                    {"rows", side},
                                    {"spacing", list_of(size, 2)},
                                    {"heights", list_of(literal(R"({"type": "number"})"))}},
                                   {"columns", "rows", "spacing", "heights"});
  // A part's shape is looked at by the reader: it is one of these again, but for the last three.
  Json parts = list_of(closed_object({{"shape", literal(R"({"type": "object"})")},
                                      {"position", numbers_schema(3)},
                                      {"orientation", numbers_schema(4)},
                                      {"density", number_schema(0, 1e9, true)}},
                                     {"shape"}));
  parts["minItems"] = 1;
  Json s =
      closed_object({{"sphere", closed_object({{"radius", size}}, {"radius"})},
                     {"box", closed_object({{"size", list_of(size, 3)}}, {"size"})},
                     {"capsule", round("length")},
                     {"cylinder", round("height")},
                     {"cone", round("height")},
                     {"hull", closed_object({{"points", points}}, {"points"})},
                     {"mesh", closed_object({{"points", mesh_points}, {"triangles", triangles}, {"model", text()}})},
                     {"height_field", field},
                     {"compound", closed_object({{"parts", parts}}, {"parts"})}});
  s["minProperties"] = 1;
  s["maxProperties"] = 1;
  return s;
}

Json body_schema(const Json& name) {
  Json body = object_of({{"name", name}, {"shape", shape_schema()}});
  for (const Property& p : body_properties()) body[p.name] = property_schema(p);
  body["density"] = described(number_schema(0, 1e9, true), "instead of mass; mass becomes density × volume [kg/m³]");
  body["groups"] = described(names_schema(),
                             "collision groups that it is in, of the scene's; none: the nameless group of all others");
  body["meets"] = described(names_schema(), "groups that it collides with; none named: all");
  body["colour"] = literal(R"({"type": "string", "pattern": "^#[0-9A-Fa-f]{6}$"})");
  body["tags"] = names_schema();
  Json thing = literal(R"({"type": "object", "minProperties": 1, "maxProperties": 1, "additionalProperties": false})");
  for (const char* kind : named_words) thing["properties"][kind] = literal(R"({"type": "string"})");
  Json dials = literal(R"({"type": "object", "additionalProperties": {}})");
  dials["additionalProperties"]["anyOf"] = Json::array(
      {literal(R"({"type": "number"})"), literal(R"({"type": "boolean"})"), literal(R"({"type": "string"})"), thing});
  const Json file = literal(R"({"type": "string", "pattern": "^[A-Za-z0-9_][A-Za-z0-9_.-]*\\.lua$"})");
  body["scripts"] = list_of(closed_object({{"file", file}, {"dials", dials}}, {"file"}));
  body["looks"] = described(closed_object({{"model", text()},
                                           {"position", numbers_schema(3)},
                                           {"orientation", numbers_schema(4)},
                                           {"scale", number_schema(0, 1e6, true)}},
                                          {"model"}),
                            "the model of meshes/ that is drawn instead of the shape, in the body's frame");
  body["locked"] = described(boolean(), "handles on the stage leave it where it is");
  body["break_planes"] =
      described(list_of(closed_object({{"normal", numbers_schema(3)}, {"offset", literal(R"({"type": "number"})")}},
                                      {"normal", "offset"})),
                "where a body that breaks into planes parts: normal·x = offset, in its frame");
  body["held_parts"] = described(list_of(literal(R"({"type": "integer", "minimum": 0})")),
                                 "numbers of pieces that the scene holds, where held_pieces is listed");
  body["stamped"] = stamped_schema();
  return closed(body, {"name", "shape"});
}

// An object that has nothing but these properties.
template <class Owner>
Json listed_schema(std::span<const PropertyOf<Owner>> list) {
  Json properties = Json::object();
  for (const PropertyOf<Owner>& p : list) properties[p.name] = property_schema(p);
  return closed(properties, {});
}

Json surface_schema() {
  Json s = listed_schema(surface_properties());
  s["properties"]["voice"]["enum"] = voice_names();
  return s;
}

}  // namespace

Json scene_schema() {
  const Json name = literal(R"({"type": "string", "pattern": "^[A-Za-z_][A-Za-z0-9_]*$"})");
  const Json bodies = list_of(body_schema(name));
  Json groups = names_schema();
  groups["maxItems"] = 31;
  const Json world = listed_schema(world_properties());
  const Json view = closed_object({{"target", numbers_schema(3)},
                                   {"distance", number_schema(0, 1e7, true)},
                                   {"turn", number_schema(-1e300, 1e300)},
                                   {"tilt", number_schema(-90, 90)},
                                   {"straight", boolean()}});
  Json version = literal(R"({"type": "integer", "minimum": 1})");
  version["maximum"] = scene_version;
  Json surfaces = literal(R"({"type": "object"})");
  surfaces["additionalProperties"] = surface_schema();
  const Json joints = list_of(joint_schema(name));
  Json schema = literal(R"({"$schema": "http://json-schema.org/draft-07/schema#", "title": "Bronvel scene",
                            "description": "SI units; angles of the view in degrees; right-handed, Y up"})");
  schema.update(closed_object(
      {{"bronvel", version},
       {"name", text()},
       {"about", text()},
       {"seed", literal(R"({"type": "integer", "minimum": 0})")},
       {"world", world},
       {"view", view},
       {"surfaces", surfaces},
       {"groups", groups},
       {"lanes", list_of(text())},
       {"tasks", list_of(text())},
       {"bodies", bodies},
       {"stamps", list_of(closed_object({{"name", name}, {"bodies", bodies}, {"joints", joints}}, {"name", "bodies"}))},
       {"views", list_of(closed_object({{"name", text()}, {"view", view}}, {"name", "view"}))},
       {"joints", joints},
       {"zones", list_of(zone_schema(name, shape_schema()))},
       {"paths", list_of(path_schema(name))},
       {"cues", list_of(cue_schema(name))},
       {"actions", list_of(action_schema(name))},
       {"checks", list_of(check_schema())},
       {"sweep_away", closed_object({{"below", number_schema(-1e6, 1e6)}, {"then", one_of({"back", "remove"})}})}},
      {"bronvel", "bodies"}));
  return schema;
}

}  // namespace bronvel
