// From scene.json to a Scene, or to one clear message.
#include "scene/files/read.h"

#include "scene/document/joint_axes.h"
#include "scene/files/fault.h"
#include "scene/files/read_shape.h"
#include "scene/files/schema.h"
#include "scene/properties/property.h"

namespace bronvel {
namespace {

class Reader {
 public:
  Reader(const std::string& text, const std::string& name, const Models& models) : file_(text, name), models_(models) {}

  Scene scene() {
    const Json root = file_.root();
    if (!root.is_object()) file_.fail("", "wants an object { … } at the top, got " + got(root));
    if (!root.contains("bronvel"))
      file_.fail("", "has no \"bronvel\" number, so it is not a Bronvel scene", "add \"bronvel\": 1");
    if (root["bronvel"].is_number() && root["bronvel"].get<double>() > scene_version)
      file_.fail("/bronvel",
                 "was written by a newer Bronvel (format " + root["bronvel"].dump() + ", this one reads up to " +
                     std::to_string(scene_version) + ")",
                 "open it with that version");
    file_.only(root, "", {"bronvel",    "name",   "about",  "seed",  "world", "view",  "surfaces",
                          "groups",     "bodies", "joints", "zones", "paths", "cues",  "actions",
                          "sweep_away", "views",  "stamps", "lanes", "tasks", "checks"});

    Scene s;
    s.models = models_;
    s.name = file_.string(root, "", "name", s.name);
    s.about = file_.string(root, "", "about", "");
    s.seed = static_cast<std::uint64_t>(file_.number(root, "", "seed", 1, 0, 9e15));
    if (root.contains("world")) take_only(world_properties(), root["world"], "/world", s.world);
    if (root.contains("view")) view(root["view"], "/view", s.view);
    if (root.contains("views"))
      named(root["views"], "/views", s.views, [&](const Json& j, const std::string& p) { return named_view(j, p); });
    if (root.contains("surfaces"))
      for (const auto& [name, json] : file_.object(root["surfaces"], "/surfaces").items())
        take_only(surface_properties(), json, "/surfaces/" + name, s.surfaces[name]);
    if (root.contains("groups")) {
      s.groups = file_.name_list(root, "", "groups");
    }
    if (root.contains("lanes")) s.lanes = file_.name_list(root, "", "lanes");
    if (root.contains("tasks")) s.tasks = file_.name_list(root, "", "tasks");
    if (!root.contains("bodies")) file_.fail("", "has no \"bodies\" list", "add \"bodies\": []");
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
    if (root.contains("checks")) checks(root["checks"], s.checks);
    if (const auto wrong = scene_fault(s)) {
      file_.speak_of(wrong->thing);
      file_.fail(wrong->place, wrong->what, wrong->remedy);
    }
    // What the reader lets through must fit the published schema too.
    const std::string fault = schema_fault(root);
    if (!fault.empty()) file_.fail(fault.substr(0, fault.find(": ")), fault.substr(fault.find(": ") + 2));
    return s;
  }

 private:
  // Messages from now on are about this thing.
  void speak_of(const Json& thing) {
    const bool named = thing.contains("name") && thing["name"].is_string();
    file_.speak_of(named ? thing["name"].get<std::string>() : "");
  }

  std::vector<std::string> groups_of(const Json& json, const std::string& place, const char* key) const {
    if (!json.contains(key)) return {};
    return file_.name_list(json, place, key);
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
        file_.fail(here, std::holds_alternative<std::monostate>(v)
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
    if (!json.is_array()) file_.fail(place, "wants a list [ … ], got " + got(json));
    for (std::size_t i = 0; i < json.size(); ++i) all.push_back(joint(json[i], place + "/" + std::to_string(i)));
  }

  SceneJoint joint(const Json& json, const std::string& place) {
    file_.object(json, place);
    speak_of(json);
    std::vector<std::string> known{"name", "axes", "stamped"};
    for (const JointProperty& p : joint_properties()) known.push_back(p.name);
    file_.only(json, place, known);
    SceneJoint j;
    j.name = file_.name_of(json, place);
    take(joint_properties(), json, place, j);
    if (!json.contains("b")) file_.fail(place, "has no \"b\", the body that it holds");
    for (const char* end : {"a", "b"}) static_cast<void>(file_.string(json, place, end, ""));
    if (json.contains("axes")) axes(json["axes"], place + "/axes", j);
    if (json.contains("stamped")) j.stamped = stamped(json["stamped"], place + "/stamped");
    file_.speak_of("");
    return j;
  }

  void axes(const Json& json, const std::string& place, SceneJoint& j) const {
    file_.only(json, place, {axis_names.begin(), axis_names.end()});
    for (std::size_t i = 0; i < 6; ++i) {
      if (!json.contains(axis_names[i])) continue;
      const Json& one = json[axis_names[i]];
      const std::string here = place + "/" + axis_names[i];
      std::vector<std::string> known{"freedom"};
      for (const AxisNumber& n : axis_numbers) known.emplace_back(n.name);
      file_.only(one, here, known);
      const std::string word = file_.string(one, here, "freedom", "free");
      const auto found = std::find(freedom_words.begin(), freedom_words.end(), word);
      if (found == freedom_words.end())
        file_.fail(here + "/freedom", "wants one of locked, limited, free, got \"" + word + "\"");
      j.axes[i].freedom = static_cast<Freedom>(found - freedom_words.begin());
      for (const AxisNumber& n : axis_numbers) j.axes[i].*n.field = file_.number(one, here, n.name, 0, n.low, 1e15);
    }
  }

  // A list of things whose names differ among themselves.
  template <class Thing, class ReadOne>
  void named(const Json& json, const std::string& place, std::vector<Thing>& all, const ReadOne& read_one) {
    if (!json.is_array()) file_.fail(place, "wants a list [ … ], got " + got(json));
    for (std::size_t i = 0; i < json.size(); ++i) {
      const std::string here = place + "/" + std::to_string(i);
      file_.object(json[i], here);
      speak_of(json[i]);
      all.push_back(read_one(json[i], here));
      file_.speak_of("");
    }
  }

  SceneZone zone(const Json& json, const std::string& place) const {
    std::vector<std::string> known{"name", "shape", "tags"};
    for (const ZoneProperty& p : zone_properties()) known.push_back(p.name);
    file_.only(json, place, known);
    SceneZone z;
    z.name = file_.name_of(json, place);
    if (!json.contains("shape")) file_.fail(place, "has no shape");
    z.shape = read_shape(file_, file_.object(json["shape"], place + "/shape"), place + "/shape", models_);
    if (json.contains("tags")) z.tags = file_.name_list(json, place, "tags");
    take(zone_properties(), json, place, z);
    return z;
  }

  ScenePath path(const Json& json, const std::string& place) const {
    file_.only(json, place, {"name", "points", "smooth", "closed"});
    ScenePath p;
    p.name = file_.name_of(json, place);
    p.points = file_.points(json, place);
    p.smooth = file_.flag(json, place, "smooth", p.smooth);
    p.closed = file_.flag(json, place, "closed", p.closed);
    return p;
  }

  Cue cue(const Json& json, const std::string& place) const {
    file_.only(json, place, {"name", "at", "every", "beats_per_minute", "times"});
    Cue c;
    c.name = file_.name_of(json, place);
    c.at = file_.number(json, place, "at", 0, 0, 1e6);
    c.every = file_.number(json, place, "every", 0, 0, 1e6);
    if (json.contains("beats_per_minute")) {
      if (json.contains("every"))
        file_.fail(place + "/beats_per_minute", "and every are both given", "keep one of them");
      c.every = 60 / file_.number(json, place, "beats_per_minute", 60, 0, 6000, true);
    }
    if (json.contains("times")) c.times = static_cast<int>(file_.whole(json["times"], place + "/times", 1e9));
    return c;
  }

  Action action(const Json& json, const std::string& place) const {
    file_.only(json, place, {"name", "keys", "against"});
    Action a;
    a.name = file_.name_of(json, place);
    for (const char* list : {"keys", "against"}) {
      if (!json.contains(list)) continue;
      (list[0] == 'k' ? a.keys : a.against) = file_.name_list(json, place, list);
    }
    return a;
  }

  void checks(const Json& json, std::vector<Wish>& list) const {
    if (!json.is_array()) file_.fail("/checks", "wants a list [ … ], got " + got(json));
    for (std::size_t i = 0; i < json.size(); ++i) list.push_back(check(json[i], "/checks/" + std::to_string(i)));
  }

  Wish check(const Json& json, const std::string& place) const {
    file_.only(json, place,
               {"measure", "equals", "within", "at_most", "at_least", "never", "seconds", "seeds", "rates", "inputs"});
    Wish wish;
    wish.measure = file_.string(json, place, "measure", "");
    int said = 0;
    const auto bound = [&](const char* key, Wish::Is is) {
      if (!json.contains(key)) return;
      ++said;
      wish.is = is;
      if (is != Wish::Is::never) wish.value = file_.number(json, place, key, 0, -1e300, 1e300);
    };
    bound("equals", Wish::Is::equal);
    bound("at_most", Wish::Is::at_most);
    bound("at_least", Wish::Is::at_least);
    bound("never", Wish::Is::never);
    if (said != 1) file_.fail(place, "wants one of equals, at_most, at_least, never");
    if (json.contains("within")) wish.within = file_.number(json, place, "within", 0, 0, 1e300);
    wish.seconds = file_.number(json, place, "seconds", wish.seconds, 0, 1e5);
    wish.seeds = static_cast<int>(file_.number(json, place, "seeds", 1, 1, most_seeds_of_a_check));
    if (json.contains("rates"))
      for (const Json& rate : json["rates"]) {
        if (!rate.is_number()) file_.fail(place + "/rates", "wants numbers, got " + got(rate));
        wish.rates.push_back(rate.get<double>());
      }
    wish.inputs = file_.string(json, place, "inputs", "");
    return wish;
  }

  SweepAway sweep_away(const Json& json) const {
    file_.only(json, "/sweep_away", {"below", "then"});
    SweepAway s;
    s.below = file_.number(json, "/sweep_away", "below", s.below, -1e6, 1e6);
    const std::string then = file_.string(json, "/sweep_away", "then", "back");
    if (then != "back" && then != "remove")
      file_.fail("/sweep_away/then", "wants one of back, remove, got \"" + then + "\"");
    s.bring_back = then == "back";
    return s;
  }

  void view(const Json& json, const std::string& place, View& v) const {
    file_.only(json, place, {"target", "distance", "turn", "tilt", "straight"});
    v.target = file_.vector(json, place, "target", v.target);
    v.distance = file_.number(json, place, "distance", v.distance, 0, 1e7, true);
    v.turn = file_.number(json, place, "turn", v.turn, -1e300, 1e300);
    v.tilt = file_.number(json, place, "tilt", v.tilt, -90, 90);
    v.straight = file_.flag(json, place, "straight", v.straight);
  }

  // An object that has nothing but these properties.
  template <class Owner>
  void take_only(std::span<const PropertyOf<Owner>> properties, const Json& json, const std::string& place,
                 Owner& owner) const {
    std::vector<std::string> known;
    for (const PropertyOf<Owner>& p : properties) known.push_back(p.name);
    file_.only(json, place, known);
    take(properties, json, place, owner);
  }

  void bodies(const Json& json, const std::string& place, std::vector<Body>& all) {
    if (!json.is_array()) file_.fail(place, "wants a list [ … ], got " + got(json));
    for (std::size_t i = 0; i < json.size(); ++i) all.push_back(body(json[i], place + "/" + std::to_string(i)));
  }

  Stamp stamp(const Json& json, const std::string& place) {
    file_.only(json, place, {"name", "bodies", "joints"});
    Stamp made;
    made.name = file_.name_of(json, place);
    if (!json.contains("bodies")) file_.fail(place, "has no \"bodies\" list");
    bodies(json["bodies"], place + "/bodies", made.bodies);
    if (json.contains("joints")) joints(json["joints"], place + "/joints", made.joints);
    return made;
  }

  NamedView named_view(const Json& json, const std::string& place) const {
    file_.only(json, place, {"name", "view"});
    NamedView made;
    made.name = file_.string(json, place, "name", "");
    if (made.name.empty()) file_.fail(place, "has no name");
    if (!json.contains("view")) file_.fail(place, "has no view");
    view(json["view"], place + "/view", made.view);
    return made;
  }

  StampedFrom stamped(const Json& json, const std::string& place) const {
    file_.only(json, place, {"stamp", "copy", "part"});
    return {file_.string(json, place, "stamp", ""), file_.string(json, place, "copy", ""),
            file_.string(json, place, "part", "")};
  }

  Looks looks(const Json& json, const std::string& place) const {
    file_.only(json, place, {"model", "position", "orientation", "scale"});
    Looks made;
    made.model = file_.string(json, place, "model", "");
    made.pose.position = file_.vector(json, place, "position", Vec3::Zero());
    if (json.contains("orientation")) {
      made.pose.orientation = file_.rotation(json["orientation"], place + "/orientation");
      if (std::abs(made.pose.orientation.norm() - 1) > 1e-6)
        file_.fail(place + "/orientation", "wants a unit quaternion");
    }
    made.scale = file_.number(json, place, "scale", 1, 0, 1e6, true);
    return made;
  }

  Value value(const PropertyInfo& p, const Json& json, const std::string& here) const {
    if (p.kind == PropertyKind::vector || p.kind == PropertyKind::optional_vector) {
      const auto n = file_.numbers(json, here, 3);
      return Vec3(n[0], n[1], n[2]);
    }
    if (p.kind == PropertyKind::rotation) return file_.rotation(json, here);
    if (json.is_number()) return json.get<double>();
    if (json.is_boolean()) return json.get<bool>();
    if (json.is_string()) return json.get<std::string>();
    return {};
  }

  Body body(const Json& json, const std::string& place) {
    file_.object(json, place);
    speak_of(json);
    std::vector<std::string> known{"name",    "shape", "density", "groups",  "meets",        "colour",    "tags",
                                   "scripts", "looks", "locked",  "stamped", "break_planes", "held_parts"};
    for (const Property& p : body_properties()) known.push_back(p.name);
    file_.only(json, place, known);
    if (!json.contains("shape")) file_.fail(place, "has no shape");

    Body b;
    b.name = file_.name_of(json, place);
    b.shape = read_shape(file_, file_.object(json["shape"], place + "/shape"), place + "/shape", models_);
    if (const auto fault = shape_fault(b.shape)) file_.fail(place + "/shape", *fault);
    if (json.contains("density")) {
      if (json.contains("mass")) file_.fail(place + "/density", "and mass are both given", "keep one of them");
      b.mass = shape_volume(b.shape) * file_.number(json, place, "density", 1000, 0, 1e9, true);
    }
    take(body_properties(), json, place, b);
    b.colour = file_.string(json, place, "colour", b.colour);
    if (json.contains("tags")) b.tags = file_.name_list(json, place, "tags");
    b.groups = groups_of(json, place, "groups");
    b.meets = groups_of(json, place, "meets");
    if (json.contains("scripts")) scripts(json["scripts"], place + "/scripts", b);
    if (json.contains("looks")) b.looks = looks(json["looks"], place + "/looks");
    if (json.contains("locked")) {
      if (!json["locked"].is_boolean())
        file_.fail(place + "/locked", "wants true or false, got " + got(json["locked"]));
      b.locked = json["locked"].get<bool>();
    }
    if (json.contains("stamped")) b.stamped = stamped(json["stamped"], place + "/stamped");
    breaking(json, place, b);
    file_.speak_of("");
    return b;
  }

  void breaking(const Json& json, const std::string& place, Body& b) const {
    if (json.contains("break_planes")) {
      const Json& list = json["break_planes"];
      if (!list.is_array()) file_.fail(place + "/break_planes", "wants a list [ … ], got " + got(list));
      for (std::size_t i = 0; i < list.size(); ++i) {
        const std::string here = place + "/break_planes/" + std::to_string(i);
        file_.only(list[i], here, {"normal", "offset"});
        const Vec3 normal = file_.vector(list[i], here, "normal", Vec3::Zero());
        if (std::abs(normal.norm() - 1) > 1e-6) file_.fail(here + "/normal", "wants a direction of length 1");
        b.breaking.planes.push_back({normal, file_.number(list[i], here, "offset", 0, -1e6, 1e6)});
      }
    }
    if (json.contains("held_parts")) {
      if (!json["held_parts"].is_array()) file_.fail(place + "/held_parts", "wants a list of numbers of pieces");
      for (const Json& part : json["held_parts"])
        b.breaking.held_parts.push_back(file_.whole(part, place + "/held_parts", 5000));
    }
  }

  // 3.5, true, "soft", or a thing by its name: {"body": "gate"}.
  DialValue dial(const Json& json, const std::string& place) const {
    if (json.is_number()) return json.get<double>();
    if (json.is_boolean()) return json.get<bool>();
    if (json.is_string()) return json.get<std::string>();
    if (json.is_object() && json.size() == 1 && json.begin()->is_string())
      for (int kind = 0; kind < std::ssize(named_words); ++kind)
        if (json.begin().key() == named_words[kind])
          return NamedThing{static_cast<NamedKind>(kind), json.begin()->get<std::string>()};
    file_.fail(place, "wants a number, true or false, a word, or a thing by its name as {\"body\": \"gate\"}, got " +
                          got(json));
  }

  void scripts(const Json& json, const std::string& place, Body& b) const {
    if (!json.is_array()) file_.fail(place, "wants a list [ … ], got " + got(json));
    for (std::size_t i = 0; i < json.size(); ++i) {
      const std::string here = place + "/" + std::to_string(i);
      file_.only(json[i], here, {"file", "dials"});
      ScriptUse use;
      use.file = file_.string(json[i], here, "file", "");
      if (json[i].contains("dials"))
        for (const auto& [name, setting] : file_.object(json[i]["dials"], here + "/dials").items()) {
          use.dials[name] = dial(setting, here + "/dials/" + name);
        }
      b.scripts.push_back(use);
    }
  }

  JsonFile file_;
  const Models& models_;
};

}  // namespace

Scene read_scene(const std::string& text, const std::string& file, const Models& models) {
  return Reader(text, file, models).scene();
}

}  // namespace bronvel
