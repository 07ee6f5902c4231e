// Choosing, as plain functions.
#include "app/session/choice.h"

#include <algorithm>
#include <unordered_set>

namespace bronvel {
namespace {

template <class Thing>
const Thing* of_name(const std::vector<Thing>& things, const std::string& name) {
  for (const Thing& each : things)
    if (each.name == name) return &each;
  return nullptr;
}

}  // namespace

bool Choice::has(const std::string& body) const {
  return std::find(bodies.begin(), bodies.end(), body) != bodies.end();
}

Choice choice_of(const BodyNames& bodies) {
  Choice made;
  made.bodies = bodies;
  return made;
}

Choice choice_of(ThingKind kind, const std::string& name) {
  if (kind == ThingKind::body) return choice_of(name.empty() ? BodyNames{} : BodyNames{name});
  Choice made;
  made.kind = kind;
  made.other = name;
  return made;
}

Choice choice_with(Choice choice, const std::string& body) {
  if (choice.has(body))
    std::erase(choice.bodies, body);
  else
    choice.bodies.push_back(body);
  return choice_of(choice.bodies);
}

Choice choice_left(Choice choice, const Scene& scene) {
  if (!choice.bodies.empty()) {
    std::unordered_set<std::string> there;
    for (const Body& body : scene.bodies) there.insert(body.name);
    std::erase_if(choice.bodies, [&](const std::string& name) { return !there.contains(name); });
  }
  const bool gone =
      choice.kind != ThingKind::body && !joint_of(choice, scene) && !zone_of(choice, scene) && !path_of(choice, scene);
  return gone ? choice_of(choice.bodies) : choice;
}

const SceneJoint* joint_of(const Choice& choice, const Scene& scene) {
  return choice.kind == ThingKind::joint ? of_name(scene.joints, choice.other) : nullptr;
}
const SceneZone* zone_of(const Choice& choice, const Scene& scene) {
  return choice.kind == ThingKind::zone ? of_name(scene.zones, choice.other) : nullptr;
}
const ScenePath* path_of(const Choice& choice, const Scene& scene) {
  return choice.kind == ThingKind::path ? of_name(scene.paths, choice.other) : nullptr;
}

std::vector<const Body*> bodies_of(const Choice& choice, const Scene& scene) {
  std::vector<const Body*> found;
  if (choice.bodies.size() == 1) {
    if (const Body* body = scene.find(choice.bodies.front())) found.push_back(body);
    return found;
  }
  const std::unordered_set<std::string> wanted(choice.bodies.begin(), choice.bodies.end());
  for (const Body& body : scene.bodies)
    if (wanted.contains(body.name)) found.push_back(&body);
  return found;
}

}  // namespace bronvel
