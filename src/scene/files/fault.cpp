// The rules of a scene.
#include "scene/files/fault.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>
#include <set>

#include "geometry/base/curve.h"
#include "geometry/base/error.h"
#include "scene/document/dials.h"
#include "scene/document/json_place.h"
#include "scene/document/names.h"
#include "scene/document/voice.h"
#include "scene/properties/property.h"

namespace bronvel {
namespace {

constexpr std::size_t most_groups = 31, most_zone_tags = 32, most_points = 20000, most_lanes = 64;

using Fault = std::optional<SceneFault>;

std::string numbered(const std::string& place, std::size_t at) {
  return place + "/" + std::to_string(at);
}

// Names of a list differ among themselves and from those in `taken`.
template <class Thing>
Fault names_fault(const std::vector<Thing>& things, const std::string& place, std::set<std::string>& taken,
                  const std::string& twice) {
  for (std::size_t i = 0; i < things.size(); ++i) {
    const std::string& name = things[i].name;
    if (const std::string fault = name_fault(name); !fault.empty())
      return SceneFault{numbered(place, i) + "/name", name, fault, ""};
    if (!taken.insert(name).second) return SceneFault{numbered(place, i) + "/name", name, twice, "names must differ"};
  }
  return std::nullopt;
}

template <class Owner>
Fault values_fault(std::span<const PropertyOf<Owner>> properties, const Owner& owner, const std::string& place,
                   const std::string& thing) {
  for (const PropertyOf<Owner>& p : properties) {
    const std::string fault = value_fault(p, p.get(owner));
    if (!fault.empty()) return SceneFault{place + "/" + p.name, thing, fault, ""};
  }
  return std::nullopt;
}

Fault texts_fault(const std::vector<std::string>& texts, const std::string& thing, const std::string& place) {
  for (std::size_t i = 0; i < texts.size(); ++i)
    if (const std::string fault = text_fault(texts[i]); !fault.empty())
      return SceneFault{numbered(place, i), thing, fault, ""};
  return std::nullopt;
}

Fault number_fault(double value, double low, double high, const std::string& place, const std::string& thing) {
  PropertyInfo range;
  range.low = low;
  range.high = high;
  const std::string fault = value_fault(range, value);
  if (fault.empty()) return std::nullopt;
  return SceneFault{place, thing, fault, ""};
}

Fault cues_fault(const Scene& scene) {
  for (std::size_t i = 0; i < scene.cues.size(); ++i) {
    const Cue& cue = scene.cues[i];
    const std::string place = numbered("/cues", i);
    if (Fault wrong = number_fault(cue.at, 0, 1e6, place + "/at", cue.name)) return wrong;
    if (Fault wrong = number_fault(cue.every, 0, 1e6, place + "/every", cue.name)) return wrong;
    if (Fault wrong = number_fault(cue.times, 0, 1e9, place + "/times", cue.name)) return wrong;
  }
  return std::nullopt;
}

Fault groups_fault(const std::vector<std::string>& named, const Scene& scene, const Body& body,
                   const std::string& place) {
  for (const std::string& name : named)
    if (std::find(scene.groups.begin(), scene.groups.end(), name) == scene.groups.end())
      return SceneFault{place, body.name, "names the group \"" + name + "\", which is not among the scene's groups",
                        ""};
  return std::nullopt;
}

Fault body_fault_in(const Scene& scene, const Body& b, const std::string& place) {
  const auto fault = [&](const std::string& where, const std::string& what, const std::string& remedy = "") {
    return SceneFault{place + where, b.name, what, remedy};
  };
  const bool in_stamp = place.starts_with("/stamps");
  if (const auto wrong = shape_fault(b.shape)) return fault("/shape", *wrong);
  if (Fault wrong = values_fault(body_properties(), b, place, b.name)) return wrong;
  if (!b.surface.empty() && !scene.surfaces.contains(b.surface))
    return fault("/surface", "names \"" + b.surface + "\", which is not among the scene's surfaces");
  if (b.colour.size() != 7 || b.colour[0] != '#' ||
      b.colour.find_first_not_of("0123456789abcdefABCDEF", 1) != std::string::npos)
    return fault("/colour", "wants a colour like \"#B98B52\", got \"" + b.colour + "\"");
  if (Fault wrong = texts_fault(b.tags, b.name, place + "/tags")) return wrong;
  if (Fault wrong = groups_fault(b.groups, scene, b, place + "/groups")) return wrong;
  if (Fault wrong = groups_fault(b.meets, scene, b, place + "/meets")) return wrong;
  for (std::size_t i = 0; i < b.scripts.size(); ++i) {
    const std::string& file = b.scripts[i].file;
    const std::string here = "/scripts/" + std::to_string(i);
    if (const std::string wrong = text_fault(file); !wrong.empty()) return fault(here + "/file", wrong);
    for (const auto& [dial, value] : b.scripts[i].dials) {
      if (const std::string wrong = text_fault(dial); !wrong.empty() || dial.empty())
        return fault(here + "/dials", wrong.empty() ? "has a dial without a name" : wrong);
      const auto* number = std::get_if<double>(&value);
      if (number && !std::isfinite(*number)) return fault(here + "/dials/" + dial, "wants a number");
      const auto* word = std::get_if<std::string>(&value);
      const auto* named = std::get_if<NamedThing>(&value);
      if (const std::string wrong = text_fault(word ? *word : named ? named->name : ""); !wrong.empty())
        return fault(here + "/dials/" + dial, wrong);
      // A part's name in a stamp is that of whichever copy.
      if (named && !named->name.empty() && !in_stamp && thing_meant(scene, b, *named).empty())
        return fault(here + "/dials/" + dial,
                     "names the " + named_word(named->kind) + " \"" + named->name + "\", which is not in the scene");
    }
    const auto letter = [](char c) {
      return (std::isalnum(static_cast<unsigned char>(c)) != 0 && (c & 0x80) == 0) || c == '_';
    };
    if (file.size() < 5 || !file.ends_with(".lua") || !letter(file[0]) ||
        !std::all_of(file.begin(), file.end(), [&](char c) { return letter(c) || c == '.' || c == '-'; }))
      return fault("/scripts/" + std::to_string(i) + "/file",
                   "wants the name of a .lua file in scripts/, got \"" + file + "\"");
  }
  if (b.looks && !scene.models.contains(b.looks->model))
    return fault("/looks/model", "names \"" + b.looks->model + "\", but there is no meshes/" + b.looks->model + ".obj");
  if (const std::string wrong = breaking_fault(b.shape, b.breaking); !wrong.empty())
    return fault("/breaks_into", "can't be: " + wrong);
  if (const auto wrong = body_fault(settings_of(scene, b), motion_of(b))) return fault("", *wrong);
  return std::nullopt;
}

Fault joint_fault_in(const SceneJoint& j, const std::map<std::string, Pose>& stands, const std::string& place) {
  const auto fault = [&](const std::string& where, const std::string& what) {
    return SceneFault{place + where, j.name, what, ""};
  };
  for (const auto& [end, body] : {std::pair{"/a", &j.a}, std::pair{"/b", &j.b}})
    if ((!body->empty() || end[1] == 'b') && !stands.contains(*body))
      return fault(end, "names the body \"" + *body + "\", which is not in the scene");
  if (j.a == j.b) return fault("", "ties " + j.b + " to itself");
  if (Fault wrong = values_fault(joint_properties(), j, place, j.name)) return wrong;
  if (!(j.axis.norm() > 1e-9)) return fault("/axis", "wants a direction that is not zero");
  JointSettings settings = settings_of(j, j.a.empty() ? Pose{} : stands.at(j.a), stands.at(j.b));
  settings.b.index = 0;  // Any body will do to check the rest.
  if (const auto wrong = joint_fault(settings)) return fault("", *wrong);
  return std::nullopt;
}

// Bodies and the joints between them: of the scene, or of a stamp.
Fault assembly_fault(const Scene& scene, const std::vector<Body>& bodies, const std::vector<SceneJoint>& joints,
                     const std::string& place, const std::vector<Body>* good_bodies,
                     const std::vector<SceneJoint>* good_joints) {
  std::set<std::string> names;
  if (Fault wrong = names_fault(bodies, place + "/bodies", names, "is the name of two bodies")) return wrong;
  if (Fault wrong = names_fault(joints, place + "/joints", names, "is the name of a body or another joint too"))
    return wrong;
  for (std::size_t i = 0; i < bodies.size(); ++i) {
    if (good_bodies && i < good_bodies->size() && (*good_bodies)[i] == bodies[i]) continue;
    if (Fault wrong = body_fault_in(scene, bodies[i], numbered(place + "/bodies", i))) return wrong;
  }
  if (joints.empty()) return std::nullopt;
  std::map<std::string, int> held;
  for (const SceneJoint& joint : joints)
    for (const std::string& end : {joint.a, joint.b}) ++held[end];
  for (std::size_t i = 0; i < bodies.size(); ++i)
    if (bodies[i].kind == MotionKind::dynamic && held[bodies[i].name] > most_joints_of_a_body)
      return SceneFault{numbered(place + "/bodies", i), bodies[i].name,
                        "has " + std::to_string(held[bodies[i].name]) + " joints; the most that one body may have is " +
                            std::to_string(most_joints_of_a_body),
                        "share them out, or make the body static"};
  std::map<std::string, Pose> stands;
  for (const Body& b : bodies) stands[b.name] = {b.position, b.orientation};
  for (std::size_t i = 0; i < joints.size(); ++i) {
    const bool same = good_joints && i < good_joints->size() && (*good_joints)[i] == joints[i];
    // A joint that is the same may still have lost its body.
    if (same && stands.contains(joints[i].b) && (joints[i].a.empty() || stands.contains(joints[i].a))) continue;
    if (Fault wrong = joint_fault_in(joints[i], stands, numbered(place + "/joints", i))) return wrong;
  }
  return std::nullopt;
}

Fault actions_fault(const Scene& scene) {
  for (std::size_t i = 0; i < scene.actions.size(); ++i)
    for (const auto& [list, keys] :
         {std::pair{"/keys", &scene.actions[i].keys}, std::pair{"/against", &scene.actions[i].against}})
      for (const std::string& key : *keys)
        if (std::find(key_names().begin(), key_names().end(), key) == key_names().end())
          return SceneFault{numbered("/actions", i) + list, scene.actions[i].name,
                            "names the key \"" + key + "\", which is not known",
                            "known: a to z, 0 to 9, space, enter, shift, ctrl, left, right, up, down, mouse_left, "
                            "mouse_right, mouse_middle"};
  return std::nullopt;
}

Fault checks_fault(const Scene& scene) {
  for (std::size_t i = 0; i < scene.checks.size(); ++i) {
    const Wish& wish = scene.checks[i];
    const std::string place = numbered("/checks", i);
    if (wish.measure.empty()) return SceneFault{place, "", "names no measure", "as \"apex:buoy\""};
    if (Fault wrong = texts_fault(std::vector<std::string>{wish.measure, wish.inputs}, "", place)) return wrong;
    if (wish.inputs.starts_with('/') || wish.inputs.find("..") != std::string::npos)
      return SceneFault{place + "/inputs", wish.measure, "wants a file in the scene's folder", ""};
    if (!std::isfinite(wish.value)) return SceneFault{place, wish.measure, "wants a number to be met", ""};
    if (wish.within && !(*wish.within >= 0)) return SceneFault{place + "/within", wish.measure, "wants 0 or more", ""};
    if (!(wish.seconds >= 0 && wish.seconds <= 1e5))
      return SceneFault{place + "/seconds", wish.measure, "wants 0 to 100,000 s", ""};
    if (wish.seeds < 1 || wish.seeds > most_seeds_of_a_check)
      return SceneFault{place + "/seeds", wish.measure, "wants 1 to 1,000", ""};
    for (const double rate : wish.rates)
      if (!(rate >= 1 && rate <= 1e4)) return SceneFault{place + "/rates", wish.measure, "wants 1 to 10,000 Hz", ""};
  }
  return std::nullopt;
}

Fault zones_fault(const Scene& scene, const Scene* good) {
  for (std::size_t i = 0; i < scene.zones.size(); ++i) {
    const SceneZone& z = scene.zones[i];
    if (good && i < good->zones.size() && good->zones[i] == z) continue;
    const std::string place = numbered("/zones", i);
    if (Fault wrong = values_fault(zone_properties(), z, place, z.name)) return wrong;
    if (Fault wrong = texts_fault(z.tags, z.name, place + "/tags")) return wrong;
    if (const auto wrong = zone_fault(settings_of(Scene{}, z))) return SceneFault{place, z.name, *wrong, ""};
  }
  if (zone_tags(scene).size() > most_zone_tags)
    return SceneFault{"/zones", "", "sense by more than 32 tags in all", ""};
  return std::nullopt;
}

Fault paths_fault(const Scene& scene) {
  for (std::size_t i = 0; i < scene.paths.size(); ++i) {
    const ScenePath& p = scene.paths[i];
    const std::string place = numbered("/paths", i) + "/points";
    if (p.points.size() > most_points) return SceneFault{place, p.name, "has more than 20,000 points", ""};
    try {
      static_cast<void>(Curve(p.points, p.smooth, p.closed));
    } catch (const Error& e) {
      return SceneFault{place, p.name, e.what(), ""};
    }
  }
  return std::nullopt;
}

}  // namespace

std::optional<SceneFault> scene_fault(const Scene& scene, const Scene* known_good) {
  // What bodies are checked against may have changed too.
  const Scene* good = known_good && known_good->surfaces == scene.surfaces && known_good->groups == scene.groups &&
                              known_good->models == scene.models
                          ? known_good
                          : nullptr;
  if (Fault wrong = values_fault(world_properties(), scene.world, "/world", "")) return wrong;
  if (Fault wrong = texts_fault(scene.groups, "", "/groups")) return wrong;
  if (Fault wrong = texts_fault(scene.lanes, "", "/lanes")) return wrong;
  if (Fault wrong = texts_fault(scene.tasks, "", "/tasks")) return wrong;
  for (const auto& [name, surface] : scene.surfaces) {
    if (Fault wrong = values_fault(surface_properties(), surface, "/surfaces/" + name, name)) return wrong;
    if (!surface.voice.empty() && !is_voice(surface.voice))
      return SceneFault{"/surfaces/" + name + "/voice", name,
                        "names the voice \"" + surface.voice + "\", which is not known", "known: " + voice_list()};
  }
  if (scene.lanes.size() > most_lanes) return SceneFault{"/lanes", "", "has more than 64 lanes", ""};
  if (scene.groups.size() > most_groups) return SceneFault{"/groups", "", "names more than 31 groups", ""};
  if (Fault wrong = assembly_fault(scene, scene.bodies, scene.joints, "", good ? &good->bodies : nullptr,
                                   good ? &good->joints : nullptr))
    return wrong;
  const std::string twice = "is given twice";
  std::set<std::string> stamps, zones, paths, cues, actions;
  if (Fault wrong = names_fault(scene.stamps, "/stamps", stamps, twice)) return wrong;
  for (std::size_t i = 0; i < scene.stamps.size(); ++i) {
    const Stamp& stamp = scene.stamps[i];
    if (good && i < good->stamps.size() && good->stamps[i] == stamp) continue;
    if (Fault wrong = assembly_fault(scene, stamp.bodies, stamp.joints, numbered("/stamps", i), nullptr, nullptr))
      return wrong;
  }
  if (Fault wrong = names_fault(scene.zones, "/zones", zones, twice)) return wrong;
  if (Fault wrong = zones_fault(scene, good)) return wrong;
  if (Fault wrong = names_fault(scene.paths, "/paths", paths, twice)) return wrong;
  if (Fault wrong = paths_fault(scene)) return wrong;
  if (Fault wrong = names_fault(scene.cues, "/cues", cues, twice)) return wrong;
  if (Fault wrong = cues_fault(scene)) return wrong;
  if (Fault wrong = names_fault(scene.actions, "/actions", actions, twice)) return wrong;
  if (Fault wrong = actions_fault(scene)) return wrong;
  return checks_fault(scene);
}

void check_scene(const Scene& scene, const Scene* known_good) {
  const auto fault = scene_fault(scene, known_good);
  if (!fault) return;
  const std::string place = readable_place(fault->place);
  throw Error(fault->thing.empty() ? place : shown(fault->thing) + " (" + place + ")", fault->what, fault->remedy);
}

}  // namespace bronvel
