// What is chosen in the scene: one body, several, or one other thing.
#pragma once

#include <string>

#include "scene/edits/edits.h"

namespace bronvel {

/// What can be chosen.
enum class ThingKind { body, joint, zone, path };

struct Choice {
  ThingKind kind = ThingKind::body;
  BodyNames bodies{};   ///< in the order in which they were chosen
  std::string other{};  ///< the joint, zone or path

  /// The last chosen body; "" for none.
  std::string body() const { return bodies.empty() ? "" : bodies.back(); }
  /// The name of the one thing that counts.
  std::string thing() const { return kind == ThingKind::body ? body() : other; }
  bool has(const std::string& body) const;
  bool operator==(const Choice&) const = default;
};

Choice choice_of(const BodyNames& bodies);
Choice choice_of(ThingKind kind, const std::string& name);
/// With the body too, or without it if it was chosen.
Choice choice_with(Choice choice, const std::string& body);
/// What is left of it in the scene.
Choice choice_left(Choice choice, const Scene& scene);

// What is chosen, in the scene; null if it is something else.
const SceneJoint* joint_of(const Choice& choice, const Scene& scene);
const SceneZone* zone_of(const Choice& choice, const Scene& scene);
const ScenePath* path_of(const Choice& choice, const Scene& scene);
std::vector<const Body*> bodies_of(const Choice& choice, const Scene& scene);  ///< in the scene's order

}  // namespace bronvel
