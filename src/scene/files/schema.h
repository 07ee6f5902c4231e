// The JSON Schema of scene.json, made from the property list.
#pragma once

#include "scene/files/json_text.h"

namespace bronvel {

/// The number written as "bronvel" in every scene file; a file with a higher one comes from a newer program.
inline constexpr int scene_version = 1;

/// Draft 7. Published as docs/scene.schema.json; a test keeps the two the same.
Json scene_schema();

/// Checks the scene against the schema. Returns "" or the first fault, as "/bodies/2/mass: what is wrong".
std::string schema_fault(const Json& scene);

}  // namespace bronvel
