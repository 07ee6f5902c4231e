// JSON as text: readable diffs when written.
#pragma once

#include <nlohmann/json.hpp>
#include <string>

namespace bronvel {

using Json = nlohmann::ordered_json;

/// Two-space indents; arrays of plain values stay on one line; numbers as short as they read back the same.
std::string json_text(const Json& json);

}  // namespace bronvel
