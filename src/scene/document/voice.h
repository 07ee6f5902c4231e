// Which voices there are for bodies that are struck, and which goes with a surface.
#pragma once

#include <string>
#include <vector>

#include "scene/document/document.h"

namespace bronvel {

/// wood, stone, iron, glass, rope, ice, rubber, cork, cloth, water.
const std::vector<std::string>& voice_names();
bool is_voice(const std::string& name);
/// The same, parted by commas.
std::string voice_list();

/// The voice of what has that surface: the one it names, else the one that goes with its name (oak: wood), else wood.
std::string voice_of(const Scene& scene, const std::string& surface);

}  // namespace bronvel
