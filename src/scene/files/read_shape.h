// Reading shapes.
#pragma once

#include "scene/document/document.h"
#include "scene/files/json_file.h"

namespace bronvel {

/// The shape that the object `json` at `place` describes, such as {"sphere": {"radius": 0.5}}. Throws PlacedError.
/// `models` are those that a mesh may name.
Shape read_shape(const JsonFile& file, const Json& json, const std::string& place, const Models& models);

}  // namespace bronvel
