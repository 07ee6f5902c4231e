// What is wrong with a scene: the one list of rules that reading, editing, setting and saving ask.
#pragma once

#include <optional>
#include <string>

#include "scene/document/document.h"

namespace bronvel {

struct SceneFault {
  std::string place;   ///< JSON pointer in scene.json: "/bodies/2/shape"
  std::string thing;   ///< the body, joint, zone … by name, "" for the scene itself
  std::string what;    ///< "names the body \"x\", which is not in the scene"
  std::string remedy;  ///< "" if there is nothing to say
};

/// The first rule that the scene breaks; none for a scene that can be saved, opened and played. Things that are the
/// same in `known_good` (of the same place in its list) are taken for good: asking after an edit costs what was edited.
std::optional<SceneFault> scene_fault(const Scene& scene, const Scene* known_good = nullptr);

/// Throws Error, saying the thing and the place, where there is a fault.
void check_scene(const Scene& scene, const Scene* known_good = nullptr);

}  // namespace bronvel
