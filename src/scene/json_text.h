// JSON as text: readable diffs when written, line numbers when something is wrong.
#pragma once

#include <nlohmann/json.hpp>
#include <string>

namespace bronvel {

using Json = nlohmann::ordered_json;

/// Two-space indents; arrays of plain values stay on one line; numbers as short as they read back the same.
std::string json_text(const Json& json);

/// The line (from 1) on which the value at the JSON pointer ("/bodies/2/mass") starts, or that of the nearest parent
/// that is there. The text must be good JSON.
int line_of(const std::string& text, const std::string& pointer);

/// A JSON pointer as users read it: "bodies[2].mass".
std::string readable_place(const std::string& pointer);

}  // namespace bronvel
