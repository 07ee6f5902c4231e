// From a Scene to scene.json.
#include "scene/write.h"

#include "geometry/hull.h"
#include "scene/json_text.h"
#include "scene/property.h"
#include "scene/schema.h"

namespace bronvel {
namespace {

Json vector(const Vec3& v) {
  return {v.x(), v.y(), v.z()};
}

Json shape_inside(const Sphere& s) {
  return {{"radius", s.radius}};
}
Json shape_inside(const Box& b) {
  return {{"size", vector(b.size)}};
}
Json shape_inside(const Capsule& c) {
  return {{"radius", c.radius}, {"length", c.length}};
}
Json shape_inside(const Cylinder& c) {
  return {{"radius", c.radius}, {"height", c.height}};
}
Json shape_inside(const Cone& c) {
  return {{"radius", c.radius}, {"height", c.height}};
}
Json shape_inside(const Hull& h) {
  Json points = Json::array();
  for (const Vec3& p : h.data->points) points.push_back(vector(p));
  return {{"points", points}};
}

Json shape(const Shape& s) {
  return {{shape_word(s), std::visit([](const auto& each) { return shape_inside(each); }, s)}};
}

Json value(const Value& v) {
  if (const auto* x = std::get_if<double>(&v)) return *x;
  if (const auto* b = std::get_if<bool>(&v)) return *b;
  if (const auto* s = std::get_if<std::string>(&v)) return *s;
  if (const auto* u = std::get_if<Vec3>(&v)) return vector(*u);
  if (const auto* q = std::get_if<Quat>(&v)) return {q->x(), q->y(), q->z(), q->w()};
  return nullptr;
}

Json body(const Body& b) {
  static const Body usual;
  Json json{{"name", b.name}, {"shape", shape(b.shape)}};
  for (const Property& p : body_properties()) {
    const Value v = p.get(b);
    const bool always = p.name == "kind" || p.name == "position" || p.name == "mass";
    if (always || !same_value(v, p.get(usual))) json[p.name] = value(v);
  }
  json["colour"] = b.colour;
  if (!b.tags.empty()) json["tags"] = b.tags;
  for (const ScriptUse& use : b.scripts) {
    Json script{{"file", use.file}};
    if (!use.dials.empty()) script["dials"] = use.dials;
    json["scripts"].push_back(script);
  }
  return json;
}

Json surface(const Surface& s) {
  return {{"static_friction", s.static_friction},
          {"dynamic_friction", s.dynamic_friction},
          {"rolling_friction", s.rolling_friction},
          {"restitution", s.restitution},
          {"friction_combine", std::string(combine_word(s.friction_combine))},
          {"restitution_combine", std::string(combine_word(s.restitution_combine))}};
}

}  // namespace

std::string write_scene(const Scene& s) {
  Json root{{"bronvel", scene_version}, {"name", s.name}};
  if (!s.about.empty()) root["about"] = s.about;
  root["seed"] = s.seed;
  root["world"] = {{"gravity", vector(s.world.gravity)},
                   {"tick_rate", s.world.tick_rate},
                   {"substeps", s.world.substeps},
                   {"restitution_speed", s.world.restitution_speed},
                   {"air_density", s.world.air_density}};
  root["view"] = {
      {"target", vector(s.view.target)}, {"distance", s.view.distance}, {"turn", s.view.turn}, {"tilt", s.view.tilt}};
  root["surfaces"] = Json::object();
  for (const auto& [name, value] : s.surfaces) root["surfaces"][name] = surface(value);
  root["bodies"] = Json::array();
  for (const Body& b : s.bodies) root["bodies"].push_back(body(b));
  return json_text(root);
}

}  // namespace bronvel
