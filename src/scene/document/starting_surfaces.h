// The surfaces that a new scene begins with.
#pragma once

#include <map>
#include <string>

#include "scene/document/document.h"

namespace bronvel {

/// Oak, cork, wet rope, granite, iron, ice, rubber, slate, wool. Rounded, of the order that the works named by
/// `source_of` give; to be tuned, not to be quoted.
const std::map<std::string, SceneSurface>& starting_surfaces();

/// The work that a starting surface's values go back to, and which of them are estimates; "" for any other.
std::string source_of(const std::string& surface);

}  // namespace bronvel
