// Reading scenes.
#pragma once

#include <string>

#include "scene/document/document.h"

namespace bronvel {

/// The scene in the text of a scene.json. Throws Error with file, line and place at the first fault; `file` is only
/// used for that. `models` are those that its bodies may name.
Scene read_scene(const std::string& text, const std::string& file = "scene.json", const Models& models = {});

}  // namespace bronvel
