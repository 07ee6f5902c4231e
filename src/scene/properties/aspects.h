// What bodies can have in common: every property, and what is not a property (shape, colour, tags, scripts, groups).
// For giving one body's settings to others, and for telling how a stamped copy differs.
#pragma once

#include <functional>
#include <span>
#include <string>

#include "scene/document/document.h"

namespace bronvel {

struct Aspect {
  std::string name;   ///< as in scene.json
  std::string label;  ///< "drag area"
  std::string group;  ///< the question it answers
  std::function<bool(const Body&, const Body&)> same;
  std::function<void(Body& to, const Body& from)> take;
  std::function<std::string(const Body&)> text;  ///< its value, short: "4 kg"
};

/// All but name, position and orientation, which tell one body from another.
std::span<const Aspect> aspects();
const Aspect* find_aspect(const std::string& name);

/// A shape in a few words: "box 2 × 1 × 0.5 m".
std::string shape_text(const Shape& shape);

}  // namespace bronvel
