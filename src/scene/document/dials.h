// The things of a scene that dials name: which there are, and keeping to them when they are renamed or go.
#pragma once

#include <string>
#include <vector>

#include "scene/document/document.h"

namespace bronvel {

/// All of that kind, in the scene's order; tags in the order of their letters.
std::vector<std::string> things_named(const Scene& scene, NamedKind kind);

/// The name in the scene of what the body's dial means: in a placed stamp, the part of the same copy comes before a
/// thing of the scene. "" where there is no such thing, or none is named.
std::string thing_meant(const Scene& scene, const Body& body, const NamedThing& named);

/// Dials that named it name it anew, in stamps too.
void rename_in_dials(Scene& scene, NamedKind kind, const std::string& from, const std::string& to);

/// Dials that name what `before` had and `scene` has no longer name none. Gives "gate's opener" for each.
std::vector<std::string> clear_lost_names(const Scene& before, Scene& scene);

}  // namespace bronvel
