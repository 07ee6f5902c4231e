// From a Scene to scene.json.
#include "scene/files/write.h"

#include <algorithm>

#include "geometry/shapes/compound.h"
#include "geometry/shapes/height_field.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mesh.h"
#include "scene/document/joint_axes.h"
#include "scene/files/json_text.h"
#include "scene/files/schema.h"
#include "scene/properties/property.h"

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

Json rotation(const Quat& q) {
  return {q.x(), q.y(), q.z(), q.w()};
}
Json shape(const Shape& s);
Json shape_inside(const Compound& c) {
  Json parts = Json::array();
  for (const Part& part : c.data->parts) {
    Json json{{"shape", shape(part.shape)}, {"position", vector(part.pose.position)}};
    if (part.pose.orientation.coeffs() != Quat::Identity().coeffs())
      json["orientation"] = rotation(part.pose.orientation);
    if (part.density != 1) json["density"] = part.density;
    parts.push_back(json);
  }
  return {{"parts", parts}};
}
Json shape_inside(const Mesh& m) {
  Json points = Json::array(), triangles = Json::array();
  for (const Vec3& p : m.data->points) points.push_back(vector(p));
  for (const auto& t : m.data->triangles) triangles.push_back(t);
  return {{"points", points}, {"triangles", triangles}};
}
Json shape_inside(const HeightField& f) {
  return {{"columns", f.data->columns},
          {"rows", f.data->rows},
          {"spacing", {f.data->spacing_x, f.data->spacing_z}},
          {"heights", f.data->heights}};
}
Json shape_inside(const Facet&) {
  return nullptr;  // Never a body's shape.
}

Json shape(const Shape& s) {  // of a whole body: shape_of_body
  return {{shape_word(s), std::visit([](const auto& each) { return shape_inside(each); }, s)}};
}

Json value(const Value& v) {
  if (const auto* x = std::get_if<double>(&v)) return *x;
  if (const auto* b = std::get_if<bool>(&v)) return *b;
  if (const auto* s = std::get_if<std::string>(&v)) return *s;
  if (const auto* u = std::get_if<Vec3>(&v)) return vector(*u);
  if (const auto* q = std::get_if<Quat>(&v)) return rotation(*q);
  return nullptr;
}

// A mesh that is the body's own model, point for point, is named instead of written out.
Json shape_of_body(const Body& b, const Models& models) {
  const auto* mesh = std::get_if<Mesh>(&b.shape);
  if (mesh && b.looks && *b.looks == Looks{b.looks->model, {}, 1}) {
    const auto model = models.find(b.looks->model);
    if (model != models.end() && model->second->points == mesh->data->points &&
        model->second->triangles == mesh->data->triangles)
      return {{"mesh", {{"model", b.looks->model}}}};
  }
  return shape(b.shape);
}

Json stamped(const StampedFrom& s) {
  return {{"stamp", s.stamp}, {"copy", s.copy}, {"part", s.part}};
}

Json body(const Body& b, const Models& models) {
  static const Body usual;
  Json json{{"name", b.name}, {"shape", shape_of_body(b, models)}};
  for (const Property& p : body_properties()) {
    const Value v = p.get(b);
    const bool always = p.name == "kind" || p.name == "position" || p.name == "mass";
    if (always || !same_value(v, p.get(usual))) json[p.name] = value(v);
  }
  if (!b.groups.empty()) json["groups"] = b.groups;
  if (!b.meets.empty()) json["meets"] = b.meets;
  json["colour"] = b.colour;
  if (!b.tags.empty()) json["tags"] = b.tags;
  for (const ScriptUse& use : b.scripts) {
    Json script{{"file", use.file}};
    for (const auto& [dial, setting] : use.dials)
      if (const auto* named = std::get_if<NamedThing>(&setting))
        script["dials"][dial] = {{named_word(named->kind), named->name}};
      else
        script["dials"][dial] = value(value_of(setting));
    json["scripts"].push_back(script);
  }
  if (b.looks) {
    Json& looks = json["looks"];
    looks["model"] = b.looks->model;
    if (b.looks->pose.position != Vec3::Zero()) looks["position"] = vector(b.looks->pose.position);
    if (b.looks->pose.orientation.coeffs() != Quat::Identity().coeffs())
      looks["orientation"] = rotation(b.looks->pose.orientation);
    if (b.looks->scale != 1) looks["scale"] = b.looks->scale;
  }
  if (b.locked) json["locked"] = true;
  for (const Plane& cut : b.breaking.planes)
    json["break_planes"].push_back({{"normal", vector(cut.normal)}, {"offset", cut.offset}});
  if (!b.breaking.held_parts.empty()) json["held_parts"] = b.breaking.held_parts;
  if (b.stamped != StampedFrom{}) json["stamped"] = stamped(b.stamped);
  return json;
}

Json axis(const JointAxis& a) {
  Json json{{"freedom", std::string(freedom_words[static_cast<std::size_t>(a.freedom)])}};
  for (const AxisNumber& n : axis_numbers)
    if (a.*n.field != 0) json[n.name] = a.*n.field;
  return json;
}

Json joint(const SceneJoint& j) {
  static const SceneJoint usual;
  Json json{{"name", j.name}};
  for (const JointProperty& p : joint_properties()) {
    const Value v = p.get(j);
    if (p.name == "kind" || p.name == "b" || !same_value(v, p.get(usual))) json[p.name] = value(v);
  }
  for (std::size_t i = 0; i < 6; ++i)
    if (!(j.axes[i] == usual.axes[i])) json["axes"][axis_names[i]] = axis(j.axes[i]);
  if (j.stamped != StampedFrom{}) json["stamped"] = stamped(j.stamped);
  return json;
}

Json zone(const SceneZone& z) {
  static const SceneZone usual;
  Json json{{"name", z.name}, {"shape", shape(z.shape)}};
  for (const ZoneProperty& p : zone_properties()) {
    const Value v = p.get(z);
    if (p.name == "position" || !same_value(v, p.get(usual))) json[p.name] = value(v);
  }
  if (!z.tags.empty()) json["tags"] = z.tags;
  return json;
}

Json path(const ScenePath& p) {
  Json json{{"name", p.name}, {"points", Json::array()}, {"smooth", p.smooth}, {"closed", p.closed}};
  for (const Vec3& point : p.points) json["points"].push_back(vector(point));
  return json;
}

Json cue(const Cue& c) {
  Json json{{"name", c.name}, {"at", c.at}};
  if (c.every > 0) json["every"] = c.every;
  if (c.times > 0) json["times"] = c.times;
  return json;
}

Json action(const Action& a) {
  Json json{{"name", a.name}};
  if (!a.keys.empty()) json["keys"] = a.keys;
  if (!a.against.empty()) json["against"] = a.against;
  return json;
}

Json check(const Wish& w) {
  Json json{{"measure", w.measure}};
  if (w.is == Wish::Is::equal) json["equals"] = w.value;
  if (w.is == Wish::Is::at_most) json["at_most"] = w.value;
  if (w.is == Wish::Is::at_least) json["at_least"] = w.value;
  if (w.is == Wish::Is::never) json["never"] = true;
  if (w.within) json["within"] = *w.within;
  if (w.seconds != Wish{}.seconds) json["seconds"] = w.seconds;
  if (w.seeds != 1) json["seeds"] = w.seeds;
  if (!w.rates.empty()) json["rates"] = w.rates;
  if (!w.inputs.empty()) json["inputs"] = w.inputs;
  return json;
}

Json stamp(const Stamp& s, const Models& models) {
  Json json{{"name", s.name}, {"bodies", Json::array()}};
  for (const Body& b : s.bodies) json["bodies"].push_back(body(b, models));
  for (const SceneJoint& j : s.joints) json["joints"].push_back(joint(j));
  return json;
}

Json view(const View& v) {
  Json json{{"target", vector(v.target)}, {"distance", v.distance}, {"turn", v.turn}, {"tilt", v.tilt}};
  if (v.straight) json["straight"] = true;
  return json;
}

// What differs from the usual, and what is always written.
template <class Owner>
Json listed(std::span<const PropertyOf<Owner>> properties, const Owner& owner,
            std::initializer_list<const char*> always) {
  static const Owner usual;
  Json json = Json::object();
  for (const PropertyOf<Owner>& p : properties) {
    const Value v = p.get(owner);
    const bool written = std::find(always.begin(), always.end(), p.name) != always.end();
    if (written || !same_value(v, p.get(usual))) json[p.name] = value(v);
  }
  return json;
}

Json surface(const SceneSurface& s) {
  return listed(surface_properties(), s,
                {"static_friction", "dynamic_friction", "rolling_friction", "restitution", "friction_combine",
                 "restitution_combine"});
}

Json world(const WorldSettings& w) {
  return listed(world_properties(), w, {"gravity", "tick_rate", "substeps", "restitution_speed", "air_density"});
}

}  // namespace

std::string write_scene(const Scene& s) {
  Json root{{"bronvel", scene_version}, {"name", s.name}};
  if (!s.about.empty()) root["about"] = s.about;
  if (!s.tasks.empty()) root["tasks"] = s.tasks;
  root["seed"] = s.seed;
  root["world"] = world(s.world);
  root["view"] = view(s.view);
  for (const NamedView& v : s.views) root["views"].push_back({{"name", v.name}, {"view", view(v.view)}});
  root["surfaces"] = Json::object();
  for (const auto& [name, value] : s.surfaces) root["surfaces"][name] = surface(value);
  if (!s.groups.empty()) root["groups"] = s.groups;
  if (!s.lanes.empty()) root["lanes"] = s.lanes;
  root["bodies"] = Json::array();
  for (const Body& b : s.bodies) root["bodies"].push_back(body(b, s.models));
  for (const SceneJoint& j : s.joints) root["joints"].push_back(joint(j));
  for (const Stamp& each : s.stamps) root["stamps"].push_back(stamp(each, s.models));
  for (const SceneZone& z : s.zones) root["zones"].push_back(zone(z));
  for (const ScenePath& p : s.paths) root["paths"].push_back(path(p));
  for (const Cue& c : s.cues) root["cues"].push_back(cue(c));
  for (const Action& a : s.actions) root["actions"].push_back(action(a));
  if (s.sweep_away)
    root["sweep_away"] = {{"below", s.sweep_away->below}, {"then", s.sweep_away->bring_back ? "back" : "remove"}};
  for (const Wish& w : s.checks) root["checks"].push_back(check(w));
  return json_text(root);
}

}  // namespace bronvel
