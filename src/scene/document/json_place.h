// Places in JSON text: lines, and pointers as users read them.
#pragma once

#include <optional>
#include <string>

namespace bronvel {

struct JsonTextFault {
  std::size_t byte = 0;
  std::string what, remedy;
};

/// What a JSON reader would stumble over or pass by without a word: bytes that are not UTF-8, nesting deeper than 100,
/// a key given twice in one object. Looks at nothing else: text without such faults need not be good JSON.
std::optional<JsonTextFault> json_text_fault(const std::string& text);

/// The line (from 1) on which the value at the JSON pointer ("/bodies/2/mass") starts, or that of the nearest parent
/// that is there. The text must be good JSON.
int line_of(const std::string& text, const std::string& pointer);

/// A JSON pointer as users read it: "bodies[2].mass".
std::string readable_place(const std::string& pointer);

}  // namespace bronvel
