// From JSON to shapes.
#include "scene/files/read_shape.h"

#include "geometry/shapes/compound.h"
#include "geometry/shapes/height_field.h"
#include "geometry/shapes/hull.h"
#include "geometry/shapes/mesh.h"
#include "scene/properties/property.h"

namespace bronvel {
namespace {

Shape compound(const JsonFile& file, const Json& json, const std::string& here, const Models& models) {
  file.only(json, here, {"parts"});
  if (!json.contains("parts") || !json["parts"].is_array()) file.fail(here, "wants a list of parts");
  std::vector<Part> parts;
  for (std::size_t i = 0; i < json["parts"].size(); ++i) {
    const Json& one = json["parts"][i];
    const std::string place = here + "/parts/" + std::to_string(i);
    file.only(one, place, {"shape", "position", "orientation", "density"});
    if (!one.contains("shape")) file.fail(place, "has no shape");
    Part part;
    part.shape = read_shape(file, file.object(one["shape"], place + "/shape"), place + "/shape", models);
    part.pose.position = file.vector(one, place, "position", Vec3::Zero());
    if (one.contains("orientation")) part.pose.orientation = file.rotation(one["orientation"], place + "/orientation");
    part.density = file.number(one, place, "density", 1, 0, 1e9, true);
    parts.push_back(part);
  }
  return make_compound(parts);
}

Shape mesh(const JsonFile& file, const Json& json, const std::string& here, const Models& models) {
  file.only(json, here, {"points", "triangles", "model"});
  if (json.contains("model")) {
    const std::string name = file.string(json, here, "model", "");
    const auto found = models.find(name);
    if (found == models.end())
      file.fail(here + "/model", "names \"" + name + "\", but there is no meshes/" + name + ".obj");
    return make_mesh(found->second->points, found->second->triangles);
  }
  if (!json.contains("triangles") || !json["triangles"].is_array()) file.fail(here, "wants a list of triangles");
  std::vector<std::array<std::uint32_t, 3>> triangles;
  for (std::size_t i = 0; i < json["triangles"].size(); ++i) {
    const std::string place = here + "/triangles/" + std::to_string(i);
    static_cast<void>(file.numbers(json["triangles"][i], place, 3));
    std::array<std::uint32_t, 3> t{};
    for (std::size_t k = 0; k < 3; ++k) t[k] = file.whole(json["triangles"][i][k], place, 4e9);
    triangles.push_back(t);
  }
  return make_mesh(file.points(json, here), triangles);
}

Shape height_field(const JsonFile& file, const Json& json, const std::string& here) {
  file.only(json, here, {"columns", "rows", "spacing", "heights"});
  for (const char* key : {"columns", "rows", "spacing", "heights"})
    if (!json.contains(key)) file.fail(here, std::string("has no ") + key);
  if (!json["heights"].is_array()) file.fail(here + "/heights", "wants a list of numbers");
  const auto spacing = file.numbers(json["spacing"], here + "/spacing", 2);
  return make_height_field(file.whole(json["columns"], here + "/columns", 20000),
                           file.whole(json["rows"], here + "/rows", 20000), spacing[0], spacing[1],
                           file.numbers(json["heights"], here + "/heights", json["heights"].size()));
}

}  // namespace

Shape read_shape(const JsonFile& file, const Json& json, const std::string& place, const Models& models) {
  file.only(json, place, {"sphere", "box", "capsule", "cylinder", "cone", "hull", "compound", "mesh", "height_field"});
  if (json.size() != 1) file.fail(place, "wants one shape, such as {\"sphere\": {\"radius\": 0.5}}, got " + got(json));
  const std::string word = json.begin().key();
  const Json& inside = json.begin().value();
  const std::string here = place + "/" + word;
  if (word == "sphere") {
    file.only(inside, here, {"radius"});
    return Sphere{file.length(inside, here, "radius")};
  }
  if (word == "box") {
    file.only(inside, here, {"size"});
    if (!inside.contains("size")) file.fail(here, "has no size");
    return Box{file.vector(inside, here, "size", Vec3::Ones())};
  }
  try {
    if (word == "hull") {
      file.only(inside, here, {"points"});
      if (inside.contains("points") && inside["points"].size() > most_hull_points)
        file.fail(here, "has " + std::to_string(inside["points"].size()) + " points; a hull may have 5,000");
      return make_hull(file.points(inside, here));
    }
    if (word == "compound") return compound(file, inside, here, models);
    if (word == "mesh") return mesh(file, inside, here, models);
    if (word == "height_field") return height_field(file, inside, here);
  } catch (const PlacedError&) {
    throw;
  } catch (const Error& e) {
    file.fail(here, e.what());
  }
  const char* along = word == "capsule" ? "length" : "height";
  file.only(inside, here, {"radius", along});
  const double radius = file.length(inside, here, "radius"), length = file.length(inside, here, along);
  if (word == "capsule") return Capsule{radius, length};
  if (word == "cylinder") return Cylinder{radius, length};
  return Cone{radius, length};
}

}  // namespace bronvel
