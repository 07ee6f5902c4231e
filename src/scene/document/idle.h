// What stands in a scene and does nothing, most likely not as it was meant.
#pragma once

#include <string>
#include <vector>

#include "scene/document/document.h"

namespace bronvel {

struct IdleThing {
  std::string thing;  ///< the body or joint, by name
  std::string what;   ///< "is a distance joint without low, high or stiffness: it holds nothing"
};

/// In the scene's order, those of a kind together. A scene with such things is good all the same. Pieces of what
/// breaks are made if they are not yet: throws Error where they can't be.
std::vector<IdleThing> idle_things(const Scene& scene);

}  // namespace bronvel
