// Putting settings into a scene.
#include "script/calls/setting.h"

#include <algorithm>

#include "geometry/base/error.h"
#include "scene/files/fault.h"
#include "scene/properties/property.h"
#include "script/calls/reading.h"

namespace bronvel {
namespace {

struct Assignment {
  std::string owner, name, text;
  std::string where() const { return owner + "." + name; }
};

Assignment assignment_of(const std::string& text) {
  const auto equals = text.find('='), dot = text.find('.');
  if (equals == std::string::npos || dot == std::string::npos || dot > equals)
    throw Error(text, "wants THING.PROPERTY=VALUE, such as fender.mass=4");
  return {text.substr(0, dot), text.substr(dot + 1, equals - dot - 1), text.substr(equals + 1)};
}

template <class Owner>
void put(Owner& owner, std::span<const PropertyOf<Owner>> list, const Assignment& what, const std::string& kind,
         const std::string& more = "") {
  std::string known;
  for (const PropertyOf<Owner>& property : list) {
    if (property.name == what.name) {
      property.set(owner, value_from_text(property, what.text, what.where()));
      return;
    }
    known += (known.empty() ? "" : ", ") + property.name;
  }
  throw Error(what.where(), "is not a property of a " + kind, "known: " + known + more);
}

void put_dial(SceneFolder& folder, Body& body, const Assignment& what) {
  std::vector<Dial> dials;
  for (const ScriptUse& use : body.scripts) {
    const ScriptReading reading = read_script(use.file, folder.scripts);
    if (reading.fault && reading.dials.empty())
      throw Error(what.where(), "is a dial of a script that does not load: " + reading.fault->placed());
    dials.insert(dials.end(), reading.dials.begin(), reading.dials.end());
  }
  find_dial(dials, dial_named(what.name), what.where());
  PropertyInfo number;
  number.unit = dials[0].unit;
  const double value = std::get<double>(value_from_text(number, what.text, what.where()));
  for (ScriptUse& use : body.scripts)
    if (use.file == dials[0].script) use.dials[dials[0].name] = value;
}

}  // namespace

DialName dial_named(const std::string& name) {
  constexpr std::size_t prefix = 6;  // "dials."
  const auto slash = name.rfind('/');
  if (slash == std::string::npos) return {"", name.substr(prefix)};
  return {name.substr(prefix, slash - prefix), name.substr(slash + 1)};
}

void find_dial(std::vector<Dial>& dials, const DialName& named, const std::string& where) {
  std::erase_if(dials, [&](const Dial& dial) {
    return dial.name != named.dial || (!named.script.empty() && dial.script != named.script);
  });
  if (dials.empty()) throw Error(where, "there is no such dial");
  if (dials.size() > 1)
    throw Error(where, "several of its scripts have a dial of that name",
                "say whose: " + where.substr(0, where.find('.')) + ".dials." + dials[0].script + "/" + named.dial);
}

void put_setting(SceneFolder& folder, const std::string& assignment) {
  Assignment what = assignment_of(assignment);
  SceneFolder changed = folder;
  Scene& scene = changed.scene;
  const auto called = [&](auto& list) {
    return std::find_if(list.begin(), list.end(), [&](const auto& each) { return each.name == what.owner; });
  };
  if (Body* body = scene.find(what.owner)) {
    if (what.name.starts_with("dials."))
      put_dial(changed, *body, what);
    else
      put(*body, body_properties(), what, "body", ", dials.NAME");
  } else if (const auto joint = called(scene.joints); joint != scene.joints.end()) {
    put(*joint, joint_properties(), what, "joint");
  } else if (const auto zone = called(scene.zones); zone != scene.zones.end()) {
    put(*zone, zone_properties(), what, "zone");
  } else if (what.owner == "world") {
    put(scene.world, world_properties(), what, "world");
  } else if (what.owner == "surfaces") {
    const auto dot = what.name.find('.');
    const std::string name = what.name.substr(0, dot);
    const auto surface = scene.surfaces.find(name);
    if (dot == std::string::npos || surface == scene.surfaces.end())
      throw Error(what.where(), "there is no surface called \"" + name + "\"",
                  "surfaces.NAME.PROPERTY=VALUE, such as surfaces.cork.restitution=0.8");
    what.owner += "." + name;
    what.name = what.name.substr(dot + 1);
    put(surface->second, surface_properties(), what, "surface");
  } else {
    throw Error(what.owner, "there is no body, joint or zone of that name",
                "world.PROPERTY and surfaces.NAME.PROPERTY can be set too");
  }
  check_scene(scene, &folder.scene);
  folder = std::move(changed);
}

}  // namespace bronvel
