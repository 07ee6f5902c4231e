// Writing scenes.
#pragma once

#include <string>

#include "scene/document/document.h"

namespace bronvel {

/// The text of the scene's scene.json: keys in a fixed order, values that are as usual left out, so that diffs are
/// short. read_scene of it gives the same scene.
std::string write_scene(const Scene& scene);

}  // namespace bronvel
