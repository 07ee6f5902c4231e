// From scene.json to a Scene, or to one clear message.
#include "scene/read.h"

#include <set>

#include "geometry/error.h"
#include "geometry/hull.h"
#include "scene/json_text.h"
#include "scene/property.h"
#include "scene/schema.h"

namespace bronvel {
namespace {

class Reader {
 public:
  Reader(const std::string& text, const std::string& file) : text_(text), file_(file) {}

  Scene scene() {
    Json root;
    try {
      root = Json::parse(text_);
    } catch (const Json::parse_error& e) {
      throw Error(file_ + ":" + std::to_string(line_at(e.byte)), "is not JSON: " + plain_reason(e.what()),
                  "NaN, comments and trailing commas are not JSON either");
    } catch (const Json::out_of_range& e) {
      throw Error(file_, "has a number that is too large to read");
    }
    if (!root.is_object()) fail("", "wants an object { … } at the top, got " + got(root));
    if (!root.contains("bronvel"))
      fail("", "has no \"bronvel\" number, so it is not a Bronvel scene", "add \"bronvel\": 1");
    if (root["bronvel"].is_number() && root["bronvel"].get<double>() > scene_version)
      fail("/bronvel",
           "was written by a newer Bronvel (format " + root["bronvel"].dump() + ", this one reads up to " +
               std::to_string(scene_version) + ")",
           "open it with that version");
    only(root, "", {"bronvel", "name", "about", "seed", "world", "view", "surfaces", "bodies"});

    Scene s;
    s.name = string(root, "", "name", s.name);
    s.about = string(root, "", "about", "");
    s.seed = static_cast<std::uint64_t>(number(root, "", "seed", 1, 0, 9e15));
    if (root.contains("world")) world(root["world"], s.world);
    if (root.contains("view")) view(root["view"], s.view);
    if (root.contains("surfaces"))
      for (const auto& [name, json] : object(root["surfaces"], "/surfaces").items())
        s.surfaces[name] = surface(json, "/surfaces/" + name);
    if (!root.contains("bodies")) fail("", "has no \"bodies\" list", "add \"bodies\": []");
    if (!root["bodies"].is_array()) fail("/bodies", "wants a list [ … ], got " + got(root["bodies"]));
    std::set<std::string> names;
    for (std::size_t i = 0; i < root["bodies"].size(); ++i) {
      const std::string place = "/bodies/" + std::to_string(i);
      s.bodies.push_back(body(root["bodies"][i], place, s));
      if (!names.insert(s.bodies.back().name).second)
        fail(place + "/name", "is the name of two bodies", "names must differ");
    }
    // What the reader lets through must fit the published schema too.
    const std::string fault = schema_fault(root);
    if (!fault.empty()) fail(fault.substr(0, fault.find(": ")), fault.substr(fault.find(": ") + 2));
    return s;
  }

 private:
  [[noreturn]] void fail(const std::string& pointer, const std::string& what, const std::string& remedy = "") const {
    std::string place = file_ + ":" + std::to_string(line_of(text_, pointer));
    if (!pointer.empty()) place += ": " + readable_place(pointer);
    if (!body_name_.empty()) place += " (" + body_name_ + ")";
    throw Error(place, what, remedy);
  }

  int line_at(std::size_t byte) const {
    return 1 + static_cast<int>(std::count(
                   text_.begin(), text_.begin() + static_cast<std::ptrdiff_t>(std::min(byte, text_.size())), '\n'));
  }

  static std::string plain_reason(const std::string& what) {
    const auto cut = what.find("syntax error");
    return cut == std::string::npos ? what : what.substr(cut);
  }

  static std::string got(const Json& json) {
    std::string text = json.dump();
    if (text.size() > 40) text = text.substr(0, 37) + "...";
    return text;
  }

  const Json& object(const Json& json, const std::string& place) const {
    if (!json.is_object()) fail(place, "wants an object { … }, got " + got(json));
    return json;
  }

  void only(const Json& json, const std::string& place, const std::vector<std::string>& known) const {
    for (const auto& [key, value] : object(json, place).items()) {
      if (std::find(known.begin(), known.end(), key) != known.end()) continue;
      std::string list;
      for (const std::string& k : known) list += (list.empty() ? "" : ", ") + k;
      fail(place + "/" + key, "is not a name known here", "known: " + list);
    }
  }

  std::string string(const Json& json, const std::string& place, const char* key, const std::string& otherwise) const {
    if (!json.contains(key)) return otherwise;
    if (!json[key].is_string()) fail(place + "/" + key, "wants a text in quotes, got " + got(json[key]));
    return json[key].get<std::string>();
  }

  double number(const Json& json, const std::string& place, const char* key, double otherwise, double low, double high,
                bool low_open = false) const {
    if (!json.contains(key)) return otherwise;
    const std::string here = place + "/" + key;
    Property range;
    range.low = low;
    range.high = high;
    range.low_open = low_open;
    const Value value = json[key].is_number() ? Value(json[key].get<double>()) : Value();
    const std::string fault = value_fault(range, value);
    if (!fault.empty()) fail(here, json[key].is_number() ? fault : "wants a number, got " + got(json[key]));
    return json[key].get<double>();
  }

  std::vector<double> numbers(const Json& json, const std::string& here, std::size_t count) const {
    const bool good = json.is_array() && json.size() == count &&
                      std::all_of(json.begin(), json.end(), [](const Json& j) { return j.is_number(); });
    if (!good) fail(here, "wants " + std::to_string(count) + " numbers [ … ], got " + got(json));
    return json.get<std::vector<double>>();
  }

  Vec3 vector(const Json& json, const std::string& place, const char* key, const Vec3& otherwise) const {
    if (!json.contains(key)) return otherwise;
    const auto n = numbers(json[key], place + "/" + key, 3);
    return {n[0], n[1], n[2]};
  }

  Combine rule(const Json& json, const std::string& place, const char* key) const {
    const std::string word = string(json, place, key, "average");
    const auto found = combine_from_word(word);
    if (!found) fail(place + "/" + key, "wants one of average, minimum, maximum, multiply, got " + got(json[key]));
    return *found;
  }

  void world(const Json& json, WorldSettings& w) const {
    only(json, "/world", {"gravity", "tick_rate", "substeps", "restitution_speed", "air_density"});
    w.gravity = vector(json, "/world", "gravity", w.gravity);
    w.tick_rate = number(json, "/world", "tick_rate", w.tick_rate, 1, 10000);
    const double substeps = number(json, "/world", "substeps", w.substeps, 1, 64);
    if (substeps != std::floor(substeps)) fail("/world/substeps", "wants a whole number, got " + number_text(substeps));
    w.substeps = static_cast<int>(substeps);
    w.restitution_speed = number(json, "/world", "restitution_speed", w.restitution_speed, 0, 1e6);
    w.air_density = number(json, "/world", "air_density", w.air_density, 0, 1e6);
  }

  void view(const Json& json, View& v) const {
    only(json, "/view", {"target", "distance", "turn", "tilt"});
    v.target = vector(json, "/view", "target", v.target);
    v.distance = number(json, "/view", "distance", v.distance, 0, 1e7, true);
    v.turn = number(json, "/view", "turn", v.turn, -1e300, 1e300);
    v.tilt = number(json, "/view", "tilt", v.tilt, -90, 90);
  }

  Surface surface(const Json& json, const std::string& place) const {
    only(json, place,
         {"static_friction", "dynamic_friction", "rolling_friction", "restitution", "friction_combine",
          "restitution_combine"});
    Surface s;
    s.static_friction = number(json, place, "static_friction", s.static_friction, 0, 10);
    s.dynamic_friction = number(json, place, "dynamic_friction", s.dynamic_friction, 0, 10);
    s.rolling_friction = number(json, place, "rolling_friction", s.rolling_friction, 0, 10);
    s.restitution = number(json, place, "restitution", s.restitution, 0, 1);
    s.friction_combine = rule(json, place, "friction_combine");
    s.restitution_combine = rule(json, place, "restitution_combine");
    return s;
  }

  double needed(const Json& json, const std::string& place, const char* key) const {
    if (!json.contains(key)) fail(place, std::string("has no ") + key);
    return number(json, place, key, 1, 0, 1e6, true);
  }

  Shape shape(const Json& json, const std::string& place) const {
    only(json, place, {"sphere", "box", "capsule", "cylinder", "cone", "hull"});
    if (json.size() != 1) fail(place, "wants one shape, such as {\"sphere\": {\"radius\": 0.5}}, got " + got(json));
    const std::string word = json.begin().key();
    const Json& inside = json.begin().value();
    const std::string here = place + "/" + word;
    if (word == "sphere") {
      only(inside, here, {"radius"});
      return Sphere{needed(inside, here, "radius")};
    }
    if (word == "box") {
      only(inside, here, {"size"});
      if (!inside.contains("size")) fail(here, "has no size");
      return Box{vector(inside, here, "size", Vec3::Ones())};
    }
    if (word == "hull") {
      only(inside, here, {"points"});
      if (!inside.contains("points") || !inside["points"].is_array()) fail(here, "wants a list of points");
      std::vector<Vec3> points;
      for (std::size_t i = 0; i < inside["points"].size(); ++i) {
        const auto n = numbers(inside["points"][i], here + "/points/" + std::to_string(i), 3);
        points.emplace_back(n[0], n[1], n[2]);
      }
      try {
        return make_hull(points);
      } catch (const Error& e) {
        fail(here, e.what());
      }
    }
    const char* along = word == "capsule" ? "length" : "height";
    only(inside, here, {"radius", along});
    const double radius = needed(inside, here, "radius"), length = needed(inside, here, along);
    if (word == "capsule") return Capsule{radius, length};
    if (word == "cylinder") return Cylinder{radius, length};
    return Cone{radius, length};
  }

  Value value(const Property& p, const Json& json, const std::string& here) const {
    if (p.kind == PropertyKind::vector) {
      const auto n = numbers(json, here, 3);
      return Vec3(n[0], n[1], n[2]);
    }
    if (p.kind == PropertyKind::rotation) {
      const auto n = numbers(json, here, 4);
      return Quat(n[3], n[0], n[1], n[2]);
    }
    if (json.is_number()) return json.get<double>();
    if (json.is_boolean()) return json.get<bool>();
    if (json.is_string()) return json.get<std::string>();
    return {};
  }

  Body body(const Json& json, const std::string& place, const Scene& s) {
    object(json, place);
    body_name_ = json.contains("name") && json["name"].is_string() ? json["name"].get<std::string>() : "";
    std::vector<std::string> known{"name", "shape", "density", "colour", "tags", "scripts"};
    for (const Property& p : body_properties()) known.push_back(p.name);
    only(json, place, known);
    if (!json.contains("name")) fail(place, "has no name");
    if (!json.contains("shape")) fail(place, "has no shape");

    Body b;
    b.name = string(json, place, "name", "");
    if (b.name.empty() || std::isdigit(static_cast<unsigned char>(b.name[0])) != 0 ||
        b.name.find_first_not_of("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789_") !=
            std::string::npos)
      fail(place + "/name", "wants letters, digits and _, not starting with a digit, got " + got(json["name"]));
    b.shape = shape(object(json["shape"], place + "/shape"), place + "/shape");
    if (const auto fault = shape_fault(b.shape)) fail(place + "/shape", *fault);
    if (json.contains("density")) {
      if (json.contains("mass")) fail(place + "/density", "and mass are both given", "keep one of them");
      b.mass = shape_volume(b.shape) * number(json, place, "density", 1000, 0, 1e9, true);
    }
    for (const Property& p : body_properties()) {
      if (!json.contains(p.name)) continue;
      const std::string here = place + "/" + p.name;
      const Value v = value(p, json[p.name], here);
      const std::string fault = value_fault(p, v);
      if (!fault.empty())
        fail(here, std::holds_alternative<std::monostate>(v)
                       ? fault.substr(0, fault.rfind(", got")) + ", got " + got(json[p.name])
                       : fault);
      p.set(b, v);
    }
    if (!b.surface.empty() && !s.surfaces.contains(b.surface))
      fail(place + "/surface", "names \"" + b.surface + "\", which is not among the scene's surfaces");
    b.colour = string(json, place, "colour", b.colour);
    if (b.colour.size() != 7 || b.colour[0] != '#' ||
        b.colour.find_first_not_of("0123456789abcdefABCDEF", 1) != std::string::npos)
      fail(place + "/colour", "wants a colour like \"#B98B52\", got " + got(json["colour"]));
    if (json.contains("tags")) {
      const bool good = json["tags"].is_array() && std::all_of(json["tags"].begin(), json["tags"].end(),
                                                               [](const Json& j) { return j.is_string(); });
      if (!good) fail(place + "/tags", "wants a list of names, got " + got(json["tags"]));
      b.tags = json["tags"].get<std::vector<std::string>>();
    }
    if (json.contains("scripts")) scripts(json["scripts"], place + "/scripts", b);
    if (const auto fault = body_fault(settings_of(s, b), motion_of(b))) fail(place, *fault);
    body_name_.clear();
    return b;
  }

  void scripts(const Json& json, const std::string& place, Body& b) const {
    if (!json.is_array()) fail(place, "wants a list [ … ], got " + got(json));
    for (std::size_t i = 0; i < json.size(); ++i) {
      const std::string here = place + "/" + std::to_string(i);
      only(json[i], here, {"file", "dials"});
      ScriptUse use;
      use.file = string(json[i], here, "file", "");
      if (use.file.size() < 5 || !use.file.ends_with(".lua") || use.file.find('/') != std::string::npos)
        fail(here + "/file", "wants the name of a .lua file in scripts/, got " +
                                 got(json[i].contains("file") ? json[i]["file"] : Json()));
      if (json[i].contains("dials"))
        for (const auto& [name, setting] : object(json[i]["dials"], here + "/dials").items()) {
          if (!setting.is_number()) fail(here + "/dials/" + name, "wants a number, got " + got(setting));
          use.dials[name] = setting.get<double>();
        }
      b.scripts.push_back(use);
    }
  }

  const std::string& text_;
  const std::string& file_;
  std::string body_name_;
};

}  // namespace

Scene read_scene(const std::string& text, const std::string& file) {
  return Reader(text, file).scene();
}

}  // namespace bronvel
