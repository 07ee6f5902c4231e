// Looking through a scene for what dials name.
#include "scene/document/dials.h"

#include <algorithm>
#include <set>

#include "scene/document/names.h"

namespace bronvel {
namespace {

template <class Use>
void each_named(Scene& scene, const Use& use) {
  const auto of = [&](Body& body) {
    for (ScriptUse& script : body.scripts)
      for (auto& [dial, value] : script.dials)
        if (auto* named = std::get_if<NamedThing>(&value)) use(body, dial, *named);
  };
  for (Body& body : scene.bodies)
    if (!body.scripts.empty()) of(body);
  for (Stamp& stamp : scene.stamps)
    for (Body& body : stamp.bodies) of(body);
}

}  // namespace

std::vector<std::string> things_named(const Scene& scene, NamedKind kind) {
  switch (kind) {
    case NamedKind::tag: {
      std::set<std::string> tags;
      for (const Body& body : scene.bodies) tags.insert(body.tags.begin(), body.tags.end());
      for (const Stamp& stamp : scene.stamps)
        for (const Body& body : stamp.bodies) tags.insert(body.tags.begin(), body.tags.end());
      return {tags.begin(), tags.end()};
    }
    case NamedKind::body:
      return names_of(scene.bodies);
    case NamedKind::joint:
      return names_of(scene.joints);
    case NamedKind::zone:
      return names_of(scene.zones);
    case NamedKind::path:
      return names_of(scene.paths);
    case NamedKind::surface: {
      std::vector<std::string> names;
      for (const auto& [name, surface] : scene.surfaces) names.push_back(name);
      return names;
    }
    case NamedKind::action:
      return names_of(scene.actions);
    case NamedKind::cue:
      return names_of(scene.cues);
  }
  return {};
}

std::string thing_meant(const Scene& scene, const Body& body, const NamedThing& named) {
  if (named.name.empty() || named.kind == NamedKind::tag) return named.name;
  const auto part_of = [&](const auto& list) -> std::string {
    for (const auto& each : list)
      if (each.stamped.copy == body.stamped.copy && each.stamped.part == named.name) return each.name;
    return "";
  };
  if (!body.stamped.copy.empty()) {
    std::string part;
    if (named.kind == NamedKind::body) part = part_of(scene.bodies);
    if (named.kind == NamedKind::joint) part = part_of(scene.joints);
    if (!part.empty()) return part;
  }
  if (named.kind == NamedKind::body) return scene.find(named.name) ? named.name : "";
  const std::vector<std::string> all = things_named(scene, named.kind);
  return std::find(all.begin(), all.end(), named.name) != all.end() ? named.name : "";
}

void rename_in_dials(Scene& scene, NamedKind kind, const std::string& from, const std::string& to) {
  each_named(scene, [&](Body&, const std::string&, NamedThing& named) {
    if (named.kind == kind && named.name == from) named.name = to;
  });
}

std::vector<std::string> clear_lost_names(const Scene& before, Scene& scene) {
  std::vector<std::string> cleared;
  each_named(scene, [&](Body& body, const std::string& dial, NamedThing& named) {
    if (named.name.empty() || named.kind == NamedKind::tag) return;
    if (!thing_meant(scene, body, named).empty() || thing_meant(before, body, named).empty()) return;
    named.name.clear();
    cleared.push_back(body.name + "'s " + dial);
  });
  return cleared;
}

}  // namespace bronvel
