// From scene.json to a Scene, or to one clear message.
#include "scene/read.h"

#include "geometry/compound.h"
#include "geometry/error.h"
#include "geometry/height_field.h"
#include "geometry/hull.h"
#include "geometry/mesh.h"
#include "scene/fault.h"
#include "scene/joint_axes.h"
#include "scene/json_place.h"
#include "scene/json_text.h"
#include "scene/names.h"
#include "scene/property.h"
#include "scene/schema.h"

namespace bronvel {
namespace {

// An error that already says where in the file.
class PlacedError : public Error {
  using Error::Error;
};

class Reader {
 public:
  Reader(const std::string& text, const std::string& file, const Models& models)
      : text_(text), file_(file), models_(models) {}

  Scene scene() {
    if (const auto fault = json_text_fault(text_))
      throw Error(file_ + ":" + std::to_string(line_at(fault->byte)), fault->what, fault->remedy);
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
    only(root, "",
         {"bronvel", "name", "about", "seed", "world", "view", "surfaces", "groups", "bodies", "joints", "zones",
          "paths", "cues", "actions", "sweep_away", "views", "stamps", "lanes", "tasks"});

    Scene s;
    s.models = models_;
    s.name = string(root, "", "name", s.name);
    s.about = string(root, "", "about", "");
    s.seed = static_cast<std::uint64_t>(number(root, "", "seed", 1, 0, 9e15));
    if (root.contains("world")) world(root["world"], s.world);
    if (root.contains("view")) view(root["view"], "/view", s.view);
    if (root.contains("views"))
      named(root["views"], "/views", s.views, [&](const Json& j, const std::string& p) { return named_view(j, p); });
    if (root.contains("surfaces"))
      for (const auto& [name, json] : object(root["surfaces"], "/surfaces").items())
        s.surfaces[name] = surface(json, "/surfaces/" + name);
    if (root.contains("groups")) {
      s.groups = name_list(root, "", "groups");
    }
    if (root.contains("lanes")) s.lanes = name_list(root, "", "lanes");
    if (root.contains("tasks")) s.tasks = name_list(root, "", "tasks");
    if (!root.contains("bodies")) fail("", "has no \"bodies\" list", "add \"bodies\": []");
    bodies(root["bodies"], "/bodies", s.bodies);
    if (root.contains("joints")) joints(root["joints"], "/joints", s.joints);
    if (root.contains("stamps"))
      named(root["stamps"], "/stamps", s.stamps, [&](const Json& j, const std::string& p) { return stamp(j, p); });
    if (root.contains("zones"))
      named(root["zones"], "/zones", s.zones, [&](const Json& j, const std::string& p) { return zone(j, p); });
    if (root.contains("paths"))
      named(root["paths"], "/paths", s.paths, [&](const Json& j, const std::string& p) { return path(j, p); });
    if (root.contains("cues"))
      named(root["cues"], "/cues", s.cues, [&](const Json& j, const std::string& p) { return cue(j, p); });
    if (root.contains("actions"))
      named(root["actions"], "/actions", s.actions, [&](const Json& j, const std::string& p) { return action(j, p); });
    if (root.contains("sweep_away")) s.sweep_away = sweep_away(root["sweep_away"]);
    if (const auto wrong = scene_fault(s)) {
      body_name_ = wrong->thing;
      fail(wrong->place, wrong->what, wrong->remedy);
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
    throw PlacedError(place, what, remedy);
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
    only(json, "/world",
         {"gravity", "tick_rate", "substeps", "restitution_speed", "rest_way", "air_density", "planar"});
    w.gravity = vector(json, "/world", "gravity", w.gravity);
    w.tick_rate = number(json, "/world", "tick_rate", w.tick_rate, 1, 10000);
    const double substeps = number(json, "/world", "substeps", w.substeps, 1, 64);
    if (substeps != std::floor(substeps)) fail("/world/substeps", "wants a whole number, got " + number_text(substeps));
    w.substeps = static_cast<int>(substeps);
    w.restitution_speed = number(json, "/world", "restitution_speed", w.restitution_speed, 0, 1e6);
    w.rest_way = number(json, "/world", "rest_way", w.rest_way, 0, 1);
    w.air_density = number(json, "/world", "air_density", w.air_density, 0, 1e6);
    w.planar = flag(json, "/world", "planar", w.planar);
  }

  std::vector<std::string> name_list(const Json& json, const std::string& place, const char* key) const {
    const Json& list = json[key];
    const bool good =
        list.is_array() && std::all_of(list.begin(), list.end(), [](const Json& j) { return j.is_string(); });
    if (!good) fail(place + "/" + key, "wants a list of names, got " + got(list));
    return list.get<std::vector<std::string>>();
  }

  std::vector<std::string> groups_of(const Json& json, const std::string& place, const char* key) const {
    if (!json.contains(key)) return {};
    return name_list(json, place, key);
  }

  std::string name_of(const Json& json, const std::string& place) const {
    if (!json.contains("name")) fail(place, "has no name");
    const std::string name = string(json, place, "name", "");
    if (const std::string fault = name_fault(name); !fault.empty()) fail(place + "/name", fault);
    return name;
  }

  // Takes every property that the JSON has.
  template <class Owner>
  void take(std::span<const PropertyOf<Owner>> properties, const Json& json, const std::string& place,
            Owner& owner) const {
    for (const PropertyOf<Owner>& p : properties) {
      if (!json.contains(p.name)) continue;
      const std::string here = place + "/" + p.name;
      const Value v = value(p, json[p.name], here);
      const std::string fault =
          std::holds_alternative<std::monostate>(v) ? value_fault(plain(p), v) : value_fault(p, v);
      if (!fault.empty())
        fail(here, std::holds_alternative<std::monostate>(v)
                       ? fault.substr(0, fault.rfind(", got")) + ", got " + got(json[p.name])
                       : fault);
      p.set(owner, v);
    }
  }

  // The property as one that must have a value: a file either gives one or leaves the name out.
  static PropertyInfo plain(PropertyInfo p) {
    if (p.kind == PropertyKind::optional_number) p.kind = PropertyKind::number;
    if (p.kind == PropertyKind::optional_vector) p.kind = PropertyKind::vector;
    return p;
  }

  void joints(const Json& json, const std::string& place, std::vector<SceneJoint>& all) {
    if (!json.is_array()) fail(place, "wants a list [ … ], got " + got(json));
    for (std::size_t i = 0; i < json.size(); ++i) all.push_back(joint(json[i], place + "/" + std::to_string(i)));
  }

  SceneJoint joint(const Json& json, const std::string& place) {
    object(json, place);
    body_name_ = json.contains("name") && json["name"].is_string() ? json["name"].get<std::string>() : "";
    std::vector<std::string> known{"name", "axes", "stamped"};
    for (const JointProperty& p : joint_properties()) known.push_back(p.name);
    only(json, place, known);
    SceneJoint j;
    j.name = name_of(json, place);
    take(joint_properties(), json, place, j);
    if (!json.contains("b")) fail(place, "has no \"b\", the body that it holds");
    for (const char* end : {"a", "b"}) static_cast<void>(string(json, place, end, ""));
    if (json.contains("axes")) axes(json["axes"], place + "/axes", j);
    if (json.contains("stamped")) j.stamped = stamped(json["stamped"], place + "/stamped");
    body_name_.clear();
    return j;
  }

  void axes(const Json& json, const std::string& place, SceneJoint& j) const {
    only(json, place, {axis_names.begin(), axis_names.end()});
    for (std::size_t i = 0; i < 6; ++i) {
      if (!json.contains(axis_names[i])) continue;
      const Json& one = json[axis_names[i]];
      const std::string here = place + "/" + axis_names[i];
      std::vector<std::string> known{"freedom"};
      for (const AxisNumber& n : axis_numbers) known.emplace_back(n.name);
      only(one, here, known);
      const std::string word = string(one, here, "freedom", "free");
      const auto found = std::find(freedom_words.begin(), freedom_words.end(), word);
      if (found == freedom_words.end())
        fail(here + "/freedom", "wants one of locked, limited, free, got \"" + word + "\"");
      j.axes[i].freedom = static_cast<Freedom>(found - freedom_words.begin());
      for (const AxisNumber& n : axis_numbers) j.axes[i].*n.field = number(one, here, n.name, 0, n.low, 1e15);
    }
  }

  // A list of things whose names differ among themselves.
  template <class Thing, class ReadOne>
  void named(const Json& json, const std::string& place, std::vector<Thing>& all, const ReadOne& read_one) {
    if (!json.is_array()) fail(place, "wants a list [ … ], got " + got(json));
    for (std::size_t i = 0; i < json.size(); ++i) {
      const std::string here = place + "/" + std::to_string(i);
      object(json[i], here);
      body_name_ = json[i].contains("name") && json[i]["name"].is_string() ? json[i]["name"].get<std::string>() : "";
      all.push_back(read_one(json[i], here));
      body_name_.clear();
    }
  }

  SceneZone zone(const Json& json, const std::string& place) const {
    std::vector<std::string> known{"name", "shape", "tags"};
    for (const ZoneProperty& p : zone_properties()) known.push_back(p.name);
    only(json, place, known);
    SceneZone z;
    z.name = name_of(json, place);
    if (!json.contains("shape")) fail(place, "has no shape");
    z.shape = shape(object(json["shape"], place + "/shape"), place + "/shape");
    if (json.contains("tags")) z.tags = name_list(json, place, "tags");
    take(zone_properties(), json, place, z);
    return z;
  }

  ScenePath path(const Json& json, const std::string& place) const {
    only(json, place, {"name", "points", "smooth", "closed"});
    ScenePath p;
    p.name = name_of(json, place);
    p.points = points(json, place);
    p.smooth = flag(json, place, "smooth", p.smooth);
    p.closed = flag(json, place, "closed", p.closed);
    return p;
  }

  Cue cue(const Json& json, const std::string& place) const {
    only(json, place, {"name", "at", "every", "beats_per_minute", "times"});
    Cue c;
    c.name = name_of(json, place);
    c.at = number(json, place, "at", 0, 0, 1e6);
    c.every = number(json, place, "every", 0, 0, 1e6);
    if (json.contains("beats_per_minute")) {
      if (json.contains("every")) fail(place + "/beats_per_minute", "and every are both given", "keep one of them");
      c.every = 60 / number(json, place, "beats_per_minute", 60, 0, 6000, true);
    }
    if (json.contains("times")) c.times = static_cast<int>(whole(json["times"], place + "/times", 1e9));
    return c;
  }

  Action action(const Json& json, const std::string& place) const {
    only(json, place, {"name", "keys", "against"});
    Action a;
    a.name = name_of(json, place);
    for (const char* list : {"keys", "against"}) {
      if (!json.contains(list)) continue;
      (list[0] == 'k' ? a.keys : a.against) = name_list(json, place, list);
    }
    return a;
  }

  SweepAway sweep_away(const Json& json) const {
    only(json, "/sweep_away", {"below", "then"});
    SweepAway s;
    s.below = number(json, "/sweep_away", "below", s.below, -1e6, 1e6);
    const std::string then = string(json, "/sweep_away", "then", "back");
    if (then != "back" && then != "remove") fail("/sweep_away/then", "wants one of back, remove, got \"" + then + "\"");
    s.bring_back = then == "back";
    return s;
  }

  bool flag(const Json& json, const std::string& place, const char* key, bool otherwise) const {
    if (!json.contains(key)) return otherwise;
    if (!json[key].is_boolean()) fail(place + "/" + key, "wants true or false, got " + got(json[key]));
    return json[key].get<bool>();
  }

  void view(const Json& json, const std::string& place, View& v) const {
    only(json, place, {"target", "distance", "turn", "tilt", "straight"});
    v.target = vector(json, place, "target", v.target);
    v.distance = number(json, place, "distance", v.distance, 0, 1e7, true);
    v.turn = number(json, place, "turn", v.turn, -1e300, 1e300);
    v.tilt = number(json, place, "tilt", v.tilt, -90, 90);
    v.straight = flag(json, place, "straight", v.straight);
  }

  SceneSurface surface(const Json& json, const std::string& place) const {
    only(json, place,
         {"static_friction", "dynamic_friction", "rolling_friction", "restitution", "friction_combine",
          "restitution_combine", "voice", "pitch_spread", "loudness_spread"});
    SceneSurface s;
    s.static_friction = number(json, place, "static_friction", s.static_friction, 0, 10);
    s.dynamic_friction = number(json, place, "dynamic_friction", s.dynamic_friction, 0, 10);
    s.rolling_friction = number(json, place, "rolling_friction", s.rolling_friction, 0, 10);
    s.restitution = number(json, place, "restitution", s.restitution, 0, 1);
    s.friction_combine = rule(json, place, "friction_combine");
    s.restitution_combine = rule(json, place, "restitution_combine");
    s.voice = string(json, place, "voice", "");
    s.pitch_spread = number(json, place, "pitch_spread", s.pitch_spread, 0, 1);
    s.loudness_spread = number(json, place, "loudness_spread", s.loudness_spread, 0, 1);
    return s;
  }

  double needed(const Json& json, const std::string& place, const char* key) const {
    if (!json.contains(key)) fail(place, std::string("has no ") + key);
    return number(json, place, key, 1, 0, 1e6, true);
  }

  void bodies(const Json& json, const std::string& place, std::vector<Body>& all) {
    if (!json.is_array()) fail(place, "wants a list [ … ], got " + got(json));
    for (std::size_t i = 0; i < json.size(); ++i) all.push_back(body(json[i], place + "/" + std::to_string(i)));
  }

  Stamp stamp(const Json& json, const std::string& place) {
    only(json, place, {"name", "bodies", "joints"});
    Stamp made;
    made.name = name_of(json, place);
    if (!json.contains("bodies")) fail(place, "has no \"bodies\" list");
    bodies(json["bodies"], place + "/bodies", made.bodies);
    if (json.contains("joints")) joints(json["joints"], place + "/joints", made.joints);
    return made;
  }

  NamedView named_view(const Json& json, const std::string& place) const {
    only(json, place, {"name", "view"});
    NamedView made;
    made.name = string(json, place, "name", "");
    if (made.name.empty()) fail(place, "has no name");
    if (!json.contains("view")) fail(place, "has no view");
    view(json["view"], place + "/view", made.view);
    return made;
  }

  StampedFrom stamped(const Json& json, const std::string& place) const {
    only(json, place, {"stamp", "copy", "part"});
    return {string(json, place, "stamp", ""), string(json, place, "copy", ""), string(json, place, "part", "")};
  }

  Looks looks(const Json& json, const std::string& place) const {
    only(json, place, {"model", "position", "orientation", "scale"});
    Looks made;
    made.model = string(json, place, "model", "");
    made.pose.position = vector(json, place, "position", Vec3::Zero());
    if (json.contains("orientation")) {
      const auto q = numbers(json["orientation"], place + "/orientation", 4);
      made.pose.orientation = Quat(q[3], q[0], q[1], q[2]);
      if (std::abs(made.pose.orientation.norm() - 1) > 1e-6) fail(place + "/orientation", "wants a unit quaternion");
    }
    made.scale = number(json, place, "scale", 1, 0, 1e6, true);
    return made;
  }

  Shape shape(const Json& json, const std::string& place) const {
    only(json, place, {"sphere", "box", "capsule", "cylinder", "cone", "hull", "compound", "mesh", "height_field"});
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
    try {
      if (word == "hull") {
        only(inside, here, {"points"});
        if (inside.contains("points") && inside["points"].size() > most_hull_points)
          fail(here, "has " + std::to_string(inside["points"].size()) + " points; a hull may have 5,000");
        return make_hull(points(inside, here));
      }
      if (word == "compound") return compound(inside, here);
      if (word == "mesh") return mesh(inside, here);
      if (word == "height_field") return height_field(inside, here);
    } catch (const PlacedError&) {
      throw;
    } catch (const Error& e) {
      fail(here, e.what());
    }
    const char* along = word == "capsule" ? "length" : "height";
    only(inside, here, {"radius", along});
    const double radius = needed(inside, here, "radius"), length = needed(inside, here, along);
    if (word == "capsule") return Capsule{radius, length};
    if (word == "cylinder") return Cylinder{radius, length};
    return Cone{radius, length};
  }

  std::vector<Vec3> points(const Json& json, const std::string& here) const {
    if (!json.contains("points") || !json["points"].is_array()) fail(here, "wants a list of points");
    std::vector<Vec3> all;
    for (std::size_t i = 0; i < json["points"].size(); ++i) {
      const auto n = numbers(json["points"][i], here + "/points/" + std::to_string(i), 3);
      all.emplace_back(n[0], n[1], n[2]);
    }
    return all;
  }

  std::uint32_t whole(const Json& json, const std::string& here, double most) const {
    const bool good = json.is_number() && json.get<double>() >= 0 && json.get<double>() <= most &&
                      json.get<double>() == std::floor(json.get<double>());
    if (!good) fail(here, "wants a whole number from 0 to " + number_text(most) + ", got " + got(json));
    return json.get<std::uint32_t>();
  }

  Shape compound(const Json& json, const std::string& here) const {
    only(json, here, {"parts"});
    if (!json.contains("parts") || !json["parts"].is_array()) fail(here, "wants a list of parts");
    std::vector<Part> parts;
    for (std::size_t i = 0; i < json["parts"].size(); ++i) {
      const Json& one = json["parts"][i];
      const std::string place = here + "/parts/" + std::to_string(i);
      only(one, place, {"shape", "position", "orientation", "density"});
      if (!one.contains("shape")) fail(place, "has no shape");
      Part part;
      part.shape = shape(object(one["shape"], place + "/shape"), place + "/shape");
      part.pose.position = vector(one, place, "position", Vec3::Zero());
      if (one.contains("orientation")) {
        const auto q = numbers(one["orientation"], place + "/orientation", 4);
        part.pose.orientation = Quat(q[3], q[0], q[1], q[2]);
      }
      part.density = number(one, place, "density", 1, 0, 1e9, true);
      parts.push_back(part);
    }
    return make_compound(parts);
  }

  Shape mesh(const Json& json, const std::string& here) const {
    only(json, here, {"points", "triangles", "model"});
    if (json.contains("model")) {
      const std::string name = string(json, here, "model", "");
      const auto found = models_.find(name);
      if (found == models_.end())
        fail(here + "/model", "names \"" + name + "\", but there is no meshes/" + name + ".obj");
      return make_mesh(found->second->points, found->second->triangles);
    }
    if (!json.contains("triangles") || !json["triangles"].is_array()) fail(here, "wants a list of triangles");
    std::vector<std::array<std::uint32_t, 3>> triangles;
    for (std::size_t i = 0; i < json["triangles"].size(); ++i) {
      const std::string place = here + "/triangles/" + std::to_string(i);
      static_cast<void>(numbers(json["triangles"][i], place, 3));
      std::array<std::uint32_t, 3> t{};
      for (std::size_t k = 0; k < 3; ++k) t[k] = whole(json["triangles"][i][k], place, 4e9);
      triangles.push_back(t);
    }
    return make_mesh(points(json, here), triangles);
  }

  Shape height_field(const Json& json, const std::string& here) const {
    only(json, here, {"columns", "rows", "spacing", "heights"});
    for (const char* key : {"columns", "rows", "spacing", "heights"})
      if (!json.contains(key)) fail(here, std::string("has no ") + key);
    if (!json["heights"].is_array()) fail(here + "/heights", "wants a list of numbers");
    const auto spacing = numbers(json["spacing"], here + "/spacing", 2);
    return make_height_field(whole(json["columns"], here + "/columns", 20000),
                             whole(json["rows"], here + "/rows", 20000), spacing[0], spacing[1],
                             numbers(json["heights"], here + "/heights", json["heights"].size()));
  }

  Value value(const PropertyInfo& p, const Json& json, const std::string& here) const {
    if (p.kind == PropertyKind::vector || p.kind == PropertyKind::optional_vector) {
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

  Body body(const Json& json, const std::string& place) {
    object(json, place);
    body_name_ = json.contains("name") && json["name"].is_string() ? json["name"].get<std::string>() : "";
    std::vector<std::string> known{"name",    "shape", "density", "groups",  "meets",        "colour",    "tags",
                                   "scripts", "looks", "locked",  "stamped", "break_planes", "held_parts"};
    for (const Property& p : body_properties()) known.push_back(p.name);
    only(json, place, known);
    if (!json.contains("shape")) fail(place, "has no shape");

    Body b;
    b.name = name_of(json, place);
    b.shape = shape(object(json["shape"], place + "/shape"), place + "/shape");
    if (const auto fault = shape_fault(b.shape)) fail(place + "/shape", *fault);
    if (json.contains("density")) {
      if (json.contains("mass")) fail(place + "/density", "and mass are both given", "keep one of them");
      b.mass = shape_volume(b.shape) * number(json, place, "density", 1000, 0, 1e9, true);
    }
    take(body_properties(), json, place, b);
    b.colour = string(json, place, "colour", b.colour);
    if (json.contains("tags")) b.tags = name_list(json, place, "tags");
    b.groups = groups_of(json, place, "groups");
    b.meets = groups_of(json, place, "meets");
    if (json.contains("scripts")) scripts(json["scripts"], place + "/scripts", b);
    if (json.contains("looks")) b.looks = looks(json["looks"], place + "/looks");
    if (json.contains("locked")) {
      if (!json["locked"].is_boolean()) fail(place + "/locked", "wants true or false, got " + got(json["locked"]));
      b.locked = json["locked"].get<bool>();
    }
    if (json.contains("stamped")) b.stamped = stamped(json["stamped"], place + "/stamped");
    breaking(json, place, b);
    body_name_.clear();
    return b;
  }

  void breaking(const Json& json, const std::string& place, Body& b) const {
    if (json.contains("break_planes")) {
      const Json& list = json["break_planes"];
      if (!list.is_array()) fail(place + "/break_planes", "wants a list [ … ], got " + got(list));
      for (std::size_t i = 0; i < list.size(); ++i) {
        const std::string here = place + "/break_planes/" + std::to_string(i);
        only(list[i], here, {"normal", "offset"});
        const Vec3 normal = vector(list[i], here, "normal", Vec3::Zero());
        if (std::abs(normal.norm() - 1) > 1e-6) fail(here + "/normal", "wants a direction of length 1");
        b.breaking.planes.push_back({normal, number(list[i], here, "offset", 0, -1e6, 1e6)});
      }
    }
    if (json.contains("held_parts")) {
      if (!json["held_parts"].is_array()) fail(place + "/held_parts", "wants a list of numbers of pieces");
      for (const Json& part : json["held_parts"])
        b.breaking.held_parts.push_back(whole(part, place + "/held_parts", 5000));
    }
  }

  void scripts(const Json& json, const std::string& place, Body& b) const {
    if (!json.is_array()) fail(place, "wants a list [ … ], got " + got(json));
    for (std::size_t i = 0; i < json.size(); ++i) {
      const std::string here = place + "/" + std::to_string(i);
      only(json[i], here, {"file", "dials"});
      ScriptUse use;
      use.file = string(json[i], here, "file", "");
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
  const Models& models_;
  std::string body_name_;
};

}  // namespace

Scene read_scene(const std::string& text, const std::string& file, const Models& models) {
  return Reader(text, file, models).scene();
}

}  // namespace bronvel
