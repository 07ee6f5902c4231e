// Finding, reading and setting a value by its place.
#include "scene/properties/setting_place.h"

#include <algorithm>

#include "geometry/base/error.h"
#include "scene/properties/number_entry.h"

namespace bronvel {
namespace {

constexpr std::string_view dials_word = "dials.", surfaces_word = "surfaces", world_word = "world";

template <class Owner>
const PropertyOf<Owner>* called(std::span<const PropertyOf<Owner>> list, const std::string& name) {
  const auto found = std::find_if(list.begin(), list.end(), [&](const auto& each) { return each.name == name; });
  return found == list.end() ? nullptr : &*found;
}

const JointProperty* joint_property(const std::string& name) {
  const JointProperty* plain = called(joint_properties(), name);
  return plain ? plain : called(axis_properties(), name);
}

const ZoneProperty* zone_property(const std::string& name) {
  const ZoneProperty* plain = called(zone_properties(), name);
  return plain ? plain : called(zone_form_properties(), name);
}

template <class List>
auto thing_called(List& list, const std::string& name) -> decltype(&list[0]) {
  for (auto& each : list)
    if (each.name == name) return &each;
  return nullptr;
}

// Calls `use` with the thing and its property; false where one of them is not there.
template <class AnyScene, class Use>
bool with_property(AnyScene& scene, const SettingPlace& place, const Use& use) {
  const auto both = [&](auto* thing, const auto* property) {
    if (!thing || !property) return false;
    use(*thing, *property);
    return true;
  };
  switch (place.of) {
    case SettingOf::body:
      return both(scene.find(place.owner), find_property(place.name));
    case SettingOf::joint:
      return both(thing_called(scene.joints, place.owner), joint_property(place.name));
    case SettingOf::zone:
      return both(thing_called(scene.zones, place.owner), zone_property(place.name));
    case SettingOf::surface: {
      const auto found = scene.surfaces.find(place.owner);
      return both(found == scene.surfaces.end() ? nullptr : &found->second, called(surface_properties(), place.name));
    }
    case SettingOf::world:
      return both(&scene.world, called(world_properties(), place.name)) ||
             both(&scene, called(scene_properties(), place.name));
    case SettingOf::dial:
      break;
  }
  return false;
}

std::string known_properties(SettingOf of) {
  std::string known;
  const auto add = [&](const auto& list) {
    for (const auto& property : list) known += (known.empty() ? "" : ", ") + property.name;
  };
  if (of == SettingOf::body) add(body_properties());
  if (of == SettingOf::joint) add(joint_properties());
  if (of == SettingOf::joint) add(axis_properties());
  if (of == SettingOf::zone) add(zone_properties());
  if (of == SettingOf::zone) add(zone_form_properties());
  if (of == SettingOf::surface) add(surface_properties());
  if (of == SettingOf::world) add(world_properties());
  if (of == SettingOf::world) add(scene_properties());
  return known + (of == SettingOf::body ? ", dials.NAME" : "");
}

constexpr const char* kind_words[] = {"body", "dial", "joint", "zone", "surface", "world"};

// The place without its property looked at.
SettingPlace place_named(const Scene& scene, const std::string& owner, const std::string& name) {
  if (scene.find(owner)) {
    if (!name.starts_with(dials_word)) return body_place(owner, name);
    const std::string dial = name.substr(dials_word.size());
    const auto slash = dial.rfind('/');
    return slash == std::string::npos ? dial_place(owner, "", dial)
                                      : dial_place(owner, dial.substr(0, slash), dial.substr(slash + 1));
  }
  if (thing_called(scene.joints, owner)) return {SettingOf::joint, owner, name};
  if (thing_called(scene.zones, owner)) return {SettingOf::zone, owner, name};
  if (owner == world_word) return {SettingOf::world, "", name};
  if (owner != surfaces_word)
    throw Error(owner, "there is no body, joint or zone of that name",
                "world.PROPERTY and surfaces.NAME.PROPERTY can be set too");
  const auto dot = name.find('.');
  const std::string surface = name.substr(0, dot);
  if (dot == std::string::npos || !scene.surfaces.contains(surface))
    throw Error(owner + "." + name, "there is no surface called \"" + surface + "\"",
                "surfaces.NAME.PROPERTY=VALUE, such as surfaces.cork.restitution=0.8");
  return {SettingOf::surface, surface, name.substr(dot + 1)};
}

}  // namespace

SettingPlace body_place(const std::string& body, const std::string& property) {
  return {SettingOf::body, body, property};
}

SettingPlace dial_place(const std::string& body, const std::string& script, const std::string& dial) {
  return {SettingOf::dial, body, dial, script};
}

std::string place_text(const SettingPlace& place) {
  switch (place.of) {
    case SettingOf::dial:
      return place.owner + "." + std::string(dials_word) + (place.script.empty() ? "" : place.script + "/") +
             place.name;
    case SettingOf::surface:
      return std::string(surfaces_word) + "." + place.owner + "." + place.name;
    case SettingOf::world:
      return std::string(world_word) + "." + place.name;
    default:
      return place.owner + "." + place.name;
  }
}

SettingText setting_named(const Scene& scene, const std::string& assignment) {
  const auto equals = assignment.find('='), dot = assignment.find('.');
  if (equals == std::string::npos || dot == std::string::npos || dot > equals)
    throw Error(assignment, "wants THING.PROPERTY=VALUE, such as fender.mass=4");
  const std::string owner = assignment.substr(0, dot), name = assignment.substr(dot + 1, equals - dot - 1);
  SettingText setting{place_named(scene, owner, name), assignment.substr(equals + 1)};
  if (setting.place.of != SettingOf::dial && !info_at(setting.place))
    throw Error(place_text(setting.place),
                "is not a property of a " + std::string(kind_words[static_cast<std::size_t>(setting.place.of)]),
                "known: " + known_properties(setting.place.of));
  return setting;
}

const PropertyInfo* info_at(const SettingPlace& place) {
  switch (place.of) {
    case SettingOf::body:
      return find_property(place.name);
    case SettingOf::joint:
      return joint_property(place.name);
    case SettingOf::zone:
      return zone_property(place.name);
    case SettingOf::surface:
      return called(surface_properties(), place.name);
    case SettingOf::world:
      if (const auto* world = called(world_properties(), place.name)) return world;
      return called(scene_properties(), place.name);
    case SettingOf::dial:
      break;
  }
  return nullptr;
}

bool in_scene(const Scene& scene, const SettingPlace& place) {
  if (place.of != SettingOf::dial) return with_property(scene, place, [](const auto&, const auto&) {});
  return scene.find(place.owner) != nullptr;
}

DialValue dial_value_of(const Value& value, const std::string& where) {
  if (const auto* number = std::get_if<double>(&value)) return *number;
  if (const auto* on = std::get_if<bool>(&value)) return *on;
  if (const auto* word = std::get_if<std::string>(&value)) return *word;
  if (const auto* named = std::get_if<NamedThing>(&value)) return *named;
  throw Error(where, "is a dial, which this can't be a value of");
}

Value value_at(const Scene& scene, const SettingPlace& place) {
  Value value;
  if (place.of != SettingOf::dial) {
    with_property(scene, place, [&](const auto& thing, const auto& property) { value = property.get(thing); });
    return value;
  }
  const Body* body = scene.find(place.owner);
  if (!body) return value;
  for (const ScriptUse& use : body->scripts)
    if (place.script.empty() || use.file == place.script)
      if (const auto dial = use.dials.find(place.name); dial != use.dials.end()) return value_of(dial->second);
  return value;
}

void set_value_at(Scene& scene, const SettingPlace& place, const Value& value) {
  const std::string where = place_text(place);
  if (place.of == SettingOf::dial) {
    Body* body = scene.find(place.owner);
    if (!body) throw Error(place.owner, "is no longer in the scene");
    for (ScriptUse& use : body->scripts)
      if (place.script.empty() || use.file == place.script) {
        use.dials[place.name] = dial_value_of(value, where);
        return;
      }
    throw Error(place.owner, "no longer carries " + place.script);
  }
  const PropertyInfo* info = info_at(place);
  if (!info) throw Error(where, "is not a property");
  if (const std::string fault = value_fault(*info, value); !fault.empty()) throw Error(where, fault);
  const bool there =
      with_property(scene, place, [&](auto& thing, const auto& property) { property.set(thing, value); });
  if (!there) throw Error(place.owner, "is no longer in the scene");
}

bool counts_in_play(const SettingPlace& place) {
  const auto none_of = [&](std::initializer_list<const char*> names) {
    return std::none_of(names.begin(), names.end(), [&](const char* name) { return place.name == name; });
  };
  if (place.of == SettingOf::joint)  // what it ties, and where, is settled as it is tied
    return none_of({"kind", "a", "b", "anchor_a", "anchor_b", "axis"});
  if (place.of == SettingOf::zone) return place.name != "tags";  // bodies carry marks of all the tags that zones name
  if (place.of == SettingOf::world) return none_of({"tick_rate", "planar", "seed"});
  return true;
}

}  // namespace bronvel
